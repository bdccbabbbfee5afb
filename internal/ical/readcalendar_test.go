package ical_test

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/calendar"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/ical"
)

// calendarOf puts components into a calendar; lines are parted by "|".
func calendarOf(components ...string) string {
	lines := []string{"BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//example//EN"}
	for _, c := range components {
		lines = append(lines, strings.Split(c, "|")...)
	}
	return strings.Join(append(lines, "END:VCALENDAR"), "\r\n") + "\r\n"
}

// event is a VEVENT; its uid is the first line's where that is one.
func event(lines string) string {
	if !strings.Contains(lines, "UID:") {
		lines = fmt.Sprintf("UID:%x@example|", lines) + lines
	}
	return "BEGIN:VEVENT|DTSTAMP:20260101T000000Z|" + lines + "|END:VEVENT"
}

// oddZone is a zone of somebody's own: an hour and a quarter ahead of UTC in winter, and
// two and a quarter from April to September.
const oddZone = "BEGIN:VTIMEZONE|TZID:Harbour/Tide|" +
	"BEGIN:STANDARD|DTSTART:20200901T030000|TZOFFSETFROM:+0215|TZOFFSETTO:+0115|RRULE:FREQ=YEARLY;BYMONTH=9;BYMONTHDAY=1|END:STANDARD|" +
	"BEGIN:DAYLIGHT|DTSTART:20200401T020000|TZOFFSETFROM:+0115|TZOFFSETTO:+0215|RRULE:FREQ=YEARLY;BYMONTH=4;BYMONTHDAY=1|END:DAYLIGHT|END:VTIMEZONE"

// lisbonZone is Lisbon's as calendars say it.
const lisbonZone = "BEGIN:VTIMEZONE|TZID:Europe/Lisbon|" +
	"BEGIN:STANDARD|DTSTART:19961027T020000|TZOFFSETFROM:+0100|TZOFFSETTO:+0000|RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU|END:STANDARD|" +
	"BEGIN:DAYLIGHT|DTSTART:19970330T010000|TZOFFSETFROM:+0000|TZOFFSETTO:+0100|RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU|END:DAYLIGHT|END:VTIMEZONE"

