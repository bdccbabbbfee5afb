package sheets

import (
	"context"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
)

// Limits of a question for openings of a series.
const (
	mostOpeningDates = 60 // dates that are weighed, the first
	mostSeriesCards  = 3
)

// SeriesQuestion asks at which time of the day, between two, all dates of a sheet are
// best; Equipment and SiteID are what the room must have.
type SeriesQuestion struct {
	SheetID   uuid.UUID
	From, To  when.Clock
	Equipment []string
	SiteID    uuid.UUID
}

// SeriesOpenings are the best times for all dates of a sheet.
type SeriesOpenings struct {
	Openings []core.SeriesOpening
	Shared   *core.Shared
	People   []core.Person
	Rooms    []schedule.Room // those that SeriesOpening.One counts
	Zone     when.Zone
	WantRoom bool
	Weekday  bool // the dates are all on the same weekday
	Days     []when.Day
	Length   time.Duration
}

// SeriesOpenings finds the best times for all dates of a series that is not sent yet, all
// of them weighed at once. There is nothing for a sheet without a settled rule, for
// changes to a series, and for whole days.
func (s *Deeds) SeriesOpenings(ctx context.Context, who schedule.Actor, q SeriesQuestion) (out SeriesOpenings, err error) {
	if q.From < 0 || q.To > 24*60 || q.From >= q.To {
		return out, schedule.Invalid("from", say.It("openings.between"))
	}
	err = s.datesStore().Look(ctx, func(tx datesTx) error {
		sheet, of, err := SheetAndMeeting(ctx, tx, who, q.SheetID)
		if err != nil || sheet.Draft.Repeat == nil || sheet.Draft.Scope != nil || sheet.Draft.AllDay {
			return err
		}
		st, blocked, err := s.settleDates(ctx, tx, sheet, of)
		if err != nil {
			return err
		}
		m := st.Settled()
		if blocked != nil || m.Series == nil {
			return nil
		}
		l := &dateLooker{tx: tx, who: who, q: DatesQuestion{SheetID: q.SheetID, Equipment: q.Equipment, SiteID: q.SiteID}, sheet: sheet, st: st, m: m, now: when.At(s.Now())}
		out, err = l.openings(ctx, q)
		return err
	})
	return out, err
}

func (l *dateLooker) openings(ctx context.Context, q SeriesQuestion) (out SeriesOpenings, err error) {
	ask := core.SeriesAsk{Zone: l.m.StartIn().Zone, Length: l.m.Length(), Now: l.now, WantRoom: !l.sheet.Draft.NoRoom, Most: mostSeriesCards, Shifts: shifts(l.m)}
	for d := range l.m.Plan().Dates(l.m.Start.Day) {
		if ask.Days = append(ask.Days, d.On); len(ask.Days) == mostOpeningDates {
			break
		}
	}
	for clock := q.From; int(clock)+int(ask.Length/time.Minute) <= int(q.To); clock += 15 {
		ask.Clocks = append(ask.Clocks, clock)
	}
	out = SeriesOpenings{Zone: ask.Zone, WantRoom: ask.WantRoom, Weekday: len(ask.Shifts) > 1, Days: ask.Days, Length: ask.Length}
	if len(ask.Days) == 0 || len(ask.Clocks) == 0 {
		return out, nil
	}
	if l.lanes, err = availability.Lanes(ctx, l.tx, l.st.Organiser, l.sheet.Draft.People); err != nil {
		return out, err
	}
	if err = l.findRooms(ctx); err != nil {
		return out, err
	}
	// Hundreds of windows take longer to look up than what lies between them to read.
	windows := around(ask, q)
	whole := when.Spans{{Start: windows[0].Start, End: windows[len(windows)-1].End}}
	if err = availability.FillLanes(ctx, l.tx, l.lanes, whole, l.view()); err != nil {
		return out, err
	}
	ask.People = availability.People(l.lanes)
	ask.Rooms = func(windows when.Spans) (all []rooms.Room, err error) {
		taken, err := l.tx.Taken(ctx, nil, schedule.Wide(windows, l.rooms), l.view())
		taken = schedule.Unclear(l.rooms, taken, windows, l.st.Organiser, ask.Length, l.now)
		for _, r := range l.rooms {
			all = append(all, rooms.Room{ID: r.ID.String(), Busy: taken[r.ID.String()]})
		}
		return all, err
	}
	out.People, out.Rooms = ask.People, l.rooms
	out.Openings, out.Shared, err = core.SeriesOpenings(ask)
	return out, err
}

// shifts are by how many days all dates can be moved: those of a series on one weekday to
// the other days of the working week.
func shifts(m meeting.Meeting) []int {
	start, rule := m.Start.Day.Weekday(), m.Series.Rule
	if rule.Freq != recur.Weekly || len(rule.Days.All()) > 1 || start == time.Saturday || start == time.Sunday || len(m.Series.RDates) > 0 {
		return []int{0}
	}
	var out []int
	for day := time.Monday; day <= time.Friday; day++ {
		out = append(out, int(day-start))
	}
	return out
}

// around are the hours asked about on all days that dates could be moved to.
func around(ask core.SeriesAsk, q SeriesQuestion) when.Spans {
	var all []when.Span
	for _, day := range ask.Days {
		for _, shift := range ask.Shifts {
			on := when.Local{Day: day + when.Day(shift)}
			at := func(c when.Clock) when.Instant {
				return when.Zoned{Local: on.Add(time.Duration(c) * time.Minute), Zone: ask.Zone}.Instant()
			}
			all = append(all, when.Span{Start: at(q.From), End: at(q.To)})
		}
	}
	return when.Union(all...)
}
