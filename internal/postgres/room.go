package postgres

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/join"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// storedRules is how the rules of a room are kept; lengths are in minutes.
type storedRules struct {
	Schema   int        `json:"schema"`
	By       string     `json:"by,omitempty"`
	People   []string   `json:"people,omitempty"`
	Others   string     `json:"others,omitempty"`
	Longest  int        `json:"longest,omitempty"`
	Ahead    int        `json:"ahead,omitempty"`
	Gap      int        `json:"gap,omitempty"`
	Open     *week      `json:"open,omitempty"`
	Holidays bool       `json:"holidays,omitempty"`
	Closed   []when.Day `json:"closed,omitempty"`
	Share    int        `json:"share,omitempty"`
	Always   bool       `json:"agreeAlways,omitempty"`
	Above    int        `json:"agreeAbove,omitempty"`
	After    when.Clock `json:"agreeAfter,omitempty"`
	Within   int        `json:"agreeWithin,omitempty"`
	Outside  bool       `json:"outside,omitempty"`
}

const rulesSchema = 1

func rulesJSON(r rooms.Rules) []byte {
	minutes := func(d time.Duration) int { return int(d / time.Minute) }
	open := weekOf(r.Open)
	s := storedRules{Schema: rulesSchema, By: string(r.By), People: r.People, Others: string(r.Others), Longest: minutes(r.Longest), Ahead: r.Ahead, Gap: minutes(r.Gap),
		Open: &open, Holidays: r.Holidays, Closed: r.Closed, Share: r.Share, Always: r.Agree.Always, Above: minutes(r.Agree.Above), After: r.Agree.After, Within: r.Agree.Within, Outside: r.Outside}
	return must(s)
}

func toRules(b []byte) (rooms.Rules, error) {
	var s storedRules
	if err := json.Unmarshal(b, &s); err != nil {
		return rooms.Rules{}, err
	}
	if s.Schema != rulesSchema {
		return rooms.Rules{}, fmt.Errorf("rules of a room in shape %d, which this program does not know", s.Schema)
	}
	length := func(minutes int) time.Duration { return time.Duration(minutes) * time.Minute }
	r := rooms.Rules{By: rooms.By(s.By), People: s.People, Others: rooms.Others(s.Others), Longest: length(s.Longest), Ahead: s.Ahead, Gap: length(s.Gap),
		Holidays: s.Holidays, Closed: s.Closed, Share: s.Share, Outside: s.Outside,
		Agree: rooms.Agree{Always: s.Always, Above: length(s.Above), After: s.After, Within: s.Within}}
	if s.Open != nil {
		r.Open = s.Open.hours()
	}
	return r, nil
}

func toRoom(r db.RoomsRow) (schedule.Room, error) {
	out := schedule.Room{ID: r.Room.ID, SiteID: r.Room.SiteID, Name: r.Room.Name, Site: r.Site, Holidays: r.Holidays, Floor: r.Room.Floor,
		Seats: int(r.Room.Seats), Equipment: r.Room.Equipment, Email: r.Room.Email, Directions: r.Room.Directions, Link: r.Room.Link,
		Keepers: r.Keepers, KeptBy: r.Keepers, Version: int(r.Room.Version)}
	if len(out.KeptBy) == 0 { // who keeps all rooms keeps it
		out.KeptBy = r.KeepAll
	}
	var err error
	if out.Zone, err = when.LoadZone(r.Zone); err != nil {
		return out, err
	}
	out.Rules, err = toRules(r.Room.Rules)
	return out, err
}

// LockRoomToChange is a room, held for a change of what it is like.
func (t *Tx) LockRoomToChange(ctx context.Context, id uuid.UUID) (schedule.Room, error) {
	if _, err := t.LockRoomRow(ctx, id); err != nil {
		return schedule.Room{}, domain(err)
	}
	found, err := t.RoomsByID(ctx, []uuid.UUID{id}) // as it is once the lock is had
	if err == nil && len(found) == 0 {
		err = schedule.ErrNotFound
	}
	if err != nil {
		return schedule.Room{}, err
	}
	return found[0], nil
}

