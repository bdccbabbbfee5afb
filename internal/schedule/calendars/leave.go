package calendars

import (
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// leaveBusyTx writes the time that leave takes.
type leaveBusyTx interface {
	SetBusyFrom(ctx context.Context, personID, from uuid.UUID, source schedule.BusySource, taken []availability.Time) error
}

// leaveTx is what is needed here of a transaction.
type leaveTx interface {
	directory.LookupTx
	leaveBusyTx
	tellTx
	Absences(ctx context.Context, personID uuid.UUID, since when.Day) ([]schedule.Absence, error)
	AddAbsence(ctx context.Context, personID uuid.UUID, a schedule.Absence) error
	DropAbsence(ctx context.Context, personID, id uuid.UUID) error
	LockPerson(ctx context.Context, id uuid.UUID) error
	WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error)
}

func (s *Deeds) leaveStore() schedule.Store[leaveTx] {
	return schedule.Narrow(s.Store, func(tx Tx) leaveTx { return tx })
}

// longestLeave is how many days a leave can have, and mostLeaves how many can lie ahead.
const longestLeave, mostLeaves = 400, 100

// EnterLeave keeps leave, in whole days where who takes it is, both as they are typed; with
// no last day it is one.
func (s *Deeds) EnterLeave(ctx context.Context, who schedule.Actor, from, to, word string) (id uuid.UUID, err error) {
	if word, err = limited("word", "note", word, WordLimit); err != nil {
		return id, err
	}
	id = uuid.New()
	return id, s.leaveStore().InTx(ctx, func(tx leaveTx) error {
		if err := tx.LockPerson(ctx, who.For); err != nil {
			return err
		}
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		today := s.today(p)
		first, err := dayTyped(ctx, "first", from, today)
		if err != nil {
			return err
		}
		last := first
		if strings.TrimSpace(to) != "" {
			if last, err = dayTyped(ctx, "last", to, today); err != nil {
				return err
			}
		}
		switch {
		case last < first:
			return schedule.Invalid("last", say.It("leave.endsBefore"))
		case last-first >= longestLeave:
			return schedule.Invalid("last", say.It("leave.long", longestLeave))
		case last < today:
			return schedule.Invalid("last", say.It("leave.over"))
		}
		a := schedule.Absence{ID: id, First: first, Last: last, Word: word, EnteredAt: s.Now()}
		ahead, err := tx.Absences(ctx, who.For, today)
		if err != nil {
			return err
		}
		if len(ahead) >= mostLeaves {
			return schedule.Invalid("first", say.It("leave.many", mostLeaves))
		}
		if at := slices.IndexFunc(ahead, func(x schedule.Absence) bool { return x.First <= last && first <= x.Last }); at >= 0 {
			return schedule.Invalid("first", say.It("leave.twice", ahead[at].First, ahead[at].Last))
		}
		if err := tx.AddAbsence(ctx, who.For, a); err != nil {
			return err
		}
		if err := s.takeLeave(ctx, tx, who.For, a, p.Hours.Zone); err != nil {
			return err
		}
		return s.tell(ctx, tx, who.For)
	})
}

// takeLeave writes the time that leave takes in a zone.
func (s *Deeds) takeLeave(ctx context.Context, tx leaveBusyTx, person uuid.UUID, a schedule.Absence, zone when.Zone) error {
	return tx.SetBusyFrom(ctx, person, a.ID, schedule.FromLeave, []availability.Time{{Span: a.Span(zone), Kind: availability.Leave}})
}

// TakeLeaveBack forgets leave. What was done about the meetings in it stays done.
func (s *Deeds) TakeLeaveBack(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.leaveStore().InTx(ctx, func(tx leaveTx) error {
		if err := tx.DropAbsence(ctx, who.For, id); err != nil {
			return err
		}
		return s.tell(ctx, tx, who.For)
	})
}

// InLeave is a meeting with dates in somebody's leave.
type InLeave struct {
	MeetingID uuid.UUID
	Version   int
	Title     string
	Organiser string
	Mine      bool // who is on leave organises it
	Repeats   bool
	Dates     []schedule.InWeek // those in the leave, ascending
	// Whole tells that no date of it lies outside the leave.
	Whole bool
}

// MeetingsInLeave are the meetings that lie in somebody's leave and are not settled: those
// they organise, and those they have not declined. It fails with ErrNotFound.
func (s *Deeds) MeetingsInLeave(ctx context.Context, who schedule.Actor, id uuid.UUID) (a schedule.Absence, all []InLeave, err error) {
	err = s.leaveStore().Look(ctx, func(tx leaveTx) error {
		a, all, err = s.inLeave(ctx, tx, who.For, id)
		return err
	})
	return a, all, err
}

func (s *Deeds) inLeave(ctx context.Context, tx leaveTx, person, id uuid.UUID) (a schedule.Absence, all []InLeave, err error) {
	p, err := directory.Person(ctx, tx, person)
	if err != nil {
		return a, nil, err
	}
	kept, err := tx.Absences(ctx, person, 0)
	if err != nil {
		return a, nil, err
	}
	at := slices.IndexFunc(kept, func(a schedule.Absence) bool { return a.ID == id })
	if at < 0 {
		return a, nil, schedule.ErrNotFound
	}
	a = kept[at]
	found, err := tx.WeekMeetings(ctx, person, a.Span(p.Hours.Zone))
	if err != nil {
		return a, nil, err
	}
	now := when.At(s.Now())
	places := map[uuid.UUID]int{}
	for _, w := range found {
		mine := w.OrganiserID == person
		if !mine && w.Answer == meeting.Declined || w.Span.Start <= now || w.Content.Free {
			continue
		}
		n, known := places[w.ID]
		if !known {
			n = len(all)
			places[w.ID] = n
			all = append(all, InLeave{MeetingID: w.ID, Version: w.Version, Title: w.Content.Title, Organiser: w.Content.Organiser.Name, Mine: mine, Repeats: w.Content.Repeats()})
		}
		all[n].Dates = append(all[n].Dates, w)
	}
	for i := range all {
		all[i].Whole = all[i].alone()
	}
	return a, all, nil
}

// alone tells whether a meeting has no dates but those in the leave.
func (x InLeave) alone() bool {
	m := x.Dates[0].Content
	if !m.Repeats() {
		return true
	}
	n := 0
	for range m.Dates(m.Start.Day) {
		if n++; n > len(x.Dates) {
			return false
		}
	}
	return true
}
