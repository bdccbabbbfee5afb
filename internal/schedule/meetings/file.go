package meetings

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// GuestFile is the meeting as a calendar file that keeps itself recognisable:
// what the guest's newest message holds.
func (s *Deeds) GuestFile(ctx context.Context, token string) ([]byte, error) {
	v, err := s.Guest(ctx, token)
	if err != nil {
		return nil, err
	}
	return s.file(v.Record, v.Guest, v.Answers, s.GuestURL(v.Guest.ID))
}

// MeetingFile is the same for a colleague invited, or for the organiser.
func (s *Deeds) MeetingFile(ctx context.Context, who schedule.Actor, id uuid.UUID) ([]byte, error) {
	d, err := s.Meeting(ctx, who, id)
	if err != nil {
		return nil, err
	}
	// A page that asks who is there: the file may be handed on.
	page := s.House.BaseURL + "/meeting/" + id.String()
	if d.Me != nil {
		return s.file(d.Record, *d.Me, d.AnswersOf(d.Me.ID), page)
	}
	return s.file(d.Record, schedule.Invited{Name: d.Content.Organiser.Name, Email: d.Content.Organiser.Email}, nil, page)
}

func (s *Deeds) file(record schedule.Record, reader schedule.Invited, answers []schedule.AnswerOn, page string) ([]byte, error) {
	kind := meeting.Invite
	if record.CalledOffAt != nil {
		kind = meeting.CallOff
	}
	rendered, err := s.Post.Render(schedule.Letter{Kind: kind, Meeting: record.Content, Stamp: record.Stamp, House: s.House,
		To: schedule.Recipient(reader, record.Content), Answer: reader.Answer, Answers: schedule.AnswersByDay(answers), GuestURL: page,
		ReplyTo: s.Seal.ReplyAddress(reader.ID, s.House.MailDomain)})
	return rendered.Calendar, err
}