// calendars are read alike by everybody. Window: the year 2026, in Lisbon.
var calendars = map[string]string{
	"one in UTC":                       event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z"),
	"one in a zone":                    event("DTSTART;TZID=Europe/Lisbon:20260706T090000|DTEND;TZID=Europe/Lisbon:20260706T100000"),
	"one in another zone":              event("DTSTART;TZID=Asia/Tokyo:20260706T090000|DTEND;TZID=Asia/Tokyo:20260706T100000"),
	"begins here and ends there":       event("DTSTART;TZID=Europe/Lisbon:20260706T090000|DTEND;TZID=America/Sao_Paulo:20260706T100000"),
	"floating":                         event("DTSTART:20260706T090000|DTEND:20260706T101500"),
	"a day":                            event("DTSTART;VALUE=DATE:20260706"),
	"days":                             event("DTSTART;VALUE=DATE:20260706|DTEND;VALUE=DATE:20260709"),
	"a day when clocks go on":          event("DTSTART;VALUE=DATE:20260329|DTEND;VALUE=DATE:20260330"),
	"a duration":                       event("DTSTART:20260105T090000Z|DURATION:PT1H30M"),
	"a duration of days":               event("DTSTART;TZID=Europe/Lisbon:20260328T090000|DURATION:P1D"),
	"a duration of days and hours":     event("DTSTART;TZID=Europe/Lisbon:20260328T090000|DURATION:P1DT2H"),
	"a duration of a week":             event("DTSTART;TZID=Europe/Lisbon:20261020T090000|DURATION:P1W"),
	"no end takes no time":             event("DTSTART:20260105T090000Z"),
	"tentative":                        event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z|STATUS:TENTATIVE"),
	"transparent":                      event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z|TRANSP:TRANSPARENT"),
	"cancelled":                        event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z|STATUS:CANCELLED"),
	"outside the window":               event("DTSTART:20240105T090000Z|DTEND:20240105T100000Z"),
	"over the turn of the year":        event("DTSTART:20251231T220000Z|DTEND:20260101T020000Z"),
	"busy over maybe":                  event("DTSTART:20260105T090000Z|DTEND:20260105T120000Z|STATUS:TENTATIVE") + "|" + event("DTSTART:20260105T100000Z|DTEND:20260105T110000Z"),
	"touching":                         event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z") + "|" + event("DTSTART:20260105T100000Z|DTEND:20260105T110000Z"),
	"daily":                            event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=DAILY"),
	"daily a number of times":          event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=DAILY;COUNT=40"),
	"every third day until":            event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=DAILY;INTERVAL=3;UNTIL=20260601T080000Z"),
	"working days":                     event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"),
	"every second week":                event("DTSTART;TZID=Europe/Lisbon:20260303T090000|DTEND;TZID=Europe/Lisbon:20260303T093000|RRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH;WKST=SU"),
	"weekly since long ago":            event("DTSTART;TZID=Europe/Lisbon:20050103T090000|DTEND;TZID=Europe/Lisbon:20050103T100000|RRULE:FREQ=WEEKLY"),
	"the last Friday":                  event("DTSTART;TZID=Europe/Lisbon:20260130T140000|DTEND;TZID=Europe/Lisbon:20260130T150000|RRULE:FREQ=MONTHLY;BYDAY=-1FR"),
	"the second Tuesday":               event("DTSTART;TZID=Europe/Lisbon:20260113T140000|DTEND;TZID=Europe/Lisbon:20260113T150000|RRULE:FREQ=MONTHLY;BYDAY=2TU"),
	"the 31st":                         event("DTSTART;TZID=Europe/Lisbon:20260131T140000|DTEND;TZID=Europe/Lisbon:20260131T150000|RRULE:FREQ=MONTHLY"),
	"the last day of the month":        event("DTSTART;TZID=Europe/Lisbon:20260131T140000|DTEND;TZID=Europe/Lisbon:20260131T150000|RRULE:FREQ=MONTHLY;BYMONTHDAY=-1"),
	"the last working day":             event("DTSTART;TZID=Europe/Lisbon:20260130T140000|DTEND;TZID=Europe/Lisbon:20260130T150000|RRULE:FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1"),
	"yearly":                           event("DTSTART;VALUE=DATE:20100612|RRULE:FREQ=YEARLY"),
	"every 29 February":                event("DTSTART;VALUE=DATE:20240229|RRULE:FREQ=YEARLY"),
	"Thursdays in March":               event("DTSTART;TZID=Europe/Lisbon:20250306T090000|DTEND;TZID=Europe/Lisbon:20250306T100000|RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=TH"),
	"hourly by day":                    event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T091000|RRULE:FREQ=HOURLY;BYHOUR=9,10,11;COUNT=30"),
	"whole days every week":            event("DTSTART;VALUE=DATE:20260103|DTEND;VALUE=DATE:20260105|RRULE:FREQ=WEEKLY"),
	"whole days until a day":           event("DTSTART;VALUE=DATE:20260105|RRULE:FREQ=DAILY;UNTIL=20260109"),
	"floating, daily, over a change":   event("DTSTART:20260327T090000|DTEND:20260327T100000|RRULE:FREQ=DAILY;COUNT=5"),
	"an end in the hour left out":      event("DTSTART;TZID=Europe/Lisbon:20260328T233000|DTEND;TZID=Europe/Lisbon:20260329T013000"),
	"daily through the clock change":   event("DTSTART;TZID=Europe/Lisbon:20261023T003000|DTEND;TZID=Europe/Lisbon:20261023T043000|RRULE:FREQ=DAILY;COUNT=4"),
	"nominal days over a change":       event("DTSTART;TZID=Europe/Lisbon:20261023T090000|DURATION:P1D|RRULE:FREQ=WEEKLY;COUNT=3"),
	"UTC rule over a change":           event("DTSTART:20260325T090000Z|DTEND:20260325T100000Z|RRULE:FREQ=DAILY;COUNT=8"),
	"a date left out":                  event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=6|EXDATE;TZID=Europe/Lisbon:20260316T090000"),
	"dates left out in one line":       event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=6|EXDATE;TZID=Europe/Lisbon:20260316T090000,20260323T090000"),
	"the first date left out":          event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=6|EXDATE;TZID=Europe/Lisbon:20260302T090000"),
	"a day left out":                   event("DTSTART;VALUE=DATE:20260302|RRULE:FREQ=WEEKLY;COUNT=6|EXDATE;VALUE=DATE:20260316"),
	"dates added":                      event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RDATE;TZID=Europe/Lisbon:20260304T110000,20260701T090000"),
	"a date added to a rule":           event("DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=3|RDATE;TZID=Europe/Lisbon:20260305T090000"),
	"days added":                       event("DTSTART;VALUE=DATE:20260302|RDATE;VALUE=DATE:20260305,20260309"),
	"one date moved":                   event("UID:moved|DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=4") + "|" + event("UID:moved|RECURRENCE-ID;TZID=Europe/Lisbon:20260309T090000|DTSTART;TZID=Europe/Lisbon:20260310T150000|DTEND;TZID=Europe/Lisbon:20260310T170000"),
	"one date moved, named in UTC":     event("UID:moved|DTSTART;TZID=Europe/Lisbon:20260706T090000|DTEND;TZID=Europe/Lisbon:20260706T093000|RRULE:FREQ=WEEKLY;COUNT=4") + "|" + event("UID:moved|RECURRENCE-ID:20260713T080000Z|DTSTART:20260714T150000Z|DTEND:20260714T170000Z"),
	"one date called off":              event("UID:off|DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=4") + "|" + event("UID:off|RECURRENCE-ID;TZID=Europe/Lisbon:20260309T090000|DTSTART;TZID=Europe/Lisbon:20260309T090000|DTEND;TZID=Europe/Lisbon:20260309T093000|STATUS:CANCELLED"),
	"one date leaves the time clear":   event("UID:free|DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=4") + "|" + event("UID:free|RECURRENCE-ID;TZID=Europe/Lisbon:20260309T090000|DTSTART;TZID=Europe/Lisbon:20260309T090000|DTEND;TZID=Europe/Lisbon:20260309T093000|TRANSP:TRANSPARENT"),
	"one date maybe":                   event("UID:maybe|DTSTART;TZID=Europe/Lisbon:20260302T090000|DTEND;TZID=Europe/Lisbon:20260302T093000|RRULE:FREQ=WEEKLY;COUNT=4") + "|" + event("UID:maybe|RECURRENCE-ID;TZID=Europe/Lisbon:20260309T090000|DTSTART;TZID=Europe/Lisbon:20260309T090000|DTEND;TZID=Europe/Lisbon:20260309T093000|STATUS:TENTATIVE"),
	"moved into the window":            event("UID:into|DTSTART;TZID=Europe/Lisbon:20251201T090000|DTEND;TZID=Europe/Lisbon:20251201T100000|RRULE:FREQ=WEEKLY;COUNT=3") + "|" + event("UID:into|RECURRENCE-ID;TZID=Europe/Lisbon:20251208T090000|DTSTART;TZID=Europe/Lisbon:20260202T090000|DTEND;TZID=Europe/Lisbon:20260202T100000"),
	"a moved date before its series":   event("UID:order|RECURRENCE-ID:20260309T090000Z|DTSTART:20260310T090000Z|DTEND:20260310T100000Z") + "|" + event("UID:order|DTSTART:20260302T090000Z|DTEND:20260302T100000Z|RRULE:FREQ=WEEKLY;COUNT=3"),
	"a whole day moved":                event("UID:day|DTSTART;VALUE=DATE:20260302|RRULE:FREQ=WEEKLY;COUNT=3") + "|" + event("UID:day|RECURRENCE-ID;VALUE=DATE:20260309|DTSTART;VALUE=DATE:20260311"),
	"a date without its series":        event("UID:alone|RECURRENCE-ID:20260309T090000Z|DTSTART:20260309T090000Z|DTEND:20260309T100000Z"),
	"New York, across its own changes": event("DTSTART;TZID=America/New_York:20260301T090000|DTEND;TZID=America/New_York:20260301T100000|RRULE:FREQ=DAILY;COUNT=40"),
	"Kathmandu":                        event("DTSTART;TZID=Asia/Kathmandu:20260301T090000|DTEND;TZID=Asia/Kathmandu:20260301T100000|RRULE:FREQ=WEEKLY;COUNT=4"),
	"with Lisbon's zone spelled out":   lisbonZone + "|" + event("DTSTART;TZID=Europe/Lisbon:20260101T090000|DTEND;TZID=Europe/Lisbon:20260101T100000|RRULE:FREQ=WEEKLY"),
	"a zone of its own":                oddZone + "|" + event("DTSTART;TZID=Harbour/Tide:20260701T090000|DTEND;TZID=Harbour/Tide:20260701T100000"),
	"busy times":                       "BEGIN:VFREEBUSY|UID:fb|DTSTAMP:20260101T000000Z|DTSTART:20260101T000000Z|DTEND:20260201T000000Z|FREEBUSY:20260105T090000Z/20260105T100000Z,20260106T090000Z/PT2H|FREEBUSY;FBTYPE=BUSY-TENTATIVE:20260107T090000Z/PT1H|FREEBUSY;FBTYPE=FREE:20260108T090000Z/PT1H|FREEBUSY;FBTYPE=BUSY-UNAVAILABLE:20260109T000000Z/20260110T000000Z|END:VFREEBUSY",
	"busy times, a line each":          "BEGIN:VFREEBUSY|UID:fb|DTSTAMP:20260101T000000Z|FREEBUSY:20260105T090000Z/20260105T100000Z|FREEBUSY;FBTYPE=BUSY-TENTATIVE:20260107T090000Z/20260107T110000Z|FREEBUSY;FBTYPE=BUSY-UNAVAILABLE:20260109T000000Z/20260110T000000Z|END:VFREEBUSY",
	"folded lines":                     event("SUMMARY:a long\r\n  title|DTSTART;TZID=Europe/Lis\r\n bon:20260706T0900\r\n 00|DTEND;TZID=Europe/Lisbon:20260706T100000"),
	"reminders inside":                 event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z|BEGIN:VALARM|ACTION:DISPLAY|DESCRIPTION:x|TRIGGER:-PT15M|DURATION:PT5M|REPEAT:2|END:VALARM"),
	"to-dos take no time":              "BEGIN:VTODO|UID:todo|DTSTAMP:20260101T000000Z|DTSTART:20260105T090000Z|DUE:20260105T100000Z|END:VTODO|" + event("DTSTART:20260107T090000Z|DTEND:20260107T100000Z"),
	"a long event among short ones":    event("DTSTART:20260101T000000Z|DTEND:20260301T000000Z|STATUS:TENTATIVE") + "|" + event("DTSTART:20260105T090000Z|DTEND:20260105T093000Z|RRULE:FREQ=DAILY;COUNT=70"),
}

