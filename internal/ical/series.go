package ical

import (
	"strings"

	"github.com/emersion/go-ical"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// component is one VEVENT of a letter: a meeting that is once, a series as its
// recipient has it, or a single date of one.
type component struct {
	meeting.Date
	series *series.Plan // the rule and its exceptions, nil for a single date
	single bool         // a date of a series: it has a RECURRENCE-ID
	theirs bool         // it goes on without the recipient
}

// components are what a letter tells its recipient: of a series that they are
// invited to as it goes on, the series with its exceptions in one object; of
// single dates, those (RFC 5546, 3.2.2.1 and 3.2.5).
func components(l schedule.Letter) []component {
	m := l.Meeting
	first := component{Date: meeting.Date{Date: series.Date{On: m.Start.Day, Start: m.Start, End: m.End, Span: m.Span()},
		Title: m.Title, Text: m.Text, Room: m.Room}}
	switch {
	case !m.Repeats():
		return []component{first}
	case len(l.On) > 0:
		return singles(l, l.On)
	case l.Kind == meeting.CallOff:
		return []component{first} // no RECURRENCE-ID: all of it
	case l.To.Single:
		return singles(l, theirDays(m, l.To))
	}
	plan, ok := theirSeries(m, l.To)
	if !ok {
		return []component{first}
	}
	first.On, first.Start, first.End = plan.Start.Day, plan.Start, plan.End
	first.Span = plan.Regular(plan.Start.Day).Span
	first.series = &plan
	out := []component{first}
	for _, d := range exceptions(m, plan) {
		out = append(out, component{Date: d, single: true})
	}
	return out
}

// theirDays are the days of the dates that somebody with a few dates is invited
// to.
func theirDays(m meeting.Meeting, p meeting.Participant) (days []when.Day) {
	for _, d := range m.DatesOf(p, p.Dates[len(p.Dates)-1].To) {
		days = append(days, d.On)
	}
	return days
}

// singles are dates by themselves; one that is not there any more is as the rule
// has it.
func singles(l schedule.Letter, days []when.Day) (out []component) {
	m := l.Meeting
	for _, on := range days {
		d, is := m.Date(on)
		if !is {
			d = meeting.Date{Date: m.Plan().Regular(on), Title: m.Title, Text: m.Text, Room: m.Room}
		}
		out = append(out, component{Date: d, single: true, theirs: is && l.Kind == meeting.CallOff})
	}
	return out
}

// theirSeries is the series as somebody is invited to it: it starts on their
// first date, and leaves out those between that are not theirs.
func theirSeries(m meeting.Meeting, p meeting.Participant) (series.Plan, bool) {
	plan := m.Plan()
	from := m.Start.Day
	if len(p.Dates) > 0 {
		from = max(from, p.Dates[0].From)
	}
	plan, ok := plan.From(from)
	if ok && p.Finite() {
		plan, ok = plan.Before(p.Dates[len(p.Dates)-1].To + 1)
	}
	for i := 1; ok && i < len(p.Dates); i++ {
		for d := range plan.Dates(p.Dates[i-1].To + 1) {
			if d.On >= p.Dates[i].From {
				break
			}
			plan = plan.Without(d.On)
		}
	}
	return plan, ok
}

// exceptions are the dates of a series that are not as the rule has them.
func exceptions(m meeting.Meeting, plan series.Plan) (out []meeting.Date) {
	own := map[when.Day]bool{}
	for _, o := range m.Series.Overrides {
		own[o.On] = true
	}
	last := plan.Start.Day
	for _, x := range plan.Moved {
		own[x.On] = true
	}
	for day := range own {
		last = max(last, day)
	}
	for d := range plan.Dates(plan.Start.Day) {
		if d.On > last {
			break
		}
		if own[d.On] {
			if date, ok := m.Date(d.On); ok {
				out = append(out, date)
			}
		}
	}
	return out
}

// times writes when the component is. The end of a series is an UNTIL, what it
// leaves out are EXDATEs: nothing about it can be counted in another way
// (DESIGN.md, rule 1).
func (c component) times(e *ical.Component, m meeting.Meeting) {
	zone := m.StartIn().Zone
	e.Props.Set(at(ical.PropDateTimeStart, c.Start, zone))
	e.Props.Set(at(ical.PropDateTimeEnd, c.End, zone))
	switch {
	case c.single:
		e.Props.Set(at(ical.PropRecurrenceID, when.Local{Day: c.On, Clock: m.Start.Clock}, zone))
	case c.series != nil:
		e.Props.Set(plain(ical.PropRecurrenceRule, c.series.Rule.String()))
		days(e, ical.PropRecurrenceDates, c.series.RDates, m)
		days(e, ical.PropExceptionDates, c.series.ExDates, m)
	}
}

// days writes dates of a series as a list in its zone.
func days(e *ical.Component, name string, all []when.Day, m meeting.Meeting) {
	if len(all) == 0 {
		return
	}
	zone := m.StartIn().Zone
	var texts []string
	for _, day := range all {
		texts = append(texts, at(name, when.Local{Day: day, Clock: m.Start.Clock}, zone).Value)
	}
	p := at(name, when.Local{}, zone)
	p.Value = strings.Join(texts, ",")
	e.Props.Set(p)
}

// names tells whether a component names a participant: those who are invited to
// that date, or to the series as it goes on.
func (c component) names(p meeting.Participant) bool {
	if c.series != nil {
		return !p.Single
	}
	return !c.single || p.On(c.On)
}

// openYears is how many years ahead the offsets of a zone are written down for a
// series without an end.
const openYears = 25

// covered is the time in which a letter needs the rules of its zone.
func covered(m meeting.Meeting, parts []component) when.Span {
	span := m.Span()
	for _, p := range parts {
		span.Start, span.End = min(span.Start, p.Span.Start), max(span.End, p.Span.End)
		switch {
		case p.series == nil:
		case p.series.Open():
			span.End = max(span.End, span.Start+openYears*366*86400)
		default:
			if last, ok := p.series.Last(); ok {
				span.End = max(span.End, p.series.Regular(last).Span.End)
			}
		}
	}
	return span
}
