package sheets

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
)

// laterTx is what is needed here of a transaction.
type laterTx interface {
	changedTx
	holdTx
	storeTx
	typedTx
	QueueSend(ctx context.Context, sheetID uuid.UUID, in time.Duration) error
	SetSending(ctx context.Context, s schedule.Sheet) error
	SheetByID(ctx context.Context, id uuid.UUID) (schedule.Sheet, error)
}

func (s *Deeds) laterStore() schedule.Store[laterTx] {
	return schedule.Narrow(s.Store, func(tx Tx) laterTx { return tx })
}

// afterUndo is how long after the time to take a Send back the program sends by itself: the
// window that counts it down is usually faster.
const afterUndo = 3 * time.Second

// LaterKey is the key under which a sheet that waits is sent, by whomever: it goes out once.
func LaterKey(id uuid.UUID, version int) string { return fmt.Sprintf("later %s %d", id, version) }

// SendLater has a sheet go out by itself at a moment that its owner typed, "tomorrow 7:00", by
// their clocks; "" is the end of the time in which a Send can be taken back. It has to be ready now, its rooms are held until then, and it
// changes no more unless it is taken back. It fails as Send does.
func (s *Deeds) SendLater(ctx context.Context, who schedule.Actor, id uuid.UUID, version int, typed string) (sheet schedule.Sheet, err error) {
	err = s.laterStore().InTx(ctx, func(tx laterTx) error {
		if sheet, err = lockSheet(ctx, tx, who, id, version); err != nil {
			return err
		}
		sheet.SendAt = nil // it may have waited for another moment
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
		now, undo := s.Now(), typed == ""
		at := now.Add(s.Undo)
		if !undo {
			if at, err = s.moment(ctx, typed, st); err != nil {
				return err
			}
		}
		if err := s.holdFor(ctx, tx, sheet, st.Settled(), at, undo); err != nil {
			return err
		}
		if err := s.StoreSheet(ctx, tx, &sheet); err != nil {
			return err
		}
		sheet.SendAt = &at
		if err := tx.SetSending(ctx, sheet); err != nil {
			return err
		}
		in := at.Sub(now)
		if undo {
			in += afterUndo
		}
		return tx.QueueSend(ctx, sheet.ID, in)
	})
	return sheet, err
}

// moment is when a sheet is to go out.
func (s *Deeds) moment(ctx context.Context, text string, st kernel.Settled) (at time.Time, err error) {
	now, zone := when.At(s.Now()), st.Organiser.Hours.Zone
	w, fault := s.reader(st.Organiser, schedule.DayOrder(ctx)).Moment(text)
	if fault != nil {
		return at, schedule.Invalid("sendAt", fault.What(text))
	}
	local, said := meeting.LaterMoment(w, zone.LocalAt(now))
	if !said {
		return at, schedule.Invalid("sendAt", say.It("later.noTime"))
	}
	moment, exists := zone.Resolve(local)
	if !exists {
		return at, schedule.Invalid("sendAt", say.It("later.notOnClock"))
	}
	if fault := st.Settled().LaterFault(moment, now); fault != nil {
		return at, &schedule.InvalidError{Faults: []meeting.Fault{*fault}}
	}
	return moment.Time(), nil
}

// holdFor keeps the rooms of a sheet until it has gone out. What cannot be held can wait for some
// seconds, and for no longer.
func (s *Deeds) holdFor(ctx context.Context, tx laterTx, sheet schedule.Sheet, m meeting.Meeting, at time.Time, undo bool) error {
	h, err := s.hold(ctx, tx, sheet)
	if err != nil {
		return err
	}
	if h.Taken != nil {
		record := schedule.Record{OrganiserID: sheet.OwnerID, Content: m}
		if sheet.MeetingID != nil {
			record.ID = *sheet.MeetingID
		}
		return s.Kernel.Taken(ctx, tx, record, []schedule.Clash{*h.Taken})
	}
	if what := h.What; !what.Empty() && !undo {
		return schedule.Invalid("room", what)
	}
	if until := at.Add(rooms.HoldFor); h.Until.Before(until) && !h.Until.IsZero() {
		return tx.ProlongHolds(ctx, sheet.ID, until)
	}
	return nil
}

// TakeBack has a sheet that waits be a draft again; one that does not wait any more stays as it
// is.
func (s *Deeds) TakeBack(ctx context.Context, who schedule.Actor, id uuid.UUID) (sheet schedule.Sheet, err error) {
	err = s.laterStore().InTx(ctx, func(tx laterTx) error {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil || sheet.SendAt == nil {
			return err
		}
		return s.stopSending(ctx, tx, &sheet, say.What{})
	})
	return sheet, err
}

// stopSending ends the waiting of a sheet, with why it did not go out.
func (s *Deeds) stopSending(ctx context.Context, tx laterTx, sheet *schedule.Sheet, fault say.What) error {
	sheet.SendAt = nil
	if err := s.StoreSheet(ctx, tx, sheet); err != nil {
		return err
	}
	sheet.SendFault = fault
	if err := tx.SetSending(ctx, *sheet); err != nil {
		return err
	}
	return tx.ProlongHolds(ctx, sheet.ID, s.Now().Add(rooms.HoldFor))
}

// SendWaiting sends a sheet whose moment has come. What keeps it from going out becomes a loose
// end of its owner.
func (s *Deeds) SendWaiting(ctx context.Context, id uuid.UUID) error {
	var sheet schedule.Sheet
	err := s.laterStore().Look(ctx, func(tx laterTx) (err error) {
		sheet, err = tx.SheetByID(ctx, id)
		return err
	})
	if errors.Is(err, schedule.ErrNotFound) {
		return nil // sent by its owner, or thrown away
	}
	if err != nil || sheet.SendAt == nil || sheet.SendAt.After(s.Now()) {
		return err // a later moment has its own turn
	}
	who := schedule.Self(sheet.OwnerID)
	_, err = s.Send(ctx, who, id, sheet.Version, LaterKey(id, sheet.Version))
	if err == nil {
		return nil
	}
	fault := s.whyUnsent(ctx, who, err)
	if fault.Empty() {
		return err // what is away comes back
	}
	return s.laterStore().InTx(ctx, func(tx laterTx) error {
		now, err := tx.LockSheet(ctx, id, sheet.OwnerID)
		if errors.Is(err, schedule.ErrNotFound) || err == nil && (now.SendAt == nil || now.Version != sheet.Version) {
			return nil
		}
		if err != nil {
			return err
		}
		return s.stopSending(ctx, tx, &now, fault)
	})
}

// whyUnsent is what keeps a sheet from going out, nothing for what passes by itself.
func (s *Deeds) whyUnsent(ctx context.Context, who schedule.Actor, err error) say.What {
	var (
		invalid *schedule.InvalidError
		taken   *schedule.TakenError
		changed *schedule.VersionError
	)
	switch {
	case errors.As(err, &invalid):
		return invalid.Faults[0].What
	case errors.As(err, &taken):
		zone := when.Zone{}
		s.laterStore().Look(ctx, func(tx laterTx) error {
			p, err := directory.Person(ctx, tx, who.For)
			zone = p.Hours.Zone
			return err
		})
		return taken.What(zone)
	case errors.As(err, &changed) && changed.Meeting != nil:
		return say.It("sheet.meetingChanged", changed.Facts.What())
	case errors.Is(err, schedule.ErrCalledOff):
		return say.It("sheet.calledOff")
	}
	return say.What{}
}
