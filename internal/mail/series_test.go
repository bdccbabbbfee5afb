package mail_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/mail"
	"jembro/internal/schedule"
)

// seriesLetter is the letter of a fortnightly series, with a date moved, one in another
// room, and one called off.
func aSeries(t *testing.T, change func(*schedule.Letter)) schedule.Letter {
	l := letter(t)
	draft := meeting.Draft{Title: l.Meeting.Title, Start: "2026-12-03T09:30", End: "2026-12-03T10:30", Zone: "Europe/Lisbon",
		Repeat: &meeting.DraftRepeat{Rule: "every 2nd Thursday", Ends: "on", Until: "2027-02-25"},
		Dates: []meeting.DraftDate{{On: "2026-12-31", Start: "2027-01-07T09:30", End: "2027-01-07T10:30"}, {On: "2027-01-14", RoomID: "loft"},
			{On: "2027-01-28", Out: true}}}
	settled, faults := draft.Settle(meeting.Surroundings{Rooms: map[string]*meeting.Room{"loft": {ID: "loft", Name: "Loft Studio", Place: "floor 3"}}})
	require.Empty(t, faults)
	l.Meeting.Series, l.Meeting.Start, l.Meeting.End = settled.Series, settled.Start, settled.End
	if change != nil {
		change(&l)
	}
	return l
}

// TestLettersOfASeries: every reader sees the dates on their own clock.
func TestLettersOfASeries(t *testing.T) {
	jan14, jan28 := when.DayOf(2027, 1, 14), when.DayOf(2027, 1, 28)
	cases := []struct {
		name    string
		change  func(*schedule.Letter)
		subject string
		has     []string
		lacks   []string
	}{
		{"the invitation", nil, "Invitation: Crate sizes; loan 14, \"lacquer\", every 2nd Thursday from 3 December 2026, 18:30 – 19:30 Tokyo time",
			[]string{"Every 2nd Thursday from 3 December 2026, 18:30 – 19:30, Tokyo time", "until 25 February 2027, 6 dates",
				"- Thursday 7 January 2027, 18:30 – 19:30 (instead of Thursday 31 December 2026, 18:30 – 19:30)",
				"- Thursday 14 January 2027, 18:30 – 19:30 (Loft Studio, floor 3)", "the times of the meeting are those of Lisbon"},
			[]string{"28 January"}},
		{"a reader on whose clock it is another day", func(l *schedule.Letter) { l.To.Zone = "Pacific/Auckland"; l.Meeting.Zone = "America/Los_Angeles" },
			"Invitation: Crate sizes; loan 14, \"lacquer\", every 2nd Thursday in Los Angeles, first Friday 4 December 2026, 6:30 – 7:30 Auckland time",
			[]string{"- Friday 4 December 2026, 6:30 – 7:30"}, nil},
		{"without an end", func(l *schedule.Letter) {
			open := *l.Meeting.Series
			open.Rule.Until.Set = false
			l.Meeting.Series = &open
		}, "", []string{"without an end", "and so on, without an end"}, nil},
		{"a change to one date", func(l *schedule.Letter) { l.Kind, l.On, l.Words = meeting.Update, []when.Day{jan14}, "14 January" },
			"Changed: Crate sizes; loan 14, \"lacquer\", Thursday 14 January 2027, 18:30 – 19:30 Tokyo time",
			[]string{"Changed: 14 January", "Thursday 14 January 2027, 18:30 – 19:30, Tokyo time", "Loft Studio, floor 3"}, []string{"17 December", "until 25 February", "Map Room"}},
		{"one date is called off", func(l *schedule.Letter) {
			l.Kind, l.On, l.Words = meeting.CallOff, []when.Day{jan28}, "The truck is late."
			l.IDs = []when.Instant{when.At(time.Date(2027, 1, 28, 9, 30, 0, 0, time.UTC))}
		},
			"Called off: Crate sizes; loan 14, \"lacquer\", Thursday 28 January 2027, 18:30 – 19:30 Tokyo time",
			[]string{"called off 1 date of this meeting; the others go on", "- Thursday 28 January 2027, 18:30 – 19:30 (called off)", "The truck is late."}, []string{"Answer here"}},
		{"what a calendar had by itself is taken back", func(l *schedule.Letter) {
			before := l.Meeting
			l.Kind, l.Before = meeting.Clear, &before
			l.IDs = []when.Instant{when.At(time.Date(2026, 12, 31, 9, 30, 0, 0, time.UTC)), when.At(time.Date(2027, 1, 14, 9, 30, 0, 0, time.UTC))}
		}, "Replaced: Crate sizes; loan 14, \"lacquer\", 2 dates",
			[]string{"- Thursday 7 January 2027, 18:30 – 19:30 (as your calendar had it)", "You need do nothing."}, []string{"called off", "Answer here"}},
		{"somebody loses their only date, which goes on", func(l *schedule.Letter) {
			before := l.Meeting
			l.Kind, l.Before, l.On, l.To.Single = meeting.CallOff, &before, []when.Day{jan14}, true
			l.IDs = []when.Instant{when.At(time.Date(2027, 1, 14, 9, 30, 0, 0, time.UTC))}
			l.Meeting.Participants = l.Meeting.Participants[1:]
		}, "No longer needed: Crate sizes; loan 14, \"lacquer\", Thursday 14 January 2027, 18:30 – 19:30 Tokyo time",
			[]string{"took you off the list"}, []string{"called off", "every 2nd", "Answer here"}},
		{"one date only", func(l *schedule.Letter) { l.To.Dates, l.To.Single = []series.Range{{From: jan14, To: jan14}}, true },
			"Invitation: Crate sizes; loan 14, \"lacquer\", Thursday 14 January 2027, 18:30 – 19:30 Tokyo time", []string{"Loft Studio"}, []string{"every 2nd", "Map Room"}},
		{"asked again for one date", func(l *schedule.Letter) {
			l.Meeting.Participants[0].Answer, l.Meeting.Participants[0].Answers = meeting.Accepted, []meeting.DateAnswer{{On: jan14, Answer: meeting.NoAnswer}}
		}, "", []string{"please answer again"}, nil},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			r, err := mail.Render(aSeries(t, c.change))
			require.NoError(t, err)
			if c.subject != "" {
				assert.Equal(t, c.subject, r.Subject)
			}
			for _, want := range c.has {
				assert.Contains(t, r.Text, want)
			}
			for _, never := range c.lacks {
				assert.NotContains(t, r.Text, never)
			}
			assert.Equal(t, strings.Count(r.Text, "\n- "), strings.Count(r.HTML, "<li>")+strings.Count(r.HTML, "line-through\">T"), "both say the same")
		})
	}
}
