package meeting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/meeting"
)

// TestASheetOfASeriesFollowsItsFirstDay: what the front end once decided by itself,
// and otherwise than the core.
func TestASheetOfASeriesFollowsItsFirstDay(t *testing.T) {
	cases := []struct{ name, rule, from, to, want string }{
		{"every Thursday", "FREQ=WEEKLY;BYDAY=TH", "2026-12-03", "2026-12-04", "FREQ=WEEKLY;BYDAY=FR"},
		{"Monday and Thursday turn together", "FREQ=WEEKLY;BYDAY=MO,TH", "2026-12-03", "2026-12-01", "FREQ=WEEKLY;BYDAY=TU,SA"},
		{"every second Monday and Sunday keep their step", "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,SU", "2026-12-06", "2026-12-07",
			"FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,TU;WKST=TU"},
		{"working days stay", "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "2026-12-03", "2026-12-04", "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"},
		{"the 1st Thursday", "FREQ=MONTHLY;BYDAY=1TH", "2026-12-03", "2026-12-11", "FREQ=MONTHLY;BYDAY=2FR"},
		{"the 3rd of the month", "FREQ=MONTHLY;BYMONTHDAY=3", "2026-12-03", "2026-12-10", "FREQ=MONTHLY;BYMONTHDAY=10"},
		{"the last day of the month, from 30 to 29 November", "FREQ=MONTHLY;BYMONTHDAY=-1", "2026-11-30", "2026-11-29", "FREQ=MONTHLY;BYMONTHDAY=-2"},
		{"a year", "FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=3", "2026-12-03", "2027-01-02", "FREQ=YEARLY;BYMONTH=1;BYMONTHDAY=2"},
		{"an own rule stays", "every blue moon", "2026-12-03", "2027-01-02", "every blue moon"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			was := meeting.Draft{Start: c.from + "T09:30", Repeat: &meeting.DraftRepeat{Rule: c.rule}, Dates: []meeting.DraftDate{{On: c.from, NoRoom: true}}}
			now := was
			now.Start = c.to + "T09:30"
			got := now.Followed(was)
			assert.Equal(t, c.want, got.Repeat.Rule)
			if c.rule != c.want {
				assert.Equal(t, c.to, got.Dates[0].On, "single dates go along")
			}
			assert.Equal(t, c.rule, was.Repeat.Rule, "nothing given is changed")
		})
	}
	was := meeting.Draft{Start: "2026-12-03T09:30", Repeat: &meeting.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=TH"}}
	now := meeting.Draft{Start: "2026-12-04T09:30", Repeat: &meeting.DraftRepeat{Rule: "FREQ=DAILY"}}
	assert.Equal(t, "FREQ=DAILY", now.Followed(was).Repeat.Rule, "a rule chosen at the same time is meant")
	now.Repeat.Rule, now.Scope = "FREQ=WEEKLY;BYDAY=TH", &meeting.DraftScope{}
	assert.Equal(t, "FREQ=WEEKLY;BYDAY=TH", now.Followed(was).Repeat.Rule, "changes to a series that was sent")
}
