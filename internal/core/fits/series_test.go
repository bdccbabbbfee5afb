package fits_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/fits"
	"jembro/internal/core/when"
)

// days are n dates of ten units each, a hundred apart.
func days(n int) (out []when.Span) {
	for i := range n {
		out = append(out, span(i*100, i*100+10))
	}
	return out
}

// takenOn is a room that is taken on some of the dates.
func takenOn(id string, dates ...int) fits.Room {
	var edges []int
	for _, d := range dates {
		edges = append(edges, d*100+5, d*100+6)
	}
	return fits.Room{ID: id, Busy: busy(edges...)}
}

func TestRoomsOverASeries(t *testing.T) {
	cases := []struct {
		name      string
		dates     int
		rooms     []fits.Room
		one, each fits.Assigned
	}{
		{"the first room is clear on all", 3, []fits.Room{takenOn("map"), takenOn("loft")}, fits.Assigned{0, 0, 0}, fits.Assigned{0, 0, 0}},
		{"another room is clear on all: one room is better than two", 3, []fits.Room{takenOn("map", 1), takenOn("loft")}, fits.Assigned{1, 1, 1}, fits.Assigned{1, 1, 1}},
		{"no room is clear on all", 4, []fits.Room{takenOn("map", 3), takenOn("loft", 0)}, fits.Assigned{0, 0, 0, fits.NoRoom}, fits.Assigned{0, 0, 0, 1}},
		{"fewest changes, not back and forth", 5, []fits.Room{takenOn("map", 2, 4), takenOn("loft", 0)},
			fits.Assigned{fits.NoRoom, 1, 1, 1, 1}, fits.Assigned{0, 0, 1, 1, 1}},
		{"a date on which every room is taken", 3, []fits.Room{takenOn("map", 1), takenOn("loft", 1, 2)}, fits.Assigned{0, fits.NoRoom, 0}, fits.Assigned{0, fits.NoRoom, 0}},
		{"three rooms where two do not do", 3, []fits.Room{takenOn("a", 1, 2), takenOn("b", 0, 2), takenOn("c", 0, 1)}, fits.Assigned{0, fits.NoRoom, fits.NoRoom}, fits.Assigned{0, 1, 2}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			one, each := fits.RoomsOver(days(c.dates), c.rooms)
			assert.Equal(t, c.one, one)
			assert.Equal(t, c.each, each)
		})
	}
	one, each := fits.RoomsOver(days(2), nil)
	assert.Nil(t, one)
	assert.Nil(t, each)
}

// TestRoomsOverAgreesWithTryingEverything goes through every assignment.
func TestRoomsOverAgreesWithTryingEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n, rooms := rapid.IntRange(1, 6).Draw(t, "dates"), []fits.Room{}
		clear := [][]bool{}
		for r := range rapid.IntRange(1, 3).Draw(t, "rooms") {
			var taken []int
			row := make([]bool, n)
			for d := range n {
				if row[d] = rapid.Bool().Draw(t, "clear"); !row[d] {
					taken = append(taken, d)
				}
			}
			rooms, clear = append(rooms, takenOn(string(rune('a'+r)), taken...)), append(clear, row)
		}
		dates := days(n)
		one, each := fits.RoomsOver(dates, rooms)
		best := fits.Assigned(nil)
		var walk func(a fits.Assigned)
		walk = func(a fits.Assigned) {
			if len(a) == n {
				if best == nil || worse(best, a) {
					best = append(fits.Assigned{}, a...)
				}
				return
			}
			none := true
			for r := range rooms {
				if clear[r][len(a)] {
					none = false
					walk(append(a, r))
				}
			}
			if none {
				walk(append(a, fits.NoRoom))
			}
		}
		walk(fits.Assigned{})
		for d, r := range each {
			require.True(t, r == fits.NoRoom || clear[r][d], "only clear rooms")
		}
		require.Equal(t, best.Without(), each.Without())
		require.Equal(t, best.Rooms(), each.Rooms())
		require.Equal(t, best.Changes(), each.Changes())
		require.LessOrEqual(t, one.Rooms(), 1)
		for r := range rooms {
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

func worse(a, b fits.Assigned) bool {
	if a.Without() != b.Without() {
		return a.Without() > b.Without()
	}
	if a.Rooms() != b.Rooms() {
		return a.Rooms() > b.Rooms()
	}
	return a.Changes() > b.Changes()
}

func TestTheNearestStretchThatFits(t *testing.T) {
	ask := func(wantRoom bool, people []fits.Person, rooms ...fits.Room) fits.Ask {
		return fits.Ask{Window: span(0, 100), Length: 10 * time.Second, People: people, Rooms: rooms, WantRoom: wantRoom}
	}
	cases := []struct {
		name string
		ask  fits.Ask
		want any
	}{
		{"where it is", ask(false, []fits.Person{person("Ilse")}), span(40, 50)},
		{"just after", ask(false, []fits.Person{person("Ilse", 30, 52)}), span(55, 65)},
		{"just before is nearer", ask(false, []fits.Person{person("Ilse", 41, 80)}), span(30, 40)},
		{"needed people count, optional ones do not", ask(false, []fits.Person{{Name: "Freya", Busy: busy(0, 100)}}), span(40, 50)},
		{"outside somebody's hours does not fit", ask(false, []fits.Person{{Name: "Onari", Needed: true, Off: busy(0, 80)}}), span(80, 90)},
		{"one room for all of it", ask(true, []fits.Person{person("Ilse")}, fits.Room{Busy: busy(0, 45, 51, 100)}, fits.Room{Busy: busy(0, 60)}), span(60, 70)},
		{"nowhere", ask(true, []fits.Person{person("Ilse", 0, 95)}, fits.Room{}), nil},
		{"no rooms", ask(true, []fits.Person{person("Ilse")}), nil},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			found, _, ok := fits.Nearest(c.ask, 40, 5*time.Second)
			assert.Equal(t, c.want != nil, ok)
			if ok {
				assert.Equal(t, c.want, found)
			}
		})
	}
}
