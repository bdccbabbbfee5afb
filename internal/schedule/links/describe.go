package links

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/sheets"
)

type describeTx interface {
	directory.LookupTx
	AddProvider(ctx context.Context, p schedule.ProviderRecord, now time.Time) (bool, error)
	AddProviderVersion(ctx context.Context, key string, version int, text string, by uuid.UUID, at time.Time) error
	CallsAt(ctx context.Context, key string, now time.Time) (int, error)
	DropProvider(ctx context.Context, key string) error
	LockProvider(ctx context.Context, key string) (schedule.ProviderRecord, error)
	Provider(ctx context.Context, key string) (schedule.ProviderRecord, error)
	ProviderText(ctx context.Context, key string, version int) (string, error)
	ProviderVersions(ctx context.Context, key string, most int) ([]schedule.ProviderVersion, error)
	Providers(ctx context.Context, most int) ([]schedule.ProviderRecord, error)
	ProvidersInUse(ctx context.Context, most int) ([]schedule.ProviderRecord, error)
	SetProvider(ctx context.Context, p schedule.ProviderRecord) error
	SignedIn(ctx context.Context) (map[string]int, error)
}

func (s *Deeds) describeStore() schedule.Store[describeTx] {
	return schedule.Narrow(s.Store, func(tx Tx) describeTx { return tx })
}

// keeps fails with ErrNotFound for who does not keep providers: they learn nothing of them.
func keeps(ctx context.Context, tx directory.LookupTx, who schedule.Actor) error {
	me, err := directory.Person(ctx, tx, who.For)
	if err == nil && (!me.KeepsProviders || me.Left) {
		err = schedule.ErrNotFound
	}
	return err
}

// kept is a provider for who keeps providers.
func (s *Deeds) kept(ctx context.Context, who schedule.Actor, key string) (record schedule.ProviderRecord, err error) {
	err = s.describeStore().Look(ctx, func(tx describeTx) error {
		if err := keeps(ctx, tx, who); err != nil {
			return err
		}
		record, err = tx.Provider(ctx, key)
		return err
	})
	return record, err
}

// Provided is a provider as who keeps providers sees it.
type Provided struct {
	schedule.ProviderRecord
	Name     string
	Words    string // what it offers, in short
	Changed  bool   // what is written differs from what is in use
	People   int    // signed in there
	Calls    int    // of meetings to come
	Versions []schedule.ProviderVersion
	Faults   []DescriptionFault
	// Needs are the secrets that the description needs; nil where it is not read.
	Needs []string
	Each  bool // by the description that is being written
}

const mostVersions = 50

// Usable are the providers that are in use.
func (s *Deeds) Usable(ctx context.Context) (out []schedule.ProviderRecord, err error) {
	err = s.describeStore().Look(ctx, func(tx describeTx) error {
		out, err = tx.ProvidersInUse(ctx, sheets.MostProviders)
		return err
	})
	return out, err
}

// ProvidersKept are all providers, for who keeps them.
func (s *Deeds) ProvidersKept(ctx context.Context, who schedule.Actor) (out []Provided, err error) {
	err = s.describeStore().Look(ctx, func(tx describeTx) error {
		if err := keeps(ctx, tx, who); err != nil {
			return err
		}
		all, err := tx.Providers(ctx, sheets.MostProviders)
		if err != nil {
			return err
		}
		signedIn, err := tx.SignedIn(ctx)
		if err != nil {
			return err
		}
		out = nil
		for _, p := range all {
			out = append(out, Provided{ProviderRecord: p, Name: nameOf(p), Words: offers(schedule.Tongue(ctx), p, signedIn[p.Key]), People: signedIn[p.Key]})
		}
		return nil
	})
	return out, err
}

