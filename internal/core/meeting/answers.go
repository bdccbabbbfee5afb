package meeting

import (
	"strings"
	"time"

	"jembro/internal/core/when"
)

// AskedAgainAfter is how long somebody is left alone after a message: who was asked just now has
// time to answer, and is not asked again.
const AskedAgainAfter = time.Hour

// Reply is an answer as it arrived, with what it refers to.
type Reply struct {
	Answer   Answer
	Comment  string
	Sequence int   // the version answered
	Stamp    int64 // DTSTAMP, Unix seconds: when it was given
}

// Standing is what is known of one participant when a reply arrives: what they were
// sent, and the answer that holds.
type Standing struct {
	SentSequence int   // of the newest message they were sent
	Sequence     int   // that the answer that holds was to
	Stamp        int64 // of the answer that holds, 0 for none
	Answer       Answer
	// Moved is when the date moved last, in Unix seconds, 0 where it never did: what was answered
	// to all dates until then was not an answer to it.
	Moved int64
}

// Verdict is what becomes of an answer.
type Verdict string

const (
	Counts      Verdict = "counts"
	Older       Verdict = "older"       // than what it answers, or than the answer that holds
	Same        Verdict = "same"        // the answer that holds, once more
	NoDate      Verdict = "noDate"      // to a date that there is not, or that is not theirs
	AfterOff    Verdict = "calledOff"   // to what is called off
	AfterGone   Verdict = "takenOff"    // from somebody who was taken off
	NoStatus    Verdict = "noStatus"    // it says none of the answers
	OtherSender Verdict = "otherSender" // written by somebody else than it speaks for
	Stranger    Verdict = "stranger"    // it speaks for an address that is not invited
	NoProof     Verdict = "noProof"     // to an address without its secret part
	NoTime      Verdict = "noTime"      // it proposes no time that can be
	Delegates   Verdict = "delegates"   // somebody else is sent instead
	Spoken      Verdict = "spoken"      // in plain words, which no program understands
)

// Open tells whether the organiser can make an answer count that does not by itself.
func (v Verdict) Open() bool {
	return v == OtherSender || v == Stranger || v == NoProof || v == Delegates || v == Spoken
}

// Claim is what speaks for and against an answer that came by mail, before it is known whether
// it is the newest. Mail addresses are in no order of case.
type Claim struct {
	// Attendee is whom it speaks for, SentBy who says that they answer for them (RFC 5545,
	// 3.2.18), "" for nobody; From wrote the mail.
	Attendee, SentBy, From string
	// Elsewhere tells that it names another meeting, or a date that there is not; CalledOff that
	// nothing is left to answer.
	Elsewhere, CalledOff bool
	// Theirs is Counts for somebody who is invited to what it names, or why they are not.
	Theirs Verdict
	// Silent tells that it says none of the answers, Untimely that it proposes no time that can be.
	Silent, Untimely bool
	// Secret tells that it came to an address with a secret part, Own that it was the one that only
	// whom it speaks for was given.
	Own, Secret bool
	// Delegates tells that somebody else is sent instead.
	Delegates bool
}

// Believed tells whether an answer by mail is believed (DESIGN.md, rule 7): Counts where nothing
// speaks against it. What came to the address that one person alone has is theirs when that
// person wrote it; elsewhere who writes must speak for whom they name, and know a secret.
func (c Claim) Believed() Verdict {
	switch {
	case c.Elsewhere:
		return NoDate
	case c.Theirs != Counts:
		return c.Theirs
	case c.CalledOff:
		return AfterOff
	case c.Silent && !c.Delegates:
		return NoStatus
	case c.Untimely:
		return NoTime
	case c.Own && strings.EqualFold(c.From, c.Attendee):
	case !SpeaksFor(c.From, c.Attendee, c.SentBy):
		return OtherSender
	case !c.Secret:
		return NoProof
	}
	if c.Delegates {
		return Delegates
	}
	return Counts
}

// Against tells whether a reply is newer than what it answers and than the answer
// that holds: by SEQUENCE, and by DTSTAMP among equals (RFC 5546, 2.1.5). An older
// one is kept and changes nothing.
func (r Reply) Against(s Standing) Verdict {
	switch {
	case r.Sequence < s.SentSequence || r.Sequence < s.Sequence:
		return Older
	case r.Sequence > s.Sequence || r.Stamp > s.Stamp:
		return Counts
	case r.Stamp == s.Stamp && r.Answer == s.Answer:
		return Same
	case r.Stamp < s.Stamp:
		return Older
	}
	return Counts
}

// DateID is a RECURRENCE-ID as a reader's program gives it back (RFC 5545,
// 3.8.4.4): an instant, or a local time or day in no zone.
type DateID struct {
	At    when.Instant `json:"at"`
	Local *when.Local  `json:"local"` // in no zone; At does not count then
	Day   bool         `json:"day"`   // only the day of Local counts
	// Onward is RANGE=THISANDFUTURE: that date and all that follow.
	Onward bool `json:"onward"`
}

// DateOf finds the date that a RECURRENCE-ID means: by the time that the rule gives
// it, or, as some programs write, by the time that it was moved to.
func (m Meeting) DateOf(id DateID) (on when.Day, ok bool) {
	if !m.Repeats() {
		return 0, false
	}
	day := m.zone().LocalAt(id.At).Day
	if id.Local != nil {
		day = id.Local.Day
	}
	if d, is := m.Plan().Date(day); is && id.means(m.Plan().Regular(d.On).Start, m.Plan().Regular(d.On).Span.Start) {
		return day, true
	}
	for _, x := range m.Series.Moved {
		if m.Plan().Has(x.On) && id.means(x.Start, when.Zoned{Local: x.Start, Zone: m.zone()}.Instant()) {
			return x.On, true
		}
	}
	return 0, false
}

func (id DateID) means(local when.Local, at when.Instant) bool {
	switch {
	case id.Local == nil:
		return id.At == at
	case id.Day:
		return id.Local.Day == local.Day
	}
	return *id.Local == local
}

// DaysOf are the days of the rule that an answer of a participant is to, up to a
// horizon; ok is false where there is none of theirs.
func (m Meeting) DaysOf(p Participant, id DateID, horizon when.Day) (days []when.Day, ok bool) {
	on, ok := m.DateOf(id)
	if !ok {
		return nil, false
	}
	if !id.Onward {
		return []when.Day{on}, p.On(on)
	}
	for d := range m.Dates(on) {
		if d.On > max(horizon, on) {
			break
		}
		if p.On(d.On) {
			days = append(days, d.On)
		}
	}
	return days, len(days) > 0
}

// SpeaksFor tells whether somebody who wrote from an address speaks for a
// participant: it is theirs, or that of who answered for them (SENT-BY, RFC 5545,
// 3.2.18).
func SpeaksFor(from, attendee, sentBy string) bool {
	return strings.EqualFold(from, attendee) || sentBy != "" && strings.EqualFold(from, sentBy)
}
