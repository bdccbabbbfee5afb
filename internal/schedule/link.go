package schedule

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/google/uuid"
	"golang.org/x/oauth2"

	"jembro/internal/core/when"
)

// AttachLink has a provider make a link for a sheet at this moment. A sheet
// that has a link keeps it: a meeting has one (DESIGN.md, rule 8).
func (s *Service) AttachLink(ctx context.Context, me, id uuid.UUID, provider string) (Sheet, error) {
	p, known := s.Providers[provider]
	if !known {
		return Sheet{}, invalid("provider", "There is no such provider here.")
	}
	var sheet Sheet
	err := s.Store.Look(ctx, func(tx Tx) (err error) {
		sheet, err = tx.Sheet(ctx, id, me)
		return err
	})
	if err != nil || sheet.Card != nil {
		return sheet, err
	}
	card, err := p.Make(ctx, s.keyring(me, provider), draftCall(sheet))
	if err != nil {
		return sheet, err
	}
	card.Provider, card.Name = provider, p.Name()
	err = s.Store.InTx(ctx, func(tx Tx) error {
		sheet, err = tx.LockSheet(ctx, id, me)
		if err == nil && sheet.Card == nil {
			sheet.Card, sheet.Draft.NoLink = &card, false
			return s.storeSheet(ctx, tx, &sheet)
		}
		// Another window was faster, or the sheet is gone: nobody needs this one.
		if err := tx.QueueCallChange(ctx, CallChange{PersonID: me, Card: card, Withdraw: true}); err != nil {
			return err
		}
		if errors.Is(err, ErrNotFound) {
			return nil
		}
		return err
	})
	if err == nil && sheet.ID == uuid.Nil {
		err = ErrNotFound
	}
	return sheet, err
}

// DropLink takes the link off a sheet, and back at its provider unless the
// meeting that was sent has it.
func (s *Service) DropLink(ctx context.Context, me, id uuid.UUID) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		if sheet, err = tx.LockSheet(ctx, id, me); err != nil || sheet.Card == nil {
			return err
		}
		_, of, err := sheetAndMeeting(ctx, tx, me, id)
		if err != nil {
			return err
		}
		if err := withdrawUnused(ctx, tx, me, sheet.Card, of); err != nil {
			return err
		}
		sheet.Card = nil
		return s.storeSheet(ctx, tx, &sheet)
	})
	return sheet, err
}

// draftCall is what a sheet can say of its call so far.
func draftCall(sheet Sheet) Call {
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

// ChangeCall does at the provider what a change of a meeting asks for: the call
// moves to the time and title of the newest version, whatever they are by now,
// or is withdrawn. It can run again without harm.
func (s *Service) ChangeCall(ctx context.Context, c CallChange) error {
	p, known := s.Providers[c.Card.Provider]
	if !known {
		return ErrNotFound
	}
	keys := s.keyring(c.PersonID, c.Card.Provider)
	if c.Withdraw {
		if w, can := p.(CallWithdrawer); can {
			return w.Withdraw(ctx, keys, c.Card)
		}
		return nil
	}
	m, can := p.(CallMover)
	if !can {
		return nil
	}
	var record Record
	err := s.Store.Look(ctx, func(tx Tx) (err error) {
		record, err = tx.Meeting(ctx, c.MeetingID)
		return err
	})
	if err != nil || record.CalledOffAt != nil {
		return err
	}
	span := record.Content.Span()
	return m.Move(ctx, keys, c.Card, Call{Topic: record.Content.Title, Start: span.Start.Time(), End: span.End.Time()})
}

// keyring is a Keyring that seals what it keeps.
type keyring struct {
	s        *Service
	person   uuid.UUID
	provider string
}

func (s *Service) keyring(person uuid.UUID, provider string) Keyring {
	return keyring{s, person, provider}
}

func (k keyring) Token(ctx context.Context) (*oauth2.Token, error) {
	var sealed []byte
	err := k.s.Store.Look(ctx, func(tx Tx) (err error) {
		sealed, err = tx.Connection(ctx, k.person, k.provider)
		return err
	})
	if errors.Is(err, ErrNotFound) {
		return nil, ErrConnect
	}
	if err != nil {
		return nil, err
	}
	plain, err := k.s.Seal.Unlock(sealed)
	if err != nil {
		return nil, ErrConnect // sealed with a secret that is gone: sign in again
	}
	var t oauth2.Token
	return &t, json.Unmarshal(plain, &t)
}

func (k keyring) SetToken(ctx context.Context, t *oauth2.Token) error {
	plain, err := json.Marshal(t)
	if err != nil {
		return err
	}
	return k.s.Store.InTx(ctx, func(tx Tx) error {
		return tx.SetConnection(ctx, k.person, k.provider, k.s.Seal.Lock(plain), k.s.Now())
	})
}
