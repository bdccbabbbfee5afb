package words

import (
	"fmt"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
)

// Issue says in a few words what is the matter with a date: "Map Room taken by Rui
// Calado", "Tomé Akande on leave", "you are busy". room is the room that is meant,
// and by who has it, or "" when that is private.
func Issue(x availability.Issue, people []availability.Person, room, by string) string {
	switch x.Code {
	case availability.RoomTaken:
		return room + " taken" + ifAny(" by ", by)
	case availability.OnHoliday:
		return "holiday: " + x.Holiday
	}
	t, p := x.Trouble, people[x.Trouble.Person]
	switch {
	case t.Leave && p.You:
		return "you are on leave"
	case t.Leave:
		return p.Name + " on leave"
	case t.Busy:
		return areBusy(p, " busy")
	case t.Maybe:
		return areBusy(p, " maybe busy")
	case p.You:
		return "outside your hours"
	}
	return p.Name + " outside hours"
}

// ifAny is lead and text, or nothing where there is no text.
func ifAny(lead, text string) string {
	if text == "" {
		return ""
	}
	return lead + text
}

// Moved says where a date was moved from: "moved from 24 Dec", or, on the same
// day, "moved from 9:30". regular are the times that the rule gives it.
func Moved(regularStart, start, end when.Local) string {
	switch {
	case start.Day != regularStart.Day:
		return "moved from " + ShortDay(regularStart.Day)
	case start == regularStart && end.Clock == 0:
		return "until " + ShortDay(end.Day-1)
	case start == regularStart:
		return "until " + end.Clock.String()
	}
	return "moved from " + regularStart.Clock.String()
}

// Move is what a repair that moves a date says: "move to 16:00", "move to 7 Jan
// 9:30, Print Cabinet". room is "" where it stays.
func Move(from, to when.Local, room string) string {
	words := "move to " + ShortDay(to.Day)
	if to.Day == from.Day {
		words = "move to " + to.Clock.String()
	} else if to.Clock != from.Clock {
		words += " " + to.Clock.String()
	}
	return words + ifAny(", ", room)
}

// Repair says what one of the other repairs does.
func Repair(kind availability.RepairKind, room string) string {
	switch kind {
	case availability.RepairRoom:
		return "use " + room
	case availability.RepairOut:
		return "leave it out"
	case availability.RepairNoRoom:
		return "meet without a room"
	}
	return "like the others"
}

// ClockElsewhere says that a clock shows another time on a date than on the first
// one.
func ClockElsewhere(now, first when.Clock, zone when.Zone) string {
	return fmt.Sprintf("%s in %s, not %s", now, zone.City(), first)
}

func areBusy(p availability.Person, how string) string {
	if p.You {
		return "You are" + how
	}
	return p.Name + " is" + how
}
