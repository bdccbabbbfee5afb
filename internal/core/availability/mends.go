package availability

import (
	"time"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// MendKind is what would make an opening fit that nearly does.
type MendKind string

const (
	MendWithout MendKind = "without" // Person need not come
	MendShift   MendKind = "shift"   // it begins earlier or later, at Span
	MendShorter MendKind = "shorter" // it is as long as Span
	MendRoom    MendKind = "room"    // it is in Other, a room that lacks something asked for
	MendParts   MendKind = "parts"   // it is cut in two, at Span and Second
)

// Mend is one way to make an opening fit. Room is the place of a room that is clear then
// in the rooms of the question, rooms.NoRoom where none is wanted.
type Mend struct {
	Kind         MendKind
	Span, Second when.Span
	Person       int
	Room         int
	Other        int // with MendRoom: the place among other rooms
}

// How far around an opening a time is looked for, and how short a part of it can be.
const (
	mendReach    = 2 * time.Hour
	shortestPart = 30 * time.Minute
)

// Mends are the ways to make an opening fit in which somebody needed is missing or no room
// is clear, each kind once: a little earlier or later, shorter, without who is missing, in
// one of the other rooms of the house, in two parts on either side of what is in the way.
// There are none for an opening that fits.
func (s *Search) Mends(o Opening, others []rooms.Room) (out []Mend) {
	if len(o.Missing) == 0 && !o.NoRoom {
		return nil
	}
	if m, ok := s.shifted(o); ok {
		out = append(out, m)
	}
	if m, ok := s.shortened(o); ok {
		out = append(out, m)
	}
	if len(o.Missing) == 1 && !o.NoRoom {
		out = append(out, Mend{Kind: MendWithout, Span: o.Span, Person: o.Missing[0], Room: o.Room})
	}
	if len(o.Missing) == 0 {
		for at, r := range others {
			if !r.Busy.Overlaps(o.Span) {
				out = append(out, Mend{Kind: MendRoom, Span: o.Span, Room: rooms.NoRoom, Other: at})
				break
			}
		}
	}
	if m, ok := s.parted(o); ok {
		out = append(out, m)
	}
	return out
}

// fits tells whether everybody needed and a room are clear in a stretch within what is
// asked for, and in which room.
func (s *Search) fits(span when.Span) (room int, ok bool) {
	if !s.Window.Covers(span) || s.Allowed != nil && !s.Allowed.Covers(span) {
		return rooms.NoRoom, false
	}
	for _, p := range s.People {
		if p.Needed && p.Busy.Overlaps(span) {
			return rooms.NoRoom, false
		}
	}
	if !s.WantRoom {
		return rooms.NoRoom, true
	}
	for at, r := range s.Rooms {
		if !r.Busy.Overlaps(span) {
			return at, true
		}
	}
	return rooms.NoRoom, false
}

// shifted is the nearest stretch of the same length that fits, the later of two that are
// as near.
func (s *Search) shifted(o Opening) (Mend, bool) {
	for by := when.Quarter; by <= mendReach; by += when.Quarter {
		for _, by := range []time.Duration{by, -by} {
			span := when.Span{Start: o.Start.Add(by), End: o.End.Add(by)}
			if room, ok := s.fits(span); ok {
				return Mend{Kind: MendShift, Span: span, Room: room}, true
			}
		}
	}
	return Mend{}, false
}

// shortened is the longest part of the opening that fits, from its start or to its end;
// half of it at the least.
func (s *Search) shortened(o Opening) (Mend, bool) {
	for length := o.Length() - when.Quarter; length >= o.Length()/2 && length >= when.Quarter; length -= when.Quarter {
		for _, span := range []when.Span{{Start: o.Start, End: o.Start.Add(length)}, {Start: o.End.Add(-length), End: o.End}} {
			if room, ok := s.fits(span); ok {
				return Mend{Kind: MendShorter, Span: span, Room: room}, true
			}
		}
	}
	return Mend{}, false
}

// parted is the opening in two parts in one room, the first to end and the second to begin
// as near to it as may be.
func (s *Search) parted(o Opening) (Mend, bool) {
	if o.Length() < 2*shortestPart {
		return Mend{}, false
	}
	for first := o.Length() - shortestPart; first >= shortestPart; first -= when.Quarter {
		before := when.Span{Start: o.Start, End: o.Start.Add(first)}
		room, ok := s.fits(before)
		if !ok {
			continue
		}
		for pause := when.Quarter; pause <= mendReach; pause += when.Quarter {
			after := when.Span{Start: before.End.Add(pause), End: o.End.Add(pause)}
			if _, ok := s.fits(after); ok && (room == rooms.NoRoom || !s.Rooms[room].Busy.Overlaps(after)) {
				return Mend{Kind: MendParts, Span: before, Second: after, Room: room}, true
			}
		}
	}
	return Mend{}, false
}
