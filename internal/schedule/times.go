package schedule

import (
	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
)

// BusyTime is a stretch of somebody's time that is taken: through a date of a
// meeting, or on leave with uuid.Nil for both.
type BusyTime struct {
	PersonID                uuid.UUID
	MeetingID, OccurrenceID uuid.UUID
	availability.Time
}

// Participation is how somebody invited stands to a date that is written down.
type Participation struct {
	ParticipantID, OccurrenceID uuid.UUID
	PersonID                    uuid.UUID // uuid.Nil for somebody from outside
	meeting.Participation
}
