package rooms_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

func TestWhoseTurnItIs(t *testing.T) {
	span := func(from, until int) when.Span { return when.Span{Start: at(from), End: at(until)} }
	got := rooms.Turns([]rooms.Waiting{
		{Room: "map", Span: span(0, 60), Clear: false},
		{Room: "map", Span: span(60, 120), Clear: true},
		{Room: "map", Span: span(90, 150), Clear: true},                         // the one before has part of it
		{Room: "map", Span: span(120, 180), Clear: true},                        // touches it only
		{Room: "bay", Span: span(60, 120), Clear: true},                         // another room
		{Span: span(60, 120), Clear: true},                                      // for people alone
		{Room: "map", Span: span(190, 200), Gap: 15 * time.Minute, Clear: true}, // within the gap
	})
	assert.Equal(t, []int{1, 3, 4, 5}, got)
}

// Nobody whose turn it could be is left out, and no two have one room at one time.
func TestTurnsAreFair(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var all []rooms.Waiting
		for range rapid.IntRange(0, 12).Draw(t, "waiting") {
			from := rapid.IntRange(0, 20).Draw(t, "from")
			all = append(all, rooms.Waiting{Room: fmt.Sprint(rapid.IntRange(1, 2).Draw(t, "room")), Clear: rapid.Bool().Draw(t, "clear"),
				Span: when.Span{Start: at(from), End: at(from + rapid.IntRange(1, 6).Draw(t, "long"))}})
		}
		has := map[int]bool{}
		for _, i := range rooms.Turns(all) {
			require.True(t, all[i].Clear)
			has[i] = true
		}
		for i, w := range all {
			before := false // somebody earlier, or later, has what they want
			for k, o := range all {
				if k != i && has[k] && o.Room == w.Room && o.Span.Overlaps(w.Span) {
					before = before || k < i
					require.False(t, has[i] && k < i)
				}
			}
			require.Equal(t, w.Clear && !before, has[i])
		}
	})
}

func TestWhetherABookingIsStillNeeded(t *testing.T) {
	now := at(0)
	asked := func(all ...meeting.Answer) []meeting.Answer { return all }
	silent := asked(meeting.NoAnswer, meeting.Declined, meeting.NoAnswer)
	assert.True(t, rooms.Unsure(at(23*60), now, silent))
	assert.False(t, rooms.Unsure(at(25*60), now, silent), "there is time to answer")
	assert.False(t, rooms.Unsure(at(23*60), now, asked(meeting.Declined, meeting.Accepted)), "somebody comes")
	assert.False(t, rooms.Unsure(at(23*60), now, asked(meeting.Maybe)), "somebody may come")
	assert.False(t, rooms.Unsure(at(23*60), now, nil), "who meets alone need not be asked")
	assert.False(t, rooms.Unsure(at(-1), now, silent), "it has begun")
}
