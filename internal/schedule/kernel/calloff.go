package kernel

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// calloffTx is what is needed here of a transaction.
type calloffTx interface {
	datesTx
	tellTx
	DropOccurrences(ctx context.Context, meetingID uuid.UUID) error
	DropSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	Related(ctx context.Context, uid string, relatedTo string) ([]schedule.Record, error)
	SetMeeting(ctx context.Context, r schedule.Record) error
}

// CallOff calls all of a meeting off that is locked, and tells everybody, with a word if there
// is one: its rooms become clear, its call is withdrawn, and begun changes are dropped.
func (k Kernel) CallOff(ctx context.Context, in In, record schedule.Record, word string) error {
	tx := in.Kernel().store
	now, id := k.Now(), record.ID
	before := record.Content
	off, due := meeting.CalledOff(before)
	record.Stamp = k.stampAfter(record)
	record.Version, record.Content, record.CalledOffAt = record.Version+1, off, &now
	if err := tx.SetMeeting(ctx, record); err != nil {
		return err
	}
	dates, err := tx.Occurrences(ctx, id)
	if err != nil {
		return err
	}
	given := roomIDs(dates)
	if err := tx.LockRooms(ctx, given); err != nil {
		return err
	}
	if err := tx.DropOccurrences(ctx, id); err != nil {
		return err
	}
	if len(given) > 0 {
		if err := k.offerTo(ctx, tx, given); err != nil {
			return err
		}
	}
	if err := k.askNobody(ctx, tx, id); err != nil {
		return err
	}
	if err := k.dispatch(ctx, tx, &before, record, due, Saying(word)); err != nil {
		return err
	}
	related, err := tx.Related(ctx, off.UID, off.RelatedTo)
	if err != nil {
		return err
	}
	if LinkAfter(off, true, len(related) > 0) == "withdrawn" {
		if err := withdrawUnused(ctx, tx, record.OrganiserID, off.Card, nil); err != nil {
			return err
		}
	}
	if err := tx.DropSheetsOf(ctx, id); err != nil {
		return err
	}
	event := meeting.Event{Kind: meeting.EventCalledOff, Who: off.Organiser.Name, Told: len(due)}
	if err := k.Happened(ctx, tx, record, record.OrganiserID, event); err != nil {
		return err
	}
	return tx.Tell(ctx, record.Notice())
}

// LinkAfter is what becomes of the link of a meeting that is called off, wholly or
// in part; that of a series that goes on elsewhere is in use.
func LinkAfter(m meeting.Meeting, whole, goesOn bool) string {
	switch {
	case m.Card == nil:
		return "none"
	case whole && !goesOn && m.Card.Made():
		return "withdrawn"
	}
	return "stays"
}
