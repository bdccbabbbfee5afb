package words_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

var people = []availability.Person{{Name: "Ilse Marrant", You: true}, {Name: "Tomé Akande"}}

func TestIssues(t *testing.T) {
	of := func(person int, t availability.Trouble) availability.Issue {
		t.Person = person
		return availability.Issue{Code: availability.PersonTrouble, Trouble: t}
	}
	cases := []struct {
		issue availability.Issue
		want  string
	}{
		{availability.Issue{Code: availability.RoomTaken}, "Map Room taken by Rui Calado"},
		{availability.Issue{Code: availability.OnHoliday, Holiday: "Todos os Santos"}, "holiday: Todos os Santos"},
		{of(0, availability.Trouble{Busy: true}), "You are busy"},
		{of(1, availability.Trouble{Busy: true}), "Tomé Akande is busy"},
		{of(1, availability.Trouble{Busy: true, Leave: true}), "Tomé Akande on leave"},
		{of(0, availability.Trouble{Busy: true, Leave: true}), "you are on leave"},
		{of(1, availability.Trouble{Maybe: true}), "Tomé Akande is maybe busy"},
		{of(0, availability.Trouble{Off: time.Hour}), "outside your hours"},
		{of(1, availability.Trouble{Off: time.Hour}), "Tomé Akande outside hours"},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, words.Issue(tongue.Tongue{}, c.issue, people, "Map Room", "Rui Calado"))
	}
	assert.Equal(t, "Map Room taken", words.Issue(tongue.Tongue{}, availability.Issue{Code: availability.RoomTaken}, people, "Map Room", ""), "by whom is private")
}

func TestHistory(t *testing.T) {
	day := when.DayOf(2026, 12, 31)
	facts := meeting.ChangeFacts{Fields: []string{"time", "end", "private"}, Days: []when.Day{day}, Added: 1, Removed: 2}
	cases := []struct {
		event meeting.Event
		want  string
	}{
		{meeting.Event{Kind: meeting.EventSent, Who: "Ilse", Told: 1}, "Ilse sent 1 invitation"},
		{meeting.Event{Kind: meeting.EventChanged, Who: "Ilse", Told: 3, Change: &facts}, "Ilse changed time, end of the series, privacy, 31 December, 1 added, 2 dropped and told 3 people"},
		{meeting.Event{Kind: meeting.EventChanged, Who: "Ilse", Change: &meeting.ChangeFacts{Fields: []string{"reminder"}}}, "Ilse changed reminder; nobody needed to hear"},
		{meeting.Event{Kind: meeting.EventDatesOff, Who: "Ilse", Told: 1, Scope: &series.Range{From: day}}, "Ilse called off from 31 December on and told 1 person"},
		{meeting.Event{Kind: meeting.EventAnswered, Who: "Tomé", Answer: meeting.Declined, On: day, Via: "mail"}, "Tomé answered for 31 December: declined (by mail)"},
		{meeting.Event{Kind: meeting.EventAnswered, Who: "Tomé", Answer: meeting.Maybe, TooLate: true}, "Tomé answered: maybe; an older answer, it changes nothing"},
		{meeting.Event{Kind: meeting.EventRoomLost, Days: []when.Day{day}}, "The room is taken on 31 December; that date has none"},
		{meeting.Event{Kind: meeting.EventSaid, Words: "as it was kept once"}, "as it was kept once"},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, words.Event(tongue.Tongue{}, c.event))
	}
}

func TestMovesAndLists(t *testing.T) {
	at := func(text string) when.Local {
		l, err := when.ParseLocal(text)
		assert.NoError(t, err)
		return l
	}
	from := at("2026-12-31T09:30")
	assert.Equal(t, "move to 16:00", words.Move(tongue.Tongue{}, from, at("2026-12-31T16:00"), ""))
	assert.Equal(t, "move to 7 Jan, Print Cabinet", words.Move(tongue.Tongue{}, from, at("2027-01-07T09:30"), "Print Cabinet"))
	assert.Equal(t, "move to 7 Jan 14:00", words.Move(tongue.Tongue{}, from, at("2027-01-07T14:00"), ""))
	assert.Equal(t, "moved from 31 Dec", words.Moved(tongue.Tongue{}, from, at("2027-01-07T09:30"), at("2027-01-07T10:30")))
	assert.Equal(t, "until 11:00", words.Moved(tongue.Tongue{}, from, from, at("2026-12-31T11:00")))
	assert.Equal(t, "moved from 9:30", words.Moved(tongue.Tongue{}, from, at("2026-12-31T11:00"), at("2026-12-31T12:00")))
	assert.Equal(t, "a, b and c", tongue.Tongue{}.List([]string{"a", "b", "c"}))
	assert.Equal(t, "", tongue.Tongue{}.List(nil))
	days := []when.Day{when.DayOf(2026, 12, 1), when.DayOf(2026, 12, 2), when.DayOf(2026, 12, 3), when.DayOf(2026, 12, 4)}
	assert.Equal(t, "1 December and 2 December", words.Days(tongue.Tongue{}, days[:2]))
	assert.Equal(t, "4 dates", words.Days(tongue.Tongue{}, days))
}
