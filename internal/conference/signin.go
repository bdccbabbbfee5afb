package conference

import (
	"context"
	"encoding/base64"
	"errors"
	"net/http"
	"net/url"
	"sync"
	"time"

	"golang.org/x/oauth2"
	"golang.org/x/oauth2/clientcredentials"

	"jembro/internal/core/say"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
)

// renewWithin is how long renewing a sign-in may take: others wait for it.
const renewWithin = 20 * time.Second

// houseToken is the token of the house, where it signs in with credentials of its own.
type houseToken struct {
	mu    sync.Mutex
	token *oauth2.Token
	of    string // the credentials that it was given for
}

func (c *Connector) style() oauth2.AuthStyle {
	if c.SignIn.SecretIn == "body" {
		return oauth2.AuthStyleInParams
	}
	return oauth2.AuthStyleInHeader
}

func (c *Connector) oauth(secrets map[string]string, callback string) oauth2.Config {
	return oauth2.Config{ClientID: secrets["client_id"], ClientSecret: secrets["client_secret"], RedirectURL: callback, Scopes: c.SignIn.Scopes,
		Endpoint: oauth2.Endpoint{AuthURL: c.SignIn.Authorize, TokenURL: c.SignIn.Token, AuthStyle: c.style()}}
}

// SignInURL is where somebody's browser signs in.
func (c *Connector) SignInURL(secrets map[string]string, callback, state, verifier string) string {
	config := c.oauth(secrets, callback)
	return config.AuthCodeURL(state, oauth2.S256ChallengeOption(verifier))
}

// Exchange takes the code that the browser came back with.
func (c *Connector) Exchange(ctx context.Context, secrets map[string]string, callback, code, verifier string) (*oauth2.Token, error) {
	config := c.oauth(secrets, callback)
	t, err := config.Exchange(c.within(ctx), code, oauth2.VerifierOption(verifier))
	return t, c.signInError(err)
}

func (c *Connector) within(ctx context.Context) context.Context {
	return context.WithValue(ctx, oauth2.HTTPClient, c.client.http)
}

// signed is how a request is signed. Again makes it anew where that is possible, after the
// other side did not take it; it tells whether there is another try.
type signed struct {
	query url.Values
	sign  func(*http.Request)
	again func(context.Context) (bool, error)
	// hidden are texts that nobody must see.
	hidden []string
}

func (c *Connector) signIn(ctx context.Context, keys links.Keyring) (*signed, error) {
	s := &signed{sign: func(*http.Request) {}, again: func(context.Context) (bool, error) { return false, nil }}
	if c.SignIn.Kind == "none" {
		return s, nil
	}
	all, err := keys.Secrets(ctx)
	if err != nil {
		return nil, err
	}
	for _, name := range secrets[c.SignIn.Kind] {
		if all[name] == "" {
			return nil, c.problem(&schedule.RefusedError{Reason: "no " + name}, say.It("provider.secretMissing", c.Name, name))
		}
		s.hidden = append(s.hidden, all[name])
	}
	bearer := func(t *oauth2.Token) {
		s.sign = t.SetAuthHeader
		s.hidden = append(s.hidden, t.AccessToken, t.RefreshToken)
	}
	switch c.SignIn.Kind {
	case "basic":
		s.sign = func(r *http.Request) { r.SetBasicAuth(all["user"], all["password"]) }
		s.hidden = append(s.hidden, base64.StdEncoding.EncodeToString([]byte(all["user"]+":"+all["password"])))
	case "api_key":
		key := c.SignIn.Before + all["key"]
		if c.SignIn.In == "query" {
			s.query = url.Values{c.SignIn.Field: {key}}
			s.hidden = append(s.hidden, url.QueryEscape(all["key"]))
			break
		}
		s.sign = func(r *http.Request) { r.Header.Set(c.SignIn.Field, key) }
	case "oauth2_client":
		t, err := c.houseToken(ctx, all, nil)
		if err != nil {
			return nil, err
		}
		bearer(t)
		s.again = func(ctx context.Context) (bool, error) {
			t, err := c.houseToken(ctx, all, t)
			if err == nil {
				bearer(t)
			}
			return true, err
		}
	case "oauth2_code":
		t, err := keys.Token(ctx)
		if err != nil {
			return nil, c.signInError(err)
		}
		renew := func() (err error) {
			t, err = keys.Renew(ctx, t, func(old *oauth2.Token) (*oauth2.Token, error) {
				within, cancel := context.WithTimeout(c.within(ctx), renewWithin)
				defer cancel()
				config := c.oauth(all, "")
				expired := *old
				expired.Expiry = time.Now().Add(-time.Hour) // whatever it says, the other side does not take it
				fresh, err := config.TokenSource(within, &expired).Token()
				return fresh, c.signInError(err)
			})
			if err == nil {
				bearer(t)
			}
			return err
		}
		if !t.Valid() {
			if err := renew(); err != nil {
				return nil, err
			}
		} else {
			bearer(t)
			s.again = func(context.Context) (bool, error) {
				if t.RefreshToken == "" {
					return false, nil
				}
				return true, renew()
			}
		}
	}
	return s, nil
}

// houseToken is a token that holds; not is one that is known not to hold any more.
func (c *Connector) houseToken(ctx context.Context, secrets map[string]string, not *oauth2.Token) (*oauth2.Token, error) {
	c.house.mu.Lock()
	defer c.house.mu.Unlock()
	of := secrets["client_id"] + "\x00" + secrets["client_secret"]
	if c.house.token.Valid() && c.house.of == of && (not == nil || c.house.token.AccessToken != not.AccessToken) {
		return c.house.token, nil
	}
	config := clientcredentials.Config{ClientID: secrets["client_id"], ClientSecret: secrets["client_secret"], TokenURL: c.SignIn.Token, Scopes: c.SignIn.Scopes, AuthStyle: c.style()}
	within, cancel := context.WithTimeout(c.within(ctx), renewWithin)
	defer cancel()
	t, err := config.Token(within)
	if err != nil {
		return nil, c.signInError(err)
	}
	c.house.token, c.house.of = t, of
	return t, nil
}

// signInError tells a sign-in that is over from a service that is away.
func (c *Connector) signInError(err error) error {
	var refused *oauth2.RetrieveError
	var known *schedule.ProviderError
	switch {
	case err == nil || errors.As(err, &known):
		return err
	case errors.Is(err, schedule.ErrConnect):
		return c.signedOut(err)
	case errors.As(err, &refused) && refused.Response != nil && refused.Response.StatusCode < 500 && refused.Response.StatusCode != http.StatusTooManyRequests:
		return c.signedOut(err)
	}
	return c.away(err)
}
