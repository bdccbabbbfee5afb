package sheets

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// sendTx is what is needed here of a transaction.
type sendTx interface {
	changedTx
	lockTx
	outTx
	settleTx
	typedTx
	AddSendKey(ctx context.Context, k schedule.SendKey, now time.Time) error
	SendKey(ctx context.Context, personID uuid.UUID, key string) (schedule.SendKey, error)
}

func (s *Deeds) sendStore() schedule.Store[sendTx] {
	return schedule.Narrow(s.Store, func(tx Tx) sendTx { return tx })
}

// Sent is what a Send did.
type Sent struct {
	MeetingID uuid.UUID
	Told      int // messages that it caused
}

// Send settles a sheet for good: the meeting, everybody's time, the room and
// the messages are kept in one transaction, or nothing is and the sheet stays
// as it was. The same key does it once, however often it is called.
//
// It fails with a *VersionError when sheet or meeting were changed since the
// caller saw them, with an *InvalidError that names the fields, with a
// *TakenError when somebody was faster with the room, and with ErrCalledOff.
func (s *Deeds) Send(ctx context.Context, who schedule.Actor, id uuid.UUID, version int, key string) (sent Sent, err error) {
	err = s.sendStore().InTx(ctx, func(tx sendTx) error {
		done, err := tx.SendKey(ctx, who.For, key)
		if err == nil {
			if done.SheetID != id {
				return schedule.Invalid("idempotencyKey", say.It("send.key"))
			}
			sent = Sent{done.MeetingID, done.Told}
			return nil
		}
		if !errors.Is(err, schedule.ErrNotFound) {
			return err
		}
		sheet, err := lockSheet(ctx, tx, who, id, version)
		if err != nil {
			return err
		}
		if sheet.Draft, err = s.finished(ctx, tx, sheet); err != nil {
			return err
		}
		before, err := s.changed(ctx, tx, sheet)
		if err != nil {
			return err
		}
		st, err := s.settle(ctx, tx, sheet, before)
		if err != nil {
			return err
		}
		if sent, err = s.store(ctx, tx, sheet, st); err != nil {
			return err
		}
		if err := s.CountMails(ctx, tx, who.For, outsideMails(st)); err != nil {
			return err
		}
		return tx.AddSendKey(ctx, schedule.SendKey{PersonID: who.For, Key: key, SheetID: id, MeetingID: sent.MeetingID, Told: sent.Told}, s.Now())
	})
	if err != nil {
		return Sent{}, err
	}
	return sent, nil
}

// finished is a sheet with everything that stands in its fields taken over. It fails with
// an *InvalidError where that cannot be read, or has to be said first.
func (s *Deeds) finished(ctx context.Context, tx typedTx, sheet schedule.Sheet) (meeting.Draft, error) {
	draft, _, err := s.taken(ctx, tx, sheet.OwnerID, sheet.Draft, meeting.NoMore)
	if err != nil {
		return draft, err
	}
	readings, unclear, err := s.waiting(ctx, tx, sheet.OwnerID, draft)
	if faults := typedFaults(readings, unclear, ""); err == nil && len(faults) > 0 {
		return draft, &schedule.InvalidError{Faults: faults}
	}
	return draft.Followed(sheet.Draft), err
}

// changedTx is what is needed of a transaction to hold the meeting that a sheet changes.
type changedTx interface {
	kernel.Locking
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error)
}

// changed is the meeting that a sheet changes, locked, or nil. It fails with a
// *VersionError when the meeting is no longer the one the changes were made to.
func (s *Deeds) changed(ctx context.Context, tx changedTx, sheet schedule.Sheet) (*schedule.Record, error) {
	if sheet.MeetingID == nil {
		return nil, nil
	}
	record, err := kernel.Organised(ctx, tx, schedule.Self(sheet.OwnerID), *sheet.MeetingID)
	if err != nil {
		return nil, err
	}
	if record.Version != sheet.BasedOn {
		was, err := tx.MeetingAt(ctx, record.ID, sheet.BasedOn)
		if err != nil {
			return nil, err
		}
		return nil, schedule.Changed(record, was.Content)
	}
	return &record, nil
}

