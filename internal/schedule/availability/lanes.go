package availability

import (
	"context"
	"slices"
	"strings"

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
	BusyTimes(ctx context.Context, people []uuid.UUID, windows when.Spans, view schedule.View) (map[uuid.UUID][]core.Time, error)
}

// Lane is one person's time.
type Lane struct {
	Name, Email string
	PersonID    uuid.UUID // Nil for somebody outside: when they are busy nobody here can see
	Needed, You bool
	Zone        when.Zone
	ZoneKnown   bool
	Taken       []core.Time
	Off         when.Spans // outside their working hours

	hours *when.Hours // nil where nobody knows them
}

// Lanes are everybody on a sheet, its owner first, each once; their time is for
// FillLanes.
func Lanes(ctx context.Context, tx LanesTx, organiser schedule.Person, people []meeting.DraftPerson) ([]Lane, error) {
	known, err := directory.LookUp(ctx, tx, people)
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
		} else if c, ok := known.Contacts[key]; ok {
			lane.outside(c)
		}
		if lane.Name == "" {
			lane.Name = lane.Email
		}
		lane.Needed = p.Needed
		lanes = append(lanes, lane)
	}
	return lanes, nil
}

// FillLanes adds when people are busy and off in some windows.
func FillLanes(ctx context.Context, tx LanesTx, lanes []Lane, windows when.Spans, view schedule.View) error {
	var ids []uuid.UUID
	for _, l := range lanes {
		if l.PersonID != uuid.Nil {
			ids = append(ids, l.PersonID)
		}
	}
	busy, err := tx.BusyTimes(ctx, ids, windows, view)
	off := offTimes{windows: windows}
	for i, l := range lanes {
		lanes[i].Taken = append(l.Taken, busy[l.PersonID]...)
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
	l.hours = c.Hours
}

// People are the lanes as the core sees them.
func People(lanes []Lane) []core.Person {
	people := make([]core.Person, len(lanes))
	for i, l := range lanes {
		people[i] = core.Person{Name: l.Name, You: l.You, Needed: l.Needed, Off: l.Off}.With(l.Taken)
	}
	return people
}
