package postgres

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// hidden tells whether who has a booking is kept from its reader: by the meeting, or by
// what its organiser shares of their time.
func hidden(private bool, shares string) bool {
	return private || !availability.Level(shares).Times()
}

func toSpan(starts, ends time.Time) when.Span {
	return when.Span{Start: when.At(starts), End: when.At(ends)}
}

// dayTime and toDay carry a day through a DATE.
func dayTime(d when.Day) time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

func toDay(t time.Time) when.Day { return when.DayOf(t.Date()) }

// dayOrNull is null for the day 0.
func dayOrNull(d when.Day) *time.Time {
	if d == 0 {
		return nil
	}
	t := dayTime(d)
	return &t
}

// Occurrences are the dates of a meeting as they are written, in their order.
func (t *Tx) Occurrences(ctx context.Context, meetingID uuid.UUID) ([]schedule.Occurrence, error) {
	rows, err := t.Queries.Occurrences(ctx, meetingID)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.OccurrencesRow) (schedule.Occurrence, error) {
		o := schedule.Occurrence{ID: r.ID, On: toDay(r.OnDay), Span: toSpan(r.Starts, r.Ends), Kind: schedule.BookingKind(r.Kind)}
		if r.RoomID != nil {
			o.RoomID = *r.RoomID
		}
		return o, nil
	})
}

// SetOccurrences makes these the dates of a meeting and books their rooms;
// what is the same already stays. Where a room is taken nothing is changed
// and the clashes are given. A booking that the database itself refuses is
// ErrOverlap; the transaction can only be rolled back then.
func (t *Tx) SetOccurrences(ctx context.Context, meetingID, owner uuid.UUID, all []schedule.Occurrence, now time.Time) ([]schedule.Clash, error) {
	current, err := t.Occurrences(ctx, meetingID)
	if err != nil {
		return nil, err
	}
	var gone, fresh []schedule.Occurrence
	wanted, kept := map[when.Day]schedule.Occurrence{}, map[when.Day]bool{}
	for _, o := range all {
		wanted[o.On] = o
	}
	for _, o := range current {
		if w, is := wanted[o.On]; is && w.Span == o.Span && w.RoomID == o.RoomID {
			kept[o.On] = true
		} else {
			gone = append(gone, o)
		}
	}
	for _, o := range all {
		if !kept[o.On] {
			fresh = append(fresh, o)
		}
	}
	// Those who want one room, or give one back, go one after the other and take
	// rooms in one order: two transactions that wait for each other at the
	// constraint would be a deadlock.
	if err := t.LockRooms(ctx, roomsOf(slices.Concat(gone, fresh))); err != nil {
		return nil, err
	}
	if clashes, err := t.Clashes(ctx, schedule.View{But: meetingID, For: owner, Now: now}, fresh); err != nil || len(clashes) > 0 {
		return clashes, err
	}
	if err := t.ClearHolds(ctx, owner, fresh, now); err != nil {
		return nil, err
	}
	ids := make([]uuid.UUID, len(gone))
	for i, o := range gone {
		ids[i] = o.ID
	}
	if err := t.DeleteOccurrences(ctx, ids); err != nil {
		return nil, err
	}
	return nil, t.insertOccurrences(ctx, meetingID, fresh, now)
}

// LockRooms makes whoever else wants one of these rooms wait; rooms are locked in
// one order.
func (t *Tx) LockRooms(ctx context.Context, rooms []uuid.UUID) error {
	var names []string
	for _, r := range rooms {
		if r != uuid.Nil {
			names = append(names, r.String())
		}
	}
	slices.Sort(names)
	for _, name := range slices.Compact(names) {
		if err := t.LockRoom(ctx, name); err != nil {
			return err
		}
	}
	return nil
}

func roomsOf(all []schedule.Occurrence) (rooms []uuid.UUID) {
	for _, o := range all {
		rooms = append(rooms, o.RoomID)
	}
	return rooms
}

// ClearHolds drops the holds where bookings are to be: those that are over, and those of
// their owner.
func (t *Tx) ClearHolds(ctx context.Context, owner uuid.UUID, wanted []schedule.Occurrence, now time.Time) error {
	ask := db.DeleteHoldsInParams{Owner: owner, Now: now}
	for _, o := range wanted {
		if o.RoomID != uuid.Nil {
			ask.Rooms, ask.Starts, ask.Ends = append(ask.Rooms, o.RoomID), append(ask.Starts, o.RoomSpan().Start.Time()), append(ask.Ends, o.RoomSpan().End.Time())
		}
	}
	if len(ask.Rooms) == 0 {
		return nil
	}
	return t.DeleteHoldsIn(ctx, ask)
}

