package program

import (
	"context"
	"fmt"
	"log/slog"
	"sync/atomic"
	"time"

	"jembro/internal/postgres"
)

// clock is the program's clock. The database's clock decides, so that all instances
// agree whatever their own machines show; one that begins at another moment, for
// demos, runs on from there, and never runs backwards over what is stored.
type clock struct {
	store *postgres.Store
	began time.Time // JEMBRO_NOW, zero for the real time
	// ahead is by how much the clock is ahead of this machine's, in nanoseconds.
	ahead atomic.Int64
}

func newClock(ctx context.Context, now string, store *postgres.Store) (*clock, error) {
	c := &clock{store: store}
	if now == "" {
		return c, c.look(ctx)
	}
	from, err := time.Parse(time.RFC3339, now)
	if err != nil {
		return nil, fmt.Errorf("JEMBRO_NOW: %q is not a moment like 2026-11-24T10:12:00Z", now)
	}
	c.began = from
	return c, store.Look(ctx, func(tx *postgres.Tx) error {
		last, err := tx.LastStamp(ctx)
		if last.After(from) {
			from = last.Add(time.Second)
		}
		c.ahead.Store(int64(time.Until(from)))
		return err
	})
}

// Clock is the program's clock on a store: now is JEMBRO_NOW, or empty.
func Clock(ctx context.Context, now string, store *postgres.Store) (func() time.Time, error) {
	c, err := newClock(ctx, now, store)
	if err != nil {
		return nil, err
	}
	return c.now, nil
}

func (c *clock) now() time.Time { return time.Now().Add(time.Duration(c.ahead.Load())) }

// look sets the clock by the database's.
func (c *clock) look(ctx context.Context) error {
	return c.store.Look(ctx, func(tx *postgres.Tx) error {
		asked := time.Now()
		shown, err := tx.DatabaseNow(ctx)
		if err != nil {
			return err
		}
		// The answer was on its way for a while; half of that, mostly.
		c.ahead.Store(int64(shown.Sub(asked.Add(time.Since(asked) / 2))))
		return nil
	})
}

// follow looks at the database's clock every minute until ctx ends.
func (c *clock) follow(ctx context.Context) {
	for c.began.IsZero() {
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Minute):
		}
		if err := c.look(ctx); err != nil && ctx.Err() == nil {
			slog.Warn("clock: the database does not say what time it is", "error", err)
		}
	}
}
