package schedule

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// NewsKind is what kind of thing is new: a message of that kind, or an event.
type NewsKind string

// NewsEvent is something that happened to a meeting of one's own; the other kinds are
// those of messages.
const NewsEvent NewsKind = "event"

// News is something new for somebody, as it is kept.
type News struct {
	ID, PersonID       uuid.UUID
	MeetingID, SheetID uuid.UUID // what it is about, one of them
	Kind               NewsKind
	meeting.News
	At     time.Time
	ReadAt *time.Time
}

// NewsItem is that with how its reader stands to the meeting now.
type NewsItem struct {
	News
	OrganiserID   uuid.UUID
	CalledOff     bool
	ParticipantID *uuid.UUID // nil for the organiser, and for who is no longer invited
	Waits         bool       // a date to come waits for their answer
	WasOff        bool       // every date that they were invited to was called off
	Sequence      int        // of what they answer then
	Decides       bool       // a room's keepers are asked, and none has answered yet
	Clashes       []OwnClash // with what they have themselves, while it waits for an answer
}

// Asks tells whether it waits for its reader to say whether they come.
func (n NewsItem) Asks() bool {
	return n.RoomID == "" && n.ParticipantID != nil && !n.CalledOff && n.Waits && n.Kind != NewsKind(meeting.CallOff)
}

// Open tells whether its reader can open the meeting.
func (n NewsItem) Open() bool {
	return n.MeetingID != uuid.Nil && (n.ParticipantID != nil || n.WasOff || n.OrganiserID == n.PersonID)
}

// OwnClash is a date of a meeting at which somebody has something else. Title is that of
// the other meeting, empty for what is none: leave, and what is in another calendar.
type OwnClash struct {
	MeetingID uuid.UUID
	On        when.Day
	Title     string
	Start     when.Instant // of the other one
	Leave     bool
}

// NewsID is an id that sorts after those made before it (RFC 9562, 5.7): news of one
// second keep their order.
func NewsID() uuid.UUID { return uuid.Must(uuid.NewV7()) }

// NewsMail is whether what is new comes by mail as well.
type NewsMail string

const (
	MailNever  NewsMail = "never"
	MailAway   NewsMail = "away" // to who has not been here for a day
	MailAlways NewsMail = "always"
)

// NewsLetter is a mail that tells somebody inside what is new.
type NewsLetter struct {
	To        Person
	Subject   string
	Text      string
	House     House
	MessageID string
	At        time.Time
}

// HappenTx is what is needed of a transaction to note what happened.
type HappenTx interface {
	AddHappenings(ctx context.Context, meetingID uuid.UUID, all []Happening) error
	AddNews(ctx context.Context, all []News) error
}

// Happened writes events into the history of a meeting; actor is uuid.Nil for what
// nobody here did. What its organiser has not done themselves is new for them.
func (s Setting) Happened(ctx context.Context, tx HappenTx, record Record, actor uuid.UUID, events ...meeting.Event) error {
	var all []Happening
	var news []News
	for _, e := range events {
		all = append(all, Happening{At: s.Now(), Actor: actor, Event: e})
		if actor != record.OrganiserID && e.New() {
			news = append(news, News{ID: NewsID(), PersonID: record.OrganiserID, MeetingID: record.ID, Kind: NewsEvent,
				News: meeting.NewsOfEvent(record.Content, e), At: s.Now()})
		}
	}
	if err := tx.AddHappenings(ctx, record.ID, all); err != nil {
		return err
	}
	return tx.AddNews(ctx, news)
}
