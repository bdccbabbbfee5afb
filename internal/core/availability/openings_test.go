package availability_test

import (
	"cmp"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/availability"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

const q = int(when.Quarter / time.Second)

// quarters are spans of quarters from the beginning of time.
func quarters(edges ...int) (out when.Spans) {
	var spans []when.Span
	for i := 0; i+1 < len(edges); i += 2 {
		spans = append(spans, when.Span{Start: when.Instant(edges[i] * q), End: when.Instant(edges[i+1] * q)})
	}
	return when.Union(spans...)
}

func said(all []availability.Opening) (out []string) {
	for _, o := range all {
		text := fmt.Sprintf("%d-%d", int(o.Start)/q, int(o.End)/q)
		for _, p := range o.Missing {
			text += fmt.Sprintf(" without %d", p)
		}
		if o.Room >= 0 {
			text += fmt.Sprintf(" room %d", o.Room)
		}
		if o.NoRoom {
			text += " no room"
		}
		for _, x := range o.Off {
			text += fmt.Sprintf(" %d off %d", x.Person, int(x.Off.Minutes()))
		}
		for _, p := range o.Optional {
			text += fmt.Sprintf(" not %d", p)
		}
		for _, p := range o.Maybe {
			text += fmt.Sprintf(" maybe %d", p)
		}
		if o.Splinter > 0 {
			text += fmt.Sprintf(" splinters %d", int(o.Splinter.Minutes()))
		}
		out = append(out, text)
	}
	return out
}

func TestOpenings(t *testing.T) {
	day := when.Span{End: when.Instant(40 * q)} // ten hours
	ilse, rui := availability.Person{Name: "Ilse", Needed: true}, availability.Person{Name: "Rui", Needed: true}
	for _, c := range []struct {
		name string
		ask  func(*availability.OpeningsAsk)
		want []string
	}{
		{"the earliest of equals, without overlap", func(*availability.OpeningsAsk) {}, []string{"0-4", "4-8", "8-12"}},
		{"where both are clear", func(a *availability.OpeningsAsk) {
			a.People[0].Busy, a.People[1].Busy = quarters(0, 8), quarters(14, 40)
		}, []string{"8-12", "10-14"}[:1]},
		{"somebody missing comes last", func(a *availability.OpeningsAsk) { a.People[0].Busy, a.Most = quarters(4, 40), 2 }, []string{"0-4", "4-8 without 0"}},
		{"the worst-off first", func(a *availability.OpeningsAsk) {
			a.People[0].Off, a.People[1].Off = quarters(0, 20), quarters(18, 40)
			a.Most = 1
		}, []string{"17-21 0 off 45 1 off 45"}},
		{"an optional person counts less than hours", func(a *availability.OpeningsAsk) {
			a.People[0].Off = quarters(0, 8)
			a.People = append(a.People, availability.Person{Busy: quarters(8, 40)})
			a.Most = 1
		}, []string{"8-12 not 2"}},
		{"a room where one is clear", func(a *availability.OpeningsAsk) {
			a.WantRoom, a.Rooms = true, []rooms.Room{{ID: "map", Busy: quarters(0, 30)}, {ID: "loft", Busy: quarters(2, 40)}}
			a.Most = 2
		}, []string{"30-34 room 0", "34-38 room 0"}},
		{"no room at all", func(a *availability.OpeningsAsk) { a.WantRoom, a.Most = true, 1 }, []string{"0-4 no room"}},
		{"splinters are said", func(a *availability.OpeningsAsk) { a.People[0].Busy, a.Most = quarters(0, 3, 8, 40), 1 }, []string{"3-7 splinters 15"}},
		{"maybe busy is said, and avoided", func(a *availability.OpeningsAsk) { a.People[0].Maybe, a.Most = quarters(0, 4), 1 }, []string{"4-8"}},
		{"within the hours asked for", func(a *availability.OpeningsAsk) { a.Allowed, a.Most = quarters(10, 15, 20, 30), 5 }, []string{"10-14", "20-24", "24-28"}},
		{"a length that is no quarter takes all of its quarters", func(a *availability.OpeningsAsk) {
			a.Length, a.Most = 50*time.Minute, 1
			a.People[0].Busy = when.Spans{{Start: when.Instant(3*q + 60), End: when.Instant(40 * q)}}
		}, []string{"0-3 without 0"}},
		{"longer than the window", func(a *availability.OpeningsAsk) { a.Length = 11 * time.Hour }, nil},
		{"nothing asked", func(a *availability.OpeningsAsk) { a.Length = 0 }, nil},
		{"nobody", func(a *availability.OpeningsAsk) { a.People, a.Most = nil, 1 }, []string{"0-4"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			ask := availability.OpeningsAsk{Window: day, Length: time.Hour, People: []availability.Person{ilse, rui}, Most: 3}
			c.ask(&ask)
			got := availability.NewSearch(ask).Openings()
			assert.Equal(t, c.want, said(got[:min(len(got), max(len(c.want), 0))]))
			if c.want == nil {
				assert.Empty(t, got)
			}
		})
	}
}

// plain is rule 4 of DESIGN.md word by word: every start is looked at, one by one.
func plain(ask availability.OpeningsAsk) (out []string) {
	n := int((ask.Length + when.Quarter - 1) / when.Quarter)
	type start struct {
		at                                                      int
		missing, noRoom, worst, sum, optional, maybe, splinters int
	}
	first := (int(ask.Window.Start) + q - 1) / q
	end := int(ask.Window.End) / q
	clear := func(s when.Spans, from, to int) bool {
		return !s.Overlaps(when.Span{Start: when.Instant(from * q), End: when.Instant(to * q)})
	}
	var all []start
	for at := first; at+n <= end; at++ {
		x := start{at: at}
		if ask.Allowed != nil && !ask.Allowed.Covers(when.Span{Start: when.Instant(at * q), End: when.Instant((at + n) * q)}) {
			continue
		}
		for _, p := range ask.People {
			switch busy := !clear(p.Busy, at, at+n); {
			case busy && p.Needed:
				x.missing++
			case busy:
				x.optional++
			}
			if !p.Needed {
				continue
			}
			off := 0
			for i := at; i < at+n; i++ {
				if !clear(p.Off, i, i+1) {
					off += 15
				}
			}
			x.worst, x.sum = max(x.worst, off), x.sum+off
			if !clear(p.Maybe, at, at+n) {
				x.maybe++
			}
			free := func(i int) bool { return i >= first && i < end && clear(p.Busy, i, i+1) && clear(p.Off, i, i+1) }
			if clear(p.Busy, at, at+n) && off == 0 {
				if free(at-1) && !free(at-2) {
					x.splinters++
				}
				if free(at+n) && !free(at+n+1) {
					x.splinters++
				}
			}
		}
		if ask.WantRoom && !slices.ContainsFunc(ask.Rooms, func(r rooms.Room) bool { return clear(r.Busy, at, at+n) }) {
			x.noRoom = 1
		}
		if x.missing <= 1 {
			all = append(all, x)
		}
	}
	slices.SortStableFunc(all, func(a, b start) int {
		return cmp.Or(a.missing-b.missing, a.noRoom-b.noRoom, a.worst-b.worst, a.sum-b.sum, a.optional-b.optional, a.maybe-b.maybe, a.splinters-b.splinters)
	})
	var taken []int
	for _, x := range all {
		if len(taken) < ask.Most && !slices.ContainsFunc(taken, func(t int) bool { return max(t-x.at, x.at-t) < n }) {
			taken = append(taken, x.at)
			out = append(out, fmt.Sprintf("%d: %d missing, %d without a room, %d/%d min off, %d optional, %d maybe, %d splinters", x.at, x.missing, x.noRoom, x.worst, x.sum, x.optional, x.maybe, x.splinters))
		}
	}
	return out
}

func counted(all []availability.Opening) (out []string) {
	for _, o := range all {
		worst, sum := 0, 0
		for _, x := range o.Off {
			worst, sum = max(worst, int(x.Off.Minutes())), sum+int(x.Off.Minutes())
		}
		noRoom := 0
		if o.NoRoom {
			noRoom = 1
		}
		out = append(out, fmt.Sprintf("%d: %d missing, %d without a room, %d/%d min off, %d optional, %d maybe, %d splinters", int(o.Start)/q, len(o.Missing), noRoom, worst, sum, len(o.Optional), len(o.Maybe), int(o.Splinter.Minutes())/15))
	}
	return out
}

func drawSpans(t *rapid.T, name string, upTo int) when.Spans {
	var edges []int
	for range rapid.IntRange(0, 4).Draw(t, name) {
		from := rapid.IntRange(0, upTo).Draw(t, "from")
		edges = append(edges, from, from+rapid.IntRange(1, 6).Draw(t, "length"))
	}
	return quarters(edges...)
}

// The search by bits finds what a plain search finds, in the same order.
func TestOpeningsAreThoseOfAPlainSearch(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ask := availability.OpeningsAsk{Window: when.Span{Start: when.Instant(rapid.IntRange(0, 5).Draw(t, "start") * q), End: when.Instant(rapid.IntRange(20, 150).Draw(t, "end") * q)},
			Length: time.Duration(rapid.IntRange(1, 70).Draw(t, "length")) * 5 * time.Minute, Most: rapid.IntRange(1, 6).Draw(t, "most"), WantRoom: rapid.Bool().Draw(t, "room")}
		hours := drawSpans(t, "hours", 150)
		for range rapid.IntRange(0, 5).Draw(t, "people") {
			p := availability.Person{Needed: rapid.IntRange(0, 3).Draw(t, "needed") > 0, Busy: drawSpans(t, "busy", 150), Maybe: drawSpans(t, "maybe", 150), Off: hours}
			if rapid.Bool().Draw(t, "own hours") {
				p.Off = drawSpans(t, "off", 150)
			}
			ask.People = append(ask.People, p)
		}
		for range rapid.IntRange(0, 3).Draw(t, "rooms") {
			ask.Rooms = append(ask.Rooms, rooms.Room{Busy: drawSpans(t, "taken", 150)})
		}
		if rapid.IntRange(0, 3).Draw(t, "allowed") == 0 {
			ask.Allowed = drawSpans(t, "allowed", 150)
			if ask.Allowed == nil {
				ask.Allowed = when.Spans{}
			}
		}
		got := availability.NewSearch(ask).Openings()
		require.Equal(t, plain(ask), counted(got))
		for _, o := range got {
			for i, p := range ask.People {
				require.Equal(t, p.Needed && p.Busy.Overlaps(o.Span) || slices.Contains(o.Missing, i), slices.Contains(o.Missing, i), "nobody needed is busy in it without its being said")
			}
			if o.Room >= 0 {
				require.False(t, ask.Rooms[o.Room].Busy.Overlaps(o.Span))
			}
		}
	})
}

