package meeting_test

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/everyfield"
)

// onceFull is a meeting that is once and has every field.
func onceFull(t *testing.T) (m meeting.Meeting) {
	everyfield.Fill(t, &m, everyfield.With{
		reflect.TypeFor[when.Day]():   when.DayOf(2027, 3, 5),
		reflect.TypeFor[recur.Rule](): recur.Rule{},
		reflect.TypeFor[say.What]():   say.It("series.noDate"),
	})
	m.Series, m.AllDay, m.Zone = nil, false, "Europe/Lisbon"
	m.Start, m.End = when.Local{Day: when.DayOf(2027, 3, 5), Clock: 9 * 60}, when.Local{Day: when.DayOf(2027, 3, 5), Clock: 10 * 60}
	return m
}

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
	full := func() meeting.Meeting { return onceFull(t) }
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

// TestEveryFieldOfAMeetingComesThroughItsSheet: opened for changes and sent as it is, nothing is
// different.
func TestEveryFieldOfAMeetingComesThroughItsSheet(t *testing.T) {
	theirs := map[string]string{
		"UID":          "is the program's to give",
		"Sequence":     "is the program's to give",
		"RelatedTo":    "is said when a series goes on",
		"TakenOff":     "follows from who is on it",
		"Participants": "their IDs and zones are the program's to give; below by themselves",
		"Series":       "is compared by the tests of series, date by date",
		"AllDay":       "has times of its own",
	}
	m := onceFull(t)
	m.Text = "Bring the humidity log."
	m.RemindBefore, m.Further = 15, []meeting.Reminder{{Before: 60, Own: true, Mail: true}}
	m.Participants[0].Email, m.Participants[0].Dates = "c@kirisame.example", nil
	m.Participants[0].DelegatedFrom, m.Participants[0].BroughtBy = "head@kirisame.example", "desk@kirisame.example"
	m.Room.Seats, m.NoWays = 8, []string{"https://a.example/j/1"}
	zone := when.Zone{}
	d := meeting.DraftOf(m, m.Start.Day)
	back, faults := d.Settle(meeting.Surroundings{
		Now: when.Zoned{Local: when.Local{Day: when.DayOf(2027, 1, 1)}, Zone: zone}.Instant(), Organiser: m.Organiser, Card: m.Card, Before: &m,
		Rooms: map[string]*meeting.Room{m.Room.ID: m.Room}, Files: map[string]attachment.File{m.Files[0].ID: m.Files[0]},
		Holiday: func(when.Day) string { return "" },
	})
	require.Empty(t, faults)
	was, is := reflect.ValueOf(m), reflect.ValueOf(back)
	for i := range was.NumField() {
		name := was.Type().Field(i).Name
		if _, known := theirs[name]; !known {
			assert.Equal(t, was.Field(i).Interface(), is.Field(i).Interface(), "%s is forgotten on the way through a sheet", name)
		}
	}
	require.Len(t, back.Participants, 1)
	a, b := m.Participants[0], back.Participants[0]
	assert.Equal(t, []any{a.PersonID, a.Name, a.Email, a.Needed, a.DelegatedFrom, a.BroughtBy}, []any{b.PersonID, b.Name, b.Email, b.Needed, b.DelegatedFrom, b.BroughtBy})
}
