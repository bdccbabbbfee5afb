package schedule

import (
	"context"
	"errors"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// OpenSheet begins a meeting. Without a time it proposes the next full hour
// within the person's working hours.
func (s *Service) OpenSheet(ctx context.Context, me uuid.UUID, start, end string) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		p, err := person(ctx, tx, me)
		if err != nil {
			return err
		}
		if start == "" || end == "" {
			at := nextHour(p.Hours, when.At(s.now()))
			start, end = at.String(), at.Add(time.Hour).String()
		}
		sheet = Sheet{ID: uuid.New(), OwnerID: me, Version: 1, UpdatedAt: s.now(), Draft: meeting.Draft{
			Start: start, End: end, Zone: p.Hours.Zone.String(), RemindBefore: 15, People: []meeting.DraftPerson{}}}
		return tx.AddSheet(ctx, sheet)
	})
	return sheet, err
}

// nextHour is the first full hour after now with an hour worked, or simply the
// next one for somebody who does not work in the two weeks to come.
func nextHour(hours when.Hours, now when.Instant) when.Local {
	local := hours.Zone.LocalAt(now)
	first := when.Local{Day: local.Day, Clock: local.Clock / 60 * 60}.Add(time.Hour)
	worked := hours.Within(when.Span{Start: now, End: now.Add(14 * 24 * time.Hour)})
	for at := first; at.Sub(first) < 14*24*time.Hour; at = at.Add(time.Hour) {
		start, exists := hours.Zone.Resolve(at)
		if exists && worked.Covers(when.Span{Start: start, End: start.Add(time.Hour)}) {
			return at
		}
	}
	return first
}

// SheetView is a sheet with how it stands.
type SheetView struct {
	Sheet
	Of     *Record           // the meeting that it changes
	Faults []meeting.Fault   // what keeps it from being sent
	Due    []meeting.Message // whom Send would reach; nobody while there are faults
}

// Sheet is one sheet of the owner, with how it stands.
func (s *Service) Sheet(ctx context.Context, me, id uuid.UUID) (v SheetView, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		if v.Sheet, v.Of, err = sheetAndMeeting(ctx, tx, me, id); err != nil {
			return err
		}
		st, err := s.settle(ctx, tx, v.Sheet, v.Of)
		var invalid *InvalidError
		if errors.As(err, &invalid) {
			v.Faults = invalid.Faults
			return nil
		}
		v.Due = st.due
		return err
	})
	return v, err
}

func sheetAndMeeting(ctx context.Context, tx Tx, me, id uuid.UUID) (Sheet, *Record, error) {
	sheet, err := tx.Sheet(ctx, id, me)
	if err != nil || sheet.MeetingID == nil {
		return sheet, nil, err
	}
	record, err := tx.Meeting(ctx, *sheet.MeetingID)
	return sheet, &record, err
}

// Sheets are the owner's sheets, the last touched first.
func (s *Service) Sheets(ctx context.Context, me uuid.UUID, page Page) (sheets []Sheet, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		sheets, err = tx.Sheets(ctx, me, page)
		return err
	})
	return sheets, err
}

// SaveSheet keeps a draft as it was typed, right or not. It fails with a
// *VersionError when another window saved after version.
func (s *Service) SaveSheet(ctx context.Context, me, id uuid.UUID, version int, draft meeting.Draft) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		sheet, err = lockSheet(ctx, tx, me, id, version)
		if err != nil {
			return err
		}
		sheet.Draft = keepable(draft)
		return s.storeSheet(ctx, tx, &sheet)
	})
	return sheet, err
}

// lockSheet holds a sheet for a write that is based on version.
func lockSheet(ctx context.Context, tx Tx, me, id uuid.UUID, version int) (Sheet, error) {
	sheet, err := tx.LockSheet(ctx, id, me)
	if err != nil {
		return sheet, err
	}
	if sheet.Version != version {
		return sheet, &VersionError{Sheet: &sheet, Changed: "another window of yours saved this sheet"}
	}
	return sheet, nil
}

func (s *Service) storeSheet(ctx context.Context, tx Tx, sheet *Sheet) error {
	sheet.UpdatedAt = s.now()
	sheet.Version++
	if err := tx.SetSheet(ctx, *sheet); err != nil {
		return err
	}
	return tx.Tell(ctx, []uuid.UUID{sheet.OwnerID}, uuid.Nil)
}

