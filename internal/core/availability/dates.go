package availability

import (
	"cmp"
	"slices"
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// State is how one date of a series stands.
type State string

const (
	StateNoRoom State = "noroom" // a room is wanted, and there is none
	StateBusy   State = "busy"   // somebody needed is busy or on leave
	StateSoft   State = "soft"   // something to know: a holiday, other hours, somebody optional
	StateFits   State = "fits"
	StateOut    State = "out"  // left out by hand, or called off
	StateHeld   State = "held" // it has begun
)

// severity orders states, the worst first.
var severity = []State{StateNoRoom, StateBusy, StateSoft, StateFits}

// IssueCode is what an issue is about.
type IssueCode string

const (
	RoomTaken     IssueCode = "roomTaken"
	PersonTrouble IssueCode = "person"
	OnHoliday     IssueCode = "holiday"
)

// Issue is something about one date.
type Issue struct {
	Code    IssueCode
	State   State
	Trouble Trouble // with PersonTrouble
	Holiday string  // its name, with OnHoliday
}

// Slot is one date of a series. Room is the ID of the room that is meant, empty
// for none; Day is the day on the calendar of the meeting's zone.
type Slot struct {
	Span   when.Span
	Day    when.Day
	Room   string
	People []int // who is invited to it, by their place in the list of people
}

// Series is everything that has to be known to say how the dates of a series
// stand. What people and rooms are taken by has to be there for the spans of the
// slots, and for Reach around those that are to be mended.
type Series struct {
	Slots  []Slot
	People []Person
	// Rooms are those that would do, the best first; the room that is meant on the
	// sheet is one. Around are the places of those among them that are known around
	// the dates too.
	Rooms   []rooms.Room
	Around  []int
	Holiday func(when.Day) string
	Zone    when.Zone
	Now     when.Instant
}

// Reach is how far around a date a time for it is looked for.
const Reach = 7 * 24 * time.Hour

// Issues are what stands against a date, and what there is to know about it, the
// worst first.
func (s Series) Issues(slot Slot) (out []Issue) {
	if r, is := s.room(slot.Room); is && r.Busy.Overlaps(slot.Span) {
		out = append(out, Issue{Code: RoomTaken, State: StateNoRoom})
	}
	if name := s.Holiday(slot.Day); name != "" {
		out = append(out, Issue{Code: OnHoliday, State: StateSoft, Holiday: name})
	}
	for _, t := range Check(slot.Span, s.invited(slot)) {
		t.Person = slot.People[t.Person]
		x := Issue{Code: PersonTrouble, State: StateSoft, Trouble: t}
		if t.Busy && t.Needed {
			x.State = StateBusy
		}
		out = append(out, x)
	}
	slices.SortStableFunc(out, func(a, b Issue) int {
		return cmp.Compare(slices.Index(severity, a.State), slices.Index(severity, b.State))
	})
	return out
}

// StateOf is how a date with these issues stands.
func StateOf(issues []Issue) State {
	if len(issues) == 0 {
		return StateFits
	}
	return issues[0].State
}

func (s Series) room(id string) (rooms.Room, bool) {
	at := slices.IndexFunc(s.Rooms, func(r rooms.Room) bool { return r.ID == id && id != "" })
	if at < 0 {
		return rooms.Room{}, false
	}
	return s.Rooms[at], true
}

func (s Series) invited(slot Slot) []Person {
	people := make([]Person, len(slot.People))
	for i, p := range slot.People {
		people[i] = s.People[p]
	}
	return people
}

// OnAll are the softer issues that all dates at the usual time have, when there
// are several of these: they are said once. usual tells which dates are.
func OnAll(issues [][]Issue, usual func(at int) bool) (shared []Issue) {
	var all [][]Issue
	for i, x := range issues {
		if usual(i) {
			all = append(all, x)
		}
	}
	if len(all) < 2 {
		return nil
	}
	for _, x := range all[0] {
		everywhere := !slices.ContainsFunc(all, func(others []Issue) bool { return !slices.Contains(others, x) })
		if x.State == StateSoft && everywhere {
			shared = append(shared, x)
		}
	}
	return shared
}

// RepairKind is what a repair does.
type RepairKind string

const (
	RepairMove    RepairKind = "move"    // to another time
	RepairRoom    RepairKind = "room"    // another room on that date
	RepairNoRoom  RepairKind = "noroom"  // meet without a room
	RepairOut     RepairKind = "out"     // leave the date out
	RepairRegular RepairKind = "regular" // make it like the others again
)

// Repair is one way to mend a date. Span is the new time of a move, Room the place
// of another room in Series.Rooms, or rooms.NoRoom where it stays.
type Repair struct {
	Kind RepairKind
	Span when.Span
	Room int
}

// Troubled tells whether a date with these issues is one to mend.
func Troubled(issues []Issue) bool {
	return slices.ContainsFunc(issues, func(x Issue) bool {
		return x.State == StateNoRoom || x.State == StateBusy || x.Code == OnHoliday
	})
}

// Repairs are the ways to mend a date with these issues, the mildest first, and to
// take back what it has of its own. Moves are looked for where move is true.
func (s Series) Repairs(slot Slot, issues []Issue, own, move bool) (out []Repair) {
	taken := StateOf(issues) == StateNoRoom
	if taken {
		if at := slices.IndexFunc(s.Rooms, func(r rooms.Room) bool { return !r.Busy.Overlaps(slot.Span) }); at >= 0 {
			out = append(out, Repair{Kind: RepairRoom, Room: at})
		}
	}
	if Troubled(issues) {
		if move {
			if r, ok := s.nearest(slot); ok {
				out = append(out, r)
			}
		}
		out = append(out, Repair{Kind: RepairOut, Room: rooms.NoRoom})
	}
	if taken {
		out = append(out, Repair{Kind: RepairNoRoom, Room: rooms.NoRoom})
	}
	if own {
		out = append(out, Repair{Kind: RepairRegular, Room: rooms.NoRoom})
	}
	return out
}

// nearest is the stretch nearest to a date that fits, between the dates around
// it: in the room of the date or else in another, and within everybody's hours or
// else outside the hours of those for whom the date is that anyway.
func (s Series) nearest(slot Slot) (Repair, bool) {
	window := when.Span{Start: max(slot.Span.Start.Add(-Reach), s.Now), End: slot.Span.End.Add(Reach)}
	for _, x := range s.Slots {
		switch {
		case x.Span == slot.Span:
		case x.Span.End <= slot.Span.Start:
			window.Start = max(window.Start, x.Span.End)
		case x.Span.Start >= slot.Span.End:
			window.End = min(window.End, x.Span.Start)
		}
	}
	people := s.invited(slot)
	for day := s.Zone.LocalAt(window.Start).Day; day <= s.Zone.LocalAt(window.End).Day; day++ {
		if s.Holiday(day) != "" {
			people = append(people, Person{Needed: true, Busy: when.Spans{when.DaySpan(day, s.Zone)}})
		}
	}
	if found, ok := s.move(window, people, slot); ok {
		return found, true
	}
	outside := false
	for i, p := range people {
		if p.Off.Overlaps(slot.Span) {
			people[i].Off, outside = nil, true
		}
	}
	if !outside {
		return Repair{}, false
	}
	return s.move(window, people, slot)
}

// move is to the stretch nearest to a date in its room, or else in another.
func (s Series) move(window when.Span, people []Person, slot Slot) (Repair, bool) {
	const step = 15 * time.Minute
	length, around := slot.Span.Length(), slot.Span.Start
	clear := allClear(window, people, length)
	own, is := s.room(slot.Room)
	if is || slot.Room == "" {
		if found, ok := nearestIn(clear.Minus(own.Busy), length, around, step); ok || !is {
			return Repair{RepairMove, found, rooms.NoRoom}, ok
		}
	}
	others := make([]rooms.Room, len(s.Around))
	for i, at := range s.Around {
		others[i] = s.Rooms[at]
	}
	found, at, ok := nearestRoom(clear, others, length, around, step)
	if !ok {
		return Repair{}, false
	}
	return Repair{RepairMove, found, s.Around[at]}, true
}
