package schedule

import (
	"github.com/google/uuid"

	"jembro/internal/core/when"
)

// BusyKind is how somebody's time is taken.
type BusyKind string

const (
	Busy  BusyKind = "busy"
	Maybe BusyKind = "maybe"
	Leave BusyKind = "leave"
)

// BusyTime is a stretch of somebody's time that is taken, through an occurrence
// or, with uuid.Nil, without one.
type BusyTime struct {
	PersonID     uuid.UUID
	OccurrenceID uuid.UUID
	Span         when.Span
	Kind         BusyKind
}
