package sheets

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// waitTx is what is needed here of a transaction.
type waitTx interface {
	kernel.Locking
	ofTx
	outTx
	settleTx
	LockSheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	StopWaiting(ctx context.Context, sheetID uuid.UUID) (bool, error)
	Wait(ctx context.Context, w schedule.Waiting) error
	Waiting(ctx context.Context, sheetID uuid.UUID) (*schedule.Waiting, error)
}

func (s *Deeds) waitStore() schedule.Store[waitTx] {
	return schedule.Narrow(s.Store, func(tx Tx) waitTx { return tx })
}

// Wait has the owner of a sheet told when its room, and everybody needed, are clear at its
// time; the room is held for them then. It fails with an *InvalidError where there is
// nothing to wait for. Asking again changes nothing.
func (s *Deeds) Wait(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.waitStore().InTx(ctx, func(tx waitTx) error {
		sheet, err := tx.LockSheet(ctx, id, who.For)
		if err != nil {
			return err
		}
		of, err := MeetingOf(ctx, tx, sheet)
		if err != nil {
			return err
		}
		st, blocked, err := s.settleDates(ctx, tx, sheet, of)
		if err != nil {
			return err
		}
		if blocked != nil {
			return schedule.Invalid(blocked.Field, blocked.What)
		}
		m := st.Settled()
		switch {
		case m.Repeats():
			return schedule.Invalid("repeat", say.It("wait.series"))
		case m.Span().Start <= when.At(s.Now()):
			return schedule.Invalid("start", say.It("wait.begun"))
		}
		for _, d := range st.Rooms {
			if d.Verdict == rooms.Refused { // it will not be clear
				return schedule.Invalid("room", d.What())
			}
		}
		w := schedule.Waiting{SheetID: id, PersonID: who.For, Span: m.Span(), Since: s.Now(), People: append(neededInside(m), who.For)}
		if m.Room != nil {
			w.RoomID = uuid.MustParse(m.Room.ID)
		}
		if sheet.MeetingID != nil {
			w.MeetingID = *sheet.MeetingID
		}
		if has, err := tx.Waiting(ctx, id); err != nil || has != nil && has.State == schedule.WaitWaits && has.RoomID == w.RoomID && has.Span == w.Span {
			return err
		}
		if clear, err := s.Kernel.ClearFor(ctx, tx, w); err != nil {
			return err
		} else if clear {
			return schedule.Invalid("room", say.It("wait.clear"))
		}
		if err := tx.Wait(ctx, w); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutSheet, ID: id})
	})
}

func neededInside(m meeting.Meeting) (ids []uuid.UUID) {
	for _, p := range m.Participants {
		if id, err := uuid.Parse(p.PersonID); err == nil && p.Needed {
			ids = append(ids, id)
		}
	}
	return ids
}

// StopWaiting has a sheet wait no more. Whose turn it is gives that back to who is next.
func (s *Deeds) StopWaiting(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.waitStore().InTx(ctx, func(tx waitTx) error {
		if _, err := tx.LockSheet(ctx, id, who.For); err != nil {
			return err
		}
		w, err := tx.Waiting(ctx, id)
		if err != nil || w == nil {
			return err
		}
		if _, err := tx.StopWaiting(ctx, id); err != nil || w.RoomID == uuid.Nil || w.State != schedule.WaitTurn {
			return err
		}
		if err := tx.LockRooms(ctx, []uuid.UUID{w.RoomID}); err != nil {
			return err
		}
		if err := tx.DropHolds(ctx, id); err != nil {
			return err
		}
		return s.Kernel.OfferTo(ctx, tx, []uuid.UUID{w.RoomID})
	})
}

// GiveBack gives the room of a meeting back: of all of it, or of one date of a series. It
// is a change like any other: those invited are told that the room has changed.
func (s *Deeds) GiveBack(ctx context.Context, who schedule.Actor, id uuid.UUID, on when.Day) error {
	return s.waitStore().InTx(ctx, func(tx waitTx) error {
		record, err := kernel.Organised(ctx, tx, who, id)
		if err != nil {
			return err
		}
		date, is := record.Content.Date(on)
		switch {
		case record.Content.Repeats() && !is:
			return schedule.Invalid("on", say.It("wait.whichDate"))
		case record.Content.Repeats() && date.Room == nil || !record.Content.Repeats() && record.Content.Room == nil:
			return nil // given back already
		}
		opening := Opening{At: on, One: true}
		sheet := schedule.Sheet{ID: uuid.New(), OwnerID: who.For, MeetingID: &id, BasedOn: record.Version, Version: 1, Card: record.Content.Card, UpdatedAt: s.Now(),
			Draft: opening.draft(record.Content, record.Content.Next(when.At(s.Now())))}
		if scope := sheet.Draft.Scope; scope != nil && scope.At != on.String() {
			return schedule.Invalid("on", say.It("wait.dateOver"))
		}
		sheet.Draft.RoomID, sheet.Draft.NoRoom = "", true
		st, err := s.settle(ctx, tx, sheet, &record)
		if err != nil {
			return err
		}
		_, err = s.store(ctx, tx, sheet, st)
		return err
	})
}

// waitingWords says how a wait stands.
func waitingWords(in tongue.Tongue, w *schedule.Waiting, zone when.Zone) string {
	if w == nil {
		return ""
	}
	var turn when.Instant
	if w.TurnUntil != nil {
		turn = when.At(*w.TurnUntil)
	}
	return words.Waiting(in, w.RoomID != uuid.Nil, w.State == schedule.WaitTurn, w.State == schedule.WaitPassed, w.Before, turn, zone)
}
