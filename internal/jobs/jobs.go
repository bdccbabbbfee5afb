// Package jobs does what leaves the house, from a queue in the database: every
// job can run twice without harm, and waits where the other side is away.
package jobs

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/dispatch"
)

// DispatchArgs hands one message over to the other side's mail server.
type DispatchArgs struct {
	DispatchID uuid.UUID `json:"dispatchId"`
}

func (DispatchArgs) Kind() string { return "dispatch" }

// InsertOpts: two days of trying at a minute's distance at the most.
func (DispatchArgs) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: 2900} }

// CallChangeArgs moves or withdraws a call at its provider.
type CallChangeArgs struct {
	schedule.CallChange
}

func (CallChangeArgs) Kind() string { return "call_change" }

func (CallChangeArgs) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: 2900} }

// patience is how long a job waits before it tries again: a second, then twice
// as long each time, a minute at the most. The other side is often back within
// seconds, and nobody should wait for the next hour then.
func patience(attempt int) time.Duration {
	return min(time.Second<<min(attempt-1, 10), time.Minute)
}

type dispatchWorker struct {
	river.WorkerDefaults[DispatchArgs]
	service *deeds.Deeds
}

func (w *dispatchWorker) Work(ctx context.Context, job *river.Job[DispatchArgs]) error {
	return final(w.service.Dispatch.Deliver(ctx, job.Args.DispatchID))
}

func (w *dispatchWorker) NextRetry(job *river.Job[DispatchArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

func (w *dispatchWorker) Timeout(*river.Job[DispatchArgs]) time.Duration { return time.Minute }

type callChangeWorker struct {
	river.WorkerDefaults[CallChangeArgs]
	service *deeds.Deeds
}

func (w *callChangeWorker) Work(ctx context.Context, job *river.Job[CallChangeArgs]) error {
	return final(w.service.Links.ChangeCall(ctx, job.Args.CallChange))
}

func (w *callChangeWorker) NextRetry(job *river.Job[CallChangeArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

func (w *callChangeWorker) Timeout(*river.Job[CallChangeArgs]) time.Duration { return time.Minute }

// RollForwardArgs writes the dates of running series further ahead.
type RollForwardArgs struct{}

func (RollForwardArgs) Kind() string { return "roll_forward" }

func (RollForwardArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 5, UniqueOpts: river.UniqueOpts{ByPeriod: time.Hour}}
}

type rollForwardWorker struct {
	river.WorkerDefaults[RollForwardArgs]
	service *deeds.Deeds
}

func (w *rollForwardWorker) Work(ctx context.Context, _ *river.Job[RollForwardArgs]) error {
	return w.service.Meetings.RollForward(ctx)
}

func (w *rollForwardWorker) Timeout(*river.Job[RollForwardArgs]) time.Duration {
	return 30 * time.Minute
}

// final ends a job that trying again does not mend, and lets one that has to
// wait for its turn wait.
func final(err error) error {
	if errors.Is(err, dispatch.ErrEarlier) {
		return river.JobSnooze(time.Second)
	}
	var refused *schedule.RefusedError
	if errors.As(err, &refused) || errors.Is(err, schedule.ErrNotFound) || errors.Is(err, schedule.ErrConnect) {
		return river.JobCancel(err)
	}
	return err
}

// Start works on the queue until Stop is called on what it returns.
func Start(ctx context.Context, pool *pgxpool.Pool, service *deeds.Deeds) (*river.Client[pgx.Tx], error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, &dispatchWorker{service: service})
	river.AddWorker(workers, &callChangeWorker{service: service})
	river.AddWorker(workers, &rollForwardWorker{service: service})
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		Queues:  map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 20}},
		Workers: workers,
		PeriodicJobs: []*river.PeriodicJob{river.NewPeriodicJob(river.PeriodicInterval(24*time.Hour),
			func() (river.JobArgs, *river.InsertOpts) { return RollForwardArgs{}, nil }, &river.PeriodicJobOpts{RunOnStart: true})},
		FetchPollInterval: time.Second, // a notice wakes it sooner
	})
	if err != nil {
		return nil, err
	}
	return client, client.Start(ctx)
}
