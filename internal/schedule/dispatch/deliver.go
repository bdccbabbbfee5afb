package dispatch

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/schedule"
)

// deliverTx is what is needed here of a transaction.
type deliverTx interface {
	letterTx
	Dispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error)
}

func (s *Deeds) deliverStore() schedule.Store[deliverTx] {
	return schedule.Narrow(s.Store, func(tx Tx) deliverTx { return tx })
}

// ErrEarlier: an earlier message to the same person has not gone out yet, and
// this one must not overtake it.
var ErrEarlier = errors.New("an earlier message goes first")

// Patience is how long a message is tried before it ends as failed.
const Patience = 48 * time.Hour

// Deliver hands one message over. A message that was handed over already is
// left alone; one that is handed over twice because the news of it got lost has
// the same Message-ID both times. What trying again does not mend, and what was
// tried for longer than Patience, is kept as failed and returned as a
// *RefusedError.
func (s *Deeds) Deliver(ctx context.Context, id uuid.UUID) error {
	letter, d, err := s.letter(ctx, id)
	if err != nil || d.State != schedule.Queued {
		return err
	}
	takenBy, err := s.Post.Send(ctx, letter)
	// What became of it is kept even where the program is being stopped.
	keep, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	var refused *schedule.RefusedError
	if err != nil && !errors.As(err, &refused) {
		if s.Now().Sub(d.QueuedAt) < Patience {
			return errors.Join(err, s.settle(keep, id, schedule.Queued, err.Error()))
		}
		refused = &schedule.RefusedError{Reason: fmt.Sprintf("given up after %d hours: %s", int(Patience.Hours()), err)}
		err = refused
	}
	if refused != nil {
		return errors.Join(err, s.settle(keep, id, schedule.Failed, refused.Reason))
	}
	return s.settle(keep, id, schedule.Handed, takenBy)
}

// letter writes a message from what was settled when it was queued.
func (s *Deeds) letter(ctx context.Context, id uuid.UUID) (letter schedule.Letter, d schedule.Dispatch, err error) {
	err = s.deliverStore().Look(ctx, func(tx deliverTx) error {
		if d, err = tx.Dispatch(ctx, id); err != nil || d.State != schedule.Queued {
			return err
		}
		if letter, err = s.write(ctx, tx, d); err != nil {
			return err
		}
		letter.Enclosed, err = enclosed(ctx, tx, letter, d)
		return err
	})
	return letter, d, err
}

// letterTx is what is needed of a transaction to write a letter.
type letterTx interface {
	EarlierMails(ctx context.Context, than schedule.Dispatch) ([]schedule.Dispatch, error)
	FileContents(ctx context.Context, all []attachment.File) ([]schedule.File, error)
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	Languages(ctx context.Context, emails []string) (map[string]schedule.ReaderLanguage, error)
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error)
}

func (s *Deeds) write(ctx context.Context, tx letterTx, d schedule.Dispatch) (letter schedule.Letter, err error) {
	record, err := tx.MeetingAt(ctx, d.MeetingID, d.Version)
	if err != nil {
		return letter, err
	}
	to, err := tx.Invited(ctx, d.ParticipantID)
	if err != nil {
		return letter, err
	}
	earlier, err := tx.EarlierMails(ctx, d)
	if err != nil {
		return letter, err
	}
	id := to.ID.String()
	reader, stays := record.Content.Participant(id)
	letter = schedule.Letter{DispatchID: d.ID, Kind: d.Kind, On: d.On, IDs: d.IDs, Meeting: record.Content.SeenBy(id), Stamp: d.Stamp,
		OffAll: record.CalledOffAt != nil, Said: d.Said, House: s.House, GuestURL: s.GuestURL(to),
		Address: s.Seal.MeetingAddress(d.MeetingID, s.House.MailDomain), ReturnTo: s.Seal.ReturnAddress(d.ID, s.House.MailDomain), MessageID: s.MessageID(d.ID)}
	if d.Version > 1 && (d.Kind == meeting.CallOff || d.Kind == meeting.Clear) {
		before, err := tx.MeetingAt(ctx, d.MeetingID, d.Version-1)
		if err != nil {
			return letter, err
		}
		seen := before.Content.SeenBy(id)
		letter.Before = &seen
		if !stays {
			reader, stays = before.Content.Participant(id)
		}
	}
	if letter.To = reader; !stays {
		letter.To = meeting.Participant{Party: to.Party(), ID: id, Needed: to.Needed}
	}
	if known, err := tx.Languages(ctx, []string{to.Email}); err != nil {
		return letter, err
	} else if l := known[strings.ToLower(to.Email)]; l.Own {
		letter.To.Language = l.Language
	}
	answersNow(&letter, to)
	readAt(&letter, cmp.Or(d.Address, to.Address()))
	for _, e := range earlier {
		switch {
		case e.State == schedule.Queued && s.Now().Sub(e.QueuedAt) < Patience+time.Hour:
			return letter, ErrEarlier
		case e.State == schedule.Handed:
			letter.Earlier = append(letter.Earlier, s.MessageID(e.ID))
		}
	}
	return letter, nil
}

