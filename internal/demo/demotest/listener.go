package demotest

import (
	"context"
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/tongue"
	"jembro/internal/demo"
)

// Listener keeps what the program says to somebody who reads the marked language: each text of an
// answer that is sentences of the catalogue and data, and nothing else.
type Listener struct {
	data    map[string]bool   // what the database holds, by the pieces of its texts
	names   map[string]bool   // first names, where they stand for somebody, and names that are no words
	left    map[string]string // what is neither marked nor data, with where it was said
	said    int               // how many marked texts there were
	running *demo.Running
	theirs  *regexp.Regexp
	All     bool // letters and pages for outside too: they are for a reader of the marked language
}

// NewListener knows the name of the house, which is no data of it. What theirs finds in where a text
// stands, the path and the names that lead to it, has a language of its own; nil where nothing has.
func NewListener(r *demo.Running, theirs *regexp.Regexp) *Listener {
	return &Listener{running: r, theirs: theirs, data: map[string]bool{r.Program.Deeds.House.Name: true}, left: map[string]string{}, names: map[string]bool{"jembro": true, "Jembro": true, "ics": true}}
}

// pieces are the parts of a text between its marks and signs.
func pieces(text string) (out []string) {
	for _, p := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune("·,;:()“”\"\n\r\t–/|", r) }) {
		out = append(out, strings.Trim(p, " .…’-"))
	}
	return out
}

// learn adds what the database holds.
func (l *Listener) learn(t *testing.T) {
	t.Helper()
	rows, err := l.running.Program.Pool.Query(t.Context(), `SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' AND table_name NOT LIKE 'river%'`)
	require.NoError(t, err)
	var tables []string
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		tables = append(tables, name)
	}
	require.NoError(t, rows.Err())
	for _, name := range tables {
		rows, err := l.running.Program.Pool.Query(t.Context(), `SELECT to_jsonb(x) FROM "`+name+`" x`)
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
	rows, err = l.running.Program.Pool.Query(t.Context(), `SELECT split_part(name, ' ', 1) FROM person`)
	require.NoError(t, err)
	first, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	for _, name := range first {
		l.names[name] = true
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

// shown are the names of what is never a code.
var shown = regexp.MustCompile(`\.(words|detail|why|says|short|notes|lines|ruleSaid|head)$`)

// size is how large a file is and how long something takes, in units that are the same in all languages.
var size = regexp.MustCompile(`^[\d.]+ (bytes|kB|MB)$|^(\d+ h ?)?\d* ?(min|h)?$`)

// Hear takes an answer.
func (l *Listener) Hear(where string, body []byte) {
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
		if l.All || l.theirs == nil || !l.theirs.MatchString(where+" "+at) {
			l.left[rest] = where + " " + at
		}
	})
}

// english is what was said in another way: pieces that are not marked and that the database does not hold,
// of more than one word where there may be codes.
func (l *Listener) english() (out []string) {
	for text, where := range l.left {
		for _, p := range pieces(text) {
			whole := strings.Contains(p, " ") || where == "/guest " || strings.HasPrefix(where, "/message .") || strings.HasPrefix(where, "page ") || shown.MatchString(where) // there are no codes
			if whole && strings.IndexFunc(p, unicode.IsLower) >= 0 && !l.known(p) && !size.MatchString(p) {
				out = append(out, where+": "+text)
				break
			}
		}
	}
	return slices.Sorted(slices.Values(out))
}

// known tells whether the database holds a text, or it is a name.
func (l *Listener) known(p string) bool { return l.data[p] || l.names[p] }

// Check holds what was heard against what the database holds.
func (l *Listener) Check(t *testing.T, atLeast int) {
	t.Helper()
	l.learn(t)
	assert.Greater(t, l.said, atLeast, "texts of the catalogue")
	assert.Empty(t, strings.Join(l.english(), "\n"))
}

// ReadsMarked makes somebody read the marked language until the test ends.
func ReadsMarked(t *testing.T, r *demo.Running, emails ...string) {
	t.Helper()
	_, err := r.Program.Pool.Exec(t.Context(), "UPDATE person SET language = $1 WHERE email = ANY($2)", tongue.Marked, emails)
	require.NoError(t, err)
	t.Cleanup(func() {
		_, err := r.Program.Pool.Exec(context.Background(), "UPDATE person SET language = '' WHERE email = ANY($1)", emails)
		require.NoError(t, err)
	})
}
