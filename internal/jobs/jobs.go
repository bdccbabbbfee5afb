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
	"github.com/riverqueue/river/rivertype"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/dispatch"
)

// Mail and calls have queues of their own: where one of them hangs, the others go
// on. So many jobs of a queue run at a time in one instance, so many mails to one domain, and so
// many more wait for a moment until those are through.
const (
	queueMail      = "mail"
	queueCalls     = "calls"
	queueCalendars = "calendars"

	mailWorkers, callWorkers, calendarWorkers, otherWorkers = 40, 10, 8, 4
	mailsPerDomain, mailsWaiting                            = 4, 24
	calendarsPerHost                                        = 2
)

// attempts is more than a job needs for two days of trying at a minute's distance
// at the most; messages end by the clock, not by counting.
const attempts = 4000

// DispatchArgs hands one message over to the other side's mail server.
type DispatchArgs struct {
	DispatchID uuid.UUID `json:"dispatchId"`
	Domain     string    `json:"domain,omitempty"` // where it goes
}

func (DispatchArgs) Kind() string { return "dispatch" }

func (DispatchArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueMail, MaxAttempts: attempts}
}

// ForwardArgs hands on what somebody wrote to a meeting.
type ForwardArgs struct {
	LetterID uuid.UUID `json:"letterId"`
}

func (ForwardArgs) Kind() string { return "forward" }

func (ForwardArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueMail, MaxAttempts: attempts}
}

// SendArgs sends a sheet whose moment has come.
type SendArgs struct {
	SheetID uuid.UUID `json:"sheetId"`
}

func (SendArgs) Kind() string { return "send" }

func (SendArgs) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: attempts} }

type sendWorker struct {
	river.WorkerDefaults[SendArgs]
	deeds *deeds.Deeds
}

func (w *sendWorker) Work(ctx context.Context, job *river.Job[SendArgs]) error {
	return w.deeds.Sheets.SendWaiting(ctx, job.Args.SheetID)
}

func (w *sendWorker) NextRetry(job *river.Job[SendArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

// ReplyArgs sends an answer to who organises a meeting outside.
type ReplyArgs struct {
	InvitationID uuid.UUID `json:"invitationId"`
	Version      int       `json:"version"`
}

func (ReplyArgs) Kind() string { return "reply" }

func (ReplyArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueMail, MaxAttempts: attempts}
}

// CallChangeArgs moves or withdraws a call at its provider.
type CallChangeArgs struct {
	schedule.CallChange
}

func (CallChangeArgs) Kind() string { return "call_change" }

func (CallChangeArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueCalls, MaxAttempts: attempts}
}

// RollForwardArgs writes the dates of running series further ahead.
type RollForwardArgs struct{}

func (RollForwardArgs) Kind() string { return "roll_forward" }

func (RollForwardArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 5, UniqueOpts: river.UniqueOpts{ByPeriod: time.Hour}}
}

// patience is how long a job waits before it tries again: a second, then twice
// as long each time, a minute at the most. The other side is often back within
// seconds, and nobody should wait for the next hour then.
func patience(attempt int) time.Duration {
	return min(time.Second<<min(attempt-1, 10), time.Minute)
}

type dispatchWorker struct {
	river.WorkerDefaults[DispatchArgs]
	deeds   *deeds.Deeds
	domains *domains
}

func (w *dispatchWorker) Work(ctx context.Context, job *river.Job[DispatchArgs]) error {
	leave, ok := w.domains.enter(ctx, job.Args.Domain)
	if !ok { // enough mails are on their way there, and wait for it
		return river.JobSnooze(time.Second)
	}
	defer leave()
	err := w.deeds.Dispatch.Deliver(ctx, job.Args.DispatchID)
	if errors.Is(err, dispatch.ErrEarlier) { // the longer it waits already, the less often it looks
		return river.JobSnooze(min(max(time.Since(job.CreatedAt)/10, time.Second), 20*time.Second))
	}
	if err != nil && job.Attempt >= job.MaxAttempts {
		return errors.Join(river.JobCancel(err), w.deeds.Dispatch.GiveUp(ctx, job.Args.DispatchID, "given up: "+err.Error()))
	}
	return final(err)
}

