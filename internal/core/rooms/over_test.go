package rooms_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

func span(a, b int) when.Span { return when.Span{Start: when.Instant(a), End: when.Instant(b)} }

// days are n dates of ten units each, a hundred apart.
func days(n int) (out []when.Span) {
	for i := range n {
		out = append(out, span(i*100, i*100+10))
	}
	return out
}

// takenOn is a room that is taken on some of the dates.
func takenOn(id string, dates ...int) rooms.Room {
	var spans []when.Span
	for _, d := range dates {
		spans = append(spans, span(d*100+5, d*100+6))
	}
	return rooms.Room{ID: id, Busy: when.Union(spans...)}
}

func TestRoomsOverASeries(t *testing.T) {
	cases := []struct {
		name      string
		dates     int
		rooms     []rooms.Room
		one, each rooms.Assigned
	}{
		{"the first room is clear on all", 3, []rooms.Room{takenOn("map"), takenOn("loft")}, rooms.Assigned{0, 0, 0}, rooms.Assigned{0, 0, 0}},
		{"another room is clear on all: one room is better than two", 3, []rooms.Room{takenOn("map", 1), takenOn("loft")}, rooms.Assigned{1, 1, 1}, rooms.Assigned{1, 1, 1}},
		{"no room is clear on all", 4, []rooms.Room{takenOn("map", 3), takenOn("loft", 0)}, rooms.Assigned{0, 0, 0, rooms.NoRoom}, rooms.Assigned{0, 0, 0, 1}},
		{"fewest changes, not back and forth", 5, []rooms.Room{takenOn("map", 2, 4), takenOn("loft", 0)},
			rooms.Assigned{rooms.NoRoom, 1, 1, 1, 1}, rooms.Assigned{0, 0, 1, 1, 1}},
		{"a date on which every room is taken", 3, []rooms.Room{takenOn("map", 1), takenOn("loft", 1, 2)}, rooms.Assigned{0, rooms.NoRoom, 0}, rooms.Assigned{0, rooms.NoRoom, 0}},
		{"three rooms where two do not do", 3, []rooms.Room{takenOn("a", 1, 2), takenOn("b", 0, 2), takenOn("c", 0, 1)}, rooms.Assigned{0, rooms.NoRoom, rooms.NoRoom}, rooms.Assigned{0, 1, 2}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			one, each := rooms.Over(days(c.dates), c.rooms)
			assert.Equal(t, c.one, one)
			assert.Equal(t, c.each, each)
		})
	}
	one, each := rooms.Over(days(2), nil)
	assert.Nil(t, one)
	assert.Nil(t, each)
}

// TestRoomsOverAgreesWithTryingEverything goes through every assignment.
func TestRoomsOverAgreesWithTryingEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n, all := rapid.IntRange(1, 6).Draw(t, "dates"), []rooms.Room{}
		clear := [][]bool{}
		for r := range rapid.IntRange(1, 3).Draw(t, "rooms") {
			var taken []int
			row := make([]bool, n)
			for d := range n {
				if row[d] = rapid.Bool().Draw(t, "clear"); !row[d] {
					taken = append(taken, d)
				}
			}
			all, clear = append(all, takenOn(string(rune('a'+r)), taken...)), append(clear, row)
		}
		dates := days(n)
		one, each := rooms.Over(dates, all)
		best := rooms.Assigned(nil)
		var walk func(a rooms.Assigned)
		walk = func(a rooms.Assigned) {
			if len(a) == n {
				if best == nil || worse(best, a) {
					best = append(rooms.Assigned{}, a...)
				}
				return
			}
			none := true
			for r := range all {
				if clear[r][len(a)] {
					none = false
					walk(append(a, r))
				}
			}
			if none {
				walk(append(a, rooms.NoRoom))
			}
		}
		walk(rooms.Assigned{})
		for d, r := range each {
			require.True(t, r == rooms.NoRoom || clear[r][d], "only clear rooms")
		}
		require.Equal(t, best.Without(), each.Without())
		require.Equal(t, different(best), different(each))
		require.Equal(t, best.Changes(), each.Changes())
		require.LessOrEqual(t, different(one), 1)
		for r := range all {
			n := 0
			for d := range dates {
				if clear[r][d] {
					n++
				}
			}
			require.LessOrEqual(t, n, len(dates)-one.Without(), "no single room is clear on more dates")
		}
	})
}

func worse(a, b rooms.Assigned) bool {
	if a.Without() != b.Without() {
		return a.Without() > b.Without()
	}
	if different(a) != different(b) {
		return different(a) > different(b)
	}
	return a.Changes() > b.Changes()
}

// different counts the different rooms.
func different(a rooms.Assigned) int {
	seen := map[int]bool{}
	for _, r := range a {
		if r != rooms.NoRoom {
			seen[r] = true
		}
	}
	return len(seen)
}
