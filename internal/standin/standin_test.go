package standin_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/standin"
)

func world(t *testing.T, dir string) (*standin.World, *httptest.Server) {
	w, err := standin.New(standin.Config{OstrelPublic: "http://ostrel.localhost:1", Dir: dir, Now: time.Now})
	require.NoError(t, err)
	s := httptest.NewServer(w.Handler())
	t.Cleanup(s.Close)
	return w, s
}

// at serves a provider and gives its address.
func at(t *testing.T, w *standin.World, provider string) string {
	s := httptest.NewServer(w.Provider(provider))
	t.Cleanup(s.Close)
	return s.URL
}

func get(t *testing.T, address string) (int, string) {
	res, err := http.Get(address)
	require.NoError(t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, string(b)
}

const hostile = "From: \"<b>x</b>\" <x@x.example>\r\nTo: s.onari@kirisame.example\r\nSubject: <script>alert(1)</script>\r\n" +
	"Content-Type: text/html\r\n\r\n<p style=\"color:red\">Hello</p><script>alert(1)</script><a href=\"javascript:alert(1)\">x</a><img src=x onerror=alert(1)>"

func TestPagesAreHeadedSimulatedAndRunNothingFromAMail(t *testing.T) {
	w, s := world(t, "")
	require.NoError(t, w.Post.Put("x@x.example", "S.Onari@kirisame.example", []byte(hostile)))
	for _, path := range []string{"/", "/post/", "/post/boxes/s.onari@kirisame.example", "/post/boxes/nobody@x.example", "/post/messages/1", at(t, w, "ostrel") + "/j/none", at(t, w, "tamberline") + "/c/none", at(t, w, "kestle") + "/r/none"} {
		if strings.HasPrefix(path, "/") {
			path = s.URL + path
		}
		status, page := get(t, path)
		assert.Equal(t, 200, status, path)
		assert.Contains(t, strings.ToLower(page), "simulated", path)
		assert.NotContains(t, page, "<script>", path)
		assert.NotContains(t, page, "javascript:", path)
		assert.NotContains(t, page, "onerror", path)
	}
	status, raw := get(t, s.URL+"/post/messages/1.eml")
	assert.Equal(t, 200, status)
	assert.Equal(t, hostile, raw, "the raw message is the message")
	status, _ = get(t, s.URL+"/post/messages/9")
	assert.Equal(t, 404, status)
}

func TestMailAndCallsOutliveARestart(t *testing.T) {
	dir := t.TempDir()
	w, _ := world(t, dir)
	require.NoError(t, w.Post.Put("x@x.example", "a@x.example", []byte("Subject: one\r\n\r\n1")))
	require.NoError(t, w.Post.Put("x@x.example", "a@x.example", []byte("Subject: two\r\n\r\n2")))
	g := w.Ostrel.New(standin.Gathering{Topic: "Crates", Owner: "Ilse"})
	again, _ := world(t, dir)
	box := again.Post.Box("A@x.example")
	require.Len(t, box, 2)
	assert.Equal(t, 2, box[1].ID)
	kept, ok := again.Ostrel.Gathering(g.Ref)
	require.True(t, ok)
	assert.Equal(t, g, kept)
}

func TestTheDoorSaysWhomItWouldLetIn(t *testing.T) {
	w, _ := world(t, "")
	door := at(t, w, "ostrel")
	g := w.Ostrel.New(standin.Gathering{Topic: "Crates", Owner: "Ilse"})
	ask := func(name, word string) string {
		_, page := get(t, door+"/j/"+g.Ref+"?"+url.Values{"name": {name}, "word": {word}}.Encode())
		return page
	}
	assert.Contains(t, ask("Ilse", g.Word), "would be let in at once")
	assert.Contains(t, ask("S. Onari", g.Word), "would wait at the door until Ilse opens")
	assert.Contains(t, ask("S. Onari", "guess"), "the passcode is wrong")
}

func TestSwitches(t *testing.T) {
	w, s := world(t, "")
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	set := func(service, mode string) int {
		res, err := client.PostForm(s.URL+"/switch", url.Values{"service": {service}, "mode": {mode}})
		require.NoError(t, err)
		res.Body.Close()
		return res.StatusCode
	}
	assert.Equal(t, http.StatusSeeOther, set("ostrel", "failing"))
	assert.Equal(t, standin.Failing, w.Mode("ostrel"))
	status, _ := get(t, at(t, w, "ostrel")+"/j/none")
	assert.Equal(t, 500, status)
	assert.Equal(t, http.StatusBadRequest, set("ostrel", "sulking"))
	assert.Equal(t, http.StatusBadRequest, set("post", "quota"), "a post office has no plan")
	assert.Equal(t, http.StatusBadRequest, set("weather", "working"))
	assert.Equal(t, standin.Working, w.Mode("post"))
}
