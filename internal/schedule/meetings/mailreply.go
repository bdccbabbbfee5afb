package meetings

import (
	"context"
	"errors"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// mailreplyTx is what is needed here of a transaction.
type mailreplyTx interface {
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
}

// ErrNotYours: an answer that came to the reply address of somebody else, or is
// about another meeting.
var ErrNotYours = errors.New("the answer does not belong to this invitation")

// ReplyTo is whose answers an address takes; it fails with ErrNotFound.
func (s *Deeds) ReplyTo(address string) (uuid.UUID, error) {
	return s.Seal.ReplyTo(address, s.House.MailDomain)
}

// MailReply is an answer as a mail brings it. Date is the RECURRENCE-ID: the
// time that the rule gives to the date that is answered, nil for all; its zone is
// empty for a time in no zone.
type MailReply struct {
	UID      string
	Attendee string
	Date     *DateID
	meeting.Reply
}

// DateID is a RECURRENCE-ID (RFC 5545, 3.8.4.4).
type DateID struct {
	Local when.Local
	Zone  string // IANA name, "UTC", or empty
}

// on is the day in the rule of a series, which is in zone.
func (d *DateID) on(zone when.Zone) when.Day {
	if d == nil {
		return 0
	}
	own, err := when.LoadZone(d.Zone)
	if err != nil {
		return d.Local.Day
	}
	return zone.LocalAt(when.Zoned{Local: d.Local, Zone: own}.Instant()).Day
}

// TakeMailReply takes an answer that came by mail to the reply address of
// invited. It has to be about their meeting and from their address.
func (s *Deeds) TakeMailReply(ctx context.Context, invited uuid.UUID, r MailReply) error {
	var on when.Day
	err := s.Store.Look(ctx, func(tx Tx) error {
		i, err := tx.Invited(ctx, invited)
		if err != nil {
			return err
		}
		record, err := tx.Meeting(ctx, i.MeetingID)
		if err != nil {
			return err
		}
		if record.Content.UID != r.UID || !strings.EqualFold(i.Email, r.Attendee) {
			return ErrNotYours
		}
		on = r.Date.on(record.Content.StartIn().Zone)
		return nil
	})
	if err != nil {
		return err
	}
	_, err = s.TakeReply(ctx, invited, on, r.Reply, schedule.ViaMail)
	return err
}
