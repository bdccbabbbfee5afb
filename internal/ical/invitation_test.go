package ical_test

import (
	"fmt"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/calendar"
	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/ical"
	"jembro/internal/schedule"
)

// takeAll takes messages in their order, as from the organiser.
func takeAll(t testing.TB, texts ...string) (s invited.State, verdicts []string) {
	t.Helper()
	for _, text := range texts {
		all, err := ical.ReadInvitations([]byte(text), "")
		require.NoError(t, err)
		for _, m := range all {
			m.From = m.Organiser
			next, v, moved := s.After(m, false)
			if s = next; moved {
				v += " moved"
			}
			verdicts = append(verdicts, string(v))
		}
	}
	return s, verdicts
}

// datesOf are the dates of what is known, as its reader's calendar has them.
func datesOf(t testing.TB, s invited.State) (out []string) {
	t.Helper()
	window := when.Span{Start: when.At(time.Date(1997, 1, 1, 0, 0, 0, 0, time.UTC)), End: when.At(time.Date(1999, 1, 1, 0, 0, 0, 0, time.UTC))}
	c, err := ical.ReadCalendar(ical.InvitationCalendar(s), window)
	require.NoError(t, err)
	require.NoError(t, c.Entries(window, when.Zone{}, func(e calendar.Entry) bool {
		out = append(out, e.Span.Start.Time().Format("2006-01-02 15:04"))
		return len(out) < 20
	}))
	return out
}

// TestInvitationsOfTheRFC: what each REQUEST and CANCEL of RFC 5546, 4.2 and 4.4 leaves behind,
// one after the other as the sections have them.
func TestInvitationsOfTheRFC(t *testing.T) {
	of := func(section, method string) (out []string) {
		for _, text := range examplesOf(t, section) {
			if strings.Contains(text, "METHOD:"+method) {
				out = append(out, text)
			}
		}
		return out
	}
	// 4.2.1, changed by 4.2.3, called off by 4.2.9.
	group := append(of("4.2.1", "REQUEST"), of("4.2.3", "REQUEST")...)
	s, verdicts := takeAll(t, group...)
	assert.Equal(t, []string{"taken", "taken moved"}, verdicts)
	assert.Equal(t, []string{"1997-07-01 18:00"}, datesOf(t, s))
	told := ical.InvitationWords(s, "b@example.com")
	assert.Equal(t, "Phone Conference", told.Title)
	assert.Equal(t, "b@example.com", told.Own)
	s, verdicts = takeAll(t, append(group, of("4.2.9", "CANCEL")...)...)
	assert.Equal(t, []string{"taken", "taken moved", "taken"}, verdicts)
	assert.True(t, s.Off)
	assert.Empty(t, datesOf(t, s))

	// 4.4.1, one date moved by 4.4.2, another called off by 4.4.3.
	series := of("4.4.1", "REQUEST")
	s, _ = takeAll(t, series...)
	before := datesOf(t, s)
	require.NotEmpty(t, before)
	s, verdicts = takeAll(t, append(series, of("4.4.8", "REQUEST")...)...)
	assert.NotContains(t, verdicts, "older")
	assert.NotEmpty(t, datesOf(t, s))
}

const outside = `BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//Veerhaven//Planner//EN
METHOD:REQUEST
BEGIN:VTIMEZONE
TZID:Harbour
BEGIN:STANDARD
DTSTART:19700101T000000
TZOFFSETFROM:+0100
TZOFFSETTO:+0100
END:STANDARD
END:VTIMEZONE
BEGIN:VEVENT
UID:out-1@veerhaven.example
SEQUENCE:0
DTSTAMP:19980101T000000Z
DTSTART;TZID=Harbour:19980105T100000
DTEND;TZID=Harbour:19980105T110000
RRULE:FREQ=WEEKLY;COUNT=4
SUMMARY:Crane hours\, berth 4
LOCATION:Office at the quay
DESCRIPTION:Join: https://calls.veerhaven.example/j/551
ORGANIZER;CN=Port desk:mailto:desk@veerhaven.example
ATTENDEE;CN="Ilse Marrant":mailto:ilse.marrant@marrowby.example
CONFERENCE;VALUE=URI;FEATURE=PHONE:tel:+31201234567
BEGIN:VALARM
ACTION:DISPLAY
TRIGGER:-PT5M
DESCRIPTION:not this
END:VALARM
END:VEVENT
END:VCALENDAR
`

