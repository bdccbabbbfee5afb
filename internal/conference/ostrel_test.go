package conference_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/oauth2"

	"jembro/internal/conference"
	"jembro/internal/core/join"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
	"jembro/internal/standin"
)

// keys is somebody's keyring in memory.
type keys struct {
	token *oauth2.Token
	set   int
}

func (k *keys) Token(context.Context) (*oauth2.Token, error) {
	if k.token == nil {
		return nil, schedule.ErrConnect
	}
	return k.token, nil
}

func (k *keys) Renew(_ context.Context, _ *oauth2.Token, renew func(*oauth2.Token) (*oauth2.Token, error)) (*oauth2.Token, error) {
	t, err := renew(k.token)
	if err == nil {
		k.token, k.set = t, k.set+1
	}
	return t, err
}

const callback = "https://jembro.example/api/connect/ostrel/callback"

// outside starts the stand-in and a client of it.
func outside(t *testing.T) (*standin.World, *conference.Ostrel) {
	world, err := standin.New(standin.Config{OstrelPublic: "http://ostrel.localhost:1", Now: time.Now})
	require.NoError(t, err)
	server := httptest.NewServer(world.Handler())
	t.Cleanup(server.Close)
	return world, conference.NewOstrel(server.URL+"/ostrel", server.URL+"/ostrel", standin.OstrelClientID, standin.OstrelClientSecret, callback)
}

// allow goes to the sign-in page as a browser does and gives the code.
func allow(t *testing.T, o *conference.Ostrel, verifier string) string {
	u, err := url.Parse(o.SignInURL("state-1", verifier))
	require.NoError(t, err)
	q := u.Query()
	assert.Equal(t, "S256", q.Get("code_challenge_method"), "RFC 7636, 4.3")
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	u.RawQuery = ""
	res, err := client.PostForm(u.String(), url.Values{"do": {"allow"}, "account": {"Ilse Marrant"},
		"redirect": {q.Get("redirect_uri")}, "state": {q.Get("state")}, "challenge": {q.Get("code_challenge")}})
	require.NoError(t, err)
	res.Body.Close()
	back, err := url.Parse(res.Header.Get("Location"))
	require.NoError(t, err)
	assert.Equal(t, "state-1", back.Query().Get("state"))
	return back.Query().Get("code")
}

func signIn(t *testing.T, o *conference.Ostrel) *keys {
	verifier := oauth2.GenerateVerifier()
	token, err := o.Exchange(t.Context(), allow(t, o, verifier), verifier)
	require.NoError(t, err)
	return &keys{token: token}
}

var call = links.Call{Topic: "Crate sizes", Start: time.Date(2026, 12, 3, 9, 30, 0, 0, time.UTC), End: time.Date(2026, 12, 3, 10, 30, 0, 0, time.UTC)}

func TestMakeMoveWithdraw(t *testing.T) {
	world, o := outside(t)
	k := signIn(t, o)
	card, err := o.Make(t.Context(), k, call)
	require.NoError(t, err)
	assert.Equal(t, "Outside guests wait", card.Door)
	assert.Equal(t, 45, card.LimitMinutes)
	assert.InDelta(t, 400, time.Until(card.GoodUntil).Hours()/24, 2, "how long a link is kept")
	call := call
	call.Topic = "Crate sizes, moved"
	require.NoError(t, o.Move(t.Context(), k, card, call))
	g, _ := world.Ostrel.Gathering(card.RemoteID)
	assert.Equal(t, "Crate sizes, moved", g.Topic)
	assert.Equal(t, card.URL, g.Address, "the address stays")
	require.NoError(t, o.Withdraw(t.Context(), k, card))
	require.NoError(t, o.Withdraw(t.Context(), k, card), "gone already is no error")
	var refused *schedule.RefusedError
	assert.ErrorAs(t, o.Move(t.Context(), k, card, call), &refused)
}

func TestACallWithoutTitleOrTimeIsMade(t *testing.T) {
	_, o := outside(t)
	card, err := o.Make(t.Context(), signIn(t, o), links.Call{})
	require.NoError(t, err)
	assert.NotEmpty(t, card.URL)
}

