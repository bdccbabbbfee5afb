package kernel

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// waitTx is what is needed here of a transaction.
type waitTx interface {
	directory.LookupTx
	keepersTx
	BusyTimes(ctx context.Context, people []uuid.UUID, windows when.Spans, view schedule.View) (map[uuid.UUID][]availability.Time, error)
	Clashes(ctx context.Context, view schedule.View, wanted []schedule.Occurrence) ([]schedule.Clash, error)
	ClearHolds(ctx context.Context, owner uuid.UUID, wanted []schedule.Occurrence, now time.Time) error
	DropHolds(ctx context.Context, sheetID uuid.UUID) error
	GiveTurn(ctx context.Context, sheetID uuid.UUID, until *time.Time) error
	HoldRooms(ctx context.Context, owner, sheetID, meetingID uuid.UUID, holds []schedule.RoomHold, now time.Time) error
	LockRooms(ctx context.Context, rooms []uuid.UUID) error
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
	SharedWith(ctx context.Context, viewer uuid.UUID) (map[uuid.UUID]availability.Level, error)
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	WaitingFor(ctx context.Context, rooms []uuid.UUID, now time.Time) ([]schedule.Waiting, error)
}

// OfferTo gives what became clear to the first who waits for it: it is held for them and
// they are told; the others go on waiting. Rooms are those given back, none for all that
// anybody waits for. Those who did not take their turn have had it.
func (k Kernel) OfferTo(ctx context.Context, in In, given []uuid.UUID) error {
	return k.offerTo(ctx, in.Kernel().store, given)
}

func (k Kernel) offerTo(ctx context.Context, tx waitTx, given []uuid.UUID) error {
	now := k.Now()
	all, err := tx.WaitingFor(ctx, given, now)
	if err != nil || len(all) == 0 {
		return err
	}
	var waits []schedule.Waiting
	var ids []uuid.UUID
	for _, w := range all {
		if w.State == schedule.WaitTurn {
			if err := tx.GiveTurn(ctx, w.SheetID, nil); err != nil {
				return err
			}
			continue
		}
		waits = append(waits, w)
		if w.RoomID != uuid.Nil && !slices.Contains(ids, w.RoomID) {
			ids = append(ids, w.RoomID)
		}
	}
	if err := tx.LockRooms(ctx, ids); err != nil {
		return err
	}
	house, err := tx.RoomsByID(ctx, ids)
	if err != nil {
		return err
	}
	named := map[uuid.UUID]schedule.Room{}
	for _, r := range house {
		named[r.ID] = r
	}
	order := make([]rooms.Waiting, len(waits))
	for i, w := range waits {
		order[i] = rooms.Waiting{Span: w.Span, Gap: named[w.RoomID].Rules.Gap}
		if w.RoomID != uuid.Nil {
			order[i].Room = w.RoomID.String()
		}
		if order[i].Clear, err = k.clearFor(ctx, tx, w, named[w.RoomID]); err != nil {
			return err
		}
	}
	for _, i := range rooms.Turns(order) {
		if err := k.giveTurn(ctx, tx, waits[i], named[waits[i].RoomID]); err != nil {
			return err
		}
	}
	return nil
}

// ClearFor tells whether what somebody wants to wait for is clear already.
func (k Kernel) ClearFor(ctx context.Context, in In, w schedule.Waiting) (bool, error) {
	tx := in.Kernel().store
	var room schedule.Room
	if w.RoomID != uuid.Nil {
		house, err := tx.RoomsByID(ctx, []uuid.UUID{w.RoomID})
		if err != nil || len(house) == 0 {
			return false, err
		}
		room = house[0]
	}
	return k.clearFor(ctx, tx, w, room)
}

// clearFor tells whether what somebody waits for is clear for them.
func (k Kernel) clearFor(ctx context.Context, tx waitTx, w schedule.Waiting, room schedule.Room) (bool, error) {
	view := schedule.View{But: w.MeetingID, For: w.PersonID, Now: k.Now()}
	people, err := directory.Showing(ctx, tx, w.PersonID, w.People)
	if err != nil {
		return false, err
	}
	busy, err := tx.BusyTimes(ctx, people, when.Spans{w.Span}, view)
	if err != nil {
		return false, err
	}
	for _, taken := range busy {
		if (availability.Person{}).With(taken).Busy.Overlaps(w.Span) {
			return false, nil
		}
	}
	if w.RoomID == uuid.Nil {
		return true, nil
	}
	p, err := directory.Person(ctx, tx, w.PersonID)
	if err != nil {
		return false, err
	}
	if room.ID == uuid.Nil || room.Place().Decide([]when.Span{w.Span}, 1, 1, room.Asker(p), when.At(k.Now())).Verdict == rooms.Refused {
		return false, nil
	}
	clashes, err := tx.Clashes(ctx, view, []schedule.Occurrence{wanted(w, room)})
	return len(clashes) == 0, err
}

func wanted(w schedule.Waiting, room schedule.Room) schedule.Occurrence {
	return schedule.Occurrence{Span: w.Span, RoomID: w.RoomID, Gap: room.Rules.Gap}
}

// giveTurn holds what somebody waited for, and tells them.
func (k Kernel) giveTurn(ctx context.Context, tx waitTx, w schedule.Waiting, room schedule.Room) error {
	now := k.Now()
	until := now.Add(rooms.TurnFor)
	if starts := w.Span.Start.Time(); until.After(starts) {
		until = starts
	}
	if err := tx.GiveTurn(ctx, w.SheetID, &until); err != nil {
		return err
	}
	if w.RoomID != uuid.Nil {
		if err := tx.ClearHolds(ctx, w.PersonID, []schedule.Occurrence{wanted(w, room)}, now); err != nil {
			return err
		}
		if err := tx.DropHolds(ctx, w.SheetID); err != nil {
			return err
		}
		hold := schedule.RoomHold{RoomID: w.RoomID, Span: w.Span, Until: until}
		if err := tx.HoldRooms(ctx, w.PersonID, w.SheetID, w.MeetingID, []schedule.RoomHold{hold}, now); err != nil {
			return err
		}
	}
	sheet, err := tx.Sheet(ctx, w.SheetID, w.PersonID)
	if err != nil {
		return err
	}
	e := meeting.Event{Kind: meeting.EventTurn, Name: room.Name}
	n := meeting.News{Title: sheet.Draft.Title, Is: meeting.Occasion{Start: w.Span.Start, End: w.Span.End, Title: sheet.Draft.Title, Room: room.Name}, Event: &e}
	if err := tx.AddNews(ctx, []schedule.News{{ID: schedule.NewsID(), PersonID: w.PersonID, SheetID: w.SheetID, Kind: schedule.NewsEvent, News: n, At: now}}); err != nil {
		return err
	}
	for _, topic := range []schedule.Topic{schedule.AboutSheet, schedule.AboutNews} {
		if err := tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{w.PersonID}, Topic: topic, ID: w.SheetID}); err != nil {
			return err
		}
	}
	return nil
}
