package schedule

import (
	"context"
	"time"

	"github.com/google/uuid"
	"golang.org/x/oauth2"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// House is what the house is called and where it is reached.
type House struct {
	Name       string // "Marrowby Museums"
	BaseURL    string // of this program, without a slash at the end
	MailDomain string // answers come to addresses in it
}

// Setting is what every subject needs to know of where it runs. It is set once,
// before the first call.
type Setting struct {
	House House
	Seal  *Seal
	Clock func() time.Time
}

// Now is the clock's moment in UTC, in whole seconds.
func (s Setting) Now() time.Time { return s.Clock().UTC().Truncate(time.Second) }

// MessageID is the name of a message, without angle brackets: the same however
// often it is handed over.
func (s Setting) MessageID(dispatch uuid.UUID) string {
	return dispatch.String() + "@" + s.House.MailDomain
}

// GuestURL is the page of somebody invited.
func (s Setting) GuestURL(participant uuid.UUID) string {
	return s.House.BaseURL + "/guest/" + s.Seal.GuestToken(participant)
}

// Service does the deeds. All fields are set once, before the first call.
type Service struct {
	Setting
	Store     Store
	Post      Post
	Providers map[string]Provider
}

// Letter is a message to one participant, before it is written out.
type Letter struct {
	DispatchID uuid.UUID
	Kind       meeting.Kind
	Meeting    meeting.Meeting
	Stamp      time.Time
	To         meeting.Participant
	// On are the dates of a series that it is about; empty for all of theirs.
	On     []when.Day
	Answer meeting.Answer // what they answered so far
	// Answers are what they answered to single dates of a series.
	Answers map[when.Day]meeting.Answer
	Words   string // what changed, or the word with a cancellation
	House   House
	// GuestURL is the page of this recipient, ReplyTo the address that takes
	// their answer, MessageID and Earlier the names of this and of the earlier
	// messages about the meeting to them, without angle brackets.
	GuestURL, ReplyTo, MessageID string
	Earlier                      []string
}

// Rendered is a letter as its reader sees it.
type Rendered struct {
	Subject, HTML, Text string
	Calendar            []byte // text/calendar
}

// Post writes letters and hands them over.
type Post interface {
	Render(Letter) (Rendered, error)
	// Send hands a letter to the mail server and returns that server's name. It
	// fails with a *RefusedError when trying again does not help.
	Send(ctx context.Context, l Letter) (takenBy string, err error)
}

// Call is what a provider has to know about a meeting. Start and End are zero
// while the time is not settled.
type Call struct {
	Topic      string
	Start, End time.Time
}

// Keyring holds somebody's token at a provider. Token fails with ErrConnect
// when there is none.
type Keyring interface {
	Token(ctx context.Context) (*oauth2.Token, error)
	SetToken(ctx context.Context, t *oauth2.Token) error
}

// Provider makes fresh links. All calls fail with ErrConnect, ErrUnreachable or
// a *RefusedError. What else a provider can do it says by being a CallMover, a
// CallWithdrawer or an OAuthProvider too.
type Provider interface {
	Name() string
	Make(ctx context.Context, keys Keyring, c Call) (join.Card, error)
}

// CallMover can change a call so that its card stays the same.
type CallMover interface {
	Move(ctx context.Context, keys Keyring, card join.Card, c Call) error
}

// CallWithdrawer can take a call back; one that is gone already is no error.
type CallWithdrawer interface {
	Withdraw(ctx context.Context, keys Keyring, card join.Card) error
}

// OAuthProvider signs people in by an authorization code (RFC 6749, 4.1) with
// PKCE (RFC 7636).
type OAuthProvider interface {
	SignInURL(state, verifier string) string
	Exchange(ctx context.Context, code, verifier string) (*oauth2.Token, error)
}

// clockOf is a moment as a clock in the zone shows it, for sentences.
func clockOf(t time.Time, zone when.Zone) string { return zone.LocalAt(when.At(t)).Clock.String() }

// person finds somebody with an account.
func person(ctx context.Context, tx Tx, id uuid.UUID) (Person, error) {
	found, err := tx.People(ctx, []uuid.UUID{id})
	if err != nil {
		return Person{}, err
	}
	if len(found) == 0 {
		return Person{}, ErrNotFound
	}
	return found[0], nil
}