// readApart are the calendars that a library reads otherwise, and why ours is right.
var readApart = map[string]map[string]string{
	"busy times":                  {"icalendar": "python3-icalendar 4.0.3 reads one period a line; RFC 5545, 3.8.2.6 allows several"},
	"an end in the hour left out": {"libical": "libical takes 1:30 as 0:30Z; RFC 5545, 3.3.5 takes the offset before the gap, so that it is 1:30Z"},
}

type question struct {
	ICS  string `json:"ics"`
	From string `json:"from"`
	To   string `json:"to"`
	Zone string `json:"zone"`
}

func ask(t *testing.T, q question) [][3]string {
	t.Helper()
	a, err := ical.Question{ICS: q.ICS, From: q.From, To: q.To, Zone: q.Zone}.Ask()
	require.NoError(t, err, q.ICS)
	return a.Busy
}

func askElsewhere(t *testing.T, library string, questions []question) (answers [][][3]string) {
	t.Helper()
	in, err := json.Marshal(questions)
	require.NoError(t, err)
	cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "testdata/busy.py", library)
	cmd.Stdin = bytes.NewReader(in)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	out, err := cmd.Output()
	require.NoError(t, err, stderr.String())
	require.NoError(t, json.Unmarshal(out, &answers))
	require.Len(t, answers, len(questions))
	return answers
}

