package postgres

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

func toWaiting(r db.WaitingForRow) (schedule.Waiting, error) {
	w := r.Waiting
	return schedule.Waiting{SheetID: w.SheetID, PersonID: w.PersonID, MeetingID: idOr(w.MeetingID), RoomID: idOr(w.RoomID), People: r.People,
		Span: toSpan(w.Starts, w.Ends), Since: w.Since, TurnUntil: w.TurnUntil, State: schedule.WaitState(w.State)}, nil
}

// idOr is an id that may be null, uuid.Nil where it is.
func idOr(id *uuid.UUID) uuid.UUID {
	if id == nil {
		return uuid.Nil
	}
	return *id
}

// idOrNull is null for uuid.Nil.
func idOrNull(id uuid.UUID) *uuid.UUID {
	if id == uuid.Nil {
		return nil
	}
	return &id
}

// Wait has a sheet wait; it begins anew where it waited for something else.
func (t *Tx) Wait(ctx context.Context, w schedule.Waiting) error {
	err := t.SetWaiting(ctx, db.SetWaitingParams{SheetID: w.SheetID, PersonID: w.PersonID, MeetingID: idOrNull(w.MeetingID), RoomID: idOrNull(w.RoomID),
		Starts: w.Span.Start.Time(), Ends: w.Span.End.Time(), Since: w.Since})
	if err != nil {
		return err
	}
	if err := t.DropWaitedFor(ctx, w.SheetID); err != nil {
		return err
	}
	return t.InsertWaitedFor(ctx, db.InsertWaitedForParams{SheetID: w.SheetID, People: filled(w.People)})
}

// Waiting is what a sheet waits for, with how many wait for the same room before it; nil
// where it does not.
func (t *Tx) Waiting(ctx context.Context, sheetID uuid.UUID) (*schedule.Waiting, error) {
	row, err := t.WaitingOf(ctx, sheetID)
	if err = domain(err); errors.Is(err, schedule.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	w, err := toWaiting(db.WaitingForRow{Waiting: row.Waiting, People: row.People})
	w.Before = int(row.Before)
	return &w, err
}

// StopWaiting has a sheet wait no more; it tells whether it did.
func (t *Tx) StopWaiting(ctx context.Context, sheetID uuid.UUID) (bool, error) {
	n, err := t.DeleteWaiting(ctx, sheetID)
	return n > 0, err
}

// WaitingFor are those who wait, for some rooms or for anything where none is given, in
// the order in which they began; those whose turn is over among them.
func (t *Tx) WaitingFor(ctx context.Context, rooms []uuid.UUID, now time.Time) ([]schedule.Waiting, error) {
	rows, err := t.Queries.WaitingFor(ctx, db.WaitingForParams{Rooms: filled(rooms), Now: &now})
	if err != nil {
		return nil, err
	}
	return each(rows, toWaiting)
}

// WaitingInRoom is who waits for a room, the first first.
func (t *Tx) WaitingInRoom(ctx context.Context, room uuid.UUID, now time.Time) ([]schedule.WaitingPerson, error) {
	rows, err := t.WaitingRooms(ctx, db.WaitingRoomsParams{Room: &room, Now: now})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.WaitingRoomsRow) (schedule.WaitingPerson, error) {
		return schedule.WaitingPerson{Name: r.Name, Span: toSpan(r.Starts, r.Ends)}, nil
	})
}

// GiveTurn says whose turn it is until a moment; nil ends a turn.
func (t *Tx) GiveTurn(ctx context.Context, sheetID uuid.UUID, until *time.Time) error {
	state := schedule.WaitTurn
	if until == nil {
		state = schedule.WaitPassed
	}
	return t.SetTurn(ctx, db.SetTurnParams{SheetID: sheetID, State: string(state), TurnUntil: until})
}

// DropWaited forgets what was waited for until it began.
func (t *Tx) DropWaited(ctx context.Context, now time.Time) error { return t.DeleteWaited(ctx, now) }

// BookedSoon are dates of a meeting, or with uuid.Nil of all, with a booked room, that begin in a
// window.
func (t *Tx) BookedSoon(ctx context.Context, window when.Span, meetingID uuid.UUID) ([]schedule.BookedDate, error) {
	rows, err := t.Queries.BookedSoon(ctx, db.BookedSoonParams{After: window.Start.Time(), Before: window.End.Time(), MeetingID: meetingID})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.BookedSoonRow) (schedule.BookedDate, error) {
		return schedule.BookedDate{MeetingID: r.MeetingID, On: toDay(r.OnDay), Starts: when.At(r.Starts), Answers: answersOf(r.Answers), Asked: r.Asked, Kept: r.Kept}, nil
	})
}

func answersOf(names []string) []meeting.Answer {
	out := make([]meeting.Answer, len(names))
	for i, n := range names {
		out[i] = meeting.Answer(n)
	}
	return out
}

// AskStillNeeded notes that it was asked; it tells whether it had not been before.
func (t *Tx) AskStillNeeded(ctx context.Context, meetingID uuid.UUID, on when.Day, now time.Time) (bool, error) {
	n, err := t.AddStillNeeded(ctx, db.AddStillNeededParams{MeetingID: meetingID, OnDay: dayTime(on), AskedAt: now})
	return n > 0, err
}

// KeepRoom notes that the room of a date is still needed.
func (t *Tx) KeepRoom(ctx context.Context, meetingID uuid.UUID, on when.Day, now time.Time) error {
	return t.KeepNeeded(ctx, db.KeepNeededParams{MeetingID: meetingID, OnDay: dayTime(on), At: now})
}