// offers is what a provider offers, and who has an account there.
func offers(in tongue.Tongue, p schedule.ProviderRecord, people int) string {
	switch {
	case p.Version == 0:
		return in.Say("not in use yet")
	case !p.InUse:
		return in.Say("out of use")
	}
	out := words.Service(in, p.Service) + " · " + strings.Join(words.Plan(in, p.Service), " · ")
	if p.Service.Each {
		return out + " · " + in.Say("%s signed in", words.People(in, people))
	}
	return out + " · " + in.Say("one account for the house")
}

// nameOf is what a provider is called: by its version in use, or else as it is being written.
func nameOf(p schedule.ProviderRecord) string {
	if p.Service.Name != "" {
		return p.Service.Name
	}
	if m := nameLine.FindStringSubmatch(p.Draft); m != nil {
		return strings.Trim(strings.TrimSpace(m[1]), `"'`)
	}
	return p.Key
}

var nameLine = regexp.MustCompile(`(?m)^name:[ \t]*([^#\n]{1,40})`)

// ProviderKept is one provider with its versions, and what its description says.
func (s *Deeds) ProviderKept(ctx context.Context, who schedule.Actor, key string) (out Provided, err error) {
	err = s.describeStore().Look(ctx, func(tx describeTx) error {
		if err := keeps(ctx, tx, who); err != nil {
			return err
		}
		if out.ProviderRecord, err = tx.Provider(ctx, key); err != nil {
			return err
		}
		signedIn, err := tx.SignedIn(ctx)
		if err != nil {
			return err
		}
		out.People = signedIn[key]
		if out.Versions, err = tx.ProviderVersions(ctx, key, mostVersions); err != nil {
			return err
		}
		if out.Calls, err = tx.CallsAt(ctx, key, s.Now()); err != nil || out.Version == 0 {
			return err
		}
		text, err := tx.ProviderText(ctx, key, out.Version)
		out.Changed = text != out.Draft
		return err
	})
	if err == nil {
		out.Name = nameOf(out.ProviderRecord)
		s.read(&out)
	}
	return out, err
}

func (s *Deeds) read(out *Provided) {
	p, faults := s.Descriptions.Compile(out.Draft)
	if out.Faults = faults; len(faults) == 0 {
		out.Needs, out.Each = s.Descriptions.Secrets(p), p.Service().Each
	}
}

var keyForm = regexp.MustCompile(`[^a-z0-9]+`)

// AddProvider begins the description of a provider by its name.
func (s *Deeds) AddProvider(ctx context.Context, who schedule.Actor, name string) (key string, err error) {
	name = strings.TrimSpace(name)
	base := strings.Trim(keyForm.ReplaceAllString(directory.Fold(name), "-"), "-")
	switch {
	case name == "":
		return "", schedule.Invalid("name", say.It("provider.noName"))
	case utf8.RuneCountInString(name) > 40 || strings.ContainsAny(name, "\n\r\x00"):
		return "", schedule.Invalid("name", say.It("provider.nameLong"))
	case base == "":
		return "", schedule.Invalid("name", say.It("provider.name"))
	}
	base = base[:min(len(base), 30)]
	err = s.describeStore().InTx(ctx, func(tx describeTx) error {
		if err := keeps(ctx, tx, who); err != nil {
			return err
		}
		for n := range 100 {
			if key = base; n > 0 {
				key = fmt.Sprintf("%s-%d", base, n+1)
			}
			if key == "schema" {
				continue
			}
			added, err := tx.AddProvider(ctx, schedule.ProviderRecord{Key: key, Draft: fmt.Sprintf(beginning, name)}, s.Now())
			if err != nil || added {
				return err
			}
		}
		return schedule.Invalid("name", say.It("provider.nameMany"))
	})
	return key, err
}

// beginning is what a description begins with.
const beginning = `name: %s
about: what it offers, in a few words
sign_in:
  kind: api_key        # oauth2_code, oauth2_client, api_key, basic or none
  in: header
  field: X-Api-Key
can: [fresh, withdraw]
limits: {}             # minutes, people, calls, dates, link_days
calls:
  make:
    post: https://api.provider.example/calls
    json:
      topic: title
      starts: rfc3339(start)
      minutes: minutes
    card:
      link: url
    keep: {id: id}
  withdraw:
    delete: https://api.provider.example/calls/{id}
`

