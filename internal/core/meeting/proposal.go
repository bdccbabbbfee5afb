package meeting

import (
	"strings"
	"unicode/utf8"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Proposal is another time that somebody invited proposes (COUNTER: RFC 5546, 3.2.7).
type Proposal struct {
	On       when.Day // the date of a series, by its day in the rule; 0 for a meeting that is once, or for all dates
	Span     when.Span
	Comment  string
	Sequence int   // the version that they had
	Stamp    int64 // when it was made, Unix seconds
}

// CommentLimit is how many characters a word with an answer can have.
const CommentLimit = 1000

// At is when what a proposal is about is, as the meeting stands; of all dates of a series that
// is the first. ok is false for a date that there is not.
func (m Meeting) At(on when.Day) (span when.Span, ok bool) {
	if on == 0 || !m.Repeats() {
		return m.Span(), on == 0 || !m.Repeats()
	}
	d, ok := m.Date(on)
	return d.Span, ok
}

// ProposalFault says why a time cannot be proposed, nil where it can be.
func (m Meeting) ProposalFault(p Proposal, now when.Instant) *Fault {
	is, there := m.At(p.On)
	fault := func(field string, what say.What) *Fault { return &Fault{Field: field, What: what} }
	switch n := utf8.RuneCountInString(p.Comment); {
	case !there:
		return fault("on", say.It("meeting.propose.noDate"))
	case p.Span.Empty():
		return fault("to", say.It("meeting.time.endsBefore"))
	case p.Span.Start <= now:
		return fault("from", say.It("meeting.propose.passed"))
	case !inYears(p.Span):
		return fault("from", say.It("meeting.time.lastYear", when.LastYear))
	case p.Span.Length() > LengthLimit:
		return fault("to", say.It("meeting.time.long"))
	case m.AllDay && (m.zone().LocalAt(p.Span.Start).Clock != 0 || m.zone().LocalAt(p.Span.End).Clock != 0):
		return fault("from", say.It("meeting.propose.wholeDays"))
	case p.Span == is:
		return fault("from", say.It("meeting.propose.same"))
	case n > CommentLimit:
		return fault("comment", say.It("meeting.comment.long", CommentLimit, n))
	}
	return nil
}

func inYears(s when.Span) bool {
	year, _, _ := when.Zone{}.LocalAt(s.Start).Day.Date()
	last, _, _ := when.Zone{}.LocalAt(s.End).Day.Date()
	return year >= when.FirstYear && last < when.LastYear
}

// Moved is the start and the end of what a proposal is about, in the meeting's own zone, were it
// accepted.
func (m Meeting) Moved(p Proposal) (start, end when.Local) {
	return m.zone().LocalAt(p.Span.Start), m.zone().LocalAt(p.Span.End)
}

// Stands tells whether a proposal, made when what it is about was at some time, is still to be
// decided: nothing moved since, and the time did not pass.
func (m Meeting) Stands(p Proposal, was when.Span, now when.Instant) bool {
	is, there := m.At(p.On)
	return there && is == was && p.Span.Start > now
}

// DelegateOf is who comes in the place of somebody invited (DELEGATED-TO: RFC 5545, 3.2.5).
func (m Meeting) DelegateOf(p Participant) (Participant, bool) {
	for _, x := range m.Participants {
		if x.DelegatedFrom != "" && strings.EqualFold(x.DelegatedFrom, p.Email) {
			return x, true
		}
	}
	return Participant{}, false
}
