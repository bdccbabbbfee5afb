package schedule

import (
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/core/when"
)

// Channel is how a message reaches somebody.
type Channel string

const (
	Inside Channel = "inside" // shown here
	Mail   Channel = "mail"
)

// State is what became of a message.
type State string

const (
	Queued State = "queued" // not yet handed over
	Handed State = "handed" // shown here, or taken by the other side's mail server
	Failed State = "failed" // refused for good
)

// Dispatch is one message to one person, and what became of it. Words says what
// an update changed, or is the word that came with a cancellation.
type Dispatch struct {
	ID, MeetingID uuid.UUID
	Version       int
	ParticipantID uuid.UUID
	Kind          meeting.Kind
	Channel       Channel
	Said
	On  []when.Day     // the dates of a series that it is about, none for all
	IDs []when.Instant // the RECURRENCE-IDs of what it takes back
	// Stamp is its DTSTAMP: no other message to the same person about the meeting has
	// the same.
	Stamp    time.Time
	State    State
	Detail   string
	QueuedAt time.Time
	HandedAt *time.Time
	// Domain is where a mail goes, in lower case: mails to one domain share a limit.
	Domain string
	// Address is where it goes, where that is not the participant's own.
	Address string
	reach.Progress
	Mended Mending
}

// Whole tells whether it says all there is to say to its reader: it is not about single dates,
// and takes no one of them back.
func (d Dispatch) Whole() bool {
	return len(d.On) == 0 && len(d.IDs) == 0 && d.Kind != meeting.Clear && d.Kind != meeting.Keep
}

// Repeatable tells whether it can be sent once more: a mail that has left.
func (d Dispatch) Repeatable() bool { return d.Channel == Mail && d.State != Queued }

// Mending is how the reader of a message that did not get there was reached.
type Mending string

const (
	MendedTold      Mending = "told"      // by telephone, or face to face
	MendedAgain     Mending = "again"     // it was sent again
	MendedElsewhere Mending = "elsewhere" // it was sent to another address
	MendedText      Mending = "text"      // by a text that was copied for them
	MendedAnswered  Mending = "answered"  // they answered all the same
)

// Search says which messages are looked for: of the whole house or one's own, with something
// open, and to whom, by words in a name or an address.
type Search struct {
	House, Troubled bool
	Words           string
}

// KnownAddress is another address of somebody, from what the organiser learnt, or, with a
// meeting, from what reached them for it.
type KnownAddress struct {
	Email     string
	MeetingID uuid.UUID
	At        time.Time
}

// Via is how an answer came.
type Via string

const (
	ViaInside Via = "inside"
	ViaPage   Via = "page"
	ViaMail   Via = "mail"
)
