package rooms_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

func at(minutes int) when.Instant { return when.Instant(minutes * 60) }

func TestARoomNow(t *testing.T) {
	busy := when.Spans{{Start: at(60), End: at(120)}, {Start: at(120), End: at(150)}, {Start: at(240), End: at(300)}}
	for _, c := range []struct {
		at    int
		clear bool
		until int
	}{{0, true, 60}, {60, false, 150}, {130, false, 150}, {150, true, 240}, {300, true, 0}} {
		clear, until := rooms.ClearFrom(busy, at(c.at))
		assert.Equal(t, c.clear, clear, c.at)
		assert.Equal(t, at(c.until), until, c.at)
	}
	next, ok := rooms.NextClear(busy, when.Span{Start: at(7), End: at(600)}, time.Hour)
	assert.True(t, ok)
	assert.Equal(t, when.Span{Start: at(150), End: at(210)}, next)
	next, ok = rooms.NextClear(busy, when.Span{Start: at(7), End: at(600)}, 30*time.Minute)
	assert.True(t, ok)
	assert.Equal(t, when.Span{Start: at(15), End: at(45)}, next)
	_, ok = rooms.NextClear(busy, when.Span{Start: at(60), End: at(200)}, time.Hour)
	assert.False(t, ok)
}

func TestFloorsFromBelow(t *testing.T) {
	want := []string{"basement 2", "-1", "Cellar", "ground floor", "floor 1", "2nd floor", "Level 10", "4999999999999999999 floors", "", "gallery"}
	got := slices.Clone(want)
	slices.Reverse(got)
	slices.SortFunc(got, rooms.CompareFloors)
	assert.Equal(t, want, got)
}
