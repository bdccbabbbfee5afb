package meeting

import (
	"jembro/internal/core/when"
)

// News is what is new for somebody inside, as it is kept: what they are told of a
// meeting, from what to what, or what happened to one that they organise.
type News struct {
	Title string `json:"title"`
	Who   string `json:"who,omitempty"` // who organises it
	// On are the dates of a series that it is about, none for all of theirs.
	On []when.Day `json:"on,omitempty"`
	// Is is how it stands now, Was how it stood before where that is another: of the
	// meeting, or of the first date that it is about.
	Is      Occasion  `json:"is"`
	Was     *Occasion `json:"was,omitempty"`
	Changed []string  `json:"changed,omitempty"` // "organiser", "title", "text", "files", "link", "role", "dates", as ChangeFacts names them
	Needed  bool      `json:"needed,omitempty"`
	// Dropped is set for somebody taken off a meeting that goes on, Goes for one who
	// follows into the series that goes on from another.
	Dropped bool   `json:"dropped,omitempty"`
	Goes    bool   `json:"goes,omitempty"`
	Word    string `json:"word,omitempty"` // that came with it
	// RoomID is the room that its reader is asked for.
	RoomID string `json:"roomId,omitempty"`
	// Event is what happened to a meeting of theirs.
	Event *Event `json:"event,omitempty"`
}

// Occasion is when and where something is.
type Occasion struct {
	Start when.Instant `json:"start"`
	End   when.Instant `json:"end"`
	Room  string       `json:"room,omitempty"`
	Title string       `json:"title,omitempty"`
	Plan  string       `json:"plan,omitempty"` // in words, as it was kept once; Rule since
	// Rule is how it repeats (RRULE, without an end), First its first day and Last its last, 0 for one
	// without an end.
	Rule  string   `json:"rule,omitempty"`
	First when.Day `json:"first,omitzero"`
	Last  when.Day `json:"last,omitzero"`
	// AllDay tells that it takes whole days: Start and End are the midnights of UTC then.
	AllDay bool `json:"allDay,omitempty"`
}

// Span is the time of it.
func (o Occasion) Span() when.Span { return when.Span{Start: o.Start, End: o.End} }

// NewsOf is what a message tells its reader when after takes the place of before, which
// is nil for a meeting that is new. Off tells that all of it is called off.
func NewsOf(before *Meeting, after Meeting, m Message, off bool) News {
	id := m.To.ID
	_, stays := after.Participant(id)
	n := News{Who: after.Organiser.Name, On: m.On, Needed: m.To.Needed, Dropped: m.Kind == CallOff && !off && !stays}
	var was Occasion
	known := false
	if before != nil {
		if _, known = before.Participant(id); known {
			was = before.occasion(id, m.On)
		}
	}
	switch {
	case m.Kind == CallOff && known:
		n.Is = was
	default:
		n.Is = after.occasion(id, m.On)
	}
	n.Title = n.Is.Title
	n.Goes = m.Kind == Update && before != nil && !known // into the series that goes on
	if m.Kind != Update || !known {
		return n
	}
	if was != n.Is {
		n.Was = &was
	}
	c := Compare(*before, after)
	for _, x := range []struct {
		is   bool
		name string
	}{{c.Organiser, "organiser"}, {c.Text, "text"}, {c.Files, "files"}, {c.Link, "link"}, {contains(c.Role, id), "role"}, {contains(c.Invited, id), "dates"}, {c.End, "end"}} {
		if x.is {
			n.Changed = append(n.Changed, x.name)
		}
	}
	return n
}

// occasion is the meeting for one of those invited, or one date of it: the first of
// those that a message is about.
func (m Meeting) occasion(id string, on []when.Day) Occasion {
	out := Occasion{Title: m.Title, AllDay: m.AllDay}
	span, room := m.SpanFor(id), m.Room
	if len(on) > 0 {
		if d, ok := m.Date(on[0]); ok {
			span, room, out.Title = d.Span, d.Room, d.Title
		}
	} else if m.Repeats() {
		plan := m.Plan()
		out.Rule, out.First = endless(plan.Rule).String(), plan.Start.Day
		out.Last, _ = plan.Last()
		if me, ok := m.Participant(id); ok && len(me.Dates) > 0 {
			out.Rule, out.First, out.Last = "", 0, 0
			for _, d := range m.DatesOf(me, me.firstDay(m)+2*Horizon) { // the first of theirs
				room, out.Title = d.Room, d.Title
				break
			}
		}
	}
	if out.Start, out.End = span.Start, span.End; room != nil {
		out.Room = room.Name
	}
	return out
}

// NewsOfEvent is what happened to a meeting, for who organises it.
func NewsOfEvent(m Meeting, e Event) News {
	n := News{Title: m.Title, Is: m.occasion("", nil), Event: &e} // as the organiser calls it
	if e.On != 0 {
		n.On, n.Is = []when.Day{e.On}, m.occasion("", []when.Day{e.On})
	}
	return n
}

// New tells whether an event is something to hear of: not an answer that changes nothing
// and asks for nothing.
func (e Event) New() bool {
	if e.Kind == EventDelayed { // it may well arrive yet
		return false
	}
	return e.Kind != EventAnswered || e.Verdict == "" || e.Verdict == Counts || e.Verdict.Open()
}
