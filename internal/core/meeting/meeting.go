// Package meeting holds the rules about one meeting: what a sheet must hold
// before it can be sent, what a change changes, who hears of it, and what an
// answer counts for.
package meeting

import (
	"time"

	"jembro/internal/core/join"
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

// Meeting is one meeting as it was settled. It is what is kept of every
// version, and what messages are written from.
type Meeting struct {
	UID          string        `json:"uid"`
	Sequence     int           `json:"sequence"`
	Title        string        `json:"title"`
	Text         string        `json:"text"`
	Start        when.Local    `json:"start"`
	End          when.Local    `json:"end"`
	Zone         string        `json:"zone"` // IANA name
	Private      bool          `json:"private"`
	RemindBefore int           `json:"remindBefore"` // minutes, 0 for none
	Organiser    Party         `json:"organiser"`
	Participants []Participant `json:"participants"`
	Room         *Room         `json:"room,omitempty"`
	Card         *join.Card    `json:"card,omitempty"`
	// Series is how it repeats, nil for a meeting that is once; Start and End
	// are those of its first date then.
	Series *Series `json:"series,omitempty"`
	// RelatedTo is the UID of the series that this one goes on from.
	RelatedTo string `json:"relatedTo,omitempty"`
}

// Party is a person by name and address. Zone is their IANA zone, empty when
// it is not known.
type Party struct {
	PersonID string `json:"personId,omitempty"` // empty: outside
	Name     string `json:"name"`
	Email    string `json:"email"`
	Zone     string `json:"zone,omitempty"`
}

// Outside tells whether somebody has no account here.
func (p Party) Outside() bool { return p.PersonID == "" }

// Participant is somebody invited. The organiser is not one.
type Participant struct {
	Party
	ID     string `json:"id"` // stays the same over all versions
	Needed bool   `json:"needed"`
	// Dates are those of a series that they are invited to; empty for all.
	Dates []Range `json:"dates,omitempty"`
	// Single is set for somebody who was never invited to the series as such, only
	// to single dates of it: that is how they are told of them.
	Single bool `json:"single,omitempty"`
}

// Room is a room as an invitation names it.
type Room struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Place string `json:"place"` // "Main building, floor 1"
	Email string `json:"email"`
	Seats int    `json:"seats"`
}

// Span is when the meeting is, on the line of instants; the first date of a
// series.
func (m Meeting) Span() when.Span {
	return when.Span{Start: m.StartIn().Instant(), End: when.Zoned{Local: m.End, Zone: m.zone()}.Instant()}
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