// TestBusyAsOtherLibrariesReadIt: python3-icalendar with python3-dateutil, and libical,
// Debian's, find the same busy times in the same calendars.
func TestBusyAsOtherLibrariesReadIt(t *testing.T) {
	require.GreaterOrEqual(t, len(calendars), 60)
	var names []string
	var questions []question
	for name, body := range calendars {
		names = append(names, name)
		questions = append(questions, question{calendarOf(body), "2026-01-01T00:00:00Z", "2027-01-01T00:00:00Z", "Europe/Lisbon"})
	}
	for _, library := range []string{"icalendar", "libical"} {
		t.Run(library, func(t *testing.T) {
			for i, theirs := range askElsewhere(t, library, questions) {
				ours := ask(t, questions[i])
				if why := readApart[names[i]][library]; why != "" {
					assert.NotEqual(t, theirs, ours, "%s: no longer apart (%s)", names[i], why)
					continue
				}
				if len(theirs) == 0 {
					assert.Empty(t, ours, names[i])
					continue
				}
				assert.Equal(t, theirs, ours, names[i])
			}
		})
	}
}

// madeCalendar is a calendar of some random events, with dates left out, added, moved. All of
// them are off the hour of a clock change, which libraries read differently.
func madeCalendar(r *rand.Rand) string {
	var out []string
	zones := []string{"Europe/Lisbon", "America/New_York", "Asia/Tokyo", "Africa/Nairobi", "Australia/Sydney"}
	rules := []string{"FREQ=DAILY;COUNT=%d", "FREQ=WEEKLY;BYDAY=MO,WE,FR;COUNT=%d", "FREQ=WEEKLY;INTERVAL=2;COUNT=%d", "FREQ=MONTHLY;BYMONTHDAY=5,-3;COUNT=%d",
		"FREQ=MONTHLY;BYDAY=3TH;COUNT=%d", "FREQ=DAILY;INTERVAL=5;COUNT=%d"}
	for n := range 1 + r.IntN(6) {
		day := time.Date(2026, time.Month(1+r.IntN(10)), 1+r.IntN(28), 4+r.IntN(18), 15*r.IntN(4), 0, 0, time.UTC)
		zone := zones[r.IntN(len(zones))]
		at := func(t time.Time) string { return ";TZID=" + zone + ":" + t.Format("20060102T150405") }
		length := time.Duration(1+r.IntN(12)) * 15 * time.Minute
		body := fmt.Sprintf("UID:%d|DTSTART%s|DTEND%s", n, at(day), at(day.Add(length)))
		if status := r.IntN(6); status < 3 {
			body += []string{"|STATUS:TENTATIVE", "|STATUS:CONFIRMED", "|TRANSP:TRANSPARENT"}[status]
		}
		if r.IntN(3) == 0 {
			out = append(out, event(body))
			continue
		}
		// The start is a date of the rule, so that nothing about it is left open.
		count := 2 + r.IntN(20)
		rule := fmt.Sprintf(rules[r.IntN(3)], count)
		if strings.Contains(rule, "BYDAY") {
			for day.Weekday() != time.Monday {
				day = day.AddDate(0, 0, 1)
			}
		}
		body = fmt.Sprintf("UID:%d|DTSTART%s|DTEND%s|RRULE:%s", n, at(day), at(day.Add(length)), rule)
		step := 1
		if strings.Contains(rule, "INTERVAL=2") {
			step = 14
		} else if strings.Contains(rule, "BYDAY") {
			step = 7
		}
		if r.IntN(2) == 0 {
			body += "|EXDATE" + at(day.AddDate(0, 0, step))
		}
		if r.IntN(3) == 0 {
			body += "|RDATE" + at(day.AddDate(0, 0, 3).Add(time.Hour))
		}
		out = append(out, event(body))
		if r.IntN(2) == 0 {
			on := day.AddDate(0, 0, 2*step)
			out = append(out, event(fmt.Sprintf("UID:%d|RECURRENCE-ID%s|DTSTART%s|DTEND%s", n, at(on), at(on.Add(23*time.Hour)), at(on.Add(25*time.Hour)))))
		}
	}
	return calendarOf(out...)
}