func (w *dispatchWorker) NextRetry(job *river.Job[DispatchArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

// Timeout leaves room for a server that takes its time: RFC 5321, 4.5.3.2.6 allows
// ten minutes for the answer after the message alone.
func (w *dispatchWorker) Timeout(*river.Job[DispatchArgs]) time.Duration { return 15 * time.Minute }

type forwardWorker struct {
	river.WorkerDefaults[ForwardArgs]
	deeds *deeds.Deeds
}

func (w *forwardWorker) Work(ctx context.Context, job *river.Job[ForwardArgs]) error {
	return final(w.deeds.Dispatch.Forward(ctx, job.Args.LetterID))
}

func (w *forwardWorker) NextRetry(job *river.Job[ForwardArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

func (w *forwardWorker) Timeout(*river.Job[ForwardArgs]) time.Duration { return 15 * time.Minute }

type replyWorker struct {
	river.WorkerDefaults[ReplyArgs]
	deeds *deeds.Deeds
}

func (w *replyWorker) Work(ctx context.Context, job *river.Job[ReplyArgs]) error {
	return final(w.deeds.Invitations.SendReply(ctx, job.Args.InvitationID, job.Args.Version))
}

func (w *replyWorker) NextRetry(job *river.Job[ReplyArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

func (w *replyWorker) Timeout(*river.Job[ReplyArgs]) time.Duration { return 15 * time.Minute }

type callChangeWorker struct {
	river.WorkerDefaults[CallChangeArgs]
	deeds *deeds.Deeds
}

func (w *callChangeWorker) Work(ctx context.Context, job *river.Job[CallChangeArgs]) error {
	err := w.deeds.Links.ChangeCall(ctx, job.Args.CallChange)
	var said *schedule.ProviderError
	if errors.As(err, &said) && errors.Is(err, schedule.ErrUnreachable) && said.Wait > time.Second {
		return river.JobSnooze(min(said.Wait, longestAsked)) // as long as it asks for
	}
	return final(err)
}

// longestAsked is how long a provider can have its jobs wait by asking for it: it may say an
// hour and be back in a minute.
const longestAsked = 5 * time.Minute

func (w *callChangeWorker) NextRetry(job *river.Job[CallChangeArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

func (w *callChangeWorker) Timeout(*river.Job[CallChangeArgs]) time.Duration { return 3 * time.Minute }

// ReplaceStandingArgs gives meetings to come what a standing link is now.
type ReplaceStandingArgs struct {
	StandingID uuid.UUID `json:"standingId"`
}

func (ReplaceStandingArgs) Kind() string { return "replace_standing" }

func (ReplaceStandingArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueCalls, MaxAttempts: 50}
}

type replaceStandingWorker struct {
	river.WorkerDefaults[ReplaceStandingArgs]
	deeds *deeds.Deeds
}

func (w *replaceStandingWorker) Work(ctx context.Context, job *river.Job[ReplaceStandingArgs]) error {
	return final(w.deeds.Links.ReplaceStanding(ctx, job.Args.StandingID))
}

func (w *replaceStandingWorker) NextRetry(job *river.Job[ReplaceStandingArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

func (w *replaceStandingWorker) Timeout(*river.Job[ReplaceStandingArgs]) time.Duration {
	return 15 * time.Minute
}

// callsEvery is how often it is looked for calls that have not been looked at today.
const callsEvery = 30 * time.Minute

// CheckCallsArgs looks whether the calls of the next days are still there, and takes back
// those of sheets that were left.
type CheckCallsArgs struct{}

func (CheckCallsArgs) Kind() string { return "check_calls" }

func (CheckCallsArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueCalls, MaxAttempts: 2, UniqueOpts: river.UniqueOpts{ByPeriod: callsEvery}}
}

type checkCallsWorker struct {
	river.WorkerDefaults[CheckCallsArgs]
	deeds *deeds.Deeds
}

func (w *checkCallsWorker) Work(ctx context.Context, _ *river.Job[CheckCallsArgs]) error {
	if err := errors.Join(w.deeds.Links.SweepSheets(ctx), w.deeds.Sheets.SweepFiles(ctx)); err != nil {
		return err
	}
	for {
		if more, err := w.deeds.Links.CheckCalls(ctx); err != nil || !more {
			return err
		}
	}
}

func (w *checkCallsWorker) Timeout(*river.Job[CheckCallsArgs]) time.Duration { return 20 * time.Minute }

type rollForwardWorker struct {
	river.WorkerDefaults[RollForwardArgs]
	deeds *deeds.Deeds
}

func (w *rollForwardWorker) Work(ctx context.Context, _ *river.Job[RollForwardArgs]) error {
	return errors.Join(w.deeds.Meetings.RollForward(ctx), w.deeds.Invitations.RollForward(ctx))
}

func (w *rollForwardWorker) Timeout(*river.Job[RollForwardArgs]) time.Duration {
	return 30 * time.Minute
}

// SweepArgs ends messages that nobody works on any more.
type SweepArgs struct{}

func (SweepArgs) Kind() string { return "sweep" }

func (SweepArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 2, UniqueOpts: river.UniqueOpts{ByPeriod: 10 * time.Minute}}
}

type sweepWorker struct {
	river.WorkerDefaults[SweepArgs]
	deeds *deeds.Deeds
}

func (w *sweepWorker) Work(ctx context.Context, _ *river.Job[SweepArgs]) error {
	return w.deeds.Dispatch.Sweep(ctx)
}

// NudgeArgs asks those again who say nothing about what is soon.
type NudgeArgs struct{}

func (NudgeArgs) Kind() string { return "nudge" }

func (NudgeArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByPeriod: nudgesEvery}}
}

// nudgesEvery is how often that is looked at.
const nudgesEvery = 10 * time.Minute

type nudgeWorker struct {
	river.WorkerDefaults[NudgeArgs]
	deeds *deeds.Deeds
}

func (w *nudgeWorker) Work(ctx context.Context, _ *river.Job[NudgeArgs]) error {
	return w.deeds.Today.NudgeSilent(ctx)
}

// RemindArgs has those be reminded by mail for whom it is time.
type RemindArgs struct{}

func (RemindArgs) Kind() string { return "remind" }

func (RemindArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByPeriod: remindersEvery}}
}

// remindersEvery is how often that is looked at.
const remindersEvery = 30 * time.Second

type remindWorker struct {
	river.WorkerDefaults[RemindArgs]
	deeds *deeds.Deeds
}

func (w *remindWorker) Work(ctx context.Context, _ *river.Job[RemindArgs]) error {
	return w.deeds.Today.Remind(ctx)
}

// ReminderArgs reminds one person by mail.
type ReminderArgs struct {
	MeetingID   uuid.UUID `json:"meetingId"`
	Participant uuid.UUID `json:"participant"`
	On          int64     `json:"on"`
	Start       int64     `json:"start"`
	Before      int       `json:"before"`
	Own         bool      `json:"own,omitempty"`
}

func (ReminderArgs) Kind() string { return "reminder" }

func (ReminderArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueMail, MaxAttempts: 8}
}

type reminderWorker struct {
	river.WorkerDefaults[ReminderArgs]
	deeds *deeds.Deeds
}

func (w *reminderWorker) Work(ctx context.Context, job *river.Job[ReminderArgs]) error {
	a := job.Args
	return final(w.deeds.Today.SendReminder(ctx, schedule.ReminderMail{MeetingID: a.MeetingID, Participant: a.Participant, On: when.Day(a.On), Start: when.Instant(a.Start), Before: a.Before, Own: a.Own}))
}

func (w *reminderWorker) NextRetry(job *river.Job[ReminderArgs]) time.Time {
	return time.Now().Add(patience(job.Attempt))
}

func (w *reminderWorker) Timeout(*river.Job[ReminderArgs]) time.Duration { return 15 * time.Minute }

// MailNewsArgs tells people by mail what is new for them.
type MailNewsArgs struct{}

func (MailNewsArgs) Kind() string { return "mail_news" }

func (MailNewsArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueMail, MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByPeriod: time.Minute}}
}

