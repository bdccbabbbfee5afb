package demo

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/calendars"
	"jembro/internal/standin"
)

// publishCalendars puts the calendars that are kept outside where they can be asked.
func (r *Running) publishCalendars() {
	now := r.now().UTC()
	monday := now.Truncate(24*time.Hour).AddDate(0, 0, -(int(now.Weekday())+6)%7)
	at := func(day, hour, minute int) time.Time {
		return monday.AddDate(0, 0, day).Add(time.Duration(hour)*time.Hour + time.Duration(minute)*time.Minute)
	}
	c := r.World.Calendars
	c.Publish("archive-group.ics", standin.Calendar("Lisbon archive group", 30*time.Minute,
		standin.Event{UID: "reading@archive-group.example", Title: "Reading room shift", Start: at(0, 17, 0), Length: time.Hour, More: "RRULE:FREQ=WEEKLY"},
		standin.Event{UID: "board@archive-group.example", Title: "Archive board", Start: at(3, 17, 30), Length: 90 * time.Minute, More: "RRULE:FREQ=WEEKLY;INTERVAL=2"},
		standin.Event{UID: "fair@archive-group.example", Title: "Paper fair", Start: at(18, 9, 0), Length: 3 * time.Hour}))
	c.Publish("family.ics", standin.Calendar("Family", 0,
		standin.Event{UID: "swim@family.example", Title: "Swimming lesson", Start: at(4, 17, 0), Length: time.Hour, More: "RRULE:FREQ=WEEKLY"}))
	c.Publish("onari.ifb", standin.Calendar("S. Onari", time.Hour,
		standin.Event{UID: "1@kirisame.example", Title: "", Start: at(1, 2, 0), Length: 4 * time.Hour, More: "RRULE:FREQ=WEEKLY;BYDAY=TU,TH"},
		standin.Event{UID: "2@kirisame.example", Title: "", Start: at(2, 8, 0), Length: 2 * time.Hour, More: "RRULE:FREQ=WEEKLY\r\nSTATUS:TENTATIVE"}))
}

// ferry is a file: times that are shown and make nobody busy.
func (b *builder) ferry() []byte {
	monday := time.Unix(int64(b.monday)*86400, 0).UTC()
	return []byte(standin.Calendar("Ferry times", 0,
		standin.Event{UID: "ferry@quay.example", Title: "Ferry to the quay store", Start: monday.Add(8 * time.Hour), Length: 20 * time.Minute, More: "RRULE:FREQ=WEEKLY;BYDAY=MO,FR"}))
}

// times is what some people have beside their meetings: other calendars, hours of single
// days, leave, who sees what, and what they watch.
func (b *builder) times(ctx context.Context, store *postgres.Store, worldURL string) error {
	ilse, tome := b.person("Ilse"), b.person("Tomé")
	who, do := schedule.Self(ilse.ID), b.service.Calendars
	for _, n := range []calendars.NewCalendar{
		{Address: worldURL + "/calendars/archive-group.ics", Counts: true},
		{Address: worldURL + "/calendars/family.ics", Counts: true},
		{File: b.ferry(), Counts: false},
	} {
		if _, err := do.Add(ctx, who, n); err != nil {
			return err
		}
	}
	if err := do.SetDay(ctx, who, ilse.HoursVersion, (b.monday + 10).String(), "9 – 16", "dentist"); err != nil {
		return err
	}
	if _, err := do.EnterLeave(ctx, who, (b.monday + 28).String(), (b.monday + 38).String(), ""); err != nil {
		return err
	}
	if err := do.Share(ctx, who, availability.SeeBusy, []schedule.Sharing{{PersonID: tome.ID, Level: availability.SeeTitles}}); err != nil {
		return err
	}
	if err := do.Watch(ctx, who, []schedule.Watched{{PersonID: tome.ID}}); err != nil {
		return err
	}
	return b.silence(ctx, store, ilse.ID)
}

// silence has one calendar not have answered for two days.
func (b *builder) silence(ctx context.Context, store *postgres.Store, person uuid.UUID) error {
	return store.InTx(ctx, func(tx *postgres.Tx) error {
		all, err := tx.CalendarsOf(ctx, person)
		if err != nil {
			return err
		}
		for _, c := range all {
			if c.Name == "Family" {
				since, next := b.now.Add(-46*time.Hour), b.now.Add(90*time.Minute)
				c.ReadAt, c.FailingSince, c.Fault, c.Failures, c.NextAt = &since, &since, availability.FaultGone, 9, &next
				if err := tx.SetCalendar(ctx, c); err != nil {
					return err
				}
			}
		}
		return nil
	})
}
