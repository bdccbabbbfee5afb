package availability_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jembro/internal/core/availability"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

func TestTheNearestStretchThatFits(t *testing.T) {
	ask := func(wantRoom bool, people []availability.Person, all ...rooms.Room) availability.Ask {
		return availability.Ask{Window: span(0, 100), Length: 10 * time.Second, People: people, Rooms: all, WantRoom: wantRoom}
	}
	cases := []struct {
		name string
		ask  availability.Ask
		want any
	}{
		{"where it is", ask(false, []availability.Person{person("Ilse")}), span(40, 50)},
		{"just after", ask(false, []availability.Person{person("Ilse", 30, 52)}), span(55, 65)},
		{"just before is nearer", ask(false, []availability.Person{person("Ilse", 41, 80)}), span(30, 40)},
		{"needed people count, optional ones do not", ask(false, []availability.Person{{Name: "Freya", Busy: busy(0, 100)}}), span(40, 50)},
		{"outside somebody's hours does not fit", ask(false, []availability.Person{{Name: "Onari", Needed: true, Off: busy(0, 80)}}), span(80, 90)},
		{"one room for all of it", ask(true, []availability.Person{person("Ilse")}, rooms.Room{Busy: busy(0, 45, 51, 100)}, rooms.Room{Busy: busy(0, 60)}), span(60, 70)},
		{"nowhere", ask(true, []availability.Person{person("Ilse", 0, 95)}, rooms.Room{}), nil},
		{"no rooms", ask(true, []availability.Person{person("Ilse")}), nil},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			found, _, ok := availability.Nearest(c.ask, 40, 5*time.Second)
			assert.Equal(t, c.want != nil, ok)
			if ok {
				assert.Equal(t, c.want, found)
			}
		})
	}
}

// What is found is nearest of all: no start on the grid that fits lies nearer.
func TestNothingNearerFits(t *testing.T) {
	const hour, grid = int64(3600), int64(900)
	rapid.Check(t, func(t *rapid.T) {
		some := rapid.SliceOfN(rapid.Int64Range(0, 14*24), 0, 40)
		taken := func(name string) when.Spans {
			var all []when.Span
			for _, h := range some.Draw(t, name) {
				all = append(all, when.Span{Start: when.Instant(h * hour), End: when.Instant((h + 1) * hour)})
			}
			return when.Union(all...)
		}
		whole := taken("long")
		for i := range whole {
			whole[i].End = whole[i].End.Add(time.Duration(rapid.IntRange(0, 60).Draw(t, "more")) * time.Hour)
		}
		ask := availability.Ask{Window: when.Span{End: when.Instant(14 * 24 * hour)}, Length: time.Duration(rapid.IntRange(1, 8).Draw(t, "quarters")) * 15 * time.Minute,
			People:   []availability.Person{{Needed: true, Busy: taken("busy"), Off: taken("off")}, {Needed: true, Busy: when.Union(whole...)}},
			WantRoom: true, Rooms: []rooms.Room{{Busy: taken("room")}, {Busy: taken("other room")}}}
		around := rapid.Int64Range(0, 14*24*4).Draw(t, "around") * grid
		best := int64(-1)
		for start := int64(0); start < int64(ask.Window.End); start += grid {
			s := when.Span{Start: when.Instant(start), End: when.Instant(start).Add(ask.Length)}
			fits := func(p availability.Person) bool { return !p.Busy.Overlaps(s) && !p.Off.Overlaps(s) }
			room := !ask.Rooms[0].Busy.Overlaps(s) || !ask.Rooms[1].Busy.Overlaps(s)
			if d := max(start-around, around-start); ask.Window.Covers(s) && fits(ask.People[0]) && fits(ask.People[1]) && room && (best < 0 || d < best) {
				best = d
			}
		}
		found, room, ok := availability.Nearest(ask, when.Instant(around), 15*time.Minute)
		if assert.Equal(t, best >= 0, ok) && ok {
			assert.Equal(t, best, max(int64(found.Start)-around, around-int64(found.Start)))
			assert.False(t, ask.Rooms[room].Busy.Overlaps(found))
		}
	})
}
