package ical_test

import (
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/calendar"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/ical"
)

func lisbon(t testing.TB) when.Zone {
	t.Helper()
	z, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	return z
}

func TestReadFile(t *testing.T) {
	text := `BEGIN:VCALENDAR
VERSION:2.0
BEGIN:VEVENT
UID:1
DTSTART;TZID=Asia/Tokyo:20270104T183000
DTEND;TZID=Asia/Tokyo:20270104T193000
RRULE:FREQ=WEEKLY;COUNT=6;BYDAY=MO
EXDATE;TZID=Asia/Tokyo:20270111T183000
SUMMARY:Lacquer\, weekly
DESCRIPTION:Bring gloves.
LOCATION:Kiln room
CLASS:PRIVATE
ORGANIZER:mailto:ilse@marrowby.example
ATTENDEE:mailto:ilse@marrowby.example
ATTENDEE;CN="S. Onari";ROLE=OPT-PARTICIPANT:mailto:s.onari@kirisame.example
ATTENDEE;CUTYPE=ROOM:mailto:kiln@rooms.example
ATTACH:https://files.example/plan.pdf
CONFERENCE;VALUE=URI:https://calls.veerhaven.example/j/551
BEGIN:VALARM
TRIGGER:-PT20M
ACTION:DISPLAY
END:VALARM
BEGIN:VALARM
TRIGGER:-P1D
ACTION:DISPLAY
END:VALARM
END:VEVENT
BEGIN:VEVENT
UID:1
RECURRENCE-ID;TZID=Asia/Tokyo:20270118T183000
DTSTART;TZID=Asia/Tokyo:20270119T183000
SUMMARY:Moved
END:VEVENT
BEGIN:VEVENT
UID:2
DTSTART;VALUE=DATE:20270301
SUMMARY:Fair
TRANSP:TRANSPARENT
END:VEVENT
BEGIN:VEVENT
UID:3
DTSTART:20270701T120000Z
DURATION:PT90M
SUMMARY:In UTC
END:VEVENT
END:VCALENDAR
`
	all, err := ical.ReadFile([]byte(text), lisbon(t))
	require.NoError(t, err)
	require.Len(t, all, 3)
	first := all[0]
	assert.Equal(t, meeting.Draft{Title: "Lacquer, weekly", Text: "Where: Kiln room\n\nBring gloves.", Start: "2027-01-04T18:30", End: "2027-01-04T19:30", Zone: "Asia/Tokyo", Private: true,
		RemindBefore: 20, Reminders: []meeting.Reminder{{Before: 1440}}, NoRoom: true, People: []meeting.DraftPerson{{Name: "S. Onari", Email: "s.onari@kirisame.example"}},
		Repeat: &meeting.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=MO", Ends: "after", Count: 6, Days: []string{"2027-01-11"}}}, first.Draft)
	assert.Equal(t, []say.What{say.It("file.lostRoom"), say.It("file.lostAttached"), say.It("file.lostDiffering", 1)}, first.Lost)
	assert.Contains(t, first.Call, "https://calls.veerhaven.example/j/551")
	assert.Equal(t, []any{"2027-03-01T00:00", "2027-03-02T00:00", true, true}, []any{all[1].Draft.Start, all[1].Draft.End, all[1].Draft.AllDay, all[1].Draft.Free})
	assert.Equal(t, []string{"2027-07-01T13:00", "2027-07-01T14:30", "Europe/Lisbon"}, []string{all[2].Draft.Start, all[2].Draft.End, all[2].Draft.Zone}, "UTC is read by one's own clock")

	for _, wrong := range []string{"", "<html>", "BEGIN:VCALENDAR\nEND:VCALENDAR"} {
		_, err := ical.ReadFile([]byte(wrong), lisbon(t))
		assert.ErrorIs(t, err, calendar.ErrNotCalendar, wrong)
	}
	odd, err := ical.ReadFile([]byte("BEGIN:VCALENDAR\nBEGIN:VEVENT\nDTSTART:soon\nRRULE:FREQ=NEVER\nATTENDEE:mailto:nobody\nSUMMARY:Odd\nEND:VEVENT\nEND:VCALENDAR"), lisbon(t))
	require.NoError(t, err)
	assert.Equal(t, []say.What{say.It("file.lostTime"), say.It("file.lostSomebody")}, odd[0].Lost)
}

// TestMergedFilesAreRead by python3-icalendar: each event, and each zone once.
func TestMergedFilesAreRead(t *testing.T) {
	a, err := ical.Write(letter(t))
	require.NoError(t, err)
	b := []byte(strings.ReplaceAll(string(a), "UID:", "UID:other-"))
	file := t.TempDir() + "/week.ics"
	merged := ical.MergeFiles(a, b)
	require.NoError(t, os.WriteFile(file, merged, 0o600))
	out, err := exec.Command("/usr/bin/python3", "-c", `
import icalendar, sys
c = icalendar.Calendar.from_ical(open(sys.argv[1], 'rb').read())
print(len(c.walk('VEVENT')), len(c.walk('VTIMEZONE')), c.get('METHOD'))`, file).CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Equal(t, "2 1 None\n", string(out))
}

func FuzzReadFile(f *testing.F) {
	f.Add([]byte("BEGIN:VCALENDAR\nBEGIN:VEVENT\nDTSTART:20270101T100000Z\nDURATION:PT1H\nRRULE:FREQ=DAILY\nEND:VEVENT\nEND:VCALENDAR"))
	f.Add([]byte(outside))
	zone := when.Zone{}
	f.Fuzz(func(t *testing.T, raw []byte) {
		all, err := ical.ReadFile(raw, zone)
		if err == nil && len(all) > 50 {
			t.Fatal("more than can be")
		}
	})
}
