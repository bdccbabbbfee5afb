package availability

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// Limits of a question for openings.
const (
	OpeningDays = 62             // days that are searched at the most
	OpeningLong = 14 * time.Hour // the longest meeting that is looked for
	mostCards   = 5
	mostMarks   = 3
)

// OpeningsQuestion asks when a meeting of Length is best on Days from First on, in Zone.
type OpeningsQuestion struct {
	First     when.Day
	Days      int
	Zone      when.Zone
	Length    time.Duration
	From, To  when.Clock // between which hours; 0 and 1440 for the whole day
	People    []meeting.DraftPerson
	RoomID    uuid.UUID
	WantRoom  bool
	Equipment []string
	SiteID    uuid.UUID
	But       uuid.UUID // as DayQuestion.But
}

// OpeningsAnswer is the best openings and, for each day, how many good ones it holds.
type OpeningsAnswer struct {
	Openings []core.Opening
	Good     []int // by day from First on
	Lanes    []Lane
	People   []core.Person
	Rooms    []schedule.Room // those that Opening.Room counts
	Now      when.Instant
	Asks     []bool // by opening: the keeper of its room has to agree
	// Mends are, by opening, the ways to make it fit that nearly does; Others are the rooms
	// that Mend.Other counts: large enough, but elsewhere or without what is asked for.
	Mends  [][]core.Mend
	Others []schedule.Room
}

// Openings finds the best stretches for everybody on a sheet and a room, none of them in
// the past. It fails with an *InvalidError for what cannot be looked for.
func (s *Deeds) Openings(ctx context.Context, who schedule.Actor, q OpeningsQuestion) (a OpeningsAnswer, err error) {
	switch {
	case q.Days < 1 || q.Days > OpeningDays:
		return a, schedule.Invalid("days", say.It("openings.days", OpeningDays))
	case q.Length < time.Minute || q.Length > OpeningLong:
		return a, schedule.Invalid("minutes", say.It("openings.hours", int(OpeningLong.Hours())))
	case q.From < 0 || q.To > 24*60 || q.From >= q.To:
		return a, schedule.Invalid("from", say.It("openings.between"))
	}
	a.Now = when.At(s.Now())
	days := make([]when.Span, q.Days)
	for i := range days {
		days[i] = when.DaySpan(q.First+when.Day(i), q.Zone)
	}
	window := when.Span{Start: max(days[0].Start, a.Now), End: days[len(days)-1].End}
	a.Good = make([]int, q.Days)
	if window.Empty() {
		return a, nil
	}
	var house []schedule.Room
	var owner schedule.Person
	view, windows := schedule.View{For: who.For, Now: s.Now()}, when.Spans{window}
	var booked map[string]when.Spans
	err = s.Store.Look(ctx, func(tx Tx) (err error) {
		if view.But, err = ownOnly(ctx, tx, who, q.But); err != nil {
			return err
		}
		if owner, err = directory.Person(ctx, tx, who.For); err != nil {
			return err
		}
		if a.Lanes, err = Lanes(ctx, tx, owner, q.People); err != nil {
			return err
		}
		if err = FillLanes(ctx, tx, a.Lanes, windows, view); err != nil || !q.WantRoom {
			return err
		}
		if house, err = tx.Rooms(ctx, schedule.EveryRoom); err != nil {
			return err
		}
		// Only rooms that seat everybody are read.
		house = slices.DeleteFunc(house, func(r schedule.Room) bool { return r.Seats < len(a.Lanes) && r.ID != q.RoomID })
		booked, err = tx.Taken(ctx, roomIDs(house), schedule.Wide(windows, house), view)
		return err
	})
	if err != nil {
		return a, err
	}
	a.People = People(a.Lanes)
	booked = schedule.Unclear(house, booked, windows, owner, q.Length, a.Now)
	ask := core.OpeningsAsk{Window: window, Length: q.Length, People: a.People, WantRoom: q.WantRoom, Most: mostCards, Allowed: q.allowed(days)}
	facts := schedule.FactsFor(house, owner, q.Length)
	for _, at := range (DayQuestion{RoomID: q.RoomID, Equipment: q.Equipment, SiteID: q.SiteID}).wish(len(a.Lanes)).Order(facts) {
		a.Rooms = append(a.Rooms, house[at])
		ask.Rooms = append(ask.Rooms, rooms.Room{ID: facts[at].ID, Busy: booked[facts[at].ID]})
	}
	search := core.NewSearch(ask)
	a.Openings, a.Good = search.Openings(), search.GoodOn(days, mostMarks)
	others := a.othersOf(house, booked)
	for _, o := range a.Openings {
		a.Mends = append(a.Mends, search.Mends(o, others))
		asks := false
		if o.Room != rooms.NoRoom {
			room := a.Rooms[o.Room]
			asks = room.Place().Decide([]when.Span{o.Span}, 1, 1, room.Asker(owner), a.Now).Verdict == rooms.Asked
		}
		a.Asks = append(a.Asks, asks)
	}
	return a, nil
}

func roomIDs(all []schedule.Room) []uuid.UUID {
	ids := make([]uuid.UUID, len(all))
	for i, r := range all {
		ids[i] = r.ID
	}
	return ids
}

// othersOf are the rooms of the house that would do but for what is asked for.
func (a *OpeningsAnswer) othersOf(house []schedule.Room, unclear map[string]when.Spans) (out []rooms.Room) {
	for _, r := range house {
		if r.Seats < len(a.Lanes) || slices.ContainsFunc(a.Rooms, func(x schedule.Room) bool { return x.ID == r.ID }) {
			continue
		}
		a.Others = append(a.Others, r)
		out = append(out, rooms.Room{ID: r.ID.String(), Busy: unclear[r.ID.String()]})
	}
	return out
}

// allowed are the hours asked for on each day, nil for whole days.
func (q OpeningsQuestion) allowed(days []when.Span) (out when.Spans) {
	if q.From == 0 && q.To == 24*60 {
		return nil
	}
	var all []when.Span
	for i := range days {
		day := when.Local{Day: q.First + when.Day(i)}
		at := func(c when.Clock) when.Instant {
			return when.Zoned{Local: day.Add(time.Duration(c) * time.Minute), Zone: q.Zone}.Instant()
		}
		all = append(all, when.Span{Start: at(q.From), End: at(q.To)})
	}
	return when.Union(all...)
}
