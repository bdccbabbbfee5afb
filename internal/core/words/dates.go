package words

import (
	"jembro/internal/core/availability"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Issue says in a few words what is the matter with a date: "Map Room taken by Rui
// Calado", "Tomé Akande on leave", "you are busy". room is the room that is meant,
// and by who has it, or "" when that is private.
func Issue(in tongue.Tongue, x availability.Issue, people []availability.Person, room, by string) string {
	switch x.Code {
	case availability.RoomTaken:
		return in.Say("%[1]s taken%[2]s", room, ifAny(in.Say(" by "), by))
	case availability.OnHoliday:
		return in.Say("holiday: %s", x.Holiday)
	}
	t, p := x.Trouble, people[x.Trouble.Person]
	switch {
	case t.Leave && p.You:
		return in.Say("you are on leave")
	case t.Leave:
		return in.Say("%s on leave", p.Name)
	case t.Busy:
		return areBusy(in, p, in.Say(" busy"))
	case t.Maybe:
		return areBusy(in, p, in.Say(" maybe busy"))
	case p.You:
		return in.Say("outside your hours")
	}
	return in.Say("%s outside hours", p.Name)
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
func Moved(in tongue.Tongue, regularStart, start, end when.Local) string {
	switch {
	case start.Day != regularStart.Day:
		return in.Say("moved from %s", ShortDay(in, regularStart.Day))
	case start == regularStart && end.Clock == 0:
		return in.Say("until %s", ShortDay(in, end.Day-1))
	case start == regularStart:
		return in.Say("until %s", end.Clock.String())
	}
	return in.Say("moved from %s", regularStart.Clock.String())
}

// Move is what a repair that moves a date says: "move to 16:00", "move to 7 Jan
// 9:30, Print Cabinet". room is "" where it stays.
func Move(in tongue.Tongue, from, to when.Local, room string) string {
	words := in.Say("move to %s", ShortDay(in, to.Day))
	if to.Day == from.Day {
		words = in.Say("move to %s", to.Clock.String())
	} else if to.Clock != from.Clock {
		words += " " + to.Clock.String()
	}
	return words + ifAny(", ", room)
}

// Repair says what one of the other repairs does.
func Repair(in tongue.Tongue, kind availability.RepairKind, room string) string {
	switch kind {
	case availability.RepairRoom:
		return in.Say("use %s", room)
	case availability.RepairOut:
		return in.Say("leave it out")
	case availability.RepairNoRoom:
		return in.Say("meet without a room")
	}
	return in.Say("like the others")
}

// ClockElsewhere says that a clock shows another time on a date than on the first
// one.
func ClockElsewhere(in tongue.Tongue, now, first when.Clock, zone when.Zone) string {
	return in.Say("%[1]s in %[2]s, not %[3]s", now, zone.City(), first)
}

func areBusy(in tongue.Tongue, p availability.Person, how string) string {
	if p.You {
		return in.Say("You are%s", how)
	}
	return in.Say("%[1]s is%[2]s", p.Name, how)
}
