package sheets

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
)

// LinkTx is what is needed here of a transaction.
type LinkTx interface {
	storeTx
	AddSheet(ctx context.Context, s schedule.Sheet) error
	CallUses(ctx context.Context, provider string, owner, but uuid.UUID, within when.Span) ([]when.Span, error)
	LockSheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	ProvidersInUse(ctx context.Context, most int) ([]schedule.ProviderRecord, error)
	StandingUses(ctx context.Context, id, but, reader uuid.UUID, within when.Span) ([]schedule.StandingUse, error)
}

func (s *Deeds) linkStore() schedule.Store[LinkTx] {
	return schedule.Narrow(s.Store, func(tx Tx) LinkTx { return tx })
}

// MostProviders is how many providers a house has.
const MostProviders = 2000

// LinkView is how the call of a sheet stands: for what its plan is too small, what else is in
// the same standing room, and which other ways into a call the words of the sheet hold.
type LinkView struct {
	Over     []LinkOver
	Overlaps []string
	Ways     []meeting.FieldWay
	// Changed tells that it is another call than that of the meeting that the sheet changes.
	Changed bool
}

// LinkOver is something for which the plan is too small, with what would mend it.
type LinkOver struct {
	Words string
	Mends []LinkMend
}

// LinkMend is one of the things that mend it: another provider, another end of the meeting, or
// another end of the series.
type LinkMend struct {
	Words    string
	Provider string   // its key
	End      string   // of the meeting, in the zone of the sheet
	Until    when.Day // of the series, 0 for none
	Count    int      // of its dates
	Parts    int      // that it is split into
}

// linkView is how the call of a sheet stands; m is what the sheet comes to, as far as it does.
func (s *Deeds) linkView(ctx context.Context, tx LinkTx, sheet schedule.Sheet, of *schedule.Record, m meeting.Meeting, reader schedule.Person) (v LinkView, err error) {
	v.Changed = of != nil && !of.Content.Card.Same(sheet.Card)
	v.Ways = sheet.Draft.OtherWays(sheet.Card)
	card := sheet.Card
	if card == nil || m.Start == (when.Local{}) {
		return v, nil
	}
	var but uuid.UUID
	if sheet.MeetingID != nil {
		but = *sheet.MeetingID
	}
	use, spans := m.CallUse(), m.CallSpans(when.At(s.Now()))
	if v.Overlaps, err = s.Overlaps(ctx, tx, card.StandsAs, but, reader, spans); err != nil {
		return v, err
	}
	var all []schedule.ProviderRecord
	if card.Provider != "" {
		if all, err = tx.ProvidersInUse(ctx, MostProviders); err != nil {
			return v, err
		}
	}
	if use.Others, err = s.others(ctx, tx, *card, sheet.OwnerID, but, all, spans); err != nil {
		return v, err
	}
	for _, e := range card.Over(use) {
		over := LinkOver{Words: words.Over(schedule.Tongue(ctx), e, cmp.Or(card.Name, schedule.Tongue(ctx).Say("the provider")), reader.Hours.Zone), Mends: otherProviders(schedule.Tongue(ctx), all, *card, use, s.Now())}
		over.Mends = append(over.Mends, shorter(schedule.Tongue(ctx), e, m, sheet.MeetingID == nil)...)
		v.Over = append(v.Over, over)
	}
	return v, nil
}

// Overlaps says what else uses a standing link at the same time.
func (s *Deeds) Overlaps(ctx context.Context, tx LinkTx, standing string, but uuid.UUID, reader schedule.Person, spans []when.Span) (out []string, err error) {
	id, err := uuid.Parse(standing)
	if err != nil || len(spans) == 0 {
		return nil, nil
	}
	uses, err := tx.StandingUses(ctx, id, but, reader.ID, meeting.Around(spans))
	for _, u := range uses {
		if slices.ContainsFunc(spans, u.Span.Overlaps) {
			known := u.Known()
			out = append(out, words.InUse(schedule.Tongue(ctx), u.Span, known.Title, known.By, reader.Hours.Zone))
		}
	}
	return out, err
}

