package words_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

// A refusal says when the booking was made and what it lies in the way of: the
// day is left out only where it is the day on which it was booked.
func TestTaken(t *testing.T) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	at := func(text string) when.Instant {
		moment, err := time.ParseInLocation("2006-01-02 15:04", text, lisbon.Location())
		require.NoError(t, err)
		return when.At(moment)
	}
	span := func(from, until string) when.Span { return when.Span{Start: at(from), End: at(until)} }
	booked := at("2026-11-24 10:12")
	for _, c := range []struct {
		taken rooms.Taken
		words string
	}{
		{rooms.Taken{Room: "Map Room", By: "Rui Calado", Since: booked, During: span("2026-11-24 14:00", "2026-11-24 15:30")},
			"Map Room was taken at 10:12 by Rui Calado, from 14:00 until 15:30."},
		{rooms.Taken{Room: "Map Room", By: "Rui Calado", Since: booked, During: span("2027-01-14 09:00", "2027-01-14 11:00"), Gap: 15 * time.Minute},
			"Map Room was taken on 24 November at 10:12 by Rui Calado, for 14 January from 9:00 until 11:00, with 15 min before and after it."},
		{rooms.Taken{Room: "Reading Bay", Since: booked, During: span("2026-12-07 00:00", "2026-12-10 00:00")},
			"Reading Bay was taken on 24 November at 10:12, from 7 December, 0:00 until 10 December, 0:00."},
		{rooms.Taken{Room: "Lens Room", By: "Marta Veiga", HeldUntil: at("2026-11-24 10:22")},
			"Lens Room is held by Marta Veiga until 10:22: it is clear then, or taken."},
	} {
		assert.Equal(t, c.words, words.English(c.taken.What(lisbon)))
	}
}
