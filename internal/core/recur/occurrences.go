package recur

import (
	"strings"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Question asks for the dates of a series, as "jembro occurrences --batch" reads
// it, a JSON object a line.
type Question struct {
	RRule   string   `json:"rrule"`
	DTStart string   `json:"dtstart"` // 20260105T093000, …Z, or 20260105
	TZID    *string  `json:"tzid"`    // null: floating, unless dtstart ends in Z
	Limit   int      `json:"limit"`
	EXDates []string `json:"exdates,omitempty"` // in the form of dtstart
	RDates  []string `json:"rdates,omitempty"`
}

// Answer are the dates, or an error.
type Answer struct {
	// Instances are in the form of dtstart; UTC are the same as instants, nil
	// when there are none.
	Instances []string `json:"instances"`
	UTC       []string `json:"utc"`
	// Complete is true when there are no dates after these.
	Complete bool `json:"complete"`
}

// StepLimit is how much one question may cost: some tenths of a second.
const StepLimit = 20_000_000

// ErrTooMuch: the rule goes on for long without coming true.
var ErrTooMuch = say.It("recur.tooMuch")

// Occurrences answers a question.
func Occurrences(q Question) (Answer, error) {
	s, form, err := q.series()
	if err != nil {
		return Answer{}, err
	}
	if q.Limit < 1 || q.Limit > 1_000_000 {
		return Answer{}, say.It("recur.limit")
	}
	a := Answer{Instances: []string{}, Complete: true}
	budget := &Budget{StepLimit}
	for m, at := range s.Times(s.Start, budget) {
		if len(a.Instances) == q.Limit {
			a.Complete = false
			break
		}
		a.Instances = append(a.Instances, form(m))
		if s.Kind == Zoned {
			a.UTC = append(a.UTC, at.Time().Format("20060102T150405Z"))
		}
	}
	if budget.Spent() {
		return Answer{}, ErrTooMuch
	}
	if s.Kind == Zoned && a.UTC == nil {
		a.UTC = []string{}
	}
	return a, nil
}

// series reads a question; form writes a moment as dtstart is written.
func (q Question) series() (s Series, form func(Moment) string, err error) {
	start, kind, utc, err := ParseMoment(strings.ToUpper(q.DTStart))
	if err != nil {
		return s, nil, err
	}
	s = Series{Start: start, Kind: kind}
	form = Moment.String
	switch {
	case kind == AllDay:
		form = Moment.Date
	case utc:
		form = func(m Moment) string { return m.String() + "Z" }
	case q.TZID != nil:
		if s.Zone, err = when.LoadZone(*q.TZID); err != nil {
			return s, nil, err
		}
		s.Kind = Zoned
	}
	if s.Rule, err = ParseRule(q.RRule); err != nil {
		return s, nil, err
	}
	if kind == AllDay { // BYHOUR and finer are ignored with a DATE (3.3.10)
		s.Rule.Hours, s.Rule.Minutes, s.Rule.Seconds = 0, 0, 0
	}
	if err = s.Rule.Fits(s.Kind); err != nil {
		return s, nil, err
	}
	if s.Without, err = moments("exdates", q.EXDates, kind, utc); err != nil {
		return s, nil, err
	}
	s.Dates, err = moments("rdates", q.RDates, kind, utc)
	return s, form, err
}

func moments(name string, all []string, kind Kind, utc bool) (out []Moment, err error) {
	for _, text := range all {
		m, k, z, err := ParseMoment(strings.ToUpper(text))
		if err != nil {
			return nil, err
		}
		if k != kind || z != utc {
			return nil, wrong(name, say.It("recur.otherForm", text))
		}
		out = append(out, m)
	}
	return out, nil
}
