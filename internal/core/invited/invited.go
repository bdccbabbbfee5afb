// Package invited holds the rules about invitations that come from outside (RFC 5546, 3.2): what
// is believed, and what an invitation is after a message about it.
package invited

import (
	"cmp"
	"slices"
	"strings"

	"jembro/internal/core/meeting"
)

// Method is what a message does.
type Method string

const (
	Request Method = "REQUEST"
	Cancel  Method = "CANCEL"
)

// Known tells whether it is one of them.
func (m Method) Known() bool { return m == Request || m == Cancel }

// Part is one component: all of the meeting, or one of its dates.
type Part struct {
	Key      string `json:"key,omitempty"` // its RECURRENCE-ID in UTC or as it stands; "" for all
	Sequence int    `json:"sequence"`
	Stamp    int64  `json:"stamp"` // DTSTAMP, Unix seconds
	Times    string `json:"times"` // what says when it is: the same text, the same time
	Raw      string `json:"raw"`   // its content lines, unfolded
	Off      bool   `json:"off,omitempty"`
}

// before tells whether p is older than o (RFC 5546, 2.1.5).
func (p Part) before(o Part) bool {
	return cmp.Or(cmp.Compare(p.Sequence, o.Sequence), cmp.Compare(p.Stamp, o.Stamp)) < 0
}

// Message is what arrived about one meeting.
type Message struct {
	Method        Method            `json:"method"`
	UID           string            `json:"uid"`
	Organiser     string            `json:"organiser"` // the address of ORGANIZER, ""
	SentBy        string            `json:"sentBy,omitempty"`
	From          string            `json:"from"` // who wrote the mail
	Parts         []Part            `json:"parts"`
	Zones         map[string]string `json:"zones,omitempty"`         // VTIMEZONEs by their TZID, content lines
	Attendees     []string          `json:"-"`                       // addresses
	OrganiserName string            `json:"organiserName,omitempty"` // CN of ORGANIZER
}

// State is what is known of a meeting of somebody outside.
type State struct {
	Organiser string            `json:"organiser"`
	From      string            `json:"from"` // who wrote the first message
	Parts     []Part            `json:"parts"`
	Zones     map[string]string `json:"zones,omitempty"`
	Off       bool              `json:"off,omitempty"`
}

// Verdict is what becomes of a message.
type Verdict string

const (
	Taken     Verdict = "taken"
	Older     Verdict = "older"     // than what is known
	Same      Verdict = "same"      // once more
	NotTheirs Verdict = "notTheirs" // somebody else than the organiser changes it
	Unknown   Verdict = "unknown"   // it takes back what nobody has
	TooMuch   Verdict = "tooMuch"
)

// What one meeting can have.
const (
	mostParts = 200
	mostBytes = 512 << 10
)

// Whole is the part about all of it.
func (s State) Whole() (Part, bool) {
	at := slices.IndexFunc(s.Parts, func(p Part) bool { return p.Key == "" })
	if at < 0 {
		return Part{}, false
	}
	return s.Parts[at], true
}

// Sequence is the newest that is known of all of it, or of the date that there is.
func (s State) Sequence() (n int) {
	if w, ok := s.Whole(); ok {
		return w.Sequence
	}
	for _, p := range s.Parts {
		n = max(n, p.Sequence)
	}
	return n
}

// AsItWas is the meeting as it was before all of it was called off.
func (s State) AsItWas() State {
	s.Off, s.Parts = false, slices.Clone(s.Parts)
	for i := range s.Parts {
		if s.Parts[i].Key == "" {
			s.Parts[i].Off = false
		}
	}
	return s
}

// After is the meeting after a message. It is the same where the verdict is not Taken; moved
// tells that it is at other times, so that answers given do not hold any more. A message of
// somebody who is not the organiser, nor writes for them, is not believed by itself; with believe
// it is.
func (s State) After(m Message, believe bool) (after State, v Verdict, moved bool) {
	fresh := len(s.Parts) == 0
	switch {
	case fresh && m.Method == Cancel:
		return s, Unknown, false
	case fresh:
		after = State{Organiser: m.Organiser, From: m.From}
	case !believe && !s.believes(m):
		return s, NotTheirs, false
	default:
		after = s
		after.Parts = slices.Clone(s.Parts)
		after.Zones = map[string]string{}
		for id, z := range s.Zones {
			after.Zones[id] = z
		}
	}
	if after.Zones == nil {
		after.Zones = map[string]string{}
	}
	v = Same
	for _, p := range sorted(m.Parts) {
		p.Off = m.Method == Cancel
		switch partVerdict, partMoved := after.take(p, believe); {
		case partVerdict == Taken:
			v, moved = Taken, moved || partMoved
		case v == Same && partVerdict == Older:
			v = Older
		}
	}
	if v != Taken {
		return s, v, false
	}
	if believe {
		after.Organiser, after.From = cmp.Or(m.Organiser, after.Organiser), m.From
	}
	for id, z := range m.Zones {
		after.Zones[id] = z
	}
	if after.size() > mostBytes || len(after.Parts) > mostParts {
		return s, TooMuch, false
	}
	return after, Taken, moved && !fresh
}

// sorted are parts with that of all first.
func sorted(parts []Part) []Part {
	parts = slices.Clone(parts)
	slices.SortStableFunc(parts, func(a, b Part) int { return strings.Compare(a.Key, b.Key) })
	return parts
}

// believes tells whether a message comes from who organises the meeting.
func (s State) believes(m Message) bool {
	if !strings.EqualFold(m.Organiser, s.Organiser) {
		return false
	}
	return meeting.SpeaksFor(m.From, m.Organiser, m.SentBy) || strings.EqualFold(m.From, s.From)
}

func (s *State) take(p Part, believe bool) (Verdict, bool) {
	at := slices.IndexFunc(s.Parts, func(o Part) bool { return o.Key == p.Key })
	whole, known := s.Whole()
	switch {
	case at >= 0 && !believe && p.before(s.Parts[at]):
		return Older, false
	case at >= 0 && !believe && !s.Parts[at].before(p) && s.Parts[at].Off == p.Off:
		return Same, false
	case p.Key != "" && known && !believe && p.Sequence < whole.Sequence && p.Stamp <= whole.Stamp:
		return Older, false
	}
	moved := p.Key == "" && known && whole.Times != p.Times && !p.Off
	if p.Key == "" {
		if s.Off = p.Off; p.Off && known { // what it was is still shown
			p.Raw, p.Times = whole.Raw, whole.Times
		}
		// What was said of single dates before is part of the new whole, or gone.
		s.Parts = slices.DeleteFunc(s.Parts, func(o Part) bool { return o.Key != "" && !p.Off && o.Sequence < p.Sequence })
		at = slices.IndexFunc(s.Parts, func(o Part) bool { return o.Key == "" })
	}
	if at < 0 {
		s.Parts = append(s.Parts, p)
	} else {
		s.Parts[at] = p
	}
	return Taken, moved
}

func (s State) size() (n int) {
	for _, p := range s.Parts {
		n += len(p.Raw)
	}
	for _, z := range s.Zones {
		n += len(z)
	}
	return n
}

// Told is what an invitation says to its reader, in words.
type Told struct {
	Title, Place, Text string
	// Ways are all ways into a call that it names beside its text: URL, CONFERENCE (RFC 7986, 5.11).
	Ways  []string
	Names []string // of those invited, by name or address
	Own   string   // the address of the reader that is invited, "" where none is
}
