package schedule

import (
	"github.com/google/uuid"

	"jembro/internal/core/availability"
)

// BusyTime is a stretch of somebody's time that is taken: through a date of a
// meeting, or on leave with uuid.Nil for both.
type BusyTime struct {
	PersonID                uuid.UUID
	MeetingID, OccurrenceID uuid.UUID
	availability.Time
}
