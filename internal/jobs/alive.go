package jobs

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
)

// A program that is killed leaves its jobs marked as running. Every instance holds
// a lock in the database as long as its connection lives; whose lock is gone is
// dead, and its jobs are taken up by the living within seconds.

// look is how often that is looked at. An instance is dead when its lock was gone
// at two looks in a row.
const look = 2 * time.Second

type alive struct {
	pool     *pgxpool.Pool
	instance string
	missing  map[string]bool
	done     sync.WaitGroup
}

func newAlive(pool *pgxpool.Pool, instance string) *alive {
	return &alive{pool: pool, instance: instance, missing: map[string]bool{}}
}

// start shows that this instance lives, until ctx ends.
func (a *alive) start(ctx context.Context) error {
	conn, err := a.lock(ctx)
	if err != nil {
		return err
	}
	a.done.Add(1)
	go func() {
		defer a.done.Done()
		defer func() { conn.Close(context.WithoutCancel(ctx)) }()
		for {
			select {
			case <-ctx.Done():
				return
			case <-time.After(look):
			}
			if err := a.sweep(ctx, conn); err != nil && ctx.Err() == nil {
				slog.Warn("jobs: looking for dead instances", "error", err)
				conn.Close(ctx)
				if again, err := a.lock(ctx); err == nil {
					conn = again
				}
			}
		}
	}()
	return nil
}

func (a *alive) wait() { a.done.Wait() }

// lock opens a connection of its own that shows that this instance lives.
func (a *alive) lock(ctx context.Context) (*pgx.Conn, error) {
	conn, err := pgx.ConnectConfig(ctx, a.pool.Config().ConnConfig.Copy())
	if err != nil {
		return nil, err
	}
	_, err = conn.Exec(ctx, "SELECT pg_advisory_lock_shared(hashtextextended('jembro instance ' || $1, 0))", a.instance)
	if err != nil {
		conn.Close(ctx)
	}
	return conn, err
}

// running is who works on jobs; dead tells whose lock nobody holds.
const running = `
SELECT who, NOT EXISTS (
    SELECT 1 FROM pg_locks l WHERE l.locktype = 'advisory' AND l.granted AND l.objsubid = 1
      AND l.database = (SELECT oid FROM pg_database WHERE datname = current_database())
      AND (l.classid::bigint << 32) + l.objid::bigint = hashtextextended('jembro instance ' || who, 0)) AS dead
FROM (SELECT DISTINCT attempted_by[array_upper(attempted_by, 1)] AS who FROM river_job WHERE state = 'running') w
WHERE who IS NOT NULL`

// freed gives the jobs of a dead instance to the others; the try that was broken
// off does not count.
const freed = `
UPDATE river_job SET state = 'available', scheduled_at = now(), attempt = greatest(attempt - 1, 0)
WHERE state = 'running' AND attempted_by[array_upper(attempted_by, 1)] = $1`

func (a *alive) sweep(ctx context.Context, conn *pgx.Conn) error {
	type instance struct {
		Who  string
		Dead bool
	}
	rows, err := conn.Query(ctx, running)
	if err != nil {
		return err
	}
	found, err := pgx.CollectRows(rows, pgx.RowToStructByPos[instance])
	if err != nil {
		return err
	}
	missing := map[string]bool{}
	for _, i := range found {
		switch {
		case !i.Dead:
		case a.missing[i.Who]:
			tag, err := conn.Exec(ctx, freed, i.Who)
			if err != nil {
				return err
			}
			slog.Info("jobs: taken over from an instance that is gone", "instance", i.Who, "jobs", tag.RowsAffected())
		default:
			missing[i.Who] = true
		}
	}
	a.missing = missing
	return nil
}
