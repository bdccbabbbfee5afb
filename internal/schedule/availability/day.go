package availability

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// dayTx is what is needed here of a transaction.
type dayTx interface {
	LanesTx
	Bookings(ctx context.Context, rooms []uuid.UUID, windows when.Spans, but uuid.UUID) ([]schedule.Booking, error)
	OrganiserOf(ctx context.Context, meetingID uuid.UUID) (uuid.UUID, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, but uuid.UUID) (map[string]when.Spans, error)
}

// DayQuestion asks for one day of everybody on a sheet.
type DayQuestion struct {
	Day       when.Day
	Zone      when.Zone
	Chosen    when.Span // the time being settled; its length is the length
	People    []meeting.DraftPerson
	RoomID    uuid.UUID // the room taken on the sheet, Nil for none
	WantRoom  bool
	Equipment []string
	SiteID    uuid.UUID // Nil for any
	// But is the meeting whose own time does not count, Nil for a new one. It has
	// to be one that the reader organises.
	But uuid.UUID
}

// wish is what a room must have for so many people.
func (q DayQuestion) wish(seats int) rooms.Wish {
	w := rooms.Wish{Seats: seats, Equipment: q.Equipment}
	if q.SiteID != uuid.Nil {
		w.SiteID = q.SiteID.String()
	}
	if q.RoomID != uuid.Nil {
		w.Meant = q.RoomID.String()
	}
	return w
}

// RoomLane is one room's time on the day.
type RoomLane struct {
	schedule.Room
	Taken []schedule.Booking
	// Suits is false for the room on the sheet when it has too few seats or
	// lacks what was asked for.
	Suits bool
	Clear bool // at the chosen time
}

// DayAnswer is everybody's time, every room's that would do, and where both
// come together.
type DayAnswer struct {
	Window   when.Span
	Lanes    []Lane
	People   []core.Person // the same people, as the core sees them
	Rooms    []RoomLane
	AllRooms int
	Seats    int
	Fits     []core.Stretch
	Troubles []core.Trouble // with the chosen time
}

// Day answers what the right-hand side of a sheet shows. Nothing in it tells
// what anybody is busy with.
func (s *Deeds) Day(ctx context.Context, who schedule.Actor, q DayQuestion) (a DayAnswer, err error) {
	a.Window = when.DaySpan(q.Day, q.Zone)
	// A chosen time past midnight counts with what stands against it there.
	window := when.Span{Start: min(a.Window.Start, q.Chosen.Start), End: max(a.Window.End, q.Chosen.End)}
	var house []schedule.Room
	var bookings []schedule.Booking
	err = s.Store.Look(ctx, func(tx Tx) (err error) {
		if q.But, err = ownOnly(ctx, tx, who, q.But); err != nil {
			return err
		}
		if a.Lanes, err = Lanes(ctx, tx, who, q.People); err != nil {
			return err
		}
		if err = FillLanes(ctx, tx, a.Lanes, when.Spans{window}, q.But); err != nil {
			return err
		}
		if house, err = tx.Rooms(ctx, schedule.EveryRoom); err != nil {
			return err
		}
		bookings, err = tx.Bookings(ctx, nil, when.Spans{window}, q.But)
		return err
	})
	if err != nil {
		return a, err
	}
	a.AllRooms, a.Seats = len(house), len(a.Lanes)
	a.People = People(a.Lanes)
	ask := core.Ask{Window: a.Window, Length: max(q.Chosen.Length(), time.Minute), People: a.People, WantRoom: q.WantRoom}
	a.Rooms, ask.Rooms = roomLanes(q, house, bookings, a.Seats)
	a.Fits = core.Find(ask)
	a.Troubles = core.Check(q.Chosen, a.People)
	return a, nil
}

// ownOnly is a meeting to leave out, if that is one's own: whose time somebody else's
// takes is not for everybody to find out.
func ownOnly(ctx context.Context, tx dayTx, who schedule.Actor, but uuid.UUID) (uuid.UUID, error) {
	if but == uuid.Nil {
		return but, nil
	}
	by, err := tx.OrganiserOf(ctx, but)
	if errors.Is(err, schedule.ErrNotFound) || err == nil && by != who.For {
		return uuid.Nil, nil
	}
	return but, err
}

// roomLanes are the rooms that would do; the room on the sheet is there in any
// case. suit are those of them that really do.
func roomLanes(q DayQuestion, house []schedule.Room, bookings []schedule.Booking, seats int) (lanes []RoomLane, suit []rooms.Room) {
	taken := map[uuid.UUID][]schedule.Booking{}
	for _, b := range bookings {
		if b.Private {
			b.By = ""
		}
		taken[b.RoomID] = append(taken[b.RoomID], b)
	}
	booked, wish, facts := schedule.Booked(bookings), q.wish(seats), schedule.RoomFacts(house)
	clear := func(at int) bool { return !booked[facts[at].ID].Overlaps(q.Chosen) }
	places := wish.Order(facts)
	wish.ByClear(facts, places, clear)
	for _, at := range places {
		lane := RoomLane{Room: house[at], Taken: taken[house[at].ID], Suits: wish.Suits(facts[at]), Clear: clear(at)}
		if lane.Suits {
			suit = append(suit, rooms.Room{ID: facts[at].ID, Busy: booked[facts[at].ID]})
		}
		lanes = append(lanes, lane)
	}
	return lanes, suit
}
