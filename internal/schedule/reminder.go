package schedule

import (
	"github.com/google/uuid"

	"jembro/internal/core/when"
)

// DueReminder is a date of which it is time to remind by mail, so many minutes before its start:
// those of the meeting, or one who set it for themselves.
type DueReminder struct {
	MeetingID, Participant uuid.UUID
	On                     when.Day
	Start                  when.Instant
	Before                 int
	Settled                when.Instant // when it became as it is
}

// ReminderMail is a reminder to one person: somebody invited, or with uuid.Nil who organises it.
type ReminderMail struct {
	MeetingID, Participant uuid.UUID
	On                     when.Day
	Start                  when.Instant
	Before                 int  // minutes
	Own                    bool // they set it for themselves
}
