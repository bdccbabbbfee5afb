package availability

import (
	"slices"
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

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
		try(people, rooms.NoRoom)
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
