package schedule

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// settled is a sheet as it would be sent, with what it takes the place of.
type settled struct {
	meeting   meeting.Meeting
	before    *Record // nil for a new meeting
	change    meeting.Change
	due       []meeting.Message
	invited   []Invited // those invited before
	organiser Person
	room      *Room
}

// settle turns a sheet into the meeting it would be; it fails with an
// *InvalidError that names every field at fault. before is the meeting that the
// sheet changes, nil for a new one.
func (s *Service) settle(ctx context.Context, tx Tx, sheet Sheet, before *Record) (settled, error) {
	organiser, err := person(ctx, tx, sheet.OwnerID)
	if err != nil {
		return settled{}, err
	}
	out := settled{before: before, organiser: organiser}
	around := meeting.Surroundings{Now: when.At(s.now()), Organiser: organiser.Party(), Card: sheet.Card}
	if before != nil {
		around.Before = &before.Content
		if out.invited, err = tx.AllInvited(ctx, before.ID); err != nil {
			return out, err
		}
	}
	if id, err := uuid.Parse(sheet.Draft.RoomID); err == nil {
		room, err := tx.Room(ctx, id)
		switch {
		case err == nil:
			out.room, around.Room = &room, room.Named()
		case !errors.Is(err, ErrNotFound):
			return out, err
		}
	}
	draft := sheet.Draft
	known, err := lookUp(ctx, tx, draft.People)
	if err != nil {
		return out, err
	}
	draft.People = known.complete(draft.People)
	m, faults := draft.Settle(around)
	if len(faults) > 0 {
		return out, &InvalidError{faults}
	}
	if before != nil {
		m.UID, m.Sequence = before.Content.UID, before.Content.Sequence
	}
	for i := range m.Participants {
		p := &m.Participants[i]
		p.Zone = known.zone(p.Email)
		p.ID = uuid.NewString()
		for _, was := range out.invited {
			if strings.EqualFold(was.Email, p.Email) {
				p.ID = was.ID.String()
			}
		}
	}
	if before == nil {
		out.due = meeting.Due(nil, m)
	} else {
		out.change = meeting.Compare(before.Content, m)
		m.Sequence = out.change.Sequence(before.Content.Sequence)
		out.due = meeting.Due(&before.Content, m)
	}
	out.meeting = m
	return out, nil
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

func (k acquaintances) zone(email string) string {
	key := strings.ToLower(email)
	if p, ok := k.people[key]; ok {
		return p.Hours.Zone.String()
	}
	return k.contacts[key].Zone
}
