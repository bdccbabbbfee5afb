// Package schedule is what a user can do, one file a deed: it loads, asks the
// core, stores, and queues what leaves the house.
package schedule

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Person is somebody with an account.
type Person struct {
	ID           uuid.UUID
	Name, Email  string
	Role, Site   string
	Holidays     string     // the country whose holidays their site keeps, or ""
	Hours        when.Hours // in their zone
	PasswordHash string
}

// Party is the person as invitations name them.
func (p Person) Party() meeting.Party {
	return meeting.Party{PersonID: p.ID.String(), Name: p.Name, Email: p.Email, Zone: p.Hours.Zone.String()}
}

// Contact is somebody outside who is known by name. Hours is nil when nobody
// knows them.
type Contact struct {
	Name, Firm, Email, Zone string
	Hours                   *when.Hours
}

// Entry is a line of the directory.
type Entry struct {
	ID          uuid.UUID
	Name, Email string
	About       string // role and site, or the firm
	Outside     bool
}

// Room is a room of the house.
type Room struct {
	ID        uuid.UUID
	SiteID    uuid.UUID
	Name      string
	Site      string
	Holidays  string
	Floor     string
	Seats     int
	Equipment []string
	Email     string
}

// Named is the room as invitations name it.
func (r Room) Named() *meeting.Room {
	return &meeting.Room{ID: r.ID.String(), Name: r.Name, Place: r.Site + ", " + r.Floor, Email: r.Email, Seats: r.Seats}
}

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
	AnswerStamp   int64
	SentSequence  int
	RemovedAt     *time.Time
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
// last sent about it. An empty answer is none of its own: the one to all dates
// holds.
type AnswerOn struct {
	ParticipantID uuid.UUID
	On            when.Day
	Answer        meeting.Answer
	Comment       string
	AnsweredAt    *time.Time
	Stamp         int64
	SentSequence  int
}

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
	Words         string
	On            []when.Day // the dates of a series that it is about, none for all
	State         State
	Detail        string
	QueuedAt      time.Time
	HandedAt      *time.Time
}

// Via is how an answer came.
type Via string

const (
	ViaInside Via = "inside"
	ViaPage   Via = "page"
	ViaMail   Via = "mail"
)

// Reply is an answer as it is kept. Counts is false for one that came too late
// to change anything.
type Reply struct {
	ParticipantID uuid.UUID
	On            when.Day // 0: all dates
	meeting.Reply
	Via       Via
	Counts    bool
	ArrivedAt time.Time
}

// Happening is a line of a meeting's history.
type Happening struct {
	At    time.Time
	Words string
}

// BusyKind is how somebody's time is taken.
type BusyKind string

const (
	Busy  BusyKind = "busy"
	Maybe BusyKind = "maybe"
	Leave BusyKind = "leave"
)

// BusyTime is a stretch of somebody's time that is taken, through an occurrence
// or, with uuid.Nil, without one.
type BusyTime struct {
	PersonID     uuid.UUID
	OccurrenceID uuid.UUID
	Span         when.Span
	Kind         BusyKind
}

// Occurrence is a date of a meeting as it is written down. RoomID is uuid.Nil
// where no room is booked.
type Occurrence struct {
	ID     uuid.UUID
	On     when.Day
	Span   when.Span
	RoomID uuid.UUID
}

// Clash is a booking that stands against one that is wanted.
type Clash struct {
	Wanted Occurrence
	Booking
}

// Booking is a stretch in which a room is taken, and by whom.
type Booking struct {
	RoomID   uuid.UUID
	Span     when.Span
	BookedAt time.Time
	By       string
	Private  bool
}

