package sheets

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/meetings"
)

// guestsTx is what is needed here of a transaction.
type guestsTx interface {
	proposalsTx
	Joined(ctx context.Context, meetingID uuid.UUID, since time.Time) (int, error)
	LockInvited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
}

func (s *Deeds) guestsStore() schedule.Store[guestsTx] {
	return schedule.Narrow(s.Store, func(tx Tx) guestsTx { return tx })
}

// Brings is somebody whom one of those invited brings along.
type Brings struct {
	Name, Email string
	Language    string // that they seem to read, "" where nobody knows
}

// BringAsGuest has who a token is for bring somebody along; it fails as Bring does.
func (s *Deeds) BringAsGuest(ctx context.Context, token string, b Brings) error {
	i, err := s.Meetings.GuestOf(ctx, token)
	if err != nil {
		return err
	}
	return s.bring(ctx, i.ID, b)
}

// Bring has a colleague who is invited bring somebody along, to the dates that they are invited to
// themselves. It fails with an *InvalidError where the meeting does not let them.
func (s *Deeds) Bring(ctx context.Context, who schedule.Actor, id uuid.UUID, b Brings) error {
	d, err := s.Meetings.Meeting(ctx, who, id)
	if err != nil {
		return err
	}
	if d.Me == nil {
		return schedule.Invalid("email", say.It("bring.organiser"))
	}
	return s.bring(ctx, d.Me.ID, b)
}

func (s *Deeds) bring(ctx context.Context, invited uuid.UUID, b Brings) error {
	email, err := meeting.ParseEmail(b.Email)
	if err != nil {
		return schedule.Unread("email", err)
	}
	return s.guestsStore().InTx(ctx, func(tx guestsTx) error {
		record, by, err := meetings.LockInvited(ctx, tx, invited)
		if err != nil {
			return err
		}
		if fault := record.Content.BringFault(by.ID.String(), email); fault != nil {
			return schedule.Invalid(fault.Field, fault.What)
		}
		if record.Content.Invites(email) {
			return nil // those invited are kept apart: that they are is not told
		}
		return s.changeNow(ctx, tx, record, Opening{}, &by, func(d *meeting.Draft) error {
			at := slices.IndexFunc(d.People, func(p meeting.DraftPerson) bool { return strings.EqualFold(p.Email, by.Email) })
			if at < 0 {
				return schedule.Invalid("email", say.It("bring.over"))
			}
			d.People = append(slices.Clone(d.People), meeting.DraftPerson{Name: b.Name, Email: email, BroughtBy: by.Email, Dates: d.People[at].Dates})
			return nil
		})
	})
}

// mostJoined is how many are invited by themselves to one meeting in an hour: nobody is to fill other
// people's mailboxes with it, nor use up what its organiser may send.
const mostJoined = 30

// Join invites who asks for it at a short address: they answer in the mail that comes to the address
// they give, so that nobody answers for somebody else. Whoever is invited already is left as they
// are, and nobody learns it. It fails with ErrNotFound, and with an *InvalidError for an address
// that cannot be invited.
func (s *Deeds) Join(ctx context.Context, code string, b Brings) error {
	email, err := meeting.ParseEmail(b.Email)
	if err != nil {
		return schedule.Unread("email", err)
	}
	v, err := s.Meetings.ByAddress(ctx, code)
	if err == nil && !v.Asks {
		err = schedule.ErrNotFound
	}
	if err != nil {
		return err
	}
	return s.guestsStore().InTx(ctx, func(tx guestsTx) error {
		record, err := kernel.Organised(ctx, tx, schedule.Self(v.OrganiserID), v.ID)
		if err != nil {
			return err
		}
		m := record.Content
		if strings.EqualFold(m.Organiser.Email, email) || m.Invites(email) {
			return nil
		}
		joined, err := tx.Joined(ctx, record.ID, s.Now().Add(-time.Hour))
		if err == nil && joined >= mostJoined {
			err = schedule.Invalid("email", say.It("join.many", say.Person(m.Organiser.Name)))
		}
		if err != nil {
			return err
		}
		known, err := tx.Languages(ctx, []string{email})
		if err != nil {
			return err
		}
		if known[strings.ToLower(email)].Language != "" { // whoever asks in their name changes nothing about it
			b.Language = ""
		}
		by := schedule.Invited{Name: cmp.Or(meeting.OneLine(b.Name), email)}
		err = s.changeNow(ctx, tx, record, Opening{}, &by, func(d *meeting.Draft) error {
			d.People = append(slices.Clone(d.People), meeting.DraftPerson{Name: b.Name, Email: email, Language: b.Language})
			return nil
		})
		var invalid *schedule.InvalidError
		if errors.As(err, &invalid) { // it is nothing that they can mend
			return schedule.Invalid("email", say.It("join.none", say.Person(m.Organiser.Name)))
		}
		return err
	})
}

