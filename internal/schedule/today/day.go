package today

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// dayTx is what is needed here of a transaction.
type dayTx interface {
	directory.LookupTx
	endsTx
	EntriesOf(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.CalendarEntry, error)
	Leave(ctx context.Context, personID uuid.UUID, window when.Span) (when.Spans, error)
	OpenInvitations(ctx context.Context, person uuid.UUID, now time.Time) ([]schedule.OpenInvitation, error)
	WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error)
}

func (s *Deeds) dayStore() schedule.Store[dayTx] {
	return schedule.Narrow(s.Store, func(tx Tx) dayTx { return tx })
}

// Item is something on a day: a meeting, or what another calendar has.
type Item struct {
	Span    when.Span
	Meeting *schedule.InWeek
	Title   string // of an entry in another calendar
	// Outside is set for a meeting that somebody outside organises.
	Outside *schedule.CalendarEntry
	// People counts who else is invited, Coming those of them who accepted; Missing are those
	// needed who declined or said nothing.
	People, Coming int
	Missing        []string
	NoRoom         bool // a room is meant and none is booked
}

// outsideReminder is how long before its start somebody is reminded of what people outside
// organise.
const outsideReminder = 10 * time.Minute

// Reminders are when its reader is reminded of it, the earliest first.
func (i Item) Reminders() (at []when.Instant) {
	switch {
	case i.Outside != nil && i.Outside.Answer != meeting.Declined:
		return []when.Instant{i.Span.Start.Add(-outsideReminder)}
	case i.Outside != nil || i.Meeting == nil || i.Meeting.Answer == meeting.Declined:
		return nil
	}
	all := append(i.Meeting.Content.RemindsAt(i.Meeting.Answer == ""), i.Meeting.Reminds...)
	slices.Sort(all)
	for _, before := range slices.Backward(slices.Compact(all)) {
		at = append(at, i.Span.Start.Add(-time.Duration(before)*time.Minute))
	}
	return at
}

// Today is somebody's day in their zone, with their loose ends and what waits for their answer.
type Today struct {
	Zone     when.Zone
	Day      when.Day
	Items    []Item // in the order of their start
	WholeDay []Item // what takes whole days
	// Reminded is what is on a later day, of which its reader is reminded by now or within the hour.
	Reminded []Item
	Clear    when.Spans // between them, within working hours, of half an hour or more
	Away     bool       // on leave all day
	// Next is the first meeting of a day after this one, nil for none within two weeks.
	Next  *schedule.InWeek
	Ends  []End
	Asked []Asked
	// Invited is what waits of that to which people outside invite, with when it is next.
	Invited []schedule.OpenInvitation
	// MorningMail tells whether a short mail about the day comes in the morning.
	MorningMail bool
}

// Today shows somebody their day.
func (s *Deeds) Today(ctx context.Context, who schedule.Actor) (t Today, err error) {
	err = s.dayStore().Look(ctx, func(tx dayTx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		t, err = s.today(ctx, tx, who, p)
		return err
	})
	return t, err
}

func (s *Deeds) today(ctx context.Context, tx dayTx, who schedule.Actor, p schedule.Person) (t Today, err error) {
	now := when.At(s.Now())
	t.Zone, t.MorningMail = p.Hours.Zone, p.MorningMail
	t.Day = t.Zone.LocalAt(now).Day
	window := when.DaysSpan(t.Day, t.Day+lookedAhead, t.Zone)
	all, err := tx.WeekMeetings(ctx, who.For, window)
	if err != nil {
		return t, err
	}
	found, err := s.find(ctx, tx, who, all, now)
	if err != nil {
		return t, err
	}
	if t.Ends, err = s.mends(ctx, tx, who, p, found); err != nil {
		return t, err
	}
	if t.Asked, err = s.asked(ctx, tx, who, now); err != nil {
		return t, err
	}
	if t.Invited, err = tx.OpenInvitations(ctx, who.For, s.Now()); err != nil {
		return t, err
	}
	day := when.DaySpan(t.Day, t.Zone)
	for i, m := range all {
		switch {
		case m.Content.AllDay && onDay(m, t.Day):
			t.WholeDay = append(t.WholeDay, found.item(&all[i]))
		case m.Content.AllDay:
		case m.Span.Overlaps(day):
			t.Items = append(t.Items, found.item(&all[i]))
		case m.Span.Start >= day.End && t.Next == nil && m.Answer != meeting.Declined:
			t.Next = &all[i]
		}
		if m.Span.Start >= day.End {
			t.ahead(found.item(&all[i]), now)
		}
	}
	entries, err := tx.EntriesOf(ctx, who.For, when.DaysSpan(t.Day, t.Day+1, t.Zone)) // also what is soon after midnight
	if err != nil {
		return t, err
	}
	for _, e := range entries {
		x := Item{Span: e.Span, Title: e.Title}
		if e.Invitation != uuid.Nil {
			x.Outside = &e
		}
		if e.Span.Overlaps(day) {
			t.Items = append(t.Items, x)
		} else {
			t.ahead(x, now)
		}
	}
	slices.SortStableFunc(t.Reminded, func(a, b Item) int { return int(a.Span.Start - b.Span.Start) })
	slices.SortStableFunc(t.Items, func(a, b Item) int { return int(a.Span.Start - b.Span.Start) })
	leave, err := tx.Leave(ctx, who.For, day)
	if err != nil {
		return t, err
	}
	working := p.Hours.Within(day)
	t.Away = len(working) > 0 && len(working.Minus(leave)) == 0
	t.Clear = clear(working.Minus(leave), t.Items, now)
	return t, nil
}

// ahead takes what is on a later day, where its reader is to be reminded of it.
func (t *Today) ahead(i Item, now when.Instant) {
	if meeting.RemindedAhead(i.Reminders(), now) {
		t.Reminded = append(t.Reminded, i)
	}
}

func onDay(m schedule.InWeek, day when.Day) bool {
	first, last := m.Content.Days(m.Span)
	return first <= day && day <= last
}

// leastClear is what is worth saying that it is clear.
const leastClear = 30 * 60

// clear are the stretches of working hours still to come between the things of a day.
func clear(working when.Spans, items []Item, now when.Instant) (out when.Spans) {
	var taken []when.Span
	for _, i := range items {
		if i.Meeting == nil && (i.Outside == nil || i.Outside.Answer != meeting.Declined) || i.Meeting != nil && i.Meeting.Answer != meeting.Declined && !i.Meeting.Content.Free {
			taken = append(taken, i.Span)
		}
	}
	for _, c := range working.Minus(when.Union(taken...)) {
		if c.End > now && c.End-c.Start >= leastClear {
			out = append(out, c)
		}
	}
	return out
}
