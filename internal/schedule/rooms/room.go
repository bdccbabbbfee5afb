package rooms

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// roomTx is what is needed here of a transaction.
type roomTx interface {
	directory.LookupTx
	OpenRequests(ctx context.Context, rooms []uuid.UUID, most int) ([]schedule.AskedRoom, error)
	RoomUses(ctx context.Context, person, room uuid.UUID, window when.Span, now time.Time) ([]schedule.RoomUse, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
	Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) (map[string]when.Spans, error)
	WaitingInRoom(ctx context.Context, room uuid.UUID, now time.Time) ([]schedule.WaitingPerson, error)
}

func (s *Deeds) roomStore() schedule.Store[roomTx] {
	return schedule.Narrow(s.Store, func(tx Tx) roomTx { return tx })
}

// MostDays is how many days of a room can be seen at once.
const MostDays = 62

// Day is a day of a room.
type Day struct {
	Day    when.Day
	Window when.Span
	Uses   []schedule.RoomUse
	Shut   when.Spans // when its rules do not let who looks book it
	// Closed tells that it is closed all day to everybody.
	Closed bool
}

// Room is a room with some of its days.
type Room struct {
	schedule.Room
	Keepers []schedule.Person // who decides about it, by name
	People  []schedule.Person // whom its rules and its list of keepers name
	Keeps   bool              // who looks decides about it
	Rules   []string          // in words
	Zone    when.Zone         // in which the days are
	Days    []Day
	Clear   bool // now
	Until   when.Instant
	// Asked is what waits for who looks: of all rooms that they keep, those of this one
	// first.
	Asked []Asked
	// Waiting is who waits for it, the next first; for its keepers.
	Waiting []schedule.WaitingPerson
}

// Asked is a request as who decides sees it: what is private has no title.
type Asked struct {
	schedule.AskedRoom
	Room  string
	Title string
	Day   when.Day // of the first date, where who looks is
	When  string   // "Tue 24 Nov 2026, 16:30 – 18:00", or the first of several
	Why   string   // why it is asked
	// Dates is how many are asked for, Without how many of the series go without the room.
	Dates, Without int
	// Instead are other rooms that are clear on all dates and need no asking.
	Instead []schedule.Room
}

// mostAsked is how many requests are shown at once.
const mostAsked = 30

// Room shows a room with some days from one on. It is for everybody in the house; what
// waits for an answer is for its keepers.
func (s *Deeds) Room(ctx context.Context, who schedule.Actor, id uuid.UUID, first when.Day, days int) (out Room, err error) {
	if days < 1 || days > MostDays {
		return out, schedule.Invalid("days", say.It("room.days", MostDays))
	}
	err = s.roomStore().Look(ctx, func(tx roomTx) error {
		me, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		found, err := tx.RoomsByID(ctx, []uuid.UUID{id})
		if err != nil {
			return err
		}
		if len(found) == 0 {
			return schedule.ErrNotFound
		}
		room := found[0]
		out = Room{Room: room, Zone: me.Hours.Zone, Keeps: room.KeptFor(me), Rules: words.Rules(schedule.Tongue(ctx), room.Rules, room.Site)}
		if out.Keepers, err = tx.People(ctx, room.KeptBy); err != nil {
			return err
		}
		slices.SortFunc(out.Keepers, func(a, b schedule.Person) int { return strings.Compare(a.Name, b.Name) })
		if err := s.days(ctx, tx, &out, me, first, days); err != nil || !out.Keeps {
			return err
		}
		named := slices.Clone(room.Keepers)
		for _, text := range room.Rules.People {
			if id, err := uuid.Parse(text); err == nil {
				named = append(named, id)
			}
		}
		if out.People, err = tx.People(ctx, named); err != nil {
			return err
		}
		if out.Waiting, err = tx.WaitingInRoom(ctx, id, s.Now()); err != nil {
			return err
		}
		out.Asked, err = s.asked(ctx, tx, me, id)
		return err
	})
	return out, err
}