// TestSingleDatesFromOutside: a date is called off without DTSTART and without STATUS, as RFC 5546,
// 3.2.5 allows, and another one moved.
func TestSingleDatesFromOutside(t *testing.T) {
	cancel := `BEGIN:VCALENDAR
METHOD:CANCEL
BEGIN:VEVENT
UID:out-1@veerhaven.example
SEQUENCE:1
DTSTAMP:19980102T000000Z
RECURRENCE-ID;TZID=Harbour:19980112T100000
ORGANIZER:mailto:desk@veerhaven.example
END:VEVENT
END:VCALENDAR
`
	moved := strings.NewReplacer("METHOD:CANCEL", "METHOD:REQUEST", "19980112T100000", "19980119T100000\nDTSTART;TZID=Harbour:19980120T143000\nDURATION:PT1H\nSUMMARY:Crane hours\\, moved").Replace(cancel)
	s, verdicts := takeAll(t, outside, cancel, moved)
	assert.Equal(t, []string{"taken", "taken", "taken"}, verdicts)
	assert.ElementsMatch(t, []string{"1998-01-05 09:00", "1998-01-20 13:30", "1998-01-26 09:00"}, datesOf(t, s))
	told := ical.InvitationWords(s, "ilse.marrant@marrowby.example")
	assert.Equal(t, invited.Told{Title: "Crane hours, berth 4", Place: "Office at the quay", Text: "Join: https://calls.veerhaven.example/j/551",
		Ways: []string{"tel:+31201234567"}, Names: []string{"Ilse Marrant"}, Own: "ilse.marrant@marrowby.example"}, told)
	s, _ = takeAll(t, outside, cancel, moved, cancel)
	assert.Len(t, datesOf(t, s), 3, "once more changes nothing")
}

// TestReplyToOutside is read as meant by python3-icalendar, which is not ours.
func TestReplyToOutside(t *testing.T) {
	s, _ := takeAll(t, outside)
	reply := ical.WriteReply(schedule.InvitationReply{From: meeting.Party{Name: "Ilse Marrant"}, Stamp: time.Date(1998, 1, 3, 12, 0, 0, 0, time.UTC),
		Invitation: schedule.Invitation{State: s, UID: "out-1@veerhaven.example", Organiser: s.Organiser, Attendee: "ilse.marrant@marrowby.example",
			Answer: meeting.Maybe, Comment: "If the tide, or the crane, allows", Title: "Crane hours, berth 4"}})
	all, err := ical.ReadReplies(reply, "")
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Equal(t, meeting.Maybe, all[0].Answer)
	file := t.TempDir() + "/reply.ics"
	require.NoError(t, os.WriteFile(file, reply, 0o600))
	said, err := exec.Command("/usr/bin/python3", "-c", `
import icalendar, sys
c = icalendar.Calendar.from_ical(open(sys.argv[1], 'rb').read())
e = c.walk('VEVENT')[0]
a = e['ATTENDEE']
print(c['METHOD'], e['UID'], e['SEQUENCE'], a, a.params['PARTSTAT'], e['ORGANIZER'], e['COMMENT'])`, file).CombinedOutput()
	require.NoError(t, err, string(said))
	assert.Equal(t, "REPLY out-1@veerhaven.example 0 mailto:ilse.marrant@marrowby.example TENTATIVE mailto:desk@veerhaven.example If the tide, or the crane, allows\n", string(said))
}

func TestReadInvitationsRefuses(t *testing.T) {
	for _, text := range []string{"", "hello", "BEGIN:VCALENDAR\nMETHOD:PUBLISH\nBEGIN:VEVENT\nUID:x\nEND:VEVENT\nEND:VCALENDAR", "BEGIN:VCALENDAR\nMETHOD:REQUEST\nEND:VCALENDAR", reply,
		"BEGIN:VCALENDAR\nMETHOD:REQUEST\n" + strings.Repeat("BEGIN:VEVENT\n", 600)} {
		_, err := ical.ReadInvitations([]byte(text), "")
		assert.Error(t, err, text[:min(len(text), 60)])
	}
	all, err := ical.ReadInvitations([]byte(strings.Replace(outside, "METHOD:REQUEST\n", "", 1)), "request")
	require.NoError(t, err, "the mail around it says so (RFC 6047, 2.4)")
	assert.Len(t, all, 1)
}

func FuzzReadInvitations(f *testing.F) {
	f.Add([]byte(outside))
	for _, section := range []string{"4.2.1", "4.2.9", "4.4.1", "4.4.2", "4.4.3", "4.4.8"} {
		for _, text := range examplesOf(f, section) {
			f.Add([]byte(text))
		}
	}
	window := when.Span{Start: when.At(time.Date(1997, 1, 1, 0, 0, 0, 0, time.UTC)), End: when.At(time.Date(1998, 1, 1, 0, 0, 0, 0, time.UTC))}
	f.Fuzz(func(t *testing.T, raw []byte) {
		all, err := ical.ReadInvitations(raw, "REQUEST")
		if err != nil {
			return
		}
		for _, m := range all {
			m.From = m.Organiser
			s, v, _ := invited.State{}.After(m, false)
			if v != invited.Taken {
				continue
			}
			text := ical.InvitationCalendar(s)
			c, err := ical.ReadCalendar(text, window)
			if err != nil {
				t.Fatalf("%v\n%s", err, text)
			}
			if err := c.Entries(window, when.Zone{}, func(calendar.Entry) bool { return true }); err != nil {
				return
			}
			ical.InvitationWords(s)
			again, err := ical.ReadInvitations(append([]byte("BEGIN:VCALENDAR\r\nMETHOD:REQUEST\r\n"), text[len("BEGIN:VCALENDAR\r\n"):]...), "")
			if err != nil || len(again) != 1 {
				t.Fatalf("what was taken cannot be read again: %v", fmt.Sprint(err, len(again)))
			}
		}
	})
}
