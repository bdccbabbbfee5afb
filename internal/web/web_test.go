package web_test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/internal/web/api"
)

var running *demo.Running

func TestMain(m *testing.M) {
	os.Exit(demotest.Run(m, nil, func(r *demo.Running) { running = r }))
}

// client is a browser of one person.
type client struct {
	t    testing.TB
	http *http.Client
}

func newClient(t testing.TB) client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return client{t, &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

func signedIn(t testing.TB, email string) client {
	c := newClient(t)
	status, _ := c.call("POST", "/api/session", map[string]string{"email": email, "password": demo.Password}, nil)
	require.Equal(t, 200, status)
	return c
}

func (c client) do(method, path string, body any, header map[string]string) *http.Response {
	c.t.Helper()
	var raw io.Reader
	switch b := body.(type) {
	case nil:
	case string:
		raw = strings.NewReader(b)
	default:
		j, err := json.Marshal(b)
		require.NoError(c.t, err)
		raw = bytes.NewReader(j)
	}
	req, err := http.NewRequestWithContext(c.t.Context(), method, running.BaseURL+path, raw)
	require.NoError(c.t, err)
	if raw != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	for k, v := range header {
		req.Header.Set(k, v)
	}
	res, err := c.http.Do(req)
	require.NoError(c.t, err)
	return res
}

func (c client) call(method, path string, body any, header map[string]string) (int, []byte) {
	c.t.Helper()
	res := c.do(method, path, body, header)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	if res.StatusCode >= 400 {
		assert.Equal(c.t, "application/problem+json", res.Header.Get("Content-Type"), "%s %s", method, path)
	}
	return res.StatusCode, b
}

func as[T any](t testing.TB, b []byte) (v T) {
	t.Helper()
	require.NoError(t, json.Unmarshal(b, &v), "%s", b)
	return v
}

func (c client) sheet(draft func(*api.Draft)) api.Sheet {
	c.t.Helper()
	_, b := c.call("POST", "/api/sheets", map[string]string{"start": "2027-05-03T09:30", "end": "2027-05-03T10:30"}, nil)
	s := as[api.Sheet](c.t, b)
	s.Draft.Title, s.Draft.NoRoom, s.Draft.NoLink = "Crate sizes", true, true
	if draft != nil {
		draft(&s.Draft)
	}
	if s.Draft.People == nil {
		s.Draft.People = []api.DraftPerson{}
	}
	for i := range s.Draft.People {
		if s.Draft.People[i].Dates == nil {
			s.Draft.People[i].Dates = []api.DraftRange{}
		}
	}
	status, b := c.call("PUT", "/api/sheets/"+s.ID.String(), s.Draft, ifMatch(s.Version))
	require.Equal(c.t, 200, status, "%s", b)
	return as[api.Sheet](c.t, b)
}

func ifMatch(version int) map[string]string {
	return map[string]string{"If-Match": fmt.Sprint(version)}
}

func (c client) send(s api.Sheet) (int, []byte) {
	c.t.Helper()
	h := ifMatch(s.Version)
	h["Idempotency-Key"] = uuid.NewString()
	return c.call("POST", "/api/sheets/"+s.ID.String()+"/send", nil, h)
}

func TestStatusesAreUsedAsMeant(t *testing.T) {
	ilse, rui := signedIn(t, demo.Ilse), signedIn(t, "rui.calado@marrowby.example")
	s := ilse.sheet(nil)
	path := "/api/sheets/" + s.ID.String()
	sent := ilse.sheet(nil)
	status, b := ilse.send(sent)
	require.Equal(t, 200, status, "%s", b)
	meeting := "/api/meetings/" + as[api.Sent](t, b).MeetingID.String()
	room := func(d *api.Draft) { d.NoRoom, d.RoomID = false, aRoom(t, ilse) }
	taken := ilse.sheet(room)
	status, b = ilse.send(taken)
	require.Equal(t, 200, status, "%s", b)
	late := rui.sheet(room)

	cases := []struct {
		name, kind string
		status     int
		do         func() (int, []byte)
	}{
		{"nobody signed in", "signed-out", 401, func() (int, []byte) { return newClient(t).call("GET", "/api/weeks?from=2026-11-23", nil, nil) }},
		{"a wrong password", "wrong-sign-in", 401, func() (int, []byte) {
			return newClient(t).call("POST", "/api/session", map[string]string{"email": demo.Ilse, "password": "x"}, nil)
		}},
		{"a person that is none", "wrong-sign-in", 401, func() (int, []byte) {
			return newClient(t).call("POST", "/api/session", map[string]string{"email": "x@marrowby.example", "password": "x"}, nil)
		}},
		{"a page of another site", "request", 403, func() (int, []byte) {
			return ilse.call("DELETE", path, nil, map[string]string{"Sec-Fetch-Site": "cross-site", "Origin": "https://elsewhere.example"})
		}},
		{"another's sheet", "not-found", 404, func() (int, []byte) { return rui.call("GET", path, nil, nil) }},
		{"another's meeting by number", "not-found", 404, func() (int, []byte) { return rui.call("GET", meeting, nil, nil) }},
		{"another's meeting called off", "not-found", 404, func() (int, []byte) {
			return rui.call("POST", meeting+"/calloff", map[string]string{"word": ""}, ifMatch(1))
		}},
		{"another's meeting as a file", "not-found", 404, func() (int, []byte) { return rui.call("GET", meeting+"/file", nil, nil) }},
		{"a guest address that is none", "not-found", 404, func() (int, []byte) { return newClient(t).call("GET", "/api/guest/abc", nil, nil) }},
		{"no such address", "not-found", 404, func() (int, []byte) { return ilse.call("GET", "/api/nothing", nil, nil) }},
		{"a number that is none", "not-found", 404, func() (int, []byte) { return ilse.call("GET", "/api/meetings/7", nil, nil) }},
		{"no JSON", "request", 400, func() (int, []byte) { return ilse.call("PUT", path, "{", ifMatch(s.Version)) }},
		{"a write without its version", "request", 400, func() (int, []byte) { return ilse.call("PUT", path, s.Draft, nil) }},
		{"a sheet that was saved meanwhile", "sheet-changed", 412, func() (int, []byte) { return ilse.call("PUT", path, s.Draft, ifMatch(s.Version-1)) }},
		{"faults", "invalid", 422, func() (int, []byte) { return ilse.send(ilse.sheet(func(d *api.Draft) { d.Title = "" })) }},
		{"a room that is taken", "room-taken", 409, func() (int, []byte) { return rui.send(late) }},
		{"a link before signing in there", "sign-in-at-provider", 409, func() (int, []byte) {
			return ilse.call("POST", path+"/link", map[string]string{"provider": "ostrel"}, nil)
		}},
		{"a meeting changed meanwhile", "meeting-changed", 409, func() (int, []byte) {
			_, b := ilse.call("POST", meeting+"/sheet", map[string]string{}, nil)
			c := as[api.Sheet](t, b)
			c.Draft.Title = "New title"
			_, b = ilse.call("PUT", "/api/sheets/"+c.ID.String(), c.Draft, ifMatch(c.Version))
			status, b := ilse.send(as[api.Sheet](t, b))
			require.Equal(t, 200, status, "%s", b)
			return ilse.call("POST", meeting+"/calloff", map[string]string{"word": ""}, ifMatch(1))
		}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			status, b := c.do()
			assert.Equal(t, c.status, status, "%s", b)
			p := as[api.Problem](t, b)
			assert.Equal(t, "/problems/"+c.kind, p.Type)
			assert.Equal(t, c.status, p.Status)
			assert.NotEmpty(t, *p.Detail)
		})
	}
}

