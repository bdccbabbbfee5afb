package schedule

import (
	"context"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Letter is a message to one participant, before it is written out.
type Letter struct {
	DispatchID uuid.UUID
	Kind       meeting.Kind
	// Own is set for the organiser's own calendar: nobody is asked for anything.
	Own bool
	// Wished is set for a reminder that its reader set for themselves.
	Wished  bool
	Meeting meeting.Meeting
	// Before is the version before, where there is one: what is taken back is as it
	// was there. OffAll tells that all of the meeting is called off.
	Before *meeting.Meeting
	OffAll bool
	Stamp  time.Time
	To     meeting.Participant
	// On are the dates of a series that it is about, empty for all of theirs; IDs the
	// RECURRENCE-IDs of those that it takes back.
	On  []when.Day
	IDs []when.Instant
	Said
	House House
	// Address is that of the meeting: who writes, who organises, and where answers
	// go. ReturnTo takes what a mail server returns.
	Address, ReturnTo string
	// GuestURL is the page of this recipient, MessageID and Earlier the names of
	// this and of the earlier messages about the meeting to them, without angle
	// brackets.
	GuestURL, MessageID string
	Earlier             []string
	// Subscribed is how often a calendar looks that subscribes to the meeting, 0 for a message.
	Subscribed time.Duration
	// Enclosed are the files that go in the mail itself.
	Enclosed []File
}

// FileURL is where its reader opens a file of the meeting.
func (l Letter) FileURL(f attachment.File) string {
	if l.GuestURL == "" {
		return l.House.BaseURL + "/api/files/" + f.ID
	}
	return strings.Replace(l.GuestURL, "/guest/", "/api/guest/", 1) + "/files/" + f.ID
}

// Tongue is the language of its recipient.
func (l Letter) Tongue() tongue.Tongue { return tongue.In(l.To.Language) }

// CardReader is its recipient as who reads the join card: the organiser in their own calendar.
func (l Letter) CardReader() join.Reader {
	if l.Own {
		return join.Reader{Country: when.CountryOf(l.Meeting.Organiser.Zone), Organiser: true, Tongue: l.Tongue()}
	}
	return join.Reader{Country: when.CountryOf(l.To.Zone), Outside: l.To.Outside(), Tongue: l.Tongue()}
}

// Rendered is a letter as its reader sees it.
type Rendered struct {
	Subject, HTML, Text string
	Calendar            []byte // text/calendar
}

// Post writes letters and hands them over.
type Post interface {
	Render(Letter) (Rendered, error)
	// PassOn is a letter as somebody passes it on by hand, in a chat or a mail of their own.
	PassOn(Letter) string
	// Calendar is the iCalendar object of a letter alone.
	Calendar(Letter) ([]byte, error)
	// Send hands a letter to the mail server and returns that server's name. It
	// fails with a *RefusedError when trying again does not help.
	Send(ctx context.Context, l Letter) (takenBy string, err error)
	// SendNews tells somebody inside what is new; it fails as Send does.
	SendNews(ctx context.Context, l NewsLetter) error
	// SendReminder reminds of a meeting; it fails as Send does.
	SendReminder(ctx context.Context, l Letter) error
	// SendReply answers an invitation from outside; it fails as Send does.
	SendReply(ctx context.Context, r InvitationReply) error
	// Forward hands on what somebody wrote to a meeting; it fails as Send does.
	Forward(ctx context.Context, f Forwarded) error
}

// Forwarded is a mail that somebody wrote to a meeting, on its way to the organiser.
type Forwarded struct {
	LetterIn
	Title     string // of the meeting
	To        meeting.Party
	Language  string // of To
	House     House
	Address   string // of the meeting: who hands it on
	MessageID string // without angle brackets
}
