package schedule

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
)

// GuestView is a meeting as somebody invited sees it without an account.
type GuestView struct {
	Record
	Guest Invited
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
		v.Record, err = tx.Meeting(ctx, v.Guest.MeetingID)
		return err
	})
	return v, err
}

// GuestAnswer takes the answer of a guest to a meeting at the version they saw.
func (s *Service) GuestAnswer(ctx context.Context, token string, seen int, answer meeting.Answer, comment string) error {
	id, err := s.Seal.Guest(token)
	if err != nil {
		return err
	}
	return s.answerSeen(ctx, id, seen, answer, comment, ViaPage)
}

// GuestFile is the meeting as a calendar file that keeps itself recognisable:
// what the guest's newest message holds.
func (s *Service) GuestFile(ctx context.Context, token string) ([]byte, error) {
	v, err := s.Guest(ctx, token)
	if err != nil {
		return nil, err
	}
	return s.file(v.Record, v.Guest)
}

// MeetingFile is the same for a colleague invited, or for the organiser.
func (s *Service) MeetingFile(ctx context.Context, me, id uuid.UUID) ([]byte, error) {
	d, err := s.Meeting(ctx, me, id)
	if err != nil {
		return nil, err
	}
	if d.Me != nil {
		return s.file(d.Record, *d.Me)
	}
	return s.file(d.Record, Invited{Name: d.Content.Organiser.Name, Email: d.Content.Organiser.Email})
}

func (s *Service) file(record Record, reader Invited) ([]byte, error) {
	kind := meeting.Invite
	if record.CalledOffAt != nil {
		kind = meeting.CallOff
	}
	rendered, err := s.Post.Render(Letter{Kind: kind, Meeting: record.Content, Stamp: record.Stamp, House: s.House,
		To:     meeting.Participant{ID: reader.ID.String(), Party: reader.Party(), Needed: reader.Needed},
		Answer: reader.Answer, GuestURL: s.guestURL(reader.ID),
		ReplyTo: s.Seal.ReplyAddress(reader.ID, s.House.MailDomain)})
	return rendered.Calendar, err
}
