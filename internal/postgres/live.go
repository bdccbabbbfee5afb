package postgres

import (
	"context"
	"encoding/json"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
)

// Notice says whose windows show something that changed.
type Notice struct {
	People []uuid.UUID `json:"people"`
	About  uuid.UUID   `json:"about"`
}

// Listen hands every notice of any instance to hear until ctx ends. When the
// connection is lost it makes a new one and calls lost, because notices may
// have been missed.
func Listen(ctx context.Context, pool *pgxpool.Pool, hear func(Notice), lost func()) {
	for ctx.Err() == nil {
		if err := listenOnce(ctx, pool, hear); err != nil && ctx.Err() == nil {
			slog.Warn("live updates: connection lost, connecting again", "error", err)
			lost()
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func listenOnce(ctx context.Context, pool *pgxpool.Pool, hear func(Notice)) error {
	pooled, err := pool.Acquire(ctx)
	if err != nil {
		return err
	}
	conn := pooled.Hijack() // it LISTENs for ever and must not go back to the pool
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "LISTEN jembro_live"); err != nil {
		return err
	}
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var notice Notice
		if err := json.Unmarshal([]byte(n.Payload), &notice); err != nil {
			slog.Warn("live updates: a notice that cannot be read", "error", err)
			continue
		}
		hear(notice)
	}
}
