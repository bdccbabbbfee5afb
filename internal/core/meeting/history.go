package meeting

import (
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// EventKind is what happened to a meeting.
type EventKind string

const (
	EventSent         EventKind = "sent"
	EventChanged      EventKind = "changed"
	EventEnded        EventKind = "ended"        // the series ends, and goes on as another
	EventGoesOn       EventKind = "goesOn"       // this series goes on from another
	EventRoomBooked   EventKind = "booked"       // Name is the room
	EventRoomBack     EventKind = "givenBack"    // Name is the room
	EventRoomLost     EventKind = "roomLost"     // no room on Days
	EventRoomAsked    EventKind = "roomAsked"    // the keeper of the room Name has to agree
	EventRoomWanted   EventKind = "roomWanted"   // the same as its keeper hears it: Who wants the room Name
	EventRoomAgreed   EventKind = "roomAgreed"   // Who agreed to the room Name, on so many dates as Told
	EventRoomRefused  EventKind = "roomRefused"  // Who refused the room Name; Comment is why
	EventRoomLapsed   EventKind = "roomLapsed"   // nobody answered for the room Name in time
	EventTurn         EventKind = "turn"         // the room Name is clear, or people where it is "", at a time that was waited for
	EventStillNeeded  EventKind = "stillNeeded"  // nobody has said they come; Name is the room
	EventLinkMade     EventKind = "linkMade"     // Name is the provider
	EventLinkStays    EventKind = "linkStays"    // the provider could not be told; Name is the provider
	EventLinkAwaited  EventKind = "linkAwaited"  // Name is the provider, which makes it later
	EventLinkTaken    EventKind = "linkTaken"    // one that was there already; Name is the provider, or empty
	EventLinkLate     EventKind = "linkLate"     // the provider Name has not made it; Reason is why
	EventLinkGone     EventKind = "linkGone"     // the provider Name does not know the call any more
	EventLinkReplaced EventKind = "linkReplaced" // the standing link Name leads elsewhere now
	EventCalledOff    EventKind = "calledOff"
	EventDatesOff     EventKind = "datesCalledOff" // those of Scope
	EventAnswered     EventKind = "answered"
	EventNotAccepted  EventKind = "refused"     // a message to Name; Reason is what the other side said
	EventReturned     EventKind = "returned"    // the message to Name came back; Reason is what the other side said
	EventDelayed      EventKind = "delayed"     // a server goes on trying to hand over the message to Name
	EventChallenged   EventKind = "challenged"  // the mailbox of Name asks its sender to confirm; Reason is how
	EventAutomatic    EventKind = "automatic"   // the mailbox of Name answered by itself; Reason is what
	EventComplained   EventKind = "complained"  // Name reported the message as unwanted
	EventPageRenewed  EventKind = "pageRenewed" // Who made the address of Name's own page anew
	EventSentAgain    EventKind = "sentAgain"   // Who sent the message to Name once more, to the address Reason where it is another
	EventAskedAgain   EventKind = "askedAgain"  // Who asked Name again to answer
	EventProposed     EventKind = "proposed"    // Name proposes another time, for On or for all
	EventKept         EventKind = "kept"        // Who keeps the time that it is, to what Name proposed
	EventSends        EventKind = "sends"       // Name sends somebody else, at the address Reason
	EventRefreshed    EventKind = "refreshed"   // the program of Name asked how it stands, and was told
	EventBrought      EventKind = "brought"     // Who brings Name along
	EventJoined       EventKind = "joined"      // Name asked for an invitation at the short address
	EventTold         EventKind = "told"        // Who told Name in another way
	EventLetter       EventKind = "letter"      // somebody wrote without answering; Name is who
	EventHandedOver   EventKind = "handedOver"  // Who handed it over to Name, who organises it now
	EventAway         EventKind = "away"        // Who is away from the first of Days to the last, and declined Titles
	EventSaid         EventKind = "said"        // in words, as history was kept once
)

// Event is what happened, as it is kept; package words makes a sentence of it.
type Event struct {
	Kind    EventKind     `json:"-"`
	Who     string        `json:"who,omitempty"` // who did it
	Told    int           `json:"told,omitempty"`
	Change  *ChangeFacts  `json:"change,omitempty"`
	Name    string        `json:"name,omitempty"`
	Reason  string        `json:"reason,omitempty"` // in the words of others
	Why     *say.What     `json:"why,omitempty"`    // as it is said here
	Days    []when.Day    `json:"days,omitempty"`
	Scope   *series.Range `json:"scope,omitempty"`
	GoesOn  string        `json:"goesOn,omitempty"` // in words, as it was kept once; Next since
	Next    *when.Local   `json:"next,omitempty"`   // when the first date of the series that goes on starts
	Answer  Answer        `json:"answer,omitempty"`
	On      when.Day      `json:"on,omitzero"` // the date answered, 0 for all
	Via     string        `json:"via,omitempty"`
	TooLate bool          `json:"tooLate,omitempty"` // the answer changes nothing; in newer lines Verdict says why
	Verdict Verdict       `json:"verdict,omitempty"`
	From    string        `json:"from,omitempty"`   // who wrote the answer, where that is not Who
	Onward  bool          `json:"onward,omitempty"` // On and all that follow
	Words   string        `json:"words,omitempty"`  // with EventSaid
	Comment string        `json:"comment,omitempty"`
	Titles  []string      `json:"titles,omitempty"`
}

// ChangeFacts are what a change changed, without the content.
type ChangeFacts struct {
	Fields  []string   `json:"fields,omitempty"` // time, end, room, link, title, text, files, private, reminder
	Days    []when.Day `json:"days,omitempty"`
	Added   int        `json:"added,omitzero"`
	Removed int        `json:"removed,omitzero"`
	Role    int        `json:"role,omitzero"`
	Invited int        `json:"invited,omitzero"`
}

// What is what changed, one after the other.
func (f ChangeFacts) What() say.What {
	var parts say.List
	for _, name := range f.Fields {
		parts = append(parts, say.It(say.Code("change."+name)))
	}
	switch n := len(f.Days); {
	case n == 1:
		parts = append(parts, f.Days[0])
	case n > 1:
		parts = append(parts, say.Count{N: n, Of: "date"})
	}
	for _, x := range []struct {
		n    int
		code say.Code
	}{{f.Added, "change.added"}, {f.Removed, "change.dropped"}, {f.Role, "change.role"}, {f.Invited, "change.invited"}} {
		if x.n > 0 {
			parts = append(parts, say.It(x.code, x.n))
		}
	}
	return say.It("listed", parts)
}

// OnlyAdded tells that people were added and nothing else was changed.
func (f ChangeFacts) OnlyAdded() bool {
	return f.Added > 0 && len(f.Fields)+len(f.Days)+f.Removed+f.Role+f.Invited == 0
}

// Facts are what differs, as history and letters tell it.
func (c Change) Facts() ChangeFacts {
	f := ChangeFacts{Days: c.Days, Added: len(c.Added), Removed: len(c.Removed), Role: len(c.Role), Invited: len(c.Invited)}
	for _, x := range []struct {
		is   bool
		name string
	}{{c.Organiser, "organiser"}, {c.Time, "time"}, {c.End, "end"}, {c.Room, "room"}, {c.Link, "link"}, {c.Title, "title"}, {c.Text, "text"}, {c.Files, "files"}, {c.Private, "private"}, {c.Apart, "apart"}, {c.Rights, "rights"}, {c.Free, "free"}, {c.Reminder, "reminder"}} {
		if x.is {
			f.Fields = append(f.Fields, x.name)
		}
	}
	return f
}

// CallTrouble is what is the matter with the call of a meeting by what happened to it, the
// newest first: something that nothing has mended since.
func CallTrouble(latest []Event) (e Event, is bool) {
	for _, e := range latest {
		switch e.Kind {
		case EventLinkGone, EventLinkLate, EventLinkStays:
			return e, true
		case EventLinkMade, EventLinkTaken, EventLinkReplaced, EventLinkAwaited:
			return Event{}, false
		}
	}
	return Event{}, false
}