// ChangedProviderError: somebody else wrote the description meanwhile.
type ChangedProviderError struct{}

func (*ChangedProviderError) Error() string { return "the description was changed in the meantime" }

// change does something to a provider that is locked. With a version, it fails with a
// *ChangedProviderError where the description is not of that version any more.
func (s *Deeds) change(ctx context.Context, who schedule.Actor, key string, version int, do func(tx describeTx, p *schedule.ProviderRecord) error) error {
	return s.describeStore().InTx(ctx, func(tx describeTx) error {
		if err := keeps(ctx, tx, who); err != nil {
			return err
		}
		p, err := tx.LockProvider(ctx, key)
		if err != nil {
			return err
		}
		if version != 0 && p.DraftVersion != version {
			return &ChangedProviderError{}
		}
		if err := do(tx, &p); err != nil {
			return err
		}
		return tx.SetProvider(ctx, p)
	})
}

// longestDescription is what a description can be kept as, in bytes.
const longestDescription = 100_000

// WriteProvider keeps a description as it is written, right or not.
func (s *Deeds) WriteProvider(ctx context.Context, who schedule.Actor, key string, version int, text string) error {
	if len(text) > longestDescription {
		return schedule.Invalid("description", say.It("provider.long"))
	}
	return s.change(ctx, who, key, version, func(_ describeTx, p *schedule.ProviderRecord) error {
		p.Draft, p.DraftVersion = strings.ReplaceAll(text, "\x00", ""), p.DraftVersion+1
		return nil
	})
}

// UseProvider puts what is written into use as a new version. It fails with an *InvalidError
// at the first line that is at fault.
func (s *Deeds) UseProvider(ctx context.Context, who schedule.Actor, key string, version int) error {
	return s.change(ctx, who, key, version, func(tx describeTx, p *schedule.ProviderRecord) error {
		ready, faults := s.Descriptions.Compile(p.Draft)
		if len(faults) > 0 {
			return schedule.Invalid(fmt.Sprintf("description.%d", faults[0].Line), faults[0].What)
		}
		for _, name := range s.Descriptions.Secrets(ready) {
			if !slices.Contains(p.SecretNames, name) {
				return schedule.Invalid("secrets."+name, say.It("provider.secretNeeded", name))
			}
		}
		same := false
		if p.Version > 0 {
			text, err := tx.ProviderText(ctx, key, p.Version)
			if err != nil {
				return err
			}
			same = text == p.Draft
		}
		p.InUse, p.Service = true, ready.Service()
		if same {
			return nil
		}
		p.Version++
		return tx.AddProviderVersion(ctx, key, p.Version, p.Draft, who.By, s.Now())
	})
}

// StopProvider takes a provider out of use. Calls that were made there go on, move and are
// withdrawn; nobody can choose it any more. One that was never in use is forgotten.
func (s *Deeds) StopProvider(ctx context.Context, who schedule.Actor, key string) error {
	return s.describeStore().InTx(ctx, func(tx describeTx) error {
		if err := keeps(ctx, tx, who); err != nil {
			return err
		}
		p, err := tx.LockProvider(ctx, key)
		if err != nil {
			return err
		}
		if p.Version == 0 {
			return tx.DropProvider(ctx, key)
		}
		p.InUse = false
		return tx.SetProvider(ctx, p)
	})
}

// RestoreProvider writes the text of an earlier version as what is being written.
func (s *Deeds) RestoreProvider(ctx context.Context, who schedule.Actor, key string, version, number int) error {
	return s.change(ctx, who, key, version, func(tx describeTx, p *schedule.ProviderRecord) error {
		text, err := tx.ProviderText(ctx, key, number)
		p.Draft, p.DraftVersion = text, p.DraftVersion+1
		return err
	})
}

