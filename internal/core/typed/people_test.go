package typed_test

import (
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/typed"
)

func shownPeople(all []typed.Somebody) string {
	var out []string
	for _, p := range all {
		out = append(out, fmt.Sprintf("%s<%s>", p.Name, p.Email))
	}
	return strings.Join(out, " | ")
}

func TestListsOfPeople(t *testing.T) {
	for _, c := range []struct{ name, text, want string }{
		{"a name", "Ana Duarte", "Ana Duarte<>"},
		{"an address", "rui@marrowby.example", "<rui@marrowby.example>"},
		{"commas", "Ana Duarte, rui@marrowby.example,Tomé Akande", "Ana Duarte<> | <rui@marrowby.example> | Tomé Akande<>"},
		{"semicolons and line breaks", "a@x.example; b@x.example\nc@x.example\r\nd@x.example;", "<a@x.example> | <b@x.example> | <c@x.example> | <d@x.example>"},
		{"a name and an address", "Ana Duarte <ana@x.example>", "Ana Duarte<ana@x.example>"},
		{"RFC 5322, 3.4: a quoted name with a comma", `"Duarte, A." <ana@x.example>, "Calado, R." <rui@x.example>`, "Duarte, A.<ana@x.example> | Calado, R.<rui@x.example>"},
		{"family name first, between semicolons", "Duarte, Ana <ana@x.example>; Calado, Rui <rui@x.example>", "Duarte, Ana<ana@x.example> | Calado, Rui<rui@x.example>"},
		{"two with commas only", "Ana Duarte, Rui Calado <rui@x.example>", "Ana Duarte<> | Rui Calado<rui@x.example>"},
		{"RFC 6068, 2", "mailto:ana@x.example?subject=Crates", "<ana@x.example>"},
		{"RFC 6068, 2: two, with an escape", "mailto:ana%2Bloan@x.example", "<ana+loan@x.example>"},
		{"an address copied with its link", "Ana <mailto:ana@x.example>", "Ana<ana@x.example>"},
		{"RFC 5322, 3.2.2: the name as a comment", "ana@x.example (Ana Duarte)", "Ana Duarte<ana@x.example>"},
		{"RFC 5322, 3.4: a group", "Loans: ana@x.example, rui@x.example;", "<ana@x.example> | <rui@x.example>"},
		{"a line of a header", "To: ana@x.example", "<ana@x.example>"},
		{"RFC 2047, 2: an encoded name", "=?utf-8?q?Tom=C3=A9?= <tome@x.example>", "Tomé<tome@x.example>"},
		{"blanks only", "a@x.example b@x.example", "<a@x.example> | <b@x.example>"},
		{"a name before a bare address", "Ana Duarte ana@x.example", "Ana Duarte<ana@x.example>"},
		{"rows of a table", "Ana Duarte\tana@x.example\tregistrar\nRui\trui@x.example", "Ana Duarte<ana@x.example> | Rui<rui@x.example>"},
		{"a row of addresses", "a@x.example\tb@x.example", "<a@x.example> | <b@x.example>"},
		{"a row of names", "Ana\tRui", "Ana<> | Rui<>"},
		{"angle brackets only", "<a@x.example>", "<a@x.example>"},
		{"a quote that is not closed", `"Ana, Rui`, "Ana<> | Rui<>"},
		{"nothing", " ,; \n\t", ""},
		{"half an address", "ana@", "<ana@>"},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, shownPeople(typed.People(c.text))) })
	}
	assert.Len(t, typed.People(strings.Repeat("a@x.example,", 5000)), typed.PeopleLimit)
}

// Nothing is lost: every letter and figure that was typed is in what was read.
func FuzzPeople(f *testing.F) {
	f.Add(`"Duarte, A." <ana@x.example>; Rui (b), c@d`)
	f.Add("a\tb@c\td\n<<>>((")
	f.Add(strings.Repeat("<", 5000))
	f.Fuzz(func(t *testing.T, text string) {
		if !utf8.ValidString(text) || len(text) > 2000 {
			return
		}
		for _, p := range typed.People(text) {
			assert.True(t, p.Name != "" || p.Email != "" || p.Text != "")
			assert.NotContains(t, p.Email, "\n")
		}
		if names := strings.Fields(text); !strings.ContainsAny(text, "@:<>()\"',;=?%\t\\") && len(names) < 100 {
			read := ""
			for _, p := range typed.People(text) {
				read += " " + p.Name
			}
			assert.Equal(t, strings.Join(names, " "), strings.Join(strings.Fields(read), " "))
		}
	})
}
