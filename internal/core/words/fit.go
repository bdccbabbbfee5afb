package words

import (
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/tongue"
)

// Stretch is a stretch in a few words, as it stands on the line between people
// and rooms: "all 4 + 2 rooms", "3 of 4: without Rui Calado". people are those that
// it was found for.
func Stretch(in tongue.Tongue, s availability.Stretch, people []availability.Person, wantRoom bool) string {
	switch {
	case s.NoRoom:
		return in.Say("no room clear")
	case !s.Fits && s.Needed == 1:
		return in.Say("%s not clear", names(in, s.Missing, people))
	case !s.Fits:
		return in.Say("%[1]s of %[2]s: without %[3]s", strconv.Itoa(s.Clear), strconv.Itoa(s.Needed), names(in, s.Missing, people))
	case len(s.Off) > 0:
		return in.Say("%s outside hours", names(in, s.Off, people))
	case len(s.Maybe) > 0:
		return in.Say("%s maybe busy", names(in, s.Maybe, people))
	}
	all := in.Say("all %s", strconv.Itoa(s.Needed))
	if s.Needed == 1 {
		all = in.Say("clear")
	}
	switch {
	case !wantRoom:
		return all
	case s.Rooms == 1:
		return in.Say("%s + 1 room", all)
	}
	return in.Say("%[1]s + %[2]s rooms", all, strconv.Itoa(s.Rooms))
}

// names are those of one or two people, and a count of more.
func names(in tongue.Tongue, places []int, people []availability.Person) string {
	if len(places) > 2 {
		return in.Say("%s people", strconv.Itoa(len(places)))
	}
	var out []string
	for _, at := range places {
		out = append(out, name(in, people[at]))
	}
	return strings.Join(out, ", ")
}

func name(in tongue.Tongue, p availability.Person) string {
	if p.You {
		return in.Say("you")
	}
	return p.Name
}

// Trouble says what stands against the chosen time for somebody, beside their
// name: "is busy then".
func Trouble(in tongue.Tongue, t availability.Trouble, p availability.Person) string {
	is, works := in.Say("is"), in.Say("works")
	if p.You {
		is, works = in.Say("are"), in.Say("work")
	}
	switch {
	case t.Leave:
		return in.Say("%s on leave then", is)
	case t.Busy:
		return in.Say("%s busy then", is)
	case t.Maybe:
		return in.Say("%s maybe busy then", is)
	}
	return in.Say("%[1]s other hours (%[2]s min outside)", works, strconv.Itoa(int(t.Off/time.Minute)))
}
