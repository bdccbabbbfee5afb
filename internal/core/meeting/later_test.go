package meeting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

func TestWhenASheetCanGoOut(t *testing.T) {
	m := settled(t)
	start := m.Span().Start
	now := start.Add(-40 * 24 * time.Hour)
	for name, c := range map[string]struct {
		at    when.Instant
		wrong string
	}{
		"at once is no waiting": {now, "over"},
		"in a minute":           {now.Add(time.Minute), ""},
		"at the last day":       {now.Add(meeting.LaterLimit), ""},
		"after it":              {now.Add(meeting.LaterLimit + time.Second), "30 days"},
	} {
		fault := m.LaterFault(c.at, now)
		if c.wrong == "" {
			assert.Nil(t, fault, name)
			continue
		}
		require.NotNil(t, fault, name)
		assert.Equal(t, "sendAt", fault.Field, name)
		assert.Contains(t, fault.Sentence, c.wrong, name)
	}
	now = start.Add(-time.Hour)
	require.NotNil(t, m.LaterFault(start, now))
	assert.Contains(t, m.LaterFault(start, now).Sentence, "begins before")
	assert.Nil(t, m.LaterFault(start.Add(-time.Second), now))
}
