package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// SetAddress keeps the short address of a meeting; one that there is keeps its code.
func (t *Tx) SetAddress(ctx context.Context, meetingID uuid.UUID, a schedule.ShortAddress, at time.Time) (schedule.ShortAddress, error) {
	r, err := t.UpsertAddress(ctx, db.UpsertAddressParams{MeetingID: meetingID, Code: a.Code, Asks: a.Asks, MadeAt: at})
	return schedule.ShortAddress(r), err
}

// ShortAddress is that of a meeting; it fails with ErrNotFound.
func (t *Tx) ShortAddress(ctx context.Context, meetingID uuid.UUID) (schedule.ShortAddress, error) {
	r, err := t.AddressOf(ctx, meetingID)
	return schedule.ShortAddress(r), domain(err)
}

// AtAddress is the meeting at a short address, and whether who opens it can ask for an invitation.
func (t *Tx) AtAddress(ctx context.Context, code string) (uuid.UUID, bool, error) {
	r, err := t.MeetingAtAddress(ctx, code)
	return r.MeetingID, r.Asks, domain(err)
}

// DropAddress withdraws the short address of a meeting.
func (t *Tx) DropAddress(ctx context.Context, meetingID uuid.UUID) error {
	return t.DeleteAddress(ctx, meetingID)
}

// PassAddress has the short address of a series lead to the one that goes on from it.
func (t *Tx) PassAddress(ctx context.Context, before, after uuid.UUID) error {
	return t.MoveAddress(ctx, db.MoveAddressParams{Before: before, After: after})
}

// Joined is how many asked for an invitation to a meeting since a moment, and got it.
func (t *Tx) Joined(ctx context.Context, meetingID uuid.UUID, since time.Time) (int, error) {
	n, err := t.JoinedSince(ctx, db.JoinedSinceParams{MeetingID: meetingID, Since: since})
	return int(n), err
}
