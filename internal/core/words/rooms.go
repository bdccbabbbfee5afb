package words

import (
	"fmt"
	"strings"
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// PrivateMeeting is what a meeting is called to who may not know what it is.
const PrivateMeeting = "Private"

// RoomReasons says why a room refuses a booking, or asks its keeper: "Courtyard Hall is
// closed on 8 December." site is the name of its site.
func RoomReasons(room, site string, all []rooms.Reason) string {
	return English(rooms.Because(room, site, all))
}

func forWhom(by rooms.By, site string) string { return English(rooms.ForWhom(by, site)) }

func weekdayPlural(d time.Weekday) string { return d.String() + "s" }

// ClockSpans is "8:00 – 12:00 and 13:00 – 18:00".
func ClockSpans(spans []when.ClockSpan) string {
	var parts []string
	for _, s := range spans {
		parts = append(parts, s.Start.String()+" – "+s.End.String())
	}
	return List(parts)
}

// Rules says how a room is booked, a line a rule: by whom, how long and how far ahead,
// what lies between two bookings, when its keeper agrees. They are what its page shows.
func Rules(r rooms.Rules, site string) (lines []string) {
	who := "Everybody books it"
	if r.By != rooms.ByEverybody {
		who = "For " + forWhom(r.By, site)
		if r.Others == rooms.OthersAsk {
			who += "; others ask its keeper"
		} else {
			who += ", nobody else"
		}
	}
	lines = append(lines, who)
	switch last := fmt.Sprintf("%d days ahead", r.Ahead); {
	case r.Longest > 0 && r.Ahead > 0:
		lines = append(lines, "At most "+Length(r.Longest)+" at a time, "+last)
	case r.Longest > 0:
		lines = append(lines, "At most "+Length(r.Longest)+" at a time")
	case r.Ahead > 0:
		lines = append(lines, "At most "+last)
	}
	if r.Share > 0 {
		lines = append(lines, fmt.Sprintf("A series where %d of 10 dates are clear", r.Share))
	}
	if r.Gap > 0 {
		lines = append(lines, Length(r.Gap)+" between two bookings")
	}
	lines = append(lines, openDays(r)...)
	if r.Holidays {
		lines = append(lines, "Closed on public holidays")
	}
	lines = append(lines, agrees(r.Agree)...)
	if r.Outside {
		lines = append(lines, "People outside ask its keeper by inviting it")
	}
	return lines
}

// openDays says the hours, days with the same together: "Monday to Friday 8:00 – 20:00".
func openDays(r rooms.Rules) (lines []string) {
	order := []time.Weekday{1, 2, 3, 4, 5, 6, 0}
	for at := 0; at < len(order); {
		spans := r.Open[order[at]]
		end := at
		for end+1 < len(order) && ClockSpans(r.Open[order[end+1]]) == ClockSpans(spans) {
			end++
		}
		if len(spans) > 0 {
			days := order[at].String()
			if end > at {
				days += " to " + order[end].String()
			}
			lines = append(lines, days+" "+ClockSpans(spans))
		}
		at = end + 1
	}
	return lines
}

func agrees(a rooms.Agree) []string {
	var conditions []string
	if a.Above > 0 {
		conditions = append(conditions, "above "+Length(a.Above))
	}
	if a.After > 0 {
		conditions = append(conditions, "after "+a.After.String())
	}
	within := a.Within
	if within == 0 {
		within = rooms.DefaultWithin
	}
	no := "no answer in " + Count(within, "working day") + " is a no"
	switch {
	case a.Always:
		return []string{"Its keeper agrees to every booking; " + no}
	case len(conditions) > 0:
		return []string{"Its keeper agrees " + strings.Join(conditions, " or ") + "; " + no}
	}
	return nil
}

// What is said of sheets that wait to be sent.
const (
	WaitsToGoOut       = "This sheet waits to be sent. Take it back to change it."
	CalledOffMeanwhile = "The meeting has been called off."
)

// ChangedMeanwhile says that a meeting changed before changes to it went out.
func ChangedMeanwhile(what string) string {
	return "The meeting was changed in the meantime: " + what + "."
}

// HeldMany says that somebody holds as much as one may.
const HeldMany = "Three other sheets of yours hold rooms already. Send books this one, if it is clear then."

// HeldLong says that it is others' turn to hold a room.
func HeldLong(later when.Instant, zone when.Zone) string {
	return "You held this room for an hour; until " + zone.LocalAt(later).Clock.String() + " it is open to others. Send books it, if it is clear then."
}

// RoomAsked says that the keeper of a room has to agree, until when.
func RoomAsked(lapses when.Instant, zone when.Zone) string {
	at := zone.LocalAt(lapses)
	return "its keeper is asked; no answer until " + FullDay(at.Day) + ", " + at.Clock.String() + " is a no"
}

// RoomRefused says that the keeper of a room refused it, or nobody answered.
func RoomRefused(by, word string) string {
	if by == "" {
		return "nobody answered in time"
	}
	return by + " refused it" + ifAny(": ", word)
}

// NotHours says how the hours of a room are typed.
func NotHours(text string) string {
	return "“" + strings.TrimSpace(text) + "” are no hours. Type them like 8:00 – 18:00, with commas between several."
}

// Waiting says how a wait for a room, or for people alone, stands: what is waited for,
// whether it is or was one's turn, and how many wait before.
func Waiting(room, turn, passed bool, before int, until when.Instant, zone when.Zone) string {
	what := "everybody needed"
	if room {
		what = "this room"
	}
	switch {
	case turn && room:
		return "It is your turn: held for you until " + zone.LocalAt(until).Clock.String() + "."
	case turn:
		return "Everybody needed is clear now."
	case passed:
		return "You had your turn and did not take it; others had theirs then."
	case before > 0:
		return fmt.Sprintf("You wait for %s, after %s.", what, others(before))
	}
	return "You wait for " + what + " and are told when it is clear."
}

func others(n int) string {
	if n == 1 {
		return "one other"
	}
	return fmt.Sprintf("%d others", n)
}
