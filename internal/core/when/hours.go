package when

import "slices"

// ClockSpan is the half-open stretch [Start, End) of a day.
type ClockSpan struct{ Start, End Clock }

// Hours are somebody's working hours: for each time.Weekday (Sunday is 0) the
// stretches worked, in the zone they work in. The zero Hours never work.
type Hours struct {
	Week [7][]ClockSpan
	Zone Zone
}

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
	same := h.Zone == o.Zone
	for day := range h.Week {
		same = same && slices.Equal(h.Week[day], o.Week[day])
	}
	return same
}

// Within are the hours worked inside window.
func (h Hours) Within(window Span) Spans {
	if window.Empty() {
		return nil
	}
	var worked []Span
	last := h.Zone.LocalAt(window.End).Day
	for day := h.Zone.LocalAt(window.Start).Day - 1; day <= last; day++ {
		for _, c := range h.Week[day.Weekday()] {
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
