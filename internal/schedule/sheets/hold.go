package sheets

import (
	"context"
	"errors"
	"reflect"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// holdTx is what is needed here of a transaction.
type holdTx interface {
	ofTx
	settleTx
	Clashes(ctx context.Context, view schedule.View, wanted []schedule.Occurrence) ([]schedule.Clash, error)
	ClearHolds(ctx context.Context, owner uuid.UUID, wanted []schedule.Occurrence, now time.Time) error
	DropHolds(ctx context.Context, sheetID uuid.UUID) error
	HeldSince(ctx context.Context, person, room uuid.UUID, on when.Day) (since, until time.Time, err error)
	HoldRooms(ctx context.Context, owner, sheetID, meetingID uuid.UUID, holds []schedule.RoomHold, now time.Time) error
	Holds(ctx context.Context, sheetID uuid.UUID) ([]schedule.RoomHold, error)
	HoldsElsewhere(ctx context.Context, owner, sheetID uuid.UUID, now time.Time) (int, error)
	LockRooms(ctx context.Context, rooms []uuid.UUID) error
	LockSheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	Occurrences(ctx context.Context, meetingID uuid.UUID) ([]schedule.Occurrence, error)
	ProlongHolds(ctx context.Context, sheetID uuid.UUID, until time.Time) error
	SetHeldSince(ctx context.Context, person, room uuid.UUID, on when.Day, since, until time.Time) error
}

func (s *Deeds) holdStore() schedule.Store[holdTx] {
	return schedule.Narrow(s.Store, func(tx Tx) holdTx { return tx })
}

// Hold is how the rooms of a sheet are held for it.
type Hold struct {
	Until time.Time // zero where nothing is held
	// Taken is the first booking or hold that stands against one that is wanted.
	Taken *schedule.Clash
	// Later is from when on the room can be held again, where its owner held it for long;
	// Many tells that their other sheets hold as much as one may. The room is booked by
	// Send then, if it is clear.
	Later time.Time
	Many  bool
	// What is why something is not held, nothing where all is.
	What say.What
}

// HoldRooms keeps the rooms of a sheet for its owner for some minutes, or longer where
// they are kept already. It is called while the sheet is in front.
func (s *Deeds) HoldRooms(ctx context.Context, who schedule.Actor, id uuid.UUID) (h Hold, err error) {
	err = s.holdStore().InTx(ctx, func(tx holdTx) error {
		sheet, err := tx.LockSheet(ctx, id, who.For)
		if err != nil {
			return err
		}
		h, err = s.hold(ctx, tx, sheet)
		return err
	})
	return h, err
}

// hold brings what a sheet holds to what it says. What it holds already it keeps where
// it says the same; a room that somebody else has meanwhile is not held, and the others
// are.
func (s *Deeds) hold(ctx context.Context, tx holdTx, sheet schedule.Sheet) (h Hold, err error) {
	has, err := tx.Holds(ctx, sheet.ID)
	if err != nil {
		return h, err
	}
	wanted, st, err := s.holdable(ctx, tx, sheet)
	defer func() { h.What = h.what(st) }()
	if err != nil || len(wanted) == 0 && len(has) == 0 {
		return h, err
	}
	now := s.Now()
	ids := make([]uuid.UUID, 0, len(wanted)+len(has))
	for _, o := range wanted {
		ids = append(ids, o.RoomID)
	}
	for _, o := range has {
		ids = append(ids, o.RoomID)
	}
	if err := tx.LockRooms(ctx, ids); err != nil {
		return h, err
	}
	view := schedule.View{For: sheet.OwnerID, Now: now}
	if sheet.MeetingID != nil {
		view.But = *sheet.MeetingID
	}
	clashes, err := tx.Clashes(ctx, view, wanted)
	if err != nil {
		return h, err
	}
	if len(clashes) > 0 {
		h.Taken = &clashes[0]
		wanted = slices.DeleteFunc(wanted, func(o schedule.Occurrence) bool {
			return slices.ContainsFunc(clashes, func(c schedule.Clash) bool { return c.Wanted.On == o.On && c.Wanted.RoomID == o.RoomID })
		})
	}
	if len(wanted) == 0 {
		return h, tx.DropHolds(ctx, sheet.ID)
	}
	if same(has, wanted) && has[0].Until.After(now.Add(rooms.HoldFor)) { // a turn after waiting lasts longer
		h.Until = has[0].Until
		return h, nil
	}
	if elsewhere, err := tx.HoldsElsewhere(ctx, sheet.OwnerID, sheet.ID, now); err != nil || elsewhere >= rooms.HoldMost {
		h.Many = true
		return h, errors.Join(err, tx.DropHolds(ctx, sheet.ID))
	}
	if h.Until, h.Later, err = s.turn(ctx, tx, sheet.OwnerID, wanted, now); err != nil {
		return h, err
	}
	if h.Until.IsZero() {
		return h, tx.DropHolds(ctx, sheet.ID)
	}
	if same(has, wanted) && has[0].Until.After(now) {
		return h, tx.ProlongHolds(ctx, sheet.ID, h.Until)
	}
	if err := tx.DropHolds(ctx, sheet.ID); err != nil {
		return h, err
	}
	return h, s.holdNow(ctx, tx, sheet, wanted, h.Until)
}

// holdable are the dates of a sheet with their rooms, as far as they are settled and
// allowed; the first of a long series.
func (s *Deeds) holdable(ctx context.Context, tx holdTx, sheet schedule.Sheet) ([]schedule.Occurrence, kernel.Settled, error) {
	if sheet.Draft.NoRoom || sheet.Draft.RoomID == "" && !slices.ContainsFunc(sheet.Draft.Dates, func(d meeting.DraftDate) bool { return d.RoomID != "" }) {
		return nil, kernel.Settled{}, nil
	}
	of, err := MeetingOf(ctx, tx, sheet)
	if err != nil {
		return nil, kernel.Settled{}, err
	}
	st, blocked, err := s.settleDates(ctx, tx, sheet, of)
	if err != nil || blocked != nil {
		return nil, st, err
	}
	var out []schedule.Occurrence
	now := when.At(s.Now())
	for _, o := range s.Kernel.RoomDates(st.Settled()) {
		at := slices.IndexFunc(st.House, func(r schedule.Room) bool { return r.ID == o.RoomID })
		if at < 0 || o.Span.End <= now {
			continue
		}
		room := st.House[at]
		o.Span = st.Settled().SpanIn(room.Zone, o.Span)
		if room.Place().Decide([]when.Span{o.Span}, 1, 1, room.Asker(st.Organiser), now).Verdict == rooms.Refused {
			continue
		}
		o.Gap = room.Rules.Gap
		if out = append(out, o); len(out) == rooms.HoldDates {
			break
		}
	}
	return out, st, nil
}

// turn is until when the rooms can be held, by the one that can be for the shortest; zero
// where it is others' turn, until later.
func (s *Deeds) turn(ctx context.Context, tx holdTx, owner uuid.UUID, wanted []schedule.Occurrence, now time.Time) (until, later time.Time, err error) {
	type key struct {
		room uuid.UUID
		on   when.Day
	}
	since := map[key]time.Time{}
	var order []key
	for _, o := range wanted {
		k := key{o.RoomID, when.Day(o.Span.Start / 86400)}
		if _, is := since[k]; is {
			continue
		}
		first, last, err := tx.HeldSince(ctx, owner, k.room, k.on)
		if err != nil {
			return until, later, err
		}
		end, from, ok := rooms.HoldUntil(first, last, now)
		if !ok {
			return time.Time{}, end, nil
		}
		if until.IsZero() || end.Before(until) {
			until = end
		}
		since[k], order = from, append(order, k)
	}
	for _, k := range order {
		if err := tx.SetHeldSince(ctx, owner, k.room, k.on, since[k], until); err != nil {
			return until, later, err
		}
	}
	return until, later, nil
}

// holdNow writes the holds. What the meeting itself has already need not be held.
func (s *Deeds) holdNow(ctx context.Context, tx holdTx, sheet schedule.Sheet, wanted []schedule.Occurrence, until time.Time) error {
	if err := tx.ClearHolds(ctx, uuid.Nil, wanted, s.Now()); err != nil {
		return err
	}
	own := map[uuid.UUID]when.Spans{}
	meetingID := uuid.Nil
	if sheet.MeetingID != nil {
		meetingID = *sheet.MeetingID
		dates, err := tx.Occurrences(ctx, meetingID)
		if err != nil {
			return err
		}
		for _, d := range dates {
			own[d.RoomID] = own[d.RoomID].Union(when.Spans{d.Span})
		}
	}
	// One's own other sheets hold as well: what they hold is kept for one's own anyway.
	others, err := tx.Clashes(ctx, schedule.View{But: meetingID, Now: s.Now()}, wanted)
	if err != nil {
		return err
	}
	for _, c := range others {
		own[c.RoomID] = own[c.RoomID].Union(when.Spans{c.Span})
	}
	var holds []schedule.RoomHold
	for _, o := range wanted {
		for _, span := range (when.Spans{o.Span}).Minus(own[o.RoomID]) {
			holds = append(holds, schedule.RoomHold{RoomID: o.RoomID, Span: span, Until: until})
		}
		own[o.RoomID] = own[o.RoomID].Union(when.Spans{o.Span}) // dates can overlap each other
	}
	return tx.HoldRooms(ctx, sheet.OwnerID, sheet.ID, meetingID, holds, s.Now())
}

// what is why something is not held, or nothing.
func (h Hold) what(st kernel.Settled) say.What {
	zone := st.Organiser.Hours.Zone
	switch {
	case h.Taken != nil:
		var room schedule.Room
		if at := slices.IndexFunc(st.House, func(r schedule.Room) bool { return r.ID == h.Taken.RoomID }); at >= 0 {
			room = st.House[at]
		}
		return h.Taken.Taken(room).What(zone)
	case h.Many:
		return say.It("hold.many")
	case !h.Later.IsZero():
		return say.It("hold.long", zone.LocalAt(when.At(h.Later)).Clock)
	}
	return say.What{}
}

// holdsChange tells whether a change of a sheet can change what it holds.
func holdsChange(before, after meeting.Draft) bool {
	return before.AllDay != after.AllDay || before.Start != after.Start || before.End != after.End || before.Zone != after.Zone || before.RoomID != after.RoomID || before.NoRoom != after.NoRoom ||
		!slices.Equal(before.Dates, after.Dates) || !reflect.DeepEqual(before.Repeat, after.Repeat) || !reflect.DeepEqual(before.Scope, after.Scope)
}

// same tells whether a sheet holds what it wants already.
func same(has []schedule.RoomHold, wanted []schedule.Occurrence) bool {
	if len(has) != len(wanted) {
		return false
	}
	for _, o := range wanted {
		if !slices.ContainsFunc(has, func(h schedule.RoomHold) bool { return h.RoomID == o.RoomID && h.Span == o.Span }) {
			return false
		}
	}
	return true
}
