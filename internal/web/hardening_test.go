package web_test

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/web/api"
)

// raw asks with a body as it is.
func (c client) raw(method, path string, body []byte, header map[string]string) (int, string) {
	c.t.Helper()
	req, err := http.NewRequestWithContext(c.t.Context(), method, running.BaseURL+path, bytes.NewReader(body))
	require.NoError(c.t, err)
	for k, v := range header {
		req.Header.Set(k, v)
	}
	res, err := c.http.Do(req)
	require.NoError(c.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return res.StatusCode, string(b)
}

func packed(t testing.TB, b []byte) []byte {
	var out bytes.Buffer
	w := gzip.NewWriter(&out)
	_, err := w.Write(b)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Bytes()
}

// TestWhatComesInIsBounded: by media type, by size, by form; what is refused says why
// and at which field, and changes nothing.
func TestWhatComesInIsBounded(t *testing.T) {
	ilse, nobody := signedIn(t, demo.Ilse), newClient(t)
	s := ilse.sheet(func(d *api.Draft) { d.Title = "Kept" })
	path := "/api/sheets/" + s.ID.String()
	jsonType := map[string]string{"Content-Type": "application/json", "If-Match": fmt.Sprint(s.Version)}
	with := func(more map[string]string) map[string]string {
		out := map[string]string{}
		for k, v := range jsonType {
			out[k] = v
		}
		for k, v := range more {
			out[k] = v
		}
		return out
	}
	draft := func(change func(map[string]any)) []byte {
		b, err := json.Marshal(s.Draft)
		require.NoError(t, err)
		var d map[string]any
		require.NoError(t, json.Unmarshal(b, &d))
		change(d)
		b, err = json.Marshal(d)
		require.NoError(t, err)
		return b
	}
	set := func(name string, v any) []byte { return draft(func(d map[string]any) { d[name] = v }) }
	person := func(v map[string]any) []byte {
		p := map[string]any{"personId": "", "name": "x", "email": "x@kirisame.example", "needed": true, "dates": []any{}}
		for k, x := range v {
			p[k] = x
		}
		return set("people", []any{p})
	}
	repeat := func(v map[string]any) []byte {
		r := map[string]any{"rule": "FREQ=DAILY", "ends": "open", "until": "", "count": 0, "weekends": false, "holidays": false, "days": []any{}, "added": []any{}}
		for k, x := range v {
			r[k] = x
		}
		return set("repeat", r)
	}
	many := func(n int, v any) (out []any) {
		for range n {
			out = append(out, v)
		}
		return out
	}
	bomb := packed(t, packed(t, bytes.Repeat([]byte(" "), 50<<20)))
	cases := []struct {
		name   string
		who    client
		method string
		path   string
		body   []byte
		header map[string]string
		status int
		says   string
	}{
		{"packed twice, by nobody", nobody, "POST", "/api/session", bomb, with(map[string]string{"Content-Encoding": "gzip, gzip"}), 415, "Content-Encoding"},
		{"packed", ilse, "PUT", path, packed(t, draft(func(map[string]any) {})), with(map[string]string{"Content-Encoding": "gzip"}), 415, "Content-Encoding"},
		{"more than a mebibyte", ilse, "PUT", path, bytes.Repeat([]byte(" "), 2<<20), jsonType, 413, "mebibyte"},
		{"a form", ilse, "PUT", path, []byte("title=x"), with(map[string]string{"Content-Type": "application/x-www-form-urlencoded"}), 415, "application/json"},
		{"CBOR", ilse, "PUT", path, []byte{0xa1, 0x61, 0x61, 1}, with(map[string]string{"Content-Type": "application/cbor"}), 415, "application/json"},
		{"MessagePack", ilse, "PUT", path, []byte{0x81, 0xa1, 0x61, 1}, with(map[string]string{"Content-Type": "application/vnd.msgpack"}), 415, "application/json"},
		{"null", ilse, "PUT", path, []byte("null"), jsonType, 400, "content"},
		{"nothing", ilse, "PUT", path, nil, jsonType, 400, "missing"},
		{"a list", ilse, "PUT", path, []byte("[]"), jsonType, 400, "content"},
		{"half of it", ilse, "PUT", path, []byte(`{"title":`), jsonType, 400, "content"},
		{"not UTF-8", ilse, "PUT", path, []byte("{\"title\":\"\xff\"}"), jsonType, 400, "UTF-8"},
		{"a title that is a number", ilse, "PUT", path, set("title", 7), jsonType, 422, `"field":"title"`},
		{"a title that is too long", ilse, "PUT", path, set("title", strings.Repeat("x", 5001)), jsonType, 422, "5000 characters"},
		{"NUL in a name", ilse, "PUT", path, person(map[string]any{"name": "a\x00b"}), jsonType, 422, `"field":"people.0.name"`},
		{"NUL in the id of a person", ilse, "PUT", path, person(map[string]any{"personId": "\x00"}), jsonType, 422, `"field":"people.0.personId"`},
		{"NUL in the room of a date", ilse, "PUT", path, set("dates", []any{map[string]any{"on": "2027-05-03", "out": false, "start": "", "end": "", "roomId": "\x00", "noRoom": false}}), jsonType, 422, `"field":"dates.0.roomId"`},
		{"NUL in the days of a rule", ilse, "PUT", path, repeat(map[string]any{"days": []any{"\x00"}}), jsonType, 422, `"field":"repeat.days.0"`},
		{"ten thousand people", ilse, "PUT", path, set("people", many(10_000, map[string]any{"personId": "", "name": "", "email": "", "needed": true, "dates": []any{}})), jsonType, 422, "300 entries"},
		{"twenty thousand added days", ilse, "PUT", path, repeat(map[string]any{"added": many(20_000, "2027-05-03")}), jsonType, 422, "1000 entries"},
		{"eight thousand dates", ilse, "PUT", path, set("dates", many(8_000, map[string]any{"on": "2027-05-03", "out": true, "start": "", "end": "", "roomId": "", "noRoom": false})), jsonType, 422, "1000 entries"},
		{"three hundred ranges", ilse, "PUT", path, person(map[string]any{"dates": many(300, map[string]any{"from": "2027-05-03", "to": "2027-05-03"})}), jsonType, 422, "50 entries"},
		{"NUL in a search", ilse, "GET", "/api/directory?q=%00", nil, nil, 422, `"field":"q"`},
		{"a search that is too long", ilse, "GET", "/api/directory?q=" + strings.Repeat("x", 101), nil, nil, 422, "100 characters"},
		{"NUL at the sign-in", nobody, "POST", "/api/session", []byte(`{"email":"a\u0000@b.example","password":"x"}`), jsonType, 422, `"field":"email"`},
		{"a password of a megabyte", nobody, "POST", "/api/session", []byte(`{"email":"a@b.example","password":"` + strings.Repeat("x", 900_000) + `"}`), jsonType, 422, `"field":"password"`},
		{"the year 9999", ilse, "GET", "/api/weeks?from=9999-12-31", nil, nil, 422, "1900 to 2199"},
		{"a key that is not UTF-8", ilse, "POST", path + "/send", nil, map[string]string{"If-Match": "1", "Idempotency-Key": "\xff\xfe\xfd\xfc\xfb\xfa\xf9\xf8"}, 400, "read"},
		{"an id that is none", ilse, "GET", "/api/sheets/1", nil, nil, 404, "nothing here"},
		{"a version that is none", ilse, "PUT", path, draft(func(map[string]any) {}), with(map[string]string{"If-Match": "two"}), 422, `"field":"ifMatch"`},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			status, b := c.who.raw(c.method, c.path, c.body, c.header)
			assert.Equal(t, c.status, status, "%s", b)
			assert.Contains(t, b, c.says)
			for _, inner := range []string{"json:", "api.", "openapi", "strconv", "interface", "Go struct", "unmarshal"} {
				assert.NotContains(t, b, inner, "no names of the program's own")
			}
		})
	}
	status, b := ilse.call("GET", path, nil, nil)
	require.Equal(t, 200, status)
	assert.Equal(t, "Kept", as[api.Sheet](t, b).Draft.Title, "nothing was wiped")
	assert.Equal(t, s.Version, as[api.Sheet](t, b).Version)
}

