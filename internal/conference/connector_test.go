package conference_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/oauth2"

	"jembro/internal/conference"
	"jembro/internal/core/join"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
	"jembro/internal/standin"
)

var (
	loopback     = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
	descriptions = conference.NewDescriptions(loopback, "test")
)

// keys is somebody's keyring in memory.
type keys struct {
	secrets map[string]string
	token   *oauth2.Token
	set     int
}

func (k *keys) Secrets(context.Context) (map[string]string, error) { return k.secrets, nil }

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

var house = map[string]map[string]string{
	"ostrel":     {"client_id": standin.OstrelClientID, "client_secret": standin.OstrelClientSecret},
	"tamberline": {"key": standin.TamberlineKey},
	"kestle":     {"user": standin.KestleUser, "password": standin.KestlePassword},
}

// described starts a stand-in and makes a provider of the demo's description of it.
func described(t *testing.T, key string) (*standin.World, links.Provider, *keys) {
	t.Helper()
	world, err := standin.New(standin.Config{OstrelPublic: "http://ostrel.localhost:1", TamberlinePublic: "http://tamberline.localhost:1",
		KestlePublic: "http://kestle.localhost:1", Now: time.Now})
	require.NoError(t, err)
	server := httptest.NewServer(world.Provider(key))
	t.Cleanup(server.Close)
	raw, err := os.ReadFile("../demo/providers/" + key + ".yaml")
	require.NoError(t, err)
	text := string(raw)
	for _, host := range []string{"api.ostrel.example", "ostrel.example", "bridge.tamberline.example", "kestle.example"} {
		text = strings.ReplaceAll(text, "https://"+host, server.URL)
	}
	p, faults := descriptions.Compile(text)
	require.Empty(t, faults)
	k := &keys{secrets: house[key]}
	if key == "ostrel" {
		signIn(t, p, k)
	}
	return world, p, k
}