// Clashes are what stands against bookings that are wanted, with what has to stay clear
// around them.
func (t *Tx) Clashes(ctx context.Context, view schedule.View, wanted []schedule.Occurrence) ([]schedule.Clash, error) {
	wanted = slices.DeleteFunc(slices.Clone(wanted), func(o schedule.Occurrence) bool { return o.RoomID == uuid.Nil })
	if len(wanted) == 0 {
		return nil, nil
	}
	ask := db.ClashesParams{But: view.But, Owner: view.For, Now: view.Now}
	for _, o := range wanted {
		ask.Rooms, ask.Starts, ask.Ends = append(ask.Rooms, o.RoomID), append(ask.Starts, o.RoomSpan().Start.Add(-o.Gap).Time()), append(ask.Ends, o.RoomSpan().End.Add(o.Gap).Time())
	}
	rows, err := t.Queries.Clashes(ctx, ask)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.ClashesRow) (schedule.Clash, error) {
		return schedule.Clash{Wanted: wanted[r.Wanted-1], Booking: schedule.Booking{RoomID: r.RoomID, Span: toSpan(r.Starts, r.Ends),
			BookedAt: r.BookedAt, By: r.ByName, Private: hidden(r.Private, r.Shares), Kind: schedule.BookingKind(r.Kind), Until: r.Until}}, nil
	})
}

func (t *Tx) insertOccurrences(ctx context.Context, meetingID uuid.UUID, all []schedule.Occurrence, now time.Time) error {
	rows := db.InsertOccurrencesParams{MeetingID: meetingID}
	bookings := db.InsertBookingsParams{MeetingID: meetingID, BookedAt: now}
	for _, o := range all {
		id, starts, ends := uuid.New(), o.Span.Start.Time(), o.Span.End.Time()
		rows.Ids, rows.OnDays = append(rows.Ids, id), append(rows.OnDays, dayTime(o.On))
		rows.Starts, rows.Ends = append(rows.Starts, starts), append(rows.Ends, ends)
		if o.RoomID != uuid.Nil {
			bookings.Rooms, bookings.Occurrences = append(bookings.Rooms, o.RoomID), append(bookings.Occurrences, id)
			bookings.Starts, bookings.Ends = append(bookings.Starts, o.RoomSpan().Start.Time()), append(bookings.Ends, o.RoomSpan().End.Time())
			bookings.Kinds = append(bookings.Kinds, string(cmp.Or(o.Kind, schedule.KindBooked)))
		}
	}
	if err := t.InsertOccurrences(ctx, rows); err != nil {
		return err
	}
	return domain(t.InsertBookings(ctx, bookings))
}

// DropOccurrences drops the dates of a meeting, with their bookings and the time that they take.
func (t *Tx) DropOccurrences(ctx context.Context, meetingID uuid.UUID) error {
	return t.DeleteOccurrencesOfMeeting(ctx, meetingID)
}

// SetWrittenTo says up to which day the dates are written down, 0 for all.
func (t *Tx) SetWrittenTo(ctx context.Context, meetingID uuid.UUID, day when.Day) error {
	return t.Queries.SetWrittenTo(ctx, db.SetWrittenToParams{ID: meetingID, WrittenTo: dayOrNull(day)})
}

// WrittenBefore are the series written down to a day before this one only.
func (t *Tx) WrittenBefore(ctx context.Context, day when.Day) ([]uuid.UUID, error) {
	return t.MeetingsWrittenTo(ctx, dayOrNull(day))
}

// SetBusy makes these the times that a meeting takes of one person, or of
// everybody with uuid.Nil.
func (t *Tx) SetBusy(ctx context.Context, meetingID, personID uuid.UUID, taken []schedule.BusyTime) error {
	if err := t.DeleteBusyOfMeeting(ctx, db.DeleteBusyOfMeetingParams{MeetingID: &meetingID, PersonID: personID}); err != nil {
		return err
	}
	return t.AddBusy(ctx, taken)
}

// SetParticipations makes these the rows of who is asked to which date of a meeting, of everybody
// or, with only, of one of those invited.
func (t *Tx) SetParticipations(ctx context.Context, meetingID, only uuid.UUID, all []schedule.Participation) error {
	rows := db.SetParticipationsParams{MeetingID: meetingID, One: only}
	for _, p := range all {
		rows.Participants, rows.Occurrences, rows.People = append(rows.Participants, p.ParticipantID), append(rows.Occurrences, p.OccurrenceID), append(rows.People, p.PersonID)
		rows.Needed, rows.Answers, rows.Waits = append(rows.Needed, p.Needed), append(rows.Answers, string(p.Answer)), append(rows.Waits, p.Waits())
	}
	return t.Queries.SetParticipations(ctx, rows)
}

// ParticipationsDue are some of the meetings whose rows are still to be written.
func (t *Tx) ParticipationsDue(ctx context.Context, most int) ([]uuid.UUID, error) {
	return t.Queries.ParticipationsDue(ctx, int32(most))
}

