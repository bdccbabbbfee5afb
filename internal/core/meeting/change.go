package meeting

import (
	"fmt"
	"strings"
)

// Change is what differs between two versions of a meeting.
type Change struct {
	Title, Text, Time, Room, Link, Private, Reminder bool
	Added, Removed                                   []Participant
	// Role are people kept who became needed or optional.
	Role []Participant
}

// Compare says what differs. Participants are the same when their IDs are.
func Compare(before, after Meeting) Change {
	c := Change{
		Title: before.Title != after.Title,
		Text:  before.Text != after.Text,
		Time:  before.Start != after.Start || before.End != after.End || before.Zone != after.Zone,
		Room:  roomID(before) != roomID(after),
		Link:  linkURL(before) != linkURL(after), Private: before.Private != after.Private,
		Reminder: before.RemindBefore != after.RemindBefore,
	}
	for _, p := range after.Participants {
		switch was, ok := before.Participant(p.ID); {
		case !ok:
			c.Added = append(c.Added, p)
		case was.Needed != p.Needed:
			c.Role = append(c.Role, p)
		}
	}
	for _, p := range before.Participants {
		if _, ok := after.Participant(p.ID); !ok {
			c.Removed = append(c.Removed, p)
		}
	}
	return c
}

func roomID(m Meeting) string {
	if m.Room == nil {
		return ""
	}
	return m.Room.ID
}

func linkURL(m Meeting) string {
	if m.Card == nil {
		return ""
	}
	return m.Card.URL
}

// Empty tells whether nothing differs.
func (c Change) Empty() bool {
	return !c.concernsAll() && !c.Private && !c.Reminder && len(c.Added)+len(c.Removed)+len(c.Role) == 0
}

// concernsAll tells whether everybody who stays invited has to hear of it.
func (c Change) concernsAll() bool { return c.Title || c.Text || c.Time || c.Room || c.Link }

// Sequence is the SEQUENCE of the version after the change. It rises when the
// time changes, as RFC 5546, 2.1.4 demands, when somebody is dropped, because a
// CANCEL needs a higher one (3.2.5), and when room or link change, because
// going to the old place is missing the meeting; a new title or text leaves it.
func (c Change) Sequence(before int) int {
	if c.Time || c.Room || c.Link || len(c.Removed) > 0 {
		return before + 1
	}
	return before
}

// AsksAgain tells whether answers given so far no longer hold.
func (c Change) AsksAgain() bool { return c.Time }

// Kind is what a message is about.
type Kind string

const (
	Invite  Kind = "invite"
	Update  Kind = "update"
	CallOff Kind = "calloff"
)

// Message is something one participant is due.
type Message struct {
	To   Participant
	Kind Kind
}

// Due says who hears what when after takes the place of before; before is nil
// when nothing was sent yet. Somebody added gets an invitation, somebody
// dropped a cancellation, the others an update when something changed that they
// can see; nobody gets more than one message, and the order is that of the
// participants, those dropped last.
func Due(before *Meeting, after Meeting) []Message {
	var due []Message
	if before == nil {
		for _, p := range after.Participants {
			due = append(due, Message{p, Invite})
		}
		return due
	}
	c := Compare(*before, after)
	for _, p := range after.Participants {
		switch {
		case contains(c.Added, p.ID):
			due = append(due, Message{p, Invite})
		case c.concernsAll(), contains(c.Role, p.ID):
			due = append(due, Message{p, Update})
		}
	}
	for _, p := range c.Removed {
		due = append(due, Message{p, CallOff})
	}
	return due
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
		due = append(due, Message{p, CallOff})
	}
	return m, due
}

// Words says what changed, as the subject of an update and the history of a
// meeting tell it: "time, room".
func (c Change) Words() string {
	var parts []string
	for _, p := range []struct {
		is   bool
		word string
	}{{c.Time, "time"}, {c.Room, "room"}, {c.Link, "link"}, {c.Title, "title"}, {c.Text, "text"}, {c.Private, "privacy"}, {c.Reminder, "reminder"}} {
		if p.is {
			parts = append(parts, p.word)
		}
	}
	count := func(n int, word string) {
		if n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, word))
		}
	}
	count(len(c.Added), "added")
	count(len(c.Removed), "dropped")
	count(len(c.Role), "now needed or optional")
	return strings.Join(parts, ", ")
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
