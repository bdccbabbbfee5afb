package subscribe

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/availability"
	"jembro/internal/schedule/calendars"
	"jembro/internal/standin"
)

var loopback = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}

func outside(t *testing.T) (*standin.World, string) {
	t.Helper()
	world, err := standin.New(standin.Config{})
	require.NoError(t, err)
	server := httptest.NewServer(world.Handler())
	t.Cleanup(server.Close)
	return world, server.URL + "/calendars/"
}

func faultAt(t *testing.T, c *Client, address string, within time.Duration) availability.Fault {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), within)
	defer cancel()
	_, err := c.Fetch(ctx, address, "", "")
	var failed *calendars.FetchError
	require.True(t, errors.As(err, &failed), "%s: %v", address, err)
	return failed.Fault
}

// TestWhatOthersDo: every way in which the other side can be at fault has its name, and an
// end.
func TestWhatOthersDo(t *testing.T) {
	_, base := outside(t)
	c := New(loopback, "test")
	for name, want := range map[string]availability.Fault{
		"nothing.ics": availability.FaultGone, "locked.ics": availability.FaultForbidden, "broken.ics": availability.FaultBroken, "half.ics": availability.FaultBroken,
		"endless.ics": availability.FaultTooLarge, "bomb.ics": availability.FaultTooLarge, "away.ics": availability.FaultPrivate, "round.ics": availability.FaultRedirects,
		"slow.ics": availability.FaultUnreachable,
	} {
		within := 20 * time.Second
		if name == "slow.ics" {
			within = time.Second
		}
		assert.Equal(t, want, faultAt(t, c, base+name, within), name)
	}
	closed := httptest.NewServer(http.NotFoundHandler())
	closed.Close()
	assert.Equal(t, availability.FaultUnreachable, faultAt(t, c, closed.URL, 5*time.Second))
	assert.Equal(t, availability.FaultAddress, faultAt(t, c, "http://%zz", time.Second))
}

// TestABombTakesNoRoom: what unpacks to a gigabyte is given up at ten megabytes.
func TestABombTakesNoRoom(t *testing.T) {
	_, base := outside(t)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	faultAt(t, New(loopback, "test"), base+"bomb.ics", 20*time.Second)
	runtime.ReadMemStats(&after)
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(200<<20))
}

// TestNobodyInsideIsAsked: no address of the house, whatever it is called, and no name that
// means one; what is looked at is the address that is dialled.
func TestNobodyInsideIsAsked(t *testing.T) {
	world, base := outside(t)
	world.Calendars.Publish("a.ics", standin.Calendar("A", 0))
	port, err := url.Parse(base)
	require.NoError(t, err)
	c := New(nil, "test")
	for _, address := range []string{base + "a.ics", "http://localhost:" + port.Port() + "/calendars/a.ics", "http://[::1]:" + port.Port() + "/", "http://[::ffff:127.0.0.1]:" + port.Port() + "/calendars/a.ics",
		"http://0.0.0.0:" + port.Port() + "/calendars/a.ics", "http://10.0.0.1/", "http://169.254.169.254/latest/meta-data", "http://192.168.1.1/", "http://[fd00::1]/", "http://100.64.0.1/", "http://2130706433:" + port.Port() + "/"} {
		fault := faultAt(t, c, address, 5*time.Second)
		assert.Contains(t, []availability.Fault{availability.FaultPrivate, availability.FaultAddress, availability.FaultUnreachable}, fault, address)
		assert.NotEqual(t, availability.FaultNone, fault)
	}
	assert.Equal(t, availability.FaultPrivate, faultAt(t, c, base+"a.ics", 5*time.Second))
	assert.Zero(t, world.Calendars.Asked("a.ics"), "nothing was asked")
}

func TestRedirectsAreFollowedSafely(t *testing.T) {
	to := func(text string) *http.Request {
		u, err := url.Parse(text)
		require.NoError(t, err)
		return &http.Request{URL: u}
	}
	secure, plain := to("https://a.example/"), to("http://a.example/")
	assert.NoError(t, redirect(to("https://b.example/"), []*http.Request{plain}))
	assert.NoError(t, redirect(to("http://b.example/"), []*http.Request{plain}))
	assert.Error(t, redirect(to("http://b.example/"), []*http.Request{secure}), "from https to http")
	assert.Error(t, redirect(to("ftp://b.example/"), []*http.Request{plain}))
	assert.Error(t, redirect(to("file:///etc/passwd"), []*http.Request{plain}))
	assert.Error(t, redirect(secure, []*http.Request{secure, secure, secure, secure, secure, secure}))
}

// TestWhatHasNotChangedIsNotSentAgain, by ETag and by the day of its last change, packed.
func TestWhatHasNotChangedIsNotSentAgain(t *testing.T) {
	world, base := outside(t)
	text := standin.Calendar("A", 0, standin.Event{UID: "1", Title: "One", Start: time.Unix(1_800_000_000, 0), Length: time.Hour})
	world.Calendars.Publish("a.ics", text)
	c := New(loopback, "test")
	first, err := c.Fetch(t.Context(), base+"a.ics", "", "")
	require.NoError(t, err)
	assert.Equal(t, text, string(first.Body))
	require.NotEmpty(t, first.ETag)
	again, err := c.Fetch(t.Context(), base+"a.ics", first.ETag, first.Modified)
	require.NoError(t, err)
	assert.True(t, again.Same)
	assert.Empty(t, again.Body)

	dated := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		http.ServeContent(rw, r, "a.ics", time.Unix(1_700_000_000, 0), strings.NewReader(text))
	}))
	defer dated.Close()
	first, err = c.Fetch(t.Context(), dated.URL, "", "")
	require.NoError(t, err)
	again, err = c.Fetch(t.Context(), dated.URL, "", first.Modified)
	require.NoError(t, err)
	assert.True(t, again.Same)

	busy := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		rw.Header().Set("Retry-After", "7200")
		rw.WriteHeader(http.StatusServiceUnavailable)
	}))
	defer busy.Close()
	_, err = c.Fetch(t.Context(), busy.URL, "", "")
	var failed *calendars.FetchError
	require.ErrorAs(t, err, &failed)
	assert.Equal(t, 2*time.Hour, failed.Wait)
}
