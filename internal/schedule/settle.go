package schedule

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/holidays"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// settled is a sheet as it would be sent, with what it takes the place of.
type settled struct {
	meeting meeting.Meeting
	// next is the series that begins where the old one ends now, nil mostly.
	next         *meeting.Meeting
	scope        meeting.Range
	shifted      int     // see meeting.Outcome
	before       *Record // nil for a new meeting
	change       meeting.Change
	due, dueNext []meeting.Message // about meeting, and about next
	invited      []Invited         // those invited before
	organiser    Person
}

// settle turns a sheet into the meeting it would be; it fails with an
// *InvalidError that names every field at fault, and gives as much of the
// meeting as there is then. before is the meeting that the sheet changes, nil for
// a new one.
func (s *Service) settle(ctx context.Context, tx Tx, sheet Sheet, before *Record) (settled, error) {
	organiser, err := person(ctx, tx, sheet.OwnerID)
	if err != nil {
		return settled{}, err
	}
	out := settled{before: before, organiser: organiser}
	around := meeting.Surroundings{Now: when.At(s.Now()), Organiser: organiser.Party(), Card: sheet.Card}
	if before != nil {
		around.Before = &before.Content
		if out.invited, err = tx.AllInvited(ctx, before.ID); err != nil {
			return out, err
		}
	}
	draft := sheet.Draft
	known, err := lookUp(ctx, tx, draft.People)
	if err != nil {
		return out, err
	}
	draft.People = known.complete(draft.People)
	rooms, countries, err := s.surroundings(ctx, tx, draft, before, organiser, known)
	if err != nil {
		return out, err
	}
	around.Rooms = rooms
	around.Holiday = func(day when.Day) string { return holidays.In(countries, day) }
	outcome, faults := draft.Change(around, func(p *meeting.Participant) { known.identify(p, out.invited) })
	out.meeting, out.next, out.scope, out.shifted = outcome.Meeting, outcome.Next, outcome.Scope, outcome.Shifted
	if len(faults) > 0 {
		return out, &InvalidError{faults}
	}
	if before == nil {
		out.due = meeting.Due(nil, out.meeting)
		return out, nil
	}
	out.change = meeting.Compare(before.Content, out.meeting)
	out.meeting.Sequence = out.change.Sequence(before.Content.Sequence)
	out.due = meeting.Due(&before.Content, out.meeting)
	if out.next != nil {
		out.next.Sequence = 0
		out.dueNext = dueNext(before.Content, *out.next)
		for i := range out.next.Participants {
			out.next.Participants[i].ID = uuid.NewString()
		}
		for i := range out.dueNext {
			out.dueNext[i].To.ID = out.next.Participants[i].ID
		}
	}
	return out, nil
}

// dueNext is who hears of a series that goes on from another: those who were in
// that one of a change, the others are invited.
func dueNext(before, next meeting.Meeting) []meeting.Message {
	due := meeting.Due(nil, next)
	for i := range due {
		if _, was := before.Participant(due[i].To.ID); was {
			due[i].Kind = meeting.Update
		}
	}
	return due
}

// surroundings finds the rooms that a sheet names, and the countries whose
// holidays count: those of the sites of everybody inside and of the rooms.
func (s *Service) surroundings(ctx context.Context, tx Tx, draft meeting.Draft, before *Record, organiser Person, known acquaintances) (map[string]*meeting.Room, []string, error) {
	countries := []string{organiser.Holidays}
	for _, p := range known.byID {
		countries = append(countries, p.Holidays)
	}
	wanted := []string{draft.RoomID}
	for _, d := range draft.Dates {
		wanted = append(wanted, d.RoomID)
	}
	if before != nil && before.Content.Room != nil {
		wanted = append(wanted, before.Content.Room.ID)
	}
	rooms := map[string]*meeting.Room{}
	for _, text := range wanted {
		id, err := uuid.Parse(text)
		if err != nil || rooms[text] != nil {
			continue
		}
		room, err := tx.Room(ctx, id)
		if errors.Is(err, ErrNotFound) {
			continue
		}
		if err != nil {
			return nil, nil, err
		}
		rooms[text], countries = room.Named(), append(countries, room.Holidays)
	}
	slices.Sort(countries)
	return rooms, slices.DeleteFunc(slices.Compact(countries), func(c string) bool { return c == "" }), nil
}

// acquaintances are those on a sheet whom the house knows, by address in lower
// case.
type acquaintances struct {
	people   map[string]Person
	byID     map[string]Person
	contacts map[string]Contact
}

// lookUp finds who is known of the people on a sheet.
func lookUp(ctx context.Context, tx Tx, people []meeting.DraftPerson) (acquaintances, error) {
	var emails []string
	var ids []uuid.UUID
	for _, p := range people {
		emails = append(emails, strings.TrimSpace(p.Email))
		if id, err := uuid.Parse(p.PersonID); err == nil {
			ids = append(ids, id)
		}
	}
	known := acquaintances{people: map[string]Person{}, byID: map[string]Person{}, contacts: map[string]Contact{}}
	byEmail, err := tx.PeopleByEmail(ctx, emails)
	if err != nil {
		return known, err
	}
	byID, err := tx.People(ctx, ids)
	if err != nil {
		return known, err
	}
	for _, p := range append(byEmail, byID...) {
		known.people[strings.ToLower(p.Email)] = p
		known.byID[p.ID.String()] = p
	}
	contacts, err := tx.Contacts(ctx, emails)
	for _, c := range contacts {
		known.contacts[strings.ToLower(c.Email)] = c
	}
	return known, err
}

// complete takes name and address from the directory for everybody who is in
// it: a colleague put on the sheet by address is a colleague.
func (k acquaintances) complete(people []meeting.DraftPerson) []meeting.DraftPerson {
	out := make([]meeting.DraftPerson, len(people))
	for i, p := range people {
		key := strings.ToLower(strings.TrimSpace(p.Email))
		found, inside := k.byID[p.PersonID]
		if !inside {
			found, inside = k.people[key]
		}
		p.PersonID = ""
		if inside {
			p.PersonID, p.Name, p.Email = found.ID.String(), found.Name, found.Email
		} else if c, ok := k.contacts[key]; ok && strings.TrimSpace(p.Name) == "" {
			p.Name = c.Name
		}
		out[i] = p
	}
	return out
}

// identify gives a participant the zone that is known of them and the lasting ID
// they have, or a new one.
func (k acquaintances) identify(p *meeting.Participant, invited []Invited) {
	p.Zone = k.zone(p.Email)
	p.ID = uuid.NewString()
	for _, was := range invited {
		if strings.EqualFold(was.Email, p.Email) {
			p.ID = was.ID.String()
		}
	}
}

func (k acquaintances) zone(email string) string {
	key := strings.ToLower(email)
	if p, ok := k.people[key]; ok {
		return p.Hours.Zone.String()
	}
	return k.contacts[key].Zone
}