type mailNewsWorker struct {
	river.WorkerDefaults[MailNewsArgs]
	deeds *deeds.Deeds
}

func (w *mailNewsWorker) Work(ctx context.Context, _ *river.Job[MailNewsArgs]) error {
	return errors.Join(w.deeds.News.MailNews(ctx), w.deeds.Today.MailMornings(ctx))
}

func (w *mailNewsWorker) Timeout(*river.Job[MailNewsArgs]) time.Duration { return 15 * time.Minute }

// FillFoundArgs has meetings be found from before there was a search.
type FillFoundArgs struct{}

func (FillFoundArgs) Kind() string { return "fill_found" }

func (FillFoundArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 5, UniqueOpts: river.UniqueOpts{ByPeriod: time.Hour}}
}

type fillFoundWorker struct {
	river.WorkerDefaults[FillFoundArgs]
	deeds *deeds.Deeds
}

func (w *fillFoundWorker) Work(ctx context.Context, _ *river.Job[FillFoundArgs]) error {
	return w.deeds.Meetings.FillFound(ctx)
}

func (w *fillFoundWorker) Timeout(*river.Job[FillFoundArgs]) time.Duration { return time.Hour }

// roomsEvery is how often that is looked at: who waits for something hears so soon that it
// is clear, where no deed says so at once.
const roomsEvery = 15 * time.Second

