// Package invitations is what people outside invite somebody inside to: it stands in their week,
// and they answer from here.
package invitations

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
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
	BookFromOutside(ctx context.Context, i schedule.Invitation, spans []when.Span, at time.Time) (booked int, err error)
	ClearHolds(ctx context.Context, owner uuid.UUID, wanted []schedule.Occurrence, now time.Time) error
	InvitationOfRoom(ctx context.Context, room uuid.UUID, uid string) (schedule.Invitation, error)
	LockRooms(ctx context.Context, rooms []uuid.UUID) error
	RoomsByEmail(ctx context.Context, emails []string) ([]schedule.Room, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
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

// write keeps an invitation with its dates, and the time that they take; the person is locked. Where
// it was answered just now, a room has to be clear.
func (s *Deeds) write(ctx context.Context, tx Tx, i schedule.Invitation, p schedule.Person, answered bool) error {
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
	if i.RoomID != nil {
		return s.book(ctx, tx, i, dates, answered)
	}
	return tx.SetBusyFrom(ctx, p.ID, i.ID, schedule.FromOutside, i.Taken(dates))
}

// book has the room of an invitation be booked on the dates that its keeper accepted. With all, every
// one of them has to be clear, or it fails with an *InvalidError; otherwise what is taken meanwhile
// stays with who has it.
func (s *Deeds) book(ctx context.Context, tx Tx, i schedule.Invitation, dates []schedule.CalendarEntry, all bool) error {
	if err := tx.LockRooms(ctx, []uuid.UUID{*i.RoomID}); err != nil {
		return err
	}
	now := when.At(s.Now())
	var spans when.Spans
	for _, d := range dates {
		if cmp.Or(d.Answer, i.Answer) == meeting.Accepted && d.Span.End > now && !i.State.Off {
			spans = append(spans, d.Span)
		}
	}
	spans = when.Union(spans...)
	var wanted []schedule.Occurrence
	for _, span := range spans {
		wanted = append(wanted, schedule.Occurrence{RoomID: *i.RoomID, Span: span})
	}
	if err := tx.ClearHolds(ctx, i.PersonID, wanted, s.Now()); err != nil {
		return err
	}
	booked, err := tx.BookFromOutside(ctx, i, spans, s.Now())
	if err == nil && all && booked < len(spans) {
		err = schedule.Invalid("answer", takenForOutside(len(spans)-booked, len(spans)))
	}
	if err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{i.PersonID}, Topic: schedule.AboutRoom, ID: *i.RoomID})
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
				return s.write(ctx, tx, i, p, false)
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

// takenForOutside is that a room cannot be had on some of the dates that are asked for.
func takenForOutside(taken, of int) say.What {
	switch {
	case of == 1:
		return say.It("room.outsideOne")
	case taken == of:
		return say.It("room.outsideAll")
	}
	return say.It("room.outsideSome", taken, of)
}
