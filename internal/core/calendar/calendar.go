// Package calendar finds out of somebody's calendar, kept elsewhere, when their time
// is taken: events with their repetitions, busy times and availability, as RFC 5545 and
// RFC 7953 define them.
package calendar

import (
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// MostBytes is how long a calendar can be that is read here.
const MostBytes = 10 << 20

var (
	// ErrNotCalendar: something else, a web page mostly.
	ErrNotCalendar = say.It("calendar.notOne")
	// ErrBrokenOff: its end is missing, or it is not in the characters it says.
	ErrBrokenOff = say.It("calendar.breaksOff")
	// ErrTooLarge: longer than MostBytes, or with more entries than can be kept.
	ErrTooLarge = say.It("calendar.large")
)

// Calendar is what was read of one.
type Calendar struct {
	Name    string
	Refresh time.Duration // how often its publisher says to look, 0 when they do not (RFC 7986, 5.7)
	Events  []Event
	Taken   []availability.Time // of VFREEBUSY, in any order
	Blocks  []Block             // of VAVAILABILITY
	Zones   map[string][]recur.Observance
	// Unread counts what could not be read and is left out, by why.
	Unread map[string]int
	// Components is how many events, busy times and blocks there are.
	Components int
}

// Form is how a time is written (RFC 5545, 3.3.4 and 3.3.5).
type Form uint8

const (
	Date  Form = iota // a day
	Local             // what a clock shows: in the zone TZID, or wherever its reader is
	UTC
)

// Time is a DATE or DATE-TIME.
type Time struct {
	Moment recur.Moment
	Form   Form
	TZID   string // of Local, "" for floating
}

// Length is how long an event takes: to an End, or for a number of Days and Seconds,
// the days by the clock (RFC 5545, 3.3.6 and 3.8.5.3).
type Length struct {
	End     *Time
	Days    int
	Seconds int64
}

// Period is a date added with a length of its own (RDATE;VALUE=PERIOD).
type Period struct {
	Start  Time
	Length Length
}

// Event is a VEVENT, or an AVAILABLE of a block.
type Event struct {
	UID      string
	Sequence int
	Stamp    int64
	// RecurrenceID names the date of a series that this replaces, and with Onward all
	// after it as well.
	RecurrenceID *Time
	Onward       bool
	Start        Time
	Length       Length
	Rules        []recur.Rule
	RDates       []Period // Length is zero for those of the event's own length
	ExDates      []Time
	Kind         availability.Kind
	Cancelled    bool
	Title        string
	Private      bool
}

// Block is a VAVAILABILITY: within it time is taken as Kind, but for when Available
// says that it is clear. Priority is 1 to 9, and 0 for the lowest.
type Block struct {
	Start, End *Time // nil: unbounded
	Length     Length
	Priority   int
	Kind       availability.Kind
	Available  []Event
}

// Entry is one date of an event.
type Entry struct {
	UID     string
	Title   string
	Private bool
	Span    when.Span
	ID      when.Instant      // when it was meant first (RECURRENCE-ID), its start where it is the only date
	Kind    availability.Kind // Free for what leaves the time clear
	Day     bool              // it takes whole days
}