// RoomsArgs ends what keepers of rooms did not answer in time and holds that are over,
// and gives what became clear to who waits for it.
type RoomsArgs struct{}

func (RoomsArgs) Kind() string { return "rooms" }

func (RoomsArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 2, UniqueOpts: river.UniqueOpts{ByPeriod: roomsEvery}}
}

type roomsWorker struct {
	river.WorkerDefaults[RoomsArgs]
	deeds *deeds.Deeds
}

func (w *roomsWorker) Work(ctx context.Context, _ *river.Job[RoomsArgs]) error {
	return w.deeds.Rooms.Sweep(ctx)
}

// calendarsEvery is how often it is looked which calendars are to be read again, and
// calendarsAtOnce how many are taken then.
const calendarsEvery, calendarsAtOnce = 15 * time.Second, 60

// DueCalendarsArgs has calendars kept elsewhere be read that it is time for.
type DueCalendarsArgs struct{}

func (DueCalendarsArgs) Kind() string { return "due_calendars" }

func (DueCalendarsArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByPeriod: calendarsEvery}}
}

type dueCalendarsWorker struct {
	river.WorkerDefaults[DueCalendarsArgs]
	deeds *deeds.Deeds
}

func (w *dueCalendarsWorker) Work(ctx context.Context, _ *river.Job[DueCalendarsArgs]) error {
	due, err := w.deeds.Calendars.Due(ctx, calendarsAtOnce)
	if err != nil || len(due) == 0 {
		return err
	}
	all := make([]river.InsertManyParams, len(due))
	for i, d := range due {
		all[i] = river.InsertManyParams{Args: RefreshArgs{CalendarID: d.ID, Host: d.Host}}
	}
	_, err = river.ClientFromContext[pgx.Tx](ctx).InsertMany(ctx, all)
	return err
}

// RefreshArgs reads one calendar again. What comes of it is kept with the calendar, with
// when it is read next: a job is never repeated.
type RefreshArgs struct {
	CalendarID uuid.UUID `json:"calendarId"`
	Host       string    `json:"host"`
}

func (RefreshArgs) Kind() string { return "refresh" }

func (RefreshArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueCalendars, MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
		rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRunning, rivertype.JobStateRetryable, rivertype.JobStateScheduled}}}
}

type refreshWorker struct {
	river.WorkerDefaults[RefreshArgs]
	deeds *deeds.Deeds
	hosts *domains
}

