// Package loose finds loose ends: what keeps meetings from happening, the worst and nearest
// first. It knows no sentences; package words makes them.
package loose

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Kind is what is loose.
type Kind string

const (
	NoRoom     Kind = "noRoom"     // a room is meant and none is booked
	NotReached Kind = "notReached" // a message did not get to somebody
	Call       Kind = "call"       // something keeps people from the call
	Declined   Kind = "declined"   // somebody needed does not come
	Clash      Kind = "clash"      // the organiser has two things at once
	Underway   Kind = "underway"   // a message is held up on its way
	Proposed   Kind = "proposed"   // somebody proposes another time
	Unclear    Kind = "unclear"    // an answer came that does not count by itself
	Silent     Kind = "silent"     // somebody needed says nothing, and it is soon
	Ends       Kind = "ends"       // a series is about to end
	Unsent     Kind = "unsent"     // a sheet was to go out by itself and did not
)

// worst is how bad each kind is: 0 keeps a meeting from happening as it was meant, 1 may, 2 is
// for later.
var worst = map[Kind]int{NoRoom: 0, NotReached: 0, Call: 0, Declined: 0, Clash: 1, Underway: 1, Proposed: 1, Unclear: 1, Silent: 1, Ends: 2, Unsent: 0}

// How far ahead is looked.
const (
	Ahead      = 14 * 24 * time.Hour // for rooms and answers
	clashAhead = 7 * 24 * time.Hour
	silentFor  = 36 * time.Hour // before its start, whoever is needed should have answered
)

// Person is somebody invited to a date, as they stand to it. Message is the newest to them, and
// Lost or Held tell that it did not get there, or is held up. AskedAt is when they were asked
// last, and Spoken tells that they were told in another way since.
type Person struct {
	ID, Name   string
	Needed     bool
	Answer     meeting.Answer
	Message    string
	Lost, Held bool
	AskedAt    when.Instant
	Spoken     bool
}

// silent tells whether somebody should have answered by now.
func (p Person) silent(now when.Instant) bool {
	return p.Needed && p.Answer == meeting.NoAnswer && !p.Spoken && p.AskedAt.Add(meeting.AskedAgainAfter) <= now
}

// Date is one date of a meeting that the reader organises, or is part of.
type Date struct {
	MeetingID, Title string
	On               when.Day
	Span             when.Span
	AllDay, Free     bool // Free leaves people's time clear
	Mine             bool // the reader organises it
	Coming           bool // the reader is going to be there: it is theirs, or they accepted
	// Room is the one that is meant, "" for none; Booked tells that it is booked, or its keeper
	// asked.
	Room   string
	Booked bool
	People []Person
}

// Whole is what concerns all of a meeting that the reader organises. Next is its next date.
type Whole struct {
	MeetingID, Title string
	Next             Date
	// Trouble is what is the matter with its call, nil for nothing.
	Trouble *meeting.Event
	// Letters are answers by mail that wait to be decided, with who wrote them; Proposals the
	// times that people propose.
	Letters, Proposals []Mail
	// LastDay is the last day of a series that is about to end, 0 for none.
	LastDay when.Day
}

// Waited is a sheet that was to go out by itself, and Why it did not.
type Waited struct {
	Sheet, Title string
	Why          say.What
	Start        when.Instant // of its meeting, 0 while that is not clear
}

// Mail is one thing that somebody wrote, by its ID. Verdict is why it waits, "" for a proposal.
type Mail struct {
	ID, Name string
	Verdict  meeting.Verdict
}

// End is one loose end. Key names it for as long as it is the same.
type End struct {
	Kind
	Key              string
	MeetingID, Title string
	On               when.Day
	Span             when.Span
	Room             string         // with NoRoom
	Person           Person         // with NotReached, Declined, Underway, Silent
	Mail             Mail           // with Unclear and Proposed
	Trouble          *meeting.Event // with Call
	LastDay          when.Day       // with Ends
	Other            string         // with Clash: the title of the other meeting
	Since            when.Instant   // with Clash: when that one starts
	Sheet            string         // with Unsent, which has no meeting
	Why              say.What       // with Unsent
}

