package rooms

import (
	"time"

	"jembro/internal/core/when"
)

// Offices are the hours in which a clear hour is looked for (common practice).
var Offices = when.ClockSpan{Start: when.ClockOf(8, 0), End: when.ClockOf(18, 0)}

// ClearFrom tells whether a room is clear at a moment, and until when that, or what takes
// it, lasts; 0 for a room that stays clear.
func ClearFrom(busy when.Spans, at when.Instant) (clear bool, until when.Instant) {
	for _, s := range busy {
		switch {
		case s.Holds(at):
			for _, next := range busy { // one booking may follow another
				if next.Start <= s.End && next.End > s.End {
					s.End = next.End
				}
			}
			return false, s.End
		case s.Start > at:
			return true, s.Start
		}
	}
	return true, 0
}

// NextClear is the first stretch of a length in which a room is clear within a window, on
// the grid of quarters.
func NextClear(busy when.Spans, window when.Span, length time.Duration) (when.Span, bool) {
	grid := when.GridOver(window)
	n := when.Quarters(length)
	found := when.Span{}
	if n < 1 || grid.N < n {
		return found, false
	}
	first := -1
	grid.Bits(busy).Starts(n, grid.N, nil).Each(func(i int) {
		if first < 0 {
			first = i
		}
	})
	if first < 0 {
		return found, false
	}
	return when.Span{Start: grid.At(first), End: grid.At(first).Add(length)}, true
}
