package rooms

import (
	"context"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	core "jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
)

// answerTx is what is needed here of a transaction.
type answerTx interface {
	closeTx
	directory.LookupTx
	lockedTx
}

func (s *Deeds) answerStore() schedule.Store[answerTx] {
	return schedule.Narrow(s.Store, func(tx Tx) answerTx { return tx })
}

// mostWord is how long the word of a keeper can be, in bytes.
const mostWord = 2000

// Answer is a keeper's yes or no to what is asked of a room; the organiser is told. The
// same answer again changes nothing. It fails with ErrNotFound for who does not keep the
// room, with an *AnsweredError where it was answered otherwise, or is asked no more.
func (s *Deeds) Answer(ctx context.Context, who schedule.Actor, id uuid.UUID, yes bool, word string) error {
	if word = strings.TrimSpace(word); len(word) > mostWord {
		return schedule.Invalid("word", say.It("room.wordLong"))
	}
	return s.answerStore().InTx(ctx, func(tx answerTx) error {
		q, record, room, err := locked(ctx, tx, id)
		if err != nil {
			return err
		}
		me, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		state, e := schedule.RequestRefused, meeting.Event{Kind: meeting.EventRoomRefused, Who: me.Name, Name: room.Name, Comment: word}
		if yes {
			state, e.Kind = schedule.RequestAgreed, meeting.EventRoomAgreed
		}
		switch {
		case !room.KeptFor(me):
			return schedule.ErrNotFound
		case q.State == state:
			return nil
		case q.State != schedule.RequestOpen:
			return &AnsweredError{State: q.State, By: who.For == q.DecidedBy}
		}
		q.DecidedBy, q.Word = who.For, word
		return s.close(ctx, tx, q, record, room, state, e)
	})
}

// AnsweredError: what a keeper answers is not asked any more.
type AnsweredError struct {
	State schedule.RequestState
	By    bool // they answered it themselves
}

func (e *AnsweredError) Error() string { return "the request is " + string(e.State) }

// What is why.
func (e *AnsweredError) What() say.What {
	switch {
	case e.State == schedule.RequestWithdrawn:
		return say.It("room.answerWithdrawn")
	case e.State == schedule.RequestLapsed:
		return say.It("room.answerLapsed")
	case e.By:
		return say.It("room.answeredYou")
	}
	return say.It("room.answeredOther")
}

// lockedTx is what is needed of a transaction to hold a request.
type lockedTx interface {
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	LockRequest(ctx context.Context, id uuid.UUID) (schedule.RoomRequest, error)
	LockRooms(ctx context.Context, rooms []uuid.UUID) error
	MeetingOfRequest(ctx context.Context, id uuid.UUID) (uuid.UUID, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
}

// locked is a request with its meeting and its room; the meeting is locked first, as
// everybody does.
func locked(ctx context.Context, tx lockedTx, id uuid.UUID) (q schedule.RoomRequest, record schedule.Record, room schedule.Room, err error) {
	meetingID, err := tx.MeetingOfRequest(ctx, id)
	if err != nil {
		return q, record, room, err
	}
	if record, err = tx.LockMeeting(ctx, meetingID); err != nil {
		return q, record, room, err
	}
	if q, err = tx.LockRequest(ctx, id); err != nil {
		return q, record, room, err
	}
	found, err := tx.RoomsByID(ctx, []uuid.UUID{q.RoomID})
	if err == nil && len(found) == 0 {
		err = schedule.ErrNotFound
	}
	if err != nil {
		return q, record, room, err
	}
	return q, record, found[0], tx.LockRooms(ctx, []uuid.UUID{q.RoomID})
}

// closeTx is what is needed of a transaction to end a request.
type closeTx interface {
	kernel.In
	schedule.HappenTx
	AgreeTo(ctx context.Context, meetingID, roomID uuid.UUID) error
	RefuseTo(ctx context.Context, meetingID, roomID uuid.UUID) error
	SetRequest(ctx context.Context, r schedule.RoomRequest) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// close ends a request: the room is booked or given back, and the organiser is told.
func (s *Deeds) close(ctx context.Context, tx closeTx, q schedule.RoomRequest, record schedule.Record, room schedule.Room, state schedule.RequestState, e meeting.Event) error {
	now := s.Now()
	q.State, q.DecidedAt = state, &now
	if err := tx.SetRequest(ctx, q); err != nil {
		return err
	}
	end := tx.RefuseTo
	if state == schedule.RequestAgreed {
		end = tx.AgreeTo
	}
	if err := end(ctx, q.MeetingID, q.RoomID); err != nil {
		return err
	}
	if err := s.Happened(ctx, tx, record, q.DecidedBy, e); err != nil {
		return err
	}
	if state != schedule.RequestAgreed {
		if err := s.Kernel.OfferTo(ctx, tx, []uuid.UUID{q.RoomID}); err != nil {
			return err
		}
	}
	if err := tx.Tell(ctx, record.Notice()); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: room.KeptBy, Topic: schedule.AboutRoom, ID: room.ID})
}

