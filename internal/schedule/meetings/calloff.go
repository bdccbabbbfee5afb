package meetings

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// calloffTx is what is needed here of a transaction.
type calloffTx interface {
	kernel.In
	kernel.Locking
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	LockSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error)
	Related(ctx context.Context, uid string, relatedTo string) ([]schedule.Record, error)
}

func (s *Deeds) calloffStore() schedule.Store[calloffTx] {
	return schedule.Narrow(s.Store, func(tx Tx) calloffTx { return tx })
}

// CallOff cancels a meeting and tells everybody, with a word if there is one: all
// of it, or some dates of a series. Rooms and people become clear; the call is
// withdrawn and begun changes are dropped when nothing is left. Dates that were
// held stay. It fails with a *VersionError when the meeting was changed since
// version, and does nothing when it is called off already.
func (s *Deeds) CallOff(ctx context.Context, who schedule.Actor, id uuid.UUID, version int, scope *series.Range, word string) error {
	word = meeting.Plain(word)
	if len([]rune(word)) > meeting.CommentLimit {
		return schedule.Invalid("word", say.It("word.long", meeting.CommentLimit))
	}
	return s.calloffStore().InTx(ctx, func(tx calloffTx) error {
		// Sheets, the meeting, who is invited, rooms: everybody locks in this order.
		if err := tx.LockSheetsOf(ctx, id); err != nil {
			return err
		}
		record, err := kernel.Organised(ctx, tx, who, id)
		if err == schedule.ErrCalledOff {
			return nil
		}
		if err != nil {
			return err
		}
		if record.Version != version {
			was, err := tx.MeetingAt(ctx, id, version)
			if err != nil {
				return err
			}
			return schedule.Changed(record, was.Content)
		}
		after, whole, err := s.withoutDates(record.Content, scope)
		if err != nil {
			return err
		}
		if !whole {
			return s.callOffDates(ctx, tx, record, after, *scope, word)
		}
		return s.Kernel.CallOff(ctx, tx, record, word)
	})
}

// CallOffEffect is what calling off would do.
type CallOffEffect struct {
	Names []string // who hears of it
	Whole bool     // no date is left to come
	Dates int      // of a series, how many are called off
	More  bool     // there are more than that
	Held  bool     // dates that were held stay
	Rooms []string // that become clear
	Link  string   // "none", "withdrawn", "stays"
}

// mostCounted is how many dates of a series without an end are counted.
const mostCounted = 200

// WhatCallingOffDoes tells that before it is done. It fails as CallOff does.
func (s *Deeds) WhatCallingOffDoes(ctx context.Context, who schedule.Actor, id uuid.UUID, scope *series.Range) (e CallOffEffect, err error) {
	var record schedule.Record
	var related []schedule.Record
	err = s.calloffStore().Look(ctx, func(tx calloffTx) error {
		if record, err = tx.Meeting(ctx, id); err != nil {
			return err
		}
		switch {
		case record.OrganiserID != who.For:
			return schedule.ErrNotFound
		case record.CalledOffAt != nil:
			return schedule.ErrCalledOff
		}
		related, err = tx.Related(ctx, record.Content.UID, record.Content.RelatedTo)
		return err
	})
	if err != nil {
		return e, err
	}
	before := record.Content
	after, whole, err := s.withoutDates(before, scope)
	if err != nil {
		return e, err
	}
	e.Whole = true
	_, due := meeting.Announce(&before, after)
	if whole {
		_, due = meeting.CalledOff(before)
	}
	for _, d := range due {
		if !slices.Contains(e.Names, d.To.Name) {
			e.Names = append(e.Names, d.To.Name)
		}
	}
	now := when.At(s.Now())
	for d := range before.Dates(before.Start.Day) {
		if d.Span.Start <= now {
			e.Held = true
			continue
		}
		if scope != nil && before.Repeats() && !scope.Holds(d.On) {
			e.Whole = false
			if d.On > scope.End() {
				break // a series without an end goes on for centuries
			}
			continue
		}
		if e.Dates == mostCounted {
			e.More = true
			if scope == nil || scope.To == 0 {
				break
			}
			continue // there may be dates after the scope
		}
		e.Dates++
		if d.Room != nil && !slices.Contains(e.Rooms, d.Room.Name) {
			e.Rooms = append(e.Rooms, d.Room.Name)
		}
	}
	e.Link = kernel.LinkAfter(before, whole, len(related) > 0)
	return e, nil
}

// withoutDates is a meeting without some dates, nil for all of it; whole is true
// when no date to come is left. Dates that have begun are not called off any more.
func (s *Deeds) withoutDates(m meeting.Meeting, scope *series.Range) (after meeting.Meeting, whole bool, err error) {
	if scope == nil || !m.Repeats() {
		return m, true, nil
	}
	switch begun, any := m.Begun(*scope, when.At(s.Now())); {
	case begun != 0:
		return m, false, schedule.Invalid("scope", say.It("calloff.begun"))
	case !any:
		return m, false, schedule.Invalid("scope", say.It("meeting.scope.noDate"))
	}
	after, left := m.Without(*scope)
	return after, !left, nil
}

func (s *Deeds) callOffDates(ctx context.Context, tx calloffTx, record schedule.Record, after meeting.Meeting, scope series.Range, word string) error {
	st := kernel.Settled{Before: &record, Outcome: meeting.Outcome{Scope: scope}, Says: kernel.Saying(word), CallStands: true}
	var err error
	if st.Invited, err = tx.AllInvited(ctx, record.ID); err != nil {
		return err
	}
	if err := st.Become(ctx, tx, after, s.Now()); err != nil {
		return err
	}
	if word == "" && scope.To == 0 {
		st.Says = func(m meeting.Message) schedule.Said {
			in := tongue.In(m.To.Language)
			return schedule.Said{Words: in.Say("the dates %s are called off", words.Scope(in, scope))}
		}
	}
	off := meeting.Event{Kind: meeting.EventDatesOff, Who: after.Organiser.Name, Scope: &scope, Told: kernel.Told(st.Due)}
	st.Story = &kernel.Line{Event: off, Actor: record.OrganiserID}
	_, _, err = s.Kernel.Write(ctx, tx, st)
	return err
}
