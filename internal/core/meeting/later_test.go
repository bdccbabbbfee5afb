package meeting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
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
		assert.Contains(t, words.English(fault.What), c.wrong, name)
	}
	now = start.Add(-time.Hour)
	require.NotNil(t, m.LaterFault(start, now))
	assert.Contains(t, words.English(m.LaterFault(start, now).What), "begins before")
	assert.Nil(t, m.LaterFault(start.Add(-time.Second), now))
}

func TestTheMomentThatIsTyped(t *testing.T) {
	now, err := when.ParseLocal("2026-11-24T10:12")
	require.NoError(t, err)
	for text, want := range map[string]string{"7:00": "2026-11-25T07:00", "14h": "2026-11-24T14:00", "10:12": "2026-11-25T10:12", "tomorrow 8:00": "2026-11-25T08:00",
		"mon 7:30": "2026-11-30T07:30", "+45": "2026-11-24T10:57", "+2h": "2026-11-24T12:12", "45 min": "2026-11-24T10:57", "in 2 h": "2026-11-24T12:12", "1 dec 7:00": "2026-12-01T07:00"} {
		w, fault := typedReader().Moment(text)
		require.Nil(t, fault, text)
		at, ok := meeting.LaterMoment(w, now)
		assert.True(t, ok, text)
		assert.Equal(t, want, at.String(), text)
	}
	w, _ := typedReader().Day("friday")
	_, ok := meeting.LaterMoment(w, now)
	assert.False(t, ok, "a day says no time")
}