// TestRandomCalendarsAsOtherLibrariesReadThem does the same with calendars nobody wrote.
func TestRandomCalendarsAsOtherLibrariesReadThem(t *testing.T) {
	seed := rand.Uint64()
	r := rand.New(rand.NewPCG(seed, 7953))
	questions := make([]question, 150)
	for i := range questions {
		questions[i] = question{madeCalendar(r), "2026-02-01T00:00:00Z", "2026-12-01T00:00:00Z", "Europe/Lisbon"}
	}
	for _, library := range []string{"icalendar", "libical"} {
		for i, theirs := range askElsewhere(t, library, questions) {
			if ours := ask(t, questions[i]); len(theirs)+len(ours) > 0 && !assert.Equal(t, theirs, ours, "%s, seed %d\n%s", library, seed, questions[i].ICS) {
				return
			}
		}
	}
}

// TestExamplesOfRFC7953 are appendices A and B, with the results that 5.1.1 and 5.1.2 give
// for them in tables of two hours. (A's request is for "Monday, 6th November 2011", which
// was a Sunday; the event is on the 6th, and the day of the table is a working day: the
// event is moved to the 7th here. B's says the meeting is on 6 November and the request for
// 24 October; its table has the meeting on the day asked for, so it is moved there.)
func TestExamplesOfRFC7953(t *testing.T) {
	montreal := "BEGIN:VAVAILABILITY|UID:1|DTSTAMP:20111005T133225Z|DTSTART;TZID=America/Montreal:20111002T000000|BEGIN:AVAILABLE|UID:2|" +
		"DTSTART;TZID=America/Montreal:20111002T080000|DTEND;TZID=America/Montreal:20111002T180000|RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR|END:AVAILABLE|END:VAVAILABILITY"
	denver := "BEGIN:VAVAILABILITY|UID:3|DTSTAMP:20111005T133225Z|DTSTART;TZID=America/Denver:20111023T000000|DTEND;TZID=America/Denver:20111030T000000|PRIORITY:1|BEGIN:AVAILABLE|UID:4|" +
		"DTSTART;TZID=America/Denver:20111023T080000|DTEND;TZID=America/Denver:20111023T180000|RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR|END:AVAILABLE|END:VAVAILABILITY"
	for name, c := range map[string]struct {
		ics  string
		day  time.Time
		want string
	}{
		"5.1.1": {calendarOf(event("DTSTART;TZID=America/Montreal:20111107T120000|DURATION:PT2H"), montreal), time.Date(2011, 11, 7, 0, 0, 0, 0, time.UTC), "UUUUFFBFFUUU"},
		"5.1.2": {calendarOf(event("DTSTART;TZID=America/Denver:20111024T120000|DURATION:PT2H"), montreal, denver), time.Date(2011, 10, 24, 0, 0, 0, 0, time.UTC), "UUUUUFFBFFUU"},
	} {
		zone, err := when.LoadZone("America/Montreal")
		require.NoError(t, err)
		day := when.DaySpan(when.DayOf(c.day.Date()), zone)
		got := ask(t, question{c.ics, day.Start.Time().Format(time.RFC3339), day.End.Time().Format(time.RFC3339), "America/Montreal"})
		row := []byte("FFFFFFFFFFFF")
		for _, b := range got {
			start, _ := time.Parse(time.RFC3339, b[0])
			end, _ := time.Parse(time.RFC3339, b[1])
			for i := range row {
				if at := day.Start.Time().Add(time.Duration(2*i) * time.Hour); !at.Before(start) && at.Before(end) {
					row[i] = map[string]byte{"busy": 'B', "maybe": 'T', "leave": 'U'}[b[2]]
				}
			}
		}
		assert.Equal(t, c.want, string(row), name)
	}
}

// TestFreeBusyOfRFC5545 is the published busy time of RFC 5545, 3.6.4, whose third example
// has DTSTART and DTEND in local form here and its FREEBUSY in UTC.
func TestFreeBusyOfRFC5545(t *testing.T) {
	got := ask(t, question{calendarOf("BEGIN:VFREEBUSY|UID:19970901T115957Z-76A912@example.com|DTSTAMP:19970901T120000Z|ORGANIZER:jsmith@example.com|" +
		"DTSTART:19980313T141711Z|DTEND:19980410T141711Z|FREEBUSY:19980314T233000Z/19980315T003000Z|FREEBUSY:19980316T153000Z/19980316T163000Z|" +
		"FREEBUSY:19980318T030000Z/19980318T040000Z|URL:http://www.example.com/calendar/busytime/jsmith.ifb|END:VFREEBUSY"),
		"1998-03-01T00:00:00Z", "1998-05-01T00:00:00Z", "America/New_York"})
	assert.Equal(t, [][3]string{{"1998-03-14T23:30:00Z", "1998-03-15T00:30:00Z", "busy"}, {"1998-03-16T15:30:00Z", "1998-03-16T16:30:00Z", "busy"},
		{"1998-03-18T03:00:00Z", "1998-03-18T04:00:00Z", "busy"}}, got)
}