// enclosed are the files that go in a message itself: those that are new to its reader, where they
// are not too large for that. What is sent again, perhaps because it was too large, has links alone.
func enclosed(ctx context.Context, tx letterTx, l schedule.Letter, d schedule.Dispatch) ([]schedule.File, error) {
	files := l.Meeting.Files
	switch {
	case d.Kind == meeting.Update && d.Version > 1:
		before, err := tx.MeetingAt(ctx, d.MeetingID, d.Version-1)
		if err != nil {
			return nil, err
		}
		files = attachment.Beyond(before.Content.Files, files)
	case d.Kind != meeting.Invite || len(l.Earlier) > 0:
		return nil, nil
	}
	if len(files) == 0 || !attachment.InMail(files) {
		return nil, nil
	}
	return tx.FileContents(ctx, files)
}

// answersNow has a letter say what its reader answers as it is written: what they said since the
// meeting was settled is not asked again.
func answersNow(l *schedule.Letter, to schedule.Invited) {
	if to.Answer == meeting.NoAnswer || to.AnswerSequence < l.Meeting.Sequence {
		return
	}
	l.Meeting.Participants = slices.Clone(l.Meeting.Participants)
	for i := range l.Meeting.Participants {
		if p := &l.Meeting.Participants[i]; p.ID == l.To.ID {
			p.Answer, l.To.Answer = to.Answer, to.Answer
		}
	}
}

// readAt has a letter go to an address, at which its reader is invited as well: their calendar
// program looks for that (RFC 5546, 3.2.2).
func readAt(l *schedule.Letter, email string) {
	if strings.EqualFold(l.To.Email, email) {
		return
	}
	l.To.Email = email
	l.Meeting = invitedAt(l.Meeting, l.To.ID, email)
	if l.Before != nil {
		before := invitedAt(*l.Before, l.To.ID, email)
		l.Before = &before
	}
}

func invitedAt(m meeting.Meeting, id, email string) meeting.Meeting {
	m.Participants = slices.Clone(m.Participants)
	for i := range m.Participants {
		if p := &m.Participants[i]; p.ID == id {
			if p.Name == p.Email { // nobody knows what they are called
				p.Name = email
			}
			p.Email = email
		}
	}
	return m
}

// settleTx is what is needed here of a transaction.
type settleTx interface {
	keepTx
	QueuedBefore(ctx context.Context, at time.Time) ([]uuid.UUID, error)
}

// keepTx is what is needed of a transaction to keep what became of a message.
type keepTx interface {
	schedule.HappenTx
	AddDispatchEvents(ctx context.Context, id uuid.UUID, all []reach.Event) error
	Dispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error)
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LockDispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error)
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	SetDispatch(ctx context.Context, d schedule.Dispatch) error
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) settleStore() schedule.Store[settleTx] {
	return schedule.Narrow(s.Store, func(tx Tx) settleTx { return tx })
}

// GiveUp ends a message that will not be tried again.
func (s *Deeds) GiveUp(ctx context.Context, id uuid.UUID, why string) error {
	return s.settle(ctx, id, schedule.Failed, why)
}

// Sweep ends messages that wait for longer than they are tried, because the work on
// them got lost: nothing stays on its way for ever.
func (s *Deeds) Sweep(ctx context.Context) error {
	var lost []uuid.UUID
	err := s.settleStore().Look(ctx, func(tx settleTx) (err error) {
		lost, err = tx.QueuedBefore(ctx, s.Now().Add(-Patience-time.Hour))
		return err
	})
	for _, id := range lost {
		err = errors.Join(err, s.GiveUp(ctx, id, fmt.Sprintf("given up after %d hours", int(Patience.Hours()))))
	}
	return err
}

// settle keeps what became of a message and tells the organiser.
func (s *Deeds) settle(ctx context.Context, id uuid.UUID, state schedule.State, detail string) error {
	return s.settleStore().InTx(ctx, func(tx settleTx) error { return s.keep(ctx, tx, id, state, detail) })
}

func (s *Deeds) keep(ctx context.Context, tx keepTx, id uuid.UUID, state schedule.State, detail string) error {
	// The meeting first, then its messages: everybody locks in this order.
	of, err := tx.Dispatch(ctx, id)
	if err != nil {
		return err
	}
	record, err := tx.LockMeeting(ctx, of.MeetingID)
	if err != nil {
		return err
	}
	d, err := tx.LockDispatch(ctx, id)
	if err != nil || d.State == state && d.Detail == detail {
		return err
	}
	reported := d.State == schedule.Handed && d.Detail == "" && state == schedule.Handed // which was faster than who took it
	if d.State != schedule.Queued && !reported {
		return nil
	}
	now := s.Now()
	e := reach.Event{At: now, Kind: reach.NotYet, Said: detail}
	switch d.State, d.Detail = state, detail; state {
	case schedule.Handed:
		d.HandedAt = &now
		e.Kind, e.Server, e.Said = reach.Handed, detail, ""
	case schedule.Failed:
		e.Kind, e.Code = reach.Refused, reach.FindCode(detail)
	}
	d.Progress = d.After(e)
	if err := tx.SetDispatch(ctx, d); err != nil {
		return err
	}
	if err := tx.AddDispatchEvents(ctx, d.ID, []reach.Event{e}); err != nil {
		return err
	}
	if state == schedule.Failed {
		to, err := tx.Invited(ctx, d.ParticipantID)
		if err != nil {
			return err
		}
		refused := meeting.Event{Kind: meeting.EventNotAccepted, Name: to.Name, Reason: detail}
		if err := s.Happened(ctx, tx, record, uuid.Nil, refused); err != nil {
			return err
		}
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: d.MeetingID})
}
