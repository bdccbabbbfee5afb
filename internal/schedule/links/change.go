package links

import (
	"context"
	"errors"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
)

type changeTx interface {
	directory.LookupTx
	giveTx
	schedule.HappenTx
	Happenings(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.Happening, error)
	LockSheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	QueueCallChange(ctx context.Context, c schedule.CallChange) error
	SetSheet(ctx context.Context, s schedule.Sheet) error
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
}

func (s *Deeds) changeStore() schedule.Store[changeTx] {
	return schedule.Narrow(s.Store, func(tx Tx) changeTx { return tx })
}

// ChangeCall does at the provider what a change of a meeting asks for: the call
// moves to the time and title of the newest version, whatever they are by now, is
// withdrawn, or is made for the meeting or the sheet that waits for it. It can run again
// without harm. Where the sign-in at the provider is over the organiser is told in the
// history, and it fails with ErrUnreachable: somebody who signs in again mends it.
func (s *Deeds) ChangeCall(ctx context.Context, c schedule.CallChange) error {
	p, provider, err := s.providerOf(ctx, c.Card.Card)
	if err != nil {
		return err
	}
	keys := s.keyring(c.PersonID, provider)
	switch {
	case c.Withdraw && !c.Card.Made():
		return nil
	case c.Withdraw:
		return p.Withdraw(ctx, keys, c.Card.Card)
	case c.Make && !provider.InUse:
		err := &schedule.ProviderError{Provider: provider.Key, What: say.It("provider.outOfUse", p.Service().Name), Kind: &schedule.RefusedError{Reason: provider.Key}}
		return s.notMade(ctx, c, p.Service().Name, err)
	case c.Make && c.SheetID != uuid.Nil:
		return s.makeForSheet(ctx, p, provider, c)
	case c.Make:
		return s.makeForMeeting(ctx, p, provider, c)
	}
	var record schedule.Record
	err = s.changeStore().Look(ctx, func(tx changeTx) (err error) {
		record, err = tx.Meeting(ctx, c.MeetingID)
		return err
	})
	if err != nil || record.CalledOffAt != nil || !record.Content.Card.SameCall(&c.Card.Card) {
		return err
	}
	_, err = p.Change(ctx, keys, *record.Content.Card, meetingCall(record.Content))
	switch {
	case errors.Is(err, schedule.ErrConnect):
		return errors.Join(schedule.ErrUnreachable, s.note(ctx, c.MeetingID, meeting.Event{Kind: meeting.EventLinkStays, Name: p.Service().Name}))
	case errors.Is(err, schedule.ErrNotFound):
		return errors.Join(err, s.note(ctx, c.MeetingID, meeting.Event{Kind: meeting.EventLinkGone, Name: p.Service().Name}))
	}
	return err
}

// makeForSheet makes the link that a sheet waits for.
func (s *Deeds) makeForSheet(ctx context.Context, p Provider, provider schedule.ProviderRecord, c schedule.CallChange) error {
	who := schedule.Self(c.PersonID)
	var call Call
	awaits := false
	err := s.changeStore().Look(ctx, func(tx changeTx) error {
		sheet, err := tx.Sheet(ctx, c.SheetID, c.PersonID)
		if err != nil {
			return err
		}
		awaits = sheet.Card.AwaitedFrom(provider.Key)
		call, err = draftCall(ctx, tx, sheet)
		return err
	})
	if err != nil || !awaits {
		return err
	}
	card, err := p.Make(ctx, s.keyring(c.PersonID, provider), call)
	if err != nil {
		return s.notMade(ctx, c, p.Service().Name, err)
	}
	card.Provider, card.Version = provider.Key, provider.Version
	_, err = s.bring(ctx, who, c.SheetID, card, noChoice)
	return err
}

// makeForMeeting makes the link that a meeting was sent without, and tells those invited.
func (s *Deeds) makeForMeeting(ctx context.Context, p Provider, provider schedule.ProviderRecord, c schedule.CallChange) error {
	var record schedule.Record
	err := s.changeStore().Look(ctx, func(tx changeTx) (err error) {
		record, err = tx.Meeting(ctx, c.MeetingID)
		return err
	})
	if err != nil || !awaitsAt(record, provider.Key) || over(record.Content, s.now()) {
		return err
	}
	card, err := p.Make(ctx, s.keyring(c.PersonID, provider), meetingCall(record.Content))
	if err != nil {
		return s.notMade(ctx, c, p.Service().Name, err)
	}
	card.Provider, card.Version = provider.Key, provider.Version
	return s.changeStore().InTx(ctx, func(tx changeTx) error {
		record, err := s.lockWithSheets(ctx, tx, c.MeetingID)
		if err != nil {
			return err
		}
		if !awaitsAt(record, provider.Key) { // somebody chose another call meanwhile
			return tx.QueueCallChange(ctx, schedule.CallChange{PersonID: c.PersonID, Card: schedule.StoredCard{Card: card}, Withdraw: true})
		}
		return s.giveCard(ctx, tx, record, card, meeting.Event{Kind: meeting.EventLinkMade, Name: card.Name})
	})
}

