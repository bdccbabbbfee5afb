package when_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/when"
)

// TestCountriesOfZones: the first and last of the table, one of a country with many, and
// what is of no country (zone.tab of the tz database).
func TestCountriesOfZones(t *testing.T) {
	for zone, want := range map[string]string{"Africa/Abidjan": "CI", "Europe/Lisbon": "PT", "Atlantic/Madeira": "PT", "Asia/Tokyo": "JP", "America/Sao_Paulo": "BR",
		"Pacific/Wallis": "WF", "UTC": "", "Etc/GMT+1": "", "": "", "Mars/Base": ""} {
		assert.Equal(t, want, when.CountryOf(zone), zone)
	}
}
