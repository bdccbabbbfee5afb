package ical_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"jembro/internal/core/calendar"
	"jembro/internal/core/when"
	"jembro/internal/ical"
)

// large is a calendar of so many events as office workers have them: a third repeats.
func large(events int) string {
	r := rand.New(rand.NewPCG(5000, 1))
	var all []string
	for n := range events {
		day := time.Date(2026, time.Month(1+r.IntN(12)), 1+r.IntN(28), 8+r.IntN(10), 15*r.IntN(4), 0, 0, time.UTC)
		body := fmt.Sprintf("UID:%d@example|SUMMARY:Entry %d|DESCRIPTION:%s|LOCATION:Map Room|DTSTART;TZID=Europe/Lisbon:%s|DTEND;TZID=Europe/Lisbon:%s", n, n,
			strings.Repeat("word ", 30), day.Format("20060102T150405"), day.Add(time.Hour).Format("20060102T150405"))
		if n%3 == 0 {
			body += []string{"|RRULE:FREQ=WEEKLY;COUNT=20", "|RRULE:FREQ=DAILY;COUNT=10", "|RRULE:FREQ=MONTHLY;COUNT=12"}[r.IntN(3)]
		}
		all = append(all, event(body))
	}
	return calendarOf(append([]string{lisbonZone}, all...)...)
}

// BenchmarkReading5000Events reads and expands a large calendar over a year; beside it
// python3-icalendar with python3-dateutil, reading and expanding the same.
func BenchmarkReading5000Events(b *testing.B) {
	raw := large(5000)
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(b, err)
	window := when.Span{Start: when.At(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)), End: when.At(time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC))}
	var ours time.Duration
	b.Run("jembro", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			c, err := ical.ReadCalendar([]byte(raw), window)
			require.NoError(b, err)
			_, err = c.Busy(window, lisbon)
			require.NoError(b, err)
		}
		ours = b.Elapsed() / time.Duration(b.N)
		b.ReportMetric(float64(len(raw))/1e6, "MB")
	})
	b.Run("python3-icalendar", func(b *testing.B) {
		in, err := json.Marshal([]question{{raw, "2026-01-01T00:00:00Z", "2027-01-01T00:00:00Z", "Europe/Lisbon"}})
		require.NoError(b, err)
		file := filepath.Join(b.TempDir(), "question.json")
		require.NoError(b, os.WriteFile(file, in, 0o600))
		for b.Loop() {
			q, err := os.Open(file)
			require.NoError(b, err)
			cmd := exec.Command("/usr/bin/python3", "testdata/busy.py", "icalendar", "timed")
			cmd.Stdin = q
			out, err := cmd.Output()
			require.NoError(b, err)
			var seconds float64
			require.NoError(b, json.Unmarshal(out, &seconds))
			b.ReportMetric(seconds*1000, "ms-without-start")
			b.ReportMetric(seconds/ours.Seconds(), "times-ours")
			q.Close()
		}
	})
}

// BenchmarkTheMostExpensiveCalendars is what one calendar can cost, whatever it says.
func BenchmarkTheMostExpensiveCalendars(b *testing.B) {
	most := func(unit string) string { return strings.Repeat(unit+"\r\n", (calendar.MostBytes-1000)/(len(unit)+2)) }
	one := strings.ReplaceAll("BEGIN:VEVENT|UID:%d|DTSTART:20260105T090000Z|DURATION:PT1H|END:VEVENT", "|", "\r\n")
	rule := strings.ReplaceAll("BEGIN:VEVENT|DTSTART:20260105T090000Z|DURATION:PT1H|RRULE:FREQ=DAILY|END:VEVENT", "|", "\r\n")
	onward := strings.ReplaceAll("BEGIN:VEVENT|UID:a|RECURRENCE-ID;RANGE=THISANDFUTURE:20260105T090000Z|DTSTART:20260105T090000Z|DURATION:PT1H|END:VEVENT", "|", "\r\n")
	for name, body := range map[string]string{
		"events": most(one), "daily events": most(rule), "dates added": "BEGIN:VEVENT\r\nUID:a\r\nDTSTART:20260105T090000Z\r\nDURATION:PT1H\r\n" + most("RDATE:20260105T090000Z,20260106T090000Z") + "END:VEVENT\r\n",
		"a line that goes on": "X:" + strings.Repeat("\r\n y", calendar.MostBytes/5) + "\r\n", "nested": most("BEGIN:VEVENT"), "changes from a date on": "BEGIN:VEVENT\r\nUID:a\r\nDTSTART:20250105T090000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=HOURLY\r\nEND:VEVENT\r\n" + most(onward),
		"every second": calendarBody(event("DTSTART:20200101T000000Z|DURATION:PT1S|RRULE:FREQ=SECONDLY")), "never true": calendarBody(event("DTSTART:20200101T000000Z|DURATION:PT1S|RRULE:FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30")),
		"zones":            strings.Repeat("BEGIN:VTIMEZONE\r\nTZID:z\r\nBEGIN:STANDARD\r\nDTSTART:16010101T000000\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0000\r\nRRULE:FREQ=SECONDLY\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\n", 1000) + calendarBody(event("DTSTART;TZID=z:20200101T000000|DURATION:PT1S|RRULE:FREQ=DAILY")),
		"availability":     "BEGIN:VAVAILABILITY\r\n" + most(strings.ReplaceAll("BEGIN:AVAILABLE|DTSTART:20260105T090000Z|DURATION:PT1H|RRULE:FREQ=DAILY;COUNT=20|END:AVAILABLE", "|", "\r\n")) + "END:VAVAILABILITY\r\n",
		"as many blocks":   strings.Repeat("BEGIN:VAVAILABILITY\r\nBEGIN:AVAILABLE\r\nDTSTART:20250105T090000Z\r\nDURATION:PT1M\r\nRRULE:FREQ=MINUTELY;INTERVAL=2\r\nEND:AVAILABLE\r\nEND:VAVAILABILITY\r\n", 199),
		"busy times":       "BEGIN:VFREEBUSY\r\n" + most("FREEBUSY:20260105T090000Z/PT1H") + "END:VFREEBUSY\r\n",
		"a rule of all":    calendarBody(event("DTSTART:20200101T000000Z|DURATION:PT1S|RRULE:FREQ=YEARLY;BYMONTH=1,2,3,4,5,6,7,8,9,10,11,12;BYHOUR=0,1,2,3,4,5,6,7,8,9,10,11,12;BYMINUTE=1,2,3,4,5,6,7,8,9,10;BYSECOND=1,2,3,4,5,6,7,8,9,10,11,12,13,14,15;BYDAY=MO,TU,WE,TH,FR,SA,SU")),
		"quotes and marks": most(`DTSTART;A="` + strings.Repeat(";", 200)),
	} {
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				ical.Question{ICS: "BEGIN:VCALENDAR\r\n" + body + "END:VCALENDAR\r\n", From: "2026-01-01T00:00:00Z", To: "2027-01-01T00:00:00Z", Zone: "Europe/Lisbon"}.Ask()
			}
		})
	}
}

func calendarBody(components string) string {
	return strings.ReplaceAll(components, "|", "\r\n") + "\r\n"
}
