package schedule

import (
	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// FoundMeeting is a meeting that was searched for. On is its date nearest to now, 0
// where it has none; Reader is the participant who searches, "" for the organiser.
type FoundMeeting struct {
	ID, OrganiserID uuid.UUID
	CalledOff       bool
	On              when.Day
	Reader          string
	Content         meeting.Meeting
}
