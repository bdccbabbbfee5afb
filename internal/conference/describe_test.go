package conference_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/oauth2"

	"jembro/internal/conference"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule/links"
)

const good = `name: Perrin
sign_in: {kind: none}
can: [fresh]
calls:
  make:
    post: https://api.perrin.example/calls
    json:
      topic: title
    card:
      link: url
    keep: {id: id}
`

// TestWhatIsWrongWithADescription: each fault is at its line, and says what to do.
func TestWhatIsWrongWithADescription(t *testing.T) {
	with := func(was, is string) string {
		require.Contains(t, good, was)
		return strings.Replace(good, was, is, 1)
	}
	cases := []struct {
		name, text string
		line       int
		want       string
		near       []string
	}{
		{"nothing", " \n", 0, "There is nothing here yet", nil},
		{"no YAML", "name: [", 1, "This is not YAML", nil},
		{"a tab", "name: x\n\tcan: [fresh]", 2, "This is not YAML", nil},
		{"twice", good + "name: Other\n", 12, "This is not YAML", nil},
		{"two documents", good + "---\nname: x\n", 0, "A description is one document", nil},
		{"a list", "- name", 1, "fields with a colon", nil},
		{"no name", with("name: Perrin\n", ""), 1, "needs “name”", nil},
		{"an unknown field", with("can:", "cann: [fresh]\ncan:"), 3, "There is no “cann” here", []string{"can", "card"}},
		{"an unknown sign-in", with("kind: none", "kind: oauth"), 2, "It is one of: oauth2_code, oauth2_client, api_key, basic, none", nil},
		{"an incomplete sign-in", with("kind: none", "kind: oauth2_code"), 2, "needs “authorize”, “token”", nil},
		{"cannot do that", with("[fresh]", "[fresh, fly]"), 3, "cannot be “fly”", nil},
		{"no withdraw", with("[fresh]", "[fresh, withdraw]"), 3, "there is no call “withdraw”", nil},
		{"no address", with("    post: https://api.perrin.example/calls\n", ""), 5, "needs one address", nil},
		{"no TLS is not minded here", with("https://api", "ftp://api"), 6, "not written as it has to be", nil},
		{"an unknown word", with("topic: title", "topic: titel"), 8, "Nothing is called “titel” here. Near it: title.", nil},
		{"no expression", with("topic: title", "topic: 'title +'"), 8, "This is no expression", nil},
		{"a call that is not there", with("topic: title", "topic: 'now()'"), 8, "Only these can be called", nil},
		{"a method", with("topic: title", "topic: 'start.Format(title)'"), 8, "Only these can be called", nil},
		{"a loop", with("topic: title", "topic: 'map(1..9, title)'"), 8, "", nil},
		{"a variable", with("topic: title", "topic: 'let a = title + title; a + a'"), 8, "Only names", nil},
		{"a path with a query", with("link: url", "link: 'rooms.#(id==\"1\").url'"), 10, "This is no path that is read here", nil},
		{"a modifier", with("link: url", "link: '@tostr'"), 10, "This is no path that is read here", nil},
		{"no card", with("    card:\n      link: url\n", ""), 5, "“make” needs “card”", nil},
		{"not kept", good + "  read: {get: 'https://api.perrin.example/calls/{ref}'}\n", 12, "“{ref}” in the address is not kept", nil},
		{"a host that is filled in", with("https://api.perrin.example/calls", "'https://{id}.perrin.example/calls'"), 6, "", nil},
		{"a body by get", with("post:", "get:"), 5, "has no body", nil},
		{"a header that is ours", with("    json:", "    headers: {Host: '\"a\"'}\n    json:"), 7, "not for a description to set", nil},
		{"an anchor", with("name: Perrin", "name: &a Perrin"), 1, "Anchors, aliases and tags", nil},
		{"a negative limit", with("can:", "limits: {minutes: -1}\ncan:"), 3, "1 at least", nil},
		{"a bad condition", good + "errors:\n  - {when: answer(1) == 2, means: gone}\n", 13, "", nil},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			_, faults := descriptions.Compile(c.text)
			require.NotEmpty(t, faults)
			assert.Contains(t, words.English(faults[0].What), c.want)
			assert.Equal(t, c.line, faults[0].Line)
			if c.near != nil {
				assert.Equal(t, c.near, faults[0].Near)
			}
		})
	}
	_, faults := descriptions.Compile(good)
	assert.Empty(t, faults)
	_, faults = descriptions.Compile(good + "# " + strings.Repeat("x", 70_000))
	assert.Contains(t, words.English(faults[0].What), "has room for 64 kB")
	_, faults = descriptions.Compile(strings.Repeat("a: {", 5_000))
	assert.NotEmpty(t, faults, "nested")
}

