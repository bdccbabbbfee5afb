package loose_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/loose"
	"jembro/internal/core/when"
)

func TestNudgeNow(t *testing.T) {
	tokyo, err := when.LoadZone("Asia/Tokyo")
	require.NoError(t, err)
	start := when.At(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC)) // 19:00 in Tokyo
	for at, want := range map[string]bool{
		"2026-11-24T07:59:00Z": false, // too early
		"2026-11-24T08:00:00Z": true,
		"2026-11-24T11:59:00Z": true,  // 20:59 there
		"2026-11-24T12:00:00Z": false, // 21:00
		"2026-11-24T22:59:00Z": false, // 7:59
		"2026-11-24T23:00:00Z": true,
		"2026-11-25T08:00:00Z": true,
		"2026-11-25T08:01:00Z": false, // too late
	} {
		now, err := time.Parse(time.RFC3339, at)
		require.NoError(t, err)
		assert.Equal(t, want, loose.NudgeNow(start, when.At(now), tokyo), at)
	}
	early := when.At(time.Date(2026, 11, 24, 23, 0, 0, 0, time.UTC)) // 8:00 in Tokyo
	assert.True(t, loose.NudgeNow(early, when.At(time.Date(2026, 11, 24, 18, 30, 0, 0, time.UTC)), tokyo), "at half past three, for it is near")
}

// TestNobodyIsAskedAtNight, whatever the zone, unless the meeting is near.
func TestNobodyIsAskedAtNight(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		zone, err := when.LoadZone(rapid.SampledFrom([]string{"Asia/Tokyo", "America/Sao_Paulo", "Europe/Lisbon", "Africa/Nairobi", "Pacific/Apia", "Asia/Kathmandu"}).Draw(t, "zone"))
		require.NoError(t, err)
		start := when.At(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC)).Add(time.Duration(rapid.IntRange(0, 400*24*60).Draw(t, "minutes")) * time.Minute)
		now := start.Add(-time.Duration(rapid.IntRange(0, 40*60).Draw(t, "before")) * time.Minute)
		if loose.NudgeNow(start, now, zone) && start.Time().Sub(now.Time()) > 5*time.Hour {
			hour := zone.LocalAt(now).Clock / 60
			assert.True(t, hour >= 8 && hour < 21, zone.LocalAt(now).String())
		}
	})
}

func TestAReminderWaitsForTheMorning(t *testing.T) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	at := func(text string) when.Instant {
		l, err := when.ParseLocal(text)
		require.NoError(t, err)
		return when.Zoned{Local: l, Zone: lisbon}.Instant()
	}
	for _, c := range []struct {
		case_, start, now string
		in                time.Duration
	}{
		{"by day", "2027-01-15T09:00", "2027-01-14T09:00", 0},
		{"in the evening", "2027-01-15T22:00", "2027-01-14T22:00", 10 * time.Hour},
		{"after midnight", "2027-01-16T01:30", "2027-01-15T01:30", 6*time.Hour + 30*time.Minute},
		{"at night, and it is near", "2027-01-15T06:00", "2027-01-15T02:00", 0},
		{"at night, and the morning is too late", "2027-01-15T07:00", "2027-01-14T23:00", 0},
		{"the night of a clock change", "2027-03-28T23:00", "2027-03-27T23:00", 8 * time.Hour}, // an hour less than by the clock
	} {
		assert.Equal(t, c.in, loose.RemindIn(at(c.start), at(c.now), lisbon), c.case_)
	}
}

// TestWhenAReminderIsDue: its moment has come, not long ago, and nothing was settled after it.
func TestWhenAReminderIsDue(t *testing.T) {
	start := when.At(time.Date(2026, 12, 3, 10, 0, 0, 0, time.UTC))
	ago := func(d time.Duration) when.Instant { return start.Add(-d) }
	cases := []struct {
		name         string
		settled, now time.Duration // before the start
		due          bool
	}{
		{"at its moment", 48 * time.Hour, time.Hour, true},
		{"a second too soon", 48 * time.Hour, time.Hour + time.Second, false},
		{"begun", 48 * time.Hour, 0, false},
		{"settled at that moment", time.Hour, time.Hour, true},
		{"settled after it", time.Hour - time.Second, 30 * time.Minute, false},
	}
	for _, c := range cases {
		assert.Equal(t, c.due, loose.RemindDue(start, 60, ago(c.settled), ago(c.now)), c.name)
	}
	day := ago(24 * time.Hour)
	assert.True(t, loose.RemindDue(start, 24*60, ago(72*time.Hour), day.Add(loose.RemindLate-time.Second)))
	assert.False(t, loose.RemindDue(start, 24*60, ago(72*time.Hour), day.Add(loose.RemindLate)), "a program that stood still")
}
