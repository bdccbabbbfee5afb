package words_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sentence is what people read: two words of small letters with a space between.
var sentence = regexp.MustCompile(`\p{Ll}{2,}[,;:’”]? [“%\p{Ll}]`)

// protocol is what stands in headers: a type, what may be kept and for how long.
var protocol = regexp.MustCompile(`^(event|private|attachment|text/\w+|application/\w+)[,;:]|^: `)

// saying are the calls whose texts are not shown, or are of the catalogue: what is said, errors and logs
// for those who run the program.
var saying = []string{"Say", "Counted", "New", "Errorf", "Debug", "Info", "Warn", "Error", "Fatal", "panic", "noteSecurity"}

// reading are the calls that take a text for a sign of something.
var reading = []string{"Contains", "HasPrefix", "HasSuffix", "Index", "EqualFold", "Cut", "CutPrefix", "CutSuffix", "TrimPrefix", "TrimSuffix", "Replace", "ReplaceAll"}

// grammar is what has sentences for another reason: text that is read, SQL, pages, what is shown to nobody.
var grammar = map[string]string{
	"internal/core/recur/say.go":             "reads how people say a rule",
	"internal/core/recur/words.go":           "writes a rule in the words that say.go reads, which fields hold",
	"internal/core/join/words.go":            "reads the mails of others, in many languages",
	"internal/core/join/write.go":            "ids of the letters, which Lines says",
	"internal/core/join/way.go":              "reads addresses",
	"internal/core/join/door.go":             "ids of the letters, which DoorLines says",
	"internal/core/attachment/attachment.go": "kinds of files",
	"internal/core/holidays/portugal.go":     "holidays, as the country calls them",
	"internal/core/reach/code.go":            "reads what servers answer",
	"internal/core/meeting/call.go":          "a part in a title, which is the organiser's to change",
	"internal/ical/readcalendar.go":          "what is counted, and logged",
	"internal/mail/listener.go":              "answers of SMTP, which programs read",
	"internal/conference/client.go":          "headers, and a page in place of an answer",
	"internal/conference/expression.go":      "reads the errors of the library that knows expressions",
	"internal/jobs/jobs.go":                  "the cause of a failure, as the log has it",
	"internal/jobs/alive.go":                 "SQL",
	"internal/schedule/dispatch/deliver.go":  "the cause of a failure, as the log has it",
	"internal/schedule/links/describe.go":    "the file that a description begins as",
	"internal/schedule/sheets/later.go":      "a key",
	"internal/mail/render.go":                "ids of the letters, which are said where they are chosen",
	"internal/mail/sign.go":                  "what DKIM writes",
	"internal/schedule/seal.go":              "names of keys",
	"internal/schedule/rooms/table.go":       "the columns of a file, which is read again",
	"internal/mail/in.go":                    "reads the mails of others",
	"internal/mail/report.go":                "reads the reports of others",
	"internal/mail/relay.go":                 "steps of a conversation, for the log",
	"internal/web/app.go":                    "headers",
	"internal/web/guestplain.go":             "a page whose sentences are said by .T.Say",
	"internal/web/shortaddress.go":           "a page whose sentences are said by .T.Say",
}

func callee(c *ast.CallExpr) string {
	switch f := c.Fun.(type) {
	case *ast.Ident:
		return f.Name
	case *ast.SelectorExpr:
		return f.Sel.Name
	}
	return ""
}

// TestNoSentenceOutsideTheCatalogues: what people read is said from the catalogue, and nothing asks a
// sentence what happened.
func TestNoSentenceOutsideTheCatalogues(t *testing.T) {
	files := token.NewFileSet()
	var outside, compared []string
	used := map[string]bool{}
	look := func(path string) {
		name := strings.TrimPrefix(filepath.ToSlash(path), "../../../")
		f, err := parser.ParseFile(files, path, nil, 0)
		require.NoError(t, err)
		var stack []ast.Node
		ast.Inspect(f, func(n ast.Node) bool {
			if n == nil {
				stack = stack[:len(stack)-1]
				return true
			}
			stack = append(stack, n)
			lit, is := n.(*ast.BasicLit)
			if !is || lit.Kind != token.STRING {
				return true
			}
			text, _ := strconv.Unquote(lit.Value)
			if !sentence.MatchString(text) || protocol.MatchString(text) {
				return true
			}
			at := name + ":" + strconv.Itoa(files.Position(lit.Pos()).Line) + ": " + lit.Value
			said := strings.HasPrefix(name, "internal/core/words/")
			for _, n := range stack {
				switch n := n.(type) {
				case *ast.FuncDecl:
					said = said || n.Name.Name == "Error" && n.Recv != nil
				case *ast.CallExpr:
					said = said || slices.Contains(saying, callee(n))
				case *ast.Field:
					said = true // a tag
				}
			}
			if _, is := grammar[name]; is {
				used[name] = true
				return true
			}
			switch up := stack[len(stack)-2].(type) {
			case *ast.BinaryExpr:
				if up.Op == token.EQL || up.Op == token.NEQ {
					compared = append(compared, at)
				}
			case *ast.CaseClause:
				compared = append(compared, at)
			case *ast.CallExpr:
				if slices.Contains(reading, callee(up)) {
					compared = append(compared, at)
				}
			}
			if !said {
				outside = append(outside, at)
			}
			return true
		})
	}
	for _, root := range []string{"web", "schedule", "core", "ical", "mail", "conference", "jobs"} {
		require.NoError(t, filepath.WalkDir("../../../internal/"+root, func(path string, d fs.DirEntry, err error) error {
			if err == nil && !d.IsDir() && filepath.Ext(path) == ".go" && !strings.HasSuffix(path, "_test.go") && !strings.HasSuffix(path, ".gen.go") && !strings.Contains(path, "test/") {
				look(path)
			}
			return err
		}))
	}
	assert.Empty(t, strings.Join(outside, "\n"), "say it from the catalogue: a code of core/say, or Say of a tongue")
	assert.Empty(t, strings.Join(compared, "\n"), "decide by a code or a fact")
	for name := range grammar {
		assert.True(t, used[name], "%s needs no exception", name)
	}
}

// sentenceAsked is a sentence that the front end compares something with.
var sentenceAsked = regexp.MustCompile(`(?:===|!==|case|includes\(|startsWith\(|endsWith\(|indexOf\(|\.replace\(|\.test\(|\.match\()\s*["'` + "`" + `/][^"'` + "`" + `\n]*\p{Ll}{2,} \p{Ll}{2,}`)

// shown is a sentence of the program that the front end takes for a sign.
var shown = regexp.MustCompile(`\.(words|detail|why|says|sentence)\)?\s*(===|!==)\s*["'a-z]`)

// TestTheFrontEndDecidesByCodes: it compares nothing with a sentence.
func TestTheFrontEndDecidesByCodes(t *testing.T) {
	var found []string
	n := 0
	require.NoError(t, filepath.WalkDir("../../../web/src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !slices.Contains([]string{".ts", ".tsx"}, filepath.Ext(path)) || strings.Contains(path, ".test.") || strings.Contains(path, ".gen.") {
			return err
		}
		raw, err := os.ReadFile(path)
		n++
		for i, line := range strings.Split(string(raw), "\n") {
			if sentenceAsked.MatchString(line) || shown.MatchString(line) {
				found = append(found, filepath.ToSlash(path)+":"+strconv.Itoa(i+1)+": "+strings.TrimSpace(line))
			}
		}
		return err
	}))
	require.Greater(t, n, 100)
	assert.Empty(t, strings.Join(found, "\n"), "decide by a code or a fact")
}
