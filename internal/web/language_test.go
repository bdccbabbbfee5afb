package web_test

import (
	"context"
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/tongue"
	"jembro/internal/demo"
)

// listener keeps what the program says to somebody who reads the marked language: each text of an
// answer that is sentences of the catalogue and data, and nothing else.
type listener struct {
	data map[string]bool   // what the database holds, by the pieces of its texts
	left map[string]string // what is neither marked nor data, with where it was said
	said int               // how many marked texts there were
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
		if !theirs.MatchString(where + " " + at) {
			l.left[rest] = where + " " + at
		}
	})
}

// english is what was said in another way: pieces of more than one word that are not marked and that
// the database does not hold.
func (l *listener) english() (out []string) {
	for text, where := range l.left {
		for _, p := range pieces(text) {
			if strings.Contains(p, " ") && strings.IndexFunc(p, unicode.IsLower) >= 0 && !l.data[p] && !size.MatchString(p) {
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