// allow goes to the sign-in page as a browser does and gives the code.
func allow(t *testing.T, p links.Provider, k *keys, verifier string) string {
	u, err := url.Parse(p.SignInURL(k.secrets, callback, "state-1", verifier))
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

func signIn(t *testing.T, p links.Provider, k *keys) {
	verifier := oauth2.GenerateVerifier()
	token, err := p.Exchange(t.Context(), k.secrets, callback, allow(t, p, k, verifier), verifier)
	require.NoError(t, err)
	k.token = token
}

var call = links.Call{Topic: "Crate sizes & <loan> 14", Start: time.Date(2026, 12, 3, 9, 30, 0, 0, time.UTC), End: time.Date(2026, 12, 3, 10, 30, 0, 0, time.UTC), People: 4}

func TestOstrelByItsDescription(t *testing.T) {
	world, p, k := described(t, "ostrel")
	asked := call
	asked.Door = join.Door{Waits: join.AllWait, Speaks: join.OrganisersSpeak}
	card, err := p.Make(t.Context(), k, asked)
	require.NoError(t, err)
	assert.Equal(t, join.Door{Waits: join.AllWait, Speaks: join.OrganisersSpeak, Starts: join.AnybodyStarts}, card.Door)
	assert.Equal(t, 45, card.LimitMinutes)
	assert.Equal(t, 50, card.LimitPeople)
	assert.InDelta(t, 400, time.Until(card.GoodUntil).Hours()/24, 2, "how long a link is kept")
	g, _ := world.Ostrel.Gathering(card.Keep["id"])
	assert.Equal(t, "locked", g.Door)
	assert.Equal(t, "hosts", g.Floor)
	assert.Equal(t, "2026-12-03T09:30:00Z", g.Opens)

	moved := call
	moved.Topic, moved.Passcode = "Crate sizes, moved", "reed-77"
	changed, err := p.Change(t.Context(), k, card, moved)
	require.NoError(t, err)
	g, _ = world.Ostrel.Gathering(card.Keep["id"])
	assert.Equal(t, "Crate sizes, moved", g.Topic)
	assert.Equal(t, card.URL, changed.URL, "the address stays")
	assert.Equal(t, "reed-77", changed.Passcode)
	there, err := p.Holds(t.Context(), k, card)
	assert.True(t, there)
	require.NoError(t, err)
	require.NoError(t, p.Withdraw(t.Context(), k, card))
	require.NoError(t, p.Withdraw(t.Context(), k, card), "gone already is no error")
	there, err = p.Holds(t.Context(), k, card)
	assert.False(t, there)
	require.NoError(t, err)
	_, err = p.Change(t.Context(), k, card, call)
	assert.ErrorIs(t, err, schedule.ErrNotFound)
}

func TestTamberlineByItsDescription(t *testing.T) {
	world, p, k := described(t, "tamberline")
	card, err := p.Make(t.Context(), k, call)
	require.NoError(t, err)
	assert.Len(t, card.Phones, 14)
	assert.Equal(t, "JP", card.Phones[2].Country)
	assert.Equal(t, "+81345780119", card.Phones[2].Number)
	assert.Equal(t, card.Keep["id"], card.Phones[2].PIN)
	assert.Len(t, card.HostPIN, 6)
	assert.Len(t, card.Number, 10, "in groups")
	b, _ := world.Tamberline.Bridge(card.Keep["id"])
	assert.Equal(t, 60, b.Minutes)
	assert.Equal(t, call.Topic, b.Subject, "what is asked is written for a form, whatever is in it")
	_, err = p.Change(t.Context(), k, card, links.Call{Topic: "Later", Start: call.Start.Add(time.Hour), End: call.End.Add(time.Hour)})
	require.NoError(t, err)
	require.NoError(t, p.Withdraw(t.Context(), k, card))
	there, err := p.Holds(t.Context(), k, card)
	assert.False(t, there)
	require.NoError(t, err)
}

// TestAskedToWait: a provider that asks to wait a moment is waited for, once; for more than
// that it is asked again later.
func TestAskedToWait(t *testing.T) {
	asked, wait := 0, "1"
	server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
		if asked++; asked == 1 || wait != "1" {
			rw.Header().Set("Retry-After", wait)
			rw.WriteHeader(http.StatusTooManyRequests)
			return
		}
		fmt.Fprint(rw, `{"room":{"id":"1","url":"https://a.example/j/1"}}`)
	}))
	defer server.Close()
	p := bare(t, server.URL, "")
	_, err := p.Make(t.Context(), &keys{}, call)
	require.NoError(t, err)
	assert.Equal(t, 2, asked)
	wait = "3600"
	_, err = p.Make(t.Context(), &keys{}, call)
	var said *schedule.ProviderError
	require.ErrorAs(t, err, &said)
	assert.Equal(t, time.Hour, said.Wait)
	assert.Equal(t, 3, asked, "nobody waits for that")
	p = bare(t, server.URL, "pace: {per_minute: 1}\n")
	_, _ = p.Make(t.Context(), &keys{}, call)
	_, err = p.Make(t.Context(), &keys{}, call)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "1 requests in a minute", "its pace is kept from here")
	assert.Equal(t, 4, asked)
}

func TestKestleByItsDescription(t *testing.T) {
	world, p, k := described(t, "kestle")
	rooms, err := p.List(t.Context(), k)
	require.NoError(t, err)
	require.Len(t, rooms, 9, "all pages")
	assert.Equal(t, "Map Room", rooms[0].Name)
	assert.Equal(t, "http://kestle.localhost:1/r/map-room", rooms[0].Card.URL)
	assert.Equal(t, join.Standing, rooms[0].Card.Kind)
	_, err = p.Make(t.Context(), k, call)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "standing rooms only")
	world.Switch("kestle", standin.SignedOut)
	_, err = p.List(t.Context(), k)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "does not let the house in", "an error that comes with status 200")
	world.Switch("kestle", standin.Quota)
	_, err = p.List(t.Context(), k)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "The plan of the house at Kestle has ended")
}

func TestACallWithoutTitleOrTimeIsMade(t *testing.T) {
	for _, key := range []string{"ostrel", "tamberline"} {
		_, p, k := described(t, key)
		card, err := p.Make(t.Context(), k, links.Call{})
		require.NoError(t, err, key)
		assert.NotEmpty(t, card.URL, key)
	}
}

