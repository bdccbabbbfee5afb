package calendar

import (
	"maps"
	"slices"

	"jembro/internal/core/availability"
	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// aDate is what a date costs beside the step of its rule.
const aDate = 3

// Steps is what expanding one calendar may cost; MostTimes is how many separate
// stretches of time one may take.
const (
	Steps     = 20_000_000
	MostTimes = 100_000
)

var (
	// ErrTooOften: an entry comes so often that its dates cannot all be looked up.
	ErrTooOften = say.It("calendar.repeats")
	// ErrTooMany: more separate times than anybody has.
	ErrTooMany = say.It("calendar.times")
)

// Busy is when the calendar takes time within a window: ascending, disjoint, none
// touching another of its kind. Zone is where its reader is: floating times and whole
// days are meant there. It fails with ErrTooOften or ErrTooMany.
func (c Calendar) Busy(window when.Span, zone when.Zone) ([]availability.Time, error) {
	got := collected{}
	budget := recur.NewBudget(Steps)
	add := func(t availability.Time) bool {
		t.Span = t.Span.Intersect(window)
		got.add(t)
		return !got.full()
	}
	for _, t := range c.Taken {
		add(t)
	}
	x := c.expander(window, zone, budget)
	x.events(c.Events, func(e Entry) bool { return add(availability.Time{Span: e.Span, Kind: e.Kind}) })
	for _, t := range x.unavailable(c.Blocks) {
		add(t)
	}
	switch {
	case budget.Spent():
		return nil, ErrTooOften
	case got.full():
		return nil, ErrTooMany
	}
	return availability.Combine(got.times()), nil
}

// Entries are the dates of all events that share an instant with a window, in no order,
// whole. They are for showing; Busy is what counts.
func (c Calendar) Entries(window when.Span, zone when.Zone, yield func(Entry) bool) error {
	budget := recur.NewBudget(Steps)
	c.expander(window, zone, budget).events(c.Events, yield)
	if budget.Spent() {
		return ErrTooOften
	}
	return nil
}

// collected is times by kind; those that follow on each other are one at once, so that
// what ticks every second takes no room.
type collected map[availability.Kind][]when.Span

func (c collected) add(t availability.Time) {
	if t.Span.Empty() || t.Kind == availability.Free {
		return
	}
	all := c[t.Kind]
	if n := len(all); n > 0 && all[n-1].Start <= t.Span.Start && t.Span.Start <= all[n-1].End {
		all[n-1].End = max(all[n-1].End, t.Span.End)
		return
	}
	c[t.Kind] = append(all, t.Span)
	if len(c[t.Kind]) > 2*MostTimes {
		c[t.Kind] = when.Union(c[t.Kind]...)
	}
}

func (c collected) full() bool {
	for _, all := range c {
		if len(all) > 2*MostTimes {
			return true // even united
		}
	}
	return false
}

func (c collected) times() (out []availability.Time) {
	for kind, all := range c {
		for _, s := range all {
			out = append(out, availability.Time{Span: s, Kind: kind})
		}
	}
	return out
}

// expander looks up dates within a window.
type expander struct {
	window when.Span
	budget *recur.Budget
	zones  map[string]clock // by TZID
	here   clock            // of the reader
	utc    clock
	define map[string][]recur.Observance
}

// clock is a zone, of the IANA database or of a calendar's own making.
type clock struct {
	zone when.Zone
	own  *recur.OwnZone
	wall *recur.Wall
}

func (c Calendar) expander(window when.Span, zone when.Zone, budget *recur.Budget) *expander {
	return &expander{window: window, budget: budget, zones: map[string]clock{}, define: c.Zones,
		here: clock{zone: zone, wall: recur.NewWall(zone)}, utc: clock{wall: recur.NewWall(when.Zone{})}}
}

// zoneReach is how far before a window the changes of a calendar's own zone are known.
const zoneReach, zoneAhead = 60 * 366, 2 * 366

// clock finds the zone of a TZID: as the calendar defines it; where it does not, by its
// name; and where nobody knows that, the reader's own.
func (x *expander) clock(tzid string) clock {
	if tzid == "" {
		return x.here
	}
	if c, known := x.zones[tzid]; known {
		return c
	}
	zone, named := ZoneNamed(tzid)
	c := clock{zone: zone}
	from, to := when.Zone{}.LocalAt(x.window.Start).Day-zoneReach, when.Zone{}.LocalAt(x.window.End).Day+zoneAhead
	own, defined := recur.NewOwnZone(x.define[tzid], from, to, recur.NewBudget(zoneSteps))
	switch {
	case defined && named && own.Is(zone, when.Span{Start: x.window.Start - 400*86400, End: x.window.End + 400*86400}):
		// the same, and known for all times
	case defined:
		c.own = own
	case !named:
		c.zone = x.here.zone
	}
	c.wall = recur.NewWall(c.zone)
	if c.own != nil {
		c.wall = recur.NewOwnWall(c.own)
	}
	x.zones[tzid] = c
	return c
}

const zoneSteps = 500_000

func (x *expander) clockOf(t Time) clock {
	if t.Form == UTC {
		return x.utc
	}
	return x.clock(t.TZID)
}

// at is the instant of a time; a date is the midnight that begins it.
func (x *expander) at(t Time) when.Instant { return x.clockOf(t).at(t.Moment) }

func (c clock) at(m recur.Moment) when.Instant { return c.wall.At(m) }

func (c clock) local(i when.Instant) recur.Moment {
	if c.own != nil {
		return c.own.LocalAt(i)
	}
	return recur.MomentIn(i, c.zone.OffsetAt(i))
}

// events yields the dates of events that share an instant with the window. It is false
// when the reader has had enough.
func (x *expander) events(all []Event, yield func(Entry) bool) bool {
	byUID := map[string][]int{}
	var order []string
	for i, e := range all {
		if byUID[e.UID] == nil {
			order = append(order, e.UID)
		}
		byUID[e.UID] = append(byUID[e.UID], i)
	}
	for _, uid := range order {
		wholes, parts := newest(all, byUID[uid])
		for n, whole := range wholes {
			if n > 0 {
				parts = nil // they replace dates of the first
			}
			if !x.event(all[whole], all, parts, yield) {
				return false
			}
		}
		if len(wholes) == 0 && !x.parts(all, parts, yield) {
			return false
		}
		if x.budget.Spent() {
			return false
		}
	}
	return true
}

// newest parts the components of one UID into whole events and single dates; of those
// for the same dates the one with the highest SEQUENCE, then DTSTAMP, holds (RFC 5546,
// 2.1.5), and all where these are equal.
func newest(all []Event, of []int) (wholes, parts []int) {
	latest := map[Time]int{}
	older := func(a, b Event) bool {
		return a.Sequence < b.Sequence || a.Sequence == b.Sequence && a.Stamp < b.Stamp
	}
	for _, i := range of {
		e := all[i]
		if e.RecurrenceID == nil {
			switch {
			case len(wholes) == 0 || older(all[wholes[0]], e):
				wholes = []int{i}
			case !older(e, all[wholes[0]]):
				wholes = append(wholes, i)
			}
			continue
		}
		if was, known := latest[*e.RecurrenceID]; !known || !older(e, all[was]) {
			latest[*e.RecurrenceID] = i
		}
	}
	return wholes, slices.Sorted(maps.Values(latest))
}

// parts yields single dates as they are said.
func (x *expander) parts(all []Event, parts []int, yield func(Entry) bool) bool {
	for _, i := range parts {
		e := all[i]
		if !e.Cancelled && !x.yield(e, x.span(e.Start, e.Length), x.at(*e.RecurrenceID), yield) {
			return false
		}
	}
	return true
}

func (x *expander) yield(e Event, span when.Span, id when.Instant, yield func(Entry) bool) bool {
	if !span.Overlaps(x.window) {
		return true
	}
	return yield(Entry{UID: e.UID, Title: e.Title, Private: e.Private, Span: span, ID: id, Kind: e.Kind, Day: e.Start.Form == Date})
}

// span is when something is that begins at start.
func (x *expander) span(start Time, l Length) when.Span {
	return x.spanFrom(x.clockOf(start), start.Form, start.Moment, l)
}

func (x *expander) spanFrom(c clock, form Form, m recur.Moment, l Length) when.Span {
	span := when.Span{Start: c.at(m)}
	end := recur.Moment{Day: m.Day + when.Day(l.Days), Second: m.Second}
	switch {
	case l.End != nil && (form != Date || l.End.Moment.Day > m.Day):
		span.End = x.at(*l.End)
	case l.Days == 0 && l.Seconds == 0 && form == Date:
		end.Day++ // a day (RFC 5545, 3.6.1), also with an end that is no later (common practice)
		span.End = c.at(end)
	case l.Days == 0:
		span.End = span.Start + when.Instant(l.Seconds)
	default:
		span.End = c.at(end) + when.Instant(l.Seconds)
	}
	return span
}

// event yields the dates of a whole event, with the single ones that replace some.
func (x *expander) event(e Event, all []Event, parts []int, yield func(Entry) bool) bool {
	if len(e.Rules) == 0 && len(e.RDates) == 0 && len(parts) == 0 {
		span := x.span(e.Start, e.Length)
		return e.Cancelled || x.yield(e, span, span.Start, yield)
	}
	if !x.parts(all, parts, yield) || e.Cancelled {
		return true
	}
	s := x.series(e, all, parts)
	from := s.earliest(x.window)
	seen := map[recur.Moment]bool{}
	several := len(e.Rules) > 1
	for _, series := range s.series {
		for m := range series.From(from, x.budget) {
			x.budget.Left -= aDate
			if several && seen[m] || s.gone(m) {
				continue
			}
			if several {
				seen[m] = true
			}
			entry, span := s.dated(m)
			if span.Start >= x.window.End && s.behind(m, x.window.End) {
				break
			}
			if !x.yield(entry, span, s.clock.at(m), yield) {
				return false
			}
		}
	}
	for _, p := range s.periods {
		if m := s.local(p.Start); !s.gone(m) && !x.yield(e, x.span(p.Start, p.Length), x.at(p.Start), yield) {
			return false
		}
	}
	return true
}
