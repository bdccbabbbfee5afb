package words

import (
	"fmt"
	"strings"
	"time"

	"jembro/internal/core/availability"
)

// Stretch is a stretch in a few words, as it stands on the line between people
// and rooms: "all 4 + 2 rooms", "3 of 4: without Rui Calado". people are those that
// it was found for.
func Stretch(s availability.Stretch, people []availability.Person, wantRoom bool) string {
	switch {
	case s.NoRoom:
		return "no room clear"
	case !s.Fits && s.Needed == 1:
		return names(s.Missing, people) + " not clear"
	case !s.Fits:
		return fmt.Sprintf("%d of %d: without %s", s.Clear, s.Needed, names(s.Missing, people))
	case len(s.Off) > 0:
		return names(s.Off, people) + " outside hours"
	case len(s.Maybe) > 0:
		return names(s.Maybe, people) + " maybe busy"
	}
	all := fmt.Sprintf("all %d", s.Needed)
	if s.Needed == 1 {
		all = "clear"
	}
	switch {
	case !wantRoom:
		return all
	case s.Rooms == 1:
		return all + " + 1 room"
	}
	return fmt.Sprintf("%s + %d rooms", all, s.Rooms)
}

// names are those of one or two people, and a count of more.
func names(places []int, people []availability.Person) string {
	if len(places) > 2 {
		return fmt.Sprintf("%d people", len(places))
	}
	var out []string
	for _, at := range places {
		out = append(out, name(people[at]))
	}
	return strings.Join(out, ", ")
}

func name(p availability.Person) string {
	if p.You {
		return "you"
	}
	return p.Name
}

// Trouble says what stands against the chosen time for somebody, beside their
// name: "is busy then".
func Trouble(t availability.Trouble, p availability.Person) string {
	is, works := "is", "works"
	if p.You {
		is, works = "are", "work"
	}
	switch {
	case t.Leave:
		return is + " on leave then"
	case t.Busy:
		return is + " busy then"
	case t.Maybe:
		return is + " maybe busy then"
	}
	return fmt.Sprintf("%s other hours (%d min outside)", works, int(t.Off/time.Minute))
}
