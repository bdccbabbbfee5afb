package ical_test

import (
	"bytes"
	_ "embed"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/attachment"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
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
		Kind: meeting.Invite, To: onari, Stamp: time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC),
		GuestURL: "https://jembro.example/guest/abc", Address: "meeting-1@meet.marrowby.example", ReturnTo: "reply-1@meet.marrowby.example",
		Meeting: meeting.Meeting{UID: "42@meet.marrowby.example", Sequence: 3, Title: "Crate sizes; loan 14, “lacquer”",
			Text:  "BEGIN:VEVENT\nEND:VCALENDAR\n<b>bold</b>; a\\nb, \"c\" " + strings.Repeat("ú", 200),
			Start: local(t, "2026-12-03T09:30"), End: local(t, "2026-12-03T10:30"), Zone: "Europe/Lisbon", RemindBefore: 15,
			Organiser:    meeting.Party{PersonID: "p1", Name: "Ilse Marrant", Email: "ilse.marrant@marrowby.example"},
			Participants: []meeting.Participant{onari, freya},
			Room:         &meeting.Room{Name: "Map Room", Place: "Main building, floor 1", Email: "map.room@marrowby.example"},
			Files:        []attachment.File{{ID: "f1", Name: `Crates; “a”, "b".pdf`, Type: "application/pdf", Size: 1200}},
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
		`ORGANIZER;CN="Ilse Marrant";EMAIL=ilse.marrant@marrowby.example:mailto:meeting-1@meet.marrowby.example`,
		"URL:https://ostrel.example/j/48-2190?a=1;b,c",
		"ATTENDEE;CN=\"S. Onari\";CUTYPE=INDIVIDUAL;PARTSTAT=NEEDS-ACTION;ROLE=REQ-PARTICIPANT;RSVP=TRUE:mailto:s.onari@kirisame.example",
		`ATTENDEE;CN="Freya ^'Fi^' Holm; desk, store: quay";CUTYPE=INDIVIDUAL;PARTSTAT=NEEDS-ACTION;ROLE=OPT-PARTICIPANT;RSVP=TRUE:mailto:freya.holm@marrowby.example`,
		"ATTENDEE;CN=\"Map Room\";CUTYPE=ROOM;PARTSTAT=ACCEPTED;ROLE=NON-PARTICIPANT:mailto:map.room@marrowby.example",
		"CONFERENCE;FEATURE=AUDIO,VIDEO;LABEL=\"Join by Ostrel\";VALUE=URI:https://ostrel.example/j/48-2190?a=1;b,c",
		"STATUS:CONFIRMED",
		"TRIGGER:-PT15M",
		`ATTACH;FILENAME="Crates; “a”, ^'b^'.pdf";FMTTYPE=application/pdf;SIZE=1200:https://jembro.example/api/guest/abc/files/f1`, // RFC 8607, 4.1 and 4.2; RFC 6868
	} {
		assert.Contains(t, lines, want)
	}
	assert.Equal(t, 1, strings.Count(strings.Join(lines, "\n"), "\nBEGIN:VEVENT\n"), "text is not structure")
}

