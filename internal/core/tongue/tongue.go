// Package tongue writes the sentences of letters, and of the pages for people outside, in the
// language of their reader. English stands in the program; each further language is a file of the
// message catalogue in letters/, in the JSON form that golang.org/x/text reads and writes
// ("gotext"): an id in English, a translation, and for what is counted a select by plural (Unicode
// CLDR).
package tongue

import (
	"embed"
	"encoding/json"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/feature/plural"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
	"golang.org/x/text/message"
	"golang.org/x/text/message/catalog"

	"jembro/internal/core/when"
)

//go:embed letters/*.json
var files embed.FS

// Tongue is a language that letters are written in; the zero Tongue is English.
type Tongue struct{ of *tongue }

type tongue struct {
	code, name string
	says       *message.Printer
	regions    display.Namer
	messages   map[string]string // as Messages gives them
}

// english are sentences that count.
var english = map[string][2]string{
	"%d dates": {"%d date", "%d dates"},
	"%d days":  {"%d day", "%d days"},
}

// told are sentences whose id says more than they do, to tell them from others.
var told = map[string]string{
	"%[1]s %[2]s (year)": "%[1]s %[2]s",
	"%[1]s %[2]s (day)":  "%[1]s %[2]s",
}

var known = load(files)

// load reads the catalogue, English first. What is wrong in it is a fault of the program, and a test
// reads it too.
func load(files fs.FS) []*tongue {
	entries, err := fs.ReadDir(files, "letters")
	if err != nil {
		panic(err)
	}
	build := catalog.NewBuilder(catalog.Fallback(language.English))
	for id, says := range english {
		build.Set(language.English, id, plural.Selectf(1, "%d", plural.One, says[0], plural.Other, says[1]))
	}
	for id, says := range told {
		build.SetString(language.English, id, says)
	}
	all := []*tongue{{code: "en"}}
	for _, e := range entries {
		raw, err := fs.ReadFile(files, path.Join("letters", e.Name()))
		if err != nil {
			panic(err)
		}
		t, err := read(build, raw)
		if err != nil {
			panic(e.Name() + ": " + err.Error())
		}
		all = append(all, t)
	}
	for _, t := range all {
		tag := language.MustParse(t.code)
		t.says = message.NewPrinter(tag, message.Catalog(build))
		t.regions, t.name = display.Regions(tag), display.Self.Name(tag)
	}
	return all
}

// file is one of the catalogue.
type file struct {
	Language string `json:"language"`
	Messages []struct {
		ID          string `json:"id"`
		Translation text   `json:"translation"`
	} `json:"messages"`
}

// text is a sentence, or one for each plural.
type text struct {
	Msg    string `json:"msg"`
	Select *struct {
		Feature string `json:"feature"`
		Arg     string `json:"arg"`
		Cases   map[string]struct {
			Msg string `json:"msg"`
		} `json:"cases"`
	} `json:"select"`
}

func (t *text) UnmarshalJSON(raw []byte) error {
	if raw[0] == '"' {
		return json.Unmarshal(raw, &t.Msg)
	}
	type fields text
	return json.Unmarshal(raw, (*fields)(t))
}

func read(build *catalog.Builder, raw []byte) (*tongue, error) {
	var f file
	if err := json.Unmarshal(raw, &f); err != nil {
		return nil, err
	}
	tag, err := language.Parse(f.Language)
	if err != nil {
		return nil, err
	}
	t := &tongue{code: f.Language, messages: map[string]string{}}
	for _, m := range f.Messages {
		_, said := t.messages[m.ID]
		_, counted := t.messages[m.ID+" other"]
		if said || counted {
			return nil, fmt.Errorf("%q is there twice", m.ID)
		}
		if s := m.Translation.Select; s != nil {
			var cases []any
			for _, form := range []string{"zero", "one", "two", "few", "many", "other"} {
				if c, is := s.Cases[form]; is {
					cases = append(cases, form, c.Msg)
					t.messages[m.ID+" "+form] = c.Msg
				}
			}
			if len(cases) != 2*len(s.Cases) || s.Cases["other"].Msg == "" || s.Feature != "plural" {
				return nil, fmt.Errorf("%q: give a sentence for each plural of CLDR, and for other", m.ID)
			}
			if err := build.Set(tag, m.ID, plural.Selectf(1, "%d", cases...)); err != nil {
				return nil, fmt.Errorf("%q: %w", m.ID, err)
			}
			continue
		}
		if err := build.SetString(tag, m.ID, m.Translation.Msg); err != nil {
			return nil, fmt.Errorf("%q: %w", m.ID, err)
		}
		t.messages[m.ID] = m.Translation.Msg
	}
	return t, nil
}

// Choice is a language that somebody can choose, by its BCP 47 tag and as it calls itself.
type Choice struct{ Code, Name string }

