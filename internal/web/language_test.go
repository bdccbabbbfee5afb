package web_test

import (
	"encoding/json"
	"html"
	"io"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/tongue"
	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/internal/web/api"
)

// theirs is where something stands that has a language of its own: letters, in that of who gets them;
// holidays, as the country calls them; what a field is typed as; the keys of loose ends; what others wrote, and
// what rooms a provider has; the published schema.
var theirs = regexp.MustCompile(`/dispatches/\S+ \.(text|subject)$|/preview\S* \.\S*(text|subject)$|\.holidays\.name$|\.settings\.rules\.|\.ends\.key$|/api/guest/|/invitations/\S+ \.text$|/providers/kestle/rooms |/(standing|sheets/\S+/calls) \.items\.name$|/providers/schema `)

func newListener() *demotest.Listener { return demotest.NewListener(running, theirs) }

// TestNothingIsSaidInEnglish: who reads another language hears no English from the demo's days.
func TestNothingIsSaidInEnglish(t *testing.T) {
	l := newListener()
	demotest.ReadsMarked(t, running, demo.Ilse)
	ilse := signedIn(t, demo.Ilse)
	get := func(path string) {
		_, b := ilse.call("GET", path, nil, nil)
		l.Hear(path, b)
	}
	for _, path := range []string{"/api/me", "/api/today", "/api/weeks?from=2026-11-30", "/api/weeks?from=2026-12-07", "/api/month?from=2026-11-30&days=42", "/api/hours", "/api/sheets", "/api/dispatches",
		"/api/rooms?limit=50", "/api/standing", "/api/providers", "/api/news", "/api/find?q=a", "/api/watched?from=2026-11-30", "/api/rooms/day?day=2026-12-02&seats=4", "/api/invitations/address"} {
		get(path)
	}
	own := func(sql string) {
		rows, err := running.Program.Pool.Query(t.Context(), sql)
		require.NoError(t, err)
		var ids []uuid.UUID
		var paths []string
		for rows.Next() {
			var path string
			var id uuid.UUID
			require.NoError(t, rows.Scan(&path, &id))
			ids, paths = append(ids, id), append(paths, path)
		}
		require.NoError(t, rows.Err())
		for i, id := range ids {
			get(strings.ReplaceAll(paths[i], "{}", id.String()))
		}
	}
	own("SELECT '/api/meetings/{}', id FROM meeting LIMIT 200")
	own("SELECT '/api/meetings/{}/calloff', id FROM meeting LIMIT 60")
	own("SELECT '/api/meetings/{}/proposals', id FROM meeting LIMIT 60")
	own("SELECT '/api/dispatches/{}', id FROM dispatch ORDER BY queued_at DESC LIMIT 300")
	own("SELECT '/api/rooms/{}?from=2026-11-30', id FROM room")
	own("SELECT '/api/sheets/{}', id FROM sheet")
	own("SELECT '/api/sheets/{}/dates', id FROM sheet")
	own("SELECT '/api/sheets/{}/calls', id FROM sheet")
	own("SELECT '/api/sheets/{}/preview', id FROM sheet")
	own("SELECT '/api/invitations/{}', id FROM invitation")
	l.Check(t, 1000)
}

// TestNobodyOutsideHearsEnglish: letters, and pages with a script and without one, of a meeting that is
// sent, changed and called off, to a guest who reads another language.
func TestNobodyOutsideHearsEnglish(t *testing.T) {
	const guest = "marked@kirisame.example"
	_, err := running.Program.Pool.Exec(t.Context(), "INSERT INTO reader_language (email, language, own) VALUES ($1, $2, true)", guest, tongue.Marked)
	require.NoError(t, err)
	l := newListener()
	l.All = true
	ilse := signedIn(t, demo.Ilse)
	tags := regexp.MustCompile(`(?s)<script.*?</script>|<style.*?</style>|<[^>]*>`)
	look := func(id string) {
		token := running.Program.Deeds.Seal.GuestToken(guestOf(t, id, guest), 0)
		_, b := newClient(t).call("GET", "/api/guest/"+token, nil, nil)
		l.Hear("/api/guest", b)
		res := newClient(t).do("GET", "/guest/"+token, nil, nil)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		_, page, is := strings.Cut(string(body), "<noscript>")
		require.True(t, is)
		plain, err := json.Marshal(html.UnescapeString(tags.ReplaceAllString(page, "\n")))
		require.NoError(t, err)
		l.Hear("/guest", plain)
		rows, err := running.Program.Pool.Query(t.Context(), "SELECT id FROM dispatch WHERE participant_id = $1", guestOf(t, id, guest))
		require.NoError(t, err)
		letters, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
		require.NoError(t, err)
		for _, letter := range letters {
			_, b := ilse.call("GET", "/api/dispatches/"+letter.String()+"/message", nil, nil)
			l.Hear("/message", b)
			text := as[struct{ Text string }](t, b).Text
			require.NotEmpty(t, text)
			assert.Contains(t, text, "⟦")
		}
	}
	person := []api.DraftPerson{{Email: guest, Needed: true, Dates: []api.DraftRange{}}}
	change := func(id string, how func(*api.Draft)) int {
		_, b := ilse.call("POST", "/api/meetings/"+id+"/sheet", map[string]any{}, nil)
		s := as[api.Sheet](t, b)
		how(&s.Draft)
		status, b := ilse.call("PUT", "/api/sheets/"+s.ID.String(), s.Draft, ifMatch(s.Version))
		require.Equal(t, 200, status, "%s", b)
		status, b = ilse.send(as[api.Sheet](t, b))
		require.Equal(t, 200, status, "%s", b)
		return 2
	}
	for _, draft := range []func(*api.Draft){
		func(d *api.Draft) { d.Start, d.End = "2027-06-07T06:15", "2027-06-07T07:00" },
		func(d *api.Draft) {
			d.AllDay, d.Start, d.End = new(bool), "2027-06-09T00:00", "2027-06-11T00:00"
			*d.AllDay = true
		},
		func(d *api.Draft) {
			d.Start, d.End, d.NoRoom, d.RoomID = "2027-06-14T06:15", "2027-06-14T07:00", false, aRoom(t, ilse)
			d.Repeat = &api.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=MO,TH", Ends: "after", Count: 6, Days: []string{"2027-06-17"}, Added: []string{"2027-06-19"}}
		},
	} {
		status, b := ilse.send(ilse.sheet(func(d *api.Draft) {
			d.Title, d.People = "Crates", person
			draft(d)
		}))
		require.Equal(t, 200, status, "%s", b)
		id := as[api.Sent](t, b).MeetingID.String()
		look(id)
		version := change(id, func(d *api.Draft) { d.Title, d.Text = "Crates again", "Kiln." })
		look(id)
		status, b = ilse.call("POST", "/api/meetings/"+id+"/calloff", map[string]string{"word": ""}, ifMatch(version))
		require.Less(t, status, 300, "%s", b)
		look(id)
	}
	l.Check(t, 40)
}
