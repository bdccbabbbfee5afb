package meeting_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

func day(text string) when.Day {
	d, err := when.ParseDay(text)
	if err != nil {
		panic(err)
	}
	return d
}

var rooms = map[string]*meeting.Room{"r1": {ID: "r1", Name: "Map Room", Seats: 8}, "r2": {ID: "r2", Name: "Loft Studio", Seats: 12}}

// around is the house at a moment; the first of the dates is Thursday 3 December.
func around(now string) meeting.Surroundings {
	l, err := when.ParseLocal(now)
	if err != nil {
		panic(err)
	}
	lisbon, _ := when.LoadZone("Europe/Lisbon")
	return meeting.Surroundings{Now: when.Zoned{Local: l, Zone: lisbon}.Instant(), Organiser: ilse, Rooms: rooms,
		Card: &join.Card{URL: "https://ostrel.example/j/48-2190", Passcode: "veld-31"},
		Holiday: func(d when.Day) string {
			return map[string]string{"2026-12-31": "New Year's Eve (here a holiday)"}[d.String()]
		}}
}

// fortnightly is a series of seven dates: 3, 17 and 31 December, 14 and 28
// January, 11 and 25 February.
func fortnightly(change func(*meeting.Draft)) meeting.Draft {
	d := draft(func(d *meeting.Draft) {
		d.RoomID = "r1"
		d.People = append(d.People, meeting.DraftPerson{PersonID: "p2", Name: "Tomé Akande", Email: "tome.akande@marrowby.example", Needed: true})
		d.Repeat = &meeting.DraftRepeat{Rule: "every 2nd Thursday", Ends: "on", Until: "2027-02-25"}
	})
	if change != nil {
		change(&d)
	}
	return d
}

// identify gives everybody an ID that stays the same.
func identify(p *meeting.Participant) { p.ID, _, _ = strings.Cut(p.Email, "@") }

func aSeries(t require.TestingT, change func(*meeting.Draft)) meeting.Meeting {
	out, faults := fortnightly(change).Change(around("2026-11-24T10:12"), identify)
	require.Empty(t, faults)
	out.Meeting.UID = "uid-1"
	return out.Meeting
}

// shown writes the dates of a meeting short, with room and title where they are
// not those of all.
func shown(m meeting.Meeting) string {
	var out []string
	for d := range m.Dates(m.Start.Day) {
		_, month, dom := d.Start.Day.Date()
		text := fmt.Sprintf("%d %s", dom, month.String()[:3])
		if d.Start.Clock != when.ClockOf(9, 30) {
			text += " " + d.Start.Clock.String()
		}
		switch {
		case d.Room == nil && m.Room != nil:
			text += " no room"
		case d.Room != nil && m.Room != nil && d.Room.ID != m.Room.ID:
			text += " " + d.Room.Name
		}
		if d.Title != m.Title {
			text += " “" + d.Title + "”"
		}
		out = append(out, text)
	}
	return strings.Join(out, ", ")
}

func told(due []meeting.Message) string {
	var out []string
	for _, m := range due {
		text := m.To.ID + " " + string(m.Kind)
		for _, on := range m.On {
			_, month, dom := on.Date()
			text += fmt.Sprintf(" %d%s", dom, month.String()[:3])
		}
		out = append(out, text)
	}
	return strings.Join(out, ", ")
}

