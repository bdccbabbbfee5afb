package postgres

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

func toSpan(starts, ends time.Time) when.Span {
	return when.Span{Start: when.At(starts), End: when.At(ends)}
}

func (t *tx) SetOccurrence(ctx context.Context, meetingID uuid.UUID, span when.Span) (uuid.UUID, error) {
	if err := t.DeleteOccurrences(ctx, meetingID); err != nil {
		return uuid.Nil, err
	}
	id := uuid.New()
	return id, t.InsertOccurrence(ctx, db.InsertOccurrenceParams{ID: id, MeetingID: meetingID, Starts: span.Start.Time(), Ends: span.End.Time()})
}

func (t *tx) DropOccurrences(ctx context.Context, meetingID uuid.UUID) error {
	return t.DeleteOccurrences(ctx, meetingID)
}

func (t *tx) AddBusy(ctx context.Context, occurrenceID uuid.UUID, b schedule.BusyTime) error {
	row := db.InsertBusyParams{PersonID: b.PersonID, Starts: b.Span.Start.Time(), Ends: b.Span.End.Time(), Kind: string(b.Kind)}
	if occurrenceID != uuid.Nil {
		row.OccurrenceID = &occurrenceID
	}
	return t.InsertBusy(ctx, row)
}

func (t *tx) SetBusy(ctx context.Context, meetingID, personID uuid.UUID, kind schedule.BusyKind) error {
	if err := t.DeleteBusyOfMeeting(ctx, db.DeleteBusyOfMeetingParams{MeetingID: meetingID, PersonID: personID}); err != nil || kind == "" {
		return err
	}
	return t.AddBusyOfMeeting(ctx, db.AddBusyOfMeetingParams{MeetingID: meetingID, PersonID: personID, Kind: string(kind)})
}

func (t *tx) BusyTimes(ctx context.Context, people []uuid.UUID, window when.Span, but uuid.UUID) ([]schedule.BusyTime, error) {
	rows, err := t.Queries.BusyTimes(ctx, db.BusyTimesParams{People: people, Starts: window.Start.Time(), Ends: window.End.Time(), But: but})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.BusyTimesRow) (schedule.BusyTime, error) {
		return schedule.BusyTime{PersonID: r.PersonID, Span: toSpan(r.Starts, r.Ends), Kind: schedule.BusyKind(r.Kind)}, nil
	})
}

func (t *tx) AddBooking(ctx context.Context, occurrenceID, roomID uuid.UUID, span when.Span, now time.Time) error {
	// Those who want one room go one after the other: two inserts that wait for
	// each other at the constraint would be a deadlock.
	if err := t.LockRoom(ctx, roomID.String()); err != nil {
		return err
	}
	return domain(t.InsertBooking(ctx, db.InsertBookingParams{ID: uuid.New(), RoomID: roomID, OccurrenceID: occurrenceID,
		Starts: span.Start.Time(), Ends: span.End.Time(), BookedAt: now}))
}

func (t *tx) Bookings(ctx context.Context, rooms []uuid.UUID, window when.Span, but uuid.UUID) ([]schedule.Booking, error) {
	if rooms == nil {
		rooms = []uuid.UUID{}
	}
	rows, err := t.Queries.Bookings(ctx, db.BookingsParams{Rooms: rooms, Starts: window.Start.Time(), Ends: window.End.Time(), But: but})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.BookingsRow) (schedule.Booking, error) {
		return schedule.Booking{RoomID: r.RoomID, Span: toSpan(r.Starts, r.Ends), BookedAt: r.BookedAt, By: r.ByName, Private: r.Private}, nil
	})
}

func (t *tx) WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error) {
	rows, err := t.Queries.WeekMeetings(ctx, db.WeekMeetingsParams{Person: &personID, Starts: window.Start.Time(), Ends: window.End.Time()})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.WeekMeetingsRow) (schedule.InWeek, error) {
		w := schedule.InWeek{ID: r.ID, Span: toSpan(r.Starts, r.Ends), OrganiserID: r.OrganiserID,
			Answer: meeting.Answer(r.Answer), Unreached: r.Unreached}
		return w, json.Unmarshal(r.Content, &w.Content)
	})
}

func (t *tx) Leave(ctx context.Context, personID uuid.UUID, window when.Span) (when.Spans, error) {
	rows, err := t.Queries.Leave(ctx, db.LeaveParams{Person: personID, Starts: window.Start.Time(), Ends: window.End.Time()})
	if err != nil {
		return nil, err
	}
	spans, err := each(rows, func(r db.LeaveRow) (when.Span, error) { return toSpan(r.Starts, r.Ends), nil })
	return when.Union(spans...), err
}
