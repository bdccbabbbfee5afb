package words

import (
	"strconv"
	"strings"

	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// AllDay is when something is that takes whole days, from the first to the last: "Thu 3
// Dec 2026, all day", "Thu 3 – Sat 5 Dec 2026, 3 days".
func AllDay(in tongue.Tongue, first, last when.Day) string {
	if last <= first {
		return in.Say("%s, all day", FullDay(in, first))
	}
	return in.Say("%[1]s – %[2]s, %[3]s days", FullDay(in, first), FullDay(in, last), strconv.Itoa(int(last-first+1)))
}

// Series is how a plan comes, "every 2nd Thursday until 25 February"; in a language that has no
// words for its rule, only until when it does.
func Series(t tongue.Tongue, p series.Plan) string {
	last, ends := p.Last()
	if !ends {
		last = 0
	}
	return repeating(t, p.Rule, p.Start.Day, last)
}

// Rule is how a series repeats, without its end.
func Rule(t tongue.Tongue, p series.Plan) string { return repeating(t, p.Rule, p.Start.Day, 0) }

// repeating is how a rule comes from its first day to its last, 0 for one without an end.
func repeating(t tongue.Tongue, rule recur.Rule, first, last when.Day) string {
	if t.English() {
		words := rule.Words(first)
		if last != 0 {
			words += recur.End{Until: last}.Words(first)
		}
		return words
	}
	var parts []string
	if words := t.Rule(rule, first); words != "" {
		parts = append(parts, words)
	}
	if last != 0 {
		parts = append(parts, t.Say("until %s", t.FullDate(last)))
	}
	return strings.Join(parts, ", ")
}

// When is when a date of a meeting is, in full, by the clock of a zone, in a language; whole days are the
// same everywhere.
func When(t tongue.Tongue, m meeting.Meeting, span when.Span, zone when.Zone) string {
	if !m.AllDay {
		return t.Span(zone, span)
	}
	first, last := m.Days(span)
	return t.AllDay(first, last)
}
