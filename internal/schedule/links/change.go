package links

import (
	"context"
	"errors"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

type changeTx interface {
	schedule.HappenTx
	Happenings(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.Happening, error)
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

// ChangeCall does at the provider what a change of a meeting asks for: the call
// moves to the time and title of the newest version, whatever they are by now,
// or is withdrawn. It can run again without harm. Where the sign-in at the
// provider is over the organiser is told in the history, and it fails with
// ErrUnreachable: somebody who signs in again mends it.
func (s *Deeds) ChangeCall(ctx context.Context, c schedule.CallChange) error {
	p, known := s.Providers[c.Card.Provider]
	if !known {
		return schedule.ErrNotFound
	}
	keys := s.keyring(c.PersonID, c.Card.Provider)
	if c.Withdraw {
		if w, can := p.(CallWithdrawer); can {
			return w.Withdraw(ctx, keys, c.Card)
		}
		return nil
	}
	m, can := p.(CallMover)
	if !can {
		return nil
	}
	var record schedule.Record
	err := s.Store.Look(ctx, func(tx Tx) (err error) {
		record, err = tx.Meeting(ctx, c.MeetingID)
		return err
	})
	if err != nil || record.CalledOffAt != nil {
		return err
	}
	span := record.Content.Span()
	err = m.Move(ctx, keys, c.Card, Call{Topic: record.Content.Title, Start: span.Start.Time(), End: span.End.Time()})
	if !errors.Is(err, schedule.ErrConnect) {
		return err
	}
	told := s.Store.InTx(ctx, func(tx Tx) error { return s.sayLinkStays(ctx, tx, c, p.Name()) })
	return errors.Join(schedule.ErrUnreachable, told)
}

// sayLinkStays notes once a change that the call does not follow.
func (s *Deeds) sayLinkStays(ctx context.Context, tx changeTx, c schedule.CallChange, provider string) error {
	record, err := tx.LockMeeting(ctx, c.MeetingID)
	if err != nil {
		return err
	}
	latest, err := tx.Happenings(ctx, record.ID, 20)
	if err != nil {
		return err
	}
	changed := slices.IndexFunc(latest, func(h schedule.Happening) bool { return h.Kind == meeting.EventChanged || h.Kind == meeting.EventSent })
	said := slices.IndexFunc(latest, func(h schedule.Happening) bool { return h.Kind == meeting.EventLinkStays })
	if said >= 0 && (changed < 0 || said < changed) {
		return nil
	}
	stays := meeting.Event{Kind: meeting.EventLinkStays, Name: provider}
	if err := s.Happened(ctx, tx, record, uuid.Nil, stays); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: record.ID})
}
