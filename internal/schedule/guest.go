package schedule

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// GuestView is a meeting as somebody invited sees it without an account.
type GuestView struct {
	Record
	Guest   Invited
	Answers []AnswerOn // the guest's own, to single dates
}

// Guest shows the meeting that a token is for; it fails with ErrNotFound when
// the token is none, or the guest is no longer invited and it was not called
// off either.
func (s *Service) Guest(ctx context.Context, token string) (v GuestView, err error) {
	id, err := s.Seal.Guest(token)
	if err != nil {
		return v, err
	}
	err = s.Store.Look(ctx, func(tx Tx) error {
		if v.Guest, err = tx.Invited(ctx, id); err != nil {
			return err
		}
		if v.Guest.RemovedAt != nil {
			return ErrNotFound
		}
		if v.Record, err = tx.Meeting(ctx, v.Guest.MeetingID); err != nil {
			return err
		}
		all, err := tx.AnswersOn(ctx, v.Record.ID)
		v.Answers = slices.DeleteFunc(all, func(a AnswerOn) bool { return a.ParticipantID != id })
		return err
	})
	return v, err
}

// GuestAnswer takes the answer of a guest.
func (s *Service) GuestAnswer(ctx context.Context, token string, g Given) error {
	id, err := s.Seal.Guest(token)
	if err != nil {
		return err
	}
	return s.answerSeen(ctx, id, g, ViaPage)
}

// GuestFile is the meeting as a calendar file that keeps itself recognisable:
// what the guest's newest message holds.
func (s *Service) GuestFile(ctx context.Context, token string) ([]byte, error) {
	v, err := s.Guest(ctx, token)
	if err != nil {
		return nil, err
	}
	return s.file(v.Record, v.Guest, v.Answers)
}

// MeetingFile is the same for a colleague invited, or for the organiser.
func (s *Service) MeetingFile(ctx context.Context, me, id uuid.UUID) ([]byte, error) {
	d, err := s.Meeting(ctx, me, id)
	if err != nil {
		return nil, err
	}
	if d.Me != nil {
		return s.file(d.Record, *d.Me, d.AnswersOf(d.Me.ID))
	}
	return s.file(d.Record, Invited{Name: d.Content.Organiser.Name, Email: d.Content.Organiser.Email}, nil)
}

func (s *Service) file(record Record, reader Invited, answers []AnswerOn) ([]byte, error) {
	kind := meeting.Invite
	if record.CalledOffAt != nil {
		kind = meeting.CallOff
	}
	rendered, err := s.Post.Render(Letter{Kind: kind, Meeting: record.Content, Stamp: record.Stamp, House: s.House,
		To: recipient(reader, record.Content), Answer: reader.Answer, Answers: answersByDay(answers), GuestURL: s.GuestURL(reader.ID),
		ReplyTo: s.Seal.ReplyAddress(reader.ID, s.House.MailDomain)})
	return rendered.Calendar, err
}

// participant is somebody invited as letters about a version of the meeting name
// them.
func recipient(i Invited, m meeting.Meeting) meeting.Participant {
	p := meeting.Participant{ID: i.ID.String(), Party: i.Party(), Needed: i.Needed}
	if in, ok := m.Participant(p.ID); ok {
		p.Dates, p.Single = in.Dates, in.Single
	}
	return p
}

// byDay are answers to single dates by their day.
func answersByDay(answers []AnswerOn) map[when.Day]meeting.Answer {
	out := map[when.Day]meeting.Answer{}
	for _, a := range answers {
		if a.Answer != "" {
			out[a.On] = a.Answer
		}
	}
	return out
}
