package recur

import (
	"iter"
	"math/bits"
	"slices"
	"time"

	"jembro/internal/core/when"
)

// lastYear is the last year that RFC 5545 can write.
const lastYear = 9999

// Series is a start with a rule, further dates and dates left out. Zone matters
// when Kind is Zoned: a local time that does not exist in it is left out and not
// counted (RFC 5545, 3.3.10); one that exists twice is the first.
type Series struct {
	Start   Moment
	Kind    Kind
	Zone    when.Zone
	Own     *OwnZone // in place of Zone, where a calendar defines its own
	Rule    Rule     // the zero Rule: Start alone
	Dates   []Moment // RDATE
	Without []Moment // EXDATE
}

// Budget is how many steps an expansion may take; it ends early when they are
// used up, and Spent tells so. A rule that can never come true is not walked to
// the end of time that way.
type Budget struct{ Left int }

// Spent tells whether an expansion ended because the budget was used up.
func (b *Budget) Spent() bool { return b.Left <= 0 }

// NewBudget is so many steps.
func NewBudget(steps int) *Budget { return &Budget{steps} }

// Unlimited is enough for anything that ends.
func Unlimited() *Budget { return &Budget{1 << 40} }

// All yields every date in ascending order, lazily; an endless rule goes on to
// the year 9999.
func (s Series) All() iter.Seq[Moment] { return s.From(s.Start, Unlimited()) }

// From yields the dates at or after a moment, in ascending order, lazily and
// without walking there: unless the rule has a COUNT, it costs the same however
// long ago the series began.
func (s Series) From(from Moment, budget *Budget) iter.Seq[Moment] {
	return func(yield func(Moment) bool) { s.expand(from, budget, s.clock(), yield) }
}

// Times yields the same with the instants at which clocks in the zone of the series
// show them; they mean something in a Zoned series only.
func (s Series) Times(from Moment, budget *Budget) iter.Seq2[Moment, when.Instant] {
	return func(yield func(Moment, when.Instant) bool) {
		clock := s.clock()
		s.expand(from, budget, clock, func(m Moment) bool {
			at, _ := clock.resolve(m)
			return yield(m, at)
		})
	}
}

func (s Series) expand(from Moment, budget *Budget, clock *Wall, yield func(Moment) bool) {
	dates := slices.DeleteFunc(slices.Clone(s.Dates), func(m Moment) bool { return !clock.Shows(m) })
	slices.SortFunc(dates, Moment.Compare)
	dates = slices.Compact(dates)
	var without map[Moment]bool
	if len(s.Without) > 0 {
		without = make(map[Moment]bool, len(s.Without))
		for _, m := range s.Without {
			without[m] = true
		}
	}
	out := func(m Moment) bool {
		return m.Compare(from) < 0 || without != nil && without[m] || yield(m)
	}
	merged := func(m Moment) bool {
		for len(dates) > 0 && dates[0].Compare(m) < 0 {
			if !out(dates[0]) {
				return false
			}
			dates = dates[1:]
		}
		if len(dates) > 0 && dates[0] == m {
			dates = dates[1:]
		}
		return out(m)
	}
	e := expansion{rule: s.Rule, start: s.Start, clock: clock, budget: budget, yield: merged}
	if s.Rule == (Rule{}) {
		if !clock.Shows(s.Start) || merged(s.Start) {
			e.rest(dates, out)
		}
		return
	}
	if e.run(from, s.Kind == AllDay) {
		e.rest(dates, out)
	}
}

func (e *expansion) rest(dates []Moment, out func(Moment) bool) {
	for _, m := range dates {
		if !out(m) {
			return
		}
	}
}

// Instant is when a clock in the zone of the series shows m; only for a Zoned
// series.
func (s Series) Instant(m Moment) when.Instant {
	i, _ := s.clock().resolve(m)
	return i
}

// NewWall resolves times of a zone.
func NewWall(zone when.Zone) *Wall { return &Wall{zone: zone, zoned: true} }

