package words

import (
	"strconv"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Opening says what an opening is like: its head is who is there, the lines what there is
// to know. zones are those of the people, by their place; nil where one is not known.
func Opening(in tongue.Tongue, o availability.Opening, people []availability.Person, zones []*when.Zone) (head string, lines []string) {
	needed := 0
	for _, p := range people {
		if p.Needed {
			needed++
		}
	}
	switch {
	case len(o.Missing) > 0 && needed == 1:
		head = in.Say("You are not clear")
	case len(o.Missing) > 0:
		head = in.Say("%[1]s of %[2]s, without %[3]s", strconv.Itoa(needed-len(o.Missing)), strconv.Itoa(needed), names(in, o.Missing, people))
	case needed == 1:
		head = in.Say("You are clear")
	default:
		head = in.Say("All %s needed", strconv.Itoa(needed))
	}
	switch {
	case len(o.Off) > 0:
		lines = append(lines, outside(in, o, people, zones))
	case needed > 1:
		lines = append(lines, in.Say("everyone within working hours"))
	}
	if len(o.Maybe) > 0 {
		lines = append(lines, in.Say("%s maybe busy", names(in, o.Maybe, people)))
	}
	if len(o.Optional) > 0 {
		lines = append(lines, in.Say("%s cannot come", names(in, o.Optional, people)))
	}
	return head, lines
}

// outside says how late or early it is for who is worst off, on their clock, and how many
// others are outside their hours: "S. Onari until 19:30, 1 more outside hours".
func outside(in tongue.Tongue, o availability.Opening, people []availability.Person, zones []*when.Zone) string {
	worst := o.Off[0]
	for _, x := range o.Off {
		if x.Off > worst.Off {
			worst = x
		}
	}
	text := name(in, people[worst.Person])
	zone := zones[worst.Person]
	switch late := !people[worst.Person].Off.Overlaps(when.Span{Start: o.Start, End: o.Start.Add(when.Quarter)}); {
	case zone == nil || worst.Off >= o.Length():
		text += in.Say(" outside hours")
		if zone != nil && !people[worst.Person].You {
			text += in.Say(", %s there", zone.LocalAt(o.Start).Clock.String())
		}
	case late:
		text += in.Say(" until %s", zone.LocalAt(o.End).Clock.String())
	default:
		text += in.Say(" from %s", zone.LocalAt(o.Start).Clock.String())
	}
	if n := len(o.Off) - 1; n > 0 {
		text += in.Say(", %s more outside hours", strconv.Itoa(n))
	}
	return text
}

// Mend says in a few words what would make an opening fit: "30 min later", "45 min
// instead". place names the other room, for a mend by one.
func Mend(in tongue.Tongue, m availability.Mend, o availability.Opening, people []availability.Person, place string, zone when.Zone) string {
	span := func(s when.Span) string {
		return zone.LocalAt(s.Start).Clock.String() + " – " + zone.LocalAt(s.End).Clock.String()
	}
	switch m.Kind {
	case availability.MendShift:
		by := time.Duration(m.Span.Start-o.Start) * time.Second
		if by < 0 {
			return in.Say("%s earlier", Length(in, -by))
		}
		return in.Say("%s later", Length(in, by))
	case availability.MendShorter:
		if m.Span.Start != o.Start {
			return in.Say("%[1]s instead, from %[2]s", Length(in, m.Span.Length()), zone.LocalAt(m.Span.Start).Clock.String())
		}
		return in.Say("%s instead", Length(in, m.Span.Length()))
	case availability.MendWithout:
		if people[m.Person].You {
			return in.Say("without you")
		}
		return in.Say("without %s", name(in, people[m.Person]))
	case availability.MendRoom:
		return in.Say("in %s", place)
	}
	return in.Say("in two parts, %[1]s and %[2]s", span(m.Span), span(m.Second))
}
