package availability

import (
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// Nearest is what a date is moved to, without a series around it.
func Nearest(ask Ask, around when.Instant, step time.Duration) (found when.Span, room int, ok bool) {
	people := allClear(ask.Window, ask.People, ask.Length)
	if !ask.WantRoom {
		found, ok = nearestIn(people, ask.Length, around, step)
		return found, rooms.NoRoom, ok
	}
	return nearestRoom(people, ask.Rooms, ask.Length, around, step)
}