// others is how many other calls the account of a card has at the same time.
func (s *Deeds) others(ctx context.Context, tx LinkTx, card join.Card, owner, but uuid.UUID, all []schedule.ProviderRecord, spans []when.Span) (int, error) {
	if card.LimitCalls == 0 || len(spans) == 0 || card.Kind != join.Fresh {
		return 0, nil
	}
	owner = schedule.AccountOf(card, owner)
	if at := slices.IndexFunc(all, func(p schedule.ProviderRecord) bool { return p.Key == card.Provider }); at >= 0 && !all[at].Service.Each {
		owner = uuid.Nil // the account of the house
	}
	uses, err := tx.CallUses(ctx, card.Provider, owner, but, meeting.Around(spans))
	return meeting.AtOnce(spans, uses), err
}

// otherProviders are those whose plan is large enough.
func otherProviders(in tongue.Tongue, all []schedule.ProviderRecord, card join.Card, use join.Use, now time.Time) (out []LinkMend) {
	use.Others = 0 // in another account
	for _, p := range all {
		if p.Key != card.Provider && p.Service.Does(join.CanMake) && len(p.Service.Limits.Over(use, now)) == 0 && len(out) < 2 {
			out = append(out, LinkMend{Words: in.Say("Use %s", p.Service.Name), Provider: p.Key})
		}
	}
	return out
}

// shorter are the ways to need less.
func shorter(in tongue.Tongue, e join.Excess, m meeting.Meeting, fresh bool) []LinkMend {
	switch e.Kind {
	case join.TooLong:
		end := m.StartIn().Zone.LocalAt(m.Span().Start.Add(time.Duration(e.Limit) * time.Minute))
		mends := []LinkMend{{Words: in.Say("%s min instead", strconv.Itoa(e.Limit)), End: end.String()}}
		if parts := (e.Has + e.Limit - 1) / e.Limit; fresh && !m.Repeats() && parts <= mostParts {
			mends = append(mends, LinkMend{Words: in.Say("split it into %s", strconv.Itoa(parts)), Parts: parts})
		}
		return mends
	case join.TooOften:
		return []LinkMend{{Words: in.Say("%s instead", words.Count(in, e.Limit, "date")), Count: e.Limit}}
	case join.LinkEnds:
		until := m.StartIn().Zone.LocalAt(when.At(e.Until)).Day - 1
		if !m.Repeats() || until <= m.Start.Day {
			return nil
		}
		return []LinkMend{{Words: in.Say("End the series by %s", words.ShortDay(in, until)), Until: until}}
	}
	return nil
}

// CardFor is the join card of a sheet as one of those on it reads it, by their place on it;
// nil is the organiser. It fails with ErrNotFound where there is none.
func (s *Deeds) CardFor(ctx context.Context, who schedule.Actor, id uuid.UUID, place *int) (*join.Card, join.Reader, error) {
	v, err := s.Sheet(ctx, who, id, "")
	if err == nil && v.Card == nil {
		err = schedule.ErrNotFound
	}
	if err != nil || place == nil {
		return v.Card, v.Reader, err
	}
	if *place < 0 || *place >= len(v.Draft.People) {
		return nil, v.Reader, schedule.ErrNotFound
	}
	on := v.Draft.People[*place]
	reader := join.Reader{Outside: on.PersonID == ""}
	for _, p := range v.Settled.Participants {
		if strings.EqualFold(p.Email, on.Email) {
			reader.Country, reader.Outside = when.CountryOf(p.Zone), p.Outside()
		}
	}
	return v.Card, reader, nil
}

// mostParts is how many meetings one is split into.
const mostParts = 8

// SplitSheet makes several meetings of one that follow each other: the sheet holds the first
// part, and every other is on a sheet of its own with the same people, words and room, and
// without a call.
func (s *Deeds) SplitSheet(ctx context.Context, who schedule.Actor, id uuid.UUID, parts int) error {
	return s.linkStore().InTx(ctx, func(tx LinkTx) error {
		sheet, err := tx.LockSheet(ctx, id, who.For)
		if err != nil {
			return err
		}
		drafts, err := sheet.Draft.Split(parts)
		if err != nil || sheet.MeetingID != nil {
			return schedule.Invalid("end", say.It("split.single"))
		}
		for _, d := range drafts[1:] {
			part := schedule.Sheet{ID: uuid.New(), OwnerID: who.For, UpdatedAt: s.Now(), Draft: d}
			if err := tx.AddSheet(ctx, part); err != nil {
				return err
			}
			if err := tx.Tell(ctx, part.Notice()); err != nil {
				return err
			}
		}
		sheet.Draft = drafts[0]
		return s.StoreSheet(ctx, tx, &sheet)
	})
}
