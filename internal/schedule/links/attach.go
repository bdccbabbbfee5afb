package links

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

// attachTx is what is needed here of a transaction.
type attachTx interface {
	meetings.TellTx
	sheets.SheetTx
	LockSheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	QueueCallChange(ctx context.Context, c schedule.CallChange) error
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
}

// AttachLink has a provider make a link for a sheet at this moment. A sheet
// that has a link keeps it: a meeting has one (DESIGN.md, rule 8).
func (s *Deeds) AttachLink(ctx context.Context, who schedule.Actor, id uuid.UUID, provider string) (schedule.Sheet, error) {
	p, known := s.Providers[provider]
	if !known {
		return schedule.Sheet{}, schedule.Invalid("provider", "There is no such provider here.")
	}
	var sheet schedule.Sheet
	err := s.Store.Look(ctx, func(tx Tx) (err error) {
		sheet, err = tx.Sheet(ctx, id, who.For)
		return err
	})
	if err != nil || sheet.Card != nil {
		return sheet, err
	}
	card, err := p.Make(ctx, s.keyring(who.For, provider), draftCall(sheet))
	if err != nil {
		return sheet, err
	}
	card.Provider, card.Name = provider, p.Name()
	err = s.Store.InTx(ctx, func(tx Tx) error {
		sheet, err = tx.LockSheet(ctx, id, who.For)
		if err == nil && sheet.Card == nil {
			sheet.Card, sheet.Draft.NoLink = &card, false
			return s.Sheets.StoreSheet(ctx, tx, &sheet)
		}
		// Another window was faster, or the sheet is gone: nobody needs this one.
		if err := tx.QueueCallChange(ctx, schedule.CallChange{PersonID: who.For, Card: card, Withdraw: true}); err != nil {
			return err
		}
		if errors.Is(err, schedule.ErrNotFound) {
			return nil
		}
		return err
	})
	if err == nil && sheet.ID == uuid.Nil {
		err = schedule.ErrNotFound
	}
	return sheet, err
}

// DropLink takes the link off a sheet, and back at its provider unless the
// meeting that was sent has it.
func (s *Deeds) DropLink(ctx context.Context, who schedule.Actor, id uuid.UUID) (sheet schedule.Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		if sheet, err = tx.LockSheet(ctx, id, who.For); err != nil || sheet.Card == nil {
			return err
		}
		_, of, err := sheets.SheetAndMeeting(ctx, tx, who, id)
		if err != nil {
			return err
		}
		if err := meetings.WithdrawUnused(ctx, tx, who.For, sheet.Card, of); err != nil {
			return err
		}
		sheet.Card = nil
		return s.Sheets.StoreSheet(ctx, tx, &sheet)
	})
	return sheet, err
}

// draftCall is what a sheet can say of its call so far.
func draftCall(sheet schedule.Sheet) Call {
	c := Call{Topic: sheet.Draft.Title}
	zone, zoneErr := when.LoadZone(sheet.Draft.Zone)
	start, startErr := when.ParseLocal(sheet.Draft.Start)
	end, endErr := when.ParseLocal(sheet.Draft.End)
	if errors.Join(zoneErr, startErr, endErr) == nil {
		c.Start = when.Zoned{Local: start, Zone: zone}.Instant().Time()
		c.End = when.Zoned{Local: end, Zone: zone}.Instant().Time()
	}
	return c
}
