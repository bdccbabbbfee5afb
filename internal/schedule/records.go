package schedule

import (
	"cmp"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Sheet is what is being settled. MeetingID is set when it holds changes to a
// meeting, BasedOn is the version of the meeting they were begun on.
type Sheet struct {
	ID, OwnerID uuid.UUID
	MeetingID   *uuid.UUID
	BasedOn     int
	Draft       meeting.Draft
	Card        *join.Card
	Version     int
	UpdatedAt   time.Time
	// Chosen is how often something was chosen for its call.
	Chosen int
	// SendAt is when it goes out by itself, nil for a draft; SendFault is why it did not.
	SendAt    *time.Time
	SendFault say.What
}

// Notice has the windows of its owner read it again.
func (s Sheet) Notice() Notice {
	return Notice{People: []uuid.UUID{s.OwnerID}, Topic: AboutSheet, ID: s.ID}
}

// Record is a meeting as it is kept, in one version.
type Record struct {
	ID          uuid.UUID
	OrganiserID uuid.UUID
	Version     int
	CalledOffAt *time.Time
	Content     meeting.Meeting
	Stamp       time.Time // DTSTAMP: when this version was settled
}

// Notice has the windows of everybody inside who is part of it read it again, and of those who
// were.
func (r Record) Notice(were ...meeting.Participant) Notice {
	n := Notice{People: []uuid.UUID{r.OrganiserID}, Topic: AboutMeeting, ID: r.ID}
	for _, p := range slices.Concat(r.Content.Participants, were) {
		if id, err := uuid.Parse(p.PersonID); err == nil {
			n.People = append(n.People, id)
		}
	}
	return n
}

// Invited is what is kept of somebody invited.
type Invited struct {
	ID, MeetingID uuid.UUID
	PersonID      *uuid.UUID
	Name, Email   string
	Zone          string
	Needed        bool
	Answer        meeting.Answer
	Comment       string
	AnsweredAt    *time.Time
	// AnswerStamp and AnswerSequence say which answer it is, and to which version.
	AnswerStamp    int64
	AnswerSequence int
	SentSequence   int
	RemovedAt      *time.Time
	// OffVersion is the version of the meeting that called off every date they were invited to,
	// which took them off; 0 for none.
	OffVersion int
	// ReachAt is where somebody from outside is reached now, "" for Email.
	ReachAt string
	// Page is how often the address of their own page was made anew.
	Page int
	// PageSeen is the version of the meeting that the page last showed, 0 for none.
	PageSeen int
}

// Address is where a message reaches them.
func (i Invited) Address() string { return cmp.Or(i.ReachAt, i.Email) }

// Actor is their account, uuid.Nil for somebody from outside.
func (i Invited) Actor() uuid.UUID {
	if i.PersonID == nil {
		return uuid.Nil
	}
	return *i.PersonID
}

// Party is the participant as invitations name them.
func (i Invited) Party() meeting.Party {
	p := meeting.Party{Name: i.Name, Email: i.Email, Zone: i.Zone}
	if i.PersonID != nil {
		p.PersonID = i.PersonID.String()
	}
	return p
}

// AnswerOn is what somebody answered to one date of a series, and what they were
// last sent about it. Which answer holds for the date says meeting.Part.
type AnswerOn struct {
	ParticipantID uuid.UUID
	On            when.Day
	Answer        meeting.Answer
	Comment       string
	AnsweredAt    *time.Time
	Stamp         int64
	Sequence      int // the version answered
	SentSequence  int
	Moved         int64 // when the date moved last, Unix seconds; 0 where it did not
}

// Happening is a line of a meeting's history. Actor is who did it, uuid.Nil when
// nobody here did.
type Happening struct {
	At    time.Time
	Actor uuid.UUID
	meeting.Event
}

// Occurrence is a date of a meeting as it is written down. RoomID is uuid.Nil
// where no room is booked.
type Occurrence struct {
	ID     uuid.UUID
	On     when.Day
	Span   when.Span
	RoomID uuid.UUID
	Kind   BookingKind   // of the room
	Gap    time.Duration // that has to stay clear around it in the room
	// InRoom is when it is in the room, where that is not Span: whole days are those of
	// the room's place.
	InRoom when.Span
}

// RoomSpan is when it takes the room.
func (o Occurrence) RoomSpan() when.Span {
	if o.InRoom.Empty() {
		return o.Span
	}
	return o.InRoom
}

// Clash is a booking that stands against one that is wanted.
type Clash struct {
	Wanted Occurrence
	Booking
}

// Taken is what is said of it: by whom, where that is not private.
func (c Clash) Taken(room Room) rooms.Taken {
	t := rooms.Taken{On: c.Wanted.On, Room: room.Name, During: c.Span, Since: when.At(c.BookedAt), Gap: room.Rules.Gap}
	if c.Until != nil {
		t.HeldUntil = when.At(*c.Until)
	}
	if !c.Private {
		t.By = c.By
	}
	return t
}

// Booking is a stretch in which a room is taken, and by whom.
type Booking struct {
	RoomID   uuid.UUID
	Span     when.Span
	BookedAt time.Time
	By       string
	Private  bool
	Kind     BookingKind
	Until    *time.Time // of a hold
}

// BookingKind is what a booking is.
type BookingKind string

const (
	KindBooked BookingKind = "booked"
	KindAsked  BookingKind = "asked" // its keeper has to agree
	KindHold   BookingKind = "hold"  // kept for a sheet, for minutes
	// KindRefused is no booking: a keeper refused this time to a meeting.
	KindRefused BookingKind = "refused"
)

// View is how somebody looks at what people and rooms are taken by: what the meeting But
// takes does not count, nor what For holds themselves, nor holds that are over at Now.
type View struct {
	But, For uuid.UUID
	Now      time.Time
}

// RoomUse is a booking with what it is for. Mine tells that the reader is part of it.
type RoomUse struct {
	Booking
	MeetingID uuid.UUID
	On        when.Day
	Title     string
	Mine      bool
	Shares    availability.Level // what who booked it lets the reader see
}

// Known is the use as its reader may know it (DESIGN.md, rule 2): what is private says
// neither who nor what, and what it is about only who shares titles with the reader; who
// is part of it knows all. What is held is for nothing yet.
func (u RoomUse) Known() RoomUse {
	if u.Kind == KindHold {
		u.Title = ""
	}
	if u.Mine {
		return u
	}
	u.MeetingID = uuid.Nil
	if !u.Shares.Titles() || u.Private {
		u.Title = ""
	}
	if u.Private {
		u.By = ""
	}
	return u
}

// InWeek is a meeting as somebody's week shows it.
type InWeek struct {
	ID          uuid.UUID
	Version     int
	On          when.Day // which date of a series
	Span        when.Span
	Content     meeting.Meeting
	OrganiserID uuid.UUID
	Answer      meeting.Answer // empty for the organiser
	Unreached   bool           // a message of this version was refused for good
	Reminds     []int          // what the reader, who is invited, set for themselves, in minutes before the start
}

// AskedTo is a meeting that waits for somebody's answer: Sequence is the state that they answer,
// Start that of the next date that waits.
type AskedTo struct {
	MeetingID, Participant uuid.UUID
	Sequence               int
	Start                  when.Instant
}

// Connecting is a sign-in at a provider that is under way.
type Connecting struct {
	PersonID uuid.UUID
	Provider string
	Verifier string
	SheetID  uuid.UUID
}

// SendKey is what a Send with an idempotency key did.
type SendKey struct {
	PersonID  uuid.UUID
	Key       string
	SheetID   uuid.UUID
	MeetingID uuid.UUID
	Told      int
}

// CallChange is something to be done at a provider after the fact: the call
// behind Card moves to the time of the newest version of the meeting, or is
// withdrawn, or is made for the meeting or the sheet that waits for it.
type CallChange struct {
	PersonID  uuid.UUID // whose account
	Card      StoredCard
	MeetingID uuid.UUID // uuid.Nil when Withdraw
	Withdraw  bool
	Make      bool
	SheetID   uuid.UUID // with Make, where it is for a sheet
}