func TestATokenThatRanOutIsRenewedAndKept(t *testing.T) {
	_, p, k := described(t, "ostrel")
	old := *k.token
	k.token = &oauth2.Token{AccessToken: old.AccessToken, RefreshToken: old.RefreshToken, TokenType: "Bearer", Expiry: time.Now().Add(-time.Hour)}
	_, err := p.Make(t.Context(), k, call)
	require.NoError(t, err)
	assert.Equal(t, 1, k.set)
	assert.NotEqual(t, old.AccessToken, k.token.AccessToken)
	k.token = &oauth2.Token{AccessToken: "withdrawn there", RefreshToken: k.token.RefreshToken, TokenType: "Bearer", Expiry: time.Now().Add(time.Hour)}
	_, err = p.Make(t.Context(), k, call)
	require.NoError(t, err, "one that should hold and does not is renewed quietly")
	assert.Equal(t, 2, k.set)
	k.token.Expiry, k.token.RefreshToken = time.Now().Add(-time.Hour), old.RefreshToken // used once already
	_, err = p.Make(t.Context(), k, call)
	assert.ErrorIs(t, err, schedule.ErrConnect)
}

func TestSignInThatDoesNotHold(t *testing.T) {
	world, p, k := described(t, "ostrel")
	_, err := p.Make(t.Context(), &keys{secrets: k.secrets}, call)
	assert.ErrorIs(t, err, schedule.ErrConnect, "never signed in")
	_, err = p.Make(t.Context(), &keys{}, call)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "has not given Ostrel its “client_id”")
	_, err = p.Exchange(t.Context(), k.secrets, callback, allow(t, p, k, oauth2.GenerateVerifier()), oauth2.GenerateVerifier())
	assert.ErrorIs(t, err, schedule.ErrConnect, "a stolen code without its verifier (RFC 7636)")
	verifier := oauth2.GenerateVerifier()
	code := allow(t, p, k, verifier)
	_, err = p.Exchange(t.Context(), k.secrets, callback, code, verifier)
	require.NoError(t, err)
	_, err = p.Exchange(t.Context(), k.secrets, callback, code, verifier)
	assert.ErrorIs(t, err, schedule.ErrConnect, "a code holds once")
	world.Ostrel.Forget()
	_, err = p.Make(t.Context(), k, call)
	assert.ErrorIs(t, err, schedule.ErrConnect, "signed out there")

	world, p, k = described(t, "tamberline")
	world.Switch("tamberline", standin.SignedOut)
	_, err = p.Make(t.Context(), k, call)
	assert.NotErrorIs(t, err, schedule.ErrConnect, "nobody can sign in for the house from a sheet")
	var refused *schedule.RefusedError
	assert.ErrorAs(t, err, &refused)
}

func TestAwayFailingAndOutOfQuota(t *testing.T) {
	for _, key := range []string{"ostrel", "tamberline"} {
		world, p, k := described(t, key)
		for _, mode := range []standin.Mode{standin.Away, standin.Failing} {
			world.Switch(key, mode)
			_, err := p.Make(t.Context(), k, call)
			assert.ErrorIs(t, err, schedule.ErrUnreachable, mode)
			assert.ErrorIs(t, p.Withdraw(t.Context(), k, join.Card{Keep: map[string]string{"id": "1"}}), schedule.ErrUnreachable, mode)
			_, err = p.Holds(t.Context(), k, join.Card{Keep: map[string]string{"id": "1"}})
			assert.ErrorIs(t, err, schedule.ErrUnreachable, "%s: a call is not gone because its provider is away", mode)
		}
		world.Switch(key, standin.Quota)
		_, err := p.Make(t.Context(), k, call)
		var refused *schedule.RefusedError
		assert.ErrorAs(t, err, &refused)
		assert.Contains(t, words.Error(tongue.Tongue{}, err), "Take another provider.")
	}
}

