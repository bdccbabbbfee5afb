package schedule

import (
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Calendar is one kept elsewhere: of somebody inside, or of a contact outside. Address is
// sealed, nil for a file. Fault says why it could not be read the last time, "" when it
// was; what was last read well stays all the while.
type Calendar struct {
	ID                  uuid.UUID
	PersonID, ContactID *uuid.UUID
	Name                string
	Address             []byte
	Host                string
	Counts              bool // makes its owner busy
	AddedAt             time.Time
	ReadAt, TriedAt     *time.Time
	FailingSince        *time.Time
	Fault               availability.Fault
	EmptySince          *time.Time // it came back empty, and what was known was kept
	Failures            int
	NextAt              *time.Time // when it is looked at again
	ETag, Modified      string
	Print               []byte
	Refresh             time.Duration // as its publisher says
	Entries, Unread     int
	ExpandedOn          when.Day
}

// File tells whether it is a file, which changes by itself never.
func (c Calendar) File() bool { return c.Address == nil }

// CalendarEntry is one date of somebody's other calendars. UID is of the event.
type CalendarEntry struct {
	UID, Title string
	Span       when.Span
	Kind       availability.Kind
	WholeDay   bool
	Calendar   string // its name
	Counts     bool
	// Invitation is set for a date of a meeting outside that its owner is invited to; Answer
	// is theirs then, and Calendar who organises it.
	Invitation uuid.UUID
	Answer     meeting.Answer
	// On is when a date was meant first (RECURRENCE-ID).
	On when.Instant
}

// OtherDay is a day on which somebody works other hours than on others. Word is a note of
// theirs.
type OtherDay struct {
	Day   when.Day
	Hours []when.ClockSpan
	Word  string
}

// Absence is leave, from First to Last day in the zone of whose it is. Word is a note of
// theirs.
type Absence struct {
	ID          uuid.UUID
	First, Last when.Day
	Word        string
	EnteredAt   time.Time
}

// Span is how long it is in a zone.
func (a Absence) Span(zone when.Zone) when.Span {
	return when.DaysSpan(a.First, a.Last, zone)
}

// Sharing is what one colleague may see.
type Sharing struct {
	PersonID uuid.UUID
	Name     string
	Level    availability.Level
}

// Feed is the secret address of somebody's busy times, or of a room's.
type Feed struct {
	ID               uuid.UUID
	PersonID, RoomID *uuid.UUID
	Titles           bool
	Print            string
	ChangedAt        time.Time
}

// Watched is whose time somebody watches: a colleague or a room.
type Watched struct{ PersonID, RoomID uuid.UUID }

// BusySource is what takes somebody's time that is no meeting here.
type BusySource string

const (
	FromLeave    BusySource = "leave"
	FromCalendar BusySource = "calendar"
	FromOutside  BusySource = "invitation"
)

// DueCalendar is one to be looked at; Host is where it is kept.
type DueCalendar struct {
	ID   uuid.UUID
	Host string
}
