package availability

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// LanesTx is what is needed here of a transaction.
type LanesTx interface {
	directory.LookupTx
	CalendarsOfContacts(ctx context.Context, contacts []uuid.UUID) ([]schedule.Calendar, error)
	ContactBusy(ctx context.Context, contacts []uuid.UUID, windows when.Spans) (map[uuid.UUID][]core.Time, error)
	StaleSince(ctx context.Context, people []uuid.UUID) (map[uuid.UUID]time.Time, error)
	SharedWith(ctx context.Context, viewer uuid.UUID) (map[uuid.UUID]core.Level, error)
	BusyTimes(ctx context.Context, people []uuid.UUID, windows when.Spans, view schedule.View) (map[uuid.UUID][]core.Time, error)
}

// Lane is one person's time.
type Lane struct {
	Name, Email string
	PersonID    uuid.UUID // Nil for somebody outside
	// Hidden is set for somebody inside who does not let the reader see their time: nothing
	// of it is here.
	Hidden bool
	// Published is where somebody outside publishes their busy times, nil for most of them:
	// when they are busy nobody here can see.
	Published *schedule.Calendar
	// StaleSince is since when another calendar of somebody inside, that counts, could not be
	// read; nil where all could.
	StaleSince  *time.Time
	Needed, You bool
	Zone        when.Zone
	ZoneKnown   bool
	Taken       []core.Time
	Off         when.Spans // outside their working hours

	hours   *when.Hours // nil where nobody knows them
	contact uuid.UUID
}

// Lanes are everybody on a sheet, its owner first, each once; their time is for
// FillLanes.
func Lanes(ctx context.Context, tx LanesTx, organiser schedule.Person, people []meeting.DraftPerson) ([]Lane, error) {
	known, err := directory.LookUp(ctx, tx, people)
	if err != nil {
		return nil, err
	}
	shared, err := tx.SharedWith(ctx, organiser.ID)
	if err != nil {
		return nil, err
	}
	own := laneOf(organiser)
	own.You, own.Needed = true, true
	lanes := []Lane{own}
	seen := map[string]bool{strings.ToLower(organiser.Email): true}
	for _, p := range known.Complete(people) {
		key := strings.ToLower(strings.TrimSpace(p.Email))
		if seen[key] {
			continue
		}
		seen[key] = true
		lane := Lane{Name: p.Name, Email: p.Email}
		if inside, ok := known.ByID[p.PersonID]; ok {
			lane = laneOf(inside)
			if !inside.ShareWith(shared).Times() {
				lane.Hidden, lane.hours = true, nil
			}
		} else if c, ok := known.Contacts[key]; ok {
			lane.outside(c)
		}
		if lane.Name == "" {
			lane.Name = lane.Email
		}
		lane.Needed = p.Needed
		lanes = append(lanes, lane)
	}
	return lanes, findPublished(ctx, tx, lanes)
}

// findPublished adds where those outside publish their busy times.
func findPublished(ctx context.Context, tx LanesTx, lanes []Lane) error {
	var contacts []uuid.UUID
	for _, l := range lanes {
		if l.contact != uuid.Nil {
			contacts = append(contacts, l.contact)
		}
	}
	kept, err := tx.CalendarsOfContacts(ctx, contacts)
	for _, c := range kept {
		for i := range lanes {
			if lanes[i].contact == *c.ContactID && c.ReadAt != nil {
				lanes[i].Published = &c
			}
		}
	}
	return err
}

// FillLanes adds when people are busy and off in some windows.
func FillLanes(ctx context.Context, tx LanesTx, lanes []Lane, windows when.Spans, view schedule.View) error {
	var ids, contacts []uuid.UUID
	for _, l := range lanes {
		switch {
		case l.PersonID != uuid.Nil && !l.Hidden:
			ids = append(ids, l.PersonID)
		case l.Published != nil:
			contacts = append(contacts, l.contact)
		}
	}
	busy, err := tx.BusyTimes(ctx, ids, windows, view)
	if err != nil {
		return err
	}
	stale, err := tx.StaleSince(ctx, ids)
	if err != nil {
		return err
	}
	outside, err := tx.ContactBusy(ctx, contacts, windows)
	off := offTimes{windows: windows}
	for i, l := range lanes {
		lanes[i].Taken = append(l.Taken, busy[l.PersonID]...)
		if since, is := stale[l.PersonID]; is {
			lanes[i].StaleSince = &since
		}
		if l.Published != nil {
			lanes[i].Taken = append(lanes[i].Taken, outside[l.contact]...)
		}
		if l.hours != nil {
			lanes[i].Off = l.Off.Union(off.of(*l.hours))
		}
	}
	return err
}

// offTimes finds what some hours leave out of some windows, once for all who work
// the same hours.
type offTimes struct {
	windows when.Spans
	hours   []when.Hours
	found   []when.Spans
}

func (o *offTimes) of(h when.Hours) when.Spans {
	if at := slices.IndexFunc(o.hours, h.Equal); at >= 0 {
		return o.found[at]
	}
	off := h.Off(o.windows)
	o.hours, o.found = append(o.hours, h), append(o.found, off)
	return off
}

func laneOf(p schedule.Person) Lane {
	return Lane{Name: p.Name, Email: p.Email, PersonID: p.ID, Zone: p.Hours.Zone, ZoneKnown: true, hours: &p.Hours}
}

func (l *Lane) outside(c schedule.Contact) {
	if zone, err := when.LoadZone(c.Zone); err == nil {
		l.Zone, l.ZoneKnown = zone, true
	}
	l.hours, l.contact = c.Hours, c.ID
}

// People are the lanes as the core sees them.
func People(lanes []Lane) []core.Person {
	people := make([]core.Person, len(lanes))
	for i, l := range lanes {
		people[i] = core.Person{Name: l.Name, You: l.You, Needed: l.Needed, Off: l.Off}.With(l.Taken)
	}
	return people
}