func (s *Deeds) days(ctx context.Context, tx roomTx, out *Room, me schedule.Person, first when.Day, days int) error {
	now := when.At(s.Now())
	window := when.DaysSpan(first, first+when.Day(days)-1, out.Zone)
	uses, err := tx.RoomUses(ctx, me.ID, out.ID, window, s.Now())
	if err != nil {
		return err
	}
	present, err := tx.Taken(ctx, []uuid.UUID{out.ID}, when.Spans{{Start: now, End: now.Add(24 * time.Hour)}}, schedule.View{Now: s.Now()})
	if err != nil {
		return err
	}
	out.Clear, out.Until = core.ClearFrom(present[out.ID.String()], now)
	place := out.Place()
	shut, closed := place.Shut(when.Spans{window}, out.Asker(me), now), place.Shut(when.Spans{window}, core.Asker{Keeps: true}, now)
	for day := first; day < first+when.Day(days); day++ {
		d := Day{Day: day, Window: when.DaySpan(day, out.Zone)}
		d.Shut = shut.Intersect(when.Spans{d.Window})
		d.Closed = closed.Covers(d.Window)
		for _, u := range uses {
			if u.Span.Overlaps(d.Window) {
				d.Uses = append(d.Uses, u.Known())
			}
		}
		out.Days = append(out.Days, d)
	}
	return nil
}

// asked is what waits for somebody's answer about the rooms that they keep, what is about
// one of them first.
func (s *Deeds) asked(ctx context.Context, tx roomTx, me schedule.Person, first uuid.UUID) ([]Asked, error) {
	house, err := tx.Rooms(ctx, schedule.EveryRoom)
	if err != nil {
		return nil, err
	}
	var kept []uuid.UUID
	named := map[uuid.UUID]schedule.Room{}
	for _, r := range house {
		named[r.ID] = r
		if r.KeptFor(me) {
			kept = append(kept, r.ID)
		}
	}
	open, err := tx.OpenRequests(ctx, kept, mostAsked)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(open, func(a, b schedule.AskedRoom) int { return boolFirst(a.RoomID == first, b.RoomID == first) })
	var out []Asked
	for _, q := range open {
		room := named[q.RoomID]
		x := Asked{AskedRoom: q, Room: room.Name, Title: q.Content.Title, Dates: len(q.Dates), Why: words.RoomReasons(schedule.Tongue(ctx), room.Name, room.Site, q.Reasons)}
		if q.Private {
			x.Title = words.PrivateMeeting
		}
		x.Day = me.Hours.Zone.LocalAt(q.Dates[0].Span.Start).Day
		x.When = words.Span(schedule.Tongue(ctx), me.Hours.Zone, q.Dates[0].Span)
		if q.Content.AllDay {
			first, last := q.Content.Days(q.Dates[0].Span)
			x.Day, x.When = first, words.AllDay(schedule.Tongue(ctx), first, last)
		}
		x.Without = s.without(q)
		if x.Instead, err = s.instead(ctx, tx, house, q); err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	return out, nil
}

// without is how many dates of a series have this room meant and do not get it.
func (s *Deeds) without(q schedule.AskedRoom) (n int) {
	if !q.Content.Repeats() {
		return 0
	}
	for _, d := range s.Kernel.RoomDates(q.Content) {
		if d.RoomID != q.RoomID && d.Span.Start > when.At(q.AskedAt) {
			n++
		}
	}
	return n
}

// instead are other rooms that would do for a request without asking anybody.
func (s *Deeds) instead(ctx context.Context, tx roomTx, house []schedule.Room, q schedule.AskedRoom) (out []schedule.Room, err error) {
	people, err := tx.People(ctx, []uuid.UUID{q.OrganiserID})
	if err != nil || len(people) == 0 {
		return nil, err
	}
	organiser, now := people[0], when.At(s.Now())
	dates := make([]when.Span, len(q.Dates))
	for i, d := range q.Dates {
		dates[i] = d.Span
	}
	windows := when.Union(dates...)
	taken, err := tx.Taken(ctx, nil, schedule.Wide(windows, house), schedule.View{For: q.OrganiserID, Now: s.Now()})
	if err != nil {
		return nil, err
	}
	unclear := schedule.Unclear(house, taken, windows, organiser, 0, now)
	site := ""
	for _, r := range house {
		if r.ID == q.RoomID {
			site = r.SiteID.String()
		}
	}
	others := slices.DeleteFunc(slices.Clone(house), func(r schedule.Room) bool {
		return r.ID == q.RoomID || r.Place().Decide(dates, 1, 1, r.Asker(organiser), now).Verdict != core.Booked
	})
	for _, at := range core.Instead(schedule.RoomFacts(others), unclear, dates, len(q.Content.Participants)+1, site) {
		out = append(out, others[at])
	}
	return out[:min(len(out), 3)], nil
}

func boolFirst(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return -1
	}
	return 1
}
