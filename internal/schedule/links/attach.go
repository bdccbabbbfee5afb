package links

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
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
	// The provider may answer when nobody waits any more: what it made then is put on
	// the sheet all the same, or withdrawn.
	type answer struct {
		sheet schedule.Sheet
		err   error
	}
	answered := make(chan answer, 1)
	go func() {
		own, cancel := context.WithTimeout(context.WithoutCancel(ctx), makeWithin)
		defer cancel()
		card, err := p.Make(own, s.keyring(who.For, provider), draftCall(sheet))
		if err != nil {
			answered <- answer{sheet, err}
			return
		}
		card.Provider, card.Name = provider, p.Name()
		attached, err := s.attach(own, who, id, card)
		answered <- answer{attached, err}
	}()
	select {
	case a := <-answered:
		return a.sheet, a.err
	case <-time.After(s.WaitFor):
		return sheet, fmt.Errorf("%w: %s takes its time; the link comes by itself when it is made", schedule.ErrUnreachable, p.Name())
	case <-ctx.Done():
		return sheet, ctx.Err()
	}
}

// makeWithin is how long a provider may take to make a link.
const makeWithin = 2 * time.Minute

// attach puts a link that was made on its sheet, or has it withdrawn.
func (s *Deeds) attach(ctx context.Context, who schedule.Actor, id uuid.UUID, card join.Card) (sheet schedule.Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		sheet, err = tx.LockSheet(ctx, id, who.For)
		if err == nil && sheet.Card == nil {
			sheet.Card, sheet.Draft.NoLink = &card, false
			return s.Sheets.StoreSheet(ctx, tx, &sheet)
		}
		if err != nil && !errors.Is(err, schedule.ErrNotFound) {
			return err
		}
		// Another window was faster, or the sheet is gone: nobody needs this one.
		return tx.QueueCallChange(ctx, schedule.CallChange{PersonID: who.For, Card: card, Withdraw: true})
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
