package meeting_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

var (
	ilse    = meeting.Party{PersonID: "p1", Name: "Ilse Marrant", Email: "ilse.marrant@marrowby.example"}
	now     = when.At(time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC))
	bay     = &meeting.Room{ID: "r1", Name: "Reading Bay", Seats: 4}
	card    = &join.Card{Name: "Ostrel", URL: "https://ostrel.example/j/48-2190"}
	outside = meeting.DraftPerson{Name: "S. Onari", Email: "s.onari@kirisame.example", Needed: true}
)

func draft(change func(*meeting.Draft)) meeting.Draft {
	d := meeting.Draft{Title: "Crate sizes", Start: "2026-12-03T09:30", End: "2026-12-03T10:30", Zone: "Europe/Lisbon",
		People: []meeting.DraftPerson{outside}}
	if change != nil {
		change(&d)
	}
	return d
}

func TestSettleRefusesAtTheField(t *testing.T) {
	cases := []struct {
		name   string
		change func(*meeting.Draft)
		field  string
		says   string
		fix    string
	}{
		{"no title", func(d *meeting.Draft) { d.Title = " \n " }, "title", "Give the meeting a title.", ""},
		{"a title of 10,000 characters", func(d *meeting.Draft) { d.Title = strings.Repeat("é", 10_000) }, "title", "this one has 10000", ""},
		{"ends before it starts", func(d *meeting.Draft) { d.End = "2026-12-03T09:00" }, "end", "Ends before it starts.", "2026-12-04T09:00"},
		{"ends the day before", func(d *meeting.Draft) { d.End = "2026-12-02T11:00" }, "end", "Ends before it starts.", "2026-12-04T11:00"},
		{"no length", func(d *meeting.Draft) { d.End = d.Start }, "end", "Ends when it starts.", "2026-12-04T09:30"},
		{"a year long", func(d *meeting.Draft) { d.End = "2027-12-03T09:00" }, "end", "31 days", ""},
		{"a passed time", func(d *meeting.Draft) { d.Start = "2026-11-24T10:00"; d.End = "2026-11-24T11:00" }, "start", "has passed", ""},
		{"no start", func(d *meeting.Draft) { d.Start = "" }, "start", "Give a day and a time", ""},
		{"a zone that is none", func(d *meeting.Draft) { d.Zone = "Lisbon" }, "zone", "not a time zone", ""},
		{"a person twice", func(d *meeting.Draft) {
			d.People = append(d.People, meeting.DraftPerson{Name: "Onari", Email: "S.Onari@kirisame.example"})
		}, "people.1", "on the list twice", ""},
		{"the organiser invited", func(d *meeting.Draft) { d.People[0].Email = ilse.Email }, "people.0", "You organise", ""},
		{"a malformed address", func(d *meeting.Draft) { d.People[0].Email = "onari@kirisame" }, "people.0", "not an e-mail address", ""},
		{"a room that is gone", func(d *meeting.Draft) { d.RoomID = "r9" }, "room", "no longer there", ""},
		{"a long text", func(d *meeting.Draft) { d.Text = strings.Repeat("x", 20_001) }, "text", "20000", ""},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			_, faults := draft(c.change).Settle(meeting.Surroundings{Now: now, Organiser: ilse})
			require.Len(t, faults, 1)
			assert.Equal(t, c.field, faults[0].Field)
			assert.Contains(t, words.English(faults[0].What), c.says)
			assert.Equal(t, c.fix, faults[0].Fix)
		})
	}
}

func TestSettleSaysEverythingAtOnce(t *testing.T) {
	_, faults := meeting.Draft{}.Settle(meeting.Surroundings{Now: now, Organiser: ilse})
	require.Len(t, faults, 2)
	assert.Equal(t, "title", faults[0].Field)
	assert.Equal(t, "zone", faults[1].Field)
}

func TestTimeThatStaysMayHavePassed(t *testing.T) {
	held := draft(func(d *meeting.Draft) { d.Start, d.End = "2026-11-23T09:00", "2026-11-23T10:00" })
	before, _ := held.Settle(meeting.Surroundings{Now: 0, Organiser: ilse})
	_, faults := held.Settle(meeting.Surroundings{Now: now, Organiser: ilse, Before: &before})
	assert.Empty(t, faults)
	held.End = "2026-11-23T11:00"
	_, faults = held.Settle(meeting.Surroundings{Now: now, Organiser: ilse, Before: &before})
	assert.Len(t, faults, 1)
}

