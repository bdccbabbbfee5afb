package mail_test

import (
	"bytes"
	"encoding/json"
	"os/exec"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// entry is what testdata/read_dates.py prints of a component.
type entry struct {
	Start, End, Own string
	Days            []string
	Free            bool
}

func days(t testing.TB, library string, raw []byte) (out []entry) {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "testdata/read_dates.py", library)
	cmd.Stdin = bytes.NewReader(raw)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	printed, err := cmd.Output()
	require.NoError(t, err, "%s: %s", library, stderr.String())
	require.NoError(t, json.Unmarshal(printed, &out))
	return out
}

// wholeDays is a letter about a meeting that was settled over whole days.
func wholeDays(t testing.TB, change func(*meeting.Draft)) schedule.Letter {
	l := letter(t)
	d := meeting.Draft{Title: "Stocktaking", Start: "2026-12-03T00:00", End: "2026-12-06T00:00", Zone: "Europe/Lisbon", AllDay: true, NoRoom: true, NoLink: true}
	change(&d)
	m, faults := d.Settle(meeting.Surroundings{Now: when.At(l.Stamp), Organiser: l.Meeting.Organiser, Holiday: func(when.Day) string { return "" }})
	require.Empty(t, faults)
	m.UID, m.Participants, m.Room = l.Meeting.UID, l.Meeting.Participants, nil
	l.Meeting = m
	return l
}

// TestWholeDaysArriveAsDates: a date is a date wherever it is read, in the two libraries
// of Debian.
func TestWholeDaysArriveAsDates(t *testing.T) {
	post := newPost(t, &answers{})
	for _, library := range []string{"icalendar", "libical"} {
		t.Run(library, func(t *testing.T) {
			l := wholeDays(t, func(d *meeting.Draft) { d.Free = true })
			assert.Equal(t, []entry{{Start: "2026-12-03", End: "2026-12-06", Days: []string{}, Free: true}}, days(t, library, post.through(t, l)))
			r := read(t, raw(t, l))
			assert.Equal(t, "Invitation: Stocktaking, Thursday 3 December 2026 – Saturday 5 December 2026, 3 days", r.Subject)
			assert.NotContains(t, r.Text, "time", "whole days are in no zone")
			assert.NotContains(t, string(r.Calendar), "VTIMEZONE")

			l = wholeDays(t, func(d *meeting.Draft) { d.End = "2026-12-04T00:00" })
			assert.Equal(t, []entry{{Start: "2026-12-03", End: "2026-12-04", Days: []string{}}}, days(t, library, post.through(t, l)))
			assert.Contains(t, read(t, raw(t, l)).Text, "Thursday 3 December 2026, all day")

			// A series, over a change of the clocks, one date left out and one moved.
			l = wholeDays(t, func(d *meeting.Draft) {
				d.Start, d.End = "2027-03-19T00:00", "2027-03-21T00:00"
				d.Repeat = &meeting.DraftRepeat{Rule: "every Friday", Ends: "after", Count: 4}
				d.Dates = []meeting.DraftDate{{On: "2027-03-26", Out: true}, {On: "2027-04-09", Start: "2027-04-12T00:00", End: "2027-04-14T00:00"}}
			})
			assert.Equal(t, []entry{{Start: "2027-03-19", End: "2027-03-21", Days: []string{"2027-03-19", "2027-04-02", "2027-04-09"}},
				{Start: "2027-04-12", End: "2027-04-14", Own: "2027-04-09", Days: []string{}}}, days(t, library, post.through(t, l)))
			assert.Contains(t, string(read(t, raw(t, l)).Calendar), "UNTIL=20270409;", "a DATE where DTSTART is one (RFC 5545, 3.3.10)")
		})
	}
}