// NewOwnWall resolves times of a zone that a calendar defines.
func NewOwnWall(own *OwnZone) *Wall { return &Wall{own: own, zoned: true} }

// At is the instant of m; one that the clock never shows is taken with the offset before
// the gap (RFC 5545, 3.3.5).
func (w *Wall) At(m Moment) when.Instant {
	i, _ := w.resolve(m)
	return i
}

func (s Series) clock() *Wall { return &Wall{zone: s.Zone, own: s.Own, zoned: s.Kind == Zoned} }

// Wall resolves wall-clock times fast: between two changes of the clocks the
// offset is the same.
type Wall struct {
	zone      when.Zone
	own       *OwnZone
	zoned     bool
	location  *time.Location
	low, high int64 // wall seconds in which offset holds without doubt
	offset    int64
}

const aDay = 86400

func (w *Wall) resolve(m Moment) (when.Instant, bool) {
	if w.own != nil {
		return w.own.Resolve(m)
	}
	at := int64(m.Day)*aDay + int64(m.Second)
	if w.low <= at && at < w.high {
		return when.Instant(at - w.offset), true
	}
	w.look(at)
	if w.low <= at && at < w.high {
		return when.Instant(at - w.offset), true
	}
	i, exists := w.zone.Resolve(when.Local{Day: m.Day, Clock: when.Clock(m.Second / 60)})
	return i + when.Instant(m.Second%60), exists
}

// look finds the offset around a wall-clock time, and for which times there is
// no doubt about it: what a clock shows twice, or never, lies between the
// offsets before and after a change.
func (w *Wall) look(at int64) {
	if w.location == nil {
		w.location = w.zone.Location()
	}
	t := time.Unix(at-w.offset, 0).In(w.location)
	_, offset := t.Zone()
	from, until := t.ZoneBounds()
	w.offset, w.low, w.high = int64(offset), -1<<62, 1<<62
	if !from.IsZero() {
		_, before := from.Add(-time.Second).Zone()
		w.low = from.Unix() + int64(max(offset, before))
	}
	if !until.IsZero() {
		_, after := until.Zone()
		w.high = until.Unix() + int64(min(offset, after))
	}
}

// Shows tells whether the clock ever shows m.
func (w *Wall) Shows(m Moment) bool {
	if !w.zoned {
		return true
	}
	_, exists := w.resolve(m)
	return exists
}

// expansion is one run over a rule.
type expansion struct {
	rule   Rule
	start  Moment
	clock  *Wall
	budget *Budget
	yield  func(Moment) bool

	// What the rule has, looked up once: the sets are large.
	byDay, byMonthDay, byYearDay, byWeekNo, bySetPos bool

	startWeekday            time.Weekday
	startMonth, startDom    int
	hours, minutes, seconds []int32 // that a period expands to
	times                   []int32 // of a day, for DAILY and above
	days                    []when.Day
	set                     []Moment
	counted                 int
}

// run expands from the period in which from lies, or from the start where the
// rule counts. It is false when the reader has had enough.
func (e *expansion) run(from Moment, allDay bool) bool {
	_, e.startMonth, e.startDom = civil(e.start.Day)
	e.startWeekday = weekday(e.start.Day)
	e.byDay, e.byMonthDay, e.byYearDay = !e.rule.Days.Empty(), !e.rule.MonthDays.Empty(), !e.rule.YearDays.Empty()
	e.byWeekNo, e.bySetPos = !e.rule.WeekNos.Empty(), !e.rule.SetPos.Empty()
	e.expandTimes(allDay)
	if from.Compare(e.start) < 0 || e.rule.Count > 0 {
		from = e.start
	}
	switch e.rule.Freq {
	case Yearly:
		return e.yearly(from)
	case Monthly:
		return e.monthly(from)
	case Weekly:
		return e.weekly(from)
	case Daily:
		return e.daily(from)
	}
	return e.withinDays(from)
}