func TestTheDemosDescriptionsAreRead(t *testing.T) {
	all, err := filepath.Glob("../demo/providers/*.yaml")
	require.NoError(t, err)
	require.Len(t, all, 3)
	public := conference.NewDescriptions(nil, "test")
	for _, name := range all {
		raw, err := os.ReadFile(name)
		require.NoError(t, err)
		_, faults := public.Compile(string(raw))
		assert.Empty(t, faults, name)
	}
}

// Perrin is a provider that nobody has met before. Its page of documentation says:
//
//	POST /api/2/session         client credentials (RFC 6749, 4.4) at /auth, secret in the body
//	  <session starts="2026-12-03T09:00:00Z" mins="30"><name>…</name></session>
//	  answers {"data":{"session":{"uid":"s-77","urls":{"guest":"https://…"},"pin":8841,"sip":"sip:…"}}}
//	PUT /api/2/session/{uid}    the same
//	DELETE /api/2/session/{uid}
//	Errors: {"data":null,"oops":"TOO_MANY"} with 400
func perrin(t *testing.T) (*httptest.Server, map[string]string) {
	sessions := map[string]string{}
	tokens := 0
	mux := http.NewServeMux()
	mux.HandleFunc("POST /auth", func(rw http.ResponseWriter, r *http.Request) {
		if r.FormValue("client_id") != "house" || r.FormValue("client_secret") != "perrin-secret-31" || r.FormValue("grant_type") != "client_credentials" {
			http.Error(rw, `{"error":"invalid_client"}`, http.StatusUnauthorized)
			return
		}
		tokens++
		rw.Header().Set("Content-Type", "application/json")
		fmt.Fprintf(rw, `{"access_token":"t-%d","token_type":"bearer","expires_in":3600}`, tokens)
	})
	signed := func(next func(http.ResponseWriter, *http.Request, string)) http.HandlerFunc {
		return func(rw http.ResponseWriter, r *http.Request) {
			if r.Header.Get("Authorization") != fmt.Sprintf("Bearer t-%d", tokens) {
				rw.WriteHeader(http.StatusUnauthorized)
				return
			}
			body := new(strings.Builder)
			buf := make([]byte, 4096)
			n, _ := r.Body.Read(buf)
			body.Write(buf[:n])
			next(rw, r, body.String())
		}
	}
	answer := func(rw http.ResponseWriter, uid string) {
		fmt.Fprintf(rw, `{"data":{"session":{"uid":%q,"urls":{"guest":"https://perrin.example/s/%s"},"pin":8841,"sip":"sip:%s@perrin.example"}}}`, uid, uid, uid)
	}
	mux.HandleFunc("POST /api/2/session", signed(func(rw http.ResponseWriter, _ *http.Request, body string) {
		if strings.Contains(body, "one too many") {
			rw.WriteHeader(http.StatusBadRequest)
			fmt.Fprint(rw, `{"data":null,"oops":"TOO_MANY"}`)
			return
		}
		uid := fmt.Sprintf("s-%d", 77+len(sessions))
		sessions[uid] = body
		answer(rw, uid)
	}))
	mux.HandleFunc("PUT /api/2/session/{uid}", signed(func(rw http.ResponseWriter, r *http.Request, body string) {
		sessions[r.PathValue("uid")] = body
		answer(rw, r.PathValue("uid"))
	}))
	mux.HandleFunc("DELETE /api/2/session/{uid}", signed(func(_ http.ResponseWriter, r *http.Request, _ string) { delete(sessions, r.PathValue("uid")) }))
	mux.HandleFunc("POST /forget", func(http.ResponseWriter, *http.Request) { tokens++ })
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	return server, sessions
}

