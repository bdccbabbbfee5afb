package postgres

import (
	"context"
	"encoding/json"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"

	"jembro/internal/schedule"
)

// Listen hands every notice of any instance to hear until ctx ends. It calls missed
// each time that it has begun to listen after a connection was lost: what was told
// in between, nobody heard.
func Listen(ctx context.Context, pool *pgxpool.Pool, hear func(schedule.Notice), missed func()) {
	for lost := false; ctx.Err() == nil; lost = true {
		began := func() {
			if lost {
				missed()
			}
		}
		if err := listenOnce(ctx, pool, began, hear); err != nil && ctx.Err() == nil {
			slog.Warn("live updates: connection lost, connecting again", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func listenOnce(ctx context.Context, pool *pgxpool.Pool, began func(), hear func(schedule.Notice)) error {
	pooled, err := pool.Acquire(ctx)
	if err != nil {
		return err
	}
	conn := pooled.Hijack() // it LISTENs for ever and must not go back to the pool
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "LISTEN jembro_live"); err != nil {
		return err
	}
	began()
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var notice schedule.Notice
		if err := json.Unmarshal([]byte(n.Payload), &notice); err != nil {
			slog.Warn("live updates: a notice that cannot be read", "error", err)
			continue
		}
		hear(notice)
	}
}