// TestOneWayOnly are calendars that libraries part on or do not read, and what holds here.
func TestOneWayOnly(t *testing.T) {
	early := func(s string) string { return event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z" + s) }
	for name, c := range map[string]struct {
		ics  string
		want [][3]string
	}{
		"an own zone that has another one's name": {calendarOf(strings.ReplaceAll(oddZone, "Harbour/Tide", "Europe/Lisbon"), event("DTSTART;TZID=Europe/Lisbon:20260105T090000|DTEND;TZID=Europe/Lisbon:20260105T100000")),
			[][3]string{{"2026-01-05T07:45:00Z", "2026-01-05T08:45:00Z", "busy"}}},
		"a series in an own zone, over its change": {calendarOf(oddZone, event("DTSTART;TZID=Harbour/Tide:20260331T090000|DTEND;TZID=Harbour/Tide:20260331T100000|RRULE:FREQ=DAILY;UNTIL=20260401T064500Z")),
			[][3]string{{"2026-03-31T07:45:00Z", "2026-03-31T08:45:00Z", "busy"}, {"2026-04-01T06:45:00Z", "2026-04-01T07:45:00Z", "busy"}}},
		"a date that an own zone skips": {calendarOf(oddZone, event("DTSTART;TZID=Harbour/Tide:20260331T023000|DTEND;TZID=Harbour/Tide:20260331T024500|RRULE:FREQ=DAILY;COUNT=2")),
			[][3]string{{"2026-03-31T01:15:00Z", "2026-03-31T01:30:00Z", "busy"}, {"2026-04-02T00:15:00Z", "2026-04-02T00:30:00Z", "busy"}}},
		"a zone nobody knows": {calendarOf(event("DTSTART;TZID=Nowhere:20260706T090000|DTEND;TZID=Nowhere:20260706T100000")),
			[][3]string{{"2026-07-06T08:00:00Z", "2026-07-06T09:00:00Z", "busy"}}},
		"a zone with a longer name":         {calendarOf(event("DTSTART;TZID=\"/example.org/20260101/Asia/Tokyo\":20260706T090000|DTEND;TZID=\"/example.org/20260101/Asia/Tokyo\":20260706T100000")), [][3]string{{"2026-07-06T00:00:00Z", "2026-07-06T01:00:00Z", "busy"}}},
		"the newer one of a UID":            {calendarOf(early("|UID:x|SEQUENCE:1"), event("UID:x|SEQUENCE:0|DTSTART:20260106T090000Z|DTEND:20260106T100000Z")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}}},
		"a change of a date and all after":  {calendarOf(event("UID:x|DTSTART:20260105T090000Z|DTEND:20260105T100000Z|RRULE:FREQ=WEEKLY;COUNT=3"), event("UID:x|RECURRENCE-ID;RANGE=THISANDFUTURE:20260112T090000Z|DTSTART:20260113T100000Z|DTEND:20260113T103000Z")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}, {"2026-01-13T10:00:00Z", "2026-01-13T10:30:00Z", "busy"}, {"2026-01-20T10:00:00Z", "2026-01-20T10:30:00Z", "busy"}}},
		"a date added with its own length":  {calendarOf(event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z|RDATE;VALUE=PERIOD:20260107T090000Z/PT3H,20260108T090000Z/20260108T093000Z")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}, {"2026-01-07T09:00:00Z", "2026-01-07T12:00:00Z", "busy"}, {"2026-01-08T09:00:00Z", "2026-01-08T09:30:00Z", "busy"}}},
		"a day left out of times":           {calendarOf(event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z|RRULE:FREQ=DAILY;COUNT=2|EXDATE;VALUE=DATE:20260106")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}}},
		"until a day":                       {calendarOf(event("DTSTART:20260105T090000Z|DTEND:20260105T100000Z|RRULE:FREQ=DAILY;UNTIL=20260106")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}, {"2026-01-06T09:00:00Z", "2026-01-06T10:00:00Z", "busy"}}},
		"a rule that is none":               {calendarOf(early("|RRULE:FREQ=SOMETIMES")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}}},
		"times of 1601 and 9999":            {calendarOf(event("DTSTART:16010101T090000Z|DTEND:16010101T093000Z|RRULE:FREQ=YEARLY;BYMONTH=1;BYDAY=1SU"), event("DTSTART:99991231T230000Z|DTEND:99991231T235900Z"), early("")), [][3]string{{"2026-01-04T09:00:00Z", "2026-01-04T09:30:00Z", "busy"}, {"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}}},
		"a day that ends on itself":         {calendarOf(event("DTSTART;VALUE=DATE:20260105|DTEND;VALUE=DATE:20260105")), [][3]string{{"2026-01-05T00:00:00Z", "2026-01-06T00:00:00Z", "busy"}}},
		"ends before it starts":             {calendarOf(event("DTSTART:20260105T090000Z|DTEND:20260105T080000Z")), nil},
		"an event without a start, and one": {calendarOf("BEGIN:VEVENT|UID:q|END:VEVENT", early("")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}}},
		"a quote that never closes":         {calendarOf(event("DTSTART;X-A=\"b:20260105T090000Z|DTEND:20260105T100000Z")), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}}},
		"lines that end in CR alone":        {strings.ReplaceAll(calendarOf(early("")), "\r\n", "\r"), [][3]string{{"2026-01-05T09:00:00Z", "2026-01-05T10:00:00Z", "busy"}}},
		"availability busy by type":         {calendarOf("BEGIN:VAVAILABILITY|UID:v|DTSTART:20260105T000000Z|DTEND:20260106T000000Z|BUSYTYPE:BUSY|BEGIN:AVAILABLE|UID:w|DTSTART:20260105T090000Z|DTEND:20260105T170000Z|END:AVAILABLE|END:VAVAILABILITY"), [][3]string{{"2026-01-05T00:00:00Z", "2026-01-05T09:00:00Z", "busy"}, {"2026-01-05T17:00:00Z", "2026-01-06T00:00:00Z", "busy"}}},
	} {
		got := ask(t, question{c.ics, "2026-01-01T00:00:00Z", "2026-12-31T00:00:00Z", "Europe/Lisbon"})
		if len(c.want) == 0 {
			assert.Empty(t, got, name)
			continue
		}
		assert.Equal(t, c.want, got, name)
	}
}

func utf16Of(s string, low bool) []byte {
	out := []byte{0xfe, 0xff}
	if low {
		out = []byte{0xff, 0xfe}
	}
	for _, u := range utf16.Encode([]rune(s)) {
		if low {
			out = append(out, byte(u), byte(u>>8))
		} else {
			out = append(out, byte(u>>8), byte(u))
		}
	}
	return out
}

func TestCalendarsInUTF16(t *testing.T) {
	text := calendarOf(event("SUMMARY:Conservação|DTSTART:20260105T090000Z|DTEND:20260105T100000Z"))
	window := when.Span{Start: when.At(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)), End: when.At(time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC))}
	for _, raw := range [][]byte{utf16Of(text, true), utf16Of(text, false), utf16Of(text, true)[2:], utf16Of(text, false)[2:], append([]byte("\xef\xbb\xbf"), text...)} {
		c, err := ical.ReadCalendar(raw, window)
		require.NoError(t, err)
		require.Len(t, c.Events, 1)
		assert.Equal(t, "Conservação", c.Events[0].Title)
	}
	a, err := ical.Question{B64: base64.StdEncoding.EncodeToString(utf16Of(text, true)), From: "20260101T000000Z", To: "20270101T000000Z", Zone: "UTC"}.Ask()
	require.NoError(t, err)
	assert.Equal(t, [][3]string{{"20260105T090000Z", "20260105T100000Z", "busy"}}, a.Busy, "in the form of the question")
}

