// Package postgres keeps everything in PostgreSQL, through pgx and queries that
// sqlc made. Violated constraints become the errors of package schedule here.
package postgres

import (
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"

	"jembro/internal/postgres/db"
	"jembro/internal/queue"
	"jembro/internal/schedule"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Migrate brings the schema, River's tables included, to the newest version. It
// can run any number of times, by several instances at once.
func Migrate(ctx context.Context, pool *pgxpool.Pool) error {
	// The lock has a connection of its own: those who wait for it must not use
	// up the pool that whoever has it works with.
	// Changing the schema of a large house takes longer than any deed may.
	config := pool.Config()
	for name := range config.ConnConfig.RuntimeParams {
		if strings.HasSuffix(name, "_timeout") {
			delete(config.ConnConfig.RuntimeParams, name)
		}
	}
	conn, err := pgx.ConnectConfig(ctx, config.ConnConfig)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx)) // gives the lock back
	const lock = 0x6a656d62726f                  // "jembro"
	if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock($1)", lock); err != nil {
		return err
	}

	patient, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return err
	}
	defer patient.Close()
	sqlDB := stdlib.OpenDBFromPool(patient)
	defer sqlDB.Close()
	goose.SetBaseFS(migrations)
	goose.SetLogger(goose.NopLogger())
	if err := goose.SetDialect("postgres"); err != nil {
		return err
	}
	if err := goose.UpContext(ctx, sqlDB, "migrations"); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	river, err := rivermigrate.New(riverpgxv5.New(patient), nil)
	if err != nil {
		return err
	}
	if _, err := river.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrate the job queue: %w", err)
	}
	return nil
}

// Store keeps everything on a pool of connections.
type Store struct {
	pool  *pgxpool.Pool
	river *river.Client[pgx.Tx] // inserts only
}

// NewStore keeps what it is given in pool.
func NewStore(pool *pgxpool.Pool) (*Store, error) {
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{})
	if err != nil {
		return nil, err
	}
	return &Store{pool: pool, river: client}, nil
}

// InTx runs do in one transaction at READ COMMITTED; what must not change
// meanwhile is locked by row: sheets, meetings, who is invited, rooms by id. One
// that the database broke for another's sake is run again.
func (s *Store) InTx(ctx context.Context, do func(*Tx) error) error {
	var err error
	for try := range 8 {
		if err = s.run(ctx, pgx.TxOptions{}, do); !brokenForAnother(err) {
			return err
		}
		select {
		case <-ctx.Done():
			return err
		case <-time.After(time.Duration(1+rand.IntN(20<<try)) * time.Millisecond):
		}
	}
	return err
}

// SQLSTATE codes of PostgreSQL, appendix A of its manual.
const (
	deadlockDetected     = "40P01"
	serializationFailure = "40001"
)

// brokenForAnother tells a deadlock and a failed serialization from errors that
// running again does not mend.
func brokenForAnother(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == deadlockDetected || pg.Code == serializationFailure)
}

// Look runs do on one consistent view.
func (s *Store) Look(ctx context.Context, do func(*Tx) error) error {
	return s.run(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}, do)
}

func (s *Store) run(ctx context.Context, options pgx.TxOptions, do func(*Tx) error) error {
	return pgx.BeginTxFunc(ctx, s.pool, options, func(pgxTx pgx.Tx) error {
		return do(&Tx{Queries: db.New(pgxTx), pgx: pgxTx, river: s.river})
	})
}

// Tx is what every subject needs of a transaction; its methods are in one file a
// subject.
type Tx struct {
	*db.Queries
	pgx   pgx.Tx
	river *river.Client[pgx.Tx]
}

// domain turns what pgx reports into the errors of package schedule.
func domain(err error) error {
	var pg *pgconn.PgError
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		return schedule.ErrNotFound
	case errors.As(err, &pg) && pg.ConstraintName == "booking_once":
		return schedule.ErrOverlap
	}
	return err
}

// must is for values that always marshal.
func must(v any) []byte {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return b
}

// QueueDispatches has messages handed over when the transaction is kept.
func (t *Tx) QueueDispatches(ctx context.Context, all []schedule.Dispatch) error {
	if len(all) == 0 {
		return nil
	}
	params := make([]river.InsertManyParams, len(all))
	for i, d := range all {
		params[i] = river.InsertManyParams{Args: queue.Dispatch{DispatchID: d.ID, Domain: d.Domain}}
	}
	_, err := t.river.InsertManyFastTx(ctx, t.pgx, params)
	return err
}

// QueueSend has a sheet go out some time after the transaction is kept.
func (t *Tx) QueueSend(ctx context.Context, sheetID uuid.UUID, in time.Duration) error {
	_, err := t.river.InsertTx(ctx, t.pgx, queue.Send{SheetID: sheetID}, &river.InsertOpts{ScheduledAt: time.Now().Add(in)})
	return err
}

// QueueReminder has somebody be reminded by mail, some time after the transaction is kept.
func (t *Tx) QueueReminder(ctx context.Context, r schedule.ReminderMail, in time.Duration) error {
	_, err := t.river.InsertTx(ctx, t.pgx, queue.ReminderOf(r),
		&river.InsertOpts{ScheduledAt: time.Now().Add(in)})
	return err
}

// QueueForward has a mail handed on when the transaction is kept.
func (t *Tx) QueueForward(ctx context.Context, letterID uuid.UUID) error {
	_, err := t.river.InsertTx(ctx, t.pgx, queue.Forward{LetterID: letterID}, nil)
	return err
}

// QueueCallChange has a provider told when the transaction is kept.
func (t *Tx) QueueCallChange(ctx context.Context, c schedule.CallChange) error {
	return t.QueueCallChangeIn(ctx, c, 0)
}

// QueueCallChangeIn has a provider told so long after the transaction is kept.
func (t *Tx) QueueCallChangeIn(ctx context.Context, c schedule.CallChange, wait time.Duration) error {
	var options *river.InsertOpts
	if wait > 0 {
		options = &river.InsertOpts{ScheduledAt: time.Now().Add(wait)}
	}
	_, err := t.river.InsertTx(ctx, t.pgx, queue.CallChange{CallChange: c}, options)
	return err
}

// QueueReplace has the meetings that use a standing link get what it is now, when the
// transaction is kept.
func (t *Tx) QueueReplace(ctx context.Context, standing uuid.UUID) error {
	_, err := t.river.InsertTx(ctx, t.pgx, queue.ReplaceStanding{StandingID: standing}, nil)
	return err
}

// Tell says to windows that what they show has changed, when the transaction is
// kept; to at most a hundred people at a time: a payload has 8000 bytes.
func (t *Tx) Tell(ctx context.Context, n schedule.Notice) error {
	people := n.People
	n.Window = schedule.WindowOf(ctx)
	for len(people) > 0 {
		k := min(100, len(people))
		n.People = people[:k]
		if err := t.Notify(ctx, string(must(n))); err != nil {
			return err
		}
		people = people[k:]
	}
	return nil
}
