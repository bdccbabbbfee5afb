package holidays

import (
	"testing"
	"time"

	"github.com/rickar/cal/v2"
	"github.com/stretchr/testify/assert"

	"jembro/internal/core/when"
)

// TestAsRickarCalHasThem: every day of six years is a holiday here exactly when rickar/cal
// says so of the country.
func TestAsRickarCalHasThem(t *testing.T) {
	for code, country := range known {
		theirs := &cal.Calendar{}
		theirs.AddHoliday(country.days...)
		for at := time.Date(2025, 1, 1, 12, 0, 0, 0, time.UTC); at.Year() < 2031; at = at.AddDate(0, 0, 1) {
			actual, observed, _ := theirs.IsHoliday(at)
			assert.Equal(t, actual || observed, Name(code, when.DayOf(at.Date())) != "", "%s %s", code, at.Format(time.DateOnly))
		}
	}
}