// SetRoom keeps what a room is like, as its next version.
func (t *Tx) SetRoom(ctx context.Context, r schedule.Room) error {
	if err := domain(t.UpdateRoom(ctx, db.UpdateRoomParams{ID: r.ID, SiteID: r.SiteID, Name: r.Name, Floor: r.Floor, Seats: int32(r.Seats), Equipment: filled(r.Equipment),
		Email: r.Email, Directions: r.Directions, Link: r.Link, Rules: rulesJSON(r.Rules)})); err != nil {
		return err
	}
	if err := t.keepKeepers(ctx, r); err != nil {
		return err
	}
	return t.keepRoomLink(ctx, r)
}

// keepRoomLink has the standing link of a room say what the room does, with what else is
// known of the same call.
func (t *Tx) keepRoomLink(ctx context.Context, r schedule.Room) error {
	if r.Link == "" {
		return t.DropStandingLink(ctx, r.ID)
	}
	kept, err := t.StandingLink(ctx, r.ID)
	if err != nil && !errors.Is(err, schedule.ErrNotFound) {
		return err
	}
	s := schedule.StandingLink{ID: r.ID, Kind: schedule.OfRoom, Name: r.Name, Card: join.Card{Kind: join.Standing, URL: r.Link, StandsAs: r.ID.String()}}
	if err == nil && join.SameAddress(kept.Card.URL, r.Link) {
		s.Card = kept.Card
	}
	return t.SetStandingLink(ctx, s, time.Now())
}

// AddRoom keeps a new room.
func (t *Tx) AddRoom(ctx context.Context, r schedule.Room) error {
	if err := domain(t.InsertRoom(ctx, db.InsertRoomParams{ID: r.ID, SiteID: r.SiteID, Name: r.Name, Floor: r.Floor, Seats: int32(r.Seats), Equipment: filled(r.Equipment),
		Email: r.Email, Directions: r.Directions, Link: r.Link, Rules: rulesJSON(r.Rules)})); err != nil {
		return err
	}
	if err := t.keepKeepers(ctx, r); err != nil || r.Link == "" {
		return err
	}
	return t.keepRoomLink(ctx, r)
}

// keepKeepers keeps who keeps a room.
func (t *Tx) keepKeepers(ctx context.Context, r schedule.Room) error {
	if err := t.DropKeepersOf(ctx, r.ID); err != nil || len(r.Keepers) == 0 {
		return err
	}
	return t.InsertKeepers(ctx, db.InsertKeepersParams{Room: r.ID, People: r.Keepers})
}

// filled is never nil: a column that may not be null takes no nil.
func filled[T any](all []T) []T {
	if all == nil {
		return []T{}
	}
	return all
}

// Sites are the sites of the house, by name.
func (t *Tx) Sites(ctx context.Context) ([]schedule.Site, error) {
	rows, err := t.Queries.Sites(ctx)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.Site) (schedule.Site, error) { return schedule.Site{ID: r.ID, Name: r.Name}, nil })
}

// Holds are what a sheet holds, over or not.
func (t *Tx) Holds(ctx context.Context, sheetID uuid.UUID) ([]schedule.RoomHold, error) {
	rows, err := t.HoldsOf(ctx, sheetID)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.HoldsOfRow) (schedule.RoomHold, error) {
		return schedule.RoomHold{RoomID: r.RoomID, Span: toSpan(r.Starts, r.Ends), Until: *r.Until}, nil
	})
}

// DropHolds gives back what a sheet holds.
func (t *Tx) DropHolds(ctx context.Context, sheetID uuid.UUID) error {
	return t.DeleteHoldsOf(ctx, sheetID)
}

// ProlongHolds keeps what a sheet holds until another moment.
func (t *Tx) ProlongHolds(ctx context.Context, sheetID uuid.UUID, until time.Time) error {
	return t.RenewHolds(ctx, db.RenewHoldsParams{SheetID: sheetID, Until: until})
}

// HoldRooms holds rooms for a sheet of somebody; the rooms have to be locked and clear.
func (t *Tx) HoldRooms(ctx context.Context, owner, sheetID, meetingID uuid.UUID, holds []schedule.RoomHold, now time.Time) error {
	rows := db.InsertHoldsParams{Owner: owner, SheetID: sheetID, MeetingID: meetingID, BookedAt: now}
	for _, h := range holds {
		rows.Rooms, rows.Starts, rows.Ends = append(rows.Rooms, h.RoomID), append(rows.Starts, h.Span.Start.Time()), append(rows.Ends, h.Span.End.Time())
		rows.Until = h.Until
	}
	return domain(t.InsertHolds(ctx, rows))
}

