package words

import (
	"fmt"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// Taken says that a room is taken, by the clocks of the reader's zone.
func Taken(t rooms.Taken, zone when.Zone) string {
	if t.HeldUntil != 0 {
		return fmt.Sprintf("%s is held%s until %s: it is clear then, or taken.", t.Room, ifAny(" by ", t.By), zone.LocalAt(t.HeldUntil).Clock)
	}
	booked, from, until := zone.LocalAt(t.Since), zone.LocalAt(t.During.Start), zone.LocalAt(t.During.End)
	since, span := "at "+booked.Clock.String(), fmt.Sprintf("from %s until %s", from.Clock, until.Clock)
	if booked.Day != from.Day {
		since = "on " + t.Since.Time().In(zone.Location()).Format("2 January at 15:04")
		span = fmt.Sprintf("for %s from %s until %s", dayOf(t.During.Start, zone), from.Clock, until.Clock)
	}
	if from.Day != until.Day {
		span = fmt.Sprintf("from %s, %s until %s, %s", dayOf(t.During.Start, zone), from.Clock, dayOf(t.During.End, zone), until.Clock)
	}
	text := fmt.Sprintf("%s was taken %s%s, %s", t.Room, since, ifAny(" by ", t.By), span)
	if t.Gap > 0 {
		text += fmt.Sprintf(", with %s before and after it", Length(t.Gap))
	}
	return text + "."
}

// TakenDates says which dates of a series have no room, all of them.
func TakenDates(all []rooms.Taken, zone when.Zone) string {
	var parts []string
	for _, t := range all {
		parts = append(parts, fmt.Sprintf("%s is taken on %s%s", t.Room, dayOf(t.During.Start, zone), ifAny(" by ", t.By)))
	}
	return List(parts) + "."
}

// dayOf is the day of a moment in a zone as sentences say it, "2 January".
func dayOf(at when.Instant, zone when.Zone) string {
	return at.Time().In(zone.Location()).Format("2 January")
}