// TestHeadersBelongToTheKindOfAnswer: whatever the address.
func TestHeadersBelongToTheKindOfAnswer(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	for _, path := range []string{"/", "/weeks", "/weeks/preview/", "/guest/preview/x", "/api/me", "/api/sheets/preview/1", "/nowhere/preview/", "/assets/preview/x.js"} {
		res := ilse.do("GET", path, nil, nil)
		res.Body.Close()
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'", path)
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "frame-ancestors 'none'", path)
		assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"), path)
	}
	for path, want := range map[string]int{"/": 200, "/weeks": 200, "/sheet/" + uuid.NewString(): 200, "/guest/abc": 200, "/nowhere": 404, "/weeks/preview/": 404, "/.env": 404, "/api/nowhere": 404} {
		res := ilse.do("GET", path, nil, nil)
		res.Body.Close()
		assert.Equal(t, want, res.StatusCode, path)
	}
	res := ilse.do("GET", "/guest/abc", nil, nil)
	res.Body.Close()
	assert.Equal(t, "noindex", res.Header.Get("X-Robots-Tag"))
	res = ilse.do("GET", "/healthz", nil, nil)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
}

// listenLive opens the live stream of a client and gives its lines; the channel is
// closed when the stream is over.
func listenLive(t *testing.T, c client) chan string {
	res := c.do("GET", "/api/live", nil, nil)
	require.Equal(t, 200, res.StatusCode)
	lines := make(chan string, 100)
	go func() {
		defer res.Body.Close()
		defer close(lines)
		buffer := make([]byte, 4096)
		for {
			n, err := res.Body.Read(buffer)
			if n > 0 {
				lines <- string(buffer[:n])
			}
			if err != nil {
				return
			}
		}
	}()
	return lines
}

