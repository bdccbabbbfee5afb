// Package jobs does what leaves the house, from queues in the database: every job
// can run twice without harm, and waits where the other side is away.
package jobs

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"jembro/internal/queue"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/dispatch"
)

// So many jobs of a queue run at a time in one instance, so many mails to one domain, and so
// many more wait for a moment until those are through.
const (
	mailWorkers, callWorkers, calendarWorkers, otherWorkers = 40, 10, 8, 4
	mailsPerDomain, mailsWaiting                            = 4, 24
	calendarsPerHost                                        = 2
)

// How long jobs may take. Mails leave room for a server that takes its time: RFC 5321,
// 4.5.3.2.6 allows ten minutes for the answer after the message alone. Others have what River
// gives them.
const (
	mailTimeout     = 15 * time.Minute
	callTimeout     = 3 * time.Minute
	calendarTimeout = 2 * time.Minute
	checkTimeout    = 20 * time.Minute
	rollTimeout     = 30 * time.Minute
	fillTimeout     = time.Hour
)

// worker does the jobs of one kind.
type worker[A river.JobArgs] struct {
	river.WorkerDefaults[A]
	timeout time.Duration // 0 for River's own
	rests   bool          // between attempts as long as River has it
	do      func(ctx context.Context, job *river.Job[A]) error
}

func (w *worker[A]) Work(ctx context.Context, job *river.Job[A]) error { return w.do(ctx, job) }

func (w *worker[A]) Timeout(*river.Job[A]) time.Duration { return w.timeout }

// NextRetry waits a second before a job is tried again, then twice as long each time, a minute
// at the most. The other side is often back within seconds, and nobody should wait for the next
// hour then.
func (w *worker[A]) NextRetry(job *river.Job[A]) time.Time {
	if w.rests {
		return time.Time{}
	}
	return time.Now().Add(min(time.Second<<min(job.Attempt-1, 10), time.Minute))
}

// add has jobs of a kind be done by their arguments; trying again does not mend what is final.
func add[A river.JobArgs](all *river.Workers, timeout time.Duration, do func(ctx context.Context, args A) error) {
	river.AddWorker(all, &worker[A]{timeout: timeout, do: func(ctx context.Context, job *river.Job[A]) error {
		return final(do(ctx, job.Args))
	}})
}

// final ends a job that trying again does not mend.
func final(err error) error {
	var refused *schedule.RefusedError
	if errors.As(err, &refused) || errors.Is(err, schedule.ErrNotFound) || errors.Is(err, schedule.ErrConnect) {
		return river.JobCancel(err)
	}
	return err
}

// due has it be looked for what is due. It is looked again soon in any case.
func due[A river.JobArgs](all *river.Workers, timeout time.Duration, do func(ctx context.Context) error) {
	river.AddWorker(all, &worker[A]{timeout: timeout, rests: true, do: func(ctx context.Context, _ *river.Job[A]) error { return do(ctx) }})
}

// workers does every kind of job with the deeds.
func workers(d *deeds.Deeds) *river.Workers {
	all := river.NewWorkers()
	river.AddWorker(all, &worker[queue.Dispatch]{timeout: mailTimeout, do: deliver(d, newDomains(mailsPerDomain, mailsWaiting))})
	add(all, mailTimeout, func(ctx context.Context, a queue.Forward) error { return d.Dispatch.Forward(ctx, a.LetterID) })
	add(all, mailTimeout, func(ctx context.Context, a queue.Reply) error {
		return d.Invitations.SendReply(ctx, a.InvitationID, a.Version)
	})
	add(all, mailTimeout, func(ctx context.Context, a queue.Reminder) error { return d.Today.SendReminder(ctx, a.Mail()) })
	add(all, callTimeout, func(ctx context.Context, a queue.CallChange) error {
		return inTheirTime(d.Links.ChangeCall(ctx, a.CallChange))
	})
	add(all, mailTimeout, func(ctx context.Context, a queue.ReplaceStanding) error {
		return d.Links.ReplaceStanding(ctx, a.StandingID)
	})
	river.AddWorker(all, &worker[queue.Send]{do: func(ctx context.Context, job *river.Job[queue.Send]) error {
		return d.Sheets.SendWaiting(ctx, job.Args.SheetID)
	}})
	river.AddWorker(all, &worker[queue.Refresh]{timeout: calendarTimeout, do: refresh(d, newDomains(calendarsPerHost, 0))})
	due[queue.CheckCalls](all, checkTimeout, func(ctx context.Context) error { return checkCalls(ctx, d) })
	due[queue.RollForward](all, rollTimeout, func(ctx context.Context) error {
		return errors.Join(d.Meetings.RollForward(ctx), d.Invitations.RollForward(ctx))
	})
	due[queue.MailNews](all, mailTimeout, func(ctx context.Context) error {
		return errors.Join(d.News.MailNews(ctx), d.Today.MailMornings(ctx))
	})
	due[queue.Sweep](all, 0, d.Dispatch.Sweep)
	due[queue.Nudge](all, 0, d.Today.NudgeSilent)
	due[queue.Remind](all, 0, d.Today.Remind)
	due[queue.FillFound](all, fillTimeout, d.Meetings.FillFound)
	due[queue.Rooms](all, 0, d.Rooms.Sweep)
	due[queue.DueCalendars](all, 0, func(ctx context.Context) error { return dueCalendars(ctx, d) })
	return all
}