func TestRoomTooSmall(t *testing.T) {
	crowd := draft(func(d *meeting.Draft) {
		d.RoomID = "r1"
		for _, n := range []string{"a", "b", "c"} {
			d.People = append(d.People, meeting.DraftPerson{Email: n + "@veerhaven.example"})
		}
	})
	_, faults := crowd.Settle(meeting.Surroundings{Now: now, Organiser: ilse, Rooms: map[string]*meeting.Room{"r1": bay}})
	require.Len(t, faults, 1)
	assert.Equal(t, "room", faults[0].Field)
	assert.Contains(t, words.English(faults[0].What), "Reading Bay seats 4, and 5 people")
	_, faults = crowd.Settle(meeting.Surroundings{Now: now, Organiser: ilse, Rooms: map[string]*meeting.Room{"r1": bay}, Card: card})
	assert.Empty(t, faults, "with a link some call in")
}

func TestSettleKeepsWhatItIsGiven(t *testing.T) {
	m, faults := draft(func(d *meeting.Draft) {
		d.Title = "Crate\r\nsizes,\tloan 14 \x00"
		d.Text = "BEGIN:VEVENT\r\n<b>bold</b>; \\n \"quotes\"\x07"
	}).Settle(meeting.Surroundings{Now: now, Organiser: ilse, Card: card})
	require.Empty(t, faults)
	assert.Equal(t, "Crate sizes, loan 14", m.Title)
	assert.Equal(t, "BEGIN:VEVENT\n<b>bold</b>; \\n \"quotes\"", m.Text)
	assert.Equal(t, time.Hour, m.Length())
	assert.Equal(t, "2026-12-03T09:30:00Z", m.Span().Start.Time().Format(time.RFC3339))
}

func TestParseEmail(t *testing.T) {
	for _, good := range []string{"desk@veerhaven.example", " s.onari+loan@kirisame.example ", "a@b.co"} {
		_, err := meeting.ParseEmail(good)
		assert.NoError(t, err, good)
	}
	for _, bad := range []string{"", "tom", "tom@", "@firm.example", "tom@firm", "a b@firm.example", "Tom <tom@firm.example>",
		"tom@firm.example\r\nBcc: x@y.example", "\"a b\"@firm.example", "tom@[127.0.0.1]", "tom@-firm.example", "tom@firm..example",
		strings.Repeat("a", 65) + "@firm.example"} {
		_, err := meeting.ParseEmail(bad)
		assert.Error(t, err, bad)
	}
	ascii, err := meeting.ParseEmail("ana@müseum.example")
	require.NoError(t, err)
	assert.Equal(t, "ana@xn--mseum-kva.example", ascii, "RFC 5890: what every mail server takes")
	_, err = meeting.ParseEmail("josé@museum.example")
	assert.ErrorIs(t, err, say.It("address.letters"))
	_, err = meeting.ParseEmail("ana@mü--seum..example")
	assert.Error(t, err)
}

func settled(t require.TestingT) meeting.Meeting {
	m, faults := draft(nil).Settle(meeting.Surroundings{Now: now, Organiser: ilse})
	require.Empty(t, faults)
	m.Participants[0].ID = "onari"
	m.Participants = append(m.Participants, meeting.Participant{ID: "tome", Party: meeting.Party{PersonID: "p2", Name: "Tomé Akande"}, Needed: true})
	return m
}

func TestWhoHearsWhat(t *testing.T) {
	freya := meeting.Participant{ID: "freya", Party: meeting.Party{Name: "Freya Holm"}}
	cases := []struct {
		name     string
		change   func(*meeting.Meeting)
		due      string
		sequence int
	}{
		{"nothing", func(m *meeting.Meeting) {}, "", 0},
		{"a later start", func(m *meeting.Meeting) { m.Start = m.Start.Add(15 * time.Minute) }, "onari update, tome update", 1},
		{"another zone at the same hour", func(m *meeting.Meeting) { m.Zone = "Asia/Tokyo" }, "onari update, tome update", 1},
		{"a room", func(m *meeting.Meeting) { m.Room = bay }, "onari update, tome update", 1},
		{"a link", func(m *meeting.Meeting) { m.Card = card }, "onari update, tome update", 1},
		{"a title", func(m *meeting.Meeting) { m.Title = "Crates" }, "onari update, tome update", 0},
		{"a text", func(m *meeting.Meeting) { m.Text = "Bring the log." }, "onari update, tome update", 0},
		{"one more person", func(m *meeting.Meeting) { m.Participants = append(m.Participants, freya) }, "freya invite", 0},
		{"one person less", func(m *meeting.Meeting) { m.Participants = m.Participants[:1] }, "tome calloff", 1},
		{"one is optional now", func(m *meeting.Meeting) { m.Participants[1].Needed = false }, "tome update", 0},
		{"what only the organiser sees", func(m *meeting.Meeting) { m.RemindBefore = 30; m.Private = true }, "", 0},
		{"one goes, one comes, and a new hour", func(m *meeting.Meeting) {
			m.Participants[0] = freya
			m.End = m.End.Add(time.Hour)
		}, "freya invite, tome update, onari calloff", 1},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			before, after := settled(t), settled(t)
			c.change(&after)
			var due []string
			for _, m := range dueTo(&before, after) {
				due = append(due, m.To.ID+" "+string(m.Kind))
			}
			assert.Equal(t, c.due, strings.Join(due, ", "))
			assert.Equal(t, c.sequence, meeting.Compare(before, after).Sequence(before.Sequence))
		})
	}
}

