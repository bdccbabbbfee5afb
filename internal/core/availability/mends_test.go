package availability_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/availability"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// clock is a span of a day in UTC, in minutes since midnight.
func clock(from, until int) when.Span {
	return when.Span{Start: when.Instant(from * 60), End: when.Instant(until * 60)}
}

func TestWhatWouldMendAnOpening(t *testing.T) {
	day := clock(9*60, 17*60)
	busy := func(spans ...when.Span) availability.Person {
		return availability.Person{Needed: true, Busy: when.Union(spans...)}
	}
	room := func(spans ...when.Span) rooms.Room { return rooms.Room{Busy: when.Union(spans...)} }
	ask := func(o when.Span, people []availability.Person, want bool, all ...rooms.Room) (*availability.Search, availability.Opening) {
		s := availability.NewSearch(availability.OpeningsAsk{Window: day, Allowed: when.Spans{o}, Length: o.Length(), People: people, Rooms: all, WantRoom: want, Most: 1})
		found := s.Openings()
		require.Len(t, found, 1)
		s.Allowed = nil
		return s, found[0]
	}
	t.Run("somebody busy for the last quarter", func(t *testing.T) {
		s, o := ask(clock(600, 660), []availability.Person{busy(), busy(clock(645, 700))}, false)
		assert.Equal(t, []availability.Mend{
			{Kind: availability.MendShift, Span: clock(585, 645), Room: rooms.NoRoom},
			{Kind: availability.MendShorter, Span: clock(600, 645), Room: rooms.NoRoom},
			{Kind: availability.MendWithout, Span: clock(600, 660), Person: 1, Room: rooms.NoRoom},
			{Kind: availability.MendParts, Span: clock(600, 630), Second: clock(705, 735), Room: rooms.NoRoom},
		}, s.Mends(o, nil))
	})
	t.Run("no room, but one that lacks something", func(t *testing.T) {
		s, o := ask(clock(600, 660), []availability.Person{busy()}, true, room(day))
		assert.Equal(t, []availability.Mend{{Kind: availability.MendRoom, Span: clock(600, 660), Room: rooms.NoRoom, Other: 1}},
			s.Mends(o, []rooms.Room{room(clock(630, 640)), room()}))
	})
	t.Run("an opening that fits needs none", func(t *testing.T) {
		s, o := ask(clock(600, 660), []availability.Person{busy()}, true, room())
		assert.Empty(t, s.Mends(o, nil))
	})
}

// Whatever mends an opening does fit: nobody needed is busy then, but for who is left out,
// and the room is clear.
func TestMendsFit(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		spans := func(name string) when.Spans {
			var out []when.Span
			for range rapid.IntRange(0, 4).Draw(t, name) {
				from := 9*60 + 15*rapid.IntRange(0, 32).Draw(t, "from")
				out = append(out, clock(from, from+15*rapid.IntRange(1, 8).Draw(t, "long")))
			}
			return when.Union(out...)
		}
		ask := availability.OpeningsAsk{Window: clock(9*60, 17*60), Length: time.Duration(rapid.IntRange(1, 8).Draw(t, "length")) * when.Quarter, WantRoom: rapid.Bool().Draw(t, "room"), Most: 5}
		for range rapid.IntRange(1, 3).Draw(t, "people") {
			ask.People = append(ask.People, availability.Person{Needed: rapid.Bool().Draw(t, "needed"), Busy: spans("busy")})
		}
		for range rapid.IntRange(0, 2).Draw(t, "rooms") {
			ask.Rooms = append(ask.Rooms, rooms.Room{Busy: spans("taken")})
		}
		others := []rooms.Room{{Busy: spans("other")}}
		s := availability.NewSearch(ask)
		for _, o := range s.Openings() {
			for _, m := range s.Mends(o, others) {
				parts := []when.Span{m.Span}
				if m.Kind == availability.MendParts {
					parts = append(parts, m.Second)
					require.Equal(t, o.Length(), m.Span.Length()+m.Second.Length())
				}
				for _, span := range parts {
					require.True(t, ask.Window.Covers(span))
					for i, p := range ask.People {
						require.False(t, p.Needed && p.Busy.Overlaps(span) && !(m.Kind == availability.MendWithout && i == m.Person))
					}
					switch {
					case m.Kind == availability.MendRoom:
						require.False(t, others[m.Other].Busy.Overlaps(span))
					case ask.WantRoom:
						require.False(t, ask.Rooms[m.Room].Busy.Overlaps(span))
					}
				}
			}
		}
	})
}
