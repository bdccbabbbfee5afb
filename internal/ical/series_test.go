package ical_test

import (
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/ical"
	"jembro/internal/schedule"
)

var seriesRooms = map[string]*meeting.Room{
	"map":  {ID: "map", Name: "Map Room", Place: "Main building, floor 1", Email: "map@rooms.marrowby.example", Seats: 8},
	"loft": {ID: "loft", Name: "Loft Studio", Place: "Main building, floor 3", Email: "loft@rooms.marrowby.example", Seats: 12},
}

func surroundings(before *meeting.Meeting) meeting.Surroundings {
	return meeting.Surroundings{Now: when.At(time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC)), Before: before, Rooms: seriesRooms,
		Organiser: meeting.Party{PersonID: "p1", Name: "Ilse Marrant", Email: "ilse.marrant@marrowby.example"},
		Card:      &join.Card{Name: "Ostrel", URL: "https://ostrel.example/j/48-2190", Passcode: "veld-31"},
		Holiday: func(d when.Day) string {
			return map[string]string{"2026-12-08": "Imaculada Conceição", "2026-12-25": "Natal"}[d.String()]
		}}
}

func identify(p *meeting.Participant) { p.ID, _, _ = strings.Cut(p.Email, "@") }

// TestMessagesOfASeries has the shapes that RFC 5546 gives in section 4.4: a series (4.4.1), a change to one date (4.4.2), one date cancelled
// (4.4.3), all of it cancelled (4.4.4). "This and later" has no RANGE (4.4.5):
// clients that do not know it would take it for one date.
func TestMessagesOfASeries(t *testing.T) {
	draft := meeting.Draft{Title: "Crate sizes", Start: "2026-12-03T09:30", End: "2026-12-03T10:30", Zone: "Europe/Lisbon", RoomID: "map",
		People: []meeting.DraftPerson{{Name: "S. Onari", Email: "s.onari@kirisame.example", Needed: true}},
		Repeat: &meeting.DraftRepeat{Rule: "every 2nd Thursday", Ends: "after", Count: 6, Days: []string{"2026-12-31"}}}
	out, faults := draft.Change(surroundings(nil), identify)
	require.Empty(t, faults)
	whole := out.Meeting
	whole.UID = "series@meet.marrowby.example"
	onari := whole.Participants[0]
	jan14 := when.DayOf(2027, 1, 14)
	at14 := when.At(time.Date(2027, 1, 14, 9, 30, 0, 0, time.UTC))
	moved := func() meeting.Meeting {
		d := meeting.DraftOf(whole, jan14)
		d.Scope.To, d.Start, d.End = d.Scope.From, "2027-01-15T14:00", "2027-01-15T15:00"
		out, faults := d.Change(surroundings(&whole), identify)
		require.Empty(t, faults)
		out.Meeting.Sequence = 1
		return out.Meeting
	}()
	without, ok := whole.Without(series.Range{From: jan14, To: jan14})
	require.True(t, ok)
	shorter, ok := whole.Without(series.Range{From: jan14})
	require.True(t, ok)
	goesOn := whole
	goesOn.UID, goesOn.RelatedTo = "next@meet.marrowby.example", whole.UID
	off, _ := meeting.CalledOff(whole)
	one := onari
	one.ID, one.Single, one.Dates = "late", true, []series.Range{{From: jan14, To: jan14}}
	withLate := whole
	withLate.Participants = append(slices.Clone(whole.Participants), one)

	cases := []struct {
		name   string
		letter schedule.Letter
		has    []string
		lacks  []string
		events int
	}{
		{"a series (4.4.1)", schedule.Letter{Kind: meeting.Invite, Meeting: whole, To: onari},
			[]string{"METHOD:REQUEST", "DTSTART;TZID=Europe/Lisbon:20261203T093000", "RRULE:FREQ=WEEKLY;INTERVAL=2;UNTIL=20270225T093000Z;BYDAY=TH",
				"EXDATE;TZID=Europe/Lisbon:20261231T093000", "SEQUENCE:0"}, []string{"RECURRENCE-ID", "COUNT"}, 1},
		{"a series with its exceptions, in one object", schedule.Letter{Kind: meeting.Update, Meeting: moved, To: onari},
			[]string{"METHOD:REQUEST", "RRULE:", "RECURRENCE-ID;TZID=Europe/Lisbon:20270114T093000", "DTSTART;TZID=Europe/Lisbon:20270115T140000"}, nil, 2},
		{"a change to one date (4.4.2)", schedule.Letter{Kind: meeting.Update, Meeting: moved, To: onari, On: []when.Day{jan14}},
			[]string{"METHOD:REQUEST", "RECURRENCE-ID;TZID=Europe/Lisbon:20270114T093000", "DTSTART;TZID=Europe/Lisbon:20270115T140000", "SEQUENCE:1"}, []string{"RRULE", "EXDATE"}, 1},
		{"one date cancelled (4.4.3)", schedule.Letter{Kind: meeting.CallOff, Meeting: without, Before: &whole, To: onari, On: []when.Day{jan14}, IDs: []when.Instant{at14}},
			[]string{"METHOD:CANCEL", "RECURRENCE-ID;TZID=Europe/Lisbon:20270114T093000", "STATUS:CANCELLED"}, []string{"RRULE", "RANGE"}, 1},
		{"all of it cancelled (4.4.4)", schedule.Letter{Kind: meeting.CallOff, Meeting: off, OffAll: true, To: onari},
			[]string{"METHOD:CANCEL", "STATUS:CANCELLED", "SEQUENCE:1"}, []string{"RECURRENCE-ID", "RRULE"}, 1},
		{"the dates from one on called off", schedule.Letter{Kind: meeting.Update, Meeting: shorter, To: onari},
			[]string{"METHOD:REQUEST", "UNTIL=20261217T093000Z"}, []string{"RANGE"}, 1},
		{"a series that goes on from another", schedule.Letter{Kind: meeting.Update, Meeting: goesOn, To: onari},
			[]string{"UID:next@meet.marrowby.example", "RELATED-TO;RELTYPE=SIBLING:series@meet.marrowby.example"}, []string{"RANGE"}, 1},
		{"somebody for one date only", schedule.Letter{Kind: meeting.Invite, Meeting: withLate, To: one},
			[]string{"METHOD:REQUEST", "RECURRENCE-ID;TZID=Europe/Lisbon:20270114T093000"}, []string{"RRULE"}, 1},
		{"somebody taken off one date", schedule.Letter{Kind: meeting.CallOff, Meeting: whole, Before: &whole, To: onari, On: []when.Day{jan14}, IDs: []when.Instant{at14}},
			[]string{"METHOD:CANCEL", "RECURRENCE-ID;TZID=Europe/Lisbon:20270114T093000"}, []string{"STATUS"}, 1},
	}
	examples := map[string]string{"a series (4.4.1)": examplesOf(t, "4.4.2")[0], "a change to one date (4.4.2)": examplesOf(t, "4.4.2")[1],
		"one date cancelled (4.4.3)": examplesOf(t, "4.4.3")[0], "all of it cancelled (4.4.4)": examplesOf(t, "4.4.4")[0]}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			c.letter.Stamp, c.letter.Address = time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC), "meeting-1@meet.marrowby.example"
			raw, err := ical.Write(c.letter)
			require.NoError(t, err)
			text := strings.Join(unfold(string(raw)), "\n")
			for _, want := range c.has {
				require.Contains(t, text, want)
			}
			_, events, _ := strings.Cut(text, "BEGIN:VEVENT") // a zone has rules of its own
			for _, never := range c.lacks {
				require.NotContains(t, events, never)
			}
			require.Equal(t, c.events, strings.Count(text, "BEGIN:VEVENT"))
			require.Equal(t, c.events, strings.Count(text, "UID:"), "every component is about one meeting (3.2.2)")
			theirs, there := examples[c.name]
			if !there {
				return
			}
			// What the RFC's own example of it has, ours has too.
			for _, name := range regexp.MustCompile(`(?m)^[A-Z-]+`).FindAllString(theirs[strings.Index(theirs, "BEGIN:VEVENT"):], -1) {
				require.Contains(t, text, "\n"+name)
			}
		})
	}
}

// TestLongListsAreCut: libical reads no more than 500 values of one property.
func TestLongListsAreCut(t *testing.T) {
	draft := meeting.Draft{Title: "Night watch", Start: "2027-03-01T02:15", End: "2027-03-01T03:00", Zone: "America/New_York",
		People: []meeting.DraftPerson{{Email: "s.onari@kirisame.example"}}, Repeat: &meeting.DraftRepeat{Rule: "every day", Ends: "on", Until: "2029-03-01"}}
	out, faults := draft.Change(surroundings(nil), identify)
	require.Empty(t, faults)
	raw, err := ical.Write(schedule.Letter{Kind: meeting.Invite, Meeting: out.Meeting, To: out.Meeting.Participants[0], Address: "meeting-1@meet.marrowby.example"})
	require.NoError(t, err)
	dates := 1
	for _, line := range unfold(string(raw)) {
		if strings.HasPrefix(line, "RDATE;") {
			n := 1 + strings.Count(line, ",")
			require.LessOrEqual(t, n, 100)
			dates += n
		}
	}
	require.Equal(t, len(out.Meeting.Plan().Upto(when.DayOf(2029, 3, 1))), dates)
}