// InWeek is a meeting as somebody's week shows it.
type InWeek struct {
	ID          uuid.UUID
	On          when.Day // which date of a series
	Span        when.Span
	Content     meeting.Meeting
	OrganiserID uuid.UUID
	Answer      meeting.Answer // empty for the organiser
	Unreached   bool           // a message of this version was refused for good
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

// Page is a part of a list: the first Skip are left out, at most Most come.
type Page struct{ Most, Skip int }

// Store keeps everything. InTx runs do in one transaction: all of it is kept or
// nothing; it is not run again. Look runs do on one consistent view.
type Store interface {
	InTx(ctx context.Context, do func(Tx) error) error
	Look(ctx context.Context, do func(Tx) error) error
}

// Tx is what can be done in a transaction. What is not there is ErrNotFound.
type Tx interface {
	Directory
	Sessions
	Sheets
	Meetings
	Times
	Dispatches
	Connections
	Queue
}

// Directory knows people, contacts and rooms. Addresses are compared without
// regard to case.
type Directory interface {
	PersonByEmail(ctx context.Context, email string) (Person, error)
	People(ctx context.Context, ids []uuid.UUID) ([]Person, error)
	PeopleByEmail(ctx context.Context, emails []string) ([]Person, error)
	Contacts(ctx context.Context, emails []string) ([]Contact, error)
	SearchDirectory(ctx context.Context, without uuid.UUID, folded string, page Page) ([]Entry, error)
	Rooms(ctx context.Context, page Page) ([]Room, error)
	Room(ctx context.Context, id uuid.UUID) (Room, error)
}

// Sessions are kept by the hash of their token.
type Sessions interface {
	AddSession(ctx context.Context, tokenHash []byte, personID uuid.UUID, from, until time.Time) error
	SessionPerson(ctx context.Context, tokenHash []byte, now time.Time) (uuid.UUID, error)
	DropSession(ctx context.Context, tokenHash []byte) error
	DropOldSessions(ctx context.Context, now time.Time) error
}

// Sheets keeps sheets. Only the owner finds one. LockSheet makes other
// transactions wait.
type Sheets interface {
	AddSheet(ctx context.Context, s Sheet) error
	Sheet(ctx context.Context, id, owner uuid.UUID) (Sheet, error)
	LockSheet(ctx context.Context, id, owner uuid.UUID) (Sheet, error)
	SheetForMeeting(ctx context.Context, meetingID, owner uuid.UUID) (Sheet, error)
	Sheets(ctx context.Context, owner uuid.UUID, page Page) ([]Sheet, error)
	// SetSheet stores draft, card and BasedOn, and raises the version.
	SetSheet(ctx context.Context, s Sheet) error
	DropSheet(ctx context.Context, id uuid.UUID) error
	DropSheetsOf(ctx context.Context, meetingID uuid.UUID) error
}

// Meetings keeps meetings, who is invited, and what happened.
type Meetings interface {
	AddMeeting(ctx context.Context, r Record) error
	// SetMeeting stores r as the newest version.
	SetMeeting(ctx context.Context, r Record) error
	Meeting(ctx context.Context, id uuid.UUID) (Record, error)
	LockMeeting(ctx context.Context, id uuid.UUID) (Record, error)
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (Record, error)

	AddInvited(ctx context.Context, i Invited) error
	SetInvited(ctx context.Context, i Invited) error
	Invited(ctx context.Context, id uuid.UUID) (Invited, error)
	LockInvited(ctx context.Context, id uuid.UUID) (Invited, error)
	// AllInvited are those still invited, in no order.
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]Invited, error)

	// AnswersOn are the answers to single dates of a series, by day.
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]AnswerOn, error)
	SetAnswerOn(ctx context.Context, a AnswerOn) error
	DropAnswersOn(ctx context.Context, meetingID uuid.UUID) error
	// Related are the series that go on from the one with this UID, or that it
	// goes on from.
	Related(ctx context.Context, uid, relatedTo string) ([]Record, error)

	AddReply(ctx context.Context, r Reply) error
	AddHappening(ctx context.Context, meetingID uuid.UUID, h Happening) error
	// Happenings are the newest first.
	Happenings(ctx context.Context, meetingID uuid.UUID, most int) ([]Happening, error)

	// SendKey waits for another transaction with the same key.
	SendKey(ctx context.Context, personID uuid.UUID, key string) (SendKey, error)
	AddSendKey(ctx context.Context, k SendKey, now time.Time) error
}