// expandTimes lists the times of day that the BY parts below the period give.
func (e *expansion) expandTimes(allDay bool) {
	if allDay { // BYHOUR and finer are ignored with a DATE (3.3.10)
		e.times = []int32{0}
		return
	}
	e.hours = listed(uint64(e.rule.Hours), 24, e.start.Second/3600)
	e.minutes = listed(e.rule.Minutes, 60, e.start.Second/60%60)
	e.seconds = listed(e.rule.Seconds, 60, e.start.Second%60)
	if e.rule.Freq < Daily {
		return
	}
	for _, h := range e.hours {
		for _, m := range e.minutes {
			for _, s := range e.seconds {
				e.times = append(e.times, h*3600+m*60+s)
			}
		}
	}
}

// listed are the numbers of a set below a limit, or one that stands for it. The
// second 60 is on no clock that this program reads.
func listed(set uint64, limit int, otherwise int32) []int32 {
	if set == 0 {
		return []int32{otherwise}
	}
	out := []int32{}
	for b := set; b != 0; b &= b - 1 {
		if n := bits.TrailingZeros64(b); n < limit {
			out = append(out, int32(n))
		}
	}
	return out
}

// step takes one step of the budget; it is false when there is none left.
func (e *expansion) step(cost int) bool {
	e.budget.Left -= cost
	return e.budget.Left > 0
}

// emit hands the dates of one period over: days times times of day, chosen from
// by BYSETPOS. It is false when the expansion is over.
func (e *expansion) emit(times []int32) (more, wanted bool) {
	if !e.bySetPos {
		for _, d := range e.days {
			for _, t := range times {
				if more, wanted := e.one(Moment{d, t}); !more {
					return false, wanted
				}
			}
		}
		return true, true
	}
	e.set = e.set[:0]
	for _, d := range e.days {
		for _, t := range times {
			e.set = append(e.set, Moment{d, t})
		}
	}
	n := len(e.set)
	for i, m := range e.set {
		if i < 366 && e.rule.SetPos.Has(i+1) || i-n >= -366 && e.rule.SetPos.Has(i-n) {
			if more, wanted := e.one(m); !more {
				return false, wanted
			}
		}
	}
	return true, true
}

// one hands a date over unless it is before the start, past the end or never on
// the clock. more is false when the rule is over or the reader has had enough;
// wanted is false in the latter case only.
func (e *expansion) one(m Moment) (more, wanted bool) {
	if m.Compare(e.start) < 0 {
		return true, true
	}
	if e.past(m) {
		return false, true
	}
	if !e.clock.Shows(m) {
		return true, true
	}
	e.counted++
	if !e.yield(m) {
		return false, false
	}
	return e.rule.Count == 0 || e.counted < e.rule.Count, true
}

func (e *expansion) past(m Moment) bool {
	u := e.rule.Until
	if !u.Set {
		return false
	}
	if u.UTC && e.clock.zoned {
		i, _ := e.clock.resolve(m)
		return int64(i) > int64(u.Moment.Day)*aDay+int64(u.Moment.Second)
	}
	return m.Compare(u.Moment) > 0
}

func (e *expansion) yearly(from Moment) bool {
	first, _, _ := civil(e.start.Day)
	year, _, _ := civil(from.Day)
	if e.byWeekNo {
		// Years of weeks: the first and last days of January and December may
		// lie in weeks of another year.
		first = weekYear(e.start.Day, e.rule.WeekStart)
		year = weekYear(from.Day, e.rule.WeekStart)
	}
	year = first + floorDiv(year-first, e.rule.Interval)*e.rule.Interval
	for ; year <= lastYear && e.step(12); year += e.rule.Interval {
		e.days = e.days[:0]
		if !e.byWeekNo {
			e.daysOfYear(year)
		} else {
			e.daysOfWeekYear(year)
		}
		if more, wanted := e.emit(e.times); !more {
			return wanted
		}
	}
	return true
}

func weekYear(day when.Day, start time.Weekday) int {
	year, _, _ := civil(day)
	switch {
	case day < firstWeek(year, start):
		return year - 1
	case day >= firstWeek(year+1, start):
		return year + 1
	}
	return year
}

