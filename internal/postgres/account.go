package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
)

// AddSession keeps a session that was begun, until a moment.
func (t *Tx) AddSession(ctx context.Context, tokenHash []byte, personID uuid.UUID, from, until time.Time) error {
	return t.InsertSession(ctx, db.InsertSessionParams{TokenHash: tokenHash, PersonID: personID, CreatedAt: from, ExpiresAt: until})
}

// SessionPerson is whose session it is; it fails with ErrNotFound for one that is over or was left alone for too long.
func (t *Tx) SessionPerson(ctx context.Context, tokenHash []byte, now, idleSince time.Time) (schedule.Session, error) {
	row, err := t.Queries.SessionPerson(ctx, db.SessionPersonParams{TokenHash: tokenHash, Now: now, IdleSince: idleSince})
	return schedule.Session{Person: row.PersonID, Language: row.Language, Seen: row.SeenAt}, domain(err)
}

// TouchSession notes that a session is in use.
func (t *Tx) TouchSession(ctx context.Context, tokenHash []byte, now time.Time) error {
	return t.Queries.TouchSession(ctx, db.TouchSessionParams{TokenHash: tokenHash, Now: now})
}

// DropSession is whose it was.
func (t *Tx) DropSession(ctx context.Context, tokenHash []byte) (uuid.UUID, error) {
	id, err := t.DeleteSession(ctx, tokenHash)
	return id, domain(err)
}

// DropSessionsOf ends the sessions of somebody, but for one.
func (t *Tx) DropSessionsOf(ctx context.Context, personID uuid.UUID, but []byte) error {
	return t.DeleteSessionsOf(ctx, db.DeleteSessionsOfParams{PersonID: personID, But: but})
}

// DropOldSessions forgets sessions that are over.
func (t *Tx) DropOldSessions(ctx context.Context, now, idleSince time.Time) error {
	if err := t.DeleteOldThrottles(ctx, now.Add(-24*time.Hour)); err != nil {
		return err
	}
	return t.DeleteOldSessions(ctx, db.DeleteOldSessionsParams{Now: now, IdleSince: idleSince})
}

// Throttles are how often was failed for some keys.
func (t *Tx) Throttles(ctx context.Context, keys []string) (map[string]account.Throttle, error) {
	rows, err := t.Queries.Throttles(ctx, keys)
	if err != nil {
		return nil, err
	}
	out := map[string]account.Throttle{}
	for _, r := range rows {
		out[r.Key] = account.Throttle{Fails: int(r.Fails), Last: r.LastAt}
	}
	return out, nil
}

// AddFails counts tries that failed; keys in one order, so that nobody waits for
// somebody who waits for them.
func (t *Tx) AddFails(ctx context.Context, keys []string, now time.Time) error {
	return t.Queries.AddFails(ctx, db.AddFailsParams{Keys: keys, Now: now})
}

// DropThrottle forgets what was failed for a key.
func (t *Tx) DropThrottle(ctx context.Context, key string) error { return t.DeleteThrottle(ctx, key) }

// SetPassword keeps the hash of a password.
func (t *Tx) SetPassword(ctx context.Context, id uuid.UUID, hash string) error {
	return t.Queries.SetPassword(ctx, db.SetPasswordParams{ID: id, PasswordHash: hash})
}

// LastStamp is the latest moment that was written down, or 1970.
func (t *Tx) LastStamp(ctx context.Context) (time.Time, error) { return t.Queries.LastStamp(ctx) }

// DatabaseNow is what the database's clock shows.
func (t *Tx) DatabaseNow(ctx context.Context) (time.Time, error) { return t.Queries.DatabaseNow(ctx) }

// OutsideMails are how many mails to people outside somebody caused since two
// moments.
func (t *Tx) OutsideMails(ctx context.Context, personID uuid.UUID, sinceHour, sinceDay time.Time) (lastHour, lastDay int, err error) {
	row, err := t.Queries.OutsideMails(ctx, db.OutsideMailsParams{PersonID: personID, SinceHour: sinceHour, SinceDay: sinceDay})
	return int(row.LastHour), int(row.LastDay), err
}

// AddOutsideMails counts mails to people outside that somebody causes, by the hour.
func (t *Tx) AddOutsideMails(ctx context.Context, personID uuid.UUID, hour time.Time, count int) error {
	return t.Queries.AddOutsideMails(ctx, db.AddOutsideMailsParams{PersonID: personID, Hour: hour, Count: int32(count)})
}
