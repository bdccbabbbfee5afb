package words

import (
	"fmt"
	"strings"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// AllDay is when something is that takes whole days, from the first to the last: "Thu 3
// Dec 2026, all day", "Thu 3 – Sat 5 Dec 2026, 3 days".
func AllDay(first, last when.Day) string {
	if last <= first {
		return FullDay(first) + ", all day"
	}
	return fmt.Sprintf("%s – %s, %d days", FullDay(first), FullDay(last), last-first+1)
}

// Series is how a plan comes, "every 2nd Thursday until 25 February"; in a language that has no
// words for its rule, only until when it does.
func Series(t tongue.Tongue, p series.Plan) string {
	if t.English() {
		return p.Words()
	}
	var parts []string
	if rule := t.Rule(p.Rule, p.Start.Day); rule != "" {
		parts = append(parts, rule)
	}
	if last, ends := p.Last(); ends {
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