// Worst tells how bad it is: 0 keeps the meeting from happening as it was meant, 1 may, 2 is for
// later.
func (e End) Worst() int { return worst[e.Kind] }

// Find finds the loose ends of dates to come and of their meetings. Of what is the same on
// several dates of a series the nearest is given, but for rooms: each date needs its own.
// Unsent are sheets that did not go out.
func Find(now when.Instant, dates []Date, all []Whole, unsent ...Waited) (out []End) {
	seen := map[string]bool{}
	add := func(e End, parts ...string) {
		e.Key = strings.Join(append([]string{string(e.Kind), e.MeetingID}, parts...), " ")
		if !seen[e.Key] {
			seen[e.Key] = true
			out = append(out, e)
		}
	}
	dates = slices.Clone(dates)
	slices.SortStableFunc(dates, func(a, b Date) int { return cmp.Compare(a.Span.Start, b.Span.Start) })
	for _, d := range dates {
		if d.Span.End <= now || !d.Mine {
			continue
		}
		e := End{MeetingID: d.MeetingID, Title: d.Title, On: d.On, Span: d.Span}
		if d.Room != "" && !d.Booked && d.Span.Start < now.Add(Ahead) {
			e.Kind, e.Room = NoRoom, d.Room
			add(e, d.On.String())
		}
		for _, p := range d.People {
			e.Person = p
			switch {
			case p.Lost:
				e.Kind = NotReached
				add(e, p.ID, p.Message)
			case p.Held:
				e.Kind = Underway
				add(e, p.ID, p.Message)
			case p.Needed && p.Answer == meeting.Declined && d.Span.Start < now.Add(Ahead):
				e.Kind = Declined
				add(e, p.ID, d.On.String())
			case p.silent(now) && d.Span.Start < now.Add(silentFor):
				e.Kind = Silent
				add(e, p.ID, d.On.String())
			}
		}
	}
	for _, w := range all {
		e := End{MeetingID: w.MeetingID, Title: w.Title, On: w.Next.On, Span: w.Next.Span}
		if w.Trouble != nil && w.Next.Span.Start < now.Add(Ahead) {
			e.Kind, e.Trouble = Call, w.Trouble
			add(e, string(w.Trouble.Kind))
		}
		for _, l := range w.Letters {
			e.Kind, e.Mail = Unclear, l
			add(e, l.ID)
		}
		for _, p := range w.Proposals {
			e.Kind, e.Mail = Proposed, p
			add(e, p.ID)
		}
		if w.LastDay != 0 {
			e.Kind, e.LastDay = Ends, w.LastDay
			add(e, w.LastDay.String())
		}
	}
	for _, w := range unsent {
		add(End{Kind: Unsent, Title: w.Title, Span: when.Span{Start: w.Start, End: w.Start}, Sheet: w.Sheet, Why: w.Why}, w.Sheet)
	}
	for _, e := range clashes(now, dates) {
		add(e, e.On.String(), e.Other)
	}
	slices.SortStableFunc(out, func(a, b End) int {
		return cmp.Or(cmp.Compare(a.Worst(), b.Worst()), cmp.Compare(a.Span.Start, b.Span.Start), cmp.Compare(a.Title, b.Title))
	})
	return out
}

// clashes are dates at which the reader would have to be in two meetings; dates are in the order
// of their start. The later one is given, with the title of the earlier.
func clashes(now when.Instant, dates []Date) (out []End) {
	var open []Date
	for _, d := range dates {
		if !d.Coming || d.Free || d.AllDay || d.Span.End <= now || d.Span.Start >= now.Add(clashAhead) {
			continue
		}
		open = slices.DeleteFunc(open, func(o Date) bool { return o.Span.End <= d.Span.Start })
		if len(open) > 0 {
			out = append(out, End{Kind: Clash, MeetingID: d.MeetingID, Title: d.Title, On: d.On, Span: d.Span, Other: open[0].Title, Since: open[0].Span.Start})
		}
		open = append(open, d)
	}
	return out
}
