package fits

import (
	"fmt"
	"strings"
)

// Words is the answer in a few words, as it stands on the line between people
// and rooms: "all 4 + 2 rooms", "3 of 4: Rui Calado busy".
func (s Stretch) Words(wantRoom bool) string {
	switch {
	case s.NoRoom:
		return "no room clear"
	case !s.Fits && s.Needed == 1:
		return s.Missing[0] + " busy"
	case !s.Fits:
		return fmt.Sprintf("%d of %d: %s busy", s.Clear, s.Needed, strings.Join(s.Missing, ", "))
	case len(s.Off) > 0:
		return join(s.Off) + " outside hours"
	case len(s.Maybe) > 0:
		return join(s.Maybe) + " maybe busy"
	}
	people := fmt.Sprintf("all %d", s.Needed)
	if s.Needed == 1 {
		people = "clear"
	}
	switch {
	case !wantRoom:
		return people
	case s.Rooms == 1:
		return people + " + 1 room"
	}
	return fmt.Sprintf("%s + %d rooms", people, s.Rooms)
}

// join names one or two people, and counts more.
func join(names []string) string {
	if len(names) > 2 {
		return fmt.Sprintf("%d people", len(names))
	}
	return strings.Join(names, ", ")
}
