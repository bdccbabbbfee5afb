package availability

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// roomsTx is what is needed here of a transaction.
type roomsTx interface {
	directory.LookupTx
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	RoomsTaken(ctx context.Context, person uuid.UUID, window when.Span, now time.Time) ([]schedule.RoomUse, error)
}

// RoomsQuestion asks for all rooms of a day that have what is wished for, in the zone of
// who asks. ClearFor is how long a room has to be clear at a stretch on that day, 0 for
// any.
type RoomsQuestion struct {
	Day       when.Day
	Seats     int
	Equipment []string
	SiteID    uuid.UUID
	Floor     string
	ClearFor  time.Duration
}

// RoomToday is a room with its day.
type RoomToday struct {
	schedule.Room
	Taken []schedule.RoomUse
	Shut  when.Spans // when its rules do not let who asks book it
	// Clear tells whether it is clear now, and Until when that, or what takes it, ends; 0
	// for a room that stays clear. They are for the present day only.
	Clear bool
	Until when.Instant
	// Next is the first stretch of an hour in which it is clear, of those still to come
	// within the hours that offices keep; ok is false where there is none.
	Next   when.Span
	NextOK bool
}

// RoomsAnswer is the rooms by site, floor and name.
type RoomsAnswer struct {
	Zone   when.Zone
	Window when.Span
	Today  bool
	Rooms  []RoomToday
	All    int // rooms of the house
}

// RoomsDay shows rooms side by side. What is private says neither who nor what, but to
// who is part of it.
func (s *Deeds) RoomsDay(ctx context.Context, who schedule.Actor, q RoomsQuestion) (a RoomsAnswer, err error) {
	var house []schedule.Room
	var uses []schedule.RoomUse
	var person schedule.Person
	err = s.Store.Look(ctx, func(tx Tx) error {
		var err error
		if person, err = directory.Person(ctx, tx, who.For); err != nil {
			return err
		}
		a.Zone, a.Window = person.Hours.Zone, when.DaySpan(q.Day, person.Hours.Zone)
		if house, err = tx.Rooms(ctx, schedule.EveryRoom); err != nil {
			return err
		}
		uses, err = tx.RoomsTaken(ctx, who.For, schedule.Wide(when.Spans{a.Window}, house)[0], s.Now())
		return err
	})
	if err != nil {
		return a, err
	}
	taken, booked := map[uuid.UUID][]schedule.RoomUse{}, map[string]when.Spans{}
	for _, u := range uses {
		if u = u.Known(); u.Span.Overlaps(a.Window) {
			taken[u.RoomID] = append(taken[u.RoomID], u)
		}
		booked[u.RoomID.String()] = append(booked[u.RoomID.String()], u.Span)
	}
	now := when.At(s.Now())
	a.All, a.Today = len(house), a.Window.Holds(now)
	wish := rooms.Wish{Seats: q.Seats, Equipment: q.Equipment, Floor: q.Floor}
	if q.SiteID != uuid.Nil {
		wish.SiteID = q.SiteID.String()
	}
	open := func(c when.Clock) when.Instant {
		return when.Zoned{Local: when.Local{Day: q.Day, Clock: c}, Zone: a.Zone}.Instant()
	}
	hours := when.Span{Start: max(open(rooms.Offices.Start), now), End: open(rooms.Offices.End)}
	for _, room := range house {
		if !wish.Suits(room.Facts()) {
			continue
		}
		place, asker := room.Place(), room.Asker(person)
		r := RoomToday{Room: room, Taken: taken[room.ID], Shut: place.Shut(when.Spans{a.Window}, asker, now)}
		spans := place.Unclear(when.Union(booked[room.ID.String()]...), when.Spans{a.Window}, asker, now)
		if a.Today {
			r.Clear, r.Until = rooms.ClearFrom(spans, now)
		}
		r.Next, r.NextOK = rooms.NextClear(spans, hours, max(q.ClearFor, time.Hour))
		if q.ClearFor > 0 && !r.NextOK {
			continue
		}
		a.Rooms = append(a.Rooms, r)
	}
	slices.SortStableFunc(a.Rooms, func(x, y RoomToday) int {
		return cmp.Or(cmp.Compare(x.Site, y.Site), rooms.CompareFloors(x.Floor, y.Floor), cmp.Compare(x.Name, y.Name))
	})
	return a, nil
}
