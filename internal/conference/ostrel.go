// Package conference talks to conferencing services over HTTP.
package conference

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"golang.org/x/oauth2"

	"jembro/internal/core/join"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
)

// Ostrel makes fresh links; people sign in there once with OAuth 2.
type Ostrel struct {
	API   string // "https://api.ostrel.example", no slash at the end
	OAuth oauth2.Config
	HTTP  *http.Client
}

// NewOstrel reaches the service at api; people sign in at signIn in their
// browser, and come back to callback.
func NewOstrel(api, signIn, clientID, clientSecret, callback string) *Ostrel {
	return &Ostrel{
		API:  api,
		HTTP: &http.Client{Timeout: 100 * time.Second},
		OAuth: oauth2.Config{ClientID: clientID, ClientSecret: clientSecret, RedirectURL: callback, Scopes: []string{"gatherings"},
			Endpoint: oauth2.Endpoint{AuthURL: signIn + "/oauth/authorize", TokenURL: api + "/oauth/token", AuthStyle: oauth2.AuthStyleInHeader}},
	}
}

var (
	_ links.Provider       = (*Ostrel)(nil)
	_ links.CallMover      = (*Ostrel)(nil)
	_ links.CallWithdrawer = (*Ostrel)(nil)
	_ links.OAuthProvider  = (*Ostrel)(nil)
)

func (o *Ostrel) Name() string { return "Ostrel" }

func (o *Ostrel) SignInURL(state, verifier string) string {
	return o.OAuth.AuthCodeURL(state, oauth2.S256ChallengeOption(verifier))
}

func (o *Ostrel) Exchange(ctx context.Context, code, verifier string) (*oauth2.Token, error) {
	t, err := o.OAuth.Exchange(context.WithValue(ctx, oauth2.HTTPClient, o.HTTP), code, oauth2.VerifierOption(verifier))
	return t, signInError(err)
}

// gathering is what Ostrel calls a call.
type gathering struct {
	Ref     string `json:"ref,omitempty"`
	Topic   string `json:"topic"`
	Opens   string `json:"opens_at,omitempty"` // RFC 3339
	Closes  string `json:"closes_at,omitempty"`
	Door    string `json:"door"`
	Address string `json:"address,omitempty"`
	Dial    string `json:"dial_number,omitempty"`
	Word    string `json:"word,omitempty"`
}

type made struct {
	Gathering gathering `json:"gathering"`
	Plan      struct {
		EndsAfter  int       `json:"ends_after_minutes"`
		KeepsUntil time.Time `json:"keeps_links_until"`
	} `json:"plan"`
}

func toGathering(c links.Call) gathering {
	g := gathering{Topic: c.Topic, Door: "guests"}
	if g.Topic == "" {
		g.Topic = "Meeting"
	}
	if !c.Start.IsZero() {
		g.Opens, g.Closes = c.Start.UTC().Format(time.RFC3339), c.End.UTC().Format(time.RFC3339)
	}
	return g
}

func (o *Ostrel) Make(ctx context.Context, keys links.Keyring, c links.Call) (join.Card, error) {
	var m made
	if err := o.call(ctx, keys, http.MethodPost, "/v1/gatherings", toGathering(c), &m); err != nil {
		return join.Card{}, err
	}
	u, err := url.Parse(m.Gathering.Address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || m.Gathering.Ref == "" {
		return join.Card{}, fmt.Errorf("%w: Ostrel gave no usable link", schedule.ErrUnreachable)
	}
	card := join.Card{RemoteID: m.Gathering.Ref, URL: m.Gathering.Address, Number: m.Gathering.Dial,
		Passcode: m.Gathering.Word, LimitMinutes: m.Plan.EndsAfter, GoodUntil: m.Plan.KeepsUntil}
	if m.Gathering.Door == "guests" {
		card.Door = "Outside guests wait"
	}
	return card, nil
}

func (o *Ostrel) Move(ctx context.Context, keys links.Keyring, card join.Card, c links.Call) error {
	return o.call(ctx, keys, http.MethodPatch, "/v1/gatherings/"+url.PathEscape(card.RemoteID), toGathering(c), nil)
}

func (o *Ostrel) Withdraw(ctx context.Context, keys links.Keyring, card join.Card) error {
	err := o.call(ctx, keys, http.MethodDelete, "/v1/gatherings/"+url.PathEscape(card.RemoteID), nil, nil)
	var refused *schedule.RefusedError
	if errors.As(err, &refused) && strings.HasPrefix(refused.Reason, "404") {
		return nil
	}
	return err
}

// renewWithin is how long renewing a sign-in may take: others wait for it.
const renewWithin = 20 * time.Second

// call does one request as the person whose keys are given, and keeps the token
// when it was renewed on the way.
func (o *Ostrel) call(ctx context.Context, keys links.Keyring, method, path string, in, out any) error {
	token, err := keys.Token(ctx)
	if err != nil {
		return err
	}
	ctx = context.WithValue(ctx, oauth2.HTTPClient, o.HTTP)
	if !token.Valid() {
		token, err = keys.Renew(ctx, token, func(old *oauth2.Token) (*oauth2.Token, error) {
			within, cancel := context.WithTimeout(ctx, renewWithin)
			defer cancel()
			fresh, err := o.OAuth.TokenSource(within, old).Token()
			return fresh, signInError(err)
		})
		if err != nil {
			return err
		}
	}
	var body io.Reader
	if in != nil {
		b, err := json.Marshal(in)
		if err != nil {
			return err
		}
		body = bytes.NewReader(b)
	}
	req, err := http.NewRequestWithContext(ctx, method, o.API+path, body)
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	token.SetAuthHeader(req)
	res, err := o.HTTP.Do(req)
	if err != nil {
		return fmt.Errorf("%w: Ostrel: %w", schedule.ErrUnreachable, err)
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(io.LimitReader(res.Body, 1<<20))
	switch {
	case err != nil || res.StatusCode >= 500 || res.StatusCode == http.StatusTooManyRequests:
		return fmt.Errorf("%w: Ostrel answered %d", schedule.ErrUnreachable, res.StatusCode)
	case res.StatusCode == http.StatusUnauthorized:
		return schedule.ErrConnect
	case res.StatusCode >= 400:
		return &schedule.RefusedError{Reason: fmt.Sprintf("%d %s", res.StatusCode, faultNote(raw))}
	case out == nil:
		return nil
	}
	if err := json.Unmarshal(raw, out); err != nil {
		return fmt.Errorf("%w: Ostrel: %w", schedule.ErrUnreachable, err)
	}
	return nil
}

// faultNote is the sentence in an error of Ostrel's.
func faultNote(raw []byte) string {
	var body struct {
		Fault struct {
			Note string `json:"note"`
		} `json:"fault"`
	}
	if json.Unmarshal(raw, &body) != nil || body.Fault.Note == "" {
		return "without a reason"
	}
	return body.Fault.Note
}

// signInError tells a sign-in that is over from a service that is away.
func signInError(err error) error {
	var refused *oauth2.RetrieveError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &refused) && refused.Response != nil && refused.Response.StatusCode < 500:
		return fmt.Errorf("%w: %s", schedule.ErrConnect, refused.ErrorCode)
	}
	return fmt.Errorf("%w: Ostrel: %w", schedule.ErrUnreachable, err)
}
