package sheets

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// atOnceTx is what is needed here of a transaction.
type atOnceTx interface {
	kernel.Locking
	notBegunTx
	outTx
	settleTx
	typedTx
}

func (s *Deeds) atOnceStore() schedule.Store[atOnceTx] {
	return schedule.Narrow(s.Store, func(tx Tx) atOnceTx { return tx })
}

// ChangeAtOnce settles a change to a meeting at once: what a sheet would do in several steps.
// Where it cannot be, nothing of it stays. It fails with an *InvalidError where a change is begun
// already, and as Send does. The change may be altered more than once.
func (s *Deeds) ChangeAtOnce(ctx context.Context, who schedule.Actor, id uuid.UUID, o Opening, alter func(*meeting.Draft) error) error {
	return s.atOnceStore().InTx(ctx, func(tx atOnceTx) error {
		if err := notBegun(ctx, tx, who, id); err != nil {
			return err
		}
		record, err := kernel.Organised(ctx, tx, who, id)
		if err != nil {
			return err
		}
		return s.changeNow(ctx, tx, record, o, nil, alter)
	})
}

// notBegunTx is what is needed of a transaction to know that no change is begun.
type notBegunTx interface {
	DropSheet(ctx context.Context, id uuid.UUID) error
	LockSheetForMeeting(ctx context.Context, meetingID uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
}

// notBegun locks the sheet of a meeting before the meeting, as everybody does. It fails with an
// *InvalidError where a change is begun on it.
func notBegun(ctx context.Context, tx notBegunTx, who schedule.Actor, id uuid.UUID) error {
	sheet, err := tx.LockSheetForMeeting(ctx, id, who.For)
	switch {
	case err == nil && sheet.Version > 1:
		return schedule.Invalid("meeting", say.It("sheet.begun"))
	case err == nil:
		return tx.DropSheet(ctx, sheet.ID)
	case errors.Is(err, schedule.ErrNotFound):
		return nil
	}
	return err
}

// changeNow settles a change to a meeting that is locked; by is who makes it, nil for its
// organiser.
func (s *Deeds) changeNow(ctx context.Context, tx atOnceTx, record schedule.Record, o Opening, by *schedule.Invited, alter func(*meeting.Draft) error) error {
	was := o.draft(record.Content, record.Content.Next(when.At(s.Now())))
	draft := was
	if err := alter(&draft); err != nil {
		return err
	}
	sheet := schedule.Sheet{ID: uuid.New(), OwnerID: record.OrganiserID, MeetingID: &record.ID, BasedOn: record.Version,
		Draft: keepable(draft).Followed(was), Card: record.Content.Card, Version: 1, UpdatedAt: s.Now()}
	var err error
	if sheet.Draft, err = s.finished(ctx, tx, sheet); err != nil {
		return err
	}
	st, err := s.settle(ctx, tx, sheet, &record)
	if err != nil {
		return err
	}
	st.By = by
	if _, err := s.store(ctx, tx, sheet, st); err != nil {
		return err
	}
	return s.CountMails(ctx, tx, record.OrganiserID, outsideMails(st))
}
