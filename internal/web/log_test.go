package web_test

import (
	"bytes"
	"log/slog"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/web/api"
)

// lines takes what is logged.
type lines struct {
	mu   sync.Mutex
	text bytes.Buffer
}

func (l *lines) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(b)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.String()
}

// TestTheLogNamesNobody: security events are lines with facts, and neither they nor
// errors hold a token, a name, an address or a password.
func TestTheLogNamesNobody(t *testing.T) {
	logged := &lines{}
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewJSONHandler(logged, nil)))
	defer slog.SetDefault(before)

	c := newClient(t)
	status, _ := c.call("POST", "/api/session", map[string]string{"email": "unlogged@marrowby.example", "password": "unlogged words"}, nil)
	require.Equal(t, 401, status)
	assert.Contains(t, logged.String(), `"msg":"security: sign-in refused"`)
	ilse := signedIn(t, demo.Ilse)
	assert.Contains(t, logged.String(), `"msg":"security: signed in","person":"`)

	_, b := ilse.send(ilse.sheet(func(d *api.Draft) { d.People = []api.DraftPerson{{Email: "unlogged@kirisame.example"}} }))
	token := running.Program.Deeds.Seal.GuestToken(guestOf(t, as[api.Sent](t, b).MeetingID.String(), "unlogged@kirisame.example"), 0)
	// A fault of ours on a guest's page: the line has the route, not the address.
	pool := running.Program.Pool
	_, err := pool.Exec(t.Context(), "ALTER TABLE answer_on RENAME TO answer_on_gone")
	require.NoError(t, err)
	status, b = newClient(t).call("GET", "/api/guest/"+token, nil, nil)
	_, err = pool.Exec(t.Context(), "ALTER TABLE answer_on_gone RENAME TO answer_on")
	require.NoError(t, err)
	require.Equal(t, 500, status, "%s", b)
	assert.Contains(t, logged.String(), `"route":"/api/guest/:token"`)
	for _, secret := range []string{token, "unlogged", demo.Password, demo.Ilse, "Ilse"} {
		assert.NotContains(t, logged.String(), secret)
	}
	assert.NotContains(t, string(b), "answer_on", "nor does the answer say what our tables are called")
}
