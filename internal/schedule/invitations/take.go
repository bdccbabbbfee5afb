package invitations

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
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
		all := []reader{{person: box.Person}}
		if box.Person == uuid.Nil {
			var err error
			if all, err = s.named(ctx, message); err != nil {
				return err
			}
		}
		for _, r := range all {
			if err := s.take(ctx, r, message); err != nil {
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

// reader is whom a message invites: somebody inside, or a room, for which its keeper answers.
type reader struct {
	person uuid.UUID
	room   *schedule.Room
}

// named are the people inside and the rooms that a message invites by their addresses. A room that
// nobody keeps is nobody's to give.
func (s *Deeds) named(ctx context.Context, m invited.Message) (out []reader, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		asked := m.Attendees[:min(len(m.Attendees), mostAsked)]
		rooms, err := tx.RoomsByEmail(ctx, asked)
		for _, r := range rooms {
			if len(r.KeptBy) > 0 {
				out = append(out, reader{person: r.KeptBy[0], room: &r})
			}
		}
		if err != nil {
			return err
		}
		for _, email := range asked {
			p, err := tx.PersonByEmail(ctx, email)
			if errors.Is(err, schedule.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
			out = append(out, reader{person: p.ID})
		}
		return nil
	})
	return out, err
}

// take takes what one message says to somebody, or of a room.
func (s *Deeds) take(ctx context.Context, r reader, m invited.Message) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		if err := tx.LockPerson(ctx, r.person); err != nil {
			return err
		}
		p, err := directory.Person(ctx, tx, r.person)
		if err != nil || p.Left {
			return err
		}
		if _, err := tx.MeetingByUID(ctx, m.UID); err == nil { // one of ours, passed on
			return nil
		} else if !errors.Is(err, schedule.ErrNotFound) {
			return err
		}
		find := func() (schedule.Invitation, error) { return tx.InvitationOf(ctx, r.person, m.UID) }
		var room *uuid.UUID
		if r.room != nil {
			room = &r.room.ID
			find = func() (schedule.Invitation, error) { return tx.InvitationOfRoom(ctx, *room, m.UID) }
		}
		i, err := find()
		if errors.Is(err, schedule.ErrNotFound) {
			i = schedule.Invitation{ID: uuid.New(), PersonID: r.person, RoomID: room, UID: m.UID, Answer: meeting.NoAnswer, ArrivedAt: s.Now()}
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
	room, err := roomOf(ctx, tx, i)
	if err != nil {
		return err
	}
	addresses := s.addresses(p)
	if room != nil {
		addresses = []string{room.Email}
	}
	told := s.Format.InvitationWords(i.State, addresses...)
	i.Title, i.Organiser = cut(told.Title, 300), i.State.Organiser
	if m.OrganiserName != "" && verdict == invited.Taken {
		i.OrganiserName = cut(meeting.OneLine(m.OrganiserName), 200)
	}
	if i.Attendee = told.Own; i.Attendee == "" { // invited by a list
		i.Attendee = addresses[0]
	}
	if moved { // what was said to the old time holds no more
		i.Answer, i.Comment, i.AnsweredAt, i.Reply, i.ReplyDetail, i.Answers, i.Replying = meeting.NoAnswer, "", nil, "", "", nil, nil
	}
	i.Version++
	i.ChangedAt = s.Now()
	if room != nil && !room.Rules.Outside && !i.State.Off && verdict == invited.Taken && i.Answer != meeting.Declined {
		// Its rules say no: who asks hears that at once, and again only for other times.
		i = i.Answering(0, meeting.Declined, words.NotForOutside(tongue.Tongue{}, room.Name))
		i.AnsweredAt, i.Reply, i.ReplyDetail = &i.ChangedAt, schedule.Queued, ""
		if err := tx.QueueReply(ctx, i.ID, i.Version); err != nil {
			return err
		}
	}
	if err := s.write(ctx, tx, i, p, false); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{p.ID}, Topic: schedule.AboutInvitation, ID: i.ID})
}

// roomOf is the room that an invitation asks for, nil where it asks somebody to come.
func roomOf(ctx context.Context, tx Tx, i schedule.Invitation) (*schedule.Room, error) {
	if i.RoomID == nil {
		return nil, nil
	}
	found, err := tx.RoomsByID(ctx, []uuid.UUID{*i.RoomID})
	if err == nil && len(found) == 0 {
		err = schedule.ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	return &found[0], nil
}

func cut(text string, most int) string {
	if runes := []rune(strings.TrimSpace(text)); len(runes) > most {
		return string(runes[:most-1]) + "…"
	}
	return text
}
