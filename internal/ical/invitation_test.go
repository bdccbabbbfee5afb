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
			Replying: []when.Instant{0}, Answer: meeting.Maybe, Comment: "If the tide, or the crane, allows", Title: "Crane hours, berth 4"}})
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

// TestReplyToSingleDates: each is named as its invitation names it (RFC 5545, 3.8.4.4), and the
// reply is read as meant by python3-icalendar.
func TestReplyToSingleDates(t *testing.T) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	event := func(lines string) string {
		return "BEGIN:VCALENDAR\nMETHOD:REQUEST\n" + lines + "END:VCALENDAR\n"
	}
	head := "ORGANIZER:mailto:desk@veerhaven.example\nATTENDEE:mailto:ilse.marrant@marrowby.example\nUID:d@veerhaven.example\nSEQUENCE:2\nDTSTAMP:20270101T000000Z\nDURATION:PT1H\n"
	amsterdam := "BEGIN:VTIMEZONE\nTZID:Europe/Amsterdam\nBEGIN:STANDARD\nDTSTART:19701025T030000\nTZOFFSETFROM:+0200\nTZOFFSETTO:+0100\nRRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU\nEND:STANDARD\n" +
		"BEGIN:DAYLIGHT\nDTSTART:19700329T020000\nTZOFFSETFROM:+0100\nTZOFFSETTO:+0200\nRRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU\nEND:DAYLIGHT\nEND:VTIMEZONE\n"
	own := strings.ReplaceAll(amsterdam, "Europe/Amsterdam", "Quay clock")
	for _, c := range []struct{ case_, text, want string }{
		{"in a zone", event(amsterdam + "BEGIN:VEVENT\n" + head + "DTSTART;TZID=Europe/Amsterdam:20270601T090000\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT\n"), "RECURRENCE-ID;TZID=Europe/Amsterdam:20270608T090000"},
		{"in UTC", event("BEGIN:VEVENT\n" + head + "DTSTART:20270601T070000Z\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT\n"), "RECURRENCE-ID:20270608T070000Z"},
		{"floating", event("BEGIN:VEVENT\n" + head + "DTSTART:20270601T090000\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT\n"), "RECURRENCE-ID:20270608T090000"},
		{"whole days", event("BEGIN:VEVENT\n" + strings.Replace(head, "PT1H", "P1D", 1) + "DTSTART;VALUE=DATE:20270601\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT\n"), "RECURRENCE-ID;VALUE=DATE:20270608"},
		{"in a zone of their own making", event(own + "BEGIN:VEVENT\n" + head + "DTSTART;TZID=Quay clock:20270601T090000\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT\n"), "RECURRENCE-ID:20270608T070000Z"},
		{"one that was moved", event(amsterdam + "BEGIN:VEVENT\n" + head + "DTSTART;TZID=Europe/Amsterdam:20270601T090000\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT\n" +
			"BEGIN:VEVENT\n" + head + "RECURRENCE-ID:20270608T070000Z\nDTSTART;TZID=Europe/Amsterdam:20270609T100000\nEND:VEVENT\n"), "RECURRENCE-ID:20270608T070000Z"},
		{"one that is all they know", event(amsterdam + "BEGIN:VEVENT\n" + head + "RECURRENCE-ID;TZID=Europe/Amsterdam:20270608T090000\nDTSTART;TZID=Europe/Amsterdam:20270608T093000\nEND:VEVENT\n"), "RECURRENCE-ID;TZID=Europe/Amsterdam:20270608T090000"},
	} {
		t.Run(c.case_, func(t *testing.T) {
			s, _ := takeAll(t, c.text)
			cal, err := ical.Calendars{}.Read(ical.Calendars{}.Invitation(s), when.DaysSpan(when.DayOf(2027, 6, 5), when.DayOf(2027, 6, 12), lisbon))
			require.NoError(t, err)
			var ids []when.Instant
			require.NoError(t, cal.Entries(when.DaysSpan(when.DayOf(2027, 6, 5), when.DayOf(2027, 6, 12), lisbon), lisbon, func(e calendar.Entry) bool {
				ids = append(ids, e.ID)
				return true
			}))
			require.Len(t, ids, 1)
			i := schedule.Invitation{State: s, UID: "d@veerhaven.example", Organiser: s.Organiser, Attendee: "ilse.marrant@marrowby.example", Answer: meeting.NoAnswer}
			raw := ical.WriteReply(schedule.InvitationReply{From: meeting.Party{Name: "Ilse Marrant"}, Zone: lisbon, Stamp: time.Date(2027, 1, 3, 12, 0, 0, 0, time.UTC),
				Invitation: i.Answering(ids[0], meeting.Declined, "At sea")})
			assert.Contains(t, strings.Split(strings.ReplaceAll(string(raw), "\r\n ", ""), "\r\n"), c.want)
			assert.Equal(t, strings.Contains(c.want, "TZID"), strings.Contains(string(raw), "BEGIN:VTIMEZONE"))
			for line := range strings.SplitSeq(string(raw), "\r\n") {
				assert.LessOrEqual(t, len(line), 75)
			}
			file := t.TempDir() + "/reply.ics"
			require.NoError(t, os.WriteFile(file, raw, 0o600))
			said, err := exec.Command("/usr/bin/python3", "-c", `
import icalendar, sys
c = icalendar.Calendar.from_ical(open(sys.argv[1], 'rb').read())
[e] = c.walk('VEVENT')
print(e['SEQUENCE'], e['ATTENDEE'].params['PARTSTAT'], e['COMMENT'], e['RECURRENCE-ID'].dt.isoformat())`, file).CombinedOutput()
			require.NoError(t, err, string(said))
			assert.Regexp(t, "^2 DECLINED At sea 2027-06-08", string(said))
			all, err := ical.ReadReplies(raw, "")
			require.NoError(t, err)
			require.NotNil(t, all[0].Date)
		})
	}
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
			var dates []when.Instant
			if err := c.Entries(window, when.Zone{}, func(e calendar.Entry) bool {
				dates = append(dates, e.ID)
				return len(dates) < 3
			}); err != nil {
				return
			}
			// Each date can be answered, and the answer is read back.
			i := schedule.Invitation{State: s, UID: "x", Organiser: "o@veerhaven.example", Attendee: "a@marrowby.example"}.Answering(0, meeting.Maybe, "")
			for _, on := range dates {
				i = i.Answering(on, meeting.Accepted, "")
			}
			reply := ical.WriteReply(schedule.InvitationReply{Invitation: i, From: meeting.Party{Name: "A"}, Stamp: window.Start.Time()})
			if _, err := ical.ReadReplies(reply, ""); err != nil {
				t.Fatalf("an answer cannot be read: %v\n%s", err, reply)
			}
			ical.InvitationWords(s)
			again, err := ical.ReadInvitations(append([]byte("BEGIN:VCALENDAR\r\nMETHOD:REQUEST\r\n"), text[len("BEGIN:VCALENDAR\r\n"):]...), "")
			if err != nil || len(again) != 1 {
				t.Fatalf("what was taken cannot be read again: %v", fmt.Sprint(err, len(again)))
			}
		}
	})
}