func over(lines chan string) func() bool {
	return func() bool {
		for {
			select {
			case _, open := <-lines:
				if !open {
					return true
				}
			default:
				return false
			}
		}
	}
}

// TestTheStreamEndsWithTheSession: signing out lets its windows go, and those of other
// sessions of the same person stay.
func TestTheStreamEndsWithTheSession(t *testing.T) {
	one, other := signedIn(t, "yara.mendonca@marrowby.example"), signedIn(t, "yara.mendonca@marrowby.example")
	mine, theirs := listenLive(t, one), listenLive(t, other)
	status, _ := one.call("DELETE", "/api/session", nil, nil)
	require.Equal(t, 204, status)
	require.Eventually(t, over(mine), 5*time.Second, 20*time.Millisecond)
	assert.False(t, over(theirs)())
	third := signedIn(t, "yara.mendonca@marrowby.example")
	status, _ = third.call("DELETE", "/api/sessions", nil, nil)
	require.Equal(t, 204, status)
	require.Eventually(t, over(theirs), 5*time.Second, 20*time.Millisecond, "signed out everywhere else")
	status, _ = other.call("GET", "/api/me", nil, nil)
	assert.Equal(t, 401, status)
}

// TestSomeWindowsOfAPersonAreTold: the oldest stream is let go for a new one.
func TestSomeWindowsOfAPersonAreTold(t *testing.T) {
	c := signedIn(t, "akua.danso@marrowby.example")
	first := listenLive(t, c)
	for range 12 {
		listenLive(t, c)
	}
	require.Eventually(t, over(first), 5*time.Second, 20*time.Millisecond)
}

// TestADeedNamesItsWindow: the echo of one's own deed can be told from the others.
func TestADeedNamesItsWindow(t *testing.T) {
	c := signedIn(t, "gil.tavares@marrowby.example")
	heard := listenLive(t, c)
	status, b := c.call("POST", "/api/sheets", map[string]string{}, map[string]string{"Jembro-Window": "w1"})
	require.Equal(t, 201, status)
	s := as[api.Sheet](t, b)
	header := ifMatch(s.Version)
	header["Jembro-Window"] = "w1"
	status, _ = c.call("PUT", "/api/sheets/"+s.ID.String(), s.Draft, header)
	require.Equal(t, 200, status)
	deadline := time.After(5 * time.Second)
	var all string
	for !strings.Contains(all, s.ID.String()) {
		select {
		case l := <-heard:
			all += l
		case <-deadline:
			t.Fatal("nothing heard: " + all)
		}
	}
	assert.Contains(t, all, `"topic":"sheet"`)
	assert.Contains(t, all, `"window":"w1"`)
}

// TestAHalfSentRequestHoldsNobodyUp: others are answered meanwhile.
func TestAHalfSentRequestHoldsNobodyUp(t *testing.T) {
	conn, err := net.Dial("tcp", strings.TrimPrefix(running.BaseURL, "http://"))
	require.NoError(t, err)
	defer conn.Close()
	fmt.Fprint(conn, "POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{")
	status, _ := newClient(t).call("GET", "/api/me", nil, nil)
	assert.Equal(t, 401, status)
}