func TestASeriesIsSettled(t *testing.T) {
	cases := []struct {
		name   string
		change func(*meeting.Draft)
		shown  string
		field  string
		says   string
	}{
		{"as it is", nil, "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", "", ""},
		{"leaving out holidays", func(d *meeting.Draft) { d.Repeat.Holidays = true }, "3 Dec, 17 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", "", ""},
		{"leaving out a day", func(d *meeting.Draft) { d.Repeat.Days = []string{"2027-01-14"} }, "3 Dec, 17 Dec, 31 Dec, 28 Jan, 11 Feb, 25 Feb", "", ""},
		{"once more on a given day", func(d *meeting.Draft) { d.Repeat.Added = []string{"2026-12-08"}; d.Repeat.Until = "2026-12-20" }, "3 Dec, 8 Dec, 17 Dec", "", ""},
		{"dates of their own", func(d *meeting.Draft) {
			d.Dates = []meeting.DraftDate{{On: "2026-12-31", Start: "2027-01-07T14:00", End: "2027-01-07T15:00"}, {On: "2027-01-14", RoomID: "r2"},
				{On: "2027-01-28", NoRoom: true}, {On: "2027-02-11", Out: true}}
		}, "3 Dec, 17 Dec, 7 Jan 14:00, 14 Jan Loft Studio, 28 Jan no room, 25 Feb", "", ""},
		{"what is said of a day without a date does nothing", func(d *meeting.Draft) { d.Dates = []meeting.DraftDate{{On: "2026-12-10", Out: true}} },
			"3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", "", ""},
		{"another hour keeps them", func(d *meeting.Draft) {
			d.Start, d.End = "2026-12-03T10:00", "2026-12-03T11:00"
			d.Dates = []meeting.DraftDate{{On: "2026-12-17", Out: true}}
			d.Repeat.Until = "2027-01-01"
		}, "3 Dec 10:00, 31 Dec 10:00", "", ""},
		{"words that are none", func(d *meeting.Draft) { d.Repeat.Rule = "now and then" }, "", "repeat.rule", "every 2nd Tuesday"},
		{"a forbidden rule", func(d *meeting.Draft) { d.Repeat.Rule = "FREQ=WEEKLY;BYMONTHDAY=3" }, "", "repeat.rule", "BYMONTHDAY does not go with"},
		{"no end given", func(d *meeting.Draft) { d.Repeat.Until = "" }, "", "repeat.end", "Give the last day"},
		{"an end before the start", func(d *meeting.Draft) { d.Repeat.Until = "2026-12-01" }, "", "repeat.end", "before the first date"},
		{"no number of times", func(d *meeting.Draft) { d.Repeat.Ends, d.Repeat.Count = "after", 0 }, "", "repeat.end", "1 to 1000"},
		{"every date left out", func(d *meeting.Draft) { d.Repeat.Rule, d.Repeat.Weekends = "every Saturday", true }, "", "repeat.rule", "no date at all"},
		{"dates that overlap", func(d *meeting.Draft) { d.Repeat.Rule, d.End, d.LongMeant = "every day", "2026-12-04T10:00", 24*60+30 }, "", "repeat.rule", "3 December and 4 December overlap"},
		{"a date moved onto another", func(d *meeting.Draft) {
			d.Dates = []meeting.DraftDate{{On: "2026-12-31", Start: "2027-01-14T09:00", End: "2027-01-14T10:00"}}
		}, "", "repeat.rule", "14 January and 14 January overlap"},
		{"a date moved into the past", func(d *meeting.Draft) {
			d.Dates = []meeting.DraftDate{{On: "2026-12-03", Start: "2026-11-20T09:00", End: "2026-11-20T10:00"}}
		}, "", "dates.2026-12-03", "has passed"},
		{"a date that ends before it starts", func(d *meeting.Draft) {
			d.Dates = []meeting.DraftDate{{On: "2026-12-31", Start: "2027-01-07T14:00", End: "2027-01-07T13:00"}}
		}, "", "dates.2026-12-31", "ends before it starts"},
		{"a room that is gone on one date", func(d *meeting.Draft) { d.Dates = []meeting.DraftDate{{On: "2026-12-31", RoomID: "r9"}} }, "", "dates.2026-12-31", "no longer there"},
		{"somebody invited to no date", func(d *meeting.Draft) {
			d.People[0].Dates = []meeting.DraftRange{{From: "2026-12-10", To: "2026-12-11"}}
		}, "", "people.0", "invited to no date"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			out, faults := fortnightly(c.change).Change(around("2026-11-24T10:12"), identify)
			if c.field == "" {
				require.Empty(t, faults)
				assert.Equal(t, c.shown, shown(out.Meeting))
				return
			}
			require.NotEmpty(t, faults)
			assert.Equal(t, c.field, faults[0].Field)
			assert.Contains(t, words.English(faults[0].What), c.says)
		})
	}
}

