package words

import (
	"fmt"

	"jembro/internal/core/join"
	"jembro/internal/core/when"
)

// Over says for what a provider's plan is too small, at the clocks of a zone.
func Over(e join.Excess, provider string, zone when.Zone) string {
	switch e.Kind {
	case join.TooLong:
		return fmt.Sprintf("The plan at %s ends a call after %d minutes; this meeting runs %d.", provider, e.Limit, e.Has)
	case join.TooMany:
		return fmt.Sprintf("%s lets %s in; %d are to come.", provider, People(e.Limit), e.Has)
	case join.TooBusy:
		return fmt.Sprintf("The account at %s has %s at a time; %s at the same time as this.", provider, Count(e.Limit, "call"), othersAre(e.Has-1))
	case join.TooOften:
		return fmt.Sprintf("A link at %s holds for %s; this series has more.", provider, Count(e.Limit, "date"))
	case join.LinkEnds:
		return fmt.Sprintf("%s keeps a link until %s; the meeting goes on after that.", provider, FullDay(zone.LocalAt(when.At(e.Until)).Day))
	}
	return ""
}

func othersAre(n int) string {
	if n == 1 {
		return "1 other is"
	}
	return fmt.Sprintf("%d others are", n)
}

// InUse says that a standing room is in use at the same time, by what or by whom as far as
// the reader may know: "17 Dec, 9:30: in use by “Hall plan”; both would be in one call".
func InUse(span when.Span, title, by string, zone when.Zone) string {
	at := zone.LocalAt(span.Start)
	what := "another meeting"
	switch {
	case title != "":
		what = "“" + title + "”"
	case by != "":
		what = "a meeting of " + by
	}
	return fmt.Sprintf("%s, %s: in use by %s; both would be in one call", ShortDay(at.Day), at.Clock, what)
}

// Service is what a provider offers, in few words: "telephone and browser, fresh".
func Service(s join.Service) string {
	var parts []string
	if s.Does(join.CanMake) {
		parts = append(parts, "fresh link")
	}
	if s.Does(join.CanStand) {
		parts = append(parts, "standing rooms")
	}
	return List(parts)
}

// Plan is what a provider's plan allows: "numbers in 14 countries · at most 45 min, 50 people".
func Plan(s join.Service) (out []string) {
	if s.Countries > 0 {
		out = append(out, fmt.Sprintf("numbers in %s", countries(s.Countries)))
	} else if s.Does(join.CanPhone) {
		out = append(out, "phone numbers")
	}
	switch l := s.Limits; {
	case l.Minutes > 0 && l.People > 0:
		out = append(out, fmt.Sprintf("at most %d min, %s", l.Minutes, People(l.People)))
	case l.Minutes > 0:
		out = append(out, fmt.Sprintf("at most %d min", l.Minutes))
	case l.People > 0:
		out = append(out, fmt.Sprintf("at most %s, no limit of minutes", People(l.People)))
	default:
		out = append(out, "no limit of minutes")
	}
	return out
}

func countries(n int) string {
	if n == 1 {
		return "1 country"
	}
	return fmt.Sprintf("%d countries", n)
}