func (w *refreshWorker) Work(ctx context.Context, job *river.Job[RefreshArgs]) error {
	leave, ok := w.hosts.enter(ctx, job.Args.Host)
	if !ok { // enough is asked there already, and others need not wait for it
		return river.JobSnooze(3 * time.Second)
	}
	defer leave()
	return w.deeds.Calendars.Refresh(ctx, job.Args.CalendarID)
}

func (w *refreshWorker) Timeout(*river.Job[RefreshArgs]) time.Duration { return 2 * time.Minute }

// final ends a job that trying again does not mend.
func final(err error) error {
	var refused *schedule.RefusedError
	if errors.As(err, &refused) || errors.Is(err, schedule.ErrNotFound) || errors.Is(err, schedule.ErrConnect) {
		return river.JobCancel(err)
	}
	return err
}

// Running is the work on the queues.
type Running struct {
	client *river.Client[pgx.Tx]
	alive  *alive
	cancel context.CancelFunc
}

// Start works on the queues until Stop is called on what it returns.
func Start(ctx context.Context, pool *pgxpool.Pool, d *deeds.Deeds) (*Running, error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, &dispatchWorker{deeds: d, domains: newDomains(mailsPerDomain, mailsWaiting)})
	river.AddWorker(workers, &forwardWorker{deeds: d})
	river.AddWorker(workers, &callChangeWorker{deeds: d})
	river.AddWorker(workers, &replaceStandingWorker{deeds: d})
	river.AddWorker(workers, &checkCallsWorker{deeds: d})
	river.AddWorker(workers, &rollForwardWorker{deeds: d})
	river.AddWorker(workers, &replyWorker{deeds: d})
	river.AddWorker(workers, &sendWorker{deeds: d})
	river.AddWorker(workers, &nudgeWorker{deeds: d})
	river.AddWorker(workers, &remindWorker{deeds: d})
	river.AddWorker(workers, &reminderWorker{deeds: d})
	river.AddWorker(workers, &sweepWorker{deeds: d})
	river.AddWorker(workers, &mailNewsWorker{deeds: d})
	river.AddWorker(workers, &fillFoundWorker{deeds: d})
	river.AddWorker(workers, &roomsWorker{deeds: d})
	river.AddWorker(workers, &dueCalendarsWorker{deeds: d})
	river.AddWorker(workers, &refreshWorker{deeds: d, hosts: newDomains(calendarsPerHost, 0)})
	instance := uuid.NewString()
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		ID: instance,
		Queues: map[string]river.QueueConfig{queueMail: {MaxWorkers: mailWorkers}, queueCalls: {MaxWorkers: callWorkers}, queueCalendars: {MaxWorkers: calendarWorkers},
			river.QueueDefault: {MaxWorkers: otherWorkers}},
		Workers: workers,
		PeriodicJobs: []*river.PeriodicJob{
			river.NewPeriodicJob(river.PeriodicInterval(24*time.Hour), func() (river.JobArgs, *river.InsertOpts) { return RollForwardArgs{}, nil },
				&river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(10*time.Minute), func() (river.JobArgs, *river.InsertOpts) { return SweepArgs{}, nil },
				&river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(time.Minute), func() (river.JobArgs, *river.InsertOpts) { return MailNewsArgs{}, nil }, nil),
			river.NewPeriodicJob(river.PeriodicInterval(remindersEvery), func() (river.JobArgs, *river.InsertOpts) { return RemindArgs{}, nil },
				&river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(nudgesEvery), func() (river.JobArgs, *river.InsertOpts) { return NudgeArgs{}, nil }, nil),
			river.NewPeriodicJob(river.PeriodicInterval(roomsEvery), func() (river.JobArgs, *river.InsertOpts) { return RoomsArgs{}, nil },
				&river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(calendarsEvery), func() (river.JobArgs, *river.InsertOpts) { return DueCalendarsArgs{}, nil },
				&river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(callsEvery), func() (river.JobArgs, *river.InsertOpts) { return CheckCallsArgs{}, nil },
				&river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(24*time.Hour), func() (river.JobArgs, *river.InsertOpts) { return FillFoundArgs{}, nil },
				&river.PeriodicJobOpts{RunOnStart: true}),
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
