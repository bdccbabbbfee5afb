package sheets

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// typedTx is what is needed here of a transaction.
type typedTx interface {
	directory.LookupTx
	DirectoryByNames(ctx context.Context, folded []string, most int) ([][]schedule.Entry, error)
	RoomsByEmail(ctx context.Context, emails []string) ([]schedule.Room, error)
}

// Reading is how something typed was read: in words, or why it was not.
type Reading struct {
	meeting.DraftTyped
	Words string
	Why   say.What // that it cannot be read
}

// Unclear is something typed as a person of whom it has to be said who is meant: those
// it could be, and whether there are more.
type Unclear struct {
	Text    string
	Choices []schedule.Entry
	More    bool
}

// what asks who is meant.
func (u Unclear) what() say.What {
	switch {
	case len(u.Choices) == 0:
		return say.It("who.nobody", u.Text)
	case u.More:
		return say.It("who.many", u.Text)
	case len(u.Choices) == 1:
		return say.It("who.one", u.Text)
	}
	return say.It("who.some", u.Text, say.Count{N: len(u.Choices), Of: "person"})
}

// mostChoices is how many people a name could be who are offered.
const mostChoices = 6

func (s *Deeds) reader(p schedule.Person, order typed.Order) typed.Reader {
	return typed.Reader{Words: words.Typed, Today: p.Hours.Zone.LocalAt(when.At(s.Now())).Day, Order: order}
}

// typingIn tells that one field is still typed in, and whatever stands in the fields of
// another window.
func typingIn(ctx context.Context, field string) meeting.Still {
	window := schedule.WindowOf(ctx)
	return func(t meeting.DraftTyped) bool {
		return t.Field == field || t.Window != "" && t.Window != window
	}
}

// taken is a sheet with what is typed into its fields taken over, but for what is still
// being typed. Said is what its writer has to be told of it.
func (s *Deeds) taken(ctx context.Context, tx typedTx, owner uuid.UUID, d meeting.Draft, still meeting.Still) (_ meeting.Draft, said []string, err error) {
	if len(d.Typed) == 0 {
		return d, nil, nil
	}
	p, err := directory.Person(ctx, tx, owner)
	if err != nil {
		return d, nil, err
	}
	d = d.Read(s.reader(p, schedule.DayOrder(ctx)), still)
	at := slices.IndexFunc(d.Typed, func(t meeting.DraftTyped) bool { return t.Field == meeting.FieldPeople && !still(t) })
	if at < 0 {
		return d, nil, nil
	}
	text := d.Typed[at].Text
	d.Typed = slices.Delete(slices.Clone(d.Typed), at, at+1)
	return s.withPeople(ctx, tx, p, d, typed.People(text))
}

// withPeople puts a list of people on a sheet. The address of a room is the room; one's
// own is left out, and so is who is on the list already; what could be several people,
// or nobody, waits to be said.
func (s *Deeds) withPeople(ctx context.Context, tx typedTx, me schedule.Person, d meeting.Draft, list []typed.Somebody) (_ meeting.Draft, said []string, err error) {
	var emails, names []string
	for _, x := range list {
		if x.Email != "" {
			emails = append(emails, x.Email)
		} else {
			names = append(names, directory.Fold(x.Name))
		}
	}
	rooms, err := tx.RoomsByEmail(ctx, emails)
	if err != nil {
		return d, nil, err
	}
	found, err := tx.DirectoryByNames(ctx, names, mostChoices)
	if err != nil {
		return d, nil, err
	}
	on := map[string]bool{}
	for _, p := range d.People {
		on[strings.ToLower(strings.TrimSpace(p.Email))] = true
	}
	d.People = slices.Clone(d.People)
	add := func(p meeting.DraftPerson) {
		switch key := strings.ToLower(strings.TrimSpace(p.Email)); {
		case key == strings.ToLower(me.Email):
			said = append(said, schedule.Tongue(ctx).Say("You organise it and need no invitation"))
		case !on[key]:
			on[key] = true
			d.People = append(d.People, p)
		}
	}
	for _, x := range list {
		if x.Email == "" {
			choices := found[0]
			found = found[1:]
			if one, ok := meant(x.Name, choices); ok {
				add(inDirectory(one))
			} else {
				d.Typed = append(d.Typed, meeting.DraftTyped{Field: meeting.FieldUnclear, Text: x.Name})
			}
			continue
		}
		if room := slices.IndexFunc(rooms, func(r schedule.Room) bool { return strings.EqualFold(r.Email, x.Email) }); room >= 0 {
			d.RoomID, d.NoRoom = rooms[room].ID.String(), false
			said = append(said, schedule.Tongue(ctx).Say("%s is taken as the room", rooms[room].Name))
			continue
		}
		add(meeting.DraftPerson{Name: x.Name, Email: x.Email, Needed: true})
	}
	if over := len(d.Typed) - mostTyped; over > 0 {
		d.Typed = d.Typed[:mostTyped]
		said = append(said, schedule.Tongue(ctx).Say("the last %s of the names were left out: that is too many at once", strconv.Itoa(over)))
	}
	known, err := directory.LookUp(ctx, tx, d.People)
	if err != nil {
		return d, nil, err
	}
	d.People = known.Complete(d.People)
	return d, slices.Compact(said), nil
}

