package recur

import (
	"cmp"
	"slices"

	"jembro/internal/core/when"
)

// Observance is a set of offsets of a zone that somebody defines, with its onsets:
// STANDARD and DAYLIGHT of a VTIMEZONE (RFC 5545, 3.6.5).
type Observance struct {
	// Onsets are in local time by the offset before the change, of Kind Floating.
	Onsets        Series
	Before, After int // offsets in seconds, east positive
}

// OwnZone is a zone by the definition of whoever wrote a calendar, between two days:
// beyond them the offsets at their ends go on.
type OwnZone struct {
	first   int // the offset before all changes
	changes []zoneChange
}

type zoneChange struct {
	at            when.Instant
	before, after int
}

// NewOwnZone looks up all changes of the clocks from one day to another. Their rules
// cost steps of budget; ok is false where nothing is defined or budget is used up.
func NewOwnZone(all []Observance, from, to when.Day, budget *Budget) (z *OwnZone, ok bool) {
	if len(all) == 0 {
		return nil, false
	}
	z = &OwnZone{}
	earliest := all[0]
	for _, o := range all {
		if o.Onsets.Start.Compare(earliest.Onsets.Start) < 0 {
			earliest = o
		}
		add := func(onset Moment) {
			z.changes = append(z.changes, zoneChange{instant(onset, o.Before), o.Before, o.After})
		}
		if o.Onsets.Start.Day < from { // what was in force when all begins
			if last, found := o.last(Moment{Day: from}, budget); found {
				add(last)
			}
		}
		for onset := range o.Onsets.From(Moment{Day: from}, budget) {
			if onset.Day > to {
				break
			}
			add(onset)
		}
	}
	z.first = earliest.Before
	slices.SortFunc(z.changes, func(a, b zoneChange) int { return cmp.Compare(a.at, b.at) })
	for i := 1; i < len(z.changes); i++ { // what one observance takes for the offset before may not be
		z.changes[i].before = z.changes[i-1].after
	}
	return z, !budget.Spent()
}

// last is the last onset before a moment.
func (o Observance) last(before Moment, budget *Budget) (at Moment, ok bool) {
	for _, from := range []Moment{{Day: before.Day - 800}, o.Onsets.Start} {
		for onset := range o.Onsets.From(from, budget) {
			if onset.Compare(before) >= 0 {
				break
			}
			at, ok = onset, true
		}
		if ok {
			return at, ok
		}
	}
	return at, false
}

func instant(m Moment, offset int) when.Instant {
	return when.Instant(int64(m.Day)*aDay + int64(m.Second) - int64(offset))
}

// OffsetAt is the offset from UTC in seconds.
func (z *OwnZone) OffsetAt(i when.Instant) int {
	n, found := slices.BinarySearchFunc(z.changes, i, func(c zoneChange, i when.Instant) int { return cmp.Compare(c.at, i) })
	switch {
	case found:
		return z.changes[n].after
	case n > 0:
		return z.changes[n-1].after
	}
	return z.first
}

// Resolve is the instant at which clocks show m: of two the first; where they never do,
// the one by the offset before the gap (RFC 5545, 3.3.5), and exists is false.
func (z *OwnZone) Resolve(m Moment) (i when.Instant, exists bool) {
	wall := instant(m, 0)
	// Any reading lies within a day or so: the offsets in force around it are those to try.
	n, _ := slices.BinarySearchFunc(z.changes, wall-2*aDay, func(c zoneChange, i when.Instant) int { return cmp.Compare(c.at, i) })
	offset := z.OffsetAt(wall - 2*aDay)
	gap := wall - when.Instant(offset)
	for {
		t := wall - when.Instant(offset)
		if z.OffsetAt(t) == offset {
			return t, true
		}
		if n == len(z.changes) || z.changes[n].at > wall+2*aDay {
			return gap, false
		}
		if t >= z.changes[n].at { // by the offset before, it lies beyond the change
			gap = t
		}
		offset = z.changes[n].after
		n++
	}
}

// LocalAt is what clocks show at an instant.
func (z *OwnZone) LocalAt(i when.Instant) Moment { return MomentIn(i, z.OffsetAt(i)) }

// MomentIn is what clocks show at an instant that are so many seconds ahead of UTC.
func MomentIn(i when.Instant, offset int) Moment {
	at := int64(i) + int64(offset)
	day := at / aDay
	if at%aDay < 0 {
		day--
	}
	return Moment{Day: when.Day(day), Second: int32(at - day*aDay)}
}

// Is tells whether clocks of an IANA zone are changed at the same instants and by as
// much within a span.
func (z *OwnZone) Is(zone when.Zone, span when.Span) bool {
	if z.OffsetAt(span.Start) != zone.OffsetAt(span.Start) {
		return false
	}
	at, more := zone.NextChange(span.Start)
	for _, c := range z.changes {
		switch {
		case c.at <= span.Start || c.before == c.after:
			continue
		case c.at >= span.End:
			return !more || at >= span.End
		case !more || at != c.at || zone.OffsetAt(at) != c.after:
			return false
		}
		at, more = zone.NextChange(at)
	}
	return !more || at >= span.End
}