// bare is a provider whose description is of one call without a sign-in.
func bare(t *testing.T, address, more string) links.Provider {
	t.Helper()
	p, faults := descriptions.Compile("name: Bare\nsign_in: {kind: none}\ncan: [fresh]\n" + more + "calls:\n  make:\n    post: " + address + "/calls\n    json: {topic: title}\n    card: {link: room.url}\n    keep: {id: room.id}\n")
	require.Empty(t, faults)
	return p
}

// TestAProviderThatMisbehaves: what it answers ends in invitations, so it is not believed
// blindly, and it takes no more time and memory than there is for it.
func TestAProviderThatMisbehaves(t *testing.T) {
	cases := []struct {
		name, kind, body string
		status           int
		want             string
	}{
		{"a script for a link", "", `{"room":{"id":"1","url":"javascript:alert(1)"}}`, 201, "cannot be used"},
		{"two lines for a link", "", `{"room":{"id":"1","url":"https://a.example/\r\nX: y"}}`, 201, "cannot be used"},
		{"no link", "", `{"room":{"id":"1"}}`, 201, "no room.url"},
		{"no name for the call", "", `{"room":{"url":"https://ostrel.example/j/1"}}`, 201, "no room.id"},
		{"a list for a link", "", `{"room":{"id":"1","url":["https://a.example/j/1"]}}`, 201, "no room.url"},
		{"no JSON", "", `{"room":`, 201, "is no JSON"},
		{"a web page", "text/html", `<!doctype html><p>Welcome`, 200, "a web page"},
		{"nested without end", "", strings.Repeat("[", 500_000), 200, "is no JSON"},
		{"too many requests", "", `{}`, 429, "does not answer at the moment"},
		{"an error in a page", "text/html", `<html>Bad gateway`, 502, "does not answer at the moment"},
		{"refused", "", `{"why":"a call lasts a day at most\n\nreally"}`, 422, "It says: “a call lasts a day at most really”"},
		{"nothing", "", ``, 204, "no room.url"},
		{"50 megabytes", "", strings.Repeat(" ", 50<<20), 200, "more than a megabyte"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
				rw.Header().Set("Content-Type", c.kind)
				rw.WriteHeader(c.status)
				rw.Write([]byte(c.body))
			}))
			defer server.Close()
			_, err := bare(t, server.URL, "error_text: why\n").Make(t.Context(), &keys{}, call)
			assert.Contains(t, words.Error(tongue.Tongue{}, err), c.want)
		})
	}
	t.Run("a redirect", func(t *testing.T) {
		asked := 0
		server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
			asked++
			http.Redirect(rw, r, "https://elsewhere.example/", http.StatusFound)
		}))
		defer server.Close()
		_, err := bare(t, server.URL, "").Make(t.Context(), &keys{}, call)
		assert.Contains(t, words.Error(tongue.Tongue{}, err), "leads on to elsewhere.example, which is not followed")
		assert.Equal(t, 1, asked)
	})
	t.Run("silence", func(t *testing.T) {
		server := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
			io.Copy(io.Discard, r.Body) // who does not read learns of no hanging up
			<-r.Context().Done()
		}))
		defer server.Close()
		ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
		defer cancel()
		_, err := bare(t, server.URL, "").Make(ctx, &keys{}, call)
		assert.ErrorIs(t, err, schedule.ErrUnreachable)
	})
	t.Run("packed", func(t *testing.T) {
		server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
			rw.Header().Set("Content-Encoding", "gzip")
			rw.Write([]byte("\x1f\x8b"))
		}))
		defer server.Close()
		_, err := bare(t, server.URL, "").Make(t.Context(), &keys{}, call)
		assert.Contains(t, words.Error(tongue.Tongue{}, err), "packs its answer")
	})
	t.Run("a list that leads in a circle", func(t *testing.T) {
		asked := 0
		server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, _ *http.Request) {
			asked++
			fmt.Fprint(rw, `{"rooms":[{"url":"https://a.example/r/1"}],"more":"/rooms?page=2"}`)
		}))
		defer server.Close()
		p, faults := descriptions.Compile("name: Round\nsign_in: {kind: none}\ncan: [standing]\ncalls:\n  list: {get: '" + server.URL + "/rooms', items: rooms, next: more, card: {link: url}}\n")
		require.Empty(t, faults)
		_, err := p.List(t.Context(), &keys{})
		assert.Contains(t, words.Error(tongue.Tongue{}, err), "in a circle")
		assert.Equal(t, 2, asked)
	})
}

