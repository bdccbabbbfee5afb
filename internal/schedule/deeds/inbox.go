package deeds

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// Inbox takes the mail that comes in.
type Inbox struct{ *Deeds }

// Mailbox is what an address of the mail domain stands for; it fails with ErrNotFound for one
// that never was ours.
func (i Inbox) Mailbox(address string) (schedule.Mailbox, error) { return i.Meetings.Mailbox(address) }

// TakeMail takes one mail: what it reports of a message that went out, and the answers and words
// in it. It fails with ErrNotFound where nobody can tell what it is about.
func (i Inbox) TakeMail(ctx context.Context, box schedule.Mailbox, m meetings.Mail) error {
	if box.House || box.Person != uuid.Nil {
		return i.Invitations.TakeMail(ctx, box, m)
	}
	about := box.Dispatch != uuid.Nil
	if about || box.Participant != uuid.Nil && m.Auto != "" {
		to, err := i.Dispatch.TakeReports(ctx, box, m.Reports)
		if err != nil {
			return err
		}
		box.Participant = to
	}
	if about && m.Auto != "" && len(m.Replies) == 0 {
		return nil
	}
	since := i.Now()
	err := i.Meetings.TakeMail(ctx, box, m)
	if about && errors.Is(err, schedule.ErrNotFound) { // the report was taken, if there was any
		return nil
	}
	if err == nil && box.Meeting != uuid.Nil {
		// What those invited may do by themselves is done by mail as well.
		err = i.Sheets.ByRight(ctx, box.Meeting, since)
	}
	return err
}
