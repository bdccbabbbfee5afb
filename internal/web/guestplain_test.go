package web_test

import (
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/web/api"
)

// TestAGuestWithoutScript reads the page, answers by a form, and subscribes to what follows every
// change; the address goes nowhere, and nothing is kept of it.
func TestAGuestWithoutScript(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	_, b := ilse.send(ilse.sheet(func(d *api.Draft) {
		d.Title, d.People = "Plain <b>crates</b>", []api.DraftPerson{{Email: "plain@kirisame.example", Needed: true, Dates: []api.DraftRange{}}}
	}))
	id := as[api.Sent](t, b).MeetingID.String()
	page := running.BaseURL + "/guest/" + running.Program.Deeds.Seal.GuestToken(guestOf(t, id, "plain@kirisame.example"), 0)
	get := func(address string) (*http.Response, string) {
		res, err := http.Get(address)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res, string(body)
	}
	res, body := get(page)
	assert.Equal(t, []string{"noindex", "no-referrer", "no-store"}, []string{res.Header.Get("X-Robots-Tag"), res.Header.Get("Referrer-Policy"), res.Header.Get("Cache-Control")})
	plain := body[strings.Index(body, "<noscript>"):]
	for _, want := range []string{"Plain &lt;b&gt;crates&lt;/b&gt;", "Ilse Marrant, Marrowby Museums, invites", `name="answer" value="accepted"`, "Calendar file (.ics)"} {
		assert.Contains(t, plain, want)
	}
	answer := func(form url.Values) string {
		res, err := http.PostForm(page+"/answer", form)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return string(body)
	}
	assert.Contains(t, answer(url.Values{"answer": {"accepted"}, "sequence": {"0"}, "comment": {"With gloves"}}), "Your answer was taken.")
	assert.Contains(t, answer(url.Values{"answer": {"perhaps"}, "sequence": {"0"}}), "Choose one of the three.")
	_, body = get(page)
	assert.Contains(t, body, "You accepted. You can change it.")
	req, err := http.NewRequest("POST", page+"/answer", strings.NewReader("answer=declined&sequence=0"))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Origin", "https://elsewhere.example")
	other, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	other.Body.Close()
	assert.Equal(t, 403, other.StatusCode)

	res, body = get(page + "/calendar.ics")
	assert.Equal(t, "text/calendar; charset=utf-8", res.Header.Get("Content-Type"))
	assert.Empty(t, res.Header.Get("Content-Disposition"))
	assert.NotContains(t, body, "METHOD:")
	assert.Contains(t, body, "REFRESH-INTERVAL;VALUE=DURATION:PT60M")
	for _, gone := range []string{"/guest/none", "/guest/none/calendar.ics"} {
		_, body = get(running.BaseURL + gone)
		assert.NotContains(t, body, "BEGIN:VCALENDAR")
		assert.NotContains(t, body, "<noscript>")
	}
}