// AddBusy takes somebody's time.
func (t *Tx) AddBusy(ctx context.Context, taken []schedule.BusyTime) error {
	if len(taken) == 0 {
		return nil
	}
	var rows db.InsertBusyParams
	for _, b := range inParts(taken) {
		rows.People, rows.Occurrences, rows.Meetings = append(rows.People, b.PersonID), append(rows.Occurrences, b.OccurrenceID), append(rows.Meetings, b.MeetingID)
		rows.Starts, rows.Ends = append(rows.Starts, b.Span.Start.Time()), append(rows.Ends, b.Span.End.Time())
		rows.Kinds, rows.Sources = append(rows.Kinds, string(b.Kind)), append(rows.Sources, sourceOf(b))
	}
	return t.InsertBusy(ctx, rows)
}

// sourceOf is what a busy time comes from.
func sourceOf(b schedule.BusyTime) string {
	if b.MeetingID == uuid.Nil {
		return "leave"
	}
	return "meeting"
}

// longest is how long one row of busy time can be; the queries count on it.
const longest = 24 * time.Hour

// since is where busy time that reaches into a window begins at the earliest.
func since(window when.Span) time.Time { return window.Start.Add(-longest).Time() }

// inParts cuts what is longer than a row can be, leave above all.
func inParts(taken []schedule.BusyTime) (out []schedule.BusyTime) {
	for _, b := range taken {
		for ; b.Span.Length() > longest; b.Span.Start = b.Span.Start.Add(longest) {
			part := b
			part.Span.End = b.Span.Start.Add(longest)
			out = append(out, part)
		}
		out = append(out, b)
	}
	return out
}

// ZonesInUse and MeetingsInZone look at meetings with a date to come; a zone's
// print is what its rules were when their instants were written down, "" when
// they never were.
func (t *Tx) ZonesInUse(ctx context.Context, now time.Time) ([]string, error) {
	return t.Queries.ZonesInUse(ctx, now)
}

// MeetingsInZone are the meetings of a zone with a date to come.
func (t *Tx) MeetingsInZone(ctx context.Context, zone string, now time.Time) ([]uuid.UUID, error) {
	return t.Queries.MeetingsInZone(ctx, db.MeetingsInZoneParams{Zone: zone, Now: now})
}

// ZonePrint stands for the rules of a zone as meetings were written by them, "" for none.
func (t *Tx) ZonePrint(ctx context.Context, zone string) (string, error) {
	print, err := t.Queries.ZonePrint(ctx, zone)
	if err = domain(err); err == schedule.ErrNotFound {
		return "", nil
	}
	return print, err
}

// SetZonePrint keeps that.
func (t *Tx) SetZonePrint(ctx context.Context, zone, print string) error {
	return t.Queries.SetZonePrint(ctx, db.SetZonePrintParams{Zone: zone, Print: print})
}

// edges are the starts and ends of windows.
func edges(windows when.Spans) (starts, ends []time.Time) {
	for _, w := range windows {
		starts, ends = append(starts, w.Start.Time()), append(ends, w.End.Time())
	}
	return starts, ends
}

// BusyTimes are what people's time is taken by in some windows. The parts of long times come
// one by one, and those that reach into two windows twice.
func (t *Tx) BusyTimes(ctx context.Context, people []uuid.UUID, windows when.Spans, view schedule.View) (map[uuid.UUID][]availability.Time, error) {
	ask := db.BusyTimesParams{People: people, But: view.But, Now: view.Now}
	ask.Starts, ask.Ends = edges(windows)
	rows, err := t.Queries.BusyTimes(ctx, ask)
	if err != nil {
		return nil, err
	}
	out := make(map[uuid.UUID][]availability.Time, len(people))
	for _, r := range rows {
		taken := make([]availability.Time, 0, len(r.BusyStarts)+len(r.MaybeStarts)+len(r.LeaveStarts))
		for _, k := range []struct {
			kind         availability.Kind
			starts, ends []time.Time
		}{{availability.Busy, r.BusyStarts, r.BusyEnds}, {availability.Maybe, r.MaybeStarts, r.MaybeEnds}, {availability.Leave, r.LeaveStarts, r.LeaveEnds}} {
			for i := range k.starts {
				taken = append(taken, availability.Time{Span: toSpan(k.starts[i], k.ends[i]), Kind: k.kind})
			}
		}
		if len(taken) > 0 {
			out[r.PersonID] = taken
		}
	}
	return out, nil
}

