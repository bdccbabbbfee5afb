package today

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// remindTx is what is needed here of a transaction.
type remindTx interface {
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	KeepReminded(ctx context.Context, d schedule.DueReminder) (first bool, err error)
	MailRemindersDue(ctx context.Context, now time.Time) ([]schedule.DueReminder, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	OwnReminders(ctx context.Context, participant uuid.UUID) ([]meeting.Reminder, error)
	QueueReminder(ctx context.Context, r schedule.ReminderMail, in time.Duration) error
	SweepReminded(ctx context.Context, before time.Time) error
}

func (s *Deeds) remindStore() schedule.Store[remindTx] {
	return schedule.Narrow(s.Store, func(tx Tx) remindTx { return tx })
}

// Remind has those be reminded by mail for whom it is time: each date once, in one transaction with
// the mails that it causes. Nobody is written to in their night unless the meeting is near; then
// the mail waits for the morning.
func (s *Deeds) Remind(ctx context.Context) error {
	now := s.Now()
	var due []schedule.DueReminder
	err := s.remindStore().Look(ctx, func(tx remindTx) (err error) {
		due, err = tx.MailRemindersDue(ctx, now)
		return err
	})
	for _, d := range due {
		if e := s.remindStore().InTx(ctx, func(tx remindTx) error { return s.remind(ctx, tx, d) }); e != nil {
			err = errors.Join(err, fmt.Errorf("reminders of %s: %w", d.MeetingID, e))
		}
	}
	if err != nil {
		return err
	}
	return s.remindStore().InTx(ctx, func(tx remindTx) error { return tx.SweepReminded(ctx, now.Add(-24*time.Hour)) })
}

func (s *Deeds) remind(ctx context.Context, tx remindTx, d schedule.DueReminder) error {
	first, err := tx.KeepReminded(ctx, d)
	if err != nil || !first || !loose.RemindDue(d.Start, d.Before, d.Settled, when.At(s.Now())) {
		return err
	}
	record, err := tx.Meeting(ctx, d.MeetingID)
	if err != nil {
		return err
	}
	mail := func(participant uuid.UUID, zone string) error {
		r := schedule.ReminderMail{MeetingID: d.MeetingID, Participant: participant, On: d.On, Start: d.Start, Before: d.Before, Own: d.Participant != uuid.Nil}
		return tx.QueueReminder(ctx, r, loose.RemindIn(d.Start, when.At(s.Now()), zoneOr(zone, record.Content.StartIn().Zone)))
	}
	everybody := record.Content.MailTo(d.Before)
	if d.Participant == uuid.Nil {
		if err := mail(uuid.Nil, record.Content.Organiser.Zone); err != nil || !everybody {
			return err
		}
	} else if everybody {
		return nil // they get that of the meeting
	}
	coming, err := comingTo(ctx, tx, record, d.On)
	for _, i := range coming {
		if err == nil && (d.Participant == uuid.Nil || d.Participant == i.ID) {
			err = mail(i.ID, i.Zone)
		}
	}
	return err
}

func zoneOr(name string, other when.Zone) when.Zone {
	if z, err := when.LoadZone(name); err == nil {
		return z
	}
	return other
}

// comingTo are those invited to a date who did not decline, and send nobody else.
func comingTo(ctx context.Context, tx remindTx, record schedule.Record, on when.Day) (out []schedule.Invited, err error) {
	all, err := tx.AllInvited(ctx, record.ID)
	if err != nil {
		return nil, err
	}
	answers, err := tx.AnswersOn(ctx, record.ID)
	roll := schedule.RollOf(record.Content, all, answers)
	for _, i := range all {
		if roll.At(i.ID, on).Comes() {
			out = append(out, i)
		}
	}
	return out, err
}

// SendReminder reminds one person by mail. What moved, is called off or has begun meanwhile needs
// no reminder, nor does who is not invited any more. It fails as schedule.Post does.
func (s *Deeds) SendReminder(ctx context.Context, r schedule.ReminderMail) error {
	var letter schedule.Letter
	err := s.remindStore().Look(ctx, func(tx remindTx) error {
		record, err := tx.Meeting(ctx, r.MeetingID)
		if err != nil || record.CalledOffAt != nil || r.Start <= when.At(s.Now()) {
			return err
		}
		m := record.Content
		if d, is := m.Date(r.On); m.Repeats() && (!is || d.Span.Start != r.Start) || !m.Repeats() && m.Span().Start != r.Start {
			return nil
		}
		letter = schedule.Letter{Kind: meeting.Remind, Meeting: m, Stamp: s.Now(), House: s.House, Address: s.Seal.MeetingAddress(record.ID, s.House.MailDomain),
			MessageID: s.MessageID(uuid.NewSHA1(r.MeetingID, fmt.Appendf(nil, "%s %s %d %d", r.Participant, r.On, r.Start, r.Before)))}
		if m.Repeats() {
			letter.On = []when.Day{r.On}
		}
		if r.Participant == uuid.Nil {
			letter.Own, letter.To = true, meeting.Participant{Party: m.Organiser}
			return nil
		}
		coming, err := comingTo(ctx, tx, record, r.On)
		if err == nil && r.Own {
			var own []meeting.Reminder
			if own, err = tx.OwnReminders(ctx, r.Participant); !slices.Contains(own, meeting.Reminder{Before: r.Before, Own: true, Mail: true}) {
				coming = nil
			}
			letter.Wished = true
		}
		if err != nil {
			return err
		}
		to := meeting.Participant{}
		for _, i := range coming {
			if i.ID == r.Participant {
				letter.GuestURL = s.GuestURL(i)
				if to, _ = m.Participant(i.ID.String()); i.ReachAt != "" {
					to.Email = i.ReachAt
				}
			}
		}
		if letter.To, letter.Meeting = to, m.SeenBy(to.ID); to.ID == "" {
			letter = schedule.Letter{}
		}
		return nil
	})
	if err != nil || letter.MessageID == "" {
		return err
	}
	return s.Post.SendReminder(ctx, letter)
}
