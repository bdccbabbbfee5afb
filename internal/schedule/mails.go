package schedule

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
)

// MailsTx is what counting mails needs of a transaction.
type MailsTx interface {
	AddOutsideMails(ctx context.Context, personID uuid.UUID, hour time.Time, count int) error
	OutsideMails(ctx context.Context, personID uuid.UUID, sinceHour, sinceDay time.Time) (lastHour, lastDay int, err error)
}

// MailFault says that so many mails to people outside would be more than one person can cause,
// nil when they would not.
func (s Setting) MailFault(ctx context.Context, tx MailsTx, person uuid.UUID, mails int) (*meeting.Fault, error) {
	if mails == 0 || s.Mails == (MailLimits{}) {
		return nil, nil
	}
	hour := s.Now().Truncate(time.Hour)
	lastHour, lastDay, err := tx.OutsideMails(ctx, person, hour.Add(-time.Second), s.Now().Add(-24*time.Hour))
	if err != nil {
		return nil, err
	}
	over := func(used, most int, perHour bool) *meeting.Fault {
		if most == 0 || used+mails <= most {
			return nil
		}
		code := say.Code("mails.day")
		if perHour {
			code = "mails.hour"
		}
		return &meeting.Fault{Field: "people", What: say.It(code, say.Count{N: mails, Of: "mail"}, used, most)}
	}
	if fault := over(lastHour, s.Mails.PerHour, true); fault != nil {
		return fault, nil
	}
	return over(lastDay, s.Mails.PerDay, false), nil
}

// CountMails counts mails to people outside that somebody causes.
func (s Setting) CountMails(ctx context.Context, tx MailsTx, person uuid.UUID, mails int) error {
	if mails == 0 {
		return nil
	}
	return tx.AddOutsideMails(ctx, person, s.Now().Truncate(time.Hour), mails)
}