func TestEverybodyHearsTheFirstAndTheLast(t *testing.T) {
	m := settled(t)
	first := dueTo(nil, m)
	require.Len(t, first, 2)
	assert.Equal(t, meeting.Invite, first[0].Kind)
	off, last := meeting.CalledOff(m)
	require.Len(t, last, 2)
	assert.Equal(t, meeting.CallOff, last[1].Kind)
	assert.Equal(t, m.Sequence+1, off.Sequence)
}

// TestNobodyIsForgottenOrToldTwice: whatever the change of people, each of them
// is told at most once, and exactly those who came or went are told so.
func TestNobodyIsForgottenOrToldTwice(t *testing.T) {
	ids := rapid.SliceOfDistinct(rapid.SampledFrom([]string{"a", "b", "c", "d", "e"}), rapid.ID)
	people := func(ids []string) (out []meeting.Participant) {
		for _, id := range ids {
			out = append(out, meeting.Participant{ID: id})
		}
		return out
	}
	rapid.Check(t, func(t *rapid.T) {
		before, after := settled(t), settled(t)
		before.Participants, after.Participants = people(ids.Draw(t, "before")), people(ids.Draw(t, "after"))
		if rapid.Bool().Draw(t, "moved") {
			after.Start = after.Start.Add(time.Minute)
		}
		told := map[string]meeting.Kind{}
		for _, m := range dueTo(&before, after) {
			_, twice := told[m.To.ID]
			require.False(t, twice, "%s told twice", m.To.ID)
			told[m.To.ID] = m.Kind
		}
		for _, id := range []string{"a", "b", "c", "d", "e"} {
			_, was := before.Participant(id)
			_, is := after.Participant(id)
			var want meeting.Kind
			switch {
			case is && !was:
				want = meeting.Invite
			case was && !is:
				want = meeting.CallOff
			case was && is && after.Start != before.Start:
				want = meeting.Update
			}
			require.Equal(t, want, told[id], id)
		}
	})
}

// dueTo is who hears what, without what calendars hold then.
func dueTo(before *meeting.Meeting, after meeting.Meeting) []meeting.Message {
	_, out := meeting.Announce(before, after)
	return out
}

func TestReminders(t *testing.T) {
	m := meeting.Meeting{RemindBefore: 15, Further: []meeting.Reminder{{Before: 15, Mail: true}, {Before: 60, Own: true}, {Before: 120, Own: true, Mail: true}, {Before: 1440}}}
	assert.Equal(t, []int{1440, 15}, m.RemindsAt(false))
	assert.Equal(t, []int{1440, 60, 15}, m.RemindsAt(true))
	assert.Equal(t, []int{15, 120}, m.MailReminders())
	assert.True(t, m.MailTo(15))
	assert.False(t, m.MailTo(120), "the organiser alone")
	assert.Empty(t, meeting.Meeting{}.RemindsAt(true))
}

func TestOwnReminders(t *testing.T) {
	own, fault := meeting.OwnReminders([]meeting.Reminder{{Before: 5}, {Before: 60, Mail: true}, {Before: 5, Own: true}, {Before: 60}})
	require.Nil(t, fault)
	assert.Equal(t, []meeting.Reminder{{Before: 60, Own: true, Mail: true}, {Before: 60, Own: true}, {Before: 5, Own: true}}, own)
	for _, refused := range [][]meeting.Reminder{{{Before: 0}}, {{Before: -5}}, {{Before: meeting.ReminderLimit + 1}}, make([]meeting.Reminder, 6)} {
		_, fault = meeting.OwnReminders(refused)
		require.NotNil(t, fault)
		assert.Equal(t, "reminders", fault.Field)
	}
	own, fault = meeting.OwnReminders(nil)
	assert.Nil(t, fault)
	assert.Empty(t, own)
}