func (s *Deeds) now() when.Instant { return when.At(s.Now()) }

// awaitsAt tells whether a meeting waits for its link from a provider.
func awaitsAt(r schedule.Record, key string) bool {
	return r.CalledOffAt == nil && r.Content.Card.AwaitedFrom(key)
}

// over tells whether all dates of a meeting have ended.
func over(m meeting.Meeting, now when.Instant) bool {
	if !m.Repeats() {
		return m.Span().End <= now
	}
	last, ends := m.Plan().Last()
	return ends && m.Plan().Regular(last).Span.End <= now
}

// notMade has the organiser of a meeting learn once that its link could not be made; a sheet
// does not wait any more for what its provider refuses.
func (s *Deeds) notMade(ctx context.Context, c schedule.CallChange, name string, err error) error {
	var refused *schedule.RefusedError
	var said *schedule.ProviderError
	switch {
	case c.SheetID == uuid.Nil:
		late := meeting.Event{Kind: meeting.EventLinkLate, Name: name}
		if errors.As(err, &said) {
			late.Why = &said.What
		}
		err = errors.Join(err, s.note(ctx, c.MeetingID, late))
	case errors.As(err, &refused):
		err = errors.Join(err, s.changeStore().InTx(ctx, func(tx changeTx) error {
			sheet, err := tx.LockSheet(ctx, c.SheetID, c.PersonID)
			if err != nil || !sheet.Card.SameCall(&c.Card.Card) {
				return err
			}
			sheet.Card = nil
			return s.Sheets.StoreSheet(ctx, tx, &sheet)
		}))
	}
	if errors.Is(err, schedule.ErrConnect) { // signing in mends it
		return schedule.ErrUnreachable
	}
	return err
}

// giveTx is what is needed of a transaction to give a meeting another call.
type giveTx interface {
	kernel.In
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	LockSheetForMeeting(ctx context.Context, meetingID uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	LockSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	RebaseSheetOn(ctx context.Context, id uuid.UUID, version int, card *join.Card) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// lockWithSheets locks a meeting and the sheets that change it, in the order that everybody
// keeps.
func (s *Deeds) lockWithSheets(ctx context.Context, tx giveTx, id uuid.UUID) (schedule.Record, error) {
	if err := tx.LockSheetsOf(ctx, id); err != nil {
		return schedule.Record{}, err
	}
	return tx.LockMeeting(ctx, id)
}

// giveCard gives a meeting that is locked another call and tells everybody concerned, each
// once. A sheet on which it is being changed goes on with the new one.
func (s *Deeds) giveCard(ctx context.Context, tx giveTx, record schedule.Record, card join.Card, what meeting.Event) error {
	st := kernel.Settled{Before: &record, Story: &kernel.Line{Event: what}, CallStands: true}
	st.Organiser.ID, st.Organiser.Name = record.OrganiserID, record.Content.Organiser.Name
	var err error
	if st.Invited, err = tx.AllInvited(ctx, record.ID); err != nil {
		return err
	}
	after := record.Content
	after.Card = &card
	if err := st.Become(ctx, tx, after, s.Now()); err != nil {
		return err
	}
	st.Due = slices.DeleteFunc(st.Due, func(m meeting.Message) bool { return over(record.Content, s.now()) })
	stored, _, err := s.Kernel.Write(ctx, tx, st)
	if err != nil {
		return err
	}
	sheet, err := tx.LockSheetForMeeting(ctx, record.ID, record.OrganiserID)
	switch {
	case errors.Is(err, schedule.ErrNotFound):
	case err != nil:
		return err
	case sheet.BasedOn == record.Version:
		if sheet.Card.SameCall(record.Content.Card) {
			sheet.Card = &card
		}
		if err := tx.RebaseSheetOn(ctx, sheet.ID, stored.Version, sheet.Card); err != nil {
			return err
		}
		if err := tx.Tell(ctx, sheet.Notice()); err != nil {
			return err
		}
	}
	return nil
}

// note writes into the history of a meeting what its organiser has to know of its call, once
// after each change of the meeting.
func (s *Deeds) note(ctx context.Context, id uuid.UUID, e meeting.Event) error {
	return s.changeStore().InTx(ctx, func(tx changeTx) error {
		record, err := tx.LockMeeting(ctx, id)
		if err != nil {
			return err
		}
		latest, err := tx.Happenings(ctx, record.ID, 20)
		if err != nil {
			return err
		}
		changed := slices.IndexFunc(latest, func(h schedule.Happening) bool { return h.Kind == meeting.EventChanged || h.Kind == meeting.EventSent })
		said := slices.IndexFunc(latest, func(h schedule.Happening) bool { return h.Kind == e.Kind })
		if said >= 0 && (changed < 0 || said < changed) {
			return nil
		}
		if err := s.Happened(ctx, tx, record, uuid.Nil, e); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: record.ID})
	})
}
