package availability

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// dayTx is what is needed here of a transaction.
type dayTx interface {
	LanesTx
	Bookings(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) ([]schedule.Booking, error)
	Requests(ctx context.Context, meetingID uuid.UUID) ([]schedule.RoomRequest, error)
	OrganiserOf(ctx context.Context, meetingID uuid.UUID) (uuid.UUID, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) (map[string]when.Spans, error)
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
	Clear bool       // at the chosen time
	Shut  when.Spans // when its rules do not let who asks book it, on that day
	// Says is what its rules say to the chosen time: booked, or why it refuses or asks its
	// keeper.
	Says rooms.Decision
}

// Waitable tells whether it is taken at the chosen time by what can become clear: neither its rules
// nor its keeper have refused it.
func (l RoomLane) Waitable() bool {
	return !l.Clear && l.Says.Verdict != rooms.Refused && !slices.ContainsFunc(l.Taken, func(b schedule.Booking) bool { return b.Kind == schedule.KindRefused })
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
	var owner schedule.Person
	view := schedule.View{For: who.For, Now: s.Now()}
	err = s.Store.Look(ctx, func(tx Tx) (err error) {
		if view.But, err = ownOnly(ctx, tx, who, q.But); err != nil {
			return err
		}
		if owner, err = directory.Person(ctx, tx, who.For); err != nil {
			return err
		}
		if a.Lanes, err = Lanes(ctx, tx, owner, q.People); err != nil {
			return err
		}
		if err = FillLanes(ctx, tx, a.Lanes, when.Spans{window}, view); err != nil {
			return err
		}
		if house, err = tx.Rooms(ctx, schedule.EveryRoom); err != nil {
			return err
		}
		if bookings, err = tx.Bookings(ctx, nil, schedule.Wide(when.Spans{window}, house), view); err != nil || view.But == uuid.Nil {
			return err
		}
		requests, err := tx.Requests(ctx, view.But)
		bookings = append(bookings, refused(requests, when.Spans{window})...)
		return err
	})
	if err != nil {
		return a, err
	}
	a.AllRooms, a.Seats = len(house), len(a.Lanes)
	a.People = People(a.Lanes)
	ask := core.Ask{Window: a.Window, Length: max(q.Chosen.Length(), time.Minute), People: a.People, WantRoom: q.WantRoom}
	a.Rooms, ask.Rooms = roomLanes(q, house, bookings, a.Seats, window, owner, when.At(s.Now()))
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

// refused are the stretches in which keepers refused a meeting their rooms: as good as
// taken, for that meeting.
func refused(requests []schedule.RoomRequest, windows when.Spans) (out []schedule.Booking) {
	for _, r := range requests {
		for _, d := range r.Dates {
			if r.No() && windows.Overlaps(d.Span) {
				out = append(out, schedule.Booking{RoomID: r.RoomID, Span: d.Span, BookedAt: r.AskedAt, Kind: schedule.KindRefused})
			}
		}
	}
	return out
}

// roomLanes are the rooms that would do; the room on the sheet is there in any
// case. suit are those of them that really do.
func roomLanes(q DayQuestion, house []schedule.Room, bookings []schedule.Booking, seats int, window when.Span, owner schedule.Person, now when.Instant) (lanes []RoomLane, suit []rooms.Room) {
	taken := map[uuid.UUID][]schedule.Booking{}
	for _, b := range bookings {
		if b.Private {
			b.By = ""
		}
		taken[b.RoomID] = append(taken[b.RoomID], b)
	}
	windows, wish, facts := when.Spans{window}, q.wish(seats), schedule.FactsFor(house, owner, q.Chosen.Length())
	booked := schedule.Unclear(house, schedule.Booked(bookings), windows, owner, q.Chosen.Length(), now)
	clear := func(at int) bool { return !booked[facts[at].ID].Overlaps(q.Chosen) }
	places := wish.Order(facts)
	wish.ByClear(facts, places, clear)
	for _, at := range places {
		place, asker := house[at].Place(), house[at].Asker(owner)
		lane := RoomLane{Room: house[at], Taken: taken[house[at].ID], Suits: wish.Suits(facts[at]), Clear: clear(at),
			Shut: place.Shut(windows, asker, now), Says: place.Decide([]when.Span{q.Chosen}, 1, 1, asker, now)}
		if lane.Suits {
			suit = append(suit, rooms.Room{ID: facts[at].ID, Busy: booked[facts[at].ID]})
		}
		lanes = append(lanes, lane)
	}
	return lanes, suit
}
