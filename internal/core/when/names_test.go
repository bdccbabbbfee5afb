package when_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/when"
)

func TestZonesAreTheIANANames(t *testing.T) {
	for _, name := range []string{"Europe/Lisbon", "America/Argentina/Buenos_Aires", "America/Port-au-Prince", "Etc/GMT+5", "EST5EDT", "UTC", "Asia/Kolkata", "GMT0"} {
		_, err := when.LoadZone(name)
		assert.NoError(t, err, name)
	}
	for _, name := range []string{"", "Local", "localtime", "Factory", "posixrules", "posix/Europe/Lisbon", "right/Europe/Lisbon", "./Europe/Lisbon",
		"../Europe/Lisbon", "Europe/../Europe/Lisbon", "/etc/passwd", "Europe//Lisbon", "Europe/Lisbon\x00", "Europe/Atlantis", "europe/lisbon"} {
		_, err := when.LoadZone(name)
		assert.ErrorIs(t, err, when.ErrZone, "%q", name)
	}
}

func TestDaysLieWithinReach(t *testing.T) {
	for _, text := range []string{"1900-01-01", "2199-12-31"} {
		day, err := when.ParseDay(text)
		assert.NoError(t, err)
		assert.Equal(t, text, day.String())
	}
	for _, text := range []string{"9999-12-31", "1899-12-31", "0001-01-01", "-2937836-09-26", "2026-02-30", ""} {
		_, err := when.ParseDay(text)
		assert.Error(t, err, text)
		_, err = when.ParseLocal(text + "T09:30")
		assert.Error(t, err, text)
	}
}
