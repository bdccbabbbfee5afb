package rooms_test

import (
	"fmt"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

func ExampleOver() {
	dates := []when.Span{{Start: 0, End: 10}, {Start: 100, End: 110}, {Start: 200, End: 210}}
	all := []rooms.Room{
		{ID: "Map Room", Busy: when.Spans{{Start: 100, End: 105}}},
		{ID: "Loft Studio", Busy: when.Spans{{Start: 0, End: 5}, {Start: 200, End: 220}}},
	}
	one, each := rooms.Over(dates, all)
	fmt.Println(one, one.Without(), each, each.Without())
	// Output:
	// [0 -1 0] 1 [0 1 0] 0
}
