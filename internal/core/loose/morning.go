package loose

import (
	"time"

	"jembro/internal/core/when"
)

// A mail about the day comes so long before its working hours begin, and not any more so long
// after that.
const (
	morningBefore = 45 * time.Minute
	morningUntil  = 4 * time.Hour
)

// MorningDue tells whether somebody's mail about the day is due: on days on which they work.
func MorningDue(hours when.Hours, now when.Instant) bool {
	day := hours.Zone.LocalAt(now).Day
	working := hours.Within(when.DaySpan(day, hours.Zone))
	if len(working) == 0 {
		return false
	}
	at := working[0].Start.Add(-morningBefore)
	return now >= at && now < at.Add(morningUntil)
}
