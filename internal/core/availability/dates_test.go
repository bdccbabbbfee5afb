package availability_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

var lisbon, _ = when.LoadZone("Europe/Lisbon")

// hour is a time on a Thursday of December 2026, or on that day some weeks later.
func hour(week, h int) when.Instant {
	return when.Zoned{Local: when.Local{Day: when.DayOf(2026, 12, 3+7*week), Clock: when.ClockOf(h, 0)}, Zone: lisbon}.Instant()
}

func hours(week, from, until int) when.Span {
	return when.Span{Start: hour(week, from), End: hour(week, until)}
}

// weekly is a series of three Thursdays from 9 to 10 with two people and two rooms.
func weekly() availability.Series {
	s := availability.Series{Zone: lisbon, Holiday: func(when.Day) string { return "" },
		People: []availability.Person{{Name: "Ilse", You: true, Needed: true}, {Name: "Tomé", Needed: true}, {Name: "Freya"}},
		Rooms:  []rooms.Room{{ID: "map"}, {ID: "print"}}}
	for week := range 3 {
		s.Slots = append(s.Slots, availability.Slot{Span: hours(week, 9, 10), Day: when.DayOf(2026, 12, 3+7*week), Room: "map", People: []int{0, 1, 2}})
	}
	return s
}

func kinds(repairs []availability.Repair) (out []availability.RepairKind) {
	for _, r := range repairs {
		out = append(out, r.Kind)
	}
	return out
}

func TestHowADateStands(t *testing.T) {
	cases := []struct {
		name    string
		change  func(*availability.Series)
		state   availability.State
		repairs []availability.RepairKind
	}{
		{"it fits", func(*availability.Series) {}, availability.StateFits, nil},
		{"the room is taken", func(s *availability.Series) { s.Rooms[0].Busy = when.Spans{hours(1, 9, 10)} }, availability.StateNoRoom,
			[]availability.RepairKind{availability.RepairRoom, availability.RepairMove, availability.RepairOut, availability.RepairNoRoom}},
		{"all rooms are taken all week", func(s *availability.Series) {
			s.Rooms[0].Busy, s.Rooms[1].Busy = when.Spans{hours(0, 0, 24*21)}, when.Spans{hours(0, 0, 24*21)}
		}, availability.StateNoRoom, []availability.RepairKind{availability.RepairOut, availability.RepairNoRoom}},
		{"somebody needed is busy", func(s *availability.Series) { s.People[1].Busy = when.Spans{hours(1, 9, 11)} }, availability.StateBusy,
			[]availability.RepairKind{availability.RepairMove, availability.RepairOut}},
		{"somebody optional is busy", func(s *availability.Series) { s.People[2].Busy = when.Spans{hours(1, 9, 11)} }, availability.StateSoft, nil},
		{"somebody busy who is not invited to it", func(s *availability.Series) {
			s.People[1].Busy, s.Slots[1].People = when.Spans{hours(1, 9, 11)}, []int{0}
		}, availability.StateFits, nil},
		{"a holiday", func(s *availability.Series) {
			s.Holiday = func(d when.Day) string {
				if d == s.Slots[1].Day {
					return "Todos os Santos"
				}
				return ""
			}
		}, availability.StateSoft, []availability.RepairKind{availability.RepairMove, availability.RepairOut}},
		{"the worst comes first", func(s *availability.Series) {
			s.People[2].Busy, s.Rooms[0].Busy = when.Spans{hours(1, 9, 11)}, when.Spans{hours(1, 9, 10)}
		}, availability.StateNoRoom, []availability.RepairKind{availability.RepairRoom, availability.RepairMove, availability.RepairOut, availability.RepairNoRoom}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			s := weekly()
			c.change(&s)
			issues := s.Issues(s.Slots[1])
			assert.Equal(t, c.state, availability.StateOf(issues))
			repairs := s.Repairs(s.Slots[1], issues, false, true)
			assert.Equal(t, c.repairs, kinds(repairs))
			for _, r := range repairs {
				if r.Kind != availability.RepairMove {
					continue
				}
				assert.Equal(t, time.Hour, r.Span.Length())
				for _, other := range []int{0, 2} {
					assert.False(t, r.Span.Overlaps(s.Slots[other].Span), "it stays between the dates around it")
				}
				for _, p := range s.People[:2] {
					assert.False(t, p.Busy.Overlaps(r.Span))
				}
			}
		})
	}
	s := weekly()
	assert.Equal(t, []availability.RepairKind{availability.RepairRegular}, kinds(s.Repairs(s.Slots[0], nil, true, true)), "what it has of its own can be taken back")
}

func TestWhatHoldsOnAllDatesIsSaidOnce(t *testing.T) {
	s := weekly()
	for _, slot := range s.Slots {
		s.People[1].Off = append(s.People[1].Off, slot.Span)
	}
	s.People[2].Busy = when.Spans{hours(1, 9, 10)}
	var issues [][]availability.Issue
	for _, slot := range s.Slots {
		issues = append(issues, s.Issues(slot))
	}
	all := availability.OnAll(issues, func(int) bool { return true })
	require.Len(t, all, 1)
	assert.Equal(t, 1, all[0].Trouble.Person)
	assert.Empty(t, availability.OnAll(issues, func(at int) bool { return at == 0 }), "one date is not all")
}

func TestHowAnAnswerTakesTime(t *testing.T) {
	for answer, want := range map[meeting.Answer]availability.Kind{meeting.NoAnswer: availability.Busy, meeting.Accepted: availability.Busy,
		meeting.Maybe: availability.Maybe, meeting.Declined: ""} {
		assert.Equal(t, want, availability.Taken(answer), answer)
	}
	p := availability.Person{}.With([]availability.Time{{Span: span(0, 5), Kind: availability.Busy}, {Span: span(5, 9), Kind: availability.Leave}, {Span: span(20, 30), Kind: availability.Maybe}})
	assert.Equal(t, when.Spans{span(0, 9)}, p.Busy, "leave is busy too")
	assert.Equal(t, when.Spans{span(5, 9)}, p.Leave)
	assert.Equal(t, when.Spans{span(20, 30)}, p.Maybe)
}