// keepable drops the one character that no database takes.
func keepable(d meeting.Draft) meeting.Draft {
	clean := func(text *string) { *text = strings.ReplaceAll(*text, "\x00", "") }
	for _, text := range []*string{&d.Title, &d.Text, &d.Start, &d.End, &d.Zone, &d.RoomID} {
		clean(text)
	}
	people := make([]meeting.DraftPerson, len(d.People))
	for i, p := range d.People {
		clean(&p.Name)
		clean(&p.Email)
		people[i] = p
	}
	d.People = people
	return d
}

// DiscardSheet throws a sheet away; a link that was made for it is withdrawn.
func (s *Service) DiscardSheet(ctx context.Context, me, id uuid.UUID) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		sheet, of, err := sheetAndMeeting(ctx, tx, me, id)
		if err != nil {
			return err
		}
		if err := withdrawUnused(ctx, tx, me, sheet.Card, of); err != nil {
			return err
		}
		return tx.DropSheet(ctx, id)
	})
}

// withdrawUnused takes a call back at its provider when no meeting has it.
func withdrawUnused(ctx context.Context, tx Tx, owner uuid.UUID, card *join.Card, of *Record) error {
	if card == nil || of != nil && of.Content.Card != nil && of.Content.Card.URL == card.URL {
		return nil
	}
	return tx.QueueCallChange(ctx, CallChange{PersonID: owner, Card: *card, Withdraw: true})
}

// ChangeMeeting opens the sheet of a meeting: the one begun already, or a new
// one that holds the meeting as it is. Only the organiser can.
func (s *Service) ChangeMeeting(ctx context.Context, me, id uuid.UUID) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		record, err := organised(ctx, tx, me, id)
		if err != nil {
			return err
		}
		if sheet, err = tx.SheetForMeeting(ctx, id, me); !errors.Is(err, ErrNotFound) {
			return err
		}
		sheet = Sheet{ID: uuid.New(), OwnerID: me, MeetingID: &id, BasedOn: record.Version,
			Draft: draftOf(record.Content), Card: record.Content.Card, Version: 1, UpdatedAt: s.now()}
		return tx.AddSheet(ctx, sheet)
	})
	return sheet, err
}

// RebaseSheet starts a sheet of changes again from the meeting as it is now.
func (s *Service) RebaseSheet(ctx context.Context, me, id uuid.UUID, version int) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		if sheet, err = lockSheet(ctx, tx, me, id, version); err != nil {
			return err
		}
		if sheet.MeetingID == nil {
			return ErrNotFound
		}
		record, err := organised(ctx, tx, me, *sheet.MeetingID)
		if err != nil {
			return err
		}
		if err := withdrawUnused(ctx, tx, me, sheet.Card, &record); err != nil {
			return err
		}
		sheet.BasedOn, sheet.Draft, sheet.Card = record.Version, draftOf(record.Content), record.Content.Card
		return s.storeSheet(ctx, tx, &sheet)
	})
	return sheet, err
}

// organised locks a meeting that me organises and that is still on.
func organised(ctx context.Context, tx Tx, me, id uuid.UUID) (Record, error) {
	record, err := tx.LockMeeting(ctx, id)
	switch {
	case err != nil:
		return record, err
	case record.OrganiserID != me:
		return record, ErrNotFound
	case record.CalledOffAt != nil:
		return record, ErrCalledOff
	}
	return record, nil
}

func draftOf(m meeting.Meeting) meeting.Draft {
	d := meeting.Draft{Title: m.Title, Text: m.Text, Start: m.Start.String(), End: m.End.String(), Zone: m.Zone, Private: m.Private,
		RemindBefore: m.RemindBefore, People: []meeting.DraftPerson{}, NoRoom: m.Room == nil, NoLink: m.Card == nil}
	for _, p := range m.Participants {
		d.People = append(d.People, meeting.DraftPerson{PersonID: p.PersonID, Name: p.Name, Email: p.Email, Needed: p.Needed})
	}
	if m.Room != nil {
		d.RoomID = m.Room.ID
	}
	return d
}
