package schedule

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
)

// ErrNotYours: an answer that came to the reply address of somebody else, or is
// about another meeting.
var ErrNotYours = errors.New("the answer does not belong to this invitation")

// ReplyTo is whose answers an address takes; it fails with ErrNotFound.
func (s *Service) ReplyTo(address string) (uuid.UUID, error) {
	return s.Seal.ReplyTo(address, s.House.MailDomain)
}

// TakeMailReply takes an answer that came by mail to the reply address of
// invited. It has to be about their meeting and from their address.
func (s *Service) TakeMailReply(ctx context.Context, invited uuid.UUID, uid, attendee string, r meeting.Reply) error {
	err := s.Store.Look(ctx, func(tx Tx) error {
		i, err := tx.Invited(ctx, invited)
		if err != nil {
			return err
		}
		record, err := tx.Meeting(ctx, i.MeetingID)
		if err != nil {
			return err
		}
		if record.Content.UID != uid || !strings.EqualFold(i.Email, attendee) {
			return fmt.Errorf("%w: %s from %s", ErrNotYours, uid, attendee)
		}
		return nil
	})
	if err != nil {
		return err
	}
	_, err = s.TakeReply(ctx, invited, r, ViaMail)
	return err
}
