// Package words is what codes, counts, lists and times are in sentences: the only
// place in the program where the rules of the job are put into words.
package words

import (
	"strconv"

	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Count is "1 date", "3 dates".
func Count(in tongue.Tongue, n int, what string) string {
	if what == "person" {
		return People(in, n)
	}
	return Counted(in, n, "1 "+what, "%s "+what+"s")
}

// Counted is one of two sentences, by how many there are; the second says the number.
func Counted(in tongue.Tongue, n int, one, more string) string {
	if n == 1 {
		return in.Say(one)
	}
	return in.Say(more, strconv.Itoa(n))
}

// People is "1 person", "3 people".
func People(in tongue.Tongue, n int) string { return Counted(in, n, "1 person", "%s people") }

// Days names up to three days, and counts more as dates.
func Days(in tongue.Tongue, days []when.Day) string {
	if len(days) > 3 {
		return in.Say("%d dates", len(days))
	}
	var names []string
	for _, d := range days {
		names = append(names, in.Date(d))
	}
	return in.List(names)
}

// ShortDay is "7 Jan".
func ShortDay(in tongue.Tongue, d when.Day) string {
	_, month, dom := d.Date()
	return in.Say("%[1]s %[2]s", strconv.Itoa(dom), in.Say(month.String()[:3]))
}