// TestAddressesAreURIs: what RFC 6068, 2 wants escaped is, and reads back.
func TestAddressesAreURIs(t *testing.T) {
	l := letter(t)
	for _, email := range []string{"a%b&c#d?e@kirisame.example", "{f}/g=h|i^j`k@kirisame.example", "o'neill+loan!$*~_-.x@kirisame.example"} {
		l.Meeting.Participants[0].Email, l.To.Email = email, email
		text := write(t, l)
		line := regexp.MustCompile(`ATTENDEE[^:]*:mailto:(\S+)`).FindStringSubmatch(strings.ReplaceAll(text, "\r\n ", ""))
		assert.NotRegexp(t, "[&#?{}/=|^`]|%[^0-9A-F]", line[1])
		parsed, err := url.Parse("mailto:" + line[1])
		require.NoError(t, err)
		assert.Equal(t, "mailto", parsed.Scheme)
		answers, err := ical.ReadReplies([]byte(strings.Replace(text, "METHOD:REQUEST", "METHOD:REPLY", 1)), "")
		require.NoError(t, err)
		assert.Equal(t, email, answers[0].Attendee)
	}
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
	l.Kind, l.OffAll = meeting.CallOff, true
	whole := write(t, l)
	assert.Contains(t, whole, "METHOD:CANCEL")
	assert.Contains(t, whole, "STATUS:CANCELLED")
	assert.NotContains(t, whole, "VALARM")

	// RFC 5546, 3.2.5: to uninvite somebody, STATUS must not be CANCELLED and
	// the ATTENDEE is the one uninvited.
	before := l.Meeting
	l.Before, l.OffAll = &before, false
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
			for day := when.DayOf(2026, 1, 1); day < when.DayOf(2027, 12, 31); day++ { // and, where it has a rule, for long after
				if day == when.DayOf(2027, 12, 30) && strings.Contains(write(t, l), "RRULE") && name != "Africa/Casablanca" {
					day = when.DayOf(2044, 7, 1)
				} else if day > when.DayOf(2044, 7, 1) {
					break
				}
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
			starts = append(starts, strings.Split(val, ",")...)
		case "RRULE":
			rule, err := recur.ParseRule(val)
			require.NoError(t, err)
			start, _, _, err := recur.ParseMoment(starts[0])
			require.NoError(t, err)
			for m := range (recur.Series{Start: start, Rule: rule}).All() {
				if m.Day > when.DayOf(2045, 1, 1) {
					break
				}
				starts = append(starts, m.String())
			}
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

//go:embed testdata/rfc5546-4.txt
var rfc5546 string

// examplesOf are the iCalendar objects of a section of RFC 5546, in their order, from
// its text.
func examplesOf(t testing.TB, section string) (out []string) {
	for example := range strings.SplitSeq(rfc5546, "# ") {
		if title, text, found := strings.Cut(example, "\n"); found && strings.HasPrefix(title, section+" ") {
			out = append(out, strings.ReplaceAll(strings.TrimSpace(text)+"\n", "\n", "\r\n"))
		}
	}
	require.NotEmpty(t, out, section)
	return out
}

// reply is that of RFC 5546, 4.2.2 (Reply to a Group Event Request), with a comment.
var reply = strings.Replace(examplesOf(&testing.T{}, "4.2.2")[0], "SEQUENCE:0", "COMMENT:Running late\\, start\\nwithout me\r\nSEQUENCE:2", 1)

func said(answers []ical.Answer) string {
	var out []string
	for _, a := range answers {
		text := fmt.Sprintf("%s %s #%d %s", a.Attendee, a.Status, a.Sequence, time.Unix(a.Stamp, 0).UTC().Format("20060102T150405Z"))
		if a.Date != nil {
			text += " on " + a.Date.At.Time().Format(time.RFC3339)
			if a.Date.Onward {
				text += " and on"
			}
		}
		out = append(out, text)
	}
	return strings.Join(out, "; ")
}

// TestRepliesOfTheRFC: every REPLY of RFC 5546, 4.2 and 4.4, from its text.
func TestRepliesOfTheRFC(t *testing.T) {
	cases := []struct{ section, says string }{
		{"4.2.2", "b@example.com ACCEPTED #0 19970612T190000Z"},
		{"4.2.5", "c@example.com DELEGATED #0 19970611T190000Z"},
		{"4.2.6", "e@example.com ACCEPTED #0 19970614T190000Z; c@example.com DELEGATED #0 19970614T190000Z"},
		{"4.2.7", "c@example.com DELEGATED #0 19970614T190000Z; e@example.com DECLINED #0 19970614T190000Z"},
		{"4.4.10", "b@example.com  #0 19970603T094000Z"}, // it answers nothing: REQUEST-STATUS 3.0
	}
	for _, c := range cases {
		t.Run(c.section, func(t *testing.T) {
			var all []ical.Answer
			for _, text := range examplesOf(t, c.section) {
				answers, err := ical.ReadReplies([]byte(text), "")
				if strings.Contains(text, "METHOD:REPLY") {
					require.NoError(t, err)
				} else {
					require.ErrorIs(t, err, ical.ErrNotReply)
				}
				all = append(all, answers...)
			}
			assert.Equal(t, c.says, said(all))
		})
	}
}

// TestCountersOfTheRFC: each COUNTER and REFRESH of RFC 5546, 4, with the time that it proposes;
// who wrote it is told by the mail, for each names everybody.
func TestCountersOfTheRFC(t *testing.T) {
	cases := []struct{ section, method, uid, proposed string }{
		{"4.2.4", "COUNTER", "calsrv.example.com-873970198738777a@example.com", "1997-07-01T16:00:00Z to 17:00 #0"},
		{"4.4.9", "COUNTER", "guid-1@example.com", "1997-07-15T22:00:00Z to 23:00 #4 on 1997-07-15T21:00:00Z"},
		{"4.7.1", "REFRESH", "guid-1-12345@example.com", ""},
	}
	for _, c := range cases {
		t.Run(c.section, func(t *testing.T) {
			found := false
			for _, text := range examplesOf(t, c.section) {
				if !strings.Contains(text, "METHOD:"+c.method) {
					continue
				}
				all, err := ical.ReadReplies([]byte(text), "")
				require.NoError(t, err)
				require.NotEmpty(t, all)
				for _, a := range all {
					found = true
					assert.Equal(t, c.method, string(a.Method))
					assert.Equal(t, c.uid, a.UID)
					said := ""
					if p := a.Proposed; p != nil {
						said = fmt.Sprintf("%s to %s #%d", p.Start.Time().Format(time.RFC3339), p.End.Time().Format("15:04"), a.Sequence)
					}
					if a.Date != nil {
						said += " on " + a.Date.At.Time().Format(time.RFC3339)
					}
					assert.Equal(t, c.proposed, said)
				}
			}
			assert.True(t, found)
		})
	}
}

// TestDelegationOfTheRFC: RFC 5546, 4.2.5 and 4.2.6.
func TestDelegationOfTheRFC(t *testing.T) {
	all, err := ical.ReadReplies([]byte(examplesOf(t, "4.2.5")[0]), "")
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Equal(t, []string{"c@example.com", "DELEGATED", "e@example.com", ""}, []string{all[0].Attendee, all[0].Status, all[0].DelegatedTo, all[0].DelegatedFrom})
	all, err = ical.ReadReplies([]byte(examplesOf(t, "4.2.6")[0]), "")
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, []string{"e@example.com", "ACCEPTED", "", "c@example.com"}, []string{all[0].Attendee, all[0].Status, all[0].DelegatedTo, all[0].DelegatedFrom})
}

// TestProposedTimes are read in every form that a time has; what is unclear proposes nothing.
func TestProposedTimes(t *testing.T) {
	for lines, want := range map[string]string{
		"DTSTART:20270111T100000Z|DTEND:20270111T110000Z":                                 "2027-01-11 10:00 – 2027-01-11 11:00",
		"DTSTART:20270111T100000Z|DURATION:PT90M":                                         "2027-01-11 10:00 – 2027-01-11 11:30",
		"DTSTART;TZID=Europe/Rome:20270111T100000|DTEND;TZID=Europe/Rome:20270111T110000": "2027-01-11 09:00 – 2027-01-11 10:00",
		"DTSTART;TZID=Europe/Lisbon:20270327T100000|DURATION:P1DT1H":                      "2027-03-27 10:00 – 2027-03-28 10:00", // the clocks go forward
		"DTSTART;VALUE=DATE:20270111|DTEND;VALUE=DATE:20270113":                           "2027-01-11 00:00 – 2027-01-13 00:00",
		"DTSTART;VALUE=DATE:20270111|DURATION:P2D":                                        "2027-01-11 00:00 – 2027-01-13 00:00",
		"DTSTART:20270111T100000|DTEND:20270111T110000":                                   "",
		"DTSTART;TZID=Their Own:20270111T100000|DTEND;TZID=Their Own:20270111T110000":     "",
		"DTSTART:20270111T100000Z":                                                        "",
		"DTSTART:99990111T100000Z|DTEND:99990111T110000Z":                                 "",
		"DTSTART:never|DTEND:20270111T110000Z":                                            "",
		"DTSTART:20270111T100000Z|DURATION:P99999999W":                                    "",
		"SUMMARY:nothing of a time":                                                       "",
	} {
		text := strings.Replace(strings.Replace(reply, "METHOD:REPLY", "METHOD:COUNTER", 1), "SEQUENCE:2", "SEQUENCE:2\r\n"+strings.ReplaceAll(lines, "|", "\r\n"), 1)
		all, err := ical.ReadReplies([]byte(text), "")
		require.NoError(t, err, lines)
		got := ""
		if p := all[0].Proposed; p != nil {
			got = p.Start.Time().Format("2006-01-02 15:04") + " – " + p.End.Time().Format("2006-01-02 15:04")
		}
		assert.Equal(t, want, got, lines)
	}
}

// TestOtherMessagesOfTheRFC are no answers, and none is too broken to say so: 4.2.9 and
// 4.4.5 have parameters without a value, 4.4.8 has a line that is none.
func TestOtherMessagesOfTheRFC(t *testing.T) {
	for _, section := range []string{"4.2.1", "4.2.3", "4.2.9", "4.2.10", "4.2.11", "4.4.1", "4.4.2", "4.4.3", "4.4.4", "4.4.5", "4.4.6", "4.4.7", "4.4.8"} {
		for _, text := range examplesOf(t, section) {
			_, err := ical.ReadReplies([]byte(text), "")
			assert.ErrorIs(t, err, ical.ErrNotReply, section)
			// The same as an answer is read.
			answer := regexp.MustCompile(`METHOD:\w+`).ReplaceAllString(text, "METHOD:REPLY")
			answers, err := ical.ReadReplies([]byte(answer), "")
			if assert.NoError(t, err, section) && section == "4.4.5" {
				assert.True(t, answers[0].Date.Onward)
			}
		}
	}
}

func TestReadReply(t *testing.T) {
	all, err := ical.ReadReplies([]byte(reply), "")
	require.NoError(t, err)
	require.Len(t, all, 1)
	a := all[0]
	assert.Equal(t, "calsrv.example.com-873970198738777@example.com", a.UID)
	assert.Equal(t, "b@example.com", a.Attendee)
	assert.Equal(t, meeting.Accepted, a.Reply.Answer)
	assert.Equal(t, 2, a.Sequence)
	assert.Equal(t, time.Date(1997, 6, 12, 19, 0, 0, 0, time.UTC).Unix(), a.Stamp)
	assert.Equal(t, "Running late, start\nwithout me", a.Comment)
}

// TestNoAnswerIsLostForItsForm: what programs get wrong, and the answer is clear all
// the same.
func TestNoAnswerIsLostForItsForm(t *testing.T) {
	event := reply[strings.Index(reply, "BEGIN:VEVENT"):strings.Index(reply, "END:VCALENDAR")]
	cases := []struct{ name, text, says string }{
		{"a byte order mark", "\xef\xbb\xbf" + reply, "b@example.com ACCEPTED #2 19970612T190000Z"},
		{"lines that end with LF", strings.ReplaceAll(reply, "\r\n", "\n"), "b@example.com ACCEPTED #2 19970612T190000Z"},
		{"METHOD in the header only", strings.Replace(reply, "METHOD:REPLY\r\n", "", 1), "b@example.com ACCEPTED #2 19970612T190000Z"},
		{"a percent-encoded address", strings.Replace(reply, "mailto:b@example.com", "MAILTO:b%2Bx%40example.com?subject=yes", 1), "b+x@example.com ACCEPTED #2 19970612T190000Z"},
		{"several attendees", strings.Replace(reply, "UID:", "ATTENDEE;PARTSTAT=NEEDS-ACTION:mailto:c@example.com\r\nUID:", 1),
			"b@example.com ACCEPTED #2 19970612T190000Z; c@example.com NEEDS-ACTION #2 19970612T190000Z"},
		{"yes to all, no to one", strings.Replace(reply, "END:VCALENDAR", strings.NewReplacer("ACCEPTED", "DECLINED", "SEQUENCE", "RECURRENCE-ID:20270111T093000Z\r\nSEQUENCE").Replace(event)+"END:VCALENDAR", 1),
			"b@example.com ACCEPTED #2 19970612T190000Z; b@example.com DECLINED #2 19970612T190000Z on 2027-01-11T09:30:00Z"},
		{"several objects", reply + strings.Replace(reply, "b@example.com", "c@example.com", 1), "b@example.com ACCEPTED #2 19970612T190000Z; c@example.com ACCEPTED #2 19970612T190000Z"},
		{"a sequence that is none", strings.Replace(reply, "SEQUENCE:2", "SEQUENCE:-2", 1), "b@example.com ACCEPTED #0 19970612T190000Z"},
		{"no time", strings.Replace(reply, "DTSTAMP:19970612T190000Z", "DTSTAMP:yesterday", 1), "b@example.com ACCEPTED #2 19700101T000000Z"},
		{"from one date on", strings.Replace(reply, "SEQUENCE:2", "SEQUENCE:2\r\nRECURRENCE-ID;RANGE=THISANDFUTURE:20270111T093000Z", 1),
			"b@example.com ACCEPTED #2 19970612T190000Z on 2027-01-11T09:30:00Z and on"},
		{"a status of its own", strings.Replace(reply, "ACCEPTED", "X-PERHAPS", 1), "b@example.com X-PERHAPS #2 19970612T190000Z"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			all, err := ical.ReadReplies([]byte(c.text), "reply")
			require.NoError(t, err)
			assert.Equal(t, c.says, said(all))
		})
	}
}