// sweepTx is what is needed here of a transaction.
type sweepTx interface {
	closeTx
	lockedTx
	AskStillNeeded(ctx context.Context, meetingID uuid.UUID, on when.Day, now time.Time) (bool, error)
	BookedSoon(ctx context.Context, window when.Span, meetingID uuid.UUID) ([]schedule.BookedDate, error)
	DropWaited(ctx context.Context, now time.Time) error
	Lapsed(ctx context.Context, now time.Time) ([]uuid.UUID, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	SweepHolds(ctx context.Context, before time.Time) error
}

func (s *Deeds) sweepStore() schedule.Store[sweepTx] {
	return schedule.Narrow(s.Store, func(tx Tx) sweepTx { return tx })
}

// Sweep ends the requests that nobody answered in time, drops holds that are over, gives
// what became clear to who waits for it, and asks whether rooms are still needed. It can
// run at any time, and twice without harm.
func (s *Deeds) Sweep(ctx context.Context) error {
	err := s.sweepStore().InTx(ctx, func(tx sweepTx) error {
		if err := tx.SweepHolds(ctx, s.Now().Add(-time.Hour)); err != nil {
			return err
		}
		if err := tx.DropWaited(ctx, s.Now()); err != nil {
			return err
		}
		return s.Kernel.OfferTo(ctx, tx, nil)
	})
	if err != nil {
		return err
	}
	if err := s.askStillNeeded(ctx); err != nil {
		return err
	}
	for {
		var due []uuid.UUID
		err := s.sweepStore().Look(ctx, func(tx sweepTx) (err error) {
			due, err = tx.Lapsed(ctx, s.Now())
			return err
		})
		if err != nil || len(due) == 0 {
			return err
		}
		for _, id := range due {
			if err := s.lapse(ctx, id); err != nil {
				return err
			}
		}
	}
}

func (s *Deeds) lapse(ctx context.Context, id uuid.UUID) error {
	return s.sweepStore().InTx(ctx, func(tx sweepTx) error {
		q, record, room, err := locked(ctx, tx, id)
		if err != nil || q.State != schedule.RequestOpen || q.LapsesAt.After(s.Now()) {
			return err
		}
		return s.close(ctx, tx, q, record, room, schedule.RequestLapsed, meeting.Event{Kind: meeting.EventRoomLapsed, Name: room.Name})
	})
}

// askStillNeeded asks organisers about rooms of meetings to which nobody has said that
// they come.
func (s *Deeds) askStillNeeded(ctx context.Context) error {
	now := when.At(s.Now())
	var due []schedule.BookedDate
	err := s.sweepStore().Look(ctx, func(tx sweepTx) (err error) {
		due, err = tx.BookedSoon(ctx, when.Span{Start: now, End: now.Add(core.UnsureWithin)}, uuid.Nil)
		return err
	})
	if err != nil {
		return err
	}
	for _, d := range due {
		if d.Asked || !d.Unsure(now) {
			continue
		}
		err := s.sweepStore().InTx(ctx, func(tx sweepTx) error {
			record, err := tx.Meeting(ctx, d.MeetingID)
			date, is := record.Content.Date(d.On)
			if err != nil || !is || date.Room == nil {
				return err
			}
			first, err := tx.AskStillNeeded(ctx, d.MeetingID, d.On, s.Now())
			if err != nil || !first {
				return err
			}
			e := meeting.Event{Kind: meeting.EventStillNeeded, Name: date.Room.Name}
			if record.Content.Repeats() {
				e.On = d.On
			}
			if err := s.Happened(ctx, tx, record, uuid.Nil, e); err != nil {
				return err
			}
			return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: record.ID})
		})
		if err != nil {
			return err
		}
	}
	return nil
}
