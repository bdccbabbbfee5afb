package calendar

import (
	"slices"
	"strings"

	"jembro/internal/core/availability"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// dates is an event that recurs, ready to be walked through.
type dates struct {
	x       *expander
	event   Event
	clock   clock
	kind    recur.Kind
	series  []recur.Series // one a rule
	periods []Period
	length  Length
	without map[recur.Moment]bool // replaced, or left out
	days    map[when.Day]bool     // left out as days
	onward  []onward              // ascending
	longest when.Instant
	back    int64 // how far a change puts dates back, not above 0
}

// onward is a change of a date and all after it.
type onward struct {
	from  recur.Moment
	shift int64 // seconds of the wall clock
	event Event
}

func (x *expander) series(e Event, all []Event, parts []int) *dates {
	d := &dates{x: x, event: e, clock: x.clockOf(e.Start), kind: recur.Zoned, without: map[recur.Moment]bool{}, days: map[when.Day]bool{}}
	if e.Start.Form == Date {
		d.kind = recur.AllDay
	}
	d.length = d.lasting(e)
	for _, t := range e.ExDates {
		if t.Form == Date && e.Start.Form != Date { // common practice: all of that day
			d.days[t.Moment.Day] = true
			continue
		}
		d.without[d.local(t)] = true
	}
	for _, i := range parts {
		p := all[i]
		at := d.local(*p.RecurrenceID)
		if p.RecurrenceID.Form == Date && e.Start.Form != Date {
			at.Second = e.Start.Moment.Second // common practice
		}
		d.without[at] = true
		if p.Onward {
			shift := int64(p.Start.Moment.Day-at.Day)*86400 + int64(p.Start.Moment.Second-at.Second)
			p.Length = d.lasting(p)
			d.onward = append(d.onward, onward{at, shift, p})
		}
	}
	slices.SortFunc(d.onward, func(a, b onward) int { return a.from.Compare(b.from) })
	base := recur.Series{Start: e.Start.Moment, Kind: d.kind, Zone: d.clock.zone, Own: d.clock.own}
	for _, r := range e.RDates {
		if r.Length != (Length{}) {
			d.periods = append(d.periods, r)
			continue
		}
		base.Dates = append(base.Dates, d.local(r.Start))
	}
	d.series = []recur.Series{base}
	for i, rule := range e.Rules {
		if i > 0 {
			d.series = append(d.series, base)
		}
		d.series[i].Rule = d.fit(rule)
	}
	if len(e.Rules) > 0 && !slices.Contains(base.Dates, base.Start) {
		// DTSTART is a date of the series, also where the rule does not come to it.
		d.series[0].Dates = append(slices.Clone(base.Dates), base.Start)
	}
	d.longest = d.reach(d.length)
	for _, o := range d.onward {
		d.longest = max(d.longest, d.reach(o.event.Length)+when.Instant(max(o.shift, 0)))
		d.back = min(d.back, o.shift)
	}
	return d
}

// lasting is a length that holds for every date: DTEND gives an exact one, DURATION one
// by the clock (RFC 5545, 3.8.5.3); days are always counted.
func (d *dates) lasting(e Event) Length {
	l := e.Length
	if l.End == nil {
		return l
	}
	if e.Start.Form == Date {
		return Length{Days: max(int(l.End.Moment.Day-e.Start.Moment.Day), 1)}
	}
	return Length{Seconds: int64(d.x.at(*l.End) - d.x.at(e.Start))}
}

// reach is how long something of a length takes, with room for a change of clocks.
func (d *dates) reach(l Length) when.Instant {
	return when.Instant(int64(l.Days+2)*86400 + max(l.Seconds, 0))
}

// local is a time by the clock of the series.
func (d *dates) local(t Time) recur.Moment {
	if t.Form == Date {
		return recur.Moment{Day: t.Moment.Day}
	}
	if t.Form == d.event.Start.Form && t.TZID == d.event.Start.TZID || t.Form == Local && t.TZID == "" {
		return t.Moment
	}
	m := d.clock.local(d.x.at(t))
	if d.kind == recur.AllDay {
		m.Second = 0
	}
	return m
}

// gone tells whether a date was left out or is replaced.
func (d *dates) gone(m recur.Moment) bool { return d.without[m] || d.days[m.Day] }

// fit makes the end of a rule one that goes with the start: a date counts to its end,
// an instant for a date its day (RFC 5545, 3.3.10 has them alike; common practice).
func (d *dates) fit(r recur.Rule) recur.Rule {
	u := &r.Until
	switch {
	case !u.Set:
	case d.kind == recur.AllDay:
		u.AllDay, u.UTC, u.Moment.Second = true, false, 0
	case u.AllDay:
		u.AllDay, u.UTC, u.Moment.Second = false, false, 86399
	}
	if d.kind == recur.AllDay { // BYHOUR and finer are ignored with a DATE (3.3.10)
		r.Hours, r.Minutes, r.Seconds = 0, 0, 0
		if r.Freq < recur.Daily {
			r.Freq = recur.Daily
		}
	}
	return r
}

// earliest is where to begin so as to find every date that reaches into a window.
func (d *dates) earliest(window when.Span) recur.Moment {
	m := d.clock.local(window.Start - d.longest)
	if d.kind == recur.AllDay {
		m.Second = 0
	}
	return m
}

// behind tells whether a date and all after it begin after an instant.
func (d *dates) behind(m recur.Moment, at when.Instant) bool {
	m.Day += when.Day(d.back / 86400)
	return d.clock.at(m) >= at
}

// dated is a date as its event has it, or as a change from an earlier date on does.
func (d *dates) dated(m recur.Moment) (Event, when.Span) {
	n, found := slices.BinarySearchFunc(d.onward, m, func(o onward, m recur.Moment) int { return o.from.Compare(m) })
	if found {
		n++
	}
	if n > 0 {
		o := d.onward[n-1]
		at := recur.MomentIn(when.Instant(int64(m.Day)*86400+int64(m.Second)+o.shift), 0)
		e := o.event
		if e.Cancelled {
			e.Kind = availability.Free
		}
		return e, d.x.spanFrom(d.x.clockOf(e.Start), e.Start.Form, at, e.Length)
	}
	return d.event, d.x.spanFrom(d.clock, d.event.Start.Form, m, d.length)
}

// ZoneNamed finds a zone by its IANA name, alone or at the end of a longer one.
func ZoneNamed(name string) (when.Zone, bool) {
	name = strings.Trim(name, `"`)
	for name != "" {
		if zone, err := when.LoadZone(name); err == nil {
			return zone, true
		}
		_, rest, more := strings.Cut(name, "/")
		if !more || strings.Count(rest, "/") < 1 {
			return when.Zone{}, false
		}
		name = rest
	}
	return when.Zone{}, false
}
