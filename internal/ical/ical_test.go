package ical_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/ical"
	"jembro/internal/schedule"
)

func local(t testing.TB, s string) when.Local {
	l, err := when.ParseLocal(s)
	require.NoError(t, err)
	return l
}

func letter(t testing.TB) schedule.Letter {
	onari := meeting.Participant{ID: "onari", Party: meeting.Party{Name: "S. Onari", Email: "s.onari@kirisame.example", Zone: "Asia/Tokyo"}, Needed: true}
	freya := meeting.Participant{ID: "freya", Party: meeting.Party{PersonID: "p3", Name: `Freya "Fi" Holm; desk, store: quay`, Email: "freya.holm@marrowby.example"}}
	return schedule.Letter{
		Kind: meeting.Invite, To: onari, Answer: meeting.NoAnswer, Stamp: time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC),
		GuestURL: "https://jembro.example/guest/abc", ReplyTo: "reply-xyz@meet.marrowby.example",
		Meeting: meeting.Meeting{UID: "42@meet.marrowby.example", Sequence: 3, Title: "Crate sizes; loan 14, “lacquer”",
			Text:  "BEGIN:VEVENT\nEND:VCALENDAR\n<b>bold</b>; a\\nb, \"c\" " + strings.Repeat("ú", 200),
			Start: local(t, "2026-12-03T09:30"), End: local(t, "2026-12-03T10:30"), Zone: "Europe/Lisbon", RemindBefore: 15,
			Organiser:    meeting.Party{PersonID: "p1", Name: "Ilse Marrant", Email: "ilse.marrant@marrowby.example"},
			Participants: []meeting.Participant{onari, freya},
			Room:         &meeting.Room{Name: "Map Room", Place: "Main building, floor 1", Email: "map.room@marrowby.example"},
			Card:         &join.Card{Name: "Ostrel", URL: "https://ostrel.example/j/48-2190?a=1;b,c", Number: "482 190 77"},
		},
	}
}

func write(t testing.TB, l schedule.Letter) string {
	raw, err := ical.Write(l)
	require.NoError(t, err)
	return string(raw)
}

func unfold(s string) []string {
	return strings.Split(strings.ReplaceAll(s, "\r\n ", ""), "\r\n")
}

func TestInvitationLines(t *testing.T) {
	lines := unfold(write(t, letter(t)))
	for _, want := range []string{
		"METHOD:REQUEST",
		"DTSTART;TZID=Europe/Lisbon:20261203T093000",
		"DTEND;TZID=Europe/Lisbon:20261203T103000",
		"DTSTAMP:20261124T101200Z",
		"SEQUENCE:3",
		`SUMMARY:Crate sizes\; loan 14\, “lacquer”`,
		`ORGANIZER;CN=Ilse Marrant;EMAIL=ilse.marrant@marrowby.example:mailto:reply-xyz@meet.marrowby.example`,
		"ATTENDEE;CN=S. Onari;CUTYPE=INDIVIDUAL;PARTSTAT=NEEDS-ACTION;ROLE=REQ-PARTICIPANT;RSVP=TRUE:mailto:s.onari@kirisame.example",
		`ATTENDEE;CN="Freya ^'Fi^' Holm; desk, store: quay";CUTYPE=INDIVIDUAL;PARTSTAT=NEEDS-ACTION;ROLE=OPT-PARTICIPANT;RSVP=TRUE:mailto:freya.holm@marrowby.example`,
		"ATTENDEE;CN=Map Room;CUTYPE=ROOM;PARTSTAT=ACCEPTED;ROLE=NON-PARTICIPANT:mailto:map.room@marrowby.example",
		"CONFERENCE;FEATURE=AUDIO,VIDEO;LABEL=Join by Ostrel;VALUE=URI:https://ostrel.example/j/48-2190?a=1;b,c",
		"STATUS:CONFIRMED",
		"TRIGGER:-PT15M",
	} {
		assert.Contains(t, lines, want)
	}
	assert.Equal(t, 1, strings.Count(strings.Join(lines, "\n"), "\nBEGIN:VEVENT\n"), "text is not structure")
}

func TestLinesAreFoldedBetweenCharacters(t *testing.T) {
	for line := range strings.SplitSeq(write(t, letter(t)), "\r\n") {
		assert.LessOrEqual(t, len(line), 75)
		assert.True(t, utf8.ValidString(line), "%q", line)
		assert.NotContains(t, line, "\n")
	}
}

func TestCancelNamesEverybodyOrTheOneDropped(t *testing.T) {
	l := letter(t)
	l.Kind = meeting.CallOff
	whole := write(t, l)
	assert.Contains(t, whole, "METHOD:CANCEL")
	assert.Contains(t, whole, "STATUS:CANCELLED")
	assert.NotContains(t, whole, "VALARM")

	// RFC 5546, 3.2.5: to uninvite somebody, STATUS must not be CANCELLED and
	// the ATTENDEE is the one uninvited.
	l.Meeting.Participants = l.Meeting.Participants[1:]
	dropped := write(t, l)
	assert.Contains(t, dropped, "METHOD:CANCEL")
	assert.NotContains(t, dropped, "STATUS:")
	assert.Equal(t, 1, strings.Count(dropped, "ATTENDEE"))
	assert.Contains(t, dropped, "s.onari@kirisame.example")
}