func (e *expansion) daysOfYear(year int) {
	for month := 1; month <= 12; month++ {
		if e.rule.Months == 0 || e.rule.Months&(1<<month) != 0 {
			e.daysOfMonth(year, month)
		}
	}
}

func (e *expansion) monthly(from Moment) bool {
	y, m, _ := civil(e.start.Day)
	base := y*12 + m - 1
	y, m, _ = civil(from.Day)
	at := base + (y*12+m-1-base)/e.rule.Interval*e.rule.Interval
	for ; at/12 <= lastYear && e.step(1); at += e.rule.Interval {
		year, month := at/12, at%12+1
		if e.rule.Months != 0 && e.rule.Months&(1<<month) == 0 {
			continue
		}
		e.days = e.days[:0]
		e.daysOfMonth(year, month)
		if more, wanted := e.emit(e.times); !more {
			return wanted
		}
	}
	return true
}

// daysOfMonth adds the days of a month that the rule names, for MONTHLY and for
// YEARLY without BYWEEKNO (the table and notes of 3.3.10).
func (e *expansion) daysOfMonth(year, month int) {
	r := &e.rule
	length := monthLength(year, month)
	first := dayOf(year, month, 1)
	byDate := e.byMonthDay || e.byYearDay
	if !byDate && !e.byDay {
		// The day of the start; for YEARLY also its month, unless months are named.
		if e.startDom <= length && (r.Freq == Monthly || r.Months != 0 || month == e.startMonth) {
			e.days = append(e.days, first+when.Day(e.startDom-1))
		}
		return
	}
	var scopeFirst when.Day
	scope := length
	scopeFirst = first
	if r.Freq == Yearly && r.Months == 0 { // ordinals count within the year
		scopeFirst, scope = dayOf(year, 1, 1), yearLength(year)
	}
	yearFirst := dayOf(year, 1, 1)
	for dom := 1; dom <= length; dom++ {
		day := first + when.Day(dom-1)
		if e.byMonthDay && !r.MonthDays.Has(dom) && !r.MonthDays.Has(dom-length-1) {
			continue
		}
		if e.byYearDay {
			n := int(day-yearFirst) + 1
			if !r.YearDays.Has(n) && !r.YearDays.Has(n-yearLength(year)-1) {
				continue
			}
		}
		if e.byDay {
			at := int(day - scopeFirst)
			if !r.Days.match(weekday(day), at/7+1, (scope-at-1)/7+1) {
				continue
			}
		}
		e.days = append(e.days, day)
	}
}

// daysOfWeekYear adds the days of the weeks that BYWEEKNO names, of the year of
// weeks, further limited by the other parts.
func (e *expansion) daysOfWeekYear(year int) {
	r := &e.rule
	first, next := firstWeek(year, r.WeekStart), firstWeek(year+1, r.WeekStart)
	weeks := int(next-first) / 7
	for w := 1; w <= weeks; w++ {
		if !r.WeekNos.Has(w) && !r.WeekNos.Has(w-weeks-1) {
			continue
		}
		for i := range when.Day(7) {
			day := first + when.Day(w-1)*7 + i
			if e.inWeek(day) {
				e.days = append(e.days, day)
			}
		}
	}
}

func (e *expansion) inWeek(day when.Day) bool {
	if !e.limits(day) {
		return false
	}
	if !e.byDay && !e.byMonthDay && !e.byYearDay {
		return weekday(day) == e.startWeekday
	}
	return true
}