// HoldsElsewhere is how many other sheets of somebody hold something.
func (t *Tx) HoldsElsewhere(ctx context.Context, owner, sheetID uuid.UUID, now time.Time) (int, error) {
	n, err := t.OtherHolds(ctx, db.OtherHoldsParams{Owner: owner, SheetID: sheetID, Now: now})
	return int(n), err
}

// HeldSince is since when, and until when at the last, somebody held a room for a day;
// zero where they have not.
func (t *Tx) HeldSince(ctx context.Context, person, room uuid.UUID, on when.Day) (since, until time.Time, err error) {
	row, err := t.Queries.HeldSince(ctx, db.HeldSinceParams{Person: person, Room: room, OnDay: dayTime(on)})
	if err = domain(err); errors.Is(err, schedule.ErrNotFound) {
		err = nil
	}
	return row.Since, row.Until, err
}

// SetHeldSince keeps since when somebody holds a room on a day.
func (t *Tx) SetHeldSince(ctx context.Context, person, room uuid.UUID, on when.Day, since, until time.Time) error {
	return t.SetHeld(ctx, db.SetHeldParams{Person: person, Room: room, OnDay: dayTime(on), Since: since, Until: until})
}

// SweepHolds drops holds that were over before a moment.
func (t *Tx) SweepHolds(ctx context.Context, before time.Time) error {
	if err := t.Queries.SweepHolds(ctx, before); err != nil {
		return err
	}
	return t.SweepHeld(ctx, before.Add(-24*time.Hour))
}

func toRequest(q db.RoomRequest) (schedule.RoomRequest, error) {
	out := schedule.RoomRequest{ID: q.ID, RoomID: q.RoomID, MeetingID: q.MeetingID, AskedAt: q.AskedAt, LapsesAt: q.LapsesAt,
		State: schedule.RequestState(q.State), Word: q.Word, DecidedAt: q.DecidedAt}
	if q.DecidedBy != nil {
		out.DecidedBy = *q.DecidedBy
	}
	for i := range q.OnDays {
		out.Dates = append(out.Dates, schedule.Occurrence{On: toDay(q.OnDays[i]), Span: toSpan(q.Starts[i], q.Ends[i]), RoomID: q.RoomID})
	}
	var err error
	out.Reasons, err = readAll[rooms.Reason](reasonsShape, q.Reasons)
	return out, err
}

// Requests are what was asked of keepers for a meeting, the oldest first.
func (t *Tx) Requests(ctx context.Context, meetingID uuid.UUID) ([]schedule.RoomRequest, error) {
	rows, err := t.RequestsOfMeeting(ctx, meetingID)
	if err != nil {
		return nil, err
	}
	return each(rows, toRequest)
}

// LockRequest is what keepers are asked, and makes other transactions wait.
func (t *Tx) LockRequest(ctx context.Context, id uuid.UUID) (schedule.RoomRequest, error) {
	row, err := t.Queries.LockRequest(ctx, id)
	if err != nil {
		return schedule.RoomRequest{}, domain(err)
	}
	return toRequest(row)
}

// MeetingOfRequest is what a request is for.
func (t *Tx) MeetingOfRequest(ctx context.Context, id uuid.UUID) (uuid.UUID, error) {
	meetingID, err := t.RequestMeeting(ctx, id)
	return meetingID, domain(err)
}

func requestDates(dates []schedule.Occurrence) (on, starts, ends []time.Time) {
	for _, d := range dates {
		on, starts, ends = append(on, dayTime(d.On)), append(starts, d.Span.Start.Time()), append(ends, d.Span.End.Time())
	}
	return filled(on), filled(starts), filled(ends)
}

// AddRequest keeps what keepers are asked.
func (t *Tx) AddRequest(ctx context.Context, r schedule.RoomRequest) error {
	on, starts, ends := requestDates(r.Dates)
	return t.InsertRequest(ctx, db.InsertRequestParams{ID: r.ID, RoomID: r.RoomID, MeetingID: r.MeetingID, AskedAt: r.AskedAt, LapsesAt: r.LapsesAt,
		Reasons: writeAll(reasonsShape, r.Reasons), OnDays: on, Starts: starts, Ends: ends})
}