// Choices are all languages, English first.
func Choices() (out []Choice) {
	for _, t := range known {
		out = append(out, Choice{t.code, t.name})
	}
	return out
}

var matcher = matching()

func matching() language.Matcher {
	var tags []language.Tag
	for _, t := range known {
		tags = append(tags, language.MustParse(t.code))
	}
	return language.NewMatcher(tags)
}

// Match is the code of the language that suits somebody best whose program says which they read (RFC
// 9110, 12.5.4); "" where none does.
func Match(accept string) string {
	wanted, _, err := language.ParseAcceptLanguage(accept)
	if err != nil || len(wanted) == 0 {
		return ""
	}
	_, at, sure := matcher.Match(wanted...)
	if sure == language.No {
		return ""
	}
	return known[at].code
}

// Messages are the sentences of the catalogue for a page that is drawn elsewhere, by their ids; what
// is counted has one for each plural, by the id, a space and the plural's name. English has none:
// the ids are its sentences.
func (t Tongue) Messages() map[string]string {
	if t.of == nil {
		return nil
	}
	return t.of.messages
}

// Known tells whether letters can be written in a language.
func Known(code string) bool {
	return slices.ContainsFunc(known, func(t *tongue) bool { return t.code == code })
}

// Marked is the tag of an invented language, one of those that ISO 639-2 keeps for private use: it
// says the sentences of the program between ⟦ and ⟧, so that what it says in another way shows. It
// is offered to nobody.
const Marked = "qaa"

var marked = &tongue{code: Marked, says: known[0].says, regions: known[0].regions}

// In is the language of a tag; English where it is none that there is.
func In(code string) Tongue {
	if code == Marked {
		return Tongue{marked}
	}
	for _, t := range known[1:] {
		if t.code == code {
			return Tongue{t}
		}
	}
	return Tongue{}
}

// English tells whether it is English.
func (t Tongue) English() bool { return t.of == nil }

// Code is its BCP 47 tag.
func (t Tongue) Code() string {
	if t.of == nil {
		return known[0].code
	}
	return t.of.code
}

func (t Tongue) printer() *message.Printer {
	if t.of == nil {
		return known[0].says
	}
	return t.of.says
}

// Say is a sentence of the catalogue. Numbers among its arguments are only for what is counted: the
// others are written as text, so that no year gets a comma.
func (t Tongue) Say(id string, args ...any) string {
	if t.of == marked {
		return "⟦" + Tongue{}.Say(id, args...) + "⟧"
	}
	if len(args) == 0 {
		if says, is := t.Messages()[id]; is {
			return says
		}
		return id // a name may hold a %
	}
	return t.printer().Sprintf(message.Key(id, id), args...)
}

// Region is the name of a country.
func (t Tongue) Region(r language.Region) string {
	if t.of == marked {
		return "⟦" + t.of.regions.Name(r) + "⟧"
	}
	if t.of == nil {
		return known[0].regions.Name(r)
	}
	return t.of.regions.Name(r)
}

// List is "a", "a and b", "a, b and c".
func (t Tongue) List(parts []string) string {
	if len(parts) < 2 {
		return strings.Join(parts, "")
	}
	return t.Say("%s and %s", strings.Join(parts[:len(parts)-1], ", "), parts[len(parts)-1])
}

// City is how a zone is called: "Lisbon", "Lisboa".
func (t Tongue) City(z when.Zone) string { return t.Say(z.City()) }

// Date is a day within its year: "14 January".
func (t Tongue) Date(d when.Day) string {
	_, month, dom := d.Date()
	return t.Say("%[1]s %[2]s", strconv.Itoa(dom), t.Say(month.String()))
}

// FullDate is "14 January 2027".
func (t Tongue) FullDate(d when.Day) string {
	y, _, _ := d.Date()
	return t.Say("%[1]s %[2]s (year)", t.Date(d), strconv.Itoa(y))
}

// Day is "Thursday 14 January 2027".
func (t Tongue) Day(d when.Day) string {
	return t.Say("%[1]s %[2]s (day)", t.Say(d.Weekday().String()), t.FullDate(d))
}

// Span is when something is by the clock of a zone: "Thursday 3 December 2026, 9:30 – 10:30", and
// both days where it ends on another one.
func (t Tongue) Span(z when.Zone, s when.Span) string {
	start, end := z.LocalAt(s.Start), z.LocalAt(s.End)
	from := t.Day(start.Day) + ", " + start.Clock.String() + " – "
	if start.Day == end.Day {
		return from + end.Clock.String()
	}
	return from + t.Day(end.Day) + ", " + end.Clock.String()
}

// AllDay is whole days from the first to the last: "Thursday 3 December 2026, all day".
func (t Tongue) AllDay(first, last when.Day) string {
	if last <= first {
		return t.Day(first) + ", " + t.Say("all day")
	}
	return t.Day(first) + " – " + t.Day(last) + ", " + t.Say("%d days", int(last-first)+1)
}
