package fits

import (
	"math/bits"
	"slices"
	"time"

	"jembro/internal/core/when"
)

// Assigned says which room each date gets: an index into the rooms given, or
// NoRoom.
type Assigned []int

// NoRoom is a date for which no room is clear.
const NoRoom = -1

// Without counts the dates without a room.
func (a Assigned) Without() (n int) {
	for _, r := range a {
		if r == NoRoom {
			n++
		}
	}
	return n
}

// Rooms counts the different rooms.
func (a Assigned) Rooms() int {
	seen := map[int]bool{}
	for _, r := range a {
		if r != NoRoom {
			seen[r] = true
		}
	}
	return len(seen)
}

// Changes counts how often the room differs from that of the date before, dates
// without one left out.
func (a Assigned) Changes() (n int) {
	last := NoRoom
	for _, r := range a {
		if r == NoRoom {
			continue
		}
		if last != NoRoom && r != last {
			n++
		}
		last = r
	}
	return n
}

// RoomsOver finds rooms for the dates of a series (DESIGN.md, rule 5). One is
// the room that is clear on the most dates, on those where it is; each gives
// every date a room where one is clear, with the fewest different rooms and,
// among those, the fewest changes from date to date. Where rooms do equally well
// the one given first is taken. Both are nil when there are no rooms. Up to
// three different rooms are the fewest for certain; beyond that the choice is a
// good one.
func RoomsOver(dates []when.Span, rooms []Room) (one, each Assigned) {
	if len(rooms) == 0 || len(dates) == 0 {
		return nil, nil
	}
	clear := make([]set, len(rooms))
	most := 0
	for r, room := range rooms {
		clear[r] = newSet(len(dates))
		for d, span := range dates {
			if !room.Busy.Overlaps(span) {
				clear[r].add(d)
			}
		}
		if clear[r].size() > clear[most].size() {
			most = r
		}
	}
	one = assign(len(dates), clear, []int{most})
	return one, fewestRooms(len(dates), clear, one)
}

// set is a set of dates.
type set []uint64

func newSet(n int) set          { return make(set, (n+63)/64) }
func (s set) add(i int)         { s[i>>6] |= 1 << (i & 63) }
func (s set) has(i int) bool    { return s[i>>6]&(1<<(i&63)) != 0 }
func (s set) union(o set) set   { return s.with(o, func(a, b uint64) uint64 { return a | b }) }
func (s set) without(o set) set { return s.with(o, func(a, b uint64) uint64 { return a &^ b }) }

func (s set) with(o set, op func(a, b uint64) uint64) set {
	out := make(set, len(s))
	for i := range s {
		out[i] = op(s[i], o[i])
	}
	return out
}

func (s set) size() (n int) {
	for _, w := range s {
		n += bits.OnesCount64(w)
	}
	return n
}

// fewestRooms tries one room, then two, then three; more are taken one by one,
// each for the most dates still without.
func fewestRooms(dates int, clear []set, one Assigned) Assigned {
	all := newSet(dates)
	for _, c := range clear {
		all = all.union(c)
	}
	if one.Without() == dates-all.size() {
		return one
	}
	var best Assigned
	consider := func(rooms []int) {
		if a := assign(dates, clear, rooms); best == nil || a.Changes() < best.Changes() {
			best = a
		}
	}
	for size := 2; size <= 3 && best == nil; size++ {
		choose(clear, all, size, nil, newSet(dates), consider)
	}
	if best != nil {
		return best
	}
	var chosen []int
	for left := all; left.size() > 0; {
		most := 0
		for r := range clear {
			if left.size()-left.without(clear[r]).size() > left.size()-left.without(clear[most]).size() {
				most = r
			}
		}
		chosen, left = append(chosen, most), left.without(clear[most])
	}
	return assign(dates, clear, chosen)
}

// choose goes through the choices of some rooms that cover all dates.
func choose(clear []set, all set, size int, chosen []int, covered set, found func([]int)) {
	if size == 0 {
		if slices.Equal(covered, all) {
			found(chosen)
		}
		return
	}
	first := 0
	if len(chosen) > 0 {
		first = chosen[len(chosen)-1] + 1
	}
	for r := first; r < len(clear); r++ {
		choose(clear, all, size-1, append(slices.Clone(chosen), r), covered.union(clear[r]), found)
	}
}

// assign gives each date one of the rooms with the fewest changes: the cheapest
// way through the dates, room by room.
func assign(dates int, clear []set, rooms []int) Assigned {
	out := make(Assigned, dates)
	type step struct{ cost, from int }
	var ways [][]step // for each date with a room: the cheapest way to be in each room
	var at []int
	for d := range dates {
		out[d] = NoRoom
		row := make([]step, len(rooms))
		any := false
		for i, r := range rooms {
			row[i] = step{cost: 1 << 30}
			if !clear[r].has(d) {
				continue
			}
			any = true
			if len(ways) == 0 {
				row[i] = step{}
				continue
			}
			for j, before := range ways[len(ways)-1] {
				cost := before.cost
				if j != i {
					cost++
				}
				if cost < row[i].cost {
					row[i] = step{cost, j}
				}
			}
		}
		if any {
			ways, at = append(ways, row), append(at, d)
		}
	}
	if len(ways) == 0 {
		return out
	}
	room := 0
	for i, s := range ways[len(ways)-1] {
		if s.cost < ways[len(ways)-1][room].cost {
			room = i
		}
	}
	for d := len(ways) - 1; d >= 0; d-- {
		out[at[d]] = rooms[room]
		room = ways[d][room].from
	}
	return out
}

// Nearest is the stretch of the length asked for that fits and starts nearest to
// a moment: needed people clear and within their hours, one room clear for all
// of it where one is wanted. It starts at a multiple of step from around; ok is
// false when nothing in the window fits.
func Nearest(ask Ask, around when.Instant, step time.Duration) (found when.Span, room int, ok bool) {
	var off []when.Span
	for _, p := range ask.People {
		if p.Needed {
			off = append(off, slices.Concat(p.Busy, p.Off, p.Maybe)...)
		}
	}
	people := when.Union(off...).Within(ask.Window)
	try := func(clear when.Spans, r int) {
		for _, s := range clear.AtLeast(ask.Length) {
			if start, fits := nearestIn(s, ask.Length, around, step); fits && (!ok || distance(start, around) < distance(found.Start, around)) {
				found, room, ok = when.Span{Start: start, End: start.Add(ask.Length)}, r, true
			}
		}
	}
	if !ask.WantRoom {
		try(people, NoRoom)
		return found, room, ok
	}
	for r, candidate := range ask.Rooms {
		try(people.Intersect(candidate.Busy.Within(ask.Window)), r)
	}
	return found, room, ok
}

func distance(a, b when.Instant) when.Instant { return max(a-b, b-a) }

// nearestIn is the start in s nearest to around, on the grid of steps.
func nearestIn(s when.Span, length time.Duration, around when.Instant, step time.Duration) (when.Instant, bool) {
	grid, last := when.Instant(step/time.Second), s.End.Add(-length)
	start := min(max(around, s.Start), last)
	off := ((start-around)%grid + grid) % grid
	for _, candidate := range []when.Instant{start - off, start - off + grid} {
		if s.Start <= candidate && candidate <= last {
			return candidate, true
		}
	}
	return 0, false
}
