package rooms

import (
	"cmp"
	"strconv"
	"strings"
	"unicode"
)

// CompareFloors orders floors from below, by the number in their name; "ground" counts as
// 0, "basement" and "cellar" are below it, and names without any of these come last, by
// name.
func CompareFloors(a, b string) int {
	x, y := level(a), level(b)
	return cmp.Or(cmp.Compare(x, y), cmp.Compare(a, b))
}

const nowhere = 1 << 20

func level(floor string) int {
	lower := strings.ToLower(floor)
	below := strings.Contains(lower, "basement") || strings.Contains(lower, "cellar")
	digit := strings.IndexFunc(lower, unicode.IsDigit)
	n := 0
	if digit >= 0 {
		rest := lower[digit:]
		if end := strings.IndexFunc(rest, func(r rune) bool { return r < '0' || r > '9' }); end >= 0 {
			rest = rest[:end]
		}
		n, _ = strconv.Atoi(rest[:min(len(rest), 4)])
		if digit > 0 && lower[digit-1] == '-' {
			n = -n
		}
	}
	switch {
	case below:
		return -max(1, n)
	case digit >= 0:
		return n
	case strings.Contains(lower, "ground"):
		return 0
	}
	return nowhere
}
