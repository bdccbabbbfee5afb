package when

import (
	"fmt"
	"maps"
	"slices"
)

// ClockSpan is the half-open stretch [Start, End) of a day.
type ClockSpan struct {
	Start Clock `json:"start"`
	End   Clock `json:"end"`
}

// Hours are somebody's working hours: for each time.Weekday (Sunday is 0) the
// stretches worked, in the zone they work in. Other are those of single days, in place of
// the week's; on days that are Closed nothing is worked, unless Other says so. The zero
// Hours never work.
type Hours struct {
	Week   [7][]ClockSpan
	Zone   Zone
	Other  map[Day][]ClockSpan
	Closed Days
}

// Days is a set of days, comparable: public holidays above all. A nil Days is empty.
type Days interface{ Has(Day) bool }

// Workdays are the same hours from Monday to Friday.
func Workdays(start, end Clock, zone Zone) Hours {
	h := Hours{Zone: zone}
	for day := 1; day <= 5; day++ {
		h.Week[day] = []ClockSpan{{start, end}}
	}
	return h
}

// Equal tells whether the same hours are worked in the same zone.
func (h Hours) Equal(o Hours) bool {
	same := h.Zone == o.Zone && h.Closed == o.Closed && maps.EqualFunc(h.Other, o.Other, slices.Equal[[]ClockSpan])
	for day := range h.Week {
		same = same && slices.Equal(h.Week[day], o.Week[day])
	}
	return same
}

// On are the stretches worked on a day.
func (h Hours) On(day Day) []ClockSpan {
	if other, is := h.Other[day]; is {
		return other
	}
	if h.Closed != nil && h.Closed.Has(day) {
		return nil
	}
	return h.Week[day.Weekday()]
}

// Within are the hours worked inside window.
func (h Hours) Within(window Span) Spans {
	if window.Empty() {
		return nil
	}
	var worked []Span
	last := h.Zone.LocalAt(window.End).Day
	for day := h.Zone.LocalAt(window.Start).Day - 1; day <= last; day++ {
		for _, c := range h.On(day) {
			start, _ := h.Zone.Resolve(Local{day, c.Start})
			end, _ := h.Zone.Resolve(Local{day, c.End})
			worked = append(worked, Span{start, end}.Intersect(window))
		}
	}
	return Union(worked...)
}

// Off is what of some windows is not worked.
func (h Hours) Off(windows Spans) Spans {
	var off []Span
	for _, w := range windows {
		off = append(off, h.Within(w).Within(w)...)
	}
	return Union(off...)
}

// MostStretches is how many stretches of work a day can have.
const MostStretches = 6

// StretchError is stretches of a day that cannot be worked: Wrong ends before it begins, or
// overlaps With; without either there are too many.
type StretchError struct{ Wrong, With ClockSpan }

func (e *StretchError) Error() string {
	return fmt.Sprintf("stretches %s-%s, %s-%s", e.Wrong.Start, e.Wrong.End, e.With.Start, e.With.End)
}

// Stretches are the stretches worked on a day in order, those that touch as one. It fails
// with a *StretchError where one ends before it begins, two overlap, or there are too many.
func Stretches(all []ClockSpan) ([]ClockSpan, error) {
	sorted := slices.Clone(all)
	slices.SortFunc(sorted, func(a, b ClockSpan) int { return int(a.Start - b.Start) })
	var out []ClockSpan
	for _, s := range sorted {
		switch n := len(out); {
		case s.Start < 0 || s.End > 24*60 || s.Start >= s.End:
			return nil, &StretchError{Wrong: s}
		case n > 0 && s.Start < out[n-1].End:
			return nil, &StretchError{Wrong: s, With: out[n-1]}
		case n > 0 && s.Start == out[n-1].End:
			out[n-1].End = s.End
		default:
			out = append(out, s)
		}
	}
	if len(out) > MostStretches {
		return nil, &StretchError{}
	}
	return out, nil
}

// WorkingDays is on how many of some days anything is worked.
func (h Hours) WorkingDays(first, last Day) (n int) {
	for day := first; day <= last; day++ {
		if len(h.On(day)) > 0 {
			n++
		}
	}
	return n
}
