package calendars

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// pageTx is what is needed here of a transaction.
type pageTx interface {
	directory.LookupTx
	Absences(ctx context.Context, personID uuid.UUID, since when.Day) ([]schedule.Absence, error)
	CalendarsOf(ctx context.Context, personID uuid.UUID) ([]schedule.Calendar, error)
	FeedOfPerson(ctx context.Context, personID uuid.UUID) (schedule.Feed, error)
	MeetingsInLeave(ctx context.Context, personID uuid.UUID, since when.Day) (map[uuid.UUID]int, error)
	SharingOf(ctx context.Context, personID uuid.UUID) ([]schedule.Sharing, error)
}

func (s *Deeds) pageStore() schedule.Store[pageTx] {
	return schedule.Narrow(s.Store, func(tx Tx) pageTx { return tx })
}

// Page is all that somebody's page of hours and calendars shows.
type Page struct {
	schedule.Person
	Today    when.Day
	Other    []schedule.OtherDay // from today on
	Leave    []Leave
	Holidays []schedule.Holiday // of the next twelve months that fall on a day worked
	With     []schedule.Sharing
	// Calendars are those kept elsewhere, FeedURL the secret address, "" for none.
	Calendars  []schedule.Calendar
	FeedURL    string
	FeedTitles bool
	Now        time.Time
}

// Leave is leave with what it means.
type Leave struct {
	schedule.Absence
	WorkingDays int
	Meetings    int // that lie in it
}

// Page answers what the page of hours and calendars shows.
func (s *Deeds) Page(ctx context.Context, who schedule.Actor) (p Page, err error) {
	p.Now = s.Now()
	err = s.pageStore().Look(ctx, func(tx pageTx) error {
		if p.Person, err = directory.Person(ctx, tx, who.For); err != nil {
			return err
		}
		p.Today = s.today(p.Person)
		leave, err := tx.Absences(ctx, who.For, p.Today)
		if err != nil {
			return err
		}
		counts, err := tx.MeetingsInLeave(ctx, who.For, p.Today)
		if err != nil {
			return err
		}
		for _, a := range leave {
			p.Leave = append(p.Leave, Leave{a, p.Hours.WorkingDays(a.First, a.Last), counts[a.ID]})
		}
		if p.With, err = tx.SharingOf(ctx, who.For); err != nil {
			return err
		}
		if p.Calendars, err = tx.CalendarsOf(ctx, who.For); err != nil {
			return err
		}
		f, err := tx.FeedOfPerson(ctx, who.For)
		if errors.Is(err, schedule.ErrNotFound) {
			return nil
		}
		p.FeedURL, p.FeedTitles = s.FeedURL(f.ID), f.Titles
		return err
	})
	for _, o := range p.OtherDays {
		if o.Day >= p.Today {
			p.Other = append(p.Other, o)
		}
	}
	for _, h := range p.Person.HolidaysIn(p.Today, p.Today+365) {
		if len(p.Hours.Week[h.Day.Weekday()]) > 0 {
			p.Holidays = append(p.Holidays, h)
		}
	}
	return p, err
}
