package links

import (
	"context"
	"time"

	"golang.org/x/oauth2"

	"jembro/internal/core/join"
)

// Call is what a provider has to know about a meeting. Start and End are zero
// while the time is not settled.
type Call struct {
	Topic      string
	Start, End time.Time
}

// Keyring holds somebody's token at a provider. Both fail with ErrConnect when
// there is none.
type Keyring interface {
	Token(ctx context.Context) (*oauth2.Token, error)
	// Renew is for a token that is no longer good: renew is called with the one that
	// is kept, by one at a time over all instances, and what it gives is kept. Who
	// waited gets what somebody else renewed meanwhile.
	Renew(ctx context.Context, old *oauth2.Token, renew func(*oauth2.Token) (*oauth2.Token, error)) (*oauth2.Token, error)
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
