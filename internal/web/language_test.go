package web_test

import (
	"context"
	"encoding/json"
	"html"
	"io"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/tongue"
	"jembro/internal/demo"
	"jembro/internal/web/api"
)

// listener keeps what the program says to somebody who reads the marked language: each text of an
// answer that is sentences of the catalogue and data, and nothing else.
type listener struct {
	data map[string]bool   // what the database holds, by the pieces of its texts
	left map[string]string // what is neither marked nor data, with where it was said
	said int               // how many marked texts there were
	all  bool              // letters and pages for outside too: they are for a reader of the marked language
}

// newListener knows the name of the house, which is no data of it.
func newListener() *listener {
	return &listener{data: map[string]bool{running.Program.Deeds.House.Name: true}, left: map[string]string{}}
}

// reads makes somebody read the marked language until the test ends.
func reads(t *testing.T, emails ...string) {
	t.Helper()
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE person SET language = $1 WHERE email = ANY($2)", tongue.Marked, emails)
	require.NoError(t, err)
	t.Cleanup(func() {
		_, err := running.Program.Pool.Exec(context.Background(), "UPDATE person SET language = '' WHERE email = ANY($1)", emails)
		require.NoError(t, err)
	})
}

// pieces are the parts of a text between its marks and signs.
func pieces(text string) (out []string) {
	for _, p := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune("·,;:()“”\"\n\r\t–/|", r) }) {
		out = append(out, strings.Trim(p, " .…’-"))
	}
	return out
}

// learn adds what the database holds.
func (l *listener) learn(t *testing.T) {
	t.Helper()
	rows, err := running.Program.Pool.Query(t.Context(), `SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' AND table_name NOT LIKE 'river%'`)
	require.NoError(t, err)
	var tables []string
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		tables = append(tables, name)
	}
	require.NoError(t, rows.Err())
	for _, name := range tables {
		rows, err := running.Program.Pool.Query(t.Context(), `SELECT to_jsonb(x) FROM "`+name+`" x`)
		require.NoError(t, err)
		for rows.Next() {
			var row any
			require.NoError(t, rows.Scan(&row))
			texts(row, "", func(_, text string) {
				for _, p := range pieces(text) {
					l.data[p] = true
				}
			})
		}
		require.NoError(t, rows.Err())
	}
}

// texts are those of a JSON value, with the names that lead to them.
func texts(v any, at string, f func(at, text string)) {
	switch v := v.(type) {
	case string:
		f(at, v)
	case []any:
		for _, x := range v {
			texts(x, at, f)
		}
	case map[string]any:
		for name, x := range v {
			texts(x, at+"."+name, f)
		}
	}
}

var marked = regexp.MustCompile(`⟦[^⟦⟧]*⟧`)

// theirs is where something stands that has a language of its own: letters, in that of who gets them;
// holidays, as the country calls them; what a field is typed as; the keys of loose ends; what others wrote, and
// what rooms a provider has; the published schema.
var theirs = regexp.MustCompile(`/dispatches/\S+ \.(text|subject)$|/preview\S* \.\S*(text|subject)$|\.holidays\.name$|\.settings\.rules\.|\.ends\.key$|/api/guest/|/invitations/\S+ \.text$|/providers/kestle/rooms |/(standing|sheets/\S+/calls) \.items\.name$|/providers/schema `)

// size is how large a file is, in units that are the same in all languages.
var size = regexp.MustCompile(`^[\d.]+ (bytes|kB|MB)$`)

// hear takes an answer.
func (l *listener) hear(where string, body []byte) {
	var v any
	if json.Unmarshal(body, &v) != nil {
		return // a file
	}
	texts(v, "", func(at, text string) {
		rest := text
		for marked.MatchString(rest) {
			rest = marked.ReplaceAllString(rest, "")
		}
		if rest != text {
			l.said++
		}
		if l.all || !theirs.MatchString(where+" "+at) {
			l.left[rest] = where + " " + at
		}
	})
}

// english is what was said in another way: pieces of more than one word that are not marked and that
// the database does not hold.
func (l *listener) english() (out []string) {
	for text, where := range l.left {
		for _, p := range pieces(text) {
			whole := strings.Contains(p, " ") || where == "/guest " || strings.HasPrefix(where, "/message .") // there are no codes
			if whole && strings.IndexFunc(p, unicode.IsLower) >= 0 && !l.data[p] && !size.MatchString(p) {
				out = append(out, where+": "+text)
				break
			}
		}
	}
	return slices.Sorted(slices.Values(out))
}

// check holds what was heard against what the database holds.
func (l *listener) check(t *testing.T, atLeast int) {
	t.Helper()
	l.learn(t)
	assert.Greater(t, l.said, atLeast, "texts of the catalogue")
	assert.Empty(t, strings.Join(l.english(), "\n"))
}

// TestNothingIsSaidInEnglish: who reads another language hears no English from the demo's days.
func TestNothingIsSaidInEnglish(t *testing.T) {
	l := newListener()
	reads(t, demo.Ilse)
	ilse := signedIn(t, demo.Ilse)
	get := func(path string) {
		_, b := ilse.call("GET", path, nil, nil)
		l.hear(path, b)
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
	l.check(t, 1000)
}

// TestNobodyOutsideHearsEnglish: letters, and pages with a script and without one, of a meeting that is
// sent, changed and called off, to a guest who reads another language.
func TestNobodyOutsideHearsEnglish(t *testing.T) {
	const guest = "marked@kirisame.example"
	_, err := running.Program.Pool.Exec(t.Context(), "INSERT INTO reader_language (email, language, own) VALUES ($1, $2, true)", guest, tongue.Marked)
	require.NoError(t, err)
	l := newListener()
	l.all = true
	ilse := signedIn(t, demo.Ilse)
	tags := regexp.MustCompile(`(?s)<script.*?</script>|<style.*?</style>|<[^>]*>`)
	look := func(id string) {
		token := running.Program.Deeds.Seal.GuestToken(guestOf(t, id, guest), 0)
		_, b := newClient(t).call("GET", "/api/guest/"+token, nil, nil)
		l.hear("/api/guest", b)
		res := newClient(t).do("GET", "/guest/"+token, nil, nil)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		_, page, is := strings.Cut(string(body), "<noscript>")
		require.True(t, is)
		plain, err := json.Marshal(html.UnescapeString(tags.ReplaceAllString(page, "\n")))
		require.NoError(t, err)
		l.hear("/guest", plain)
		rows, err := running.Program.Pool.Query(t.Context(), "SELECT id FROM dispatch WHERE participant_id = $1", guestOf(t, id, guest))
		require.NoError(t, err)
		letters, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
		require.NoError(t, err)
		for _, letter := range letters {
			_, b := ilse.call("GET", "/api/dispatches/"+letter.String()+"/message", nil, nil)
			l.hear("/message", b)
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
	l.check(t, 40)
}
