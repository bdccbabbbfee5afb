package words

import (
	"slices"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Span is when something is, as a clock in a zone shows it: "Thu 3 Dec 2026, 9:30 –
// 10:30".
func Span(z when.Zone, s when.Span) string {
	return locals(z.LocalAt(s.Start), z.LocalAt(s.End))
}

func locals(start, end when.Local) string {
	text := FullDay(start.Day) + ", " + start.Clock.String() + " – "
	if end.Day != start.Day {
		text += FullDay(end.Day) + ", "
	}
	return text + end.Clock.String()
}

// NewsLine is one thing that is new about a meeting: what it was and what it is now, or
// what it is alone.
type NewsLine struct{ What, Was, Is string }

// News is what is new, in a sentence: "Ilse Marrant asks you to come", "Rui Calado
// answered: accepted".
func News(kind meeting.Kind, n meeting.News) string {
	switch {
	case n.Event != nil:
		return Event(*n.Event)
	case n.Goes:
		return n.Who + " lets the series go on"
	case kind == meeting.Invite:
		return n.Who + " asks you to come"
	case n.Dropped:
		return n.Who + " took you off the list"
	case kind == meeting.CallOff && len(n.On) > 0:
		return n.Who + " called off " + Days(n.On)
	case kind == meeting.CallOff:
		return n.Who + " called it off"
	case len(n.On) > 0:
		return n.Who + " changed " + Days(n.On)
	}
	return n.Who + " changed it"
}

// NewsLines are what is new one by one, at the times of a zone.
func NewsLines(kind meeting.Kind, n meeting.News, zone when.Zone) (out []NewsLine) {
	add := func(what, was, is string) {
		if was != is {
			out = append(out, NewsLine{what, was, is})
		}
	}
	if n.Was == nil {
		if kind != meeting.Update || len(n.Changed) == 0 {
			add("time", "", occasion(zone, n.Is))
		}
		if kind == meeting.Invite {
			add("repeats", "", n.Is.Plan)
			add("room", "", n.Is.Room)
		}
	} else {
		if n.Was.AllDay || n.Is.AllDay {
			add("time", occasion(zone, *n.Was), occasion(zone, n.Is))
		} else {
			add("time", Span(zone, n.Was.Span()), spanAfter(zone, n.Was.Span(), n.Is.Span()))
		}
		add("repeats", n.Was.Plan, n.Is.Plan)
		add("room", ifNone(n.Was.Room), ifNone(n.Is.Room))
		add("title", n.Was.Title, n.Is.Title)
	}
	if slices.Contains(n.Changed, "organiser") {
		add("organiser", "", n.Who)
	}
	for _, x := range []struct{ name, what, is string }{{"text", "text", "changed"}, {"files", "files", "others than before"}, {"link", "link", "another one"}, {"dates", "dates", "you are invited to others than before"}} {
		if slices.Contains(n.Changed, x.name) {
			add(x.what, "", x.is)
		}
	}
	if slices.Contains(n.Changed, "role") {
		if n.Needed {
			add("you", "optional", "needed")
		} else {
			add("you", "needed", "optional")
		}
	}
	return out
}

// occasion is when something is, by the clock of a zone or in whole days.
func occasion(zone when.Zone, o meeting.Occasion) string {
	if !o.AllDay {
		return Span(zone, o.Span())
	}
	utc := when.Zone{}
	return AllDay(utc.LocalAt(o.Start).Day, utc.LocalAt(o.End-1).Day)
}

// spanAfter is when something is, without the day where it is the one that it was on.
func spanAfter(z when.Zone, was, is when.Span) string {
	a, b := z.LocalAt(is.Start), z.LocalAt(is.End)
	if was == is || a.Day != b.Day || z.LocalAt(was.Start).Day != a.Day || z.LocalAt(was.End).Day != a.Day {
		return Span(z, is)
	}
	return a.Clock.String() + " – " + b.Clock.String()
}

func ifNone(room string) string {
	if room == "" {
		return "none"
	}
	return room
}

// OwnClash is what somebody has themselves at some time: "Crate sizes, Thu 3 Dec 2026
// 9:30".
func OwnClash(title string, leave bool, start when.Instant, zone when.Zone) string {
	at := zone.LocalAt(start)
	switch {
	case leave:
		title = "your leave"
	case title == "":
		title = "something in your calendar"
	}
	return title + ", " + FullDay(at.Day) + " " + at.Clock.String()
}