// limits tells whether a day passes BYMONTH, BYYEARDAY, BYMONTHDAY and plain
// weekdays, where they only limit.
func (e *expansion) limits(day when.Day) bool {
	r := &e.rule
	if e.byDay && !r.Days.every(weekday(day)) {
		return false
	}
	if r.Months == 0 && !e.byMonthDay && !e.byYearDay {
		return true
	}
	year, month, dom := civil(day)
	if r.Months != 0 && r.Months&(1<<month) == 0 {
		return false
	}
	if e.byMonthDay && !r.MonthDays.Has(dom) && !r.MonthDays.Has(dom-monthLength(year, month)-1) {
		return false
	}
	if e.byYearDay {
		n := int(day-dayOf(year, 1, 1)) + 1
		return r.YearDays.Has(n) || r.YearDays.Has(n-yearLength(year)-1)
	}
	return true
}

var lastDay = dayOf(lastYear, 12, 31)

func (e *expansion) weekly(from Moment) bool {
	r := &e.rule
	step := when.Day(7 * r.Interval)
	week := weekOf(e.start.Day, r.WeekStart)
	week += (weekOf(from.Day, r.WeekStart) - week) / step * step
	var offsets []when.Day // of the days in the week that the rule names
	for i := range when.Day(7) {
		day := weekday(week + i)
		if e.byDay && r.Days.every(day) || !e.byDay && day == e.startWeekday {
			offsets = append(offsets, i)
		}
	}
	for ; week <= lastDay && e.step(1); week += step {
		e.days = e.days[:0]
		for _, i := range offsets {
			if r.Months == 0 || e.limits(week+i) {
				e.days = append(e.days, week+i)
			}
		}
		if more, wanted := e.emit(e.times); !more {
			return wanted
		}
	}
	return true
}

func (e *expansion) daily(from Moment) bool {
	step := when.Day(e.rule.Interval)
	day := e.start.Day + (from.Day-e.start.Day)/step*step
	for ; day <= lastDay && e.step(1); day += step {
		if !e.limits(day) {
			continue
		}
		e.days = append(e.days[:0], day)
		if more, wanted := e.emit(e.times); !more {
			return wanted
		}
	}
	return true
}

// withinDays expands HOURLY, MINUTELY and SECONDLY: periods are counted since
// the day 0; days, hours and minutes that are limited away are jumped over.
func (e *expansion) withinDays(from Moment) bool {
	r := &e.rule
	length := map[Frequency]int64{Hourly: 3600, Minutely: 60, Secondly: 1}[r.Freq]
	perDay := aDay / length
	index := func(m Moment) int64 { return int64(m.Day)*perDay + int64(m.Second)/length }
	interval := int64(r.Interval)
	base := index(e.start)
	at := base + (index(from)-base)/interval*interval
	jump := func(to int64) { // the first period of the rule at or after to
		at = base + (to-base+interval-1)/interval*interval
	}
	times := make([]int32, 0, 60)
	for e.step(1) {
		day := when.Day(floorDiv(int(at), int(perDay)))
		if day > lastDay {
			return true
		}
		second := int32((at - int64(day)*perDay) * length)
		switch {
		case !e.limits(day):
			jump((int64(day) + 1) * perDay)
			continue
		case r.Hours != 0 && r.Hours&(1<<(second/3600)) == 0:
			jump(int64(day)*perDay + (int64(second/3600)+1)*3600/length)
			continue
		case r.Freq < Hourly && r.Minutes != 0 && r.Minutes&(1<<(second/60%60)) == 0:
			jump(int64(day)*perDay + (int64(second/60)+1)*60/length)
			continue
		case r.Freq == Secondly && r.Seconds != 0 && r.Seconds&(1<<(second%60)) == 0:
			at += interval
			continue
		}
		times = e.timesOf(times[:0], second)
		e.days = append(e.days[:0], day)
		if more, wanted := e.emit(times); !more {
			return wanted
		}
		at += interval
	}
	return true
}

// timesOf are the times of day within the period that begins at second.
func (e *expansion) timesOf(times []int32, second int32) []int32 {
	switch e.rule.Freq {
	case Secondly:
		return append(times, second)
	case Minutely:
		for _, s := range e.seconds {
			times = append(times, second+s)
		}
		return times
	}
	for _, m := range e.minutes {
		for _, s := range e.seconds {
			times = append(times, second+m*60+s)
		}
	}
	return times
}
