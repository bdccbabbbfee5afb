// Package queue names what waits to be done in the database: the arguments of every job, as they
// are kept, and in which queue it waits. What a kind is called stays: jobs of an older version are
// there when a newer one starts.
package queue

import (
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// Mail and calls have queues of their own: where one of them hangs, the others go on.
const (
	Mail      = "mail"
	Calls     = "calls"
	Calendars = "calendars"
	Other     = river.QueueDefault
)

// attempts is more than a job needs for two days of trying at a minute's distance
// at the most; messages end by the clock, not by counting.
const attempts = 4000

// How often it is looked for what is due.
const (
	EveryRollForward = 24 * time.Hour
	EverySweep       = 10 * time.Minute
	EveryMailNews    = time.Minute
	EveryRemind      = 30 * time.Second
	EveryNudge       = 10 * time.Minute
	// EveryRooms is short: who waits for something hears so soon that it is clear, where no deed
	// says so at once.
	EveryRooms      = 15 * time.Second
	EveryCalendars  = 15 * time.Second
	EveryCheckCalls = 30 * time.Minute
	EveryFillFound  = 24 * time.Hour
)

// Dispatch hands one message over to the other side's mail server.
type Dispatch struct {
	DispatchID uuid.UUID `json:"dispatchId"`
	Domain     string    `json:"domain,omitempty"` // where it goes
}

func (Dispatch) Kind() string                 { return "dispatch" }
func (Dispatch) InsertOpts() river.InsertOpts { return until(Mail) }

// Forward hands on what somebody wrote to a meeting.
type Forward struct {
	LetterID uuid.UUID `json:"letterId"`
}

func (Forward) Kind() string                 { return "forward" }
func (Forward) InsertOpts() river.InsertOpts { return until(Mail) }

// Reply sends an answer to who organises a meeting outside.
type Reply struct {
	InvitationID uuid.UUID `json:"invitationId"`
	Version      int       `json:"version"`
}

func (Reply) Kind() string                 { return "reply" }
func (Reply) InsertOpts() river.InsertOpts { return until(Mail) }

// Reminder reminds one person by mail.
type Reminder struct {
	MeetingID   uuid.UUID `json:"meetingId"`
	Participant uuid.UUID `json:"participant"`
	On          int64     `json:"on"`
	Start       int64     `json:"start"`
	Before      int       `json:"before"`
	Own         bool      `json:"own,omitempty"`
}

func (Reminder) Kind() string { return "reminder" }
func (Reminder) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: Mail, MaxAttempts: 8}
}

// ReminderOf is a reminder as it waits.
func ReminderOf(r schedule.ReminderMail) Reminder {
	return Reminder{MeetingID: r.MeetingID, Participant: r.Participant, On: int64(r.On), Start: int64(r.Start), Before: r.Before, Own: r.Own}
}

// Mail is the reminder that waited.
func (a Reminder) Mail() schedule.ReminderMail {
	return schedule.ReminderMail{MeetingID: a.MeetingID, Participant: a.Participant, On: when.Day(a.On), Start: when.Instant(a.Start), Before: a.Before, Own: a.Own}
}

// Send sends a sheet whose moment has come.
type Send struct {
	SheetID uuid.UUID `json:"sheetId"`
}

func (Send) Kind() string                 { return "send" }
func (Send) InsertOpts() river.InsertOpts { return until(Other) }

// CallChange moves or withdraws a call at its provider.
type CallChange struct {
	schedule.CallChange
}

func (CallChange) Kind() string                 { return "call_change" }
func (CallChange) InsertOpts() river.InsertOpts { return until(Calls) }

// ReplaceStanding gives meetings to come what a standing link is now.
type ReplaceStanding struct {
	StandingID uuid.UUID `json:"standingId"`
}

func (ReplaceStanding) Kind() string { return "replace_standing" }
func (ReplaceStanding) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: Calls, MaxAttempts: 50}
}

// Refresh reads one calendar again. What comes of it is kept with the calendar, with
// when it is read next: a job is never repeated.
type Refresh struct {
	CalendarID uuid.UUID `json:"calendarId"`
	Host       string    `json:"host"`
}

func (Refresh) Kind() string { return "refresh" }
func (Refresh) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: Calendars, MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
		rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRunning, rivertype.JobStateRetryable, rivertype.JobStateScheduled}}}
}

// CheckCalls looks whether the calls of the next days are still there, and takes back
// those of sheets that were left.
type CheckCalls struct{}

func (CheckCalls) Kind() string                 { return "check_calls" }
func (CheckCalls) InsertOpts() river.InsertOpts { return once(Calls, 2, EveryCheckCalls) }

// RollForward writes the dates of running series further ahead.
type RollForward struct{}

func (RollForward) Kind() string                 { return "roll_forward" }
func (RollForward) InsertOpts() river.InsertOpts { return once(Other, 5, time.Hour) }

// Sweep ends messages that nobody works on any more.
type Sweep struct{}

func (Sweep) Kind() string                 { return "sweep" }
func (Sweep) InsertOpts() river.InsertOpts { return once(Other, 2, EverySweep) }

// Nudge asks those again who say nothing about what is soon.
type Nudge struct{}

func (Nudge) Kind() string                 { return "nudge" }
func (Nudge) InsertOpts() river.InsertOpts { return once(Other, 1, EveryNudge) }

// Remind has those be reminded by mail for whom it is time.
type Remind struct{}

func (Remind) Kind() string                 { return "remind" }
func (Remind) InsertOpts() river.InsertOpts { return once(Other, 1, EveryRemind) }

// MailNews tells people by mail what is new for them.
type MailNews struct{}

func (MailNews) Kind() string                 { return "mail_news" }
func (MailNews) InsertOpts() river.InsertOpts { return once(Mail, 1, EveryMailNews) }

// FillFound has meetings be found from before there was a search.
type FillFound struct{}

func (FillFound) Kind() string                 { return "fill_found" }
func (FillFound) InsertOpts() river.InsertOpts { return once(Other, 5, time.Hour) }

// Rooms ends what keepers of rooms did not answer in time and holds that are over,
// and gives what became clear to who waits for it.
type Rooms struct{}

func (Rooms) Kind() string                 { return "rooms" }
func (Rooms) InsertOpts() river.InsertOpts { return once(Other, 2, EveryRooms) }

// DueCalendars has calendars kept elsewhere be read that it is time for.
type DueCalendars struct{}

func (DueCalendars) Kind() string                 { return "due_calendars" }
func (DueCalendars) InsertOpts() river.InsertOpts { return once(Other, 1, EveryCalendars) }

// until is a job that is tried until the clock ends it.
func until(queue string) river.InsertOpts {
	return river.InsertOpts{Queue: queue, MaxAttempts: attempts}
}

// once is a job that is there once in a period, however many instances ask for it.
func once(queue string, attempts int, period time.Duration) river.InsertOpts {
	return river.InsertOpts{Queue: queue, MaxAttempts: attempts, UniqueOpts: river.UniqueOpts{ByPeriod: period}}
}
