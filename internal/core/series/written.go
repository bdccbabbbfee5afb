package series

import (
	"slices"
	"time"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// Written is a plan as it goes out, in a form that all readers take alike: it
// begins with a date that happens, its rule says everything that would follow from
// that, ends with an UNTIL on a date of the rule or never, and is left away where
// listing the dates is what everybody understands (recur.Rule.Portable).
type Written struct {
	Start, End when.Local
	Zone       when.Zone
	Length     time.Duration // of every date, exactly
	Rule       recur.Rule    // the zero Rule: Start is the only date
	RDates     []when.Day    // ascending, after Start
	ExDates    []when.Day
}

const (
	// unclearYears is how far ahead changes of the clocks are looked for in a series
	// without an end; rules of zones do not hold for longer anyway.
	unclearYears = 10
	// fewDates can be listed where leaving out others from a rule would take more.
	fewDates = 60
)

// Written is the plan of those dates up to a day that mine names, and ok whether
// there are any; with Forever the end is that of the plan. Own times of dates that
// were moved are not in it.
func (p Plan) Written(mine func(when.Day) bool, until when.Day) (w Written, ok bool) {
	p.Moved = nil
	open := until == Forever && p.Open()
	horizon := until
	if open {
		horizon = p.Start.Day + OpenYears*366
	}
	var dates []when.Day
	for d := range p.Dates(p.Start.Day) {
		if len(dates) == 0 && mine(d.On) && open {
			horizon = max(horizon, d.On+OpenYears*366)
		}
		if d.On > horizon {
			break
		}
		if mine(d.On) {
			dates = append(dates, d.On)
		}
	}
	if len(dates) == 0 {
		return w, false
	}
	w = Written{Zone: p.Zone, Length: p.length()}
	w.start(p, dates[0])
	if !w.byRule(p, dates, open) {
		w.Rule, w.ExDates, w.RDates = recur.Rule{}, nil, dates[1:]
		if len(w.RDates) > 0 {
			w = w.Once() // ical.js 2.2.1 leaves the start out where there are RDATEs alone
		}
	}
	return w, true
}

// Unclear are the days of the rule, in the years to come, whose time some readers would
// take for another one, because the clocks are changed then: they are to go out by
// themselves as well. It looks at the changes, not at the dates.
func (p Plan) Unclear() (days []when.Day) {
	p.Moved = nil
	at := p.StartInstant() - 2*86400
	last, ends := p.EndDay()
	if n := len(p.RDates); n > 0 {
		last = max(last, p.RDates[n-1])
	}
	if !ends {
		last = p.Start.Day + unclearYears*366
	}
	last = min(last, p.Start.Day+unclearYears*366)
	longest := when.Day(p.length()/(24*time.Hour)) + 1
	for {
		var ok bool
		if at, ok = p.Zone.NextChange(at); !ok {
			return days
		}
		day := p.Zone.LocalAt(at).Day
		if day > last+longest+1 {
			return days
		}
		for on := day - longest; on <= day+1; on++ {
			if d, is := p.Date(on); is && !p.Zone.Clear(d.Start, d.End) {
				days = append(days, on)
			}
		}
	}
}

func (w *Written) start(p Plan, on when.Day) {
	first := p.Regular(on)
	w.Start, w.End = first.Start, first.End
}

// byRule writes the dates as a rule with what it leaves out and what is added to it.
// It is false where no rule does: the first date is not of it, or listing is
// simpler.
func (w *Written) byRule(p Plan, dates []when.Day, open bool) bool {
	if p.Rule == (recur.Rule{}) || len(dates) == 1 && !open {
		return false
	}
	bare := p.series()
	bare.Dates, bare.Kind = nil, recur.Floating
	first, last := dates[0], dates[len(dates)-1]
	var ruled []when.Day
	for m := range bare.From(recur.Moment{Day: first}, recur.Unlimited()) {
		if m.Day > last {
			break
		}
		if len(ruled) == 4*(MostDates+len(dates)) {
			return false // it leaves out far more than it names
		}
		ruled = append(ruled, m.Day)
	}
	if len(ruled) == 0 || ruled[0] != first {
		return false
	}
	rule, portable := p.Rule.Portable(first)
	if !portable || p.meetsGap(first, last) {
		return false
	}
	rule.Until = recur.Until{}
	for _, on := range dates[1:] {
		if _, is := slices.BinarySearch(ruled, on); !is {
			w.RDates = append(w.RDates, on)
		}
	}
	for _, on := range ruled {
		if _, is := slices.BinarySearch(dates, on); !is {
			w.ExDates = append(w.ExDates, on)
		}
	}
	if !open {
		end := len(ruled) - 1
		for n := len(w.ExDates); n > 0 && w.ExDates[n-1] == ruled[end]; n, end = n-1, end-1 {
			w.ExDates = w.ExDates[:n-1]
		}
		if len(w.ExDates) > max(len(dates), fewDates/4) || len(dates) <= fewDates && len(w.ExDates)+len(w.RDates) >= len(dates) {
			return false
		}
		rule.Until = w.until(p, ruled[end])
	}
	w.Rule = rule
	return true
}

// meetsGap tells whether clocks skip the time of the series on any day from one to
// another, a date or not: libical 3.0.16 walks over such a day with the time that it
// finds there, and takes dates after it for others.
func (p Plan) meetsGap(from, to when.Day) bool {
	to = min(to, from+unclearYears*366)
	at := when.Zoned{Local: when.Local{Day: from}, Zone: p.Zone}.Instant()
	for {
		var ok bool
		if at, ok = p.Zone.NextChange(at); !ok {
			return false
		}
		day := p.Zone.LocalAt(at).Day
		if day > to+1 {
			return false
		}
		for _, on := range []when.Day{day - 1, day} {
			if _, exists := p.Zone.Resolve(when.Local{Day: on, Clock: p.Start.Clock}); !exists {
				return true
			}
		}
	}
}

// Once has a rule that names the start alone: for readers who have to find it again by
// a RECURRENCE-ID, or beside RDates.
func (w Written) Once() Written {
	p := Plan{Start: w.Start, End: w.End, Zone: w.Zone}
	w.Rule = recur.Rule{Freq: recur.Daily, Interval: 1, WeekStart: time.Monday, Until: w.until(p, w.Start.Day)}
	return w
}

// until is the UNTIL of the last date, or somewhat later where some readers would
// take that for another time.
func (w *Written) until(p Plan, on when.Day) recur.Until {
	u := p.untilOn(on)
	if d := p.Regular(on); !p.Zone.Clear(d.Start, d.End) {
		at := when.Instant(int64(u.Moment.Day)*86400 + int64(u.Moment.Second)).Add(6 * time.Hour)
		local := when.Zone{}.LocalAt(at)
		u.Moment = recur.Moment{Day: local.Day, Second: int32(local.Clock) * 60}
	}
	return u
}
