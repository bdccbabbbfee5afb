package calendars

import (
	"context"
	"net/mail"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// contactTx is what is needed here of a transaction.
type contactTx interface {
	keepTx
	AddCalendar(ctx context.Context, c schedule.Calendar) error
	CalendarsOfContacts(ctx context.Context, contacts []uuid.UUID) ([]schedule.Calendar, error)
	Contacts(ctx context.Context, emails []string) ([]schedule.Contact, error)
	DropCalendar(ctx context.Context, c schedule.Calendar) error
	KnownContact(ctx context.Context, c schedule.Contact, fold string) (uuid.UUID, error)
	PeopleByEmail(ctx context.Context, emails []string) ([]schedule.Person, error)
}

func (s *Deeds) contactStore() schedule.Store[contactTx] {
	return schedule.Narrow(s.Store, func(tx Tx) contactTx { return tx })
}

// KeepTheirAddress keeps with somebody outside where they publish when they are busy, in
// place of any address kept before; it is for everybody in the house. It fails as Add does.
func (s *Deeds) KeepTheirAddress(ctx context.Context, _ schedule.Actor, email, name, text string) error {
	email, err := s.outside(ctx, email)
	if err != nil {
		return err
	}
	c := schedule.Calendar{ID: uuid.New(), Counts: true, AddedAt: s.Now(), Name: schedule.Tongue(ctx).Say("Busy times")}
	address, err := s.address(text, &c)
	if err != nil {
		return err
	}
	var got reading
	err = s.contactStore().Look(ctx, func(tx contactTx) error {
		known, err := tx.Contacts(ctx, []string{email})
		if len(known) > 0 {
			got.zone, _ = when.LoadZone(known[0].Zone) // UTC where nobody knows
		}
		return err
	})
	if err != nil {
		return err
	}
	if err := s.firstLook(ctx, address, &got); err != nil {
		return err
	}
	return s.contactStore().InTx(ctx, func(tx contactTx) error {
		if name = meeting.Plain(name); name == "" {
			name = email
		}
		name = shortened(name)
		contact, err := tx.KnownContact(ctx, schedule.Contact{Name: name, Email: email}, directory.Fold(name+" "+email))
		if err != nil {
			return err
		}
		if err := dropOf(ctx, tx, contact); err != nil {
			return err
		}
		c.ContactID = &contact
		if err := tx.AddCalendar(ctx, c); err != nil {
			return err
		}
		return s.keep(ctx, tx, c, got)
	})
}

// ForgetTheirAddress has the busy times of somebody outside be unknown again.
func (s *Deeds) ForgetTheirAddress(ctx context.Context, _ schedule.Actor, email string) error {
	return s.contactStore().InTx(ctx, func(tx contactTx) error {
		known, err := tx.Contacts(ctx, []string{strings.TrimSpace(email)})
		if err != nil {
			return err
		}
		if len(known) == 0 {
			return schedule.ErrNotFound
		}
		return dropOf(ctx, tx, known[0].ID)
	})
}

func dropOf(ctx context.Context, tx contactTx, contact uuid.UUID) error {
	kept, err := tx.CalendarsOfContacts(ctx, []uuid.UUID{contact})
	if err != nil {
		return err
	}
	for _, c := range kept {
		if err := tx.DropCalendar(ctx, c); err != nil {
			return err
		}
	}
	return nil
}

// outside is the address of somebody outside.
func (s *Deeds) outside(ctx context.Context, email string) (string, error) {
	email = strings.TrimSpace(email)
	if a, err := mail.ParseAddress(email); err != nil || a.Address != email || len(email) > 254 {
		return "", schedule.Invalid("email", say.It("contact.address"))
	}
	return email, s.contactStore().Look(ctx, func(tx contactTx) error {
		inside, err := tx.PeopleByEmail(ctx, []string{email})
		if err == nil && len(inside) > 0 {
			return schedule.Invalid("email", say.It("contact.inside"))
		}
		return err
	})
}