func TestATokenThatRanOutIsRenewedAndKept(t *testing.T) {
	_, o := outside(t)
	k := signIn(t, o)
	old := *k.token
	k.token = &oauth2.Token{AccessToken: old.AccessToken, RefreshToken: old.RefreshToken, TokenType: "Bearer", Expiry: time.Now().Add(-time.Hour)}
	_, err := o.Make(t.Context(), k, call)
	require.NoError(t, err)
	assert.Equal(t, 1, k.set)
	assert.NotEqual(t, old.AccessToken, k.token.AccessToken)
	k.token.Expiry = time.Now().Add(-time.Hour)
	k.token.RefreshToken = old.RefreshToken // used once already
	_, err = o.Make(t.Context(), k, call)
	assert.ErrorIs(t, err, schedule.ErrConnect)
}

func TestSignInThatDoesNotHold(t *testing.T) {
	world, o := outside(t)
	_, err := o.Make(t.Context(), &keys{}, call)
	assert.ErrorIs(t, err, schedule.ErrConnect, "never signed in")
	_, err = o.Exchange(t.Context(), allow(t, o, oauth2.GenerateVerifier()), oauth2.GenerateVerifier())
	assert.ErrorIs(t, err, schedule.ErrConnect, "a stolen code without its verifier (RFC 7636)")
	verifier := oauth2.GenerateVerifier()
	code := allow(t, o, verifier)
	_, err = o.Exchange(t.Context(), code, verifier)
	require.NoError(t, err)
	_, err = o.Exchange(t.Context(), code, verifier)
	assert.ErrorIs(t, err, schedule.ErrConnect, "a code holds once")
	k := signIn(t, o)
	world.Ostrel.Forget()
	_, err = o.Make(t.Context(), k, call)
	assert.ErrorIs(t, err, schedule.ErrConnect, "signed out there")
}

func TestAwayAndFailing(t *testing.T) {
	world, o := outside(t)
	k := signIn(t, o)
	for _, mode := range []standin.Mode{standin.Away, standin.Failing} {
		world.Switch("ostrel", mode)
		_, err := o.Make(t.Context(), k, call)
		assert.ErrorIs(t, err, schedule.ErrUnreachable, mode)
		assert.ErrorIs(t, o.Move(t.Context(), k, join.Card{RemoteID: "1"}, call), schedule.ErrUnreachable, mode)
		assert.ErrorIs(t, o.Withdraw(t.Context(), k, join.Card{RemoteID: "1"}), schedule.ErrUnreachable, mode)
		_, err = o.Exchange(t.Context(), "code", "verifier")
		assert.ErrorIs(t, err, schedule.ErrUnreachable, mode)
	}
}

// TestAProviderThatMisbehaves: what it answers ends in invitations, so it is not
// believed blindly.
func TestAProviderThatMisbehaves(t *testing.T) {
	cases := []struct {
		name, body string
		status     int
		want       error
	}{
		{"a script for a link", `{"gathering":{"ref":"1","address":"javascript:alert(1)"}}`, 201, schedule.ErrUnreachable},
		{"no link", `{"gathering":{"ref":"1"}}`, 201, schedule.ErrUnreachable},
		{"no name for the call", `{"gathering":{"address":"https://ostrel.example/j/1"}}`, 201, schedule.ErrUnreachable},
		{"no JSON", `<html>`, 201, schedule.ErrUnreachable},
		{"too many requests", `{}`, 429, schedule.ErrUnreachable},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
				rw.WriteHeader(c.status)
				rw.Write([]byte(c.body))
			}))
			defer server.Close()
			o := conference.NewOstrel(server.URL, server.URL, "id", "secret", callback)
			_, err := o.Make(t.Context(), &keys{token: &oauth2.Token{AccessToken: "x", TokenType: "Bearer"}}, call)
			assert.ErrorIs(t, err, c.want)
		})
	}
	server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
		rw.WriteHeader(422)
		rw.Write([]byte(`{"fault":{"kind":"too_long","note":"a gathering lasts a day at most"}}`))
	}))
	defer server.Close()
	o := conference.NewOstrel(server.URL, server.URL, "id", "secret", callback)
	_, err := o.Make(t.Context(), &keys{token: &oauth2.Token{AccessToken: "x", TokenType: "Bearer"}}, call)
	var refused *schedule.RefusedError
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, "422 a gathering lasts a day at most", refused.Reason)
}
