package series

import (
	"slices"
	"time"

	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Limits of what a meeting can ask for.
const (
	// MostDates is how many dates a series with an end can have.
	MostDates = 1000
	// OpenYears is how far ahead the dates that a series without an end leaves
	// out are written down.
	OpenYears = 10
)

// Request is a series as it is asked for: from when on, by which rule, until when,
// and what is to be left out.
type Request struct {
	Start, End when.Local
	Zone       when.Zone
	Rule       recur.Rule // without COUNT and UNTIL
	Ends       recur.End
	// Weekends are left out; Skip says why another day is, or nothing. Such days are not
	// counted.
	Weekends bool
	Skip     func(when.Day) say.What
	// Horizon is the day up to which a series without an end has written down what
	// it leaves out; 0 for OpenYears from its first date.
	Horizon when.Day
}

// LeftOut is a day of the rule on which there is no date.
type LeftOut struct {
	On  when.Day
	Why say.What
}

// The reasons why a request cannot be settled.
var (
	ErrNoDates = say.It("series.noDates")
	ErrFine    = say.It("series.frequency")
	ErrMany    = say.It("series.many", MostDates)
	ErrTimes   = say.It("series.times")
)

// Settle makes the plan that a request comes to, and says what it leaves out. The
// plan starts on the first date there is, ends with an UNTIL at its last date or
// never, and has what it leaves out written down, so that nobody can read it in
// another way. It fails with one of the errors above or with recur.ErrTooMuch.
func (w Request) Settle() (Plan, []LeftOut, error) {
	switch {
	case w.Rule.Freq < recur.Daily:
		return Plan{}, nil, ErrFine
	case w.Rule.Hours|uint32(w.Rule.Minutes)|uint32(w.Rule.Seconds) != 0:
		return Plan{}, nil, ErrTimes
	}
	p := Plan{Start: w.Start, End: w.End, Zone: w.Zone, Repeat: Repeat{Rule: w.Rule}}
	floating := p.series()
	floating.Kind = recur.Floating
	horizon := w.Horizon
	if horizon == 0 {
		horizon = w.Start.Day + OpenYears*366
	}
	clock := *recur.NewWall(w.Zone)
	budget := recur.NewBudget(recur.StepLimit)
	var left []LeftOut
	var last recur.Moment
	dates := 0
	length := p.length()
	for m := range floating.From(floating.Start, budget) {
		if w.Ends.Until != 0 && m.Day > w.Ends.Until || w.Ends.Open() && m.Day > horizon {
			break
		}
		if why := w.why(m, &clock); !why.Empty() {
			left = append(left, LeftOut{m.Day, why})
			continue
		}
		if dates == 0 {
			p.Start = when.Local{Day: m.Day, Clock: w.Start.Clock}
			if w.Horizon == 0 {
				horizon = m.Day + OpenYears*366
			}
			p.End = w.Zone.LocalAt(p.StartInstant().Add(length))
		}
		last, dates = m, dates+1
		if dates > MostDates && !w.Ends.Open() {
			return Plan{}, nil, ErrMany
		}
		if dates == w.Ends.Count {
			break
		}
	}
	switch {
	case budget.Spent():
		return Plan{}, nil, recur.ErrTooMuch
	case dates == 0:
		return Plan{}, left, ErrNoDates
	}
	if !w.Ends.Open() {
		p.Rule.Until = p.untilOn(last.Day)
	}
	// What lies before the first date or after the last is no part of the rule.
	for _, l := range left {
		if l.On > p.Start.Day && (w.Ends.Open() || l.On < last.Day) {
			p.ExDates = append(p.ExDates, l.On)
		}
	}
	if w.Weekends {
		p = p.WithoutWeekends()
	}
	return p, left, nil
}

// WithoutWeekends has the rule itself leave out Saturdays and Sundays, which are
// among what is left out, where a rule can say that.
func (p Plan) WithoutWeekends() Plan {
	rule, ok := p.Rule.OnWorkingDays(p.Start.Day)
	if !ok || p.Rule == (recur.Rule{}) || !working(p.Start.Day) {
		return p
	}
	p.Rule = rule
	p.ExDates = slices.DeleteFunc(slices.Clone(p.ExDates), func(on when.Day) bool {
		return !working(on) && !slices.Contains(p.RDates, on)
	})
	return p
}

func working(day when.Day) bool {
	return day.Weekday() != time.Saturday && day.Weekday() != time.Sunday
}

// why says why a moment of the rule is no date, or nothing.
func (w Request) why(m recur.Moment, clock *recur.Wall) say.What {
	if w.Weekends && !working(m.Day) {
		return say.It("series.weekend")
	}
	if w.Skip != nil {
		if why := w.Skip(m.Day); !why.Empty() {
			return why
		}
	}
	if !clock.Shows(m) {
		return say.It("series.notOnClock", when.Clock(m.Second/60))
	}
	return say.What{}
}

// StartInstant is when the first date begins.
func (p Plan) StartInstant() when.Instant { return when.Zoned{Local: p.Start, Zone: p.Zone}.Instant() }

// untilOn is the UNTIL of a rule whose last date is on a day.
func (p Plan) untilOn(day when.Day) recur.Until {
	i := when.Zoned{Local: when.Local{Day: day, Clock: p.Start.Clock}, Zone: p.Zone}.Instant()
	t := i.Time()
	return recur.Until{Set: true, UTC: true, Moment: recur.Moment{Day: when.DayOf(t.Date()), Second: int32(t.Hour()*3600 + t.Minute()*60)}}
}
