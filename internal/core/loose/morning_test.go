package loose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/loose"
	"jembro/internal/core/when"
)

func TestMorningDue(t *testing.T) {
	zone, err := when.LoadZone("Africa/Nairobi")
	require.NoError(t, err)
	hours := when.Workdays(9*60, 18*60, zone)
	for local, want := range map[string]bool{
		"2026-11-24T07:30": false, "2026-11-24T08:14": false, "2026-11-24T08:15": true, "2026-11-24T10:00": true, "2026-11-24T12:14": true, "2026-11-24T12:15": false,
		"2026-11-28T09:00": false, // a Saturday
	} {
		at, err := when.ParseLocal(local)
		require.NoError(t, err)
		assert.Equal(t, want, loose.MorningDue(hours, when.Zoned{Local: at, Zone: zone}.Instant()), local)
	}
}
