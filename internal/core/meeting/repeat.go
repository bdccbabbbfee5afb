package meeting

import (
	"errors"
	"slices"

	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// DraftRepeat is a repetition as it was typed. Rule is the value of an RRULE
// without an end, or words like "every 2nd Tuesday".
type DraftRepeat struct {
	Rule     string   `json:"rule"`
	Ends     string   `json:"ends"`  // "on", "after" or "open"
	Until    string   `json:"until"` // with "on": 2027-02-25
	Count    int      `json:"count"` // with "after"
	Weekends bool     `json:"weekends"`
	Holidays bool     `json:"holidays"`
	Days     []string `json:"days"` // further days that are left out
	Added    []string `json:"added"`
}

// DraftDate is what a sheet says about one date of a series, by its day in the
// rule. Empty fields are what all dates have.
type DraftDate struct {
	On     string `json:"on"`
	Out    bool   `json:"out"`
	Start  string `json:"start"`
	End    string `json:"end"`
	RoomID string `json:"roomId"`
	NoRoom bool   `json:"noRoom"`
}

// DraftScope is which dates of a series a sheet of changes is for, by their days
// in the rule: At is the one that the times of the sheet are those of; To is
// empty for all that come after From.
type DraftScope struct {
	At   string `json:"at"`
	From string `json:"from"`
	To   string `json:"to"`
}

// Horizon is how far ahead the dates of a series are written down and looked at
// (DESIGN.md, 4): two years.
const Horizon = 731

// settleRepeat makes the series that a draft asks for; the time is in m already.
func (d Draft) settleRepeat(m *Meeting, s Surroundings) []Fault {
	fault := func(field string, err error) []Fault { return []Fault{{Field: field, What: what(err)}} }
	wish := series.Request{Start: m.Start, End: m.End, Zone: m.zone(), Weekends: d.Repeat.Weekends}
	rule, end, err := recur.ParseWords(d.Repeat.Rule, m.Start.Day)
	if err != nil {
		return fault("repeat.rule", err)
	}
	wish.Rule = rule
	if wish.Ends, err = d.Repeat.end(end); err != nil {
		return fault("repeat.end", err)
	}
	if wish.Ends.Until != 0 && wish.Ends.Until < m.Start.Day {
		return fault("repeat.end", say.It("meeting.repeat.endFirst"))
	}
	// A running series keeps to what it has written down, for as long as that
	// reaches far ahead: a change of something else is not one of far dates.
	if s.Before != nil && s.Before.Repeats() {
		if before := s.Before.Start.Day + series.OpenYears*366; before > m.Start.Day+Horizon {
			wish.Horizon = before
		}
	}
	out, err := parseDays(d.Repeat.Days)
	if err != nil {
		return fault("repeat.days", err)
	}
	wish.Skip = func(day when.Day) say.What {
		switch {
		case slices.Contains(out, day):
			return say.It("series.leftOut")
		case d.Repeat.Holidays && s.Holiday != nil:
			if name := s.Holiday(day); name != "" {
				return say.It("series.holiday", name)
			}
		}
		return say.What{}
	}
	plan, skipped, err := wish.Settle()
	if err != nil {
		return fault("repeat.rule", err)
	}
	added, err := parseDays(d.Repeat.Added)
	if err != nil {
		return fault("repeat.added", err)
	}
	for _, day := range added {
		if plan = plan.Add(day); !plan.InRule(day) && day > plan.Start.Day {
			skipped = append(skipped, series.LeftOut{On: day, Why: say.It("series.notOnClock", plan.Start.Clock)})
		}
	}
	asked := *d.Repeat
	asked.Rule = rule.String()
	switch {
	case end.Count > 0:
		asked.Ends, asked.Count = "after", end.Count
	case end.Until != 0:
		asked.Ends, asked.Until = "on", end.Until.String()
	}
	m.Start, m.End = plan.Start, plan.End
	m.Series = &Series{Repeat: plan.Repeat, Asked: asked, Skipped: skipped}
	return nil
}

// what is what an error of a rule says.
func what(err error) say.What {
	var part *recur.PartError
	if errors.As(err, &part) {
		return say.It("recur.part", part.Part, part.What)
	}
	if errors.Is(err, recur.ErrTooMuch) {
		return say.It("meeting.repeat.tooMuch")
	}
	said, _ := say.Of(err)
	return said
}

// end is where the repetition ends: as the sheet says, or as the words do.
func (r DraftRepeat) end(said recur.End) (recur.End, error) {
	if !said.Open() {
		return said, nil
	}
	switch r.Ends {
	case "on":
		day, err := when.ParseDay(r.Until)
		if err != nil {
			return recur.End{}, say.It("meeting.repeat.noLastDay")
		}
		return recur.End{Until: day}, nil
	case "after":
		if r.Count < 1 || r.Count > series.MostDates {
			return recur.End{}, say.It("meeting.repeat.count", series.MostDates)
		}
		return recur.End{Count: r.Count}, nil
	case "open":
		return recur.End{}, nil
	}
	return recur.End{}, say.It("meeting.repeat.noEnd")
}

func parseDays(texts []string) (out []when.Day, err error) {
	for _, text := range texts {
		day, err := when.ParseDay(text)
		if err != nil {
			return nil, say.It("meeting.day.none", say.Quoted(text))
		}
		out = append(out, day)
	}
	return out, nil
}

// settleSeries makes a series of a meeting whose time is settled.
func (d Draft) settleSeries(m *Meeting, s Surroundings) []Fault {
	if faults := d.settleRepeat(m, s); len(faults) > 0 {
		return faults
	}
	return append(d.settleDates(m, s), d.checkDates(*m)...)
}

// settleRanges reads the dates that somebody is invited to.
func settleRanges(ranges []DraftRange) (out []series.Range, err error) {
	for _, r := range ranges {
		x := series.Range{From: series.Ever}
		if r.From != "" {
			x.From, err = when.ParseDay(r.From)
		}
		if err == nil && r.To != "" {
			x.To, err = when.ParseDay(r.To)
		}
		if err != nil || x.From > x.End() {
			return nil, say.It("meeting.range.none", r.From, r.To)
		}
		out = append(out, x)
	}
	return series.Merge(out), nil
}

// settleDates puts in what the sheet says about single dates. What it says about
// a day on which there is no date is kept on the sheet and does nothing.
func (d Draft) settleDates(m *Meeting, s Surroundings) (faults []Fault) {
	plan := m.Plan()
	rep := *m.Series
	rep.Dropped = slices.Clone(rep.Dropped)
	own := map[when.Day]Override{}
	for _, o := range rep.Overrides {
		own[o.On] = o
	}
	for _, x := range d.Dates {
		on, err := when.ParseDay(x.On)
		if err != nil {
			faults = append(faults, Fault{Field: "dates." + x.On, What: say.It("meeting.day.none", say.Quoted(x.On))})
			continue
		}
		if !plan.Has(on) {
			continue
		}
		if x.Out {
			plan = plan.Without(on)
			rep.Dropped = append(rep.Dropped, on)
			delete(own, on)
			continue
		}
		of := own[on]
		of.On, of.Room, of.NoRoom = on, nil, x.NoRoom
		var fault say.What
		if x.Start != "" || x.End != "" {
			plan, fault = x.put(plan, on, s)
		}
		if x.RoomID != "" && fault.Empty() {
			if of.Room = s.Rooms[x.RoomID]; of.Room == nil {
				fault = say.It("meeting.room.gone")
			}
		}
		if !fault.Empty() {
			faults = append(faults, Fault{Field: "dates." + x.On, What: fault})
			continue
		}
		own[on] = of
	}
	rep.Overrides = nil
	for _, o := range own {
		if !o.Empty() {
			rep.Overrides = append(rep.Overrides, o)
		}
	}
	slices.SortFunc(rep.Overrides, func(a, b Override) int { return int(a.On - b.On) })
	slices.Sort(rep.Dropped)
	m.Series = &rep
	*m = m.put(plan)
	return faults
}

// farthest is how many days a single date can be moved.
const farthest = 366

// put gives a date the time that a sheet says, or says what is wrong with it.
func (x DraftDate) put(plan series.Plan, on when.Day, s Surroundings) (series.Plan, say.What) {
	start, startErr := when.ParseLocal(x.Start)
	end, endErr := when.ParseLocal(x.End)
	switch {
	case startErr != nil || endErr != nil:
		return plan, say.It("meeting.date.noTime")
	case end.Sub(start) <= 0:
		return plan, say.It("meeting.date.endsBefore")
	case start.Day < on-farthest || start.Day > on+farthest:
		return plan, say.It("meeting.date.far")
	}
	plan = plan.Put(on, start, end)
	if date, _ := plan.Date(on); date.Moved && date.Span.Start <= s.Now && !s.stays(date) {
		return plan, say.It("meeting.time.passed")
	}
	return plan, say.What{}
}

// stays tells whether a date is where it was before the change.
func (s Surroundings) stays(date series.Date) bool {
	if s.Before == nil {
		return false
	}
	was, is := s.Before.Plan().Date(date.On)
	return is && was.Span == date.Span
}

// checkDates refuses a series of which two dates overlap or none is left.
func (d Draft) checkDates(m Meeting) []Fault {
	if a, b, overlap := m.Plan().Overlap(m.Start.Day + Horizon); overlap {
		return []Fault{{Field: "repeat.rule", What: say.It("meeting.repeat.overlap", a.Start.Day, b.Start.Day)}}
	}
	if _, any := m.Plan().First(); !any {
		return []Fault{{Field: "repeat.rule", What: series.ErrNoDates}}
	}
	return nil
}
