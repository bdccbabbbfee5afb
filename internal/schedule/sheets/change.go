package sheets

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// changeTx is what is needed here of a transaction.
type changeTx interface {
	kernel.In
	kernel.Locking
	lockTx
	storeTx
	AddSheet(ctx context.Context, s schedule.Sheet) error
	DropSheet(ctx context.Context, id uuid.UUID) error
	LockSheetForMeeting(ctx context.Context, meetingID uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
}

func (s *Deeds) changeStore() schedule.Store[changeTx] {
	return schedule.Narrow(s.Store, func(tx Tx) changeTx { return tx })
}

// Opening is how changes to a meeting are begun. At is the date of a series that
// they begin at, by its day in the rule, 0 for the next one; Start is when it is
// moved to, 0 where it stays; One is whether that date alone is meant; Extend lets
// the series go on beyond its end.
type Opening struct {
	At     when.Day
	Start  when.Instant
	One    bool
	Extend bool
}

// ChangeMeeting opens the sheet of a meeting: the one begun already, or a new
// one that holds the meeting as it is, but for what the opening says. Only the
// organiser can.
func (s *Deeds) ChangeMeeting(ctx context.Context, who schedule.Actor, id uuid.UUID, o Opening) (sheet schedule.Sheet, err error) {
	err = s.changeStore().InTx(ctx, func(tx changeTx) error {
		// The sheet first, then the meeting: everybody locks in this order.
		var none error
		if sheet, none = tx.LockSheetForMeeting(ctx, id, who.For); none != nil && !errors.Is(none, schedule.ErrNotFound) {
			return none
		}
		record, err := kernel.Organised(ctx, tx, who, id)
		if err != nil {
			return err
		}
		if none != nil { // another window may have begun one meanwhile
			if sheet, none = tx.LockSheetForMeeting(ctx, id, who.For); none != nil && !errors.Is(none, schedule.ErrNotFound) {
				return none
			}
		}
		sheetID := uuid.New()
		switch {
		case none == nil && sheet.Version > 1:
			return nil // changes begun already are not lost
		case none == nil:
			sheetID = sheet.ID
			if err := tx.DropSheet(ctx, sheet.ID); err != nil {
				return err
			}
		}
		sheet = schedule.Sheet{ID: sheetID, OwnerID: who.For, MeetingID: &id, BasedOn: record.Version,
			Draft: o.draft(record.Content, record.Content.Next(when.At(s.Now()))), Card: record.Content.Card, Version: 1, UpdatedAt: s.Now()}
		return tx.AddSheet(ctx, sheet)
	})
	return sheet, err
}

func (o Opening) draft(m meeting.Meeting, next when.Day) meeting.Draft {
	at := o.At
	if date, is := m.Date(at); !is || date.On < next {
		at = next
	}
	d := meeting.DraftOf(m, at)
	if o.Start != 0 {
		date, _ := m.Date(at)
		start := m.StartIn().Zone.LocalAt(o.Start)
		d.Start, d.End = start.String(), start.Add(date.End.Sub(date.Start)).String()
	}
	if d.Scope == nil {
		return d
	}
	if o.One {
		d.Scope.To = d.Scope.From
	}
	if last, ends := m.Plan().Last(); o.Extend && ends {
		d.Repeat.Ends, d.Repeat.Until, d.Repeat.Count = "on", m.ExtendedTo(last).String(), 0
	}
	return d
}

// RebaseSheet starts a sheet of changes again from the meeting as it is now.
func (s *Deeds) RebaseSheet(ctx context.Context, who schedule.Actor, id uuid.UUID, version int) (sheet schedule.Sheet, err error) {
	err = s.changeStore().InTx(ctx, func(tx changeTx) error {
		if sheet, err = lockSheet(ctx, tx, who, id, version); err != nil {
			return err
		}
		if sheet.MeetingID == nil {
			return schedule.ErrNotFound
		}
		record, err := kernel.Organised(ctx, tx, who, *sheet.MeetingID)
		if err != nil {
			return err
		}
		if err := kernel.WithdrawUnused(ctx, tx, who.For, sheet.Card, &record); err != nil {
			return err
		}
		o := Opening{}
		if scope := sheet.Draft.Scope; scope != nil {
			o.At, _ = when.ParseDay(scope.At)
		}
		sheet.BasedOn, sheet.Card = record.Version, record.Content.Card
		sheet.Draft = o.draft(record.Content, record.Content.Next(when.At(s.Now())))
		return s.StoreSheet(ctx, tx, &sheet)
	})
	return sheet, err
}
