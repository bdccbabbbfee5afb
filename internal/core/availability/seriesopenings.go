package availability

import (
	"cmp"
	"slices"
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// SeriesAsk is the question at which time of the day, and how many days from where the
// rule has it, all dates of a series are best. What people and rooms are taken by has to
// be there for all of these times.
type SeriesAsk struct {
	Zone   when.Zone
	Days   []when.Day // of the dates as the rule has them, ascending
	Length time.Duration
	Clocks []when.Clock // at which it may start
	Shifts []int        // by how many days it may be moved; 0 is one of them mostly
	Now    when.Instant
	People []Person
	// Rooms gives those that would do, the best first, with what they are taken by in some
	// windows; it is asked for no more than is needed, and fails the whole.
	Rooms    func(windows when.Spans) ([]rooms.Room, error)
	WantRoom bool
	Most     int
}

// OnDates is somebody, by their place in the list, and on how many dates.
type OnDates struct{ Person, Dates int }

// SeriesOpening is a time for all dates of a series, with what speaks against it.
type SeriesOpening struct {
	Shift int
	Clock when.Clock
	Dates []when.Span
	// Never are the needed people who are busy on every date, Missing those who are on
	// some, Optional the optional ones who are.
	Never             []int
	Missing, Optional []OnDates
	Fails             int // dates on which somebody needed is busy, or a room is wanted and none is clear
	// One is the room that is clear on the most dates, rooms.NoRoom where none is on any,
	// and OneClear on how many; Changes is how often the room changes at the least.
	One, OneClear, Changes int
	Off                    []OffBy // over all dates together
	Days                   int     // of how many dates somebody in Off is meant: all of them
}

// Good tells whether nothing speaks against a time: everybody needed can, within their
// hours, in one room.
func (o SeriesOpening) Good() bool {
	return o.Fails == 0 && o.Changes == 0 && len(o.Off) == 0
}

// Shared is two times that take turns from date to date, so that who is worst off is so
// on every other date alone (DESIGN.md, rule 4).
type Shared struct {
	First, Second SeriesOpening // the times on every date, First on the first one
	Worst         time.Duration // outside the hours of who is worst off, over all dates
	WorstAlone    time.Duration // the same where all dates are at the better of both times
}

// mostRoomsCompared bounds in how many rooms the fewest changes are looked for: those
// that are clear on the most dates. Three different rooms out of more are a choice that
// nobody would take.
const mostRoomsCompared = 24

// seriesSearch is the grid of a question with what people and rooms are taken by.
type seriesSearch struct {
	SeriesAsk
	grid   when.Grid
	n      int
	people []when.Bits // where somebody could start
}

// seriesTime is one candidate, weighed.
type seriesTime struct {
	SeriesOpening
	starts     []int
	failing    []bool          // by date
	off        []time.Duration // by person, over all dates
	byDate     [][2]time.Duration
	worst, sum time.Duration
	optional   int
}

// SeriesOpenings are the best times for all dates at once, the best first (DESIGN.md,
// rule 4: needed people missing, dates that fail, changes of the room, minutes outside
// working hours, optional people missing, earliness). Shared is set where two times by
// turns are fairer than the best one alone.
//
// Rooms are read for the best times first, and for more only as long as those could be
// better than what is found: a time without a look at rooms is never ranked behind the
// same time with them.
func SeriesOpenings(ask SeriesAsk) (out []SeriesOpening, shared *Shared, err error) {
	s := newSeriesSearch(ask)
	if s == nil {
		return nil, nil, nil
	}
	var all []*seriesTime
	for _, shift := range ask.Shifts {
		for _, clock := range ask.Clocks {
			if t := s.weigh(shift, clock); t != nil {
				all = append(all, t)
			}
		}
	}
	slices.SortStableFunc(all, better)
	looked := all
	if ask.WantRoom {
		if looked, err = s.withRooms(all); err != nil {
			return nil, nil, err
		}
	}
	for _, t := range apart(looked, ask.Most) {
		out = append(out, t.SeriesOpening)
	}
	return out, s.share(looked), nil
}

// roomBatch is for how many times rooms are read at once.
const roomBatch = 8

// withRooms weighs the rooms of the best times, until none of the others can be better;
// those weighed come back, the best first.
func (s *seriesSearch) withRooms(all []*seriesTime) (ranked []*seriesTime, err error) {
	for n := 0; n < len(all); {
		batch := all[n:min(n+roomBatch, len(all))]
		if err := s.weighRooms(batch); err != nil {
			return nil, err
		}
		n += len(batch)
		ranked = slices.SortedStableFunc(slices.Values(all[:n]), better)
		if found := apart(ranked, s.Most); len(found) == s.Most && n < len(all) && better(found[s.Most-1], all[n]) <= 0 {
			break
		}
	}
	return ranked, nil
}

// better orders times by rule 4.
func better(a, b *seriesTime) int {
	return cmp.Or(len(a.Never)-len(b.Never), a.Fails-b.Fails, a.Changes-b.Changes, cmp.Compare(a.worst, b.worst), cmp.Compare(a.sum, b.sum),
		a.optional-b.optional, cmp.Compare(a.Dates[0].Start, b.Dates[0].Start))
}

// apart are the best of some ranked times; those that overlap a better one are left out:
// they are nearly the same.
func apart(ranked []*seriesTime, most int) (out []*seriesTime) {
	for _, t := range ranked {
		if len(out) < most && !slices.ContainsFunc(out, func(o *seriesTime) bool { return o.Dates[0].Overlaps(t.Dates[0]) }) {
			out = append(out, t)
		}
	}
	return out
}

func newSeriesSearch(ask SeriesAsk) *seriesSearch {
	s := &seriesSearch{SeriesAsk: ask, n: when.Quarters(ask.Length)}
	if len(ask.Days) == 0 || len(ask.Clocks) == 0 || len(ask.Shifts) == 0 || s.n < 1 {
		return nil
	}
	window := when.DaysSpan(ask.Days[0]+when.Day(slices.Min(ask.Shifts))-1, ask.Days[len(ask.Days)-1]+when.Day(slices.Max(ask.Shifts))+1, ask.Zone)
	window.End = window.End.Add(ask.Length)
	s.grid = when.GridOver(window)
	for _, p := range ask.People {
		s.people = append(s.people, s.grid.Bits(p.Busy).Starts(s.n, s.grid.N, nil))
	}
	return s
}

// weigh looks at one time on all dates; nil where a date would be over, or is not on the
// clock.
func (s *seriesSearch) weigh(shift int, clock when.Clock) *seriesTime {
	t := &seriesTime{off: make([]time.Duration, len(s.People))}
	t.Shift, t.Clock, t.One = shift, clock, rooms.NoRoom
	for _, day := range s.Days {
		start, exists := s.Zone.Resolve(when.Local{Day: day + when.Day(shift), Clock: clock})
		at := int(start-s.grid.Start) / int(when.Quarter/time.Second)
		if !exists || start <= s.Now || at < 0 || at >= s.grid.N || s.grid.At(at) != start {
			return nil
		}
		t.Dates, t.starts = append(t.Dates, when.Span{Start: start, End: start.Add(s.Length)}), append(t.starts, at)
	}
	t.failing = make([]bool, len(t.starts))
	for i, p := range s.People {
		busy := 0
		for d, at := range t.starts {
			if !s.people[i].Has(at) {
				busy++
				t.failing[d] = t.failing[d] || p.Needed
			}
		}
		switch {
		case busy == 0:
		case !p.Needed:
			t.Optional, t.optional = append(t.Optional, OnDates{i, busy}), t.optional+busy
		default:
			t.Missing = append(t.Missing, OnDates{i, busy})
			if busy == len(t.starts) {
				t.Never = append(t.Never, i)
			}
		}
		if p.Needed && len(p.Off) > 0 {
			for _, date := range t.Dates {
				t.off[i] += p.Off.Meeting(date).Intersect(when.Spans{date}).Total()
			}
		}
		if t.off[i] > 0 {
			t.Off = append(t.Off, OffBy{i, t.off[i]})
		}
		t.worst, t.sum = max(t.worst, t.off[i]), t.sum+t.off[i]
	}
	t.Days = len(t.Dates)
	t.count()
	return t
}

// count counts the dates that fail.
func (t *seriesTime) count() {
	t.Fails = 0
	for _, f := range t.failing {
		if f {
			t.Fails++
		}
	}
}

// weighRooms reads the rooms for some times and weighs them.
func (s *seriesSearch) weighRooms(batch []*seriesTime) error {
	var windows []when.Span
	for _, t := range batch {
		windows = append(windows, t.Dates...)
	}
	house, err := s.Rooms(when.Union(windows...))
	if err != nil {
		return err
	}
	for _, t := range batch {
		s.weighRoomsOf(t, house)
	}
	return nil
}

func (s *seriesSearch) weighRoomsOf(t *seriesTime, house []rooms.Room) {
	free := make([][]bool, len(house))
	count := make([]int, len(house)) // on how many dates each is clear
	any := make([]bool, len(t.Dates))
	for r, room := range house {
		free[r] = make([]bool, len(t.Dates))
		for d, date := range t.Dates {
			if !room.Busy.Overlaps(date) {
				free[r][d], any[d] = true, true
				count[r]++
			}
		}
		if count[r] > t.OneClear {
			t.One, t.OneClear = r, count[r]
		}
	}
	covered := 0
	for d, is := range any {
		if is {
			covered++
		}
		t.failing[d] = t.failing[d] || !is
	}
	t.count()
	if t.OneClear == covered { // one room will do
		return
	}
	best := make([]int, len(house))
	for r := range best {
		best[r] = r
	}
	slices.SortStableFunc(best, func(a, b int) int { return count[b] - count[a] })
	best = best[:min(len(best), mostRoomsCompared)]
	_, each := rooms.OverClear(len(t.Dates), len(best), func(r, d int) bool { return free[best[r]][d] })
	t.Changes = each.Changes()
}

// fairer is how much less who is worst off has to bear by turns for that to be offered.
const fairer = 30 * time.Minute

// share looks for two times by turns that are fairer than the best one alone: among those
// at which no more people are missing and no more dates fail.
func (s *seriesSearch) share(all []*seriesTime) *Shared {
	if len(all) == 0 || all[0].worst == 0 || len(s.Days) < 2 {
		return nil
	}
	best := all[0]
	var same []*seriesTime
	for _, t := range all {
		if len(t.Never) == len(best.Never) && t.Fails == best.Fails && t.Shift == 0 {
			t.byDate = s.turns(t)
			same = append(same, t)
		}
	}
	var found *Shared
	for _, a := range same {
		for _, b := range same {
			if a == b {
				continue
			}
			var worst time.Duration
			for i := range s.People {
				worst = max(worst, a.byDate[i][0]+b.byDate[i][1])
			}
			if worst+time.Duration(len(s.Days))*fairer/2 <= best.worst && (found == nil || worst < found.Worst) {
				found = &Shared{First: a.SeriesOpening, Second: b.SeriesOpening, Worst: worst, WorstAlone: best.worst}
			}
		}
	}
	return found
}

// turns is by how much a time lies outside the hours of each, on the first, third ... and
// on the second, fourth ... date.
func (s *seriesSearch) turns(t *seriesTime) [][2]time.Duration {
	out := make([][2]time.Duration, len(s.People))
	for i, p := range s.People {
		if t.off[i] == 0 {
			continue
		}
		for d, date := range t.Dates {
			out[i][d%2] += p.Off.Meeting(date).Intersect(when.Spans{date}).Total()
		}
	}
	return out
}
