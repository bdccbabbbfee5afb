package meetings

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
)

// roomStateTx is what is needed here of a transaction.
type roomStateTx interface {
	directory.LookupTx
	BookedSoon(ctx context.Context, window when.Span, meetingID uuid.UUID) ([]schedule.BookedDate, error)
	Requests(ctx context.Context, meetingID uuid.UUID) ([]schedule.RoomRequest, error)
}

// RoomState is how a meeting stands with its room, on dates that are still to come: booked
// unless its keeper is asked, or has refused. Words say who, until when and why.
type RoomState struct {
	State string
	Words string
	// Unsure are dates of which it is asked whether the room is still needed; for the
	// organiser.
	Unsure []when.Day
}

func (s *Deeds) roomState(ctx context.Context, tx roomStateTx, record schedule.Record, who schedule.Actor) (state RoomState, err error) {
	state = RoomState{State: string(schedule.KindBooked)}
	if record.OrganiserID == who.For && record.CalledOffAt == nil {
		if state.Unsure, err = s.unsure(ctx, tx, record); err != nil {
			return state, err
		}
	}
	if record.Content.Room == nil {
		return state, nil
	}
	requests, err := tx.Requests(ctx, record.ID)
	if err != nil || len(requests) == 0 {
		return state, err
	}
	reader, err := directory.Person(ctx, tx, who.For)
	if err != nil {
		return state, err
	}
	wanted := map[when.Day]schedule.Occurrence{}
	for _, o := range s.Kernel.RoomDates(record.Content) {
		wanted[o.On] = o
	}
	for _, r := range requests {
		if r.RoomID.String() != record.Content.Room.ID || !slices.ContainsFunc(r.Dates, func(d schedule.Occurrence) bool {
			w := wanted[d.On]
			return w.RoomID == r.RoomID && w.Span == d.Span && d.Span.End > when.At(s.Now())
		}) {
			continue
		}
		switch {
		case r.State == schedule.RequestOpen:
			state.State, state.Words = string(schedule.KindAsked), words.RoomAsked(schedule.Tongue(ctx), when.At(r.LapsesAt), reader.Hours.Zone)
		case r.No():
			by := ""
			if people, err := tx.People(ctx, []uuid.UUID{r.DecidedBy}); err != nil {
				return state, err
			} else if len(people) > 0 {
				by = people[0].Name
			}
			state.State, state.Words = string(schedule.KindRefused), words.RoomRefused(schedule.Tongue(ctx), by, r.Word)
		case r.State == schedule.RequestAgreed:
			state.State, state.Words = string(schedule.KindBooked), ""
		}
	}
	return state, nil
}

// unsure are the dates of a meeting of which it is asked whether the room is still needed, until
// the organiser says so.
func (s *Deeds) unsure(ctx context.Context, tx roomStateTx, record schedule.Record) (days []when.Day, err error) {
	now := when.At(s.Now())
	soon, err := tx.BookedSoon(ctx, when.Span{Start: now, End: now.Add(rooms.UnsureWithin)}, record.ID)
	for _, d := range soon {
		if d.Unsure(now) {
			days = append(days, d.On)
		}
	}
	return days, err
}

// keepRoomTx is what is needed here of a transaction.
type keepRoomTx interface {
	kernel.Locking
	KeepRoom(ctx context.Context, meetingID uuid.UUID, on when.Day, now time.Time) error
}

func (s *Deeds) keepRoomStore() schedule.Store[keepRoomTx] {
	return schedule.Narrow(s.Store, func(tx Tx) keepRoomTx { return tx })
}

// KeepRoom says that the room of a date is still needed, though nobody has said that they
// come.
func (s *Deeds) KeepRoom(ctx context.Context, who schedule.Actor, id uuid.UUID, on when.Day) error {
	return s.keepRoomStore().InTx(ctx, func(tx keepRoomTx) error {
		record, err := kernel.Organised(ctx, tx, who, id)
		if err != nil {
			return err
		}
		if _, is := record.Content.Date(on); !is {
			return schedule.ErrNotFound
		}
		return tx.KeepRoom(ctx, id, on, s.Now())
	})
}
