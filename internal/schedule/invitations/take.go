package invitations

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/meetings"
)

// mostAsked is how many people inside one mail to the house can invite.
const mostAsked = 50

// TakeMail takes a mail to the address of somebody inside, or to that of the house, which invites
// those whom it names. It fails with ErrNotFound where it is no invitation to anybody here.
func (s *Deeds) TakeMail(ctx context.Context, box schedule.Mailbox, m meetings.Mail) error {
	if m.Auto != "" || m.Returned {
		return nil
	}
	taken := false
	for _, message := range m.Invitations {
		message.From = m.FromEmail
		people := []uuid.UUID{box.Person}
		if box.Person == uuid.Nil {
			var err error
			if people, err = s.named(ctx, message); err != nil {
				return err
			}
		}
		for _, id := range people {
			if err := s.take(ctx, id, message); err != nil {
				return err
			}
			taken = true
		}
	}
	if !taken {
		return schedule.ErrNotFound
	}
	return nil
}

// named are the people inside whom a message invites by their addresses.
func (s *Deeds) named(ctx context.Context, m invited.Message) (out []uuid.UUID, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		for _, email := range m.Attendees[:min(len(m.Attendees), mostAsked)] {
			p, err := tx.PersonByEmail(ctx, email)
			if errors.Is(err, schedule.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
			out = append(out, p.ID)
		}
		return nil
	})
	return out, err
}

// take takes what one message says to somebody.
func (s *Deeds) take(ctx context.Context, person uuid.UUID, m invited.Message) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		if err := tx.LockPerson(ctx, person); err != nil {
			return err
		}
		p, err := directory.Person(ctx, tx, person)
		if err != nil || p.Left {
			return err
		}
		if _, err := tx.MeetingByUID(ctx, m.UID); err == nil { // one of ours, passed on
			return nil
		} else if !errors.Is(err, schedule.ErrNotFound) {
			return err
		}
		i, err := tx.InvitationOf(ctx, person, m.UID)
		if errors.Is(err, schedule.ErrNotFound) {
			i = schedule.Invitation{ID: uuid.New(), PersonID: person, UID: m.UID, Answer: meeting.NoAnswer, ArrivedAt: s.Now()}
		} else if err != nil {
			return err
		}
		return s.follow(ctx, tx, i, p, m, false)
	})
}

// follow brings an invitation to what a message says, or keeps that it waits to be believed.
func (s *Deeds) follow(ctx context.Context, tx Tx, i schedule.Invitation, p schedule.Person, m invited.Message, believe bool) error {
	after, verdict, moved := i.State.After(m, believe)
	switch verdict {
	case invited.Taken:
		i.State, i.Waiting = after, nil
	case invited.NotTheirs:
		i.Waiting = &m
	default:
		return nil
	}
	told := s.Format.InvitationWords(i.State, s.addresses(p)...)
	i.Title, i.Organiser = cut(told.Title, 300), i.State.Organiser
	if m.OrganiserName != "" && verdict == invited.Taken {
		i.OrganiserName = cut(meeting.OneLine(m.OrganiserName), 200)
	}
	if i.Attendee = told.Own; i.Attendee == "" { // invited by a list
		i.Attendee = p.Email
	}
	if moved { // what was said to the old time holds no more
		i.Answer, i.Comment, i.AnsweredAt, i.Reply, i.ReplyDetail, i.Answers, i.Replying = meeting.NoAnswer, "", nil, "", "", nil, nil
	}
	i.Version++
	i.ChangedAt = s.Now()
	if err := s.write(ctx, tx, i, p); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{p.ID}, Topic: schedule.AboutInvitation, ID: i.ID})
}

func cut(text string, most int) string {
	if runes := []rune(strings.TrimSpace(text)); len(runes) > most {
		return string(runes[:most-1]) + "…"
	}
	return text
}
