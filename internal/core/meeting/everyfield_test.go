package meeting_test

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/everyfield"
)

// TestEveryFieldOfAMeetingCountsAsAChange: a version that differs from the one before in any field says
// so, or else its change would go to nobody.
func TestEveryFieldOfAMeetingCountsAsAChange(t *testing.T) {
	known := map[string]string{
		"UID":       "stays the same for ever",
		"Sequence":  "follows from the change",
		"NoWays":    "says how the text is read; nobody sees it",
		"RelatedTo": "is said when a series goes on, which is another meeting",
		"TakenOff":  "follows from who is on it",
	}
	rule, err := recur.ParseRule("FREQ=WEEKLY;BYDAY=FR")
	require.NoError(t, err)
	full := func() (m meeting.Meeting) {
		everyfield.Fill(t, &m, everyfield.With{
			reflect.TypeFor[when.Day]():   when.DayOf(2027, 3, 5),
			reflect.TypeFor[recur.Rule](): rule,
			reflect.TypeFor[say.What]():   say.It("series.noDate"),
		})
		m.Zone = "Europe/Lisbon"
		m.Start, m.End = when.Local{Day: when.DayOf(2027, 3, 5), Clock: 9 * 60}, when.Local{Day: when.DayOf(2027, 3, 5), Clock: 10 * 60}
		m.AllDay, m.Series = false, nil
		return m
	}
	require.True(t, meeting.Compare(full(), full()).Empty())
	kind := reflect.TypeFor[meeting.Meeting]()
	for i := range kind.NumField() {
		name := kind.Field(i).Name
		if _, is := known[name]; is {
			continue
		}
		other := full()
		v := reflect.ValueOf(&other).Elem().Field(i)
		if v.IsZero() {
			switch name {
			case "AllDay":
				v.SetBool(true)
			case "Series":
				other.Series = &meeting.Series{}
				other.Series.Rule = rule
			}
		} else {
			v.SetZero()
		}
		switch name {
		case "Zone":
			other.Zone = "Asia/Tokyo"
		case "Start", "End":
			other.Start, other.End = full().Start, full().End
			if other.Start.Clock -= 30; name == "End" {
				other.Start, other.End.Clock = full().Start, 11*60
			}
		}
		assert.False(t, meeting.Compare(full(), other).Empty(), "%s is forgotten: name it in Change, or here with the reason why nobody has to know", name)
	}
}