// TestCalendarsThatAreNone have a clear result, and soon.
func TestCalendarsThatAreNone(t *testing.T) {
	year := func(ics string) ical.Question {
		return ical.Question{ICS: ics, From: "2026-01-01T00:00:00Z", To: "2027-01-01T00:00:00Z", Zone: "UTC"}
	}
	many := strings.Repeat("BEGIN:VEVENT\r\nUID:x\r\nDTSTART:20260105T090000Z\r\nDURATION:PT1H\r\nEND:VEVENT\r\n", 100_000)
	for name, c := range map[string]struct {
		q    ical.Question
		says string
	}{
		"nothing":                   {year(""), "not a calendar"},
		"a web page":                {year("<!doctype html><html><body>BEGIN:VCALENDAR</body></html>"), "not a calendar"},
		"broken off":                {year("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:2026"), "breaks off"},
		"more than 10 MB":           {year("BEGIN:VCALENDAR\r\n" + strings.Repeat("X:y\r\n", calendar.MostBytes/5)), "10 MB"},
		"every second second":       {year(calendarOf(event("DTSTART:20260101T000000Z|DURATION:PT1S|RRULE:FREQ=SECONDLY;INTERVAL=2"))), "separate times"},
		"blocks upon blocks":        {year(calendarOf(strings.Repeat("BEGIN:VAVAILABILITY|END:VAVAILABILITY|", 300) + "X:y")), "too many entries"},
		"a window the wrong way":    {ical.Question{From: "2027-01-01T00:00:00Z", To: "2026-01-01T00:00:00Z"}, "after from"},
		"ten thousand years":        {ical.Question{From: "0001-01-01T00:00:00Z", To: "9999-01-01T00:00:00Z"}, "hundred years"},
		"no moment":                 {ical.Question{From: "yesterday", To: "2026-01-01T00:00:00Z"}, "from"},
		"no zone":                   {ical.Question{ICS: "x", From: "2026-01-01T00:00:00Z", To: "2026-01-02T00:00:00Z", Zone: "Mars"}, "zone"},
		"not base64":                {ical.Question{B64: "%%%", From: "2026-01-01T00:00:00Z", To: "2026-01-02T00:00:00Z"}, "b64"},
		"both":                      {ical.Question{ICS: "x", B64: "eA==", From: "2026-01-01T00:00:00Z", To: "2026-01-02T00:00:00Z"}, "both"},
		"a rule that never is true": {year(calendarOf(event("DTSTART:20260101T000000Z|DURATION:PT1S|RRULE:FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30"))), ""},
		"nested beyond sense":       {year("BEGIN:VCALENDAR\r\n" + strings.Repeat("BEGIN:VEVENT\r\n", 200_000)), "breaks off"},
		"a hundred thousand events": {year(calendarOf(many + "X:y")), ""},
		"every second":              {year(calendarOf(event("DTSTART:20260101T000000Z|DURATION:PT1S|RRULE:FREQ=SECONDLY;UNTIL=20260102T000000Z"))), ""},
	} {
		a, err := c.q.Ask()
		if c.says == "" {
			assert.NoError(t, err, name)
			continue
		}
		if assert.Error(t, err, name) {
			assert.Contains(t, words.Error(tongue.Tongue{}, err), c.says, name)
			assert.Empty(t, a.Busy, name)
		}
	}
	a, err := year(calendarOf(many + "X:y")).Ask()
	require.NoError(t, err)
	assert.Len(t, a.Busy, 1)
	a, err = year(calendarOf(event("DTSTART:20260101T000000Z|DURATION:PT1S|RRULE:FREQ=SECONDLY;UNTIL=20260102T000000Z"))).Ask()
	require.NoError(t, err)
	assert.Equal(t, [][3]string{{"2026-01-01T00:00:00Z", "2026-01-02T00:00:01Z", "busy"}}, a.Busy)
}

