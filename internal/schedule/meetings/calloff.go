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
)

// calloffTx is what is needed here of a transaction.
type calloffTx interface {
	KeepTx
	TellTx
	TimesTx
	roomsTx
	DropOccurrences(ctx context.Context, meetingID uuid.UUID) error
	LockSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	DropSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error)
	Related(ctx context.Context, uid string, relatedTo string) ([]schedule.Record, error)
	SetMeeting(ctx context.Context, r schedule.Record) error
	Tell(ctx context.Context, n schedule.Notice) error
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
	return s.Store.InTx(ctx, func(tx Tx) error {
		// Sheets, the meeting, who is invited, rooms: everybody locks in this order.
		if err := tx.LockSheetsOf(ctx, id); err != nil {
			return err
		}
		record, err := Organised(ctx, tx, who, id)
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
		return s.callOffAll(ctx, tx, record, word)
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
	err = s.Store.Look(ctx, func(tx Tx) error {
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
	e.Link = linkAfter(before, whole, len(related) > 0)
	return e, nil
}

// linkAfter is what becomes of the link of a meeting that is called off, wholly or
// in part; that of a series that goes on elsewhere is in use.
func linkAfter(m meeting.Meeting, whole, goesOn bool) string {
	switch {
	case m.Card == nil:
		return "none"
	case whole && !goesOn && m.Card.Made():
		return "withdrawn"
	}
	return "stays"
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
	st := Settled{Before: &record, Outcome: meeting.Outcome{Scope: scope}}
	var err error
	if st.Invited, err = tx.AllInvited(ctx, record.ID); err != nil {
		return err
	}
	if err := st.Become(ctx, tx, after, s.Now()); err != nil {
		return err
	}
	stored, err := s.StoreMeeting(ctx, tx, st)
	if err != nil {
		return err
	}
	if err := s.StoreInvited(ctx, tx, stored, st); err != nil {
		return err
	}
	if _, err := s.WriteTimes(ctx, tx, stored); err != nil {
		return err
	}
	says := Saying(word)
	if word == "" && scope.To == 0 {
		says = func(m meeting.Message) schedule.Said {
			in := tongue.In(m.To.Language)
			return schedule.Said{Words: in.Say("the dates %s are called off", words.Scope(in, scope))}
		}
	}
	if err := s.Dispatch(ctx, tx, &st.Before.Content, stored, st.Due, says); err != nil {
		return err
	}
	off := meeting.Event{Kind: meeting.EventDatesOff, Who: after.Organiser.Name, Scope: &scope, Told: people(st.Due)}
	if err := s.Happened(ctx, tx, record, record.OrganiserID, off); err != nil {
		return err
	}
	concerned := append(Insiders(record.Content.Participants), record.OrganiserID)
	return tx.Tell(ctx, schedule.Notice{People: concerned, Topic: schedule.AboutMeeting, ID: record.ID})
}

func (s *Deeds) callOffAll(ctx context.Context, tx calloffTx, record schedule.Record, word string) error {
	now, id := s.Now(), record.ID
	before := record.Content
	off, due := meeting.CalledOff(before)
	record.Stamp = s.stampAfter(record)
	record.Version, record.Content, record.CalledOffAt = record.Version+1, off, &now
	if err := tx.SetMeeting(ctx, record); err != nil {
		return err
	}
	dates, err := tx.Occurrences(ctx, id)
	if err != nil {
		return err
	}
	given := roomIDs(dates)
	if err := tx.LockRooms(ctx, given); err != nil {
		return err
	}
	if err := tx.DropOccurrences(ctx, id); err != nil {
		return err
	}
	if len(given) > 0 {
		if err := s.OfferTo(ctx, tx, given); err != nil {
			return err
		}
	}
	if err := s.askNobody(ctx, tx, id); err != nil {
		return err
	}
	if err := s.Dispatch(ctx, tx, &before, record, due, Saying(word)); err != nil {
		return err
	}
	related, err := tx.Related(ctx, off.UID, off.RelatedTo)
	if err != nil {
		return err
	}
	if linkAfter(off, true, len(related) > 0) == "withdrawn" {
		if err := WithdrawUnused(ctx, tx, record.OrganiserID, off.Card, nil); err != nil {
			return err
		}
	}
	if err := tx.DropSheetsOf(ctx, id); err != nil {
		return err
	}
	event := meeting.Event{Kind: meeting.EventCalledOff, Who: off.Organiser.Name, Told: len(due)}
	if err := s.Happened(ctx, tx, record, record.OrganiserID, event); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: append(Insiders(off.Participants), record.OrganiserID), Topic: schedule.AboutMeeting, ID: id})
}
