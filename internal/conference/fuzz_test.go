package conference

import (
	"context"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/oauth2"

	"jembro/internal/schedule/links"
)

// everything is a keyring with a secret of every kind.
type everything struct{}

func (everything) Secrets(context.Context) (map[string]string, error) {
	return map[string]string{"client_id": "a", "client_secret": "b", "key": "c", "user": "d", "password": "e"}, nil
}

func (everything) Token(context.Context) (*oauth2.Token, error) {
	return &oauth2.Token{AccessToken: "t", RefreshToken: "r", Expiry: time.Now().Add(time.Hour)}, nil
}

func (e everything) Renew(ctx context.Context, old *oauth2.Token, _ func(*oauth2.Token) (*oauth2.Token, error)) (*oauth2.Token, error) {
	return e.Token(ctx)
}

type answering func(*http.Request) *http.Response

func (a answering) RoundTrip(r *http.Request) (*http.Response, error) { return a(r), nil }

// FuzzDescription: any text is read or has faults that say something; what is read asks no
// other host than those that it names, ends, and takes no more time than there is for it,
// whatever is answered.
func FuzzDescription(f *testing.F) {
	all, err := filepath.Glob("../demo/providers/*.yaml")
	require.NoError(f, err)
	for _, name := range all {
		raw, err := os.ReadFile(name)
		require.NoError(f, err)
		f.Add(string(raw), `{"gathering":{"ref":"1","address":"https://a.example/j/1","dial_number":"1","word":"x"},"ok":true,"rooms":[{"href":"https://a.example/r/1","slug":"a"}],"more":"/api/rooms?page=2"}`)
		f.Add(string(raw), `<conference id="48219077"><web>https://a.example/c/1</web><pins><participant>1</participant><organiser>2</organiser></pins><lines><line country="PT">+351210005506</line></lines></conference>`)
	}
	const small = "name: P\nsign_in: {kind: none}\ncan: [fresh]\ncalls:\n  make:\n    post: https://api.p.example/calls/{x}\n    json: {topic: 'groups(title, 1, 2) + upper(digits(title))', n: [1, true]}\n    card: {link: {at: a.0.b, as: 'value + value'}}\n    keep: {id: id}\n"
	f.Add(small, strings.Repeat(`{"a":`, 50))
	f.Add(small+"errors:\n  - {when: 'answer(\"a\") == \"b\" && status > 200', means: later, say: Later.}\n", `{"a":[{"b":"https://a.example/j/1"}],"id":"{x}"}`)
	f.Fuzz(func(t *testing.T, text, answered string) {
		began := time.Now()
		asked := 0
		c := &client{agent: "fuzz", http: &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }, Transport: answering(func(r *http.Request) *http.Response {
			if asked++; !strings.Contains(text, r.URL.Host) {
				t.Errorf("it asks %s", r.URL)
			}
			return &http.Response{StatusCode: 200, Header: http.Header{"Content-Type": {"application/json"}}, Body: io.NopCloser(strings.NewReader(answered)), Request: r}
		})}}
		made, faults := compile(text, c)
		if (made == nil) == (len(faults) == 0) {
			t.Fatalf("%v with %v", made, faults)
		}
		for _, fault := range faults {
			if fault.What.Empty() || fault.Line < 0 {
				t.Fatalf("%+v", fault)
			}
		}
		if made == nil {
			return
		}
		made.client = c // as fast as it goes
		Descriptions{c}.Try(t.Context(), made, everything{}, links.Call{Topic: "Crates", Start: began, End: began.Add(time.Hour)})
		if took := time.Since(began); asked > 60 || took > 5*time.Second {
			t.Fatalf("%d requests in %s", asked, took)
		}
	})
}
