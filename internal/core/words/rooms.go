package words

import (
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// PrivateMeeting is what a meeting is called to who may not know what it is.
const PrivateMeeting = "Private"

// RoomReasons says why a room refuses a booking, or asks its keeper: "Courtyard Hall is
// closed on 8 December." site is the name of its site.
func RoomReasons(in tongue.Tongue, room, site string, all []rooms.Reason) string {
	return Say(in, rooms.Because(room, site, all))
}

func forWhom(in tongue.Tongue, by rooms.By, site string) string {
	return Say(in, rooms.ForWhom(by, site))
}

func weekdayPlural(in tongue.Tongue, d time.Weekday) string { return in.Say(d.String() + "s") }

// ClockSpans is "8:00 – 12:00 and 13:00 – 18:00".
func ClockSpans(in tongue.Tongue, spans []when.ClockSpan) string {
	var parts []string
	for _, s := range spans {
		parts = append(parts, s.Start.String()+" – "+s.End.String())
	}
	return in.List(parts)
}

// Rules says how a room is booked, a line a rule: by whom, how long and how far ahead,
// what lies between two bookings, when its keeper agrees. They are what its page shows.
func Rules(in tongue.Tongue, r rooms.Rules, site string) (lines []string) {
	who := in.Say("Everybody books it")
	if r.By != rooms.ByEverybody {
		who = in.Say("For %s", forWhom(in, r.By, site))
		if r.Others == rooms.OthersAsk {
			who += in.Say("; others ask its keeper")
		} else {
			who += in.Say(", nobody else")
		}
	}
	lines = append(lines, who)
	switch last := in.Say("%s days ahead", strconv.Itoa(r.Ahead)); {
	case r.Longest > 0 && r.Ahead > 0:
		lines = append(lines, in.Say("At most %[1]s at a time, %[2]s", Length(in, r.Longest), last))
	case r.Longest > 0:
		lines = append(lines, in.Say("At most %s at a time", Length(in, r.Longest)))
	case r.Ahead > 0:
		lines = append(lines, in.Say("At most %s", last))
	}
	if r.Share > 0 {
		lines = append(lines, in.Say("A series where %s of 10 dates are clear", strconv.Itoa(r.Share)))
	}
	if r.Gap > 0 {
		lines = append(lines, in.Say("%s between two bookings", Length(in, r.Gap)))
	}
	lines = append(lines, openDays(in, r)...)
	if r.Holidays {
		lines = append(lines, in.Say("Closed on public holidays"))
	}
	lines = append(lines, agrees(in, r.Agree)...)
	if r.Outside {
		lines = append(lines, in.Say("People outside ask its keeper by inviting it"))
	}
	return lines
}

// openDays says the hours, days with the same together: "Monday to Friday 8:00 – 20:00".
func openDays(in tongue.Tongue, r rooms.Rules) (lines []string) {
	order := []time.Weekday{1, 2, 3, 4, 5, 6, 0}
	for at := 0; at < len(order); {
		spans := r.Open[order[at]]
		end := at
		for end+1 < len(order) && ClockSpans(in, r.Open[order[end+1]]) == ClockSpans(in, spans) {
			end++
		}
		if len(spans) > 0 {
			days := in.Say(order[at].String())
			if end > at {
				days += in.Say(" to %s", in.Say(order[end].String()))
			}
			lines = append(lines, days+" "+ClockSpans(in, spans))
		}
		at = end + 1
	}
	return lines
}

func agrees(in tongue.Tongue, a rooms.Agree) []string {
	var conditions []string
	if a.Above > 0 {
		conditions = append(conditions, in.Say("above %s", Length(in, a.Above)))
	}
	if a.After > 0 {
		conditions = append(conditions, in.Say("after %s", a.After.String()))
	}
	within := a.Within
	if within == 0 {
		within = rooms.DefaultWithin
	}
	no := in.Say("no answer in %s is a no", Count(in, within, "working day"))
	switch {
	case a.Always:
		return []string{in.Say("Its keeper agrees to every booking; %s", no)}
	case len(conditions) > 0:
		return []string{in.Say("Its keeper agrees %[1]s; %[2]s", strings.Join(conditions, in.Say(" or ")), no)}
	}
	return nil
}

// RoomAsked says that the keeper of a room has to agree, until when.
func RoomAsked(in tongue.Tongue, lapses when.Instant, zone when.Zone) string {
	at := zone.LocalAt(lapses)
	return in.Say("its keeper is asked; no answer until %[1]s, %[2]s is a no", FullDay(in, at.Day), at.Clock.String())
}

// RoomRefused says that the keeper of a room refused it, or nobody answered.
func RoomRefused(in tongue.Tongue, by, word string) string {
	if by == "" {
		return in.Say("nobody answered in time")
	}
	return in.Say("%[1]s refused it%[2]s", by, ifAny(": ", word))
}

// Waiting says how a wait for a room, or for people alone, stands: what is waited for,
// whether it is or was one's turn, and how many wait before.
func Waiting(in tongue.Tongue, room, turn, passed bool, before int, until when.Instant, zone when.Zone) string {
	what := in.Say("everybody needed")
	if room {
		what = in.Say("this room")
	}
	switch {
	case turn && room:
		return in.Say("It is your turn: held for you until %s.", zone.LocalAt(until).Clock.String())
	case turn:
		return in.Say("Everybody needed is clear now.")
	case passed:
		return in.Say("You had your turn and did not take it; others had theirs then.")
	case before > 0:
		return in.Say("You wait for %[1]s, after %[2]s.", what, others(in, before))
	}
	return in.Say("You wait for %s and are told when it is clear.", what)
}

func others(in tongue.Tongue, n int) string {
	if n == 1 {
		return in.Say("one other")
	}
	return in.Say("%s others", strconv.Itoa(n))
}