// SetRequest keeps how that stands.
func (t *Tx) SetRequest(ctx context.Context, r schedule.RoomRequest) error {
	on, starts, ends := requestDates(r.Dates)
	row := db.UpdateRequestParams{ID: r.ID, AskedAt: r.AskedAt, LapsesAt: r.LapsesAt, Reasons: writeAll(reasonsShape, r.Reasons), OnDays: on, Starts: starts, Ends: ends,
		State: string(r.State), Word: r.Word, DecidedAt: r.DecidedAt}
	if r.DecidedBy != uuid.Nil {
		row.DecidedBy = &r.DecidedBy
	}
	return t.UpdateRequest(ctx, row)
}

// OpenRequests are what waits for the keepers of some rooms, the next to lapse first.
func (t *Tx) OpenRequests(ctx context.Context, rooms []uuid.UUID, most int) ([]schedule.AskedRoom, error) {
	rows, err := t.Queries.OpenRequests(ctx, db.OpenRequestsParams{Rooms: rooms, Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.OpenRequestsRow) (schedule.AskedRoom, error) {
		q, err := toRequest(r.RoomRequest)
		out := schedule.AskedRoom{RoomRequest: q, OrganiserID: r.OrganiserID, By: r.ByName, Private: r.Private}
		if err != nil {
			return out, err
		}
		return out, readSnapshot(int(r.Schema), r.Content, &out.Content)
	})
}

// Lapsed are the open requests whose time is over.
func (t *Tx) Lapsed(ctx context.Context, now time.Time) ([]uuid.UUID, error) {
	return t.LapsedRequests(ctx, now)
}

// AgreeTo turns what is asked of a room for a meeting into bookings.
func (t *Tx) AgreeTo(ctx context.Context, meetingID, roomID uuid.UUID) error {
	return t.AgreeBookings(ctx, db.AgreeBookingsParams{MeetingID: meetingID, RoomID: roomID})
}

// RefuseTo gives back what is asked of a room for a meeting.
func (t *Tx) RefuseTo(ctx context.Context, meetingID, roomID uuid.UUID) error {
	return t.DeleteAsked(ctx, db.DeleteAskedParams{MeetingID: meetingID, RoomID: roomID})
}

// Leaves has somebody work here no more: they keep no rooms from then on. ok is false
// where they have left before. Rooms are those that they kept.
func (t *Tx) Leaves(ctx context.Context, person uuid.UUID, at time.Time) (rooms []uuid.UUID, ok bool, err error) {
	n, err := t.MarkLeft(ctx, db.MarkLeftParams{ID: person, At: &at})
	if err != nil || n == 0 {
		return nil, false, err
	}
	rooms, err = t.DropKeeper(ctx, person)
	return rooms, true, err
}

// RoomUses is what one room is taken by in a window, as RoomsTaken.
func (t *Tx) RoomUses(ctx context.Context, person, room uuid.UUID, window when.Span, now time.Time) ([]schedule.RoomUse, error) {
	rows, err := t.Queries.RoomUses(ctx, db.RoomUsesParams{Person: person, Titled: titled, Room: room, Starts: window.Start.Time(), Ends: window.End.Time(), Now: now})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.RoomUsesRow) (schedule.RoomUse, error) {
		return toRoomUse(room, db.RoomsTakenRow{Starts: r.Starts, Ends: r.Ends, BookedAt: r.BookedAt, ByName: r.ByName, Private: r.Private, Shares: r.Shares, Kind: r.Kind, Until: r.Until,
			MeetingID: r.MeetingID, Title: r.Title, OnDay: r.OnDay, Mine: r.Mine}), nil
	})
}

// titled are the levels that show titles: what a booking is called is read for them alone,
// since that costs more than the booking. Whether it is said, RoomUse.Known tells.
var titled = func() (levels []string) {
	for _, level := range availability.Levels {
		if level.Titles() {
			levels = append(levels, string(level))
		}
	}
	return levels
}()

func toRoomUse(room uuid.UUID, r db.RoomsTakenRow) schedule.RoomUse {
	return schedule.RoomUse{Booking: schedule.Booking{RoomID: room, Span: toSpan(r.Starts, r.Ends), BookedAt: r.BookedAt, By: r.ByName, Private: hidden(r.Private, r.Shares),
		Kind: schedule.BookingKind(r.Kind), Until: r.Until}, MeetingID: r.MeetingID, On: toDay(r.OnDay), Title: r.Title, Mine: r.Mine, Shares: availability.Level(r.Shares)}
}