const perrinText = `name: Perrin
sign_in:
  kind: oauth2_client
  token: BASE/auth
  secret_in: body
can: [fresh, passcode, move, withdraw]
limits: {people: 25}
calls:
  make:
    post: BASE/api/2/session
    xml:
      session:
        '@starts': rfc3339(start)
        '@mins': text(minutes)
        name: title
    card:
      link: data.session.urls.guest
      passcode: data.session.pin
      sip: data.session.sip
    keep: {uid: data.session.uid}
  change:
    put: BASE/api/2/session/{uid}
    xml:
      session:
        '@starts': rfc3339(start)
        '@mins': text(minutes)
        name: title
  withdraw: {delete: 'BASE/api/2/session/{uid}'}
errors:
  - {when: 'answer("oops") == "TOO_MANY"', means: quota, say: Perrin has no sessions left today.}
`

// TestAProviderByItsDescriptionAlone: any provider can be described.
func TestAProviderByItsDescriptionAlone(t *testing.T) {
	server, sessions := perrin(t)
	p, faults := descriptions.Compile(strings.ReplaceAll(perrinText, "BASE", server.URL))
	require.Empty(t, faults)
	k := &keys{secrets: map[string]string{"client_id": "house", "client_secret": "perrin-secret-31"}}
	card, err := p.Make(t.Context(), k, call)
	require.NoError(t, err)
	assert.Equal(t, "https://perrin.example/s/s-77", card.URL)
	assert.Equal(t, "8841", card.Passcode)
	assert.Equal(t, "sip:s-77@perrin.example", card.SIP)
	assert.Contains(t, sessions["s-77"], `<session mins="60" starts="2026-12-03T09:30:00Z"><name>Crate sizes &amp; &lt;loan&gt; 14</name></session>`)
	res, err := http.Post(server.URL+"/forget", "", nil)
	require.NoError(t, err)
	res.Body.Close()
	_, err = p.Change(t.Context(), k, card, links.Call{Topic: "Moved", Start: call.Start, End: call.End})
	require.NoError(t, err, "a token that does not hold any more is asked for anew")
	_, err = p.Make(t.Context(), k, links.Call{Topic: "one too many"})
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "Perrin has no sessions left today.")
	require.NoError(t, p.Withdraw(t.Context(), k, card))
	assert.Empty(t, sessions)
	_, err = p.Make(t.Context(), &keys{secrets: map[string]string{"client_id": "house", "client_secret": "wrong"}}, call)
	assert.Contains(t, words.Error(tongue.Tongue{}, err), "does not let the house in")
}