func aRoom(t testing.TB, c client) string {
	_, b := c.call("GET", "/api/rooms?limit=1", nil, nil)
	rooms := as[api.Rooms](t, b)
	require.Len(t, rooms.Items, 1)
	assert.True(t, rooms.More, "lists are paged")
	return rooms.Items[0].ID.String()
}

func TestATakenRoomNamesTheFieldAndTheWayOut(t *testing.T) {
	ilse, rui := signedIn(t, demo.Ilse), signedIn(t, "rui.calado@marrowby.example")
	at := func(d *api.Draft) {
		d.NoRoom, d.RoomID, d.Start, d.End = false, aRoom(t, ilse), "2027-05-04T09:30", "2027-05-04T10:30"
	}
	status, b := ilse.send(ilse.sheet(at))
	require.Equal(t, 200, status, "%s", b)
	_, b = rui.send(rui.sheet(at))
	p := as[api.Problem](t, b)
	require.Len(t, *p.Errors, 1)
	assert.Equal(t, "room", (*p.Errors)[0].Field)
	assert.Contains(t, *p.Detail, " from 9:30 until 10:30")
	assert.NotEmpty(t, *p.ClearRooms)
}

func TestSessions(t *testing.T) {
	c := signedIn(t, demo.Ilse)
	res := c.do("POST", "/api/session", map[string]string{"email": demo.Ilse, "password": demo.Password}, nil)
	res.Body.Close()
	cookie := res.Cookies()[0]
	assert.True(t, cookie.HttpOnly)
	assert.Equal(t, http.SameSiteLaxMode, cookie.SameSite)
	var kept int
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT count(*) FROM session WHERE token_hash = $1", []byte(cookie.Value)).Scan(&kept))
	assert.Zero(t, kept, "only the hash of a token is kept")
	status, _ := c.call("GET", "/api/me", nil, nil)
	assert.Equal(t, 200, status)
	status, _ = c.call("DELETE", "/api/session", nil, nil)
	assert.Equal(t, 204, status)
	status, _ = newClient(t).call("GET", "/api/me", nil, map[string]string{"Cookie": "jembro_session=" + cookie.Value})
	assert.Equal(t, 401, status, "signed out is signed out, also with an old cookie")
}

