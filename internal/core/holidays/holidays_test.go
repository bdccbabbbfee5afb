package holidays_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/holidays"
	"jembro/internal/core/when"
)

// TestHolidays: the dates are common knowledge of each country; Easter Sunday of
// 2027 is 28 March.
func TestHolidays(t *testing.T) {
	cases := []struct {
		country, day string
		is           bool
	}{
		{"PT", "2026-12-08", true}, {"PT", "2026-12-25", true}, {"PT", "2027-01-01", true}, {"PT", "2027-04-25", true},
		{"PT", "2027-03-26", true}, // Good Friday
		{"PT", "2027-05-27", true}, // Corpus Christi, 60 days after Easter
		{"PT", "2026-12-24", false}, {"PT", "2026-12-03", false},
		{"DE", "2027-10-03", true}, {"US", "2026-11-26", true}, {"JP", "2027-05-05", true}, {"BR", "2027-09-07", true},
		{"XX", "2026-12-25", false},
	}
	for _, c := range cases {
		day, err := when.ParseDay(c.day)
		require.NoError(t, err)
		assert.Equal(t, c.is, holidays.Name(c.country, day) != "", "%s %s: %q", c.country, c.day, holidays.Name(c.country, day))
	}
	for _, code := range holidays.Codes() {
		c, ok := holidays.Find(code)
		assert.True(t, ok)
		assert.NotEmpty(t, c.Name)
		assert.NotEmpty(t, holidays.Name(code, when.DayOf(2027, 1, 1)), "New Year's Day is one everywhere: %s", code)
	}
}