// mostTyped is how much can wait in the fields of a sheet.
const mostTyped = 100

func inDirectory(e schedule.Entry) meeting.DraftPerson {
	p := meeting.DraftPerson{Name: e.Name, Email: e.Email, Needed: true}
	if !e.Outside {
		p.PersonID = e.ID.String()
	}
	return p
}

// meant is who a name is: the only one of exactly that name, or the only one at all of
// whose name every word that was typed begins a word.
func meant(name string, choices []schedule.Entry) (schedule.Entry, bool) {
	folded := directory.Fold(name)
	exact := slices.DeleteFunc(slices.Clone(choices), func(e schedule.Entry) bool { return directory.Fold(e.Name) != folded })
	switch {
	case len(exact) == 1:
		return exact[0], true
	case len(exact) > 1 || len(choices) != 1 || len(folded) < 3:
		return schedule.Entry{}, false
	}
	has := strings.Fields(directory.Fold(choices[0].Name))
	for _, word := range strings.Fields(folded) {
		if !slices.ContainsFunc(has, func(w string) bool { return strings.HasPrefix(w, word) }) {
			return schedule.Entry{}, false
		}
	}
	return choices[0], true
}

// waiting is what stands in the fields of a sheet: how it reads, and who is unclear.
func (s *Deeds) waiting(ctx context.Context, tx typedTx, owner uuid.UUID, d meeting.Draft) (readings []Reading, unclear []Unclear, err error) {
	if len(d.Typed) == 0 {
		return nil, nil, nil
	}
	p, err := directory.Person(ctx, tx, owner)
	if err != nil {
		return nil, nil, err
	}
	for _, r := range d.Readings(s.reader(p, schedule.DayOrder(ctx))) {
		out := Reading{DraftTyped: r.DraftTyped}
		if r.Err != nil {
			out.Why = r.Err.What(r.Text)
		} else {
			out.Words = words.Settled(schedule.Tongue(ctx), r.Field, r.After)
		}
		readings = append(readings, out)
	}
	var names []string
	for _, t := range d.Typed {
		if t.Field == meeting.FieldUnclear {
			names = append(names, directory.Fold(t.Text))
			unclear = append(unclear, Unclear{Text: t.Text})
		}
	}
	found, err := tx.DirectoryByNames(ctx, names, mostChoices+1)
	if err != nil {
		return nil, nil, err
	}
	for i := range unclear {
		unclear[i].Choices, unclear[i].More = found[i][:min(len(found[i]), mostChoices)], len(found[i]) > mostChoices
	}
	return readings, unclear, nil
}

// typedFaults are what stands in the fields and keeps the sheet from being sent.
func typedFaults(readings []Reading, unclear []Unclear, typing string) (faults []meeting.Fault) {
	for _, r := range readings {
		if !r.Why.Empty() && r.Field != typing {
			faults = append(faults, meeting.Fault{Field: r.Field, What: r.Why})
		}
	}
	for i, u := range unclear {
		faults = append(faults, meeting.Fault{Field: fmt.Sprintf("unclear.%d", i), What: u.what()})
	}
	return faults
}
