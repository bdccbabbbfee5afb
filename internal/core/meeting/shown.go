package meeting

import (
	"slices"

	"jembro/internal/core/when"
)

// ShownKind is what a sheet does with a date.
type ShownKind int

const (
	ShownSettled ShownKind = iota // the sheet settles it
	ShownStays                    // the change leaves it alone
	ShownHeld                     // it has begun, and the change leaves it alone
	ShownOut                      // left out by hand
	ShownOff                      // called off
)

// Shown is one date on a sheet. Key is what the sheet calls it: its day in the
// rule, mostly. Scope is its day in the rule of the series that is being changed, 0
// for a date that it has not, and InScope tells whether the change is for it.
type Shown struct {
	Date
	Kind       ShownKind
	Key, Scope when.Day
	InScope    bool
}

// Settled is the series that a sheet settles: the one that begins where another
// ends, if there is one.
func (o Outcome) Settled() Meeting {
	if o.Next != nil {
		return *o.Next
	}
	return o.Meeting
}

// scoped tells whether the sheet changes some dates of a series.
func (o Outcome) scoped(before *Meeting) bool {
	return before != nil && before.Repeats() && o.Scope.From != 0
}

// Key is what the sheet calls a day of the rule.
func (o Outcome) Key(on when.Day) when.Day { return on - when.Day(o.Shifted) }

// Dates are the dates that a sheet shows: those that it settles, at most so many;
// and, of the series that it changes, those that stay and those that are left out.
// more tells whether there are more to settle.
func (o Outcome) Dates(before *Meeting, now when.Instant, most int) (settled, others []Shown, more bool) {
	m := o.Settled()
	// A scope with an end is of the rule that holds: past it there are dates that
	// stay, for centuries where the series has no end, and what was added by hand.
	past := slices.Max(slices.Concat(m.Plan().RDates, []when.Day{o.Scope.End()}))
	for d := range m.Dates(m.Start.Day) {
		if o.scoped(before) && o.Next == nil && d.On > past {
			break
		}
		scope := o.scopeOf(before, d)
		if o.scoped(before) && o.Next == nil && !o.Scope.Holds(d.On) && scope != 0 {
			continue
		}
		if len(settled) == most {
			more = true
			break
		}
		settled = append(settled, Shown{Date: d, Key: o.Key(d.On), Scope: scope, InScope: true})
	}
	return settled, append(o.staying(before, now, most), o.leftOut(before)...), more
}

// scopeOf is the day in the rule of the series that is being changed, 0 for a
// date that it has not.
func (o Outcome) scopeOf(before *Meeting, d Date) when.Day {
	if before == nil || !before.Repeats() {
		return 0
	}
	plan, on := before.Plan(), d.On
	if o.Next != nil { // the days of a new series may lie beside the old ones
		for x := range plan.Dates(o.Scope.From) {
			on += x.On - o.Next.Start.Day
			break
		}
	}
	if plan.Has(on) {
		return on
	}
	return 0
}

// staying are the dates of the series that the change leaves alone.
func (o Outcome) staying(before *Meeting, now when.Instant, most int) (out []Shown) {
	if !o.scoped(before) {
		return nil
	}
	for d := range before.Dates(before.Start.Day) {
		if o.Scope.To == 0 && d.On >= o.Scope.From || len(out) == most {
			break
		}
		if o.Scope.Holds(d.On) {
			continue
		}
		x := Shown{Date: d, Key: d.On, Scope: d.On, Kind: ShownStays}
		if d.Span.Start <= now {
			x.Kind = ShownHeld
		}
		out = append(out, x)
	}
	return out
}

// leftOut are the dates left out by hand.
func (o Outcome) leftOut(before *Meeting) (out []Shown) {
	m := o.Settled()
	days := slices.Clone(m.Series.Dropped)
	if o.Next != nil {
		days = append(days, o.Meeting.Series.Dropped...)
	}
	for _, day := range days {
		x := Shown{Date: Date{Date: m.Plan().Regular(day), Title: m.Title}, Kind: ShownOut, Key: o.Key(day), Scope: day,
			InScope: !o.scoped(before) || o.Scope.Holds(day)}
		if before != nil && before.Series != nil && slices.Contains(before.Series.Off, day) {
			x.Kind = ShownOff
		}
		out = append(out, x)
	}
	return out
}
