package availability_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/availability"
	"jembro/internal/core/rooms"
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