// TestChangesOfASeries: which dates are meant, what they come to, who hears what.
func TestChangesOfASeries(t *testing.T) {
	hour := func(d *meeting.Draft, from, to string) { d.Start, d.End = d.Start[:11]+from, d.End[:11]+to }
	cases := []struct {
		name, at, from, to string
		now                string
		change             func(*meeting.Draft)
		shown, due         string
		next, dueNext      string
		sequence           int
	}{
		{name: "nothing", at: "2026-12-03", from: "2026-12-03", change: func(d *meeting.Draft) {},
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb"},
		{name: "all, before any was held, stay one series", at: "2026-12-17", from: "2026-12-03", change: func(d *meeting.Draft) { hour(d, "10:00", "11:00") },
			shown: "3 Dec 10:00, 17 Dec 10:00, 31 Dec 10:00, 14 Jan 10:00, 28 Jan 10:00, 11 Feb 10:00, 25 Feb 10:00",
			due:   "s.onari update, tome.akande update", sequence: 1},
		{name: "one date to another day", at: "2026-12-31", from: "2026-12-31", to: "2026-12-31",
			change: func(d *meeting.Draft) { d.Start, d.End = "2027-01-07T09:30", "2027-01-07T10:30" },
			shown:  "3 Dec, 17 Dec, 7 Jan, 14 Jan, 28 Jan, 11 Feb, 25 Feb", due: "s.onari update 31Dec, tome.akande update 31Dec", sequence: 1},
		{name: "three dates in the middle", at: "2026-12-31", from: "2026-12-31", to: "2027-01-28", change: func(d *meeting.Draft) { hour(d, "10:00", "11:30") },
			shown: "3 Dec, 17 Dec, 31 Dec 10:00, 14 Jan 10:00, 28 Jan 10:00, 11 Feb, 25 Feb",
			due:   "s.onari update 31Dec 14Jan 28Jan, tome.akande update 31Dec 14Jan 28Jan", sequence: 1},
		{name: "this and later ends the old series and begins a new one (DESIGN.md, rule 6)", at: "2027-01-14", from: "2027-01-14",
			change: func(d *meeting.Draft) { hour(d, "10:00", "11:00") },
			shown:  "3 Dec, 17 Dec, 31 Dec", due: "s.onari update, tome.akande update", sequence: 1,
			next: "14 Jan 10:00, 28 Jan 10:00, 11 Feb 10:00, 25 Feb 10:00", dueNext: "s.onari invite, tome.akande invite"},
		{name: "all to come, when some were held", at: "2027-01-14", from: "2026-12-31", now: "2026-12-20T10:00", change: func(d *meeting.Draft) { hour(d, "8:00", "9:00"); hour(d, "08:00", "09:00") },
			shown: "3 Dec, 17 Dec", due: "s.onari update, tome.akande update", sequence: 1,
			next: "31 Dec 8:00, 14 Jan 8:00, 28 Jan 8:00, 11 Feb 8:00, 25 Feb 8:00", dueNext: "s.onari invite, tome.akande invite"},
		{name: "a later day from here on, with its rule", at: "2027-01-14", from: "2027-01-14",
			change: func(d *meeting.Draft) {
				d.Start, d.End, d.Repeat.Rule, d.Repeat.Until = "2027-01-15T09:30", "2027-01-15T10:30", "FREQ=WEEKLY;INTERVAL=2;BYDAY=FR", "2027-02-26"
			},
			shown: "3 Dec, 17 Dec, 31 Dec", due: "s.onari update, tome.akande update", sequence: 1,
			next: "15 Jan, 29 Jan, 12 Feb, 26 Feb", dueNext: "s.onari invite, tome.akande invite"},
		{name: "the rule follows a later day by itself", at: "2027-01-14", from: "2027-01-14",
			change: func(d *meeting.Draft) {
				d.Start, d.End = "2027-01-15T09:30", "2027-01-15T10:30"
				d.Dates = []meeting.DraftDate{{On: "2027-01-28", RoomID: "r2"}}
			},
			shown: "3 Dec, 17 Dec, 31 Dec", due: "s.onari update, tome.akande update", sequence: 1,
			next: "15 Jan, 29 Jan Loft Studio, 12 Feb, 26 Feb", dueNext: "s.onari invite, tome.akande invite"},
		{name: "one date to another day leaves the rule", at: "2027-01-14", from: "2027-01-14", to: "2027-01-14",
			change: func(d *meeting.Draft) { d.Start, d.End = "2027-01-15T09:30", "2027-01-15T10:30" },
			shown:  "3 Dec, 17 Dec, 31 Dec, 15 Jan, 28 Jan, 11 Feb, 25 Feb", due: "s.onari update 14Jan, tome.akande update 14Jan", sequence: 1},
		{name: "extend", at: "2027-02-11", from: "2027-02-11", change: func(d *meeting.Draft) { d.Repeat.Until = "2027-03-31" },
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb, 11 Mar, 25 Mar", due: "s.onari update, tome.akande update", sequence: 1},
		{name: "extend without an end", at: "2027-02-11", from: "2027-02-11", change: func(d *meeting.Draft) { d.Repeat.Ends = "open" },
			shown: "", due: "s.onari update, tome.akande update", sequence: 1},
		{name: "shorten", at: "2027-02-11", from: "2027-02-11", change: func(d *meeting.Draft) { d.Repeat.Until = "2027-02-12" },
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb", due: "s.onari update, tome.akande update", sequence: 1},
		{name: "another room on one date", at: "2027-01-14", from: "2027-01-14", to: "2027-01-14", change: func(d *meeting.Draft) { d.RoomID = "r2" },
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan Loft Studio, 28 Jan, 11 Feb, 25 Feb", due: "s.onari update 14Jan, tome.akande update 14Jan", sequence: 1},
		{name: "leave out one date", at: "2027-01-14", from: "2027-01-14", to: "2027-01-14", change: func(d *meeting.Draft) { d.Dates = []meeting.DraftDate{{On: "2027-01-14", Out: true}} },
			shown: "3 Dec, 17 Dec, 31 Dec, 28 Jan, 11 Feb, 25 Feb", due: "s.onari calloff 14Jan, tome.akande calloff 14Jan", sequence: 1},
		{name: "leave one out and move one: one message", at: "2027-01-14", from: "2027-01-14",
			change: func(d *meeting.Draft) {
				d.Dates = []meeting.DraftDate{{On: "2027-01-14", Out: true}, {On: "2027-01-28", Start: "2027-01-29T09:30", End: "2027-01-29T10:30"}}
			},
			shown: "3 Dec, 17 Dec, 31 Dec, 29 Jan, 11 Feb, 25 Feb", due: "s.onari update, tome.akande update", sequence: 1},
		{name: "a title for one date", at: "2027-01-14", from: "2027-01-14", to: "2027-01-14", change: func(d *meeting.Draft) { d.Title = "Crate sizes, with the courier" },
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan “Crate sizes, with the courier”, 28 Jan, 11 Feb, 25 Feb", due: "s.onari update 14Jan, tome.akande update 14Jan", sequence: 1},
		{name: "one more person: one message", at: "2026-12-03", from: "2026-12-03",
			change: func(d *meeting.Draft) {
				d.People = append(d.People, meeting.DraftPerson{Email: "freya@marrowby.example"})
			},
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", due: "freya invite"},
		{name: "one more person from here on: one message, no new series", at: "2027-01-14", from: "2027-01-14",
			change: func(d *meeting.Draft) {
				d.People = append(d.People, meeting.DraftPerson{Email: "freya@marrowby.example"})
			},
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", due: "freya invite"},
		{name: "somebody for one date only", at: "2027-01-14", from: "2027-01-14", to: "2027-01-14",
			change: func(d *meeting.Draft) {
				d.People = append(d.People, meeting.DraftPerson{Email: "freya@marrowby.example"})
			},
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", due: "freya invite"},
		{name: "somebody off one date", at: "2027-01-14", from: "2027-01-14", to: "2027-01-14", change: func(d *meeting.Draft) { d.People = d.People[:1] },
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", due: "tome.akande calloff 14Jan", sequence: 1},
		{name: "somebody off from here on", at: "2027-01-14", from: "2027-01-14", change: func(d *meeting.Draft) { d.People = d.People[:1] },
			shown: "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", due: "tome.akande update", sequence: 1},
		{name: "repetition switched off", at: "2026-12-03", from: "2026-12-03", change: func(d *meeting.Draft) { d.Repeat = nil },
			shown: "3 Dec", due: "s.onari update, tome.akande update", sequence: 1},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			before := aSeries(t, nil)
			d := meeting.DraftOf(before, day(c.at))
			d.Scope.From, d.Scope.To = c.from, c.to
			c.change(&d)
			s := around("2026-11-24T10:12")
			if c.now != "" {
				s = around(c.now)
			}
			s.Before = &before
			out, faults := d.Change(s, identify)
			require.Empty(t, faults)
			if c.shown != "" {
				assert.Equal(t, c.shown, shown(out.Meeting))
			} else {
				assert.True(t, out.Meeting.Plan().Open())
			}
			assert.Equal(t, before.UID, out.Meeting.UID)
			assert.Equal(t, before.Card, out.Meeting.Card, "one join card, whatever happens")
			assert.Equal(t, c.due, told(dueTo(&before, out.Meeting)))
			change := meeting.Compare(before, out.Meeting)
			assert.Equal(t, c.sequence, change.Sequence(before.Sequence))
			assert.Equal(t, c.due == "", change.Empty())
			if c.next == "" {
				require.Nil(t, out.Next)
				return
			}
			require.NotNil(t, out.Next)
			assert.Equal(t, c.next, shown(*out.Next))
			assert.Equal(t, c.dueNext, told(dueTo(nil, *out.Next)))
			assert.Equal(t, before.UID, out.Next.RelatedTo)
			assert.Equal(t, before.Card, out.Next.Card)
			assert.Equal(t, before.Room, out.Next.Room)
		})
	}
}

func TestChangesOfASeriesAreRefusedAtTheField(t *testing.T) {
	cases := []struct {
		name, at, from, to, now string
		change                  func(*meeting.Draft)
		field, says             string
	}{
		{"a date that has begun", "2026-12-17", "2026-12-03", "", "2026-12-03T09:45", func(d *meeting.Draft) {}, "scope", "3 December has begun"},
		{"another rule for some dates", "2026-12-17", "2026-12-17", "2026-12-31", "", func(d *meeting.Draft) { d.Repeat.Rule = "every Friday" }, "scope", "all dates that come"},
		{"no such date", "2026-12-18", "2026-12-18", "", "", func(d *meeting.Draft) {}, "scope", "no date on 18 December"},
		{"an upside-down bracket", "2026-12-17", "2026-12-17", "2026-12-03", "", func(d *meeting.Draft) {}, "scope", "which dates"},
		{"a date into the past", "2026-12-17", "2026-12-17", "2026-12-17", "", func(d *meeting.Draft) { d.Start, d.End = "2026-11-20T09:30", "2026-11-20T10:30" }, "start", "has passed"},
		{"a series into the past", "2026-12-17", "2026-12-17", "", "2026-12-17T08:00", func(d *meeting.Draft) { d.Start, d.End = "2026-12-17T07:00", "2026-12-17T08:00" }, "start", "has passed"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			before := aSeries(t, nil)
			d := meeting.DraftOf(before, day(c.at))
			d.Scope = &meeting.DraftScope{At: c.at, From: c.from, To: c.to}
			c.change(&d)
			s := around("2026-11-24T10:12")
			if c.now != "" {
				s = around(c.now)
			}
			s.Before = &before
			_, faults := d.Change(s, identify)
			require.NotEmpty(t, faults)
			assert.Equal(t, c.field, faults[0].Field)
			assert.Contains(t, words.English(faults[0].What), c.says)
		})
	}
}

// TestADateThatWasHeldEarlierStays: moved to an earlier day and held there, it is
// not changed any more, though its day in the rule is still to come.
func TestADateThatWasHeldEarlierStays(t *testing.T) {
	before := aSeries(t, func(d *meeting.Draft) {
		d.Dates = []meeting.DraftDate{{On: "2027-01-14", Start: "2027-01-05T09:30", End: "2027-01-05T10:30"}}
	})
	d := meeting.DraftOf(before, day("2027-01-28"))
	d.Scope.From = "2027-01-14"
	d.Start, d.End = "2027-01-28T11:00", "2027-01-28T12:00"
	s := around("2027-01-06T10:00")
	s.Before = &before
	_, faults := d.Change(s, identify)
	require.NotEmpty(t, faults)
	assert.Contains(t, words.English(faults[0].What), "14 January has begun already")
	d.Scope.From = "2027-01-28"
	out, faults := d.Change(s, identify)
	require.Empty(t, faults)
	assert.Equal(t, "3 Dec, 17 Dec, 31 Dec, 5 Jan", shown(out.Meeting))
}

// TestOneDateOnly: somebody invited to one date hears of that date only.
func TestOneDateOnly(t *testing.T) {
	before := aSeries(t, func(d *meeting.Draft) {
		d.People[1].Dates = []meeting.DraftRange{{From: "2027-01-28", To: "2027-01-28"}}
	})
	cases := []struct {
		name   string
		change func(meeting.Draft) meeting.Draft
		due    string
		next   string
	}{
		{"another date moves", func(d meeting.Draft) meeting.Draft {
			d.Scope = &meeting.DraftScope{At: "2026-12-03", From: "2026-12-17", To: "2026-12-17"}
			d.Dates = []meeting.DraftDate{{On: "2026-12-17", Start: "2026-12-18T09:30", End: "2026-12-18T10:30"}}
			return d
		}, "s.onari update 17Dec", ""},
		{"theirs moves", func(d meeting.Draft) meeting.Draft {
			d.Dates = []meeting.DraftDate{{On: "2027-01-28", Start: "2027-01-29T09:30", End: "2027-01-29T10:30"}}
			return d
		}, "s.onari update 28Jan, tome.akande update 28Jan", ""},
		{"theirs is called off", func(d meeting.Draft) meeting.Draft {
			d.Dates = []meeting.DraftDate{{On: "2027-01-28", Out: true}}
			return d
		}, "s.onari calloff 28Jan, tome.akande calloff 28Jan", ""},
		{"all move", func(d meeting.Draft) meeting.Draft { d.Start, d.End = "2026-12-03T10:00", "2026-12-03T11:00"; return d },
			"s.onari update, tome.akande update 28Jan", ""},
		{"extended", func(d meeting.Draft) meeting.Draft { d.Repeat.Until = "2027-03-31"; return d }, "s.onari update", ""},
		{"a split before theirs takes them along", func(d meeting.Draft) meeting.Draft {
			d = meeting.DraftOf(before, day("2027-01-14"))
			d.Start, d.End = "2027-01-14T10:00", "2027-01-14T11:00"
			return d
		}, "s.onari update, tome.akande calloff 28Jan", "s.onari invite, tome.akande invite"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			s := around("2026-11-24T10:12")
			s.Before = &before
			out, faults := c.change(meeting.DraftOf(before, day("2026-12-03"))).Change(s, identify)
			require.Empty(t, faults)
			assert.Equal(t, c.due, told(dueTo(&before, out.Meeting)))
			if out.Next != nil {
				assert.Equal(t, c.next, told(dueTo(nil, *out.Next)))
			}
		})
	}
}

func TestDatesAreCalledOff(t *testing.T) {
	m := aSeries(t, nil)
	one, ok := m.Without(series.Range{From: day("2026-12-31"), To: day("2027-01-14")})
	require.True(t, ok)
	assert.Equal(t, "3 Dec, 17 Dec, 28 Jan, 11 Feb, 25 Feb", shown(one))
	assert.Equal(t, "s.onari calloff 31Dec 14Jan, tome.akande calloff 31Dec 14Jan", told(dueTo(&m, one)))
	assert.Equal(t, []when.Day{day("2026-12-31"), day("2027-01-14")}, one.Series.Off)
	fresh := aSeries(t, func(d *meeting.Draft) { d.Dates = []meeting.DraftDate{{On: "2026-12-31", Out: true}} })
	assert.Empty(t, fresh.Series.Off, "left out before it was sent: nobody was to come")
	rest, ok := one.Without(series.Range{From: day("2027-01-28")})
	require.True(t, ok)
	assert.Equal(t, "3 Dec, 17 Dec", shown(rest))
	assert.Equal(t, "s.onari update, tome.akande update", told(dueTo(&one, rest)), "who knows no date but those of the rule is told its end")
	_, ok = m.Without(series.Range{From: day("2026-12-03")})
	assert.False(t, ok, "no date is left")
	_, ok = m.Without(series.Range{From: day("2026-12-03"), To: day("2027-02-25")})
	assert.False(t, ok, "no date is left")
}

// TestRepetitionAndLinkInAnyOrder: the card is the same whether the meeting
// repeats or not.
func TestRepetitionAndLinkInAnyOrder(t *testing.T) {
	s := around("2026-11-24T10:12")
	d := fortnightly(nil)
	repeating, faults := d.Change(s, identify)
	require.Empty(t, faults)
	once := d
	once.Repeat = nil
	single, faults := once.Change(s, identify)
	require.Empty(t, faults)
	assert.Equal(t, repeating.Meeting.Card, single.Meeting.Card)
	assert.Equal(t, s.Card, repeating.Meeting.Card)
}

// TestNobodyHearsOfADateThatIsNotTheirs draws changes of single dates and people
// with dates of their own.
func TestNobodyHearsOfADateThatIsNotTheirs(t *testing.T) {
	all := []string{"2026-12-03", "2026-12-17", "2026-12-31", "2027-01-14", "2027-01-28", "2027-02-11", "2027-02-25"}
	rapid.Check(t, func(t *rapid.T) {
		only := rapid.SampledFrom(all).Draw(t, "only")
		before := aSeries(t, func(d *meeting.Draft) { d.People[1].Dates = []meeting.DraftRange{{From: only, To: only}} })
		d := meeting.DraftOf(before, day("2026-12-03"))
		touched := map[when.Day]bool{}
		for _, on := range all {
			switch rapid.IntRange(0, 4).Draw(t, "edit") {
			case 0:
				d.Dates = append(d.Dates, meeting.DraftDate{On: on, Out: true})
			case 1:
				d.Dates = append(d.Dates, meeting.DraftDate{On: on, RoomID: "r2"})
			case 2:
				d.Dates = append(d.Dates, meeting.DraftDate{On: on, Start: on + "T14:00", End: on + "T15:00"})
			default:
				continue
			}
			touched[day(on)] = true
		}
		s := around("2026-11-24T10:12")
		s.Before = &before
		out, faults := d.Change(s, identify)
		if len(faults) > 0 {
			t.Skip("nothing is left")
		}
		for _, m := range dueTo(&before, out.Meeting) {
			for _, on := range m.On {
				require.True(t, touched[on], "%s did not change", on)
				require.True(t, m.To.On(on), "%s is not theirs", on)
			}
			if m.To.ID == "tome.akande" {
				require.True(t, touched[day(only)], "told of %v", m.On)
			}
		}
	})
}

func TestWhatSingleDatesHadIsKeptOrSaid(t *testing.T) {
	before := aSeries(t, func(d *meeting.Draft) {
		d.Dates = []meeting.DraftDate{{On: "2026-12-31", Start: "2027-01-07T14:00", End: "2027-01-07T15:00"}, {On: "2027-01-14", RoomID: "r2"}, {On: "2027-02-11", Out: true}}
	})
	d := meeting.DraftOf(before, day("2026-12-17"))
	d.Start, d.End = "2026-12-17T10:00", "2026-12-17T11:00"
	s := around("2026-11-24T10:12")
	s.Before = &before
	out, faults := d.Change(s, identify)
	require.Empty(t, faults)
	require.NotNil(t, out.Next)
	assert.Equal(t, "17 Dec 10:00, 7 Jan 14:00, 14 Jan 10:00 Loft Studio, 28 Jan 10:00, 25 Feb 10:00", shown(*out.Next))
	assert.Equal(t, []when.Day{day("2027-02-11")}, out.Next.Series.Dropped)

	// Begun at a date in another room, the sheet has the room of the series; taking
	// that other room takes it for all.
	d = meeting.DraftOf(before, day("2027-01-14"))
	assert.Equal(t, "r1", d.RoomID)
	d.RoomID, d.Dates = "r2", nil
	out, faults = d.Change(s, identify)
	require.Empty(t, faults)
	require.NotNil(t, out.Next)
	assert.Equal(t, "Loft Studio", out.Next.Room.Name)
	assert.Equal(t, "14 Jan, 28 Jan, 11 Feb, 25 Feb", shown(*out.Next), "the date called off is taken back in with all the rest")

	// Taken back on the sheet, they are like the others again.
	d = meeting.DraftOf(before, day("2026-12-31"))
	d.Scope.To = "2027-02-25"
	d.Dates = nil
	out, faults = d.Change(s, identify)
	require.Empty(t, faults)
	assert.Equal(t, "3 Dec, 17 Dec, 31 Dec, 14 Jan, 28 Jan, 11 Feb, 25 Feb", shown(out.Meeting))
	assert.Empty(t, out.Meeting.Series.Moved)
}

// TestAnUntouchedSheetChangesNothing: whatever the series, and at whichever date
// its sheet is opened, sending it as it is tells nobody anything.
func TestAnUntouchedSheetChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		before := aSeries(t, func(d *meeting.Draft) {
			d.Repeat.Rule = rapid.SampledFrom([]string{"every 2nd Thursday", "every working day", "every 2nd week on Monday and Thursday", "the last working day of the month",
				"the 31st of the month", "every 3 December"}).Draw(t, "rule")
			d.Repeat.Ends = rapid.SampledFrom([]string{"on", "after", "open"}).Draw(t, "ends")
			d.Repeat.Until, d.Repeat.Count = "2029-03-01", rapid.IntRange(1, 20).Draw(t, "count")
			d.Repeat.Holidays, d.Repeat.Weekends = rapid.Bool().Draw(t, "holidays"), rapid.Bool().Draw(t, "weekends")
			if rapid.Bool().Draw(t, "added") {
				d.Repeat.Added = []string{"2026-12-08"}
			}
		})
		var some []when.Day
		for d := range before.Dates(before.Start.Day) {
			if some = append(some, d.On); len(some) == 12 || d.On > before.Start.Day+5*366 {
				break // what a running series leaves out is written down further when it nears the end of that
			}
		}
		for _, on := range some {
			switch rapid.IntRange(0, 6).Draw(t, "edit") {
			case 0:
				if after, ok := before.Without(series.Range{From: on, To: on}); ok {
					before = after
				}
			case 1:
				d := meeting.DraftOf(before, on)
				if d.Scope.To = d.Scope.From; before.Plan().Has(on) {
					d.Start, d.End, d.RoomID, d.Title = on.String()+"T14:00", on.String()+"T15:00", "r2", "Other"
					s := around("2026-11-24T10:12")
					s.Before = &before
					if out, faults := d.Change(s, identify); len(faults) == 0 {
						before = out.Meeting
					}
				}
			}
		}
		at := rapid.SampledFrom(some).Draw(t, "at")
		if !before.Plan().Has(at) {
			t.Skip("called off")
		}
		d := meeting.DraftOf(before, at)
		if rapid.Bool().Draw(t, "one") {
			d.Scope.To = d.Scope.From
		}
		s := around("2026-11-24T10:12")
		s.Before = &before
		out, faults := d.Change(s, identify)
		require.Empty(t, faults)
		require.Nil(t, out.Next)
		require.Empty(t, dueTo(&before, out.Meeting))
		require.True(t, meeting.Compare(before, out.Meeting).Empty(), "%+v", meeting.Compare(before, out.Meeting))
		require.True(t, before.Plan().Equal(out.Meeting.Plan()), "%+v\n%+v", before.Plan(), out.Meeting.Plan())
	})
}

// BenchmarkSettle settles a sheet of a thousand dates, each with a room of its
// own, against one without exceptions.
func BenchmarkSettle(b *testing.B) {
	for _, own := range []int{0, 1000} {
		d := fortnightly(func(d *meeting.Draft) {
			d.Repeat = &meeting.DraftRepeat{Rule: "every day", Ends: "after", Count: 1000}
			for i := range own {
				d.Dates = append(d.Dates, meeting.DraftDate{On: (day("2026-12-03") + when.Day(i)).String(), RoomID: "r2"})
			}
		})
		b.Run(fmt.Sprintf("1000 dates, %d with a room of their own", own), func(b *testing.B) {
			for b.Loop() {
				_, faults := d.Change(around("2026-11-24T10:12"), identify)
				require.Empty(b, faults)
			}
		})
	}
}
