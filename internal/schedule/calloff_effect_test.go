package schedule_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// TestWhatCallingOffDates: of a series without an end, what is left is seen past the
// dates that are counted.
func TestWhatCallingOffDates(t *testing.T) {
	rosa := who(t, forEver)
	sent := send(t, rosa.ID, open(t, rosa.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = "2027-06-01T09:30", "2027-06-01T10:30"
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=DAILY", Ends: "open"}
	})))
	day := func(s string) when.Day {
		d, err := when.ParseDay(s)
		require.NoError(t, err)
		return d
	}
	for _, c := range []struct {
		name        string
		scope       *series.Range
		dates       int
		more, whole bool
	}{
		{"one", &series.Range{From: day("2027-06-10"), To: day("2027-06-10")}, 1, false, false},
		{"a year of them", &series.Range{From: day("2027-06-01"), To: day("2028-05-31")}, 200, true, false},
		{"from a day on", &series.Range{From: day("2027-06-10")}, 200, true, false},
		{"all", nil, 200, true, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			e, err := service().Meetings.WhatCallingOffDoes(t.Context(), schedule.Self(rosa.ID), sent.MeetingID, c.scope)
			require.NoError(t, err)
			assert.Equal(t, c.dates, e.Dates)
			assert.Equal(t, c.more, e.More)
			assert.Equal(t, c.whole, e.Whole)
			assert.False(t, e.Held)
		})
	}
}
