package schedule

import (
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// Site is a place of the house.
type Site struct {
	ID   uuid.UUID
	Name string
}

// RoomHold is a stretch of a room that a sheet holds until some moment.
type RoomHold struct {
	RoomID uuid.UUID
	Span   when.Span
	Until  time.Time
}

// RequestState is what became of what was asked of a keeper.
type RequestState string

const (
	RequestOpen      RequestState = "open"
	RequestAgreed    RequestState = "agreed"
	RequestRefused   RequestState = "refused"
	RequestLapsed    RequestState = "lapsed"    // nobody answered in time: that is a no
	RequestWithdrawn RequestState = "withdrawn" // the meeting does not want the room any more
)

// RoomRequest is what the keeper of a room is asked for a meeting. DecidedBy is uuid.Nil
// where nobody did.
type RoomRequest struct {
	ID, RoomID, MeetingID uuid.UUID
	AskedAt, LapsesAt     time.Time
	Reasons               []rooms.Reason
	Dates                 []Occurrence
	State                 RequestState
	Word                  string
	DecidedBy             uuid.UUID
	DecidedAt             *time.Time
}

// No tells whether the request was answered with a no.
func (r RoomRequest) No() bool { return r.State == RequestRefused || r.State == RequestLapsed }

// RefusedDate tells whether some requests were answered with a no for a date: the same
// room at the same time.
func RefusedDate(all []RoomRequest, o Occurrence) bool {
	return slices.ContainsFunc(all, func(r RoomRequest) bool {
		return r.No() && r.RoomID == o.RoomID && slices.ContainsFunc(r.Dates, func(d Occurrence) bool { return d.On == o.On && d.Span == o.Span })
	})
}

// AskedRoom is an open request with the meeting that it is for.
type AskedRoom struct {
	RoomRequest
	OrganiserID uuid.UUID
	By          string
	Private     bool
	Content     meeting.Meeting
}

// Wide are windows with as much around them as the largest gap of some rooms: what is
// booked there can stand against what is wanted within.
func Wide(windows when.Spans, house []Room) when.Spans {
	var gap time.Duration
	for _, r := range house {
		gap = max(gap, r.Rules.Gap)
	}
	if gap == 0 {
		return windows
	}
	wide := make([]when.Span, len(windows))
	for i, w := range windows {
		wide[i] = when.Span{Start: w.Start.Add(-gap), End: w.End.Add(gap)}
	}
	return when.Union(wide...)
}

// Unclear is when somebody cannot have each room for some length within some windows, by
// its ID: what it is taken by with its gaps, and what its rules shut.
func Unclear(house []Room, taken map[string]when.Spans, windows when.Spans, by Person, length time.Duration, now when.Instant) map[string]when.Spans {
	out := make(map[string]when.Spans, len(house))
	for _, r := range house {
		id := r.ID.String()
		if r.Rules.TooLong(length) {
			out[id] = windows
			continue
		}
		if spans := r.Place().Unclear(taken[id], windows, r.Asker(by), now); len(spans) > 0 {
			out[id] = spans
		}
	}
	return out
}

// WaitState is how a wait stands.
type WaitState string

const (
	WaitWaits  WaitState = "waits"
	WaitTurn   WaitState = "turn"   // it is clear, and held for them
	WaitPassed WaitState = "passed" // they did not take it
)

// Waiting is a sheet that waits for a room, or for people alone, to be clear at its time.
// RoomID is uuid.Nil where no room is waited for; People are those inside who are needed.
type Waiting struct {
	SheetID, PersonID, MeetingID, RoomID uuid.UUID
	People                               []uuid.UUID
	Span                                 when.Span
	Since                                time.Time
	TurnUntil                            *time.Time
	State                                WaitState
	Before                               int // who wait for the same room at that time, and began before
}

// WaitingPerson is who waits for a room, and when they want it.
type WaitingPerson struct {
	Name string
	Span when.Span
}

// BookedDate is a date with a booked room, and what those invited to it answered. Asked tells that it was asked if the room is still needed, Kept that its
// organiser said so.
type BookedDate struct {
	MeetingID   uuid.UUID
	On          when.Day
	Starts      when.Instant
	Answers     []meeting.Answer
	Asked, Kept bool
}

// Unsure tells whether it should be asked at a moment if the room is still needed.
func (b BookedDate) Unsure(now when.Instant) bool {
	return !b.Kept && rooms.Unsure(b.Starts, now, b.Answers)
}
