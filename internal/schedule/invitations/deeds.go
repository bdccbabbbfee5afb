// Package invitations is what people outside invite somebody inside to: it stands in their week,
// and they answer from here.
package invitations

import (
	"cmp"
	"context"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/invited"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store  schedule.Store[Tx]
	Post   schedule.Post
	Format Format
}

// Format reads what is known of such a meeting.
type Format interface {
	// Invitation is all of it as one calendar, InvitationWords what it says to its reader, who
	// has some addresses.
	Invitation(s invited.State) []byte
	InvitationWords(s invited.State, addresses ...string) invited.Told
	// Read reads a calendar; it fails with the errors of core/calendar.
	Read(raw []byte, window when.Span, addresses ...string) (calendar.Calendar, error)
}

// Tx is what they need of a transaction.
type Tx interface {
	directory.LookupTx
	Invitation(ctx context.Context, id uuid.UUID) (schedule.Invitation, error)
	InvitationOf(ctx context.Context, person uuid.UUID, uid string) (schedule.Invitation, error)
	InvitationsToRoll(ctx context.Context, before when.Day, after uuid.UUID) ([]uuid.UUID, error)
	KeepInvitation(ctx context.Context, i schedule.Invitation) error
	LockInvitation(ctx context.Context, id uuid.UUID) (schedule.Invitation, error)
	LockPerson(ctx context.Context, id uuid.UUID) error
	MeetingByUID(ctx context.Context, uid string) (uuid.UUID, error)
	PersonByEmail(ctx context.Context, email string) (schedule.Person, error)
	QueueReply(ctx context.Context, invitation uuid.UUID, version int) error
	SetBusyFrom(ctx context.Context, personID, from uuid.UUID, source schedule.BusySource, taken []availability.Time) error
	SetInvitationDates(ctx context.Context, id uuid.UUID, all []schedule.CalendarEntry) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// The days around the present one that dates are written down for, and how many one meeting can
// have within them.
const (
	behind, ahead when.Day = 31, 400
	mostDates              = 2000
	// rolled is after how many days the dates are written anew.
	rolled when.Day = 7
)

// write keeps an invitation with its dates, and the time that they take; the person is locked.
func (s *Deeds) write(ctx context.Context, tx Tx, i schedule.Invitation, p schedule.Person) error {
	zone := p.Hours.Zone
	today := zone.LocalAt(when.At(s.Now())).Day
	window := when.DaysSpan(today-behind, today+ahead, zone)
	c, err := s.Format.Read(s.Format.Invitation(i.State), window)
	if err != nil {
		return err
	}
	dates, err := entries(c, window, zone, mostDates)
	if err != nil {
		return err
	}
	i.ExpandedOn = today
	for at := range dates {
		if a, own := i.To(dates[at].On); own {
			dates[at].Answer = a.Answer
		}
	}
	if err := tx.KeepInvitation(ctx, i); err != nil {
		return err
	}
	if err := tx.SetInvitationDates(ctx, i.ID, dates); err != nil {
		return err
	}
	return tx.SetBusyFrom(ctx, p.ID, i.ID, schedule.FromOutside, i.Taken(dates))
}

// entries are the dates of a calendar in a window, at most so many.
func entries(c calendar.Calendar, window when.Span, zone when.Zone, most int) (out []schedule.CalendarEntry, err error) {
	err = c.Entries(window, zone, func(e calendar.Entry) bool {
		out = append(out, schedule.CalendarEntry{UID: e.UID, Title: e.Title, Span: e.Span, Kind: e.Kind, WholeDay: e.Day, On: e.ID})
		return len(out) < most
	})
	slices.SortFunc(out, func(a, b schedule.CalendarEntry) int { return cmp.Compare(a.Span.Start, b.Span.Start) })
	return out, err
}

// RollForward writes the dates of what goes on further ahead.
func (s *Deeds) RollForward(ctx context.Context) error {
	before := when.DayOf(s.Now().Date()) - rolled
	for last := uuid.Nil; ; {
		var ids []uuid.UUID
		err := s.Store.Look(ctx, func(tx Tx) (err error) {
			ids, err = tx.InvitationsToRoll(ctx, before, last)
			return err
		})
		if err != nil || len(ids) == 0 {
			return err
		}
		for _, id := range ids {
			last = id
			err := s.Store.InTx(ctx, func(tx Tx) error {
				i, err := tx.LockInvitation(ctx, id)
				if err != nil {
					return err
				}
				p, err := directory.Person(ctx, tx, i.PersonID)
				if err != nil {
					return err
				}
				return s.write(ctx, tx, i, p)
			})
			if err != nil {
				return err
			}
		}
	}
}

// addresses are those that people outside can invite somebody at.
func (s *Deeds) addresses(p schedule.Person) []string {
	return []string{p.Email, s.Seal.InvitationAddress(p.ID, s.House.MailDomain)}
}
