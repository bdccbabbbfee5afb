package rooms_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

var house = []rooms.Facts{
	{ID: "hall", SiteID: "main", Seats: 40, Equipment: []string{"screen"}},
	{ID: "loft", SiteID: "quay", Seats: 6},
	{ID: "map", SiteID: "main", Seats: 8, Equipment: []string{"screen", "whiteboard"}},
	{ID: "print", SiteID: "main", Seats: 6, Equipment: []string{"screen"}},
}

func ids(places []int) (out []string) {
	for _, p := range places {
		out = append(out, house[p].ID)
	}
	return out
}

func TestWhichRoomWouldDo(t *testing.T) {
	cases := []struct {
		name string
		wish rooms.Wish
		want []string
	}{
		{"any room, the smallest first", rooms.Wish{}, []string{"loft", "print", "map", "hall"}},
		{"enough seats", rooms.Wish{Seats: 7}, []string{"map", "hall"}},
		{"with equipment", rooms.Wish{Equipment: []string{"screen", "whiteboard"}}, []string{"map"}},
		{"at a site", rooms.Wish{SiteID: "quay"}, []string{"loft"}},
		{"the one that is meant first, then its site", rooms.Wish{Meant: "hall"}, []string{"hall", "print", "map", "loft"}},
		{"the one that is meant though it is too small", rooms.Wish{Seats: 7, Meant: "loft"}, []string{"loft", "map", "hall"}},
		{"none", rooms.Wish{Seats: 100}, nil},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, ids(c.wish.Order(house))) })
	}
}

func TestClearRoomsComeFirst(t *testing.T) {
	wish := rooms.Wish{Meant: "hall"}
	places := wish.Order(house)
	wish.ByClear(house, places, func(p int) bool { return house[p].ID == "map" || house[p].ID == "print" })
	assert.Equal(t, []string{"hall", "print", "map", "loft"}, ids(places))
}

func TestWhatIsClearInstead(t *testing.T) {
	booked := map[string]when.Spans{"print": {span(100, 110)}, "hall": {span(0, 5)}}
	assert.Equal(t, []string{"map", "hall", "loft"}, ids(rooms.Instead(house, booked, days(2)[1:], 2, "main")))
	assert.Equal(t, []string{"loft", "map"}, ids(rooms.Instead(house, booked, days(2), 2, "quay")))
	assert.Empty(t, rooms.Instead(house, booked, days(2), 100, "main"))
}
