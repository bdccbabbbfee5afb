package availability_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/availability"
	"jembro/internal/core/rooms"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
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

func person(name string, edges ...int) availability.Person {
	return availability.Person{Name: name, Needed: true, Busy: busy(edges...)}
}

func TestFind(t *testing.T) {
	ask := func(people []availability.Person, all ...rooms.Room) availability.Ask {
		return availability.Ask{Window: span(0, 100), Length: 10 * time.Second, People: people, Rooms: all, WantRoom: len(all) > 0}
	}
	cases := []struct {
		name string
		ask  availability.Ask
		want []string
	}{
		{"nobody busy", ask([]availability.Person{person("Ilse"), person("Rui")}), []string{"0-100 all 2"}},
		{"one is busy in the middle", ask([]availability.Person{person("Ilse"), person("Rui", 40, 60)}),
			[]string{"0-40 all 2", "40-60 1 of 2: without Rui", "60-100 all 2"}},
		{"a gap shorter than the meeting does not fit", ask([]availability.Person{person("Ilse", 0, 50, 55, 100)}),
			[]string{"0-100 Ilse not clear"}},
		{"two missing at once is not nearly", ask([]availability.Person{person("Ilse", 20, 60), person("Rui", 40, 80)}),
			[]string{"0-20 all 2", "20-40 1 of 2: without Ilse", "60-80 1 of 2: without Rui", "80-100 all 2"}},
		{"two of one name are two people", ask([]availability.Person{person("Tom", 40, 60), person("Tom", 50, 70)}),
			[]string{"0-40 all 2", "40-50 1 of 2: without Tom", "60-70 1 of 2: without Tom", "70-100 all 2"}},
		{"optional people do not count", ask([]availability.Person{person("Ilse"), {Name: "Freya", Busy: busy(0, 100)}}),
			[]string{"0-100 clear"}},
		{"one room for the whole meeting", ask([]availability.Person{person("Ilse")},
			rooms.Room{ID: "map", Busy: busy(10, 100)}, rooms.Room{ID: "loft", Busy: busy(0, 15)}),
			[]string{"0-10 clear + 1 room", "10-15 no room clear", "15-100 clear + 1 room"}},
		{"people clear, no room", ask([]availability.Person{person("Ilse")}, rooms.Room{ID: "map", Busy: busy(0, 60)}),
			[]string{"0-60 no room clear", "60-100 clear + 1 room"}},
		{"maybe busy fits and is said", ask([]availability.Person{{Name: "Rui", Needed: true, Maybe: busy(20, 40)}}),
			[]string{"0-20 clear", "20-40 Rui maybe busy", "40-100 clear"}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			var got []string
			for _, s := range availability.Find(c.ask) {
				got = append(got, fmt.Sprintf("%d-%d %s", s.Start, s.End, words.Stretch(tongue.Tongue{}, s, c.ask.People, c.ask.WantRoom)))
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
		ask := availability.Ask{Window: span(0, window), Length: time.Duration(rapid.IntRange(1, 12).Draw(t, "length")) * time.Second,
			WantRoom: rapid.Bool().Draw(t, "want room")}
		for i, b := range rapid.SliceOfN(anyBusy, 1, 4).Draw(t, "people") {
			ask.People = append(ask.People, availability.Person{Name: string(rune('A' + i)), Needed: i == 0 || rapid.Bool().Draw(t, "needed"), Busy: b})
		}
		for i, b := range rapid.SliceOfN(anyBusy, 0, 3).Draw(t, "rooms") {
			ask.Rooms = append(ask.Rooms, rooms.Room{ID: string(rune('a' + i)), Busy: b})
		}
		covered := map[int]bool{}
		length := int(ask.Length / time.Second)
		for start := 0; start+length <= window; start++ {
			placed := span(start, start+length)
			clear := !slices.ContainsFunc(ask.People, func(p availability.Person) bool { return p.Needed && p.Busy.Overlaps(placed) })
			room := !ask.WantRoom || slices.ContainsFunc(ask.Rooms, func(r rooms.Room) bool { return !r.Busy.Overlaps(placed) })
			for i := start; clear && room && i < start+length; i++ {
				covered[i] = true
			}
		}
		found := availability.Find(ask)
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
	onari := availability.Person{Name: "S. Onari", Needed: true,
		Off: when.Workdays(when.ClockOf(9, 0), when.ClockOf(19, 0), tokyo).Within(window).Within(window)}
	found := availability.Find(availability.Ask{Window: window, Length: time.Hour, People: []availability.Person{onari}})
	require.Len(t, found, 2)
	assert.Equal(t, "clear", words.Stretch(tongue.Tongue{}, found[0], []availability.Person{onari}, false))
	assert.Equal(t, at(10), found[0].End, "19:00 in Tokyo is 10:00 in Lisbon")
	assert.True(t, found[1].Fits)
	assert.Equal(t, "S. Onari outside hours", words.Stretch(tongue.Tongue{}, found[1], []availability.Person{onari}, false))

	trouble := availability.Check(when.Span{Start: at(9), End: at(11)}, []availability.Person{onari})
	assert.Equal(t, []availability.Trouble{{Person: 0, Needed: true, Off: time.Hour}}, trouble)
	assert.Empty(t, availability.Check(when.Span{Start: at(9), End: at(10)}, []availability.Person{onari}))
}

func TestCheckSaysWhatStandsAgainstATime(t *testing.T) {
	people := []availability.Person{person("Ilse"), person("Rui", 5, 15), {Name: "Freya", Busy: busy(0, 100)}, {Name: "Tomé", Needed: true, Maybe: busy(9, 11)}}
	assert.Equal(t, []availability.Trouble{
		{Person: 1, Needed: true, Busy: true},
		{Person: 2, Busy: true},
		{Person: 3, Needed: true, Maybe: true},
	}, availability.Check(span(10, 20), people))
}