// deliver hands mails over, so many to a domain at a time.
func deliver(d *deeds.Deeds, domains *domains) func(context.Context, *river.Job[queue.Dispatch]) error {
	return func(ctx context.Context, job *river.Job[queue.Dispatch]) error {
		leave, ok := domains.enter(ctx, job.Args.Domain)
		if !ok { // enough mails are on their way there, and wait for it
			return river.JobSnooze(time.Second)
		}
		defer leave()
		err := d.Dispatch.Deliver(ctx, job.Args.DispatchID)
		if errors.Is(err, dispatch.ErrEarlier) { // the longer it waits already, the less often it looks
			return river.JobSnooze(min(max(time.Since(job.CreatedAt)/10, time.Second), 20*time.Second))
		}
		if err != nil && job.Attempt >= job.MaxAttempts {
			return errors.Join(river.JobCancel(err), d.Dispatch.GiveUp(ctx, job.Args.DispatchID, "given up: "+err.Error()))
		}
		return final(err)
	}
}

// longestAsked is how long a provider can have its jobs wait by asking for it: it may say an
// hour and be back in a minute.
const longestAsked = 5 * time.Minute

// inTheirTime waits as long as a provider asks for.
func inTheirTime(err error) error {
	var said *schedule.ProviderError
	if errors.As(err, &said) && errors.Is(err, schedule.ErrUnreachable) && said.Wait > time.Second {
		return river.JobSnooze(min(said.Wait, longestAsked))
	}
	return err
}

func checkCalls(ctx context.Context, d *deeds.Deeds) error {
	if err := errors.Join(d.Links.SweepSheets(ctx), d.Sheets.SweepFiles(ctx)); err != nil {
		return err
	}
	for {
		if more, err := d.Links.CheckCalls(ctx); err != nil || !more {
			return err
		}
	}
}

// calendarsAtOnce is how many calendars are taken at a time that are to be read again.
const calendarsAtOnce = 60

func dueCalendars(ctx context.Context, d *deeds.Deeds) error {
	found, err := d.Calendars.Due(ctx, calendarsAtOnce)
	if err != nil || len(found) == 0 {
		return err
	}
	all := make([]river.InsertManyParams, len(found))
	for i, c := range found {
		all[i] = river.InsertManyParams{Args: queue.Refresh{CalendarID: c.ID, Host: c.Host}}
	}
	_, err = river.ClientFromContext[pgx.Tx](ctx).InsertMany(ctx, all)
	return err
}

// refresh reads a calendar, so many at a host at a time.
func refresh(d *deeds.Deeds, hosts *domains) func(context.Context, *river.Job[queue.Refresh]) error {
	return func(ctx context.Context, job *river.Job[queue.Refresh]) error {
		leave, ok := hosts.enter(ctx, job.Args.Host)
		if !ok { // enough is asked there already, and others need not wait for it
			return river.JobSnooze(3 * time.Second)
		}
		defer leave()
		return d.Calendars.Refresh(ctx, job.Args.CalendarID)
	}
}

// every has a job be there once in a while, and at the start where that matters.
func every(period time.Duration, atStart bool, args river.JobArgs) *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(period), func() (river.JobArgs, *river.InsertOpts) { return args, nil },
		&river.PeriodicJobOpts{RunOnStart: atStart})
}

// Running is the work on the queues.
type Running struct {
	client *river.Client[pgx.Tx]
	alive  *alive
	cancel context.CancelFunc
}

// Start works on the queues until Stop is called on what it returns.
func Start(ctx context.Context, pool *pgxpool.Pool, d *deeds.Deeds) (*Running, error) {
	instance := uuid.NewString()
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		ID: instance,
		Queues: map[string]river.QueueConfig{queue.Mail: {MaxWorkers: mailWorkers}, queue.Calls: {MaxWorkers: callWorkers}, queue.Calendars: {MaxWorkers: calendarWorkers},
			queue.Other: {MaxWorkers: otherWorkers}},
		Workers: workers(d),
		PeriodicJobs: []*river.PeriodicJob{
			every(queue.EveryRollForward, true, queue.RollForward{}),
			every(queue.EverySweep, true, queue.Sweep{}),
			every(queue.EveryMailNews, false, queue.MailNews{}),
			every(queue.EveryRemind, true, queue.Remind{}),
			every(queue.EveryNudge, false, queue.Nudge{}),
			every(queue.EveryRooms, true, queue.Rooms{}),
			every(queue.EveryCalendars, true, queue.DueCalendars{}),
			every(queue.EveryCheckCalls, true, queue.CheckCalls{}),
			every(queue.EveryFillFound, true, queue.FillFound{}),
		},
		FetchPollInterval:    time.Second, // a notice wakes it sooner
		RescueStuckJobsAfter: 40 * time.Minute,
	})
	if err != nil {
		return nil, err
	}
	running, cancel := context.WithCancel(ctx)
	r := &Running{client: client, cancel: cancel, alive: newAlive(pool, instance)}
	if err := r.alive.start(running); err != nil {
		cancel()
		return nil, err
	}
	if err := client.Start(running); err != nil {
		cancel()
		return nil, err
	}
	return r, nil
}

// Stop lets the jobs under way finish; those that have not when ctx ends are broken
// off, and wait in the queue.
func (r *Running) Stop(ctx context.Context) error {
	err := r.client.Stop(ctx)
	if err != nil {
		hard, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		if err = r.client.StopAndCancel(hard); err != nil {
			slog.Warn("jobs were broken off and are taken up again by the next instance", "error", err)
		}
	}
	r.cancel()
	r.alive.wait()
	return err
}
