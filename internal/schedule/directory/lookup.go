package directory

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// LookupTx is what is needed here of a transaction.
type LookupTx interface {
	Contacts(ctx context.Context, emails []string) ([]schedule.Contact, error)
	People(ctx context.Context, ids []uuid.UUID) ([]schedule.Person, error)
	PeopleByEmail(ctx context.Context, emails []string) ([]schedule.Person, error)
}

// Person finds somebody with an account.
func Person(ctx context.Context, tx LookupTx, id uuid.UUID) (schedule.Person, error) {
	found, err := tx.People(ctx, []uuid.UUID{id})
	if err != nil {
		return schedule.Person{}, err
	}
	if len(found) == 0 {
		return schedule.Person{}, schedule.ErrNotFound
	}
	return found[0], nil
}

// SharingTx is what is needed of a transaction to know who shows whom their time.
type SharingTx interface {
	LookupTx
	SharedWith(ctx context.Context, viewer uuid.UUID) (map[uuid.UUID]availability.Level, error)
}

// Showing are those of some people who let somebody see when they are busy.
func Showing(ctx context.Context, tx SharingTx, viewer uuid.UUID, ids []uuid.UUID) (out []uuid.UUID, err error) {
	if len(ids) == 0 {
		return nil, nil
	}
	shared, err := tx.SharedWith(ctx, viewer)
	if err != nil {
		return nil, err
	}
	people, err := tx.People(ctx, ids)
	for _, p := range people {
		if p.ID == viewer || p.ShareWith(shared).Times() {
			out = append(out, p.ID)
		}
	}
	return out, err
}

// Acquaintances are those on a sheet whom the house knows, by address in lower
// case.
type Acquaintances struct {
	people   map[string]schedule.Person
	ByID     map[string]schedule.Person
	Contacts map[string]schedule.Contact
}

// LookUp finds who is known of the people on a sheet.
func LookUp(ctx context.Context, tx LookupTx, people []meeting.DraftPerson) (Acquaintances, error) {
	known := Acquaintances{people: map[string]schedule.Person{}, ByID: map[string]schedule.Person{}, Contacts: map[string]schedule.Contact{}}
	note := func(found []schedule.Person) {
		for _, p := range found {
			known.people[strings.ToLower(p.Email)] = p
			known.ByID[p.ID.String()] = p
		}
	}
	var ids []uuid.UUID
	for _, p := range people {
		if id, err := uuid.Parse(p.PersonID); err == nil {
			ids = append(ids, id)
		}
	}
	if len(ids) > 0 {
		byID, err := tx.People(ctx, ids)
		if err != nil {
			return known, err
		}
		note(byID)
	}
	var emails []string
	for _, p := range people {
		if _, inside := known.ByID[p.PersonID]; !inside {
			emails = append(emails, strings.TrimSpace(p.Email))
		}
	}
	if len(emails) == 0 {
		return known, nil
	}
	byEmail, err := tx.PeopleByEmail(ctx, emails)
	if err != nil {
		return known, err
	}
	note(byEmail)
	contacts, err := tx.Contacts(ctx, emails)
	for _, c := range contacts {
		known.Contacts[strings.ToLower(c.Email)] = c
	}
	return known, err
}

// Complete takes name and address from the directory for everybody who is in
// it: a colleague put on the sheet by address is a colleague.
func (k Acquaintances) Complete(people []meeting.DraftPerson) []meeting.DraftPerson {
	out := make([]meeting.DraftPerson, len(people))
	for i, p := range people {
		key := strings.ToLower(strings.TrimSpace(p.Email))
		found, inside := k.ByID[p.PersonID]
		if !inside {
			found, inside = k.people[key]
		}
		p.PersonID = ""
		if inside {
			p.PersonID, p.Name, p.Email = found.ID.String(), found.Name, found.Email
		} else if c, ok := k.Contacts[key]; ok && strings.TrimSpace(p.Name) == "" {
			p.Name = c.Name
		}
		out[i] = p
	}
	return out
}

// Identify gives a participant the zone that is known of them and the lasting ID
// they have, or a new one.
func (k Acquaintances) Identify(p *meeting.Participant, invited []schedule.Invited) {
	p.Zone = k.zone(p.Email)
	p.ID = uuid.NewString()
	for _, was := range invited {
		if strings.EqualFold(was.Email, p.Email) {
			p.ID = was.ID.String()
		}
	}
}

func (k Acquaintances) zone(email string) string {
	key := strings.ToLower(email)
	if p, ok := k.people[key]; ok {
		return p.Hours.Zone.String()
	}
	return k.Contacts[key].Zone
}
