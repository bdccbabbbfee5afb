package recur

import (
	"math/bits"
	"time"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// ErrFollow: a rule of this kind does not move by days.
var ErrFollow = say.It("recur.follow")

// Follow is the rule when its first date moves from one day to another: every
// Thursday becomes every Friday, the 1st Thursday the 1st Friday, the 15th the
// 16th. It fails with ErrFollow for a rule that names several days of a month,
// and leaves one for working days as it is.
func (r Rule) Follow(from, to when.Day) (Rule, error) {
	if from == to {
		return r, nil
	}
	_, month, dom := to.Date()
	length := monthLength(func() (int, int) { y, m, _ := to.Date(); return y, int(m) }())
	if r.Months != 0 {
		if r.Freq != Yearly || bits.OnesCount16(r.Months) > 1 {
			return r, ErrFollow
		}
		r.Months = 1 << month
	}
	days, doms := r.Days.All(), r.MonthDays.Numbers()
	switch {
	case !r.SetPos.Empty() || !r.WeekNos.Empty() || !r.YearDays.Empty() || len(doms) > 1:
		return r, ErrFollow
	case r.Days == workingDays:
		return r, nil
	case r.Freq <= Weekly && len(days) > 0:
		// Week and weekdays turn together, so that the step over weeks stays.
		turn := func(d time.Weekday) time.Weekday { return time.Weekday(((int(d)+int(to-from))%7 + 7) % 7) }
		r.Days = Weekdays{}
		for _, d := range days {
			r.Days.add(0, turn(d.Day))
		}
		if r.Interval > 1 && len(days) > 1 {
			r.WeekStart = turn(r.WeekStart)
		}
		return r, nil
	case len(days) > 1 || len(days) == 1 && len(doms) == 1:
		return r, ErrFollow
	case len(days) == 1 && days[0].Ordinal == 0:
		r.Days = Weekdays{}
		r.Days.add(0, to.Weekday())
	case len(days) == 1:
		r.Days = Weekdays{}
		if days[0].Ordinal > 0 {
			r.Days.add((dom-1)/7+1, to.Weekday())
		} else {
			r.Days.add(-((length-dom)/7 + 1), to.Weekday())
		}
	case len(doms) == 1:
		r.MonthDays = Ordinals{}
		if doms[0] > 0 {
			r.MonthDays.add(dom)
		} else {
			r.MonthDays.add(dom - length - 1)
		}
	}
	return r, nil
}
