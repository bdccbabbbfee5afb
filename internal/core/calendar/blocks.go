package calendar

import (
	"slices"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
)

// unavailable is when blocks of availability leave no time, by the procedure of RFC
// 7953, 4 and 5: from the lowest priority up each takes its time as its kind and frees
// what it says is available; of equal priority busy goes before leave before maybe, and
// time that one of them frees is clear.
func (x *expander) unavailable(blocks []Block) (out []availability.Time) {
	sorted := slices.Clone(blocks)
	rank := func(b Block) int { return (10 - b.Priority) % 10 } // 0 is the lowest, then 9 down to 1
	slices.SortStableFunc(sorted, func(a, b Block) int { return rank(a) - rank(b) })
	taken := map[availability.Kind]when.Spans{}
	for len(sorted) > 0 {
		n := 1
		for n < len(sorted) && rank(sorted[n]) == rank(sorted[0]) {
			n++
		}
		x.level(taken, sorted[:n])
		sorted = sorted[n:]
	}
	for kind, all := range taken {
		for _, s := range all {
			out = append(out, availability.Time{Span: s, Kind: kind})
		}
	}
	return out
}

// level lays blocks of equal priority over what lower ones take.
func (x *expander) level(taken map[availability.Kind]when.Spans, blocks []Block) {
	var covered, free when.Spans
	fresh := map[availability.Kind]when.Spans{}
	for _, b := range blocks {
		window := x.blockSpan(b).Intersect(x.window)
		if window.Empty() {
			continue
		}
		covered = covered.Union(when.Spans{window})
		fresh[b.Kind] = fresh[b.Kind].Union(when.Spans{window})
		var available []when.Span
		x.events(b.Available, func(e Entry) bool {
			available = append(available, e.Span.Intersect(window))
			if len(available) > 2*MostTimes {
				available = when.Union(available...)
			}
			return len(available) <= 2*MostTimes
		})
		free = free.Union(when.Union(available...))
	}
	for _, kind := range []availability.Kind{availability.Busy, availability.Leave, availability.Maybe} {
		taken[kind] = taken[kind].Minus(covered).Union(fresh[kind].Minus(free))
	}
}

func (x *expander) blockSpan(b Block) when.Span {
	span := x.window
	if b.Start != nil {
		span.Start = x.at(*b.Start)
		if b.Length != (Length{}) {
			span.End = x.span(*b.Start, b.Length).End
		}
	}
	if b.End != nil {
		span.End = x.at(*b.End)
	}
	return span
}
