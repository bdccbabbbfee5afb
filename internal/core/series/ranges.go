package series

import (
	"slices"

	"jembro/internal/core/when"
)

// Range is the dates from one day of the rule to another, both included. To is 0
// for all that come, From is Ever for all from the first on.
type Range struct {
	From when.Day `json:"from"`
	To   when.Day `json:"to,omitempty"`
}

// Forever is after every date, and Ever before.
const (
	Forever = when.Day(1 << 30)
	Ever    = -Forever
)

// Holds tells whether a day lies in the range.
func (r Range) Holds(day when.Day) bool { return r.From <= day && (r.To == 0 || day <= r.To) }

// End is the last day, Forever for all that come.
func (r Range) End() when.Day {
	if r.To == 0 {
		return Forever
	}
	return r.To
}

func rangeTo(from, to when.Day) Range {
	if to == Forever {
		to = 0
	}
	return Range{from, to}
}

// Within cuts ranges to a scope; no ranges mean everything.
func Within(ranges []Range, scope Range) (out []Range) {
	for _, r := range Whole(ranges) {
		if from, to := max(r.From, scope.From), min(r.End(), scope.End()); from <= to {
			out = append(out, rangeTo(from, to))
		}
	}
	return out
}

// Outside keeps what lies beside a scope; no ranges mean everything.
func Outside(ranges []Range, scope Range) (out []Range) {
	for _, r := range Whole(ranges) {
		if r.From < scope.From {
			out = append(out, rangeTo(r.From, min(r.End(), scope.From-1)))
		}
		if r.End() > scope.End() {
			out = append(out, rangeTo(max(r.From, scope.End()+1), r.End()))
		}
	}
	return slices.DeleteFunc(out, func(r Range) bool { return r.From > r.End() })
}

// Whole are the ranges, or the one that is everything where there are none.
func Whole(ranges []Range) []Range {
	if len(ranges) == 0 {
		return []Range{{From: Ever}}
	}
	return ranges
}

// Merge puts ranges together that touch; nil means everything.
func Merge(ranges []Range) (out []Range) {
	ranges = slices.Clone(ranges)
	slices.SortFunc(ranges, func(a, b Range) int { return int(a.From - b.From) })
	for _, r := range ranges {
		if n := len(out); n > 0 && r.From <= out[n-1].End()+1 {
			out[n-1] = rangeTo(out[n-1].From, max(out[n-1].End(), r.End()))
			continue
		}
		out = append(out, r)
	}
	if len(out) == 1 && out[0].From == Ever && out[0].To == 0 {
		return nil
	}
	return out
}