// TestATrial: it shows what was asked and answered without the secrets, leaves nothing
// behind, and points at the line that does not fit.
func TestATrial(t *testing.T) {
	server, sessions := perrin(t)
	k := &keys{secrets: map[string]string{"client_id": "house", "client_secret": "perrin-secret-31"}}
	try := func(text string) links.Trial {
		p, faults := descriptions.Compile(strings.ReplaceAll(text, "BASE", server.URL))
		require.Empty(t, faults)
		return descriptions.Try(t.Context(), p, k, call)
	}
	outcomes := func(trial links.Trial) (out []string) {
		for _, s := range trial.Steps {
			out = append(out, s.Name+" "+s.Outcome)
			for _, secret := range []string{"perrin-secret-31", "t-1", "t-2"} {
				assert.NotContains(t, s.Request+s.Answer+words.English(s.Note), secret)
			}
		}
		return out
	}
	trial := try(perrinText)
	assert.Equal(t, []string{"description ok", "sign-in ok", "make ok", "change ok", "withdraw ok"}, outcomes(trial))
	assert.Contains(t, trial.Steps[2].Request, "POST "+server.URL+"/api/2/session\n<?xml")
	assert.Contains(t, trial.Steps[2].Answer, `"guest": "https://perrin.example/s/s-77"`)
	assert.Equal(t, 200, trial.Steps[2].Status)
	assert.Equal(t, "8841", trial.Card.Passcode)
	assert.Empty(t, sessions)

	trial = try(strings.Replace(perrinText, "urls.guest", "urls.gast", 1))
	assert.Equal(t, []string{"description ok", "sign-in ok", "make failed", "change skipped", "withdraw ok"}, outcomes(trial))
	assert.Equal(t, links.DescriptionFault{Line: 17, Path: "calls.make.card.link", What: say.It("trial.missing", "data.session.urls.gast"), Near: []string{"data.session.urls.guest"}}, *trial.Steps[2].Fault)
	assert.Equal(t, "8841", trial.Card.Passcode, "what came out all the same")
	assert.Empty(t, sessions, "what was made is taken back though its card is wrong")

	trial = try(strings.Replace(perrinText, "keep: {uid: data.session.uid}", "keep: {uid: data.session.id}", 1))
	assert.Equal(t, "withdraw skipped", outcomes(trial)[4])
	assert.Contains(t, words.English(trial.Steps[len(trial.Steps)-1].Note), "may still be there")
	assert.Equal(t, 20, trial.Steps[2].Fault.Line)

	trial = try(strings.Replace(perrinText, "post: BASE/api/2/session", "post: BASE/api/3/session", 1))
	assert.Equal(t, "make failed", outcomes(trial)[2])
	assert.Equal(t, 10, trial.Steps[2].Fault.Line, "the address")

	k.secrets["client_secret"] = "wrong"
	trial = try(perrinText)
	assert.Equal(t, []string{"description ok", "sign-in failed"}, outcomes(trial))
	assert.Equal(t, 2, trial.Steps[1].Fault.Line)
}

// TestSecretsAreHidden for each way to sign in, wherever the provider repeats them.
func TestSecretsAreHidden(t *testing.T) {
	server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		user, password, _ := r.BasicAuth()
		fmt.Fprintf(rw, `{"url":"https://a.example/j/1","id":"1","echo":%q}`, r.URL.String()+r.Header.Get("X-Key")+user+password+r.Header.Get("Authorization"))
	}))
	defer server.Close()
	for _, signIn := range []string{"{kind: api_key, in: header, field: X-Key}", "{kind: api_key, in: query, field: key}", "{kind: basic}"} {
		p, faults := descriptions.Compile("name: E\nsign_in: " + signIn + "\ncan: [fresh]\ncalls:\n  make: {post: '" + server.URL + "/', card: {link: url}, keep: {id: id}}\n")
		require.Empty(t, faults)
		trial := descriptions.Try(t.Context(), p, &keys{secrets: map[string]string{"key": "s3cret/key+1", "user": "house", "password": "s3cret/key+1"}, token: &oauth2.Token{}}, call)
		s := trial.Steps[2]
		require.Equal(t, "ok", s.Outcome, signIn)
		assert.NotContains(t, s.Request+s.Answer, "s3cret", signIn)
		assert.NotContains(t, s.Answer, "aG91c2U6", "base64 of both")
		gone, faults := descriptions.Compile("name: E\nsign_in: " + signIn + "\ncan: [fresh]\ncalls:\n  make: {post: 'http://127.0.0.1:1/', card: {link: url}, keep: {id: id}}\n")
		require.Empty(t, faults)
		_, err := gone.Make(t.Context(), &keys{secrets: map[string]string{"key": "s3cret", "user": "house", "password": "s3cret"}}, call)
		require.Error(t, err)
		assert.NotContains(t, err.Error(), "s3cret", "errors are logged, and kept with work that waits")
	}
}

// BenchmarkThousandDescriptions reads a thousand, as nobody does at a start: each is read when
// somebody first needs it.
func BenchmarkThousandDescriptions(b *testing.B) {
	raw, err := os.ReadFile("../demo/providers/ostrel.yaml")
	require.NoError(b, err)
	for b.Loop() {
		for range 1000 {
			if _, faults := descriptions.Compile(string(raw)); len(faults) > 0 {
				b.Fatal(faults)
			}
		}
	}
}