// TestAShortAddressWithoutScript shows what anybody may see, and takes a wish to be invited.
func TestAShortAddressWithoutScript(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	_, b := ilse.send(ilse.sheet(func(d *api.Draft) {
		d.Title, d.People = "Open <i>kiln</i>", []api.DraftPerson{{Email: "hidden@kirisame.example", Needed: true, Dates: []api.DraftRange{}}}
	}))
	id := as[api.Sent](t, b).MeetingID.String()
	_, b = ilse.call("PUT", "/api/meetings/"+id+"/address", map[string]any{"asks": true}, nil)
	page := as[api.ShortAddress](t, b).URL
	read := func(res *http.Response, err error) string {
		require.NoError(t, err)
		defer res.Body.Close()
		assert.Equal(t, 200, res.StatusCode)
		assert.Equal(t, []string{"noindex", "no-referrer"}, []string{res.Header.Get("X-Robots-Tag"), res.Header.Get("Referrer-Policy")})
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return string(body)
	}
	body := read(http.Get(page))
	for _, want := range []string{"Open &lt;i&gt;kiln&lt;/i&gt;", "A meeting of Ilse Marrant, Marrowby Museums", "Invite me"} {
		assert.Contains(t, body, want)
	}
	assert.NotContains(t, body, "hidden@")
	join := func(email string) string {
		return read(http.PostForm(page+"/join", url.Values{"email": {email}, "name": {"Plain\x00 Reader"}}))
	}
	req, err := http.NewRequest("GET", page, nil)
	require.NoError(t, err)
	req.Header.Set("Accept-Language", "pt-PT, en;q=0.7")
	body = read(http.DefaultClient.Do(req))
	for _, want := range []string{`<main lang="pt">`, "Uma reunião de Ilse Marrant, Marrowby Museums", "hora de Lisboa", "Quero um convite"} {
		assert.Contains(t, body, want)
	}
	assert.Contains(t, join("nobody"), "That is no address")
	assert.Contains(t, join("plainly@kirisame.example"), "An invitation is on its way to you.")
	guestOf(t, id, "plainly@kirisame.example")
	res, err := http.Get(running.BaseURL + "/m/none")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode, "the interface says that there is nothing")
}

// TestAGuestsPageInTheirLanguage: a series, its join card and what changed, in the language that the
// guest reads, for a browser with script and without.
func TestAGuestsPageInTheirLanguage(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	repeat, language := api.DraftRepeat{Rule: "every 2nd Monday", Ends: "after", Count: 3, Days: []string{}, Added: []string{}}, "pt"
	_, b := ilse.send(ilse.sheet(func(d *api.Draft) {
		d.Title, d.Repeat, d.People = "Caixas", &repeat, []api.DraftPerson{{Email: "lendo@kirisame.example", Needed: true, Dates: []api.DraftRange{}, Language: &language}}
	}))
	id := as[api.Sent](t, b).MeetingID.String()
	token := running.Program.Deeds.Seal.GuestToken(guestOf(t, id, "lendo@kirisame.example"), 0)
	status, b := ilse.call("GET", "/api/guest/"+token, nil, nil)
	require.Equal(t, 200, status)
	m := as[api.GuestMeeting](t, b)
	assert.Equal(t, "pt", m.Language)
	assert.Regexp(t, `^a cada 2 semanas, à \S+-feira, até \d+ de \S+ de 20\d\d$`, m.Series.Words)
	res, err := http.Get(running.BaseURL + "/guest/" + token)
	require.NoError(t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	for _, want := range []string{`<main lang="pt">`, "convida lendo@kirisame.example", "a cada 2 semanas", ", a primeira: ", "Recusar"} {
		assert.Contains(t, string(body), want)
	}
	// Somebody invited to some dates does not learn the rule of the others.
	_, b = ilse.send(ilse.sheet(func(d *api.Draft) {
		d.Title, d.Repeat, d.People = "Caixas", &repeat, []api.DraftPerson{{Email: "some@kirisame.example", Needed: true, Dates: []api.DraftRange{{From: "2027-05-17", To: "2027-05-17"}}}}
	}))
	some, err := http.Get(running.BaseURL + "/guest/" + running.Program.Deeds.Seal.GuestToken(guestOf(t, as[api.Sent](t, b).MeetingID.String(), "some@kirisame.example"), 0))
	require.NoError(t, err)
	defer some.Body.Close()
	body, err = io.ReadAll(some.Body)
	require.NoError(t, err)
	assert.Contains(t, string(body), "17 May")
	assert.NotContains(t, string(body), "every 2nd")

	status, b = ilse.call("POST", "/api/guest/"+token+"/language", map[string]any{"language": "en"}, nil)
	require.Equal(t, 204, status, string(b))
	_, b = ilse.call("GET", "/api/guest/"+token, nil, nil)
	assert.Regexp(t, `^every 2nd \S+day until `, as[api.GuestMeeting](t, b).Series.Words)
}
