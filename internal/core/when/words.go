package when

import (
	"fmt"
	"strings"
)

// City is how people name a zone: "Lisbon" for Europe/Lisbon.
func (z Zone) City() string {
	name := z.String()
	name = name[strings.LastIndexByte(name, '/')+1:]
	return strings.ReplaceAll(name, "_", " ")
}

// Words is a span as a clock in z shows it: "Thursday 3 December 2026, 9:30 –
// 10:30", and both days where it ends on another one.
func (z Zone) Words(s Span) string {
	const day = "Monday 2 January 2006"
	start, end := s.Start.Time().In(z.Location()), s.End.Time().In(z.Location())
	from := start.Format(day) + ", " + z.LocalAt(s.Start).Clock.String()
	if start.Format(day) == end.Format(day) {
		return from + " – " + z.LocalAt(s.End).Clock.String()
	}
	return from + " – " + end.Format(day) + ", " + z.LocalAt(s.End).Clock.String()
}

// Words is the day as people say it within its year: "14 January".
func (d Day) Words() string {
	_, month, dom := d.Date()
	return fmt.Sprintf("%d %s", dom, month)
}