func TestNobodyInsideIsAsked(t *testing.T) {
	outside := conference.NewDescriptions(nil, "test")
	asked := false
	server := httptest.NewTLSServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { asked = true }))
	defer server.Close()
	for _, address := range []string{server.URL, "https://localhost:" + server.URL[strings.LastIndex(server.URL, ":")+1:], "https://10.0.0.1", "https://169.254.169.254", "https://[::1]:8443"} {
		p, faults := outside.Compile("name: Inside\nsign_in: {kind: none}\ncan: [fresh]\ncalls:\n  make: {post: '" + address + "/latest', card: {link: url}, keep: {id: id}}\n")
		require.Empty(t, faults, address)
		ctx, cancel := context.WithTimeout(t.Context(), 3*time.Second)
		_, err := p.Make(ctx, &keys{}, call)
		cancel()
		assert.Error(t, err, address)
	}
	assert.False(t, asked)
	_, faults := outside.Compile("name: Plain\nsign_in: {kind: none}\ncan: [fresh]\ncalls:\n  make: {post: 'http://api.plain.example/', card: {link: url}, keep: {id: id}}\n")
	assert.Contains(t, words.English(faults[0].What), "Only https://")
}

// TestWhatIsWrittenForAProvider: title and passcode are somebody's; they change nothing but
// their own value.
func TestWhatIsWrittenForAProvider(t *testing.T) {
	hostile := "x\",\"door\":\"open\r\nX-Evil: 1 </subject><door>open</door>&waiting=nobody {id} '\x00"
	var got []byte
	var header http.Header
	var path string
	server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		got = make([]byte, r.ContentLength)
		r.Body.Read(got)
		header, path = r.Header, r.URL.EscapedPath()
		fmt.Fprint(rw, `{"url":"https://a.example/j/1","id":"1/../../admin?x"}`)
	}))
	defer server.Close()
	describe := func(body string) links.Provider {
		p, faults := descriptions.Compile("name: W\nsign_in: {kind: none}\ncan: [fresh, withdraw]\ncalls:\n  make:\n    post: " + server.URL + "/calls\n    " + body + "\n    card: {link: url}\n    keep: {id: id}\n  withdraw: {delete: '" + server.URL + "/calls/{id}'}\n")
		require.Empty(t, faults, body)
		return p
	}
	c := links.Call{Topic: hostile}
	p := describe("json: {topic: title, n: 3, deep: {list: [title, true]}}")
	card, err := p.Make(t.Context(), &keys{}, c)
	require.NoError(t, err)
	var body struct {
		Topic, Door string
		N           int
		Deep        struct{ List []any }
	}
	require.NoError(t, json.Unmarshal(got, &body))
	assert.Equal(t, hostile, body.Topic)
	assert.Empty(t, body.Door)
	assert.Equal(t, []any{hostile, true}, body.Deep.List)
	_, err = describe("form: {subject: title}").Make(t.Context(), &keys{}, c)
	require.NoError(t, err)
	form, err := url.ParseQuery(string(got))
	require.NoError(t, err)
	assert.Equal(t, url.Values{"subject": {hostile}}, form)
	_, err = describe("xml: {call: {'@kind': '\"x\"', subject: title}}").Make(t.Context(), &keys{}, c)
	require.NoError(t, err)
	assert.Contains(t, string(got), `<call kind="x"><subject>x&#34;`)
	assert.NotContains(t, string(got), "<door>")
	_, err = describe("headers: {X-Topic: title}").Make(t.Context(), &keys{}, c)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "more than one line")
	assert.Empty(t, header.Get("X-Evil"))
	require.NoError(t, p.Withdraw(t.Context(), &keys{}, card))
	assert.Equal(t, "/calls/1%2F..%2F..%2Fadmin%3Fx", path, "RFC 6570, 3.2.2")
}