// Propose takes another time that a colleague proposes, and moves the meeting to it where they may.
func (s *Deeds) Propose(ctx context.Context, who schedule.Actor, id uuid.UUID, p meetings.Proposing) error {
	since := s.Now()
	if err := s.Meetings.Propose(ctx, who, id, p); err != nil {
		return err
	}
	return s.ByRight(ctx, id, since)
}

// ProposeAsGuest is the same of a guest.
func (s *Deeds) ProposeAsGuest(ctx context.Context, token string, p meetings.Proposing) error {
	since := s.Now()
	by, err := s.Meetings.GuestPropose(ctx, token, p)
	if err != nil {
		return err
	}
	return s.ByRight(ctx, by.MeetingID, since)
}

// ByRight does what those invited asked for and may do by themselves: since a moment, as to times that
// were proposed. What cannot be done waits for the organiser.
func (s *Deeds) ByRight(ctx context.Context, id uuid.UUID, since time.Time) error {
	var record schedule.Record
	var delegating []uuid.UUID
	err := s.guestsStore().Look(ctx, func(tx guestsTx) (err error) {
		record, err = tx.Meeting(ctx, id)
		if err == nil && record.CalledOffAt == nil && record.Content.Bring {
			delegating, err = delegatingLetters(ctx, tx, id)
		}
		return err
	})
	if err != nil || record.CalledOffAt != nil {
		return unlessWaits(err)
	}
	organiser := schedule.Self(record.OrganiserID)
	for _, letter := range delegating {
		if err := unlessWaits(s.InviteDelegate(ctx, organiser, id, letter)); err != nil {
			return err
		}
	}
	if !record.Content.Move {
		return nil
	}
	return s.moveSince(ctx, organiser, record, since)
}

// moveSince moves a meeting, or one date of a series, to a time that was proposed since a moment,
// where nobody needed is known to be busy then and its room can be had. About all dates of a series
// the organiser decides.
func (s *Deeds) moveSince(ctx context.Context, organiser schedule.Actor, record schedule.Record, since time.Time) error {
	all, err := s.Proposals(ctx, organiser, record.ID)
	if err != nil {
		return unlessWaits(err)
	}
	for _, p := range all {
		if p.ArrivedAt.Before(since) || p.On == 0 && record.Content.Repeats() || !p.Clear() {
			continue
		}
		if err := unlessWaits(s.take(ctx, organiser, record.ID, p.ID, uuid.Nil, &p.By)); err != nil {
			return err
		}
	}
	return nil
}

// delegatingLetters are open mails in which somebody sends another one in their place.
func delegatingLetters(ctx context.Context, tx proposalsTx, id uuid.UUID) (out []uuid.UUID, err error) {
	all, err := tx.LettersIn(ctx, id, 50)
	for _, l := range all {
		if l.State == schedule.LetterOpen && slices.ContainsFunc(l.Answers, func(a schedule.AnswerIn) bool { return a.Verdict == meeting.Delegates }) {
			out = append(out, l.ID)
		}
	}
	return out, err
}

// unlessWaits is an error but for those for which something only waits for the organiser.
func unlessWaits(err error) error {
	var invalid *schedule.InvalidError
	var taken *schedule.TakenError
	var changed *schedule.VersionError
	if errors.As(err, &invalid) || errors.As(err, &taken) || errors.As(err, &changed) || errors.Is(err, schedule.ErrNotFound) {
		return nil
	}
	return err
}