// longestSecret is in bytes.
const longestSecret = 4000

var secretName = regexp.MustCompile(`^[a-z_]{1,30}$`)

// GiveSecrets seals secrets of the house at a provider. They are never shown again; those that
// are not named stay, and an empty one is forgotten.
func (s *Deeds) GiveSecrets(ctx context.Context, who schedule.Actor, key string, given map[string]string) error {
	for name, text := range given {
		switch {
		case !secretName.MatchString(name):
			return schedule.Invalid("secrets", say.It("provider.noSecret"))
		case len(text) > longestSecret || strings.ContainsAny(text, "\r\n\x00"):
			return schedule.Invalid("secrets."+name, say.It("provider.secretLong"))
		}
	}
	return s.change(ctx, who, key, 0, func(_ describeTx, p *schedule.ProviderRecord) error {
		all, err := s.secrets(*p)
		if err != nil { // sealed with a secret of the program that is gone: they begin anew
			all = map[string]string{}
		}
		for name, text := range given {
			if all[name] = strings.TrimSpace(text); all[name] == "" {
				delete(all, name)
			}
		}
		plain, err := json.Marshal(all)
		if err != nil {
			return err
		}
		p.Secrets, p.SecretNames = s.Seal.Lock(plain), slices.Sorted(maps.Keys(all))
		return nil
	})
}

// CheckProvider reads a description without keeping it.
func (s *Deeds) CheckProvider(ctx context.Context, who schedule.Actor, text string) (Provided, error) {
	err := s.describeStore().Look(ctx, func(tx describeTx) error { return keeps(ctx, tx, who) })
	out := Provided{ProviderRecord: schedule.ProviderRecord{Draft: text}}
	if err == nil {
		s.read(&out)
	}
	return out, err
}

// TryProvider makes, changes, reads and withdraws a call for tomorrow at nine as the
// description says that is being written, in the account of who tries.
func (s *Deeds) TryProvider(ctx context.Context, who schedule.Actor, key string) (Trial, error) {
	var me schedule.Person
	record, err := s.kept(ctx, who, key)
	if err == nil {
		err = s.describeStore().Look(ctx, func(tx describeTx) error {
			me, err = directory.Person(ctx, tx, who.For)
			return err
		})
	}
	if err != nil {
		return Trial{}, err
	}
	p, faults := s.Descriptions.Compile(record.Draft)
	if len(faults) > 0 {
		return Trial{Steps: []TrialStep{{Name: "description", Outcome: "failed", Fault: &faults[0]}}}, nil
	}
	record.Service = p.Service()
	zone := me.Hours.Zone
	day := zone.LocalAt(s.now()).Day + 1
	start := when.Zoned{Local: when.Local{Day: day, Clock: 9 * 60}, Zone: zone}.Instant().Time()
	ctx, cancel := context.WithTimeout(ctx, tryWithin)
	defer cancel()
	call := Call{Topic: schedule.Tongue(ctx).Say("Try-out by %s", s.House.Name), Start: start, End: start.Add(30 * time.Minute), Zone: zone.String(), People: 2, Organiser: me.Name}
	return s.Descriptions.Try(ctx, p, s.keyring(who.For, record), call), nil
}

// tryWithin is how long a trial may take.
const tryWithin = 2 * time.Minute

// RoomsAt lists the standing rooms at a provider.
func (s *Deeds) RoomsAt(ctx context.Context, who schedule.Actor, key string) ([]Room, error) {
	p, record, err := s.provider(ctx, key)
	if err != nil {
		return nil, err
	}
	if !p.Service().Does(join.CanStand) {
		return nil, schedule.ErrNotFound
	}
	ctx, cancel := context.WithTimeout(ctx, tryWithin)
	defer cancel()
	rooms, err := p.List(ctx, s.keyring(who.For, record))
	for i := range rooms {
		rooms[i].Card.Provider, rooms[i].Card.Version = key, record.Version
	}
	return rooms, err
}
