package meeting

import (
	"slices"

	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// Change is what differs between two versions of a meeting. Time is the time of
// a meeting or of all dates of a series, End where a series ends, and Days are
// its dates that differ by themselves.
type Change struct {
	Title, Text, Time, End, Room, Link, Private, Reminder bool
	Days                                                  []when.Day
	Added, Removed                                        []Participant
	// Role are people kept who became needed or optional, Invited those kept who
	// are invited to other dates than before.
	Role, Invited []Participant
}

// Compare says what differs. Participants are the same when their IDs are.
func Compare(before, after Meeting) Change {
	a, b := before.Plan(), after.Plan()
	c := Change{
		Title: before.Title != after.Title,
		Text:  before.Text != after.Text,
		Time: a.Start != b.Start || a.End != b.End || a.Zone != b.Zone || endless(a.Rule) != endless(b.Rule) ||
			before.Repeats() != after.Repeats(),
		End:  a.Rule.Until != b.Rule.Until,
		Room: roomOf(before.Room) != roomOf(after.Room),
		Link: linkURL(before) != linkURL(after), Private: before.Private != after.Private,
		Reminder: before.RemindBefore != after.RemindBefore,
	}
	if before.Repeats() && after.Repeats() && !c.Time {
		c.Days = differentDays(before, after)
	}
	for _, p := range after.Participants {
		was, ok := before.Participant(p.ID)
		switch {
		case !ok:
			c.Added = append(c.Added, p)
			continue
		case was.Needed != p.Needed:
			c.Role = append(c.Role, p)
		}
		if !slices.Equal(was.Dates, p.Dates) {
			c.Invited = append(c.Invited, p)
		}
	}
	for _, p := range before.Participants {
		if _, ok := after.Participant(p.ID); !ok {
			c.Removed = append(c.Removed, p)
		}
	}
	return c
}

func endless(r recur.Rule) recur.Rule {
	r.Until = recur.Until{}
	return r
}

// differentDays are the dates of a series that differ by themselves: they are
// there in one version only, or at another time, or called or held otherwise
// than the others. Where the series ends does not count.
func differentDays(before, after Meeting) (out []when.Day) {
	_, days := series.Differ(before.Plan(), after.Plan())
	for _, m := range []Meeting{before, after} {
		for _, own := range m.Series.Overrides {
			days = append(days, own.On)
		}
	}
	slices.Sort(days)
	end := series.Forever
	for _, m := range []Meeting{before, after} {
		if u := m.Series.Rule.Until; u.Set {
			end = min(end, u.Moment.Day+1) // UTC may be a day behind the clock
		}
	}
	for _, day := range slices.Compact(days) {
		a, inA := before.Date(day)
		b, inB := after.Date(day)
		if (inA != inB && day <= end) || inA && inB && !sameBut(a, b, before, after) {
			out = append(out, day)
		}
	}
	return out
}

// sameBut tells whether a date is the same but for what all dates changed.
func sameBut(a, b Date, before, after Meeting) bool {
	own := func(d Date, m Meeting) Date {
		if d.Title == m.Title {
			d.Title = ""
		}
		if d.Text == m.Text {
			d.Text = ""
		}
		if roomOf(d.Room) == roomOf(m.Room) {
			d.Room = nil
		}
		return d
	}
	return own(a, before).same(own(b, after))
}

func linkURL(m Meeting) string {
	if m.Card == nil {
		return ""
	}
	return m.Card.URL
}

// Empty tells whether nothing differs.
func (c Change) Empty() bool {
	return !c.concernsAll() && !c.Private && !c.Reminder && len(c.Added)+len(c.Removed)+len(c.Role)+len(c.Invited)+len(c.Days) == 0
}

// MovesTime tells whether anybody's time or any room is taken otherwise.
func (c Change) MovesTime() bool {
	return c.Time || c.End || c.Room || len(c.Days)+len(c.Added)+len(c.Removed)+len(c.Invited) > 0
}

// concernsAll tells whether everybody who stays invited has to hear of it.
func (c Change) concernsAll() bool { return c.Title || c.Text || c.Time || c.End || c.Room || c.Link }

// Sequence is the SEQUENCE of the version after the change. It rises when the
// time changes, as RFC 5546, 2.1.4 demands, when somebody is dropped, because a
// CANCEL needs a higher one (3.2.5), and when room or link change, because
// going to the old place is missing the meeting; a new title or text leaves it.
func (c Change) Sequence(before int) int {
	if c.Time || c.End || c.Room || c.Link || len(c.Removed)+len(c.Days)+len(c.Invited) > 0 {
		return before + 1
	}
	return before
}

// AsksAgain tells whether answers given so far no longer hold.
func (c Change) AsksAgain() bool { return c.Time }

// AsksAgainOn are the dates of a series whose own answers no longer hold,
// because they are at another time.
func AsksAgainOn(before, after Meeting, c Change) (out []when.Day) {
	for _, day := range c.Days {
		a, inA := before.Date(day)
		b, inB := after.Date(day)
		if inA && inB && (a.Start != b.Start || a.End != b.End) {
			out = append(out, day)
		}
	}
	return out
}

// Kind is what a message is about.
type Kind string

const (
	Invite  Kind = "invite"
	Update  Kind = "update"
	CallOff Kind = "calloff"
)

// Message is something one participant is due. On are the dates of a series that
// it is about, nil for all that they are invited to.
type Message struct {
	To   Participant
	Kind Kind
	On   []when.Day
}

// Due says who hears what when after takes the place of before; before is nil
// when nothing was sent yet. Somebody added gets an invitation, somebody
// dropped a cancellation, the others an update when something changed that they
// can see. Of a series everybody hears of their own dates only: of single dates
// that changed, that are called off, or, where more than that changed, of the
// whole. The order is that of the participants, those dropped last.
func Due(before *Meeting, after Meeting) []Message {
	var due []Message
	if before == nil {
		for _, p := range after.Participants {
			due = append(due, Message{To: p, Kind: Invite})
		}
		return due
	}
	c := Compare(*before, after)
	for _, p := range after.Participants {
		was, known := before.Participant(p.ID)
		switch {
		case !known:
			due = append(due, Message{To: p, Kind: Invite})
		case !before.Repeats() || !after.Repeats():
			if c.concernsAll() || contains(c.Role, p.ID) {
				due = append(due, Message{To: p, Kind: Update})
			}
		default:
			due = append(due, dueOfSeries(*before, after, was, p, c)...)
		}
	}
	for _, p := range c.Removed {
		due = append(due, Message{To: p, Kind: CallOff})
	}
	return due
}

// dueOfSeries is what somebody who was and stays invited hears of a change.
func dueOfSeries(before, after Meeting, was, is Participant, c Change) []Message {
	single := was.Single && is.Single
	role := contains(c.Role, is.ID)
	if !single {
		from, to := series.Whole(was.Dates), series.Whole(is.Dates)
		sameEnds := from[0].From == to[0].From && from[len(from)-1].To == to[len(to)-1].To
		everything := c.Title || c.Text || c.Time || c.Room || c.Link || c.End && !is.Finite()
		if everything || role || was.Single || !sameEnds {
			return []Message{{To: is, Kind: Update}}
		}
	}
	changed, dropped := daysFor(before, after, was, is, c)
	switch {
	case single && role:
		return []Message{{To: is, Kind: Update}}
	case !single && len(changed) > 0 && len(dropped) > 0:
		return []Message{{To: is, Kind: Update}}
	}
	var due []Message
	if len(changed) > 0 {
		due = append(due, Message{To: is, Kind: Update, On: changed})
	}
	if len(dropped) > 0 {
		due = append(due, Message{To: is, Kind: CallOff, On: dropped})
	}
	return due
}

// daysFor are the dates that changed for somebody, and those that they have no
// longer.
func daysFor(before, after Meeting, was, is Participant, c Change) (changed, dropped []when.Day) {
	days := slices.Clone(c.Days)
	// Where somebody is invited to some dates, each of them is looked at, and
	// each date between them.
	for _, p := range []Participant{was, is} {
		for i, r := range p.Dates {
			if i > 0 {
				r.From = p.Dates[i-1].To + 1
			}
			if r.To == 0 {
				r.To = p.Dates[i].From
			}
			for _, m := range []Meeting{before, after} {
				for _, d := range m.datesIn(r) {
					days = append(days, d.On)
				}
			}
		}
	}
	slices.Sort(days)
	for _, day := range slices.Compact(days) {
		a, inA := before.Date(day)
		b, inB := after.Date(day)
		inA, inB = inA && was.On(day), inB && is.On(day)
		switch {
		case inA && !inB:
			dropped = append(dropped, day)
		case inB && (!inA || !a.same(b) || c.Link):
			changed = append(changed, day)
		}
	}
	return changed, dropped
}

func contains(people []Participant, id string) bool {
	for _, p := range people {
		if p.ID == id {
			return true
		}
	}
	return false
}

// CalledOff is the version that calls m off, and who has to hear it: everybody.
func CalledOff(m Meeting) (Meeting, []Message) {
	m.Sequence++
	var due []Message
	for _, p := range m.Participants {
		due = append(due, Message{To: p, Kind: CallOff})
	}
	return m, due
}

// Reply is an answer as it arrived, with what it refers to.
type Reply struct {
	Answer   Answer
	Comment  string
	Sequence int   // the version answered
	Stamp    int64 // DTSTAMP, Unix seconds: when it was given
}

// Standing is what is known of one participant when a reply arrives.
type Standing struct {
	SentSequence int   // of the newest message they were sent
	Stamp        int64 // of the answer that holds now, 0 for none
}

// Stale tells whether a reply is older than what it answers, or than the answer
// that holds already (RFC 5546, 2.1.5): it is kept and changes nothing.
func (r Reply) Stale(s Standing) bool {
	return r.Sequence < s.SentSequence || r.Stamp < s.Stamp
}
