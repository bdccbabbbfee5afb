// Package availability tells whose time is taken when, in which stretches people
// and rooms come together, and how the dates of a series stand (DESIGN.md, rules
// 2 and 3). It answers with codes and data; package words makes sentences of them.
package availability

import (
	"cmp"
	"slices"
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// Person is somebody whose time matters. Spans outside the window asked about
// are allowed and ignored.
type Person struct {
	Name   string
	You    bool // the reader
	Needed bool
	Busy   when.Spans // BUSY and BUSY-UNAVAILABLE: nothing fits here
	Leave  when.Spans // the part of Busy that is BUSY-UNAVAILABLE
	Maybe  when.Spans // BUSY-TENTATIVE: fits, and is said
	// Off is the time outside their working hours, soft: it fits, and is said
	// and counted. It is empty for somebody whose hours nobody knows.
	Off when.Spans
}

// Ask is the question: stretches of at least Length inside Window.
type Ask struct {
	Window   when.Span
	Length   time.Duration
	People   []Person
	Rooms    []rooms.Room
	WantRoom bool // false: no room has to be clear
}

// Stretch is a part of the window with one answer. Every instant of it lies in
// some placement of the length asked for, inside the window, for which the
// answer holds.
type Stretch struct {
	when.Span
	// Fits: all needed people are clear and one room is for the whole
	// placement (or none is wanted).
	Fits bool
	// Missing are the needed people without whom it would fit, by their place in
	// the list of people; at most one.
	Missing []int
	// NoRoom: the people are clear, but no room that would do is.
	NoRoom bool
	// Off are needed people outside their working hours somewhere in the
	// stretch, Maybe those who are only maybe busy.
	Off, Maybe []int
	// Clear of Needed people are clear, and Rooms rooms fit a placement that
	// meets the stretch.
	Clear, Needed, Rooms int
}

// StretchKind is how well a stretch fits.
type StretchKind string

const (
	Fits   StretchKind = "fits"
	Soft   StretchKind = "soft" // somebody needed is outside their hours then, or maybe busy
	Nearly StretchKind = "nearly"
)

// Kind is how well it fits.
func (s Stretch) Kind() StretchKind {
	switch {
	case !s.Fits:
		return Nearly
	case len(s.Off)+len(s.Maybe) > 0:
		return Soft
	}
	return Fits
}

// Find returns the stretches that fit and those that nearly do, ascending and
// without overlap. A stretch that fits is cut where the people outside their
// hours or maybe busy change. Where more than one needed person or a person and
// a room are missing there is no stretch.
func Find(ask Ask) []Stretch {
	q := question{Ask: ask}
	for i, p := range ask.People {
		if p.Needed {
			q.needed, q.places = append(q.needed, p), append(q.places, i)
		}
	}
	q.sweep()
	needed := q.needed
	fit, rooms := q.placements(nobody)
	out := q.cutBySoft(fit, rooms)

	taken := fit
	for i := range needed {
		if len(q.only[i]) == 0 {
			continue // without them nothing more fits
		}
		near, rooms := q.placements(i)
		for _, s := range near.Minus(taken) {
			out = append(out, Stretch{Span: s, Missing: []int{q.places[i]},
				Clear: len(needed) - 1, Needed: len(needed), Rooms: rooms.meeting(s)})
		}
		taken = taken.Union(near)
	}
	if ask.WantRoom {
		for _, s := range q.peopleClear(nobody).AtLeast(ask.Length).Minus(taken) {
			out = append(out, Stretch{Span: s, NoRoom: true, Clear: len(needed), Needed: len(needed)})
		}
	}
	slices.SortFunc(out, func(a, b Stretch) int { return int(a.Start - b.Start) })
	return out
}

type question struct {
	Ask
	needed []Person
	places []int // of the needed people in the list of all

	clear when.Spans   // nobody needed is busy
	only  []when.Spans // by the place in needed: nobody but this one is busy
	rooms []when.Spans // when each room is clear
}

// sweep goes through the window once, from one start or end of somebody's time to
// the next.
func (q *question) sweep() {
	type edge struct {
		at     when.Instant
		person int
		more   int // 1 where they get busy, -1 where they get clear
	}
	var edges []edge
	for i, p := range q.needed {
		for _, s := range p.Busy.Meeting(q.Window) {
			edges = append(edges, edge{max(s.Start, q.Window.Start), i, 1}, edge{min(s.End, q.Window.End), i, -1})
		}
	}
	slices.SortFunc(edges, func(a, b edge) int { return cmp.Compare(a.at, b.at) })
	q.only = make([]when.Spans, len(q.needed))
	// Of one who is busy the sum of the places is the place.
	busy, sum, from := 0, 0, q.Window.Start
	for _, e := range append(edges, edge{at: q.Window.End}) {
		if s := (when.Span{Start: from, End: e.at}); !s.Empty() {
			switch busy {
			case 0:
				q.clear = append(q.clear, s)
			case 1:
				q.only[sum] = append(q.only[sum], s)
			}
		}
		busy, sum, from = busy+e.more, sum+e.more*e.person, e.at
	}
	q.clear = when.Union(q.clear...)
	if q.WantRoom {
		for _, r := range q.Rooms {
			q.rooms = append(q.rooms, r.Busy.Within(q.Window))
		}
	}
}

// roomFits are, for each room, the stretches it shares with the people.
type roomFits []when.Spans

func (r roomFits) meeting(s when.Span) int {
	n := 0
	for _, spans := range r {
		if spans.Overlaps(s) {
			n++
		}
	}
	return n
}

// nobody is the index of nobody to leave out. People are told apart by their
// place in the list: two may have one name.
const nobody = -1

// peopleClear is the part of the window in which all needed people but one are
// clear.
func (q question) peopleClear(but int) when.Spans {
	if but == nobody {
		return q.clear
	}
	return q.clear.Union(q.only[but])
}

// placements is everything that a fitting placement covers when one person is
// left out, and the same for each room.
func (q question) placements(but int) (all when.Spans, rooms roomFits) {
	people := q.peopleClear(but).AtLeast(q.Length)
	if !q.WantRoom {
		return people, nil
	}
	for _, clear := range q.rooms {
		both := people.Intersect(clear).AtLeast(q.Length)
		rooms = append(rooms, both)
		all = append(all, both...)
	}
	return when.Union(all...), rooms
}

// cutBySoft cuts what fits where somebody's working hours or maybes begin or
// end, so that each piece has one list of reservations.
func (q question) cutBySoft(fit when.Spans, rooms roomFits) []Stretch {
	cuts := map[when.Instant]bool{}
	for _, p := range q.needed {
		for _, s := range slices.Concat(p.Off.Meeting(q.Window), p.Maybe.Meeting(q.Window)) {
			cuts[s.Start], cuts[s.End] = true, true
		}
	}
	var out []Stretch
	for _, whole := range fit {
		for _, s := range cut(whole, cuts) {
			piece := Stretch{Span: s, Fits: true, Clear: len(q.needed), Needed: len(q.needed), Rooms: rooms.meeting(s)}
			for i, p := range q.needed {
				if p.Off.Overlaps(s) {
					piece.Off = append(piece.Off, q.places[i])
				}
				if p.Maybe.Overlaps(s) {
					piece.Maybe = append(piece.Maybe, q.places[i])
				}
			}
			if n := len(out); n > 0 && out[n-1].End == s.Start && out[n-1].sameAnswer(piece) {
				out[n-1].End = s.End
				continue
			}
			out = append(out, piece)
		}
	}
	return out
}

func (s Stretch) sameAnswer(o Stretch) bool {
	return s.Rooms == o.Rooms && slices.Equal(s.Off, o.Off) && slices.Equal(s.Maybe, o.Maybe)
}

func cut(whole when.Span, at map[when.Instant]bool) []when.Span {
	edges := []when.Instant{whole.Start}
	for i := range at {
		if whole.Start < i && i < whole.End {
			edges = append(edges, i)
		}
	}
	edges = append(edges, whole.End)
	slices.Sort(edges)
	var out []when.Span
	for i := 1; i < len(edges); i++ {
		out = append(out, when.Span{Start: edges[i-1], End: edges[i]})
	}
	return out
}

// Trouble is what stands against one chosen stretch for one person, by their place
// in the list of people.
type Trouble struct {
	Person int
	Needed bool
	Busy   bool
	Leave  bool // Busy by being on leave
	Maybe  bool
	Off    time.Duration // outside working hours
}

// Blocks tells whether the meeting cannot be held so: somebody needed is busy.
func (t Trouble) Blocks() bool { return t.Needed && t.Busy }

// Check says what stands against a chosen stretch, a line per person with
// trouble, in the order given; nil when it suits everybody.
func Check(chosen when.Span, people []Person) []Trouble {
	var out []Trouble
	for i, p := range people {
		t := Trouble{Person: i, Needed: p.Needed, Busy: p.Busy.Overlaps(chosen), Maybe: p.Maybe.Overlaps(chosen),
			Off: p.Off.Meeting(chosen).Intersect(when.Spans{chosen}).Total()}
		t.Leave = t.Busy && p.Leave.Overlaps(chosen)
		if t.Busy || t.Maybe || t.Off > 0 {
			out = append(out, t)
		}
	}
	return out
}
