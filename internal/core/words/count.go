// Package words is what codes, counts, lists and times are in sentences: the only
// place in the program where the rules of the job are put into words.
package words

import (
	"strconv"
	"strings"

	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Count is "1 date", "3 dates".
func Count(in tongue.Tongue, n int, what string) string {
	switch {
	case what == "person":
		return People(in, n)
	case n == 1:
		return in.Say("1 " + what)
	}
	return in.Say("%s "+what+"s", strconv.Itoa(n))
}

// Counted is one of two sentences, by how many there are; the second says the number.
func Counted(in tongue.Tongue, n int, one, more string) string {
	if n == 1 {
		return in.Say(one)
	}
	return in.Say(more, strconv.Itoa(n))
}

// People is "1 person", "3 people".
func People(in tongue.Tongue, n int) string {
	if n == 1 {
		return in.Say("1 person")
	}
	return in.Say("%s people", strconv.Itoa(n))
}

// List is "a", "a and b", "a, b and c".
func List(in tongue.Tongue, parts []string) string {
	if len(parts) < 2 {
		return strings.Join(parts, "")
	}
	return in.Say("%[1]s and %[2]s", strings.Join(parts[:len(parts)-1], ", "), parts[len(parts)-1])
}

// Days names up to three days, and counts more as dates.
func Days(in tongue.Tongue, days []when.Day) string {
	if len(days) > 3 {
		return in.Say("%d dates", len(days))
	}
	var names []string
	for _, d := range days {
		names = append(names, in.Date(d))
	}
	return List(in, names)
}

// ShortDay is "7 Jan".
func ShortDay(in tongue.Tongue, d when.Day) string {
	_, month, dom := d.Date()
	return in.Say("%[1]s %[2]s", strconv.Itoa(dom), in.Say(month.String()[:3]))
}
