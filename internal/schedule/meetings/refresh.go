package meetings

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// refreshTx is what is needed here of a transaction.
type refreshTx interface {
	kernel.In
	AddHappenings(ctx context.Context, meetingID uuid.UUID, all []schedule.Happening) error
	MailsSince(ctx context.Context, participant uuid.UUID, since time.Time) (int, error)
}

// refreshesAnHour is how many mails within the hour somebody can have had and still be answered
// by one more: two programs that ask each other come to an end.
const refreshesAnHour = 3

// refresh tells somebody whose program asks how the meeting stands now, and nobody else (REFRESH:
// RFC 5546, 3.2.6).
func (s *Deeds) refresh(ctx context.Context, tx refreshTx, record schedule.Record, i schedule.Invited) error {
	p, is := record.Content.Participant(i.ID.String())
	mails, err := tx.MailsSince(ctx, i.ID, s.Now().Add(-time.Hour))
	if err != nil || !is || i.PersonID != nil || mails >= refreshesAnHour {
		return err
	}
	if err := s.Kernel.TellOne(ctx, tx, record, i, meeting.Message{To: p, Kind: meeting.Invite},
		tongue.In(p.Language).Say("sends you this meeting as it stands, for your calendar program asked")); err != nil {
		return err
	}
	return tx.AddHappenings(ctx, record.ID, []schedule.Happening{{At: s.Now(), Event: meeting.Event{Kind: meeting.EventRefreshed, Name: i.Name}}})
}
