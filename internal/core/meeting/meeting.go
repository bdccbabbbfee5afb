// Package meeting holds the rules about one meeting: what a sheet must hold
// before it can be sent, what a change changes, who hears of it, and what an
// answer counts for.
package meeting

import (
	"time"

	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// Answer is what somebody answered: the PARTSTAT of RFC 5545, 3.2.12.
type Answer string

const (
	NoAnswer Answer = "NEEDS-ACTION"
	Accepted Answer = "ACCEPTED"
	Maybe    Answer = "TENTATIVE"
	Declined Answer = "DECLINED"
)

// Known tells whether a is one of the answers that a person can give.
func (a Answer) Known() bool { return a == Accepted || a == Maybe || a == Declined }

// MayCome tells whether it says that they come, or may.
func (a Answer) MayCome() bool { return a == Accepted || a == Maybe }

// Party is a person by name and address. Zone is their IANA zone, empty when
// it is not known.
type Party struct {
	PersonID string // empty: outside
	Name     string
	Email    string
	Zone     string
}

// Outside tells whether somebody has no account here.
func (p Party) Outside() bool { return p.PersonID == "" }

// Participant is somebody invited. The organiser is not one.
type Participant struct {
	Party
	ID     string // stays the same over all versions
	Needed bool
	// Dates are those of a series that they are invited to; empty for all.
	Dates []series.Range
	// Single is set for somebody who was never invited to more than one date of a
	// series: they are told of that by itself, and know no series.
	Single bool
	// DelegatedFrom is the address of who sends them in their own place, "" for nobody
	// (RFC 5545, 3.2.4).
	DelegatedFrom string
	// Language is that of the letters to them, as a BCP 47 tag; "" for English.
	Language string
	// BroughtBy is the address of who brought them along, "" for nobody.
	BroughtBy string
	// Answer and Answers are what they are known to answer when a version is sent.
	Answer  Answer
	Answers []DateAnswer
	// Told are the dates that their calendar may hold by themselves.
	Told []Told
}

// Room is a room as an invitation names it.
type Room struct {
	ID    string
	Name  string
	Place string // "Main building, floor 1"
	Email string
	Seats int
}

// Span is when the meeting is, on the line of instants; the first date of a
// series.
func (m Meeting) Span() when.Span {
	return when.Span{Start: m.StartIn().Instant(), End: when.Zoned{Local: m.End, Zone: m.zone()}.Instant()}
}

// Days are the first and the last day of a date of a meeting that takes whole days.
func (m Meeting) Days(span when.Span) (first, last when.Day) {
	return m.zone().LocalAt(span.Start).Day, m.zone().LocalAt(span.End - 1).Day
}

// SpanIn is when a date of the meeting is where the clock is that of zone: whole days are
// the days there.
func (m Meeting) SpanIn(zone when.Zone, span when.Span) when.Span {
	if !m.AllDay {
		return span
	}
	first, last := m.Days(span)
	return when.DaysSpan(first, last, zone)
}

// StartIn is the start in the meeting's own zone.
func (m Meeting) StartIn() when.Zoned { return when.Zoned{Local: m.Start, Zone: m.zone()} }

// Length is how long it lasts.
func (m Meeting) Length() time.Duration { return m.Span().Length() }

func (m Meeting) zone() when.Zone {
	z, err := when.LoadZone(m.Zone)
	if err != nil {
		return when.Zone{} // a settled meeting has a known zone
	}
	return z
}

// Participant finds somebody invited by the lasting ID.
func (m Meeting) Participant(id string) (Participant, bool) {
	for _, p := range m.Participants {
		if p.ID == id {
			return p, true
		}
	}
	return Participant{}, false
}

// NextOf is the first date of somebody invited that has not begun, or the last there
// is, by its day in the rule.
func (m Meeting) NextOf(p Participant, now when.Instant) when.Day {
	on := m.Start.Day
	for _, d := range m.DatesOf(p, m.Start.Day+10*Horizon) {
		if on = d.On; d.Span.Start > now {
			break
		}
	}
	return on
}

// Next is the first date of a meeting that has not begun, or the last there is,
// by its day in the rule.
func (m Meeting) Next(now when.Instant) when.Day {
	on := m.Start.Day
	for d := range m.Dates(m.Start.Day) {
		if on = d.On; d.Span.Start > now {
			break
		}
	}
	return on
}