func TestReadReplyRefuses(t *testing.T) {
	cases := []struct {
		name, old, new string
		want           error
	}{
		{"a request", "METHOD:REPLY", "METHOD:REQUEST", ical.ErrNotReply},
		{"no UID", "UID:", "X-UID:", ical.ErrNotReply},
		{"no attendee", "ATTENDEE", "X-ATTENDEE", ical.ErrNotReply},
		{"no calendar", "BEGIN:VCALENDAR", "Hello", ical.ErrMalformed},
		{"too many components", "BEGIN:VEVENT", strings.Repeat("BEGIN:VEVENT\r\nEND:VEVENT\r\n", 600) + "BEGIN:VEVENT", ical.ErrMalformed},
		{"a line of a hundred thousand", "COMMENT:", "COMMENT:" + strings.Repeat("x", 100_000), ical.ErrMalformed},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			_, err := ical.ReadReplies([]byte(strings.Replace(reply, c.old, c.new, 1)), "")
			assert.ErrorIs(t, err, c.want)
		})
	}
}

// TestHowADateIsNamed: RECURRENCE-ID in UTC, in a known zone, at the end of a longer
// name, in a zone of the sender's own making, as a local time and as a day.
func TestHowADateIsNamed(t *testing.T) {
	own := "BEGIN:VTIMEZONE\r\nTZID:My own\r\n" +
		"BEGIN:STANDARD\r\nDTSTART:16010101T030000\r\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10\r\nTZOFFSETFROM:+0200\r\nTZOFFSETTO:+0100\r\nEND:STANDARD\r\n" +
		"BEGIN:DAYLIGHT\r\nDTSTART:16010101T020000\r\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=3\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0200\r\nEND:DAYLIGHT\r\nEND:VTIMEZONE\r\n"
	for _, c := range []struct{ property, want string }{
		{"RECURRENCE-ID:20270114T093000Z", "2027-01-14T09:30:00Z"},
		{"RECURRENCE-ID;TZID=Asia/Tokyo:20270114T183000", "2027-01-14T09:30:00Z"},
		{"RECURRENCE-ID;TZID=/made.by.example/20260101/Asia/Tokyo:20270114T183000", "2027-01-14T09:30:00Z"},
		{"RECURRENCE-ID;TZID=My own:20270114T103000", "2027-01-14T09:30:00Z"},
		{"RECURRENCE-ID;TZID=My own:20270714T113000", "2027-07-14T09:30:00Z"},
		{"RECURRENCE-ID;TZID=\"My own\":20270328T023000", "2027-03-28T01:30:00Z"}, // in the gap: by the offset before it (RFC 5545, 3.3.5)
		{"RECURRENCE-ID:20270114T093000", "at 2027-01-14T09:30"},
		{"RECURRENCE-ID;TZID=Nobody knows:20270114T093000", "at 2027-01-14T09:30"},
		{"RECURRENCE-ID;VALUE=DATE:20270114", "day 2027-01-14T00:00"},
		{"RECURRENCE-ID:soon", "none"},
		{"RECURRENCE-ID:99990101T000000", "none"}, // it could not be kept
		{"RECURRENCE-ID;VALUE=DATE:00010101", "none"},
	} {
		text := strings.Replace(strings.Replace(reply, "SEQUENCE:2", c.property+"\r\nSEQUENCE:2", 1), "BEGIN:VEVENT", own+"BEGIN:VEVENT", 1)
		all, err := ical.ReadReplies([]byte(text), "")
		require.NoError(t, err, c.property)
		got := "none"
		switch id := all[0].Date; {
		case id == nil:
			assert.True(t, all[0].NoDate)
		case id.Day:
			got = "day " + id.Local.String()
		case id.Local != nil:
			got = "at " + id.Local.String()
		default:
			got = id.At.Time().Format(time.RFC3339)
		}
		assert.Equal(t, c.want, got, c.property)
	}
}

func FuzzReadReply(f *testing.F) {
	f.Add([]byte(reply))
	f.Add(bytes.Replace([]byte(reply), []byte("SEQUENCE:2"), []byte("RECURRENCE-ID;TZID=Europe/Lisbon:20270114T093000"), 1))
	f.Add([]byte("BEGIN:VCALENDAR\r\nA;B=C"))
	f.Add([]byte("BEGIN:VCALENDAR\r\nA;B=\"C"))
	f.Add(bytes.Replace([]byte(reply), []byte(":"), nil, 5))
	for _, section := range []string{"4.2.6", "4.4.1", "4.4.5", "4.4.10"} {
		f.Add([]byte(examplesOf(f, section)[0]))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		all, err := ical.ReadReplies(raw, "REPLY")
		for _, a := range all {
			if err != nil || a.UID == "" || a.Attendee == "" || a.Sequence < 0 || a.Reply.Answer != "" && !a.Reply.Answer.Known() {
				t.Fatalf("an answer that is none: %+v", a)
			}
		}
	})
}
