package links

import (
	"context"
	"time"

	"golang.org/x/oauth2"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
)

// Call is what a provider has to know about a meeting. Start and End are zero
// while the time is not settled; for a series they are those of its first date.
type Call struct {
	Topic      string
	Start, End time.Time
	Zone       string // IANA name
	People     int    // who are to call in, the organiser included
	Repeats    bool
	Door       join.Door
	Passcode   string // one that was chosen, else ""
	Organiser  string // name
}

// Keyring holds what a provider takes somebody's requests by.
type Keyring interface {
	// Secrets are those of the house at the provider, by what the description calls them.
	Secrets(ctx context.Context) (map[string]string, error)
	// Token is somebody's own; it fails with ErrConnect when there is none.
	Token(ctx context.Context) (*oauth2.Token, error)
	// Renew is for a token that is no longer good: renew is called with the one that
	// is kept, by one at a time over all instances, and what it gives is kept. Who
	// waited gets what somebody else renewed meanwhile.
	Renew(ctx context.Context, old *oauth2.Token, renew func(*oauth2.Token) (*oauth2.Token, error)) (*oauth2.Token, error)
}

// Provider does at a conferencing provider what its description says it can. All calls that
// ask it fail with a *schedule.ProviderError.
type Provider interface {
	Service() join.Service
	Make(ctx context.Context, keys Keyring, c Call) (join.Card, error)
	// Change has a call follow its meeting. The card that comes of it is the old one, but for
	// what the provider says of it now.
	Change(ctx context.Context, keys Keyring, card join.Card, c Call) (join.Card, error)
	// Withdraw takes a call back; one that is gone already is no error.
	Withdraw(ctx context.Context, keys Keyring, card join.Card) error
	// Holds tells whether a call is still there; a provider that cannot say tells that it is.
	Holds(ctx context.Context, keys Keyring, card join.Card) (bool, error)
	// List gives the standing rooms that there are.
	List(ctx context.Context, keys Keyring) ([]Room, error)
	// Knows tells whether the description can do with a call that another one made.
	Knows(card join.Card) bool

	// SignInURL and Exchange sign people in by an authorization code (RFC 6749, 4.1) with
	// PKCE (RFC 7636), where they sign in themselves.
	SignInURL(secrets map[string]string, callback, state, verifier string) string
	Exchange(ctx context.Context, secrets map[string]string, callback, code, verifier string) (*oauth2.Token, error)
}

// Room is a standing room at a provider.
type Room struct {
	Name string
	Card join.Card
}

// Descriptions makes providers of their descriptions.
type Descriptions interface {
	// Compile reads a description; what keeps it from being used is in faults.
	Compile(text string) (p Provider, faults []DescriptionFault)
	// Try makes, changes, reads and withdraws a call as the description says, and shows what
	// was asked and answered, without the secrets.
	Try(ctx context.Context, p Provider, keys Keyring, c Call) Trial
	// Secrets names what the house has to give for a description: "client_id".
	Secrets(p Provider) []string
	// Schema is the JSON Schema of a description, which documents it.
	Schema() string
}

// DescriptionFault is what is the matter with a description, at a line of it, from 1; 0 where
// it is not of one line.
type DescriptionFault struct {
	Line int
	Path string // "calls.make.card.link"
	What say.What
	// Near is what may have been meant instead.
	Near []string
}

// Trial is what trying a description came to.
type Trial struct {
	Steps []TrialStep
	Card  *join.Card // that came out
	Rooms []Room
}

// TrialStep is one request of a trial. Outcome is "ok", "failed" or "skipped".
type TrialStep struct {
	Name, Outcome   string
	Note            say.What
	Request, Answer string // without secrets
	Status          int
	Took            time.Duration
	Fault           *DescriptionFault
}