// TestZoneRulesAreTheZonesOwn reads the VTIMEZONE the way RFC 5545, 3.6.5 says
// and compares it with the zone for every day of the years it covers.
func TestZoneRulesAreTheZonesOwn(t *testing.T) {
	for _, name := range []string{"Europe/Lisbon", "Asia/Tokyo", "America/Sao_Paulo", "Africa/Nairobi", "America/New_York",
		"Australia/Lord_Howe", "Europe/Dublin", "Asia/Kathmandu", "Africa/Casablanca", "America/St_Johns"} {
		t.Run(name, func(t *testing.T) {
			l := letter(t)
			l.Meeting.Zone = name
			onsets := readZone(t, write(t, l))
			zone, err := when.LoadZone(name)
			require.NoError(t, err)
			for day := when.DayOf(2026, 1, 1); day < when.DayOf(2027, 12, 31); day++ {
				at := when.Instant(int64(day) * 86400)
				var offset int
				var latest int64 = -1 << 62
				for _, o := range onsets {
					if o.at <= int64(at) && o.at > latest {
						latest, offset = o.at, o.offset
					}
				}
				require.Equal(t, zone.OffsetAt(at), offset, "on %s", day)
			}
		})
	}
}

type onset struct {
	at     int64
	offset int
}

func readZone(t *testing.T, text string) (onsets []onset) {
	var starts []string
	var from, to int
	for _, line := range unfold(text) {
		name, val, _ := strings.Cut(line, ":")
		switch name {
		case "BEGIN":
			starts = nil
			if val == "VEVENT" {
				return onsets
			}
		case "DTSTART", "RDATE":
			starts = append(starts, val)
		case "TZOFFSETFROM":
			from = seconds(t, val)
		case "TZOFFSETTO":
			to = seconds(t, val)
		case "END":
			for _, s := range starts {
				local, err := time.Parse("20060102T150405", s)
				require.NoError(t, err)
				onsets = append(onsets, onset{local.Unix() - int64(from), to})
			}
			starts = nil
		}
	}
	return onsets
}

func seconds(t *testing.T, offset string) int {
	var h, m, s int
	_, err := fmt.Sscanf(offset[1:]+"00", "%2d%2d%2d", &h, &m, &s)
	require.NoError(t, err)
	if offset[0] == '-' {
		return -(h*3600 + m*60 + s)
	}
	return h*3600 + m*60 + s
}

// The example of RFC 5546, 4.2.2 (Reply to a Group Event Request), from memory;
// it goes by the shape, not by the letter.
const reply = "BEGIN:VCALENDAR\r\nPRODID:-//Example/ExampleCalendarClient//EN\r\nMETHOD:REPLY\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\n" +
	"ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com\r\nORGANIZER:mailto:a@example.com\r\n" +
	"UID:calsrv.example.com-873970198738777@example.com\r\nSEQUENCE:2\r\nREQUEST-STATUS:2.0;Success\r\n" +
	"COMMENT:Running late\\, start\\nwithout me\r\nDTSTAMP:19970612T190000Z\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"

func TestReadReply(t *testing.T) {
	a, err := ical.ReadReply([]byte(reply))
	require.NoError(t, err)
	assert.Equal(t, "calsrv.example.com-873970198738777@example.com", a.UID)
	assert.Equal(t, "b@example.com", a.Attendee)
	assert.Equal(t, meeting.Accepted, a.Reply.Answer)
	assert.Equal(t, 2, a.Sequence)
	assert.Equal(t, time.Date(1997, 6, 12, 19, 0, 0, 0, time.UTC).Unix(), a.Stamp)
	assert.Equal(t, "Running late, start\nwithout me", a.Comment)
}

func TestReadReplyRefuses(t *testing.T) {
	cases := []struct {
		name, old, new string
		want           error
	}{
		{"a request", "METHOD:REPLY", "METHOD:REQUEST", ical.ErrNotReply},
		{"two attendees", "SEQUENCE:2", "ATTENDEE:mailto:c@example.com", ical.ErrNotReply},
		{"no answer", "PARTSTAT=ACCEPTED", "PARTSTAT=NEEDS-ACTION", ical.ErrNotReply},
		{"no UID", "UID:", "X-UID:", ical.ErrNotReply},
		{"a negative sequence", "SEQUENCE:2", "SEQUENCE:-2", ical.ErrMalformed},
		{"no time", "DTSTAMP:19970612T190000Z", "DTSTAMP:yesterday", ical.ErrMalformed},
		{"a line cut in its parameters", "ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com", "ATTENDEE;PARTSTAT=ACCEPTED", ical.ErrMalformed},
		{"no calendar", "BEGIN:VCALENDAR", "Hello", ical.ErrMalformed},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			_, err := ical.ReadReply([]byte(strings.Replace(reply, c.old, c.new, 1)))
			assert.ErrorIs(t, err, c.want)
		})
	}
}

func FuzzReadReply(f *testing.F) {
	f.Add([]byte(reply))
	f.Add(bytes.Replace([]byte(reply), []byte("SEQUENCE:2"), []byte("RECURRENCE-ID;TZID=Europe/Lisbon:20270114T093000"), 1))
	f.Add([]byte("BEGIN:VCALENDAR\r\nA;B=C"))
	f.Add([]byte("BEGIN:VCALENDAR\r\nA;B=\"C"))
	f.Add(bytes.Replace([]byte(reply), []byte(":"), nil, 5))
	f.Fuzz(func(t *testing.T, raw []byte) {
		a, err := ical.ReadReply(raw)
		if err == nil && (a.UID == "" || !a.Reply.Answer.Known() || a.Sequence < 0) {
			t.Fatalf("an answer that is none: %+v", a)
		}
	})
}
