package availability_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
)

func TestWhoSeesWhat(t *testing.T) {
	at := func(from, to int, kind availability.Kind) availability.Time {
		return availability.Time{Span: when.Span{Start: when.Instant(from), End: when.Instant(to)}, Kind: kind}
	}
	taken := []availability.Time{at(10, 20, "busy"), at(30, 40, "busy"), at(50, 60, "leave"), at(35, 55, "maybe")}
	meetings := []availability.Titled{{Time: at(10, 20, "busy"), Title: "Crate sizes"}, {Time: at(30, 40, "busy"), Title: "Salaries", Private: true}, {Time: at(70, 80, "free"), Title: "Museum night"}}
	window := when.Span{Start: 0, End: 100}
	assert.Empty(t, availability.Seen(availability.SeeNothing, taken, meetings, window))
	busy := []availability.Shown{{Time: at(10, 20, "busy")}, {Time: at(30, 40, "busy")}, {Time: at(40, 50, "maybe")}, {Time: at(50, 60, "leave")}}
	assert.Equal(t, busy, availability.Seen(availability.SeeBusy, taken, meetings, window))
	busy[0].Title = "Crate sizes"
	assert.Equal(t, busy, availability.Seen(availability.SeeTitles, taken, meetings, window))
}

// TestALevelNeverShowsMore: whatever the times, no title below titles, no private title
// ever, and the same instants busy at both levels.
func TestALevelNeverShowsMore(t *testing.T) {
	window := when.Span{Start: 0, End: 1000}
	rapid.Check(t, func(t *rapid.T) {
		var taken []availability.Time
		var meetings []availability.Titled
		for range rapid.IntRange(0, 8).Draw(t, "times") {
			start := rapid.IntRange(-50, 1000).Draw(t, "start")
			x := availability.Time{Span: when.Span{Start: when.Instant(start), End: when.Instant(start + rapid.IntRange(1, 90).Draw(t, "length"))},
				Kind: rapid.SampledFrom([]availability.Kind{"busy", "maybe", "leave"}).Draw(t, "kind")}
			taken = append(taken, x)
			if rapid.Bool().Draw(t, "meeting") {
				private := rapid.Bool().Draw(t, "private")
				meetings = append(meetings, availability.Titled{Time: x, Title: map[bool]string{true: "secret", false: "open"}[private], Private: private})
			}
		}
		spans := func(shown []availability.Shown) when.Spans {
			var all []when.Span
			for _, s := range shown {
				all = append(all, s.Span)
			}
			return when.Union(all...)
		}
		busy, titles := availability.Seen(availability.SeeBusy, taken, meetings, window), availability.Seen(availability.SeeTitles, taken, meetings, window)
		for _, s := range busy {
			assert.Empty(t, s.Title)
		}
		for _, s := range titles {
			assert.NotEqual(t, "secret", s.Title)
		}
		assert.Equal(t, spans(busy), spans(titles))
		assert.Empty(t, availability.Seen(availability.SeeNothing, taken, meetings, window))
	})
}
