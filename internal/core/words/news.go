package words

import (
	"slices"

	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Span is when something is, as a clock in a zone shows it: "Thu 3 Dec 2026, 9:30 –
// 10:30".
func Span(in tongue.Tongue, z when.Zone, s when.Span) string {
	return locals(in, z.LocalAt(s.Start), z.LocalAt(s.End))
}

func locals(in tongue.Tongue, start, end when.Local) string {
	text := FullDay(in, start.Day) + ", " + start.Clock.String() + " – "
	if end.Day != start.Day {
		text += FullDay(in, end.Day) + ", "
	}
	return text + end.Clock.String()
}

// NewsLine is one thing that is new about a meeting: what it was and what it is now, or
// what it is alone.
type NewsLine struct{ What, Was, Is string }

// News is what is new, in a sentence: "Ilse Marrant asks you to come", "Rui Calado
// answered: accepted".
func News(in tongue.Tongue, kind meeting.Kind, n meeting.News) string {
	switch {
	case n.Event != nil:
		return Event(in, *n.Event)
	case n.Goes:
		return in.Say("%s lets the series go on", n.Who)
	case kind == meeting.Invite:
		return in.Say("%s asks you to come", n.Who)
	case n.Dropped:
		return in.Say("%s took you off the list", n.Who)
	case kind == meeting.CallOff && len(n.On) > 0:
		return in.Say("%[1]s called off %[2]s", n.Who, Days(in, n.On))
	case kind == meeting.CallOff:
		return in.Say("%s called it off", n.Who)
	case len(n.On) > 0:
		return in.Say("%[1]s changed %[2]s", n.Who, Days(in, n.On))
	}
	return in.Say("%s changed it", n.Who)
}

// NewsLines are what is new one by one, at the times of a zone.
func NewsLines(in tongue.Tongue, kind meeting.Kind, n meeting.News, zone when.Zone) (out []NewsLine) {
	add := func(what, was, is string) {
		if was != is {
			out = append(out, NewsLine{what, was, is})
		}
	}
	if n.Was == nil {
		if kind != meeting.Update || len(n.Changed) == 0 {
			add(in.Say("time"), "", occasion(in, zone, n.Is))
		}
		if kind == meeting.Invite {
			add(in.Say("repeats"), "", repeats(in, n.Is))
			add(in.Say("room"), "", n.Is.Room)
		}
	} else {
		if n.Was.AllDay || n.Is.AllDay {
			add(in.Say("time"), occasion(in, zone, *n.Was), occasion(in, zone, n.Is))
		} else {
			add(in.Say("time"), Span(in, zone, n.Was.Span()), spanAfter(in, zone, n.Was.Span(), n.Is.Span()))
		}
		add(in.Say("repeats"), repeats(in, *n.Was), repeats(in, n.Is))
		add(in.Say("room"), ifNone(in, n.Was.Room), ifNone(in, n.Is.Room))
		add(in.Say("title"), n.Was.Title, n.Is.Title)
	}
	if slices.Contains(n.Changed, "organiser") {
		add(in.Say("organiser"), "", n.Who)
	}
	for _, x := range []struct{ name, what, is string }{{"text", in.Say("text"), in.Say("changed")}, {"files", in.Say("files"), in.Say("others than before")}, {"link", in.Say("link"), in.Say("another one")}, {"dates", in.Say("dates"), in.Say("you are invited to others than before")}} {
		if slices.Contains(n.Changed, x.name) {
			add(x.what, "", x.is)
		}
	}
	if slices.Contains(n.Changed, "role") {
		if n.Needed {
			add(in.Say("you"), in.Say("optional"), in.Say("needed"))
		} else {
			add(in.Say("you"), in.Say("needed"), in.Say("optional"))
		}
	}
	return out
}

// occasion is when something is, by the clock of a zone or in whole days.
func occasion(in tongue.Tongue, zone when.Zone, o meeting.Occasion) string {
	if !o.AllDay {
		return Span(in, zone, o.Span())
	}
	utc := when.Zone{}
	return AllDay(in, utc.LocalAt(o.Start).Day, utc.LocalAt(o.End-1).Day)
}

// spanAfter is when something is, without the day where it is the one that it was on.
func spanAfter(in tongue.Tongue, z when.Zone, was, is when.Span) string {
	a, b := z.LocalAt(is.Start), z.LocalAt(is.End)
	if was == is || a.Day != b.Day || z.LocalAt(was.Start).Day != a.Day || z.LocalAt(was.End).Day != a.Day {
		return Span(in, z, is)
	}
	return a.Clock.String() + " – " + b.Clock.String()
}

func ifNone(in tongue.Tongue, room string) string {
	if room == "" {
		return in.Say("none")
	}
	return room
}

// OwnClash is what somebody has themselves at some time: "Crate sizes, Thu 3 Dec 2026
// 9:30".
func OwnClash(in tongue.Tongue, title string, leave bool, start when.Instant, zone when.Zone) string {
	at := zone.LocalAt(start)
	switch {
	case leave:
		title = in.Say("your leave")
	case title == "":
		title = in.Say("something in your calendar")
	}
	return title + ", " + FullDay(in, at.Day) + " " + at.Clock.String()
}

// repeats is how an occasion repeats, "" where it does not.
func repeats(in tongue.Tongue, o meeting.Occasion) string {
	rule, err := recur.ParseRule(o.Rule)
	if err != nil {
		return o.Plan
	}
	return repeating(in, rule, o.First, o.Last)
}
