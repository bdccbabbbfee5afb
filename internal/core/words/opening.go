package words

import (
	"fmt"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
)

// Opening says what an opening is like: its head is who is there, the lines what there is
// to know. zones are those of the people, by their place; nil where one is not known.
func Opening(o availability.Opening, people []availability.Person, zones []*when.Zone) (head string, lines []string) {
	needed := 0
	for _, p := range people {
		if p.Needed {
			needed++
		}
	}
	switch {
	case len(o.Missing) > 0 && needed == 1:
		head = "You are not clear"
	case len(o.Missing) > 0:
		head = fmt.Sprintf("%d of %d, without %s", needed-len(o.Missing), needed, names(o.Missing, people))
	case needed == 1:
		head = "You are clear"
	default:
		head = fmt.Sprintf("All %d needed", needed)
	}
	switch {
	case len(o.Off) > 0:
		lines = append(lines, outside(o, people, zones))
	case needed > 1:
		lines = append(lines, "everyone within working hours")
	}
	if len(o.Maybe) > 0 {
		lines = append(lines, names(o.Maybe, people)+" maybe busy")
	}
	if len(o.Optional) > 0 {
		lines = append(lines, names(o.Optional, people)+" cannot come")
	}
	return head, lines
}

// outside says how late or early it is for who is worst off, on their clock, and how many
// others are outside their hours: "S. Onari until 19:30, 1 more outside hours".
func outside(o availability.Opening, people []availability.Person, zones []*when.Zone) string {
	worst := o.Off[0]
	for _, x := range o.Off {
		if x.Off > worst.Off {
			worst = x
		}
	}
	text := name(people[worst.Person])
	zone := zones[worst.Person]
	switch late := !people[worst.Person].Off.Overlaps(when.Span{Start: o.Start, End: o.Start.Add(when.Quarter)}); {
	case zone == nil || worst.Off >= o.Length():
		text += " outside hours"
		if zone != nil && !people[worst.Person].You {
			text += ", " + zone.LocalAt(o.Start).Clock.String() + " there"
		}
	case late:
		text += " until " + zone.LocalAt(o.End).Clock.String()
	default:
		text += " from " + zone.LocalAt(o.Start).Clock.String()
	}
	if n := len(o.Off) - 1; n > 0 {
		text += fmt.Sprintf(", %d more outside hours", n)
	}
	return text
}

// Mend says in a few words what would make an opening fit: "30 min later", "45 min
// instead". place names the other room, for a mend by one.
func Mend(m availability.Mend, o availability.Opening, people []availability.Person, place string, zone when.Zone) string {
	span := func(s when.Span) string {
		return zone.LocalAt(s.Start).Clock.String() + " – " + zone.LocalAt(s.End).Clock.String()
	}
	switch m.Kind {
	case availability.MendShift:
		by := time.Duration(m.Span.Start-o.Start) * time.Second
		if by < 0 {
			return Length(-by) + " earlier"
		}
		return Length(by) + " later"
	case availability.MendShorter:
		if m.Span.Start != o.Start {
			return Length(m.Span.Length()) + " instead, from " + zone.LocalAt(m.Span.Start).Clock.String()
		}
		return Length(m.Span.Length()) + " instead"
	case availability.MendWithout:
		if people[m.Person].You {
			return "without you"
		}
		return "without " + name(people[m.Person])
	case availability.MendRoom:
		return "in " + place
	}
	return "in two parts, " + span(m.Span) + " and " + span(m.Second)
}
