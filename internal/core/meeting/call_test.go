package meeting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

func TestWhatAMeetingNeedsOfItsCall(t *testing.T) {
	d := meeting.Draft{Title: "Crates", Start: "2027-03-02T09:30", End: "2027-03-02T10:30", Zone: "Europe/Lisbon",
		People: []meeting.DraftPerson{{Email: "a@veerhaven.example"}, {Email: "b@veerhaven.example"}}}
	around := meeting.Surroundings{Organiser: meeting.Party{PersonID: "p", Name: "Ilse Marrant", Email: "ilse@marrowby.example"}}
	m, faults := d.Settle(around)
	require.Empty(t, faults)
	assert.Equal(t, join.Use{Length: time.Hour, People: 3, Dates: 1, Ends: time.Date(2027, 3, 2, 10, 30, 0, 0, time.UTC)}, m.CallUse())
	assert.Len(t, m.CallSpans(0), 1)
	assert.Empty(t, m.CallSpans(m.Span().End), "over")

	d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 5}
	m, faults = d.Settle(around)
	require.Empty(t, faults)
	assert.Equal(t, 5, m.CallUse().Dates)
	assert.Equal(t, time.Date(2027, 3, 30, 9, 30, 0, 0, time.UTC), m.CallUse().Ends, "in summer time by then")
	d.Repeat.Ends = "open"
	m, faults = d.Settle(around)
	require.Empty(t, faults)
	assert.Zero(t, m.CallUse().Dates)
	assert.Len(t, m.CallSpans(0), meeting.CallDates)
	around2 := meeting.Around(m.CallSpans(0))
	assert.Equal(t, m.Span().Start, around2.Start)

	span := func(from, to int) when.Span { return when.Span{Start: when.Instant(from), End: when.Instant(to)} }
	assert.Equal(t, 2, meeting.AtOnce([]when.Span{span(0, 10), span(20, 30)}, []when.Span{span(5, 7), span(22, 23), span(29, 40), span(10, 20)}))
}

// TestASecondWayKeepsASheet from being sent while it has a call.
func TestASecondWayKeepsASheet(t *testing.T) {
	d := meeting.Draft{Title: "Crates", Start: "2027-03-02T09:30", End: "2027-03-02T10:30", Zone: "Europe/Lisbon", Text: "Call: https://kestle.example/r/desk"}
	around := meeting.Surroundings{Organiser: meeting.Party{PersonID: "p", Email: "ilse@marrowby.example"}}
	_, faults := d.Settle(around)
	assert.Empty(t, faults, "without a call it is the only way in")
	around.Card = &join.Card{URL: "https://ostrel.example/j/1"}
	_, faults = d.Settle(around)
	require.Len(t, faults, 1)
	assert.Equal(t, "text", faults[0].Field)
	none := d
	none.NoWays = []string{"https://kestle.example/r/desk"}
	m, faults := none.Settle(around)
	assert.Empty(t, faults)
	assert.Equal(t, none.NoWays, m.NoWays, "it is remembered")
	assert.Equal(t, none.NoWays, meeting.DraftOf(m, m.Start.Day).NoWays)
	_, faults = d.WithoutWay("text", "https://kestle.example/r/desk", around.Card).Settle(around)
	assert.Empty(t, faults)
	assert.Equal(t, d, d.WithoutWay("room", "https://kestle.example/r/desk", around.Card), "no such field")
}

func TestSplit(t *testing.T) {
	d := meeting.Draft{Title: "Crates", Start: "2027-03-28T00:30", End: "2027-03-28T02:30", Zone: "Europe/Lisbon", NoLink: true}
	parts, err := d.Split(2) // an hour of that night is left out
	require.NoError(t, err)
	assert.Equal(t, "Crates (1 of 2)", parts[0].Title)
	assert.Equal(t, []string{"2027-03-28T00:30", "2027-03-28T02:00", "2027-03-28T02:00", "2027-03-28T02:30"}, []string{parts[0].Start, parts[0].End, parts[1].Start, parts[1].End})
	hour := meeting.Draft{Start: "2027-03-02T09:30", End: "2027-03-02T10:40", Zone: "Europe/Lisbon"}
	parts, err = hour.Split(3)
	require.NoError(t, err)
	assert.Equal(t, []string{"2027-03-02T09:55", "2027-03-02T10:20", "2027-03-02T10:40"}, []string{parts[0].End, parts[1].End, parts[2].End})
	for _, bad := range []meeting.Draft{{}, {Start: "2027-03-02T09:30", End: "2027-03-02T09:35", Zone: "UTC"}, {Start: hour.Start, End: hour.End, Zone: "UTC", Repeat: &meeting.DraftRepeat{}}, {Start: hour.End, End: hour.Start, Zone: "UTC"}} {
		_, err := bad.Split(2)
		assert.Error(t, err)
	}
}

func TestTroubleWithACall(t *testing.T) {
	kinds := func(all ...meeting.EventKind) (out []meeting.Event) {
		for _, k := range all {
			out = append(out, meeting.Event{Kind: k})
		}
		return out
	}
	e, is := meeting.CallTrouble(kinds(meeting.EventAnswered, meeting.EventLinkGone, meeting.EventLinkMade))
	assert.True(t, is)
	assert.Equal(t, meeting.EventLinkGone, e.Kind)
	_, is = meeting.CallTrouble(kinds(meeting.EventLinkMade, meeting.EventLinkLate, meeting.EventLinkAwaited))
	assert.False(t, is, "mended since")
	_, is = meeting.CallTrouble(nil)
	assert.False(t, is)
}
