// Package rooms knows which room would do, which rooms a series gets, and what is
// clear instead of one that is taken (DESIGN.md, rule 5).
package rooms

import (
	"math/bits"
	"slices"

	"jembro/internal/core/when"
)

// Assigned says which room each date gets: an index into the rooms given, or
// NoRoom.
type Assigned []int

// Room is a room that would do, and when it is taken.
type Room struct {
	ID   string
	Busy when.Spans
}

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

// Over finds rooms for the dates of a series (DESIGN.md, rule 5). One is
// the room that is clear on the most dates, on those where it is; each gives
// every date a room where one is clear, with the fewest different rooms and,
// among those, the fewest changes from date to date. Where rooms do equally well
// the one given first is taken. Both are nil when there are no rooms. Up to
// three different rooms are the fewest for certain; beyond that the choice is a
// good one.
func Over(dates []when.Span, rooms []Room) (one, each Assigned) {
	return OverClear(len(dates), len(rooms), func(r, d int) bool { return !rooms[r].Busy.Overlaps(dates[d]) })
}

// OverClear is Over where it is known of each room on which of the dates it is clear.
func OverClear(dates, rooms int, isClear func(room, date int) bool) (one, each Assigned) {
	if rooms == 0 || dates == 0 {
		return nil, nil
	}
	clear := make([]set, rooms)
	most := 0
	for r := range clear {
		clear[r] = newSet(dates)
		for d := range dates {
			if isClear(r, d) {
				clear[r].add(d)
			}
		}
		if clear[r].size() > clear[most].size() {
			most = r
		}
	}
	one = assign(dates, clear, []int{most})
	return one, fewestRooms(dates, withoutWorse(clear), one)
}

// withoutWorse leaves out rooms that are clear on no date on which one before them is not:
// that one does as well wherever they would do.
func withoutWorse(clear []set) []set {
	out := slices.Clone(clear)
	for r := range out {
		for before := range r {
			if clear[r].without(clear[before]).size() == 0 {
				out[r] = make(set, len(clear[r]))
				break
			}
		}
	}
	return out
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
		if len(chosen) > 0 && clear[r].without(covered).size() == 0 {
			continue // it adds nothing
		}
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

// Comparison holds one room for all dates against a room for each. Rooms are
// given by their places in the list.
type Comparison struct {
	// Taken counts the dates on which the room that is meant is taken.
	Taken int
	// One is the single room that is clear on the most dates, and OneClear on how
	// many; NoRoom and 0 when none is clear on any.
	One, OneClear int
	// Each gives every date a room where one is clear; Used are these rooms in the
	// order of the list, and Most is the one that most dates get.
	Each Assigned
	Used []int
	Most int
}

// Compare compares one room for all dates with a room for each. meant are the
// rooms that the dates have so far, by ID, empty for none. It is nil when there
// are no rooms or no dates.
func Compare(dates []when.Span, meant []string, rooms []Room) *Comparison {
	one, each := Over(dates, rooms)
	if one == nil {
		return nil
	}
	c := &Comparison{One: NoRoom, Each: each, Most: NoRoom}
	byID := map[string]Room{}
	for _, r := range rooms {
		byID[r.ID] = r
	}
	counts := make([]int, len(rooms))
	for i, span := range dates {
		if byID[meant[i]].Busy.Overlaps(span) {
			c.Taken++
		}
		if one[i] != NoRoom {
			c.One, c.OneClear = one[i], c.OneClear+1
		}
		if r := each[i]; r != NoRoom {
			counts[r]++
		}
	}
	for r, n := range counts {
		if n == 0 {
			continue
		}
		c.Used = append(c.Used, r)
		if c.Most == NoRoom || n > counts[c.Most] {
			c.Most = r
		}
	}
	return c
}
