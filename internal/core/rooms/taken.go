package rooms

import "jembro/internal/core/when"

// Taken is a date on which a room that was wanted is taken already.
type Taken struct {
	On     when.Day // the date, by its day in the rule
	Room   string   // the room's name
	By     string   // who has it, empty where that is private
	During when.Span
	Since  when.Instant // when it was booked
}