func TestHeadersOfPagesAndPreviews(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	res := ilse.do("GET", "/weeks", nil, nil)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
	policy := res.Header.Get("Content-Security-Policy")
	assert.Contains(t, policy, "script-src 'self'")
	assert.NotContains(t, policy, "unsafe")
	assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))

	s := ilse.sheet(func(d *api.Draft) {
		d.People = []api.DraftPerson{{Email: "s.onari@kirisame.example", Needed: true}}
		d.Text = "<script>alert(1)</script>"
	})
	res = ilse.do("GET", "/api/sheets/"+s.ID.String()+"/preview/0/page", nil, nil)
	body, err := io.ReadAll(res.Body)
	res.Body.Close()
	require.NoError(t, err)
	assert.Equal(t, []string{"default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'self'; sandbox"}, res.Header.Values("Content-Security-Policy"))
	assert.Empty(t, res.Header.Values("X-Frame-Options"))
	assert.NotContains(t, string(body), "<script>")
}

func TestAChangeIsHeardWithinTwoSeconds(t *testing.T) {
	ilse, tome := signedIn(t, demo.Ilse), signedIn(t, "tome.akande@marrowby.example")
	res := tome.do("GET", "/api/live", nil, nil)
	defer res.Body.Close()
	require.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
	heard := make(chan string, 10)
	go func() {
		lines := bufio.NewScanner(res.Body)
		for lines.Scan() {
			if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				heard <- data
			}
		}
	}()
	time.Sleep(200 * time.Millisecond)
	_, b := ilse.send(ilse.sheet(func(d *api.Draft) { d.People = []api.DraftPerson{{Email: "tome.akande@marrowby.example"}} }))
	sent := as[api.Sent](t, b)
	select {
	case about := <-heard:
		assert.JSONEq(t, fmt.Sprintf(`{"topic":"meeting","id":%q}`, sent.MeetingID), about)
	case <-time.After(2 * time.Second):
		t.Fatal("nothing heard within two seconds")
	}
}

func TestWeekInTheOwnZone(t *testing.T) {
	tomas := signedIn(t, "tomas.furtado@marrowby.example") // in the Azores
	_, b := tomas.call("GET", "/api/weeks?from=2026-11-23", nil, nil)
	w := as[api.Week](t, b)
	assert.Equal(t, "Atlantic/Azores", w.Zone)
	assert.Equal(t, "2026-11-23T01:00:00Z", w.Window.Start.Format(time.RFC3339))
	assert.Equal(t, "2026-11-23T10:00:00Z", w.Working[0].Start.Format(time.RFC3339))
	status, b := tomas.call("GET", "/api/weeks?from=soon", nil, nil)
	assert.Equal(t, 422, status, "%s", b)
}

func TestFiles(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	_, b := ilse.send(ilse.sheet(func(d *api.Draft) { d.People = []api.DraftPerson{{Email: "file@kirisame.example"}} }))
	id := as[api.Sent](t, b).MeetingID
	res := ilse.do("GET", "/api/meetings/"+id.String()+"/file", nil, nil)
	body, err := io.ReadAll(res.Body)
	res.Body.Close()
	require.NoError(t, err)
	assert.Equal(t, "text/calendar; charset=utf-8", res.Header.Get("Content-Type"))
	assert.Contains(t, res.Header.Get("Content-Disposition"), "meeting.ics")
	assert.Contains(t, string(body), "UID:"+id.String())
}

// TestSlowingSignIns: an account that is guessed at waits longer and longer; others
// from the same address do not.
func TestSlowingSignIns(t *testing.T) {
	c := newClient(t)
	try := func(email string) (int, http.Header) {
		res := c.do("POST", "/api/session", map[string]string{"email": email, "password": "x"}, nil)
		defer res.Body.Close()
		return res.StatusCode, res.Header
	}
	for range 5 {
		status, _ := try("guessed@marrowby.example")
		require.Equal(t, 401, status)
	}
	var status int
	var header http.Header
	for range 8 { // a slow machine outlives the first waits; each is twice the one before
		if status, header = try("guessed@marrowby.example"); status == 429 {
			break
		}
	}
	assert.Equal(t, 429, status)
	assert.NotEmpty(t, header.Get("Retry-After"))
	status, _ = try("another@marrowby.example")
	assert.Equal(t, 401, status, "another account from the same address")
}