func TestWhoseCalendarItIs(t *testing.T) {
	window := when.Span{Start: when.At(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)), End: when.At(time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC))}
	raw := calendarOf("NAME:Family|X-WR-CALNAME:Other|REFRESH-INTERVAL;VALUE=DURATION:PT4H|X-PUBLISHED-TTL:PT1H",
		event("DTSTART:20260105T090000Z|DURATION:PT1H|CLASS:CONFIDENTIAL|ATTENDEE;PARTSTAT=DECLINED:mailto:ilse.marrant@marrowby.example"),
		event("DTSTART:20260106T090000Z|DURATION:PT1H|ATTENDEE;PARTSTAT=TENTATIVE;CN=\"Marrant; Ilse\":MAILTO:Ilse.Marrant@marrowby.example"),
		event("DTSTART:20260107T090000Z|DURATION:PT1H|ATTENDEE;PARTSTAT=DECLINED:mailto:rui.calado@marrowby.example"))
	c, err := ical.ReadCalendar([]byte(raw), window, "ilse.marrant@marrowby.example")
	require.NoError(t, err)
	assert.Equal(t, "Family", c.Name)
	assert.Equal(t, 4*time.Hour, c.Refresh)
	assert.True(t, c.Events[0].Private)
	assert.Equal(t, []string{"free", "maybe", "busy"}, []string{string(c.Events[0].Kind), string(c.Events[1].Kind), string(c.Events[2].Kind)})
}

func FuzzReadCalendar(f *testing.F) {
	for _, body := range calendars {
		f.Add([]byte(calendarOf(body)))
	}
	f.Add(utf16Of(calendarOf(oddZone), true))
	f.Add([]byte(calendarOf("BEGIN:VAVAILABILITY|PRIORITY:3|DTSTART:20260105T000000Z|DURATION:P3D|BEGIN:AVAILABLE|DTSTART:20260105T090000Z|DURATION:PT8H|RRULE:FREQ=DAILY|END:AVAILABLE|END:VAVAILABILITY")))
	lisbon, _ := when.LoadZone("Europe/Lisbon")
	window := when.Span{Start: when.At(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)), End: when.At(time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC))}
	f.Fuzz(func(t *testing.T, raw []byte) {
		c, err := ical.ReadCalendar(raw, window, "a@b.example")
		if err != nil {
			return
		}
		busy, err := c.Busy(window, lisbon)
		if err != nil {
			return
		}
		for i, b := range busy {
			require.False(t, b.Span.Empty())
			require.True(t, window.Covers(b.Span))
			if i > 0 {
				require.LessOrEqual(t, busy[i-1].Span.End, b.Span.Start, "ascending, no instant twice")
				require.False(t, busy[i-1].Span.End == b.Span.Start && busy[i-1].Kind == b.Kind, "what touches is one")
			}
		}
	})
}
