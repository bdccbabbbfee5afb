package words

import (
	"strconv"

	"jembro/internal/core/join"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Over says for what a provider's plan is too small, at the clocks of a zone.
func Over(in tongue.Tongue, e join.Excess, provider string, zone when.Zone) string {
	switch e.Kind {
	case join.TooLong:
		return in.Say("The plan at %[1]s ends a call after %[2]s minutes; this meeting runs %[3]s.", provider, strconv.Itoa(e.Limit), strconv.Itoa(e.Has))
	case join.TooMany:
		return in.Say("%[1]s lets %[2]s in; %[3]s are to come.", provider, People(in, e.Limit), strconv.Itoa(e.Has))
	case join.TooBusy:
		return in.Say("The account at %[1]s has %[2]s at a time; %[3]s at the same time as this.", provider, Count(in, e.Limit, "call"), othersAre(in, e.Has-1))
	case join.TooOften:
		return in.Say("A link at %[1]s holds for %[2]s; this series has more.", provider, Count(in, e.Limit, "date"))
	case join.LinkEnds:
		return in.Say("%[1]s keeps a link until %[2]s; the meeting goes on after that.", provider, FullDay(in, zone.LocalAt(when.At(e.Until)).Day))
	}
	return ""
}

func othersAre(in tongue.Tongue, n int) string {
	if n == 1 {
		return in.Say("1 other is")
	}
	return in.Say("%s others are", strconv.Itoa(n))
}

// InUse says that a standing room is in use at the same time, by what or by whom as far as
// the reader may know: "17 Dec, 9:30: in use by “Hall plan”; both would be in one call".
func InUse(in tongue.Tongue, span when.Span, title, by string, zone when.Zone) string {
	at := zone.LocalAt(span.Start)
	what := in.Say("another meeting")
	switch {
	case title != "":
		what = "“" + title + "”"
	case by != "":
		what = in.Say("a meeting of %s", by)
	}
	return in.Say("%[1]s, %[2]s: in use by %[3]s; both would be in one call", ShortDay(in, at.Day), at.Clock, what)
}

// Service is what a provider offers, in few words: "telephone and browser, fresh".
func Service(in tongue.Tongue, s join.Service) string {
	var parts []string
	if s.Does(join.CanMake) {
		parts = append(parts, in.Say("fresh link"))
	}
	if s.Does(join.CanStand) {
		parts = append(parts, in.Say("standing rooms"))
	}
	return in.List(parts)
}

// Plan is what a provider's plan allows: "numbers in 14 countries · at most 45 min, 50 people".
func Plan(in tongue.Tongue, s join.Service) (out []string) {
	if s.Countries > 0 {
		out = append(out, in.Say("numbers in %s", countries(in, s.Countries)))
	} else if s.Does(join.CanPhone) {
		out = append(out, in.Say("phone numbers"))
	}
	switch l := s.Limits; {
	case l.Minutes > 0 && l.People > 0:
		out = append(out, in.Say("at most %[1]s min, %[2]s", strconv.Itoa(l.Minutes), People(in, l.People)))
	case l.Minutes > 0:
		out = append(out, in.Say("at most %s min", strconv.Itoa(l.Minutes)))
	case l.People > 0:
		out = append(out, in.Say("at most %s, no limit of minutes", People(in, l.People)))
	default:
		out = append(out, in.Say("no limit of minutes"))
	}
	return out
}

func countries(in tongue.Tongue, n int) string {
	if n == 1 {
		return in.Say("1 country")
	}
	return in.Say("%s countries", strconv.Itoa(n))
}
