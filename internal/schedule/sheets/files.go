package sheets

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
)

// filesTx is what is needed here of a transaction.
type filesTx interface {
	AddFile(ctx context.Context, f schedule.File, owner uuid.UUID, at time.Time) error
	KeepMeetingFiles(ctx context.Context, meetingID uuid.UUID, all []attachment.File) error
	SweepFiles(ctx context.Context, before time.Time) error
	UnsentSize(ctx context.Context, ownerID uuid.UUID) (int64, error)
}

func (s *Deeds) filesStore() schedule.Store[filesTx] {
	return schedule.Narrow(s.Store, func(tx Tx) filesTx { return tx })
}

// unsentLimit is how much somebody can add to sheets that are not sent, in octets.
const unsentLimit = 500 << 20

// AddFile takes a file that a sheet can name then. It fails with an *InvalidError for one that
// cannot go with a meeting.
func (s *Deeds) AddFile(ctx context.Context, who schedule.Actor, name string, content []byte) (attachment.File, error) {
	f, err := attachment.Look(name, content)
	if err != nil {
		return f, schedule.Unread("files", err)
	}
	f.ID = uuid.NewString()
	return f, s.filesStore().InTx(ctx, func(tx filesTx) error {
		unsent, err := tx.UnsentSize(ctx, who.For)
		if err == nil && unsent+int64(f.Size) > unsentLimit {
			err = schedule.Invalid("files", say.It("files.unsent", attachment.Size(unsentLimit)))
		}
		if err != nil {
			return err
		}
		return tx.AddFile(ctx, schedule.File{File: f, Content: content}, who.For, s.Now())
	})
}

// strayFor is how long a file is kept that no sheet names yet.
const strayFor = 24 * time.Hour

// SweepFiles drops files that nothing names.
func (s *Deeds) SweepFiles(ctx context.Context) error {
	return s.filesStore().InTx(ctx, func(tx filesTx) error { return tx.SweepFiles(ctx, s.Now().Add(-strayFor)) })
}