// Times keeps what follows from a meeting on the line of instants.
type Times interface {
	Occurrences(ctx context.Context, meetingID uuid.UUID) ([]Occurrence, error)
	// SetOccurrences makes these the dates of a meeting and books their rooms;
	// what is the same already stays. Where a room is taken nothing is changed
	// and the clashes are given. A booking that the database itself refuses is
	// ErrOverlap; the transaction can only be rolled back then.
	SetOccurrences(ctx context.Context, meetingID uuid.UUID, all []Occurrence, now time.Time) ([]Clash, error)
	// SetWrittenTo says up to which day the dates are written down, 0 for all.
	SetWrittenTo(ctx context.Context, meetingID uuid.UUID, day when.Day) error
	// WrittenBefore are the series written down to a day before this one only.
	WrittenBefore(ctx context.Context, day when.Day) ([]uuid.UUID, error)
	DropOccurrences(ctx context.Context, meetingID uuid.UUID) error
	// SetBusy makes these the times that a meeting takes of one person, or of
	// everybody with uuid.Nil.
	SetBusy(ctx context.Context, meetingID, personID uuid.UUID, taken []BusyTime) error
	// AddBusy takes somebody's time.
	AddBusy(ctx context.Context, taken []BusyTime) error
	// BusyTimes leaves out what the meeting but takes; uuid.Nil leaves out none.
	BusyTimes(ctx context.Context, people []uuid.UUID, window when.Span, but uuid.UUID) ([]BusyTime, error)
	// Bookings are those of the rooms given, or of all when none is.
	Bookings(ctx context.Context, rooms []uuid.UUID, window when.Span, but uuid.UUID) ([]Booking, error)
	WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]InWeek, error)
	Leave(ctx context.Context, personID uuid.UUID, window when.Span) (when.Spans, error)
	// ZonesInUse and MeetingsInZone look at meetings with a date to come; a zone's
	// print is what its rules were when their instants were written down, "" when
	// they never were.
	ZonesInUse(ctx context.Context, now time.Time) ([]string, error)
	MeetingsInZone(ctx context.Context, zone string, now time.Time) ([]uuid.UUID, error)
	ZonePrint(ctx context.Context, zone string) (string, error)
	SetZonePrint(ctx context.Context, zone, print string) error
}

// Dispatches keeps messages and what became of them.
type Dispatches interface {
	AddDispatch(ctx context.Context, d Dispatch) error
	Dispatch(ctx context.Context, id uuid.UUID) (Dispatch, error)
	LockDispatch(ctx context.Context, id uuid.UUID) (Dispatch, error)
	SetDispatch(ctx context.Context, d Dispatch) error
	LatestDispatches(ctx context.Context, meetingID uuid.UUID) ([]Dispatch, error)
	// EarlierMails are the mails one participant was sent before a version.
	EarlierMails(ctx context.Context, participantID uuid.UUID, version int) ([]uuid.UUID, error)
}

// Connections keeps accounts at providers; tokens are sealed already.
type Connections interface {
	Connection(ctx context.Context, personID uuid.UUID, provider string) (sealed []byte, err error)
	SetConnection(ctx context.Context, personID uuid.UUID, provider string, sealed []byte, now time.Time) error
	DropConnection(ctx context.Context, personID uuid.UUID, provider string) error
	AddConnecting(ctx context.Context, stateHash []byte, c Connecting, until time.Time) error
	// TakeConnecting can be taken once.
	TakeConnecting(ctx context.Context, stateHash []byte, personID uuid.UUID, now time.Time) (Connecting, error)
}

// Queue takes work that leaves the house, and tells open windows; both happen
// when the transaction is kept, and not otherwise.
type Queue interface {
	QueueDispatch(ctx context.Context, dispatchID uuid.UUID) error
	QueueCallChange(ctx context.Context, c CallChange) error
	// Tell says to the windows of these people that something they show has
	// changed. The meeting is uuid.Nil when it is a sheet.
	Tell(ctx context.Context, people []uuid.UUID, about uuid.UUID) error
}

// CallChange is something to be done at a provider after the fact: the call
// behind Card moves to the time of the newest version of the meeting, or is
// withdrawn.
type CallChange struct {
	PersonID  uuid.UUID // whose account
	Card      join.Card
	MeetingID uuid.UUID // uuid.Nil when Withdraw
	Withdraw  bool
}
