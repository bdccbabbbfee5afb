package availability

import (
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// allClear are the spans of a length or more in which the needed people are clear
// and within their hours.
func allClear(window when.Span, people []Person, length time.Duration) when.Spans {
	clear := when.Union(window)
	for _, p := range people {
		if p.Needed {
			clear = clear.Minus(p.Busy).Minus(p.Off).Minus(p.Maybe).AtLeast(length)
		}
	}
	return clear
}

// nearestRoom is the stretch nearest to around in which one room is clear too.
func nearestRoom(people when.Spans, all []rooms.Room, length time.Duration, around when.Instant, step time.Duration) (found when.Span, room int, ok bool) {
	for r, candidate := range all {
		s, fits := nearestIn(people.Minus(candidate.Busy), length, around, step)
		if fits && (!ok || distance(s.Start, around) < distance(found.Start, around)) {
			found, room, ok = s, r, true
		}
	}
	return found, room, ok
}

func distance(a, b when.Instant) when.Instant { return max(a-b, b-a) }

// nearestIn is the stretch within clear spans that starts nearest to around, on the
// grid of steps.
func nearestIn(clear when.Spans, length time.Duration, around when.Instant, step time.Duration) (found when.Span, ok bool) {
	for _, s := range clear.AtLeast(length) {
		start, fits := startIn(s, length, around, step)
		if fits && (!ok || distance(start, around) < distance(found.Start, around)) {
			found, ok = when.Span{Start: start, End: start.Add(length)}, true
		}
	}
	return found, ok
}

// startIn is the start in s nearest to around.
func startIn(s when.Span, length time.Duration, around when.Instant, step time.Duration) (when.Instant, bool) {
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