// outTx is what is needed of a transaction to have a sheet go out.
type outTx interface {
	filesTx
	kernel.In
	languagesTx
	DropHolds(ctx context.Context, sheetID uuid.UUID) error
	DropSheet(ctx context.Context, id uuid.UUID) error
	Holds(ctx context.Context, sheetID uuid.UUID) ([]schedule.RoomHold, error)
	LockRooms(ctx context.Context, rooms []uuid.UUID) error
	PassAddress(ctx context.Context, before, after uuid.UUID) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// store keeps a settled sheet and everything that follows from it.
func (s *Deeds) store(ctx context.Context, tx outTx, sheet schedule.Sheet, st kernel.Settled) (Sent, error) {
	if st.Before != nil && st.Next == nil && st.Change.Empty() {
		return Sent{MeetingID: st.Before.ID}, dropSent(ctx, tx, sheet)
	}
	if err := s.lockRooms(ctx, tx, sheet, st); err != nil {
		return Sent{}, err
	}
	record, next, err := s.Kernel.Write(ctx, tx, st)
	if err != nil {
		return Sent{}, err
	}
	if err := keepFiles(ctx, tx, record.ID, st.Before, record.Content); err != nil {
		return Sent{}, err
	}
	if err := keepLanguages(ctx, tx, sheet.Draft.People); err != nil {
		return Sent{}, err
	}
	if err := dropSent(ctx, tx, sheet); err != nil {
		return Sent{}, err
	}
	sent := Sent{MeetingID: record.ID, Told: len(st.Due) + len(st.DueNext)}
	if st.Next == nil {
		return sent, nil
	}
	sent.MeetingID = next
	if err := keepFiles(ctx, tx, next, nil, *st.Next); err != nil {
		return Sent{}, err
	}
	return sent, tx.PassAddress(ctx, record.ID, next)
}

// dropSent drops a sheet that went out: it is among the drafts of no window any more.
func dropSent(ctx context.Context, tx outTx, sheet schedule.Sheet) error {
	if err := tx.DropSheet(ctx, sheet.ID); err != nil {
		return err
	}
	return tx.Tell(ctx, sheet.Notice())
}

// lockRooms locks all rooms that a Send touches at once, those that the sheet holds
// included: everybody locks them in one order. What it holds becomes the booking.
func (s *Deeds) lockRooms(ctx context.Context, tx outTx, sheet schedule.Sheet, st kernel.Settled) error {
	touched := []meeting.Meeting{st.Meeting}
	if st.Next != nil {
		touched = append(touched, *st.Next)
	}
	if st.Before != nil {
		touched = append(touched, st.Before.Content)
	}
	ids := roomsOf(touched...)
	holds, err := tx.Holds(ctx, sheet.ID)
	if err != nil {
		return err
	}
	for _, h := range holds {
		ids = append(ids, h.RoomID)
	}
	if err := tx.LockRooms(ctx, ids); err != nil || len(holds) == 0 {
		return err
	}
	return tx.DropHolds(ctx, sheet.ID)
}

// roomsOf are all rooms that meetings have on any date.
func roomsOf(all ...meeting.Meeting) (ids []uuid.UUID) {
	add := func(r *meeting.Room) {
		if r == nil {
			return
		}
		if id, err := uuid.Parse(r.ID); err == nil {
			ids = append(ids, id)
		}
	}
	for _, m := range all {
		add(m.Room)
		if m.Series == nil {
			continue
		}
		for _, own := range m.Series.Overrides {
			add(own.Room)
		}
	}
	return ids
}

// keepFiles keeps the files that a meeting names now.
func keepFiles(ctx context.Context, tx filesTx, id uuid.UUID, before *schedule.Record, now meeting.Meeting) error {
	if len(now.Files) == 0 && (before == nil || len(before.Content.Files) == 0) {
		return nil
	}
	return tx.KeepMeetingFiles(ctx, id, now.Files)
}
