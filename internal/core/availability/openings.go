package availability

import (
	"cmp"
	"slices"
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// OpeningsAsk is the question for openings: when a meeting of Length is best within
// Window.
type OpeningsAsk struct {
	Window when.Span
	// Allowed are the stretches that a meeting has to lie in, nil for the whole window.
	Allowed  when.Spans
	Length   time.Duration
	People   []Person
	Rooms    []rooms.Room // those that would do, the best first
	WantRoom bool
	Most     int
}

// Opening is a stretch that fits, or nearly, with what speaks against it: people are
// places in the list of people.
type Opening struct {
	when.Span
	Missing []int // needed people who are busy
	// Room is the place of the first room that is clear then, rooms.NoRoom where none is
	// or none is wanted.
	Room   int
	NoRoom bool // a room is wanted, and none is clear
	// Off is by how much it lies outside the working hours of needed people, those who
	// have any.
	Off      []OffBy
	Optional []int // optional people who are busy
	Maybe    []int // needed people who are only maybe busy
	// Splinter is how much clear time of the needed people is left in pieces that are
	// too short for anything.
	Splinter time.Duration
}

// OffBy is by how much something lies outside somebody's working hours.
type OffBy struct {
	Person int
	Off    time.Duration
}

// Good tells whether nothing speaks against an opening: needed people are there within
// their hours, and a room where one is wanted.
func (o Opening) Good() bool {
	return len(o.Missing) == 0 && !o.NoRoom && len(o.Off) == 0 && len(o.Maybe) == 0
}

// Short is what a piece of clear time is at the most that is too short for anything
// (common practice: half an hour is the usual shortest meeting).
const Short = 30 * time.Minute

// Openings are the best stretches that begin on a quarter of an hour, the best first;
// one that overlaps a better one is left out. There is none in which more than one needed
// person is missing. Times that are no quarters are rounded outward: a stretch takes all
// of the quarters that it or somebody's time meets.
func (s *Search) Openings() (out []Opening) {
	if s == nil {
		return nil
	}
	var taken []int
	for _, group := range s.groups() {
		s.rank(group)
		for _, at := range group {
			if slices.ContainsFunc(taken, func(x int) bool { return max(x-at, at-x) < s.n }) {
				continue
			}
			if taken = append(taken, at); len(taken) == s.Most {
				break
			}
		}
		if len(taken) == s.Most {
			break
		}
	}
	for _, at := range taken {
		out = append(out, s.opening(at))
	}
	return out
}

// GoodOn is how many openings there are on each of some days against which nothing
// speaks, one after the other without overlap, at most so many.
func (s *Search) GoodOn(days []when.Span, most int) []int {
	out := make([]int, len(days))
	if s == nil {
		return out
	}
	good := s.groups()[0]
	for d, day := range days {
		free := day.Start
		for _, at := range good {
			start := s.grid.At(at)
			end := start.Add(time.Duration(s.n) * when.Quarter)
			if worst, _ := s.off(at); start < free || end > day.End || worst > 0 || s.maybe[at] > 0 || out[d] == most {
				continue
			}
			out[d], free = out[d]+1, end
		}
	}
	return out
}

// Search is the grid of a question, with what speaks against a start at each quarter. It
// is nil for a question that nothing can answer.
type Search struct {
	OpeningsAsk
	grid   when.Grid
	n      int   // quarters that the meeting takes
	starts []int // those that are allowed and miss one needed person at the most

	missing, optional, maybe, splinter []uint8 // by the quarter it starts at
	rooms                              []when.Bits
	anyRoom                            when.Bits
	offs                               []offTime
}

// offTime is the working hours of some needed people: how many seconds before each
// quarter lie outside of them, and how many people have these hours.
type offTime struct {
	before []int32
	people int32
}

// NewSearch weighs a question once, for all that is asked of it.
func NewSearch(ask OpeningsAsk) *Search {
	s := &Search{OpeningsAsk: ask, grid: when.GridOver(ask.Window), n: when.Quarters(ask.Length)}
	if s.n < 1 || s.grid.N < s.n {
		return nil
	}
	words := (s.grid.N + 63) / 64
	counts := make([]uint8, 4*s.grid.N)
	s.missing, s.optional, s.maybe, s.splinter = counts[:s.grid.N], counts[s.grid.N:2*s.grid.N], counts[2*s.grid.N:3*s.grid.N], counts[3*s.grid.N:]
	scratch, sides := make(when.Bits, words), make(when.Bits, words)
	// Two sets count to two: one needed person is missing, more are.
	one, more := make(when.Bits, words), make(when.Bits, words)
	offs := map[*when.Span]int{}
	for _, p := range ask.People {
		busy := s.grid.Bits(p.Busy)
		scratch = busy.Starts(s.n, s.grid.N, scratch)
		if !p.Needed {
			s.count(s.optional, scratch.Not(s.grid.N))
			continue
		}
		for w := range scratch {
			more[w] |= one[w] &^ scratch[w]
			one[w] |= ^scratch[w]
		}
		if len(p.Maybe) > 0 {
			scratch = s.grid.Bits(p.Maybe).Starts(s.n, s.grid.N, scratch)
			s.count(s.maybe, scratch.Not(s.grid.N))
		}
		s.addOff(p.Off, offs)
		busy.Or(s.grid.Bits(p.Off))
		scratch = busy.Starts(s.n, s.grid.N, scratch)
		for _, side := range []int{-1, s.n} {
			sides = busy.Lonely(side, s.grid.N, sides)
			sides.And(scratch)
			s.count(s.splinter, sides)
		}
	}
	allowed := make(when.Bits, words).Starts(s.n, s.grid.N, nil)
	if ask.Allowed != nil {
		allowed = s.grid.Bits(when.Spans{ask.Window}.Minus(ask.Allowed)).Starts(s.n, s.grid.N, allowed)
	}
	for w := range allowed {
		allowed[w] &^= more[w]
	}
	allowed.Each(func(i int) {
		s.starts = append(s.starts, i)
		if one.Has(i) {
			s.missing[i] = 1
		}
	})
	if ask.WantRoom {
		s.anyRoom = make(when.Bits, words)
		for _, r := range ask.Rooms {
			clear := s.grid.Bits(r.Busy).Starts(s.n, s.grid.N, nil)
			s.rooms = append(s.rooms, clear)
			s.anyRoom.Or(clear)
		}
	}
	return s
}

// count adds one at each quarter of a set; nobody counts to more than 255.
func (s *Search) count(counts []uint8, set when.Bits) {
	set.Each(func(i int) { counts[i] = min(counts[i], 254) + 1 })
}

// addOff adds somebody's hours; those who work the same share them.
func (s *Search) addOff(off when.Spans, known map[*when.Span]int) {
	if len(off) == 0 {
		return
	}
	if at, is := known[&off[0]]; is {
		s.offs[at].people++
		return
	}
	known[&off[0]] = len(s.offs)
	before := make([]int32, s.grid.N+1)
	for _, x := range off.Meeting(when.Span{Start: s.grid.Start, End: s.grid.At(s.grid.N)}) {
		s.grid.Parts(x, func(i int, part time.Duration) { before[i+1] += int32(part / time.Second) })
	}
	for i := range s.grid.N {
		before[i+1] += before[i]
	}
	s.offs = append(s.offs, offTime{before, 1})
}

// off is by how many seconds a start lies outside the hours of who is worst off, and of
// all together.
func (s *Search) off(at int) (worst, sum int32) {
	for _, o := range s.offs {
		x := o.before[at+s.n] - o.before[at]
		worst, sum = max(worst, x), sum+x*o.people
	}
	return worst, sum
}

// groups are the starts by how many needed people are missing and whether a room is, the
// best first: what else speaks against them is looked at within a group.
func (s *Search) groups() (groups [4][]int) {
	for _, i := range s.starts {
		g := 2 * int(s.missing[i])
		if s.WantRoom && !s.anyRoom.Has(i) {
			g++
		}
		groups[g] = append(groups[g], i)
	}
	return groups
}

// rank orders the starts of a group by rule 4 of DESIGN.md: minutes outside somebody's
// working hours (the worst-off person first, then the sum), optional people missing,
// needed people who are maybe busy, splintered clear time, earliness. The order is total.
func (s *Search) rank(group []int) {
	type ranked struct {
		hours, rest uint64
		at          int
	}
	all := make([]ranked, len(group))
	for n, i := range group {
		worst, sum := s.off(i)
		all[n] = ranked{uint64(worst)<<32 | uint64(sum), uint64(s.optional[i])<<16 | uint64(s.maybe[i])<<8 | uint64(s.splinter[i]), i}
	}
	slices.SortFunc(all, func(a, b ranked) int {
		return cmp.Or(cmp.Compare(a.hours, b.hours), cmp.Compare(a.rest, b.rest), a.at-b.at)
	})
	for n, x := range all {
		group[n] = x.at
	}
}

// opening says everything about a start.
func (s *Search) opening(at int) Opening {
	start := s.grid.At(at)
	o := Opening{Span: when.Span{Start: start, End: start.Add(s.Length)}, Room: rooms.NoRoom, Splinter: time.Duration(s.splinter[at]) * when.Quarter}
	whole := when.Span{Start: start, End: s.grid.At(at + s.n)}
	for i, p := range s.People {
		busy := p.Busy.Overlaps(whole)
		switch {
		case busy && p.Needed:
			o.Missing = append(o.Missing, i)
		case busy:
			o.Optional = append(o.Optional, i)
		}
		if !p.Needed {
			continue
		}
		if off := p.Off.Meeting(whole).Intersect(when.Spans{whole}).Total(); off > 0 {
			o.Off = append(o.Off, OffBy{i, off})
		}
		if p.Maybe.Overlaps(whole) {
			o.Maybe = append(o.Maybe, i)
		}
	}
	if s.WantRoom {
		o.Room = slices.IndexFunc(s.rooms, func(clear when.Bits) bool { return clear.Has(at) })
		o.NoRoom = o.Room < 0
	}
	return o
}
