// Package words is what codes, counts, lists and times are in sentences: the only
// place in the program where the rules of the job are put into words.
package words

import (
	"fmt"
	"strings"

	"jembro/internal/core/when"
)

// Count is "1 date", "3 dates".
func Count(n int, what string) string {
	switch {
	case n == 1:
		return "1 " + what
	case what == "person":
		return People(n)
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// People is "1 person", "3 people".
func People(n int) string {
	if n == 1 {
		return "1 person"
	}
	return fmt.Sprintf("%d people", n)
}

// List is "a", "a and b", "a, b and c".
func List(parts []string) string {
	if len(parts) < 2 {
		return strings.Join(parts, "")
	}
	return strings.Join(parts[:len(parts)-1], ", ") + " and " + parts[len(parts)-1]
}

// Days names up to three days, and counts more as dates.
func Days(days []when.Day) string {
	if len(days) > 3 {
		return Count(len(days), "date")
	}
	var names []string
	for _, d := range days {
		names = append(names, d.Words())
	}
	return List(names)
}

// ShortDay is "7 Jan".
func ShortDay(d when.Day) string {
	_, month, dom := d.Date()
	return fmt.Sprintf("%d %s", dom, month.String()[:3])
}