func TestGoodOpeningsOfEachDay(t *testing.T) {
	ask := availability.OpeningsAsk{Window: when.Span{End: when.Instant(3 * 40 * q)}, Length: time.Hour,
		People: []availability.Person{{Needed: true, Busy: quarters(6, 40, 80, 117), Off: quarters(40, 60)}}}
	days := []when.Span{{End: when.Instant(40 * q)}, {Start: when.Instant(40 * q), End: when.Instant(80 * q)}, {Start: when.Instant(80 * q), End: when.Instant(120 * q)}}
	assert.Equal(t, []int{1, 3, 0}, availability.NewSearch(ask).GoodOn(days, 3))
}

// house is fifty people and a hundred rooms over four weeks.
func house() availability.OpeningsAsk {
	ask := availability.OpeningsAsk{Window: when.Span{End: when.Instant(28 * 96 * q)}, Length: time.Hour, WantRoom: true, Most: 5}
	var hours [4]when.Spans
	for z := range hours {
		var edges []int
		for d := range 28 {
			edges = append(edges, d*96, d*96+32+4*z, d*96+72+4*z, d*96+96)
		}
		hours[z] = quarters(edges...)
	}
	spans := func(seed, every int) when.Spans {
		var edges []int
		for i := seed * 7 % every; i < 28*96; i += every + seed%5 {
			edges = append(edges, i, i+2+seed%4)
		}
		return quarters(edges...)
	}
	for i := range 50 {
		ask.People = append(ask.People, availability.Person{Needed: i < 40, Busy: spans(i, 90), Maybe: spans(i+50, 200), Off: hours[i%4]})
	}
	for i := range 100 {
		ask.Rooms = append(ask.Rooms, rooms.Room{Busy: spans(i, 14)})
	}
	return ask
}

func BenchmarkOpenings(b *testing.B) {
	ask := house()
	for b.Loop() {
		if len(availability.NewSearch(ask).Openings()) != 5 {
			b.Fatal("fewer than five")
		}
	}
}

// BenchmarkOpeningsPlain is the search of rule 4's words, start by start.
func BenchmarkOpeningsPlain(b *testing.B) {
	ask := house()
	for b.Loop() {
		plain(ask)
	}
}
