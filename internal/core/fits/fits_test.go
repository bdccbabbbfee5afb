package fits_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/fits"
	"jembro/internal/core/when"
)

// One unit is one second here: small numbers keep the tables readable.

func span(a, b int) when.Span { return when.Span{Start: when.Instant(a), End: when.Instant(b)} }

func busy(edges ...int) when.Spans {
	var spans []when.Span
	for i := 0; i < len(edges); i += 2 {
		spans = append(spans, span(edges[i], edges[i+1]))
	}
	return when.Union(spans...)
}

func person(name string, edges ...int) fits.Person {
	return fits.Person{Name: name, Needed: true, Busy: busy(edges...)}
}

func TestFind(t *testing.T) {
	ask := func(people []fits.Person, rooms ...fits.Room) fits.Ask {
		return fits.Ask{Window: span(0, 100), Length: 10 * time.Second, People: people, Rooms: rooms, WantRoom: len(rooms) > 0}
	}
	cases := []struct {
		name string
		ask  fits.Ask
		want []string
	}{
		{"nobody busy", ask([]fits.Person{person("Ilse"), person("Rui")}), []string{"0-100 all 2"}},
		{"one is busy in the middle", ask([]fits.Person{person("Ilse"), person("Rui", 40, 60)}),
			[]string{"0-40 all 2", "40-60 1 of 2: Rui busy", "60-100 all 2"}},
		{"a gap shorter than the meeting does not fit", ask([]fits.Person{person("Ilse", 0, 50, 55, 100)}),
			[]string{"0-100 Ilse busy"}},
		{"two missing at once is not nearly", ask([]fits.Person{person("Ilse", 20, 60), person("Rui", 40, 80)}),
			[]string{"0-20 all 2", "20-40 1 of 2: Ilse busy", "60-80 1 of 2: Rui busy", "80-100 all 2"}},
		{"two of one name are two people", ask([]fits.Person{person("Tom", 40, 60), person("Tom", 50, 70)}),
			[]string{"0-40 all 2", "40-50 1 of 2: Tom busy", "60-70 1 of 2: Tom busy", "70-100 all 2"}},
		{"optional people do not count", ask([]fits.Person{person("Ilse"), {Name: "Freya", Busy: busy(0, 100)}}),
			[]string{"0-100 clear"}},
		{"one room for the whole meeting", ask([]fits.Person{person("Ilse")},
			fits.Room{ID: "map", Busy: busy(10, 100)}, fits.Room{ID: "loft", Busy: busy(0, 15)}),
			[]string{"0-10 clear + 1 room", "10-15 no room clear", "15-100 clear + 1 room"}},
		{"people clear, no room", ask([]fits.Person{person("Ilse")}, fits.Room{ID: "map", Busy: busy(0, 60)}),
			[]string{"0-60 no room clear", "60-100 clear + 1 room"}},
		{"maybe busy fits and is said", ask([]fits.Person{{Name: "Rui", Needed: true, Maybe: busy(20, 40)}}),
			[]string{"0-20 clear", "20-40 Rui maybe busy", "40-100 clear"}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			var got []string
			for _, s := range fits.Find(c.ask) {
				got = append(got, fmt.Sprintf("%d-%d %s", s.Start, s.End, s.Words(c.ask.WantRoom)))
			}
			assert.Equal(t, c.want, got)
		})
	}
}

// TestFindAgreesWithTryingEveryPlacement holds the sweep against the plain
// definition: every start is tried, with every room.
func TestFindAgreesWithTryingEveryPlacement(t *testing.T) {
	const window = 30
	anyBusy := rapid.Custom(func(t *rapid.T) when.Spans {
		edges := rapid.SliceOfN(rapid.IntRange(0, window), 0, 6).Draw(t, "edges")
		return busy(edges[:len(edges)/2*2]...)
	})
	rapid.Check(t, func(t *rapid.T) {
		ask := fits.Ask{Window: span(0, window), Length: time.Duration(rapid.IntRange(1, 12).Draw(t, "length")) * time.Second,
			WantRoom: rapid.Bool().Draw(t, "want room")}
		for i, b := range rapid.SliceOfN(anyBusy, 1, 4).Draw(t, "people") {
			ask.People = append(ask.People, fits.Person{Name: string(rune('A' + i)), Needed: i == 0 || rapid.Bool().Draw(t, "needed"), Busy: b})
		}
		for i, b := range rapid.SliceOfN(anyBusy, 0, 3).Draw(t, "rooms") {
			ask.Rooms = append(ask.Rooms, fits.Room{ID: string(rune('a' + i)), Busy: b})
		}
		covered := map[int]bool{}
		length := int(ask.Length / time.Second)
		for start := 0; start+length <= window; start++ {
			placed := span(start, start+length)
			clear := !slices.ContainsFunc(ask.People, func(p fits.Person) bool { return p.Needed && p.Busy.Overlaps(placed) })
			room := !ask.WantRoom || slices.ContainsFunc(ask.Rooms, func(r fits.Room) bool { return !r.Busy.Overlaps(placed) })
			for i := start; clear && room && i < start+length; i++ {
				covered[i] = true
			}
		}
		found := fits.Find(ask)
		for i := range window {
			n := 0
			for _, s := range found {
				if s.Holds(when.Instant(i)) {
					n++
					require.Equal(t, covered[i], s.Fits, "at %d: %+v", i, s)
				}
			}
			require.LessOrEqual(t, n, 1, "two answers at %d", i)
			require.True(t, n == 1 || !covered[i], "no answer at %d", i)
		}
	})
}

func TestWorkingHoursAreSoft(t *testing.T) {
	tokyo, err := when.LoadZone("Asia/Tokyo")
	require.NoError(t, err)
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	day := when.DayOf(2026, 12, 3)
	at := func(h int) when.Instant {
		return when.Zoned{Local: when.Local{Day: day, Clock: when.ClockOf(h, 0)}, Zone: lisbon}.Instant()
	}
	window := when.Span{Start: at(8), End: at(12)}
	onari := fits.Person{Name: "S. Onari", Needed: true,
		Off: when.Workdays(when.ClockOf(9, 0), when.ClockOf(19, 0), tokyo).Within(window).Within(window)}
	found := fits.Find(fits.Ask{Window: window, Length: time.Hour, People: []fits.Person{onari}})
	require.Len(t, found, 2)
	assert.Equal(t, "clear", found[0].Words(false))
	assert.Equal(t, at(10), found[0].End, "19:00 in Tokyo is 10:00 in Lisbon")
	assert.True(t, found[1].Fits)
	assert.Equal(t, "S. Onari outside hours", found[1].Words(false))

	trouble := fits.Check(when.Span{Start: at(9), End: at(11)}, []fits.Person{onari})
	assert.Equal(t, []fits.Trouble{{Name: "S. Onari", Needed: true, Off: time.Hour}}, trouble)
	assert.Empty(t, fits.Check(when.Span{Start: at(9), End: at(10)}, []fits.Person{onari}))
}

func TestCheckSaysWhatStandsAgainstATime(t *testing.T) {
	people := []fits.Person{person("Ilse"), person("Rui", 5, 15), {Name: "Freya", Busy: busy(0, 100)}, {Name: "Tomé", Needed: true, Maybe: busy(9, 11)}}
	assert.Equal(t, []fits.Trouble{
		{Name: "Rui", Needed: true, Busy: true},
		{Name: "Freya", Busy: true},
		{Name: "Tomé", Needed: true, Maybe: true},
	}, fits.Check(span(10, 20), people))
}