// Bookings are those of the rooms given, of every room where none is, in some
// windows. Those that reach into two windows come twice.
func (t *Tx) Bookings(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) ([]schedule.Booking, error) {
	starts, ends := edges(windows)
	var rows []db.BookingsRow
	var err error
	if len(rooms) == 0 {
		rows, err = t.Queries.Bookings(ctx, db.BookingsParams{Starts: starts, Ends: ends, But: view.But, Reader: view.For, Now: view.Now})
	} else {
		var some []db.RoomBookingsRow
		some, err = t.Queries.RoomBookings(ctx, db.RoomBookingsParams{Rooms: rooms, Starts: starts, Ends: ends, But: view.But, Reader: view.For, Now: view.Now})
		for _, r := range some {
			rows = append(rows, db.BookingsRow(r))
		}
	}
	if err != nil {
		return nil, err
	}
	out := make([]schedule.Booking, len(rows))
	for i, r := range rows {
		out[i] = schedule.Booking{RoomID: r.RoomID, Span: toSpan(r.Starts, r.Ends), BookedAt: r.BookedAt, By: r.ByName, Private: hidden(r.Private, r.Shares),
			Kind: schedule.BookingKind(r.Kind), Until: r.Until}
	}
	slices.SortFunc(out, func(a, b schedule.Booking) int { return cmp.Compare(a.Span.Start, b.Span.Start) })
	return out, nil
}

// RoomsTaken is what all rooms are taken by in a window, as one person may know it once
// what is private is left out.
func (t *Tx) RoomsTaken(ctx context.Context, person uuid.UUID, window when.Span, now time.Time) ([]schedule.RoomUse, error) {
	rows, err := t.Queries.RoomsTaken(ctx, db.RoomsTakenParams{Person: person, Titled: titled, Starts: window.Start.Time(), Ends: window.End.Time(), Now: now})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.RoomsTakenRow) (schedule.RoomUse, error) { return toRoomUse(r.RoomID, r), nil })
}

// Taken is when the rooms given, or all where none is, are taken in some windows,
// by their IDs.
func (t *Tx) Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) (map[string]when.Spans, error) {
	starts, ends := edges(windows)
	var rows []db.TakenRoomsRow
	var err error
	if len(rooms) == 0 {
		rows, err = t.Queries.TakenRooms(ctx, db.TakenRoomsParams{Starts: starts, Ends: ends, But: view.But, Reader: view.For, Now: view.Now})
	} else {
		var some []db.TakenOfRow
		some, err = t.Queries.TakenOf(ctx, db.TakenOfParams{Rooms: rooms, Starts: starts, Ends: ends, But: view.But, Reader: view.For, Now: view.Now})
		for _, r := range some {
			rows = append(rows, db.TakenRoomsRow(r))
		}
	}
	taken := make(map[string]when.Spans, len(rows))
	for _, r := range rows {
		spans := make([]when.Span, len(r.Starts))
		for i := range r.Starts {
			spans[i] = toSpan(r.Starts[i], r.Ends[i])
		}
		taken[r.RoomID.String()] = when.Union(spans...)
	}
	return taken, err
}

// WeekMeetings is what somebody organises or is invited to in a window, by its start.
func (t *Tx) WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error) {
	rows, err := t.Queries.WeekMeetings(ctx, db.WeekMeetingsParams{Person: personID, Since: since(window), LongSince: window.Start.Add(-meeting.LengthLimit).Time(), Starts: window.Start.Time(), Ends: window.End.Time()})
	if err != nil {
		return nil, err
	}
	found, err := each(rows, func(r db.WeekMeetingsRow) (schedule.InWeek, error) {
		w := schedule.InWeek{ID: r.ID, Version: int(r.Version), On: toDay(r.OnDay), Span: toSpan(r.Starts, r.Ends), OrganiserID: r.OrganiserID,
			Answer: meeting.Answer(r.Answer), Unreached: r.Unreached}
		for _, before := range r.OwnReminds {
			w.Reminds = append(w.Reminds, int(before))
		}
		if err := readSnapshot(int(r.Schema), r.Content, &w.Content); err != nil {
			return w, err
		}
		if p, invited := w.Content.Participant(r.ParticipantID.String()); invited && !p.On(w.On) {
			w.On = 0 // declined all, and was never invited to this one
		}
		return w, nil
	})
	return slices.DeleteFunc(found, func(w schedule.InWeek) bool { return w.On == 0 }), err
}

// Leave is when somebody is on leave in a window.
func (t *Tx) Leave(ctx context.Context, personID uuid.UUID, window when.Span) (when.Spans, error) {
	rows, err := t.Queries.Leave(ctx, db.LeaveParams{Person: personID, Since: since(window), Starts: window.Start.Time(), Ends: window.End.Time()})
	if err != nil {
		return nil, err
	}
	spans, err := each(rows, func(r db.LeaveRow) (when.Span, error) { return toSpan(r.Starts, r.Ends), nil })
	return when.Union(spans...), err
}
