package availability_test

import (
	"fmt"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

func ExampleFind() {
	const hour = when.Instant(3600)
	ask := availability.Ask{
		Window: when.Span{Start: 9 * hour, End: 13 * hour}, Length: time.Hour,
		People: []availability.Person{
			{Name: "Ilse Marrant", Needed: true, Busy: when.Spans{{Start: 9 * hour, End: 10 * hour}}},
			{Name: "Rui Calado", Needed: true, Busy: when.Spans{{Start: 12 * hour, End: 13 * hour}}},
		},
		WantRoom: true, Rooms: []rooms.Room{{ID: "Map Room", Busy: when.Spans{{Start: 11 * hour, End: 12 * hour}}}},
	}
	for _, s := range availability.Find(ask) {
		fmt.Println(s.Start.Time().Format("15:04"), s.End.Time().Format("15:04"), "fits:", s.Fits, "missing:", s.Missing, "no room:", s.NoRoom)
	}
	// Output:
	// 09:00 10:00 fits: false missing: [0] no room: false
	// 10:00 11:00 fits: true missing: [] no room: false
	// 11:00 12:00 fits: false missing: [] no room: true
	// 12:00 13:00 fits: false missing: [1] no room: false
}
