package meeting

import (
	"slices"
	"strings"

	"jembro/internal/core/join"
	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// ends is the day on which a series ends, Forever for one that does not.
func ends(p series.Plan) when.Day {
	if day, ok := p.EndDay(); ok {
		return day
	}
	return series.Forever
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
		if u := m.Series.Rule.Until; u.Set && before.Series.Rule.Until != after.Series.Rule.Until {
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

// sameBut tells whether a date is the same but for what all dates changed. To be as
// all are, and to have nothing where they have something, are different things.
func sameBut(a, b Date, before, after Meeting) bool {
	same := func(asAll, asAllNow, equal bool) bool { return asAll == asAllNow && (asAll || equal) }
	return a.Span == b.Span &&
		same(a.Title == before.Title, b.Title == after.Title, a.Title == b.Title) &&
		same(a.Text == before.Text, b.Text == after.Text, a.Text == b.Text) &&
		same(roomOf(a.Room) == roomOf(before.Room), roomOf(b.Room) == roomOf(after.Room), roomOf(a.Room) == roomOf(b.Room))
}

func doorOf(m Meeting) join.Door {
	if m.Card == nil {
		return join.Door{}
	}
	return m.Card.Door
}

// Empty tells whether nothing differs.
func (c Change) Empty() bool {
	return !c.concernsAll() && !c.Door && !c.Private && !c.Apart && !c.Rights && !c.Reminder && !c.Free && len(c.Added)+len(c.Removed)+len(c.Role)+len(c.Invited)+len(c.Days) == 0
}

// MovesTime tells whether anybody's time or any room is taken otherwise.
func (c Change) MovesTime() bool {
	return c.Time || c.End || c.Room || c.Free || len(c.Days)+len(c.Added)+len(c.Removed)+len(c.Invited) > 0
}

// concernsAll tells whether everybody who stays invited has to hear of it.
func (c Change) concernsAll() bool {
	return c.Title || c.Text || c.Files || c.Time || c.End || c.Room || c.Link || c.Free || c.Organiser
}

// Sequence is the SEQUENCE of the version after the change. It rises when the
// time changes, as RFC 5546, 2.1.4 demands, when somebody is dropped, because a
// CANCEL needs a higher one (3.2.5), when somebody who was dropped is back, and when
// room or link change, because going to the old place is missing the meeting, and when
// somebody else organises it (RFC 5546, 3.2.2.6); a new title or text leaves it.
func (c Change) Sequence(before int) int {
	if c.Time || c.End || c.Room || c.Link || c.Organiser || c.Back || len(c.Removed)+len(c.Days)+len(c.Invited) > 0 {
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
		if inA && inB && a.Span != b.Span {
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
	// Clear takes back single dates that a new whole has in another way: nothing is
	// called off by it.
	Clear Kind = "clear"
	// Keep tells somebody who proposed another time that it stays as it is.
	Keep Kind = "keep"
	// Remind says that a meeting is near; it is no part of what is settled.
	Remind Kind = "remind"
)

// Message is something one participant is due. On are the dates of a series that
// it is about, nil for all that they are invited to. IDs are the RECURRENCE-IDs of
// what a CallOff of single dates, or a Clear, takes back.
type Message struct {
	To   Participant
	Kind Kind
	On   []when.Day
	IDs  []when.Instant
}

// Announce says who hears what when after takes the place of before, and gives after
// back with what everybody's calendar holds then; before is nil when nothing was
// sent yet. Somebody added gets an invitation, somebody dropped a cancellation, the
// others an update when something changed that they can see. Of a series everybody
// hears of their own dates only: of single dates that changed, that are called off,
// or, where more than that changed, of the whole. The order is that of the
// participants, those dropped last.
func Announce(before *Meeting, after Meeting) (Meeting, []Message) {
	var due []Message
	var c Change
	if before != nil {
		c = Compare(*before, after)
		after.TakenOff = takenOff(before.TakenOff, c)
	}
	after.Participants = slices.Clone(after.Participants)
	var unclear []when.Day
	if after.Repeats() {
		unclear = after.Plan().Unclear()
	}
	for i, p := range after.Participants {
		var theirs []Message
		was, known := Participant{}, false
		if before != nil {
			was, known = before.Participant(p.ID)
		}
		p.Told = was.Told
		switch {
		case !known:
			theirs = []Message{{To: p, Kind: Invite}}
		case !before.Repeats() || !after.Repeats():
			if c.concernsAll() || contains(c.Role, p.ID) {
				theirs = []Message{{To: p, Kind: Update}}
			}
		default:
			theirs = dueOfSeries(*before, after, was, p, c)
		}
		if p.Outside() {
			var clear *Message
			if p, clear = after.tell(p, theirs, unclear); clear != nil {
				theirs = append(theirs, *clear)
			}
		}
		after.Participants[i] = p
		for _, m := range theirs {
			m.To = p
			due = append(due, m)
		}
	}
	for _, p := range c.Removed {
		due = append(due, before.callOffFor(p))
	}
	return after, due
}

// takenOff are the addresses of those who were taken off and are not back: an
// invitation has to rise above the cancellation they had.
func takenOff(before []string, c Change) []string {
	out := slices.Clone(before)
	for _, p := range c.Removed {
		out = append(out, strings.ToLower(p.Email))
	}
	out = slices.DeleteFunc(out, func(email string) bool {
		return slices.ContainsFunc(c.Added, func(p Participant) bool { return strings.EqualFold(p.Email, email) })
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// callOffFor takes all that somebody was invited to back: the whole, or the date
// that is all they know.
func (m Meeting) callOffFor(p Participant) Message {
	out := Message{To: p, Kind: CallOff}
	if !p.Single || !m.Repeats() {
		return out
	}
	for _, d := range m.theirs(p, nil) {
		out.On = append(out.On, d.On)
	}
	out.IDs = m.ids(out.On)
	return out
}

// ids are the RECURRENCE-IDs of days of the rule.
func (m Meeting) ids(days []when.Day) (out []when.Instant) {
	for _, day := range days {
		out = append(out, m.Plan().Regular(day).Span.Start)
	}
	return out
}

// dueOfSeries is what somebody who was and stays invited hears of a change.
func dueOfSeries(before, after Meeting, was, is Participant, c Change) []Message {
	whole := []Message{{To: is, Kind: Update}}
	single := was.Single && is.Single
	role := contains(c.Role, is.ID)
	if !single {
		from, to := series.Whole(was.Dates), series.Whole(is.Dates)
		sameEnds := from[0].From == to[0].From && from[len(from)-1].To == to[len(to)-1].To
		everything := c.Title || c.Text || c.Files || c.Time || c.Room || c.Link || c.Organiser || c.End && !is.Finite()
		if everything || role || was.Single || !sameEnds {
			return whole
		}
	}
	d := daysFor(before, after, was, is, c)
	switch {
	case single && role:
		return whole
	case !single && (len(d.added) > 0 || len(d.changed) > 0 && len(d.dropped) > 0):
		return whole
	}
	var due []Message
	if changed := slices.Concat(d.added, d.changed); len(changed) > 0 {
		slices.Sort(changed)
		due = append(due, Message{To: is, Kind: Update, On: changed})
	}
	if len(d.dropped) > 0 {
		due = append(due, Message{To: is, Kind: CallOff, On: d.dropped, IDs: before.ids(d.dropped)})
	}
	return due
}

// differentFor are the dates that differ for somebody: that they have now, in
// another way, and no longer.
type differentFor struct{ added, changed, dropped []when.Day }

func daysFor(before, after Meeting, was, is Participant, c Change) (out differentFor) {
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
			out.dropped = append(out.dropped, day)
		case inB && !inA:
			out.added = append(out.added, day)
		case inB && (!a.same(b) || c.Link || c.Organiser):
			out.changed = append(out.changed, day)
		}
	}
	return out
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
		due = append(due, m.callOffFor(p))
	}
	return m, due
}
