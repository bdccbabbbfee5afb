package availability

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// weekTx is what is needed here of a transaction.
type weekTx interface {
	directory.LookupTx
	EntriesOf(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.CalendarEntry, error)
	CalendarsOf(ctx context.Context, personID uuid.UUID) ([]schedule.Calendar, error)
	Leave(ctx context.Context, personID uuid.UUID, window when.Span) (when.Spans, error)
	WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error)
}

// Week is some days of one person.
type Week struct {
	Window   when.Span
	Zone     when.Zone
	Meetings []schedule.InWeek
	Leave    when.Spans
	Working  when.Spans
	Entries  []schedule.CalendarEntry // of their other calendars, each once
	Holidays []schedule.Holiday       // of their site
	// Broken are calendars of theirs that count and cannot be read.
	Broken []schedule.Calendar
}

// Week shows what somebody organises and is invited to on the days from first
// on, in their own zone.
func (s *Deeds) Week(ctx context.Context, who schedule.Actor, first when.Day, days int) (w Week, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		w.Zone = p.Hours.Zone
		w.Window = when.DaysSpan(first, first+when.Day(days)-1, w.Zone)
		w.Working = p.Hours.Within(w.Window)
		if w.Leave, err = tx.Leave(ctx, who.For, w.Window); err != nil {
			return err
		}
		w.Holidays = p.HolidaysIn(first, first+when.Day(days)-1)
		kept, err := tx.CalendarsOf(ctx, who.For)
		if err != nil {
			return err
		}
		for _, c := range kept {
			if c.Counts && c.FailingSince != nil {
				w.Broken = append(w.Broken, c)
			}
		}
		if w.Entries, err = tx.EntriesOf(ctx, who.For, w.Window); err != nil {
			return err
		}
		w.Meetings, err = tx.WeekMeetings(ctx, who.For, w.Window)
		return err
	})
	return w, err
}
