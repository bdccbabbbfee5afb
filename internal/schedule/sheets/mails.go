package sheets

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

type mailsTx interface {
	AddOutsideMails(ctx context.Context, personID uuid.UUID, hour time.Time, count int) error
	OutsideMails(ctx context.Context, personID uuid.UUID, sinceHour, sinceDay time.Time) (lastHour, lastDay int, err error)
}

// mailFault says that sending would cause more mails to people outside than one
// person can cause, nil when it would not.
func (s *Deeds) mailFault(ctx context.Context, tx mailsTx, st meetings.Settled) (*meeting.Fault, error) {
	mails := outsideMails(st)
	if mails == 0 || s.Mails == (schedule.MailLimits{}) {
		return nil, nil
	}
	hour := s.Now().Truncate(time.Hour)
	lastHour, lastDay, err := tx.OutsideMails(ctx, st.Organiser.ID, hour.Add(-time.Second), s.Now().Add(-24*time.Hour))
	if err != nil {
		return nil, err
	}
	over := func(used, most int, perHour bool) *meeting.Fault {
		if most == 0 || used+mails <= most {
			return nil
		}
		return &meeting.Fault{Field: "people", Sentence: words.MailsLimit(mails, used, most, perHour)}
	}
	if fault := over(lastHour, s.Mails.PerHour, true); fault != nil {
		return fault, nil
	}
	return over(lastDay, s.Mails.PerDay, false), nil
}

func outsideMails(st meetings.Settled) (n int) {
	for _, d := range append(st.Due, st.DueNext...) {
		if d.To.Outside() {
			n++
		}
	}
	return n
}
