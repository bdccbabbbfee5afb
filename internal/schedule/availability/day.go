package availability

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/fits"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// DayTx is what is needed here of a transaction.
type DayTx interface {
	directory.LookupTx
	Bookings(ctx context.Context, rooms []uuid.UUID, window when.Span, but uuid.UUID) ([]schedule.Booking, error)
	BusyTimes(ctx context.Context, people []uuid.UUID, window when.Span, but uuid.UUID) ([]schedule.BusyTime, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
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
	// But is the meeting whose own time does not count, Nil for a new one.
	But uuid.UUID
}

// Lane is one person's time on the day.
type Lane struct {
	Name, Email string
	PersonID    string
	Needed, You bool
	Zone        when.Zone
	ZoneKnown   bool
	// TimeKnown is false for somebody outside: when they are busy nobody here
	// can see.
	TimeKnown bool
	Busy      []schedule.BusyTime
	Off       when.Spans // outside their working hours
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
	Rooms    []RoomLane
	AllRooms int
	Seats    int
	Fits     []fits.Stretch
	Troubles []fits.Trouble // with the chosen time
}

// Day answers what the right-hand side of a sheet shows. Nothing in it tells
// what anybody is busy with.
func (s *Deeds) Day(ctx context.Context, me uuid.UUID, q DayQuestion) (a DayAnswer, err error) {
	a.Window = when.DaySpan(q.Day, q.Zone)
	err = s.Store.Look(ctx, func(tx Tx) error {
		if err := s.Lanes(ctx, tx, me, q, &a); err != nil {
			return err
		}
		return s.roomLanes(ctx, tx, q, &a)
	})
	if err != nil {
		return a, err
	}
	people := make([]fits.Person, len(a.Lanes))
	for i, l := range a.Lanes {
		people[i] = l.Fit()
	}
	ask := fits.Ask{Window: a.Window, Length: max(q.Chosen.Length(), time.Minute), People: people, WantRoom: q.WantRoom}
	for _, r := range a.Rooms {
		if r.Suits {
			ask.Rooms = append(ask.Rooms, fits.Room{ID: r.ID.String(), Busy: r.spans()})
		}
	}
	a.Fits = fits.Find(ask)
	a.Troubles = fits.Check(q.Chosen, people)
	return a, nil
}

func (s *Deeds) Lanes(ctx context.Context, tx DayTx, me uuid.UUID, q DayQuestion, a *DayAnswer) error {
	organiser, err := directory.Person(ctx, tx, me)
	if err != nil {
		return err
	}
	known, err := directory.LookUp(ctx, tx, q.People)
	if err != nil {
		return err
	}
	own := laneOf(organiser, a.Window)
	own.You, own.Needed = true, true
	a.Lanes = []Lane{own}
	ids := []uuid.UUID{me}
	seen := map[string]bool{strings.ToLower(organiser.Email): true}
	for _, p := range known.Complete(q.People) {
		key := strings.ToLower(strings.TrimSpace(p.Email))
		if seen[key] {
			continue
		}
		seen[key] = true
		lane := Lane{Name: p.Name, Email: p.Email}
		if inside, ok := known.ByID[p.PersonID]; ok {
			lane = laneOf(inside, a.Window)
			ids = append(ids, inside.ID)
		} else if c, ok := known.Contacts[key]; ok {
			lane.outside(c, a.Window)
		}
		if lane.Name == "" {
			lane.Name = lane.Email
		}
		lane.Needed = p.Needed
		a.Lanes = append(a.Lanes, lane)
	}
	// A chosen time past midnight counts with what stands against it there.
	window := when.Span{Start: min(a.Window.Start, q.Chosen.Start), End: max(a.Window.End, q.Chosen.End)}
	busy, err := tx.BusyTimes(ctx, ids, window, q.But)
	if err != nil {
		return err
	}
	for i := range a.Lanes {
		for _, b := range busy {
			if b.PersonID.String() == a.Lanes[i].PersonID {
				a.Lanes[i].Busy = append(a.Lanes[i].Busy, b)
			}
		}
	}
	return nil
}

func laneOf(p schedule.Person, window when.Span) Lane {
	return Lane{Name: p.Name, Email: p.Email, PersonID: p.ID.String(), Zone: p.Hours.Zone, ZoneKnown: true, TimeKnown: true,
		Off: p.Hours.Within(window).Within(window)}
}

func (l *Lane) outside(c schedule.Contact, window when.Span) {
	if zone, err := when.LoadZone(c.Zone); err == nil {
		l.Zone, l.ZoneKnown = zone, true
	}
	if c.Hours != nil {
		l.Off = c.Hours.Within(window).Within(window)
	}
}

// you is what the reader of a sheet is called on it.
const You = "you"

// Fit is the lane as the core sees a person. What is off is given as hours that
// were cut to the window already.
func (l Lane) Fit() fits.Person {
	p := fits.Person{Name: l.Name, Needed: l.Needed, Off: l.Off}
	if l.You {
		p.Name = You
	}
	var busy, maybe []when.Span
	for _, b := range l.Busy {
		if b.Kind == schedule.Maybe {
			maybe = append(maybe, b.Span)
		} else {
			busy = append(busy, b.Span)
		}
	}
	p.Busy, p.Maybe = when.Union(busy...), when.Union(maybe...)
	return p
}

func (r RoomLane) spans() when.Spans {
	spans := make([]when.Span, len(r.Taken))
	for i, b := range r.Taken {
		spans[i] = b.Span
	}
	return when.Union(spans...)
}

// roomLanes are the rooms that would do: enough seats for all, the equipment and
// the site asked for; the room on the sheet is there in any case.
func (s *Deeds) roomLanes(ctx context.Context, tx DayTx, q DayQuestion, a *DayAnswer) error {
	rooms, err := tx.Rooms(ctx, schedule.EveryRoom)
	if err != nil {
		return err
	}
	window := when.Span{Start: min(a.Window.Start, q.Chosen.Start), End: max(a.Window.End, q.Chosen.End)}
	bookings, err := tx.Bookings(ctx, nil, window, q.But)
	if err != nil {
		return err
	}
	a.AllRooms, a.Seats = len(rooms), len(a.Lanes)
	for _, r := range rooms {
		lane := RoomLane{Room: r, Suits: r.Seats >= a.Seats && (q.SiteID == uuid.Nil || q.SiteID == r.SiteID) && HasAll(r.Equipment, q.Equipment)}
		if !lane.Suits && r.ID != q.RoomID {
			continue
		}
		for _, b := range bookings {
			if b.RoomID == r.ID {
				if b.Private {
					b.By = ""
				}
				lane.Taken = append(lane.Taken, b)
			}
		}
		lane.Clear = !lane.spans().Overlaps(q.Chosen)
		a.Rooms = append(a.Rooms, lane)
	}
	slices.SortStableFunc(a.Rooms, func(x, y RoomLane) int { return x.rank(q) - y.rank(q) })
	return nil
}

// rank puts the room taken first, then those clear at the chosen time, each by
// seats: the smallest that does is the best.
func (r RoomLane) rank(q DayQuestion) int {
	switch {
	case r.ID == q.RoomID:
		return -1
	case r.Clear:
		return r.Seats
	}
	return 10_000 + r.Seats
}

func HasAll(has, wanted []string) bool {
	return !slices.ContainsFunc(wanted, func(w string) bool { return !slices.Contains(has, w) })
}

// Sentence says what stands against the chosen time for somebody.
func Sentence(t fits.Trouble) string {
	name, is, works := t.Name, "is", "works"
	if name == You {
		name, is, works = "You", "are", "work"
	}
	switch {
	case t.Busy:
		return fmt.Sprintf("%s %s busy then", name, is)
	case t.Maybe:
		return fmt.Sprintf("%s %s maybe busy then", name, is)
	}
	return fmt.Sprintf("%s %s other hours (%d min outside)", name, works, int(t.Off/time.Minute))
}
