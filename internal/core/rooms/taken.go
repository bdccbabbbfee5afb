package rooms

import (
	"time"

	"jembro/internal/core/when"
)

// Taken is a date on which a room that was wanted is taken already.
type Taken struct {
	On     when.Day // the date, by its day in the rule
	Room   string   // the room's name
	By     string   // who has it, empty where that is private
	During when.Span
	Since  when.Instant // when it was booked
	// HeldUntil is until when it is held only, 0 where it is booked. Gap is what has to
	// stay clear around a booking.
	HeldUntil when.Instant
	Gap       time.Duration
}
