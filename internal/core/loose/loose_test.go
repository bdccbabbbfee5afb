package loose_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

var now = when.At(time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC))

// date is a date so many hours from now that takes an hour.
func date(id string, hours int, change func(*loose.Date)) loose.Date {
	start := now.Add(time.Duration(hours) * time.Hour)
	d := loose.Date{MeetingID: id, Title: id, On: when.DayOf(2026, 11, 24+hours/24), Span: when.Span{Start: start, End: start.Add(time.Hour)}, Mine: true, Coming: true}
	if change != nil {
		change(&d)
	}
	return d
}

func kinds(ends []loose.End) (out []string) {
	for _, e := range ends {
		out = append(out, string(e.Kind)+" "+e.Title)
	}
	return out
}

func TestFind(t *testing.T) {
	people := func(p ...loose.Person) func(*loose.Date) { return func(d *loose.Date) { d.People = p } }
	needed := func(answer meeting.Answer) loose.Person {
		return loose.Person{ID: "1", Name: "Tomé Akande", Needed: true, Answer: answer}
	}
	for _, c := range []struct {
		name  string
		dates []loose.Date
		all   []loose.Whole
		want  []string
	}{
		{"nothing", []loose.Date{date("a", 2, people(needed(meeting.Accepted)))}, nil, nil},
		{"no room, the nearer first", []loose.Date{date("later", 30, func(d *loose.Date) { d.Room = "Map Room" }), date("soon", 4, func(d *loose.Date) { d.Room = "Map Room" })}, nil, []string{"noRoom soon", "noRoom later"}},
		{"booked, over, far off", []loose.Date{date("a", 4, func(d *loose.Date) { d.Room, d.Booked = "Map Room", true }), date("b", -3, func(d *loose.Date) { d.Room = "Map Room" }),
			date("c", 24*15, func(d *loose.Date) { d.Room = "Map Room" })}, nil, nil},
		{"not reached, however far off", []loose.Date{date("a", 24*40, people(loose.Person{ID: "1", Lost: true}))}, nil, []string{"notReached a"}},
		{"once for a series", []loose.Date{date("a", 48, people(loose.Person{ID: "1", Lost: true})), date("a", 96, people(loose.Person{ID: "1", Lost: true}))}, nil, []string{"notReached a"}},
		{"silent the day before", []loose.Date{date("a", 30, people(needed(meeting.NoAnswer))), date("b", 50, people(needed(meeting.NoAnswer)))}, nil, []string{"silent a"}},
		{"asked a moment ago, or told by telephone", []loose.Date{date("a", 3, people(loose.Person{ID: "1", Needed: true, Answer: meeting.NoAnswer, AskedAt: now.Add(-time.Minute)})),
			date("b", 5, people(loose.Person{ID: "1", Needed: true, Answer: meeting.NoAnswer, Spoken: true}))}, nil, nil},
		{"optional and silent", []loose.Date{date("a", 3, people(loose.Person{ID: "1", Answer: meeting.NoAnswer}))}, nil, nil},
		{"somebody needed declined", []loose.Date{date("a", 72, people(needed(meeting.Declined)))}, nil, []string{"declined a"}},
		{"not the reader's to mend", []loose.Date{date("a", 3, func(d *loose.Date) {
			d.Mine, d.Room, d.People = false, "Map Room", []loose.Person{needed(meeting.Declined)}
		})}, nil, nil},
		{"twice at once", []loose.Date{date("a", 3, nil), date("b", 3, func(d *loose.Date) { d.Mine = false })}, nil, []string{"clash b"}},
		{"one after the other", []loose.Date{date("a", 3, nil), date("b", 4, nil)}, nil, nil},
		{"one leaves time clear", []loose.Date{date("a", 3, nil), date("b", 3, func(d *loose.Date) { d.Free = true })}, nil, nil},
		{"the worst first", []loose.Date{date("a", 2, people(needed(meeting.NoAnswer))), date("b", 90, func(d *loose.Date) { d.Room = "Map Room" })},
			[]loose.Whole{{MeetingID: "s", Title: "s", Next: date("s", 1, nil), LastDay: when.DayOf(2026, 12, 11)},
				{MeetingID: "l", Title: "l", Next: date("l", 1, nil), Letters: []loose.Mail{{ID: "1"}, {ID: "2"}}, Trouble: &meeting.Event{Kind: meeting.EventLinkGone}}},
			[]string{"call l", "noRoom b", "unclear l", "unclear l", "silent a", "ends s"}},
	} {
		assert.Equal(t, c.want, kinds(loose.Find(now, c.dates, c.all)), c.name)
	}
}

// TestTheOrderInDoesNotMatter: whatever the order of the dates, the same is found, and no end
// twice.
func TestTheOrderInDoesNotMatter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var dates []loose.Date
		for i := range rapid.IntRange(0, 12).Draw(t, "dates") {
			dates = append(dates, date(string(rune('a'+i)), rapid.IntRange(-3, 200).Draw(t, "hours"), func(d *loose.Date) {
				d.Room, d.Booked = rapid.SampledFrom([]string{"", "Map Room"}).Draw(t, "room"), rapid.Bool().Draw(t, "booked")
				d.People = []loose.Person{{ID: "1", Needed: rapid.Bool().Draw(t, "needed"), Lost: rapid.Bool().Draw(t, "lost"),
					Answer: rapid.SampledFrom([]meeting.Answer{meeting.NoAnswer, meeting.Declined, meeting.Accepted}).Draw(t, "answer")}}
			}))
		}
		found := loose.Find(now, dates, nil)
		keys := map[string]bool{}
		for i, e := range found {
			assert.False(t, keys[e.Key], e.Key)
			keys[e.Key] = true
			assert.Greater(t, e.Span.End, now)
			if i > 0 {
				assert.LessOrEqual(t, found[i-1].Worst(), e.Worst())
			}
		}
		shuffled := rapid.Permutation(dates).Draw(t, "order")
		again := map[string]bool{}
		for _, e := range loose.Find(now, shuffled, nil) {
			if e.Kind != loose.Clash { // of two that start together either can be the later one
				again[e.Key] = true
			} else {
				again[string(e.Kind)] = true
			}
		}
		for k := range keys {
			if k[:5] != "clash" {
				assert.True(t, again[k], k)
			}
		}
	})
}
