// Package calendars is about everybody's time: working hours and leave, calendars kept
// elsewhere that count, who sees how much of it, whose is watched, and the secret addresses
// under which others get busy times.
package calendars

import (
	"context"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store    schedule.Store[Tx]
	Meetings *meetings.Deeds
	Fetcher  Fetcher
	Format   Format
	// Reading bounds how many calendars are read at a time, each can take some hundred MB at
	// the worst.
	Reading chan struct{}
}

// Tx is what they need of a transaction.
type Tx interface {
	contactTx
	feedTx
	hoursTx
	leaveTx
	pageTx
	refreshTx
	sharingTx
	subscribeTx
	watchTx
}

// Fetched is what an address gave. Same tells that it has not changed since ETag and
// Modified were given; Wait is how long the other side asks to wait, 0 mostly.
type Fetched struct {
	Body           []byte
	ETag, Modified string
	Same           bool
	Wait           time.Duration
}

// FetchError is why an address gave nothing.
type FetchError struct {
	Fault availability.Fault
	Wait  time.Duration
	Cause error
}

func (e *FetchError) Error() string { return string(e.Fault) + ": " + e.Cause.Error() }

// Fetcher asks addresses that users name, never one inside the house. It fails with a
// *FetchError.
type Fetcher interface {
	Fetch(ctx context.Context, address, etag, modified string) (Fetched, error)
}

// Format reads and writes calendars.
type Format interface {
	// Read reads what somebody publishes; it fails with the errors of core/calendar.
	Read(raw []byte, window when.Span, addresses ...string) (calendar.Calendar, error)
	// Events are busy times as events, FreeBusy as a VFREEBUSY (RFC 5545, 3.6.4).
	Events(p Published) []byte
	FreeBusy(p Published) []byte
	// Availability writes working hours and leave (RFC 7953).
	Availability(h Hours) []byte
}

// Published is what a secret address gives out: the times of somebody, or of a room, in a
// window. Name is of whose they are.
type Published struct {
	ID      string // of the address
	Domain  string
	Name    string
	Email   string
	Window  when.Span
	Stamp   time.Time
	Times   []availability.Shown
	Refresh time.Duration
}

// Hours are somebody's hours for a file: the week, other days and leave from a day on.
type Hours struct {
	Name, Email, Domain string
	Hours               when.Hours
	From                when.Day
	Other               []schedule.OtherDay
	Holidays            []when.Day
	Leave               []schedule.Absence
	Stamp               time.Time
}
