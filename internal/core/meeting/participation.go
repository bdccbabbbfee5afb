package meeting

import (
	"iter"
	"maps"
	"slices"

	"jembro/internal/core/when"
)

// Answers is what is kept of the answers of one participant: All of those to all dates, and On,
// by the day in the rule, of those to single dates of a series.
type Answers struct {
	All Standing
	On  map[when.Day]Standing
}

// to is the answer that holds for a date, NoAnswer where there is none; own tells that it was
// given to that date.
func (a Answers) to(on when.Day) (answer Answer, own bool) {
	date := a.On[on]
	switch {
	case date.Answer.Known():
		return date.Answer, true
	case !a.All.Answer.Known(), date.Moved > 0 && a.All.Stamp <= date.Moved:
		return NoAnswer, false
	}
	return a.All.Answer, false
}

// ToAll is the answer to all dates, NoAnswer where there is none.
func (a Answers) ToAll() Answer {
	if a.All.Answer.Known() {
		return a.All.Answer
	}
	return NoAnswer
}

// Standing is what is known when an answer to one date arrives.
func (a Answers) Standing(on when.Day) Standing {
	date := a.On[on]
	date.SentSequence = max(date.SentSequence, a.All.SentSequence)
	return date
}

// Shown is what is known when an answer to all dates arrives from a page, which shows every date
// as it is: it is to the newest of what they were sent, and given after all that has moved.
func (a Answers) Shown() Standing {
	all := a.All
	for _, date := range a.On {
		all.SentSequence, all.Stamp = max(all.SentSequence, date.SentSequence), max(all.Stamp, date.Moved)
	}
	return all
}

// Seen is the SEQUENCE of what a page shows them: the newest that they were sent, or answered.
func (a Answers) Seen() int {
	shown := a.Shown()
	return max(shown.SentSequence, shown.Sequence)
}

// SeenOn is the same of one date.
func (a Answers) SeenOn(on when.Day) int {
	date := a.Standing(on)
	return max(date.SentSequence, date.Sequence)
}

// Known are the dates of which an answer to all knows that they moved, by the version that it is
// to, though the clock it was given by is behind.
func (a Answers) Known(r Reply) (days []when.Day) {
	for on, date := range a.On {
		if date.Moved >= r.Stamp && r.Sequence >= date.SentSequence {
			days = append(days, on)
		}
	}
	slices.Sort(days)
	return days
}

// Single are the dates whose answer is another one than that to all, in their order.
func (a Answers) Single() (out []DateAnswer) {
	for _, on := range slices.Sorted(maps.Keys(a.On)) {
		if answer, _ := a.to(on); answer != a.ToAll() {
			out = append(out, DateAnswer{On: on, Answer: answer})
		}
	}
	return out
}

// Participation is how a participant stands to one date of a meeting.
type Participation struct {
	On      when.Day
	Span    when.Span
	Invited bool // to that date, and there is one
	Needed  bool
	// Answer is the one that holds for the date, NoAnswer where there is none. Own tells that it
	// was given to that date, not to all.
	Answer Answer
	Own    bool
	// Sends tells that they send somebody in their place, and are not waited for.
	Sends bool
}

// Waits tells whether the date waits for them to say whether they come.
func (p Participation) Waits() bool { return p.Invited && !p.Sends && p.Answer == NoAnswer }

// Comes tells whether they are expected: they are invited, did not decline, and send nobody.
func (p Participation) Comes() bool { return p.Invited && !p.Sends && p.Answer != Declined }

// Part is the part that a participant has in a meeting. It is the one place that says who is asked
// to which date and what they answered; whatever asks that asks here, or the rows that are
// written from it.
//
// An answer to a single date stands until that date moves or is answered anew. An answer to all
// counts for every date that has no single answer standing, wherever that date was moved to
// before. For a date that moves after the answer to all was given, nobody has answered: what they
// answered to was another time (RFC 5546, 2.1.5).
type Part struct {
	Participant
	answers Answers
	meeting Meeting
	sends   bool
}

// PartOf is the part of a participant with what is kept of their answers.
func (m Meeting) PartOf(p Participant, a Answers) Part {
	_, sends := m.DelegateOf(p)
	return Part{Participant: p, answers: a, meeting: m, sends: sends}
}

// Kept is what is kept of their answers.
func (x Part) Kept() Answers { return x.answers }

// At is their participation in the date on a day of the rule; of a meeting that is once any day
// will do.
func (x Part) At(on when.Day) Participation {
	if !x.meeting.Repeats() {
		on = x.meeting.Start.Day
	}
	d, is := x.meeting.Date(on)
	out := x.in(d)
	out.Invited = out.Invited && is
	return out
}

// in is their participation in a date of the meeting.
func (x Part) in(d Date) Participation {
	out := Participation{On: d.On, Span: d.Span, Invited: x.Participant.On(d.On), Needed: x.Needed, Sends: x.sends}
	out.Answer, out.Own = x.answers.to(d.On)
	return out
}

// Upto yields their participation in each date that they are invited to, up to and with a day of
// the rule.
func (x Part) Upto(until when.Day) iter.Seq[Participation] {
	return func(yield func(Participation) bool) {
		for d := range x.meeting.Dates(x.firstDay(x.meeting)) {
			if d.On > until || d.On > x.until() {
				return
			}
			if p := x.in(d); p.Invited && !yield(p) {
				return
			}
		}
	}
}

// Waiting is the nearest date to come that waits for their answer, of those that are written
// down; ok is false where none does.
func (x Part) Waiting(now when.Instant) (next Participation, ok bool) {
	for p := range x.Upto(x.meeting.WrittenTo(now)) {
		if p.Waits() && p.Span.End > now && (!ok || p.Span.Start < next.Span.Start) {
			next, ok = p, true
		}
	}
	return next, ok
}

// WaitingOn are the days of the dates to come that wait for their answer, none where all do: then
// it is the meeting that waits.
func (x Part) WaitingOn(now when.Instant) (days []when.Day) {
	answered := false
	for p := range x.Upto(x.meeting.WrittenTo(now)) {
		switch {
		case p.Waits() && p.Span.End > now:
			days = append(days, p.On)
		case p.Answer != NoAnswer:
			answered = true
		}
	}
	if !answered {
		return nil
	}
	return days
}

// WrittenTo is the day of the rule up to which the dates of a meeting are written down.
func (m Meeting) WrittenTo(now when.Instant) when.Day {
	return max(m.Start.Day, m.StartIn().Zone.LocalAt(now).Day+Horizon)
}
