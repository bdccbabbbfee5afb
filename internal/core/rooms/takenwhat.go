package rooms

import (
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// What is that the room is taken, by the clocks of the reader's zone.
func (t Taken) What(zone when.Zone) say.What {
	room := say.Room(t.Room)
	if t.HeldUntil != 0 {
		until := zone.LocalAt(t.HeldUntil).Clock
		if t.By != "" {
			return say.It("room.heldBy", room, say.Person(t.By), until)
		}
		return say.It("room.held", room, until)
	}
	args := []any{room, t.since(zone), t.stretch(zone)}
	code := say.Code("room.taken")
	if t.By != "" {
		code, args = "room.takenBy", append(args, say.Person(t.By))
	}
	if t.Gap > 0 {
		code, args = code+"Gap", append(args, say.Length(t.Gap))
	}
	return say.It(code, args...)
}

// since is when it was booked: the day too where that is another one.
func (t Taken) since(zone when.Zone) say.What {
	booked := zone.LocalAt(t.Since)
	if booked.Day == zone.LocalAt(t.During.Start).Day {
		return say.It("at", booked.Clock)
	}
	return say.It("onAt", booked.Day, booked.Clock)
}

// stretch is what it is taken for: the day too where it was not booked on that day.
func (t Taken) stretch(zone when.Zone) say.What {
	from, until := zone.LocalAt(t.During.Start), zone.LocalAt(t.During.End)
	switch {
	case from.Day != until.Day:
		return say.It("fromDayUntilDay", from.Day, from.Clock, until.Day, until.Clock)
	case zone.LocalAt(t.Since).Day != from.Day:
		return say.It("onFromUntil", from.Day, from.Clock, until.Clock)
	}
	return say.It("fromUntil", from.Clock, until.Clock)
}

// TakenDates is which dates of a series have no room, all of them.
func TakenDates(all []Taken, zone when.Zone) say.What {
	var parts say.List
	for _, t := range all {
		on := zone.LocalAt(t.During.Start).Day
		if t.By != "" {
			parts = append(parts, say.It("room.takenOnBy", say.Room(t.Room), on, say.Person(t.By)))
		} else {
			parts = append(parts, say.It("room.takenOn", say.Room(t.Room), on))
		}
	}
	return say.It("sentence", parts)
}
