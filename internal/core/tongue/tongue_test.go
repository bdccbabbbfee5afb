package tongue

import (
	"encoding/json"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"
	"golang.org/x/text/message/catalog"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// catalogues are all files of the catalogue, by their language.
func catalogues(t *testing.T) map[string]file {
	t.Helper()
	out := map[string]file{}
	entries, err := files.ReadDir("letters")
	require.NoError(t, err)
	for _, e := range entries {
		raw, err := files.ReadFile("letters/" + e.Name())
		require.NoError(t, err)
		var f file
		require.NoError(t, json.Unmarshal(raw, &f))
		assert.Equal(t, e.Name(), f.Language+".json")
		out[f.Language] = f
	}
	return out
}

// interfaceAt is where the interface is written.
const interfaceAt = "../../../web/src"

// drawnBy are the files that pages of the interface are made of: their own and what those import.
func drawnBy(t *testing.T, pages ...string) (out []string) {
	t.Helper()
	imports := regexp.MustCompile(`(?m)^(?:import|export) (?:[^t;]|t[^y;])[^;]*? from "(\.[^"]+)"`)
	for todo := pages; len(todo) > 0; todo = todo[1:] {
		if slices.Contains(out, todo[0]) {
			continue
		}
		raw, err := os.ReadFile(filepath.Join(interfaceAt, todo[0]))
		require.NoError(t, err)
		out = append(out, todo[0])
		for _, m := range imports.FindAllStringSubmatch(string(raw), -1) {
			for _, ending := range []string{".ts", ".tsx"} {
				path := filepath.Join(filepath.Dir(todo[0]), m[1]) + ending
				if _, err := os.Stat(filepath.Join(interfaceAt, path)); err == nil {
					todo = append(todo, path)
				}
			}
		}
	}
	return out
}

// onPages are the sentences of the pages for people outside: those that are written there, those that
// they choose among, and those that their readers are refused with.
func onPages(t *testing.T) (out []string) {
	t.Helper()
	find := func(at string, patterns ...string) {
		raw, err := os.ReadFile(at)
		require.NoError(t, err)
		for _, p := range patterns {
			all := regexp.MustCompile(p).FindAllStringSubmatch(string(raw), -1)
			require.NotEmpty(t, all, "%s in %s", p, at)
			for _, m := range all {
				out = append(out, m[1])
			}
		}
	}
	for _, path := range drawnBy(t, "guest/Guest.tsx", "guest/AtAddress.tsx") {
		raw, err := os.ReadFile(filepath.Join(interfaceAt, path))
		require.NoError(t, err)
		for _, p := range []string{`\b(?:t|term)\(\s*"([^"]+)"`, `\b(?:t|term)\([^"()]*[^"()?]\?\s*"([^"]+)"`, `\b(?:t|term)\([^"()]*[^"()?]\?\s*"[^"]+"\s*:\s*"([^"]+)"`, `\bmany\(\s*[^"]+"[^"]+",\s*"([^"]+)"`} {
			for _, m := range regexp.MustCompile(p).FindAllStringSubmatch(string(raw), -1) {
				out = append(out, m[1])
			}
		}
	}
	require.Greater(t, len(out), 100)
	find("../../web/guestplain.go", `meeting\.\w+: +"([^"]+)"`, `"(?:answered|changed|refused)": +"([^"]+)"`)
	find("../../web/shortaddress.go", `"(?:joined|refused)": +"([^"]+)"`)
	// What they are refused with: by codes, in these places.
	english := map[string]string{}
	raw, err := os.ReadFile("../words/says.go")
	require.NoError(t, err)
	for _, m := range regexp.MustCompile(`(?m)^\t"([^"]+)": +"((?:[^"\\]|\\.)+)",$`).FindAllStringSubmatch(string(raw), -1) {
		english[m[1]] = strings.ReplaceAll(m[2], `\"`, `"`)
	}
	var codes []string
	for _, at := range []string{"../meeting/rights.go", "../meeting/proposal.go", "../../schedule/meetings/propose.go", "../../schedule/meetings/answer.go", "../../schedule/sheets/guests.go"} {
		raw, err := os.ReadFile(at)
		require.NoError(t, err)
		found := regexp.MustCompile(`say\.It\("([^"]+)"`).FindAllStringSubmatch(string(raw), -1)
		require.NotEmpty(t, found, at)
		for _, m := range found {
			codes = append(codes, m[1])
		}
	}
	codes = append(codes, "address.none", "address.letters", "address.noDomain", "problem.called-off", "problem.not-found", "problem.slow", "problem.internal", "request.tooMany")
	for _, code := range codes {
		require.NotEmpty(t, english[code], code)
		out = append(out, english[code])
	}
	return slices.DeleteFunc(out, func(s string) bool { return strings.HasPrefix(s, "You organise this meeting") }) // nobody outside does
}

// TestNothingIsLeftInEnglish: whatever the program says in letters, and on pages for people outside,
// is in each file, with as many places for what is put in. What is said to people inside, to whom
// the program writes English, is said by a tongue named in.
func TestNothingIsLeftInEnglish(t *testing.T) {
	said := map[string]bool{}
	for _, s := range onPages(t) {
		said[s] = true
	}
	for _, at := range []string{"../../mail", "../../web", "../join", "../words", "../../ical", "../../schedule", "."} {
		require.NoError(t, filepath.WalkDir(at, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") || !slices.Contains([]string{".go", ".html", ".txt"}, filepath.Ext(path)) {
				return err
			}
			raw, err := os.ReadFile(path)
			for _, m := range regexp.MustCompile(`(?:(?:^|[^n)])\.Say\("|\bSay ")((?:[^"\\]|\\.)+)"(?: *\+)?`).FindAllStringSubmatch(string(raw), -1) {
				if !strings.HasSuffix(m[0], "+") {
					said[m[1]] = true
				}
			}
			return err
		}))
	}
	require.Greater(t, len(said), 50)
	// What is put together in the program.
	for day := time.Sunday; day <= time.Saturday; day++ {
		said[day.String()], said["on "+day.String()] = true, true
		for _, name := range ordinals {
			said["on the "+name+" "+day.String()] = true
		}
	}
	for month := time.January; month <= time.December; month++ {
		said[month.String()], said[month.String()[:3]] = true, true
	}
	for _, id := range []string{"Invitation", "Changed", "Called off", "Replaced", "Stays as it is", "Reminder", "No longer needed", "Link", "Number", "Passcode", "By phone", "Organiser's PIN", "Door",
		"every day", "every working day", "the time", "the room", "the title", "the text", "the link to join by", "the files that go with it", "who organises it", "where the series ends", "whether it takes your time"} {
		said[id] = true
	}
	verbs := regexp.MustCompile(`%(\[\d\])?[sdq]`)
	for code, f := range catalogues(t) {
		ids := map[string]text{}
		for _, m := range f.Messages {
			ids[m.ID] = m.Translation
		}
		for id := range said {
			translation, is := ids[id]
			if !assert.True(t, is, "%s: %q is not there", code, id) {
				continue
			}
			forms := []string{translation.Msg}
			if s := translation.Select; s != nil {
				forms = nil
				for _, c := range s.Cases {
					forms = append(forms, c.Msg)
				}
			}
			for _, form := range forms {
				assert.NotEmpty(t, form, "%s: %q", code, id)
				assert.Len(t, verbs.FindAllString(form, -1), len(verbs.FindAllString(id, -1)), "%s: %q, %q", code, id, form)
			}
		}
	}
}

// TestAThirdLanguageIsAFile: one with other plurals than those that are there stands beside them (one,
// few and many in Polish: Unicode CLDR, plural rules).
func TestAThirdLanguageIsAFile(t *testing.T) {
	f := catalogues(t)["pt"]
	f.Language = "pl"
	for i, m := range f.Messages {
		if m.Translation.Select == nil {
			f.Messages[i].Translation = text{Msg: "pl " + m.ID}
			continue
		}
		s := *m.Translation.Select
		s.Cases = maps.Clone(s.Cases)
		for _, form := range []string{"one", "few", "many", "other"} {
			c := s.Cases["other"]
			c.Msg = form + " %d"
			s.Cases[form] = c
		}
		f.Messages[i].Translation = text{Select: &s}
	}
	raw, err := json.Marshal(f)
	require.NoError(t, err)
	portuguese, err := fs.ReadFile(files, "letters/pt.json")
	require.NoError(t, err)
	all := load(fstest.MapFS{"letters/pl.json": {Data: raw}, "letters/pt.json": {Data: portuguese}})
	require.Len(t, all, 3)
	assert.Equal(t, "polski", all[1].name)
	polish, pt := Tongue{all[1]}, Tongue{all[2]}
	for n, says := range map[int]string{1: "one 1", 3: "few 3", 5: "many 5", 22: "few 22"} {
		assert.Equal(t, says, polish.Say("%d days", n))
	}
	assert.Equal(t, "few %d", polish.Messages()["%d days few"], "for pages that are drawn elsewhere")
	assert.Equal(t, "pl Monday", polish.Say("Monday"))
	assert.Equal(t, "Polska", polish.Region(language.MustParseRegion("PL")))
	assert.Equal(t, "3 dias", pt.Say("%d days", 3))
}

func TestDates(t *testing.T) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	tokyo, err := when.LoadZone("Asia/Tokyo")
	require.NoError(t, err)
	span := when.Span{Start: when.At(time.Date(2026, 12, 3, 9, 30, 0, 0, time.UTC)), End: when.At(time.Date(2026, 12, 3, 16, 0, 0, 0, time.UTC))}
	english, pt := In("en"), In("pt")
	assert.True(t, english.English())
	assert.Equal(t, lisbon.Words(span), english.Span(lisbon, span), "as everywhere else")
	assert.Equal(t, tokyo.Words(span), english.Span(tokyo, span))
	assert.Equal(t, "quinta-feira, 3 de dezembro de 2026, 9:30 – 16:00", pt.Span(lisbon, span))
	assert.Equal(t, "quinta-feira, 3 de dezembro de 2026, 18:30 – sexta-feira, 4 de dezembro de 2026, 1:00", pt.Span(tokyo, span))
	assert.Equal(t, "Thursday 3 December 2026, all day", english.AllDay(when.DayOf(2026, 12, 3), when.DayOf(2026, 12, 3)))
	assert.Equal(t, "quinta-feira, 3 de dezembro de 2026 – sábado, 5 de dezembro de 2026, 3 dias", pt.AllDay(when.DayOf(2026, 12, 3), when.DayOf(2026, 12, 5)))
	assert.Equal(t, []string{"1 date", "7 dates", "1 data", "7 datas"}, []string{english.Say("%d dates", 1), english.Say("%d dates", 7), pt.Say("%d dates", 1), pt.Say("%d dates", 7)})
	assert.Equal(t, "Lisboa", pt.City(lisbon))
	assert.Equal(t, "a, b e c", pt.List([]string{"a", "b", "c"}))
	assert.Equal(t, "100 % sure", pt.Say("100 % sure"), "what is not in it stays as it is")
	assert.Equal(t, "Japão", pt.Region(language.MustParseRegion("JP")))
	assert.Equal(t, []Choice{{"en", "English"}, {"pt", "português"}}, Choices())
	assert.False(t, Known("xx"))
}

func TestTheLanguageThatSuitsAReader(t *testing.T) {
	for accept, want := range map[string]string{"pt-PT,pt;q=0.9,en;q=0.8": "pt", "pt-BR": "pt", "en-GB,pt;q=0.5": "en", "de, pt;q=0.4": "pt", "ja": "", "": "", "\x00;;q=": ""} {
		assert.Equal(t, want, Match(accept), accept)
	}
	assert.Nil(t, In("en").Messages())
	assert.Equal(t, []string{"7 datas", "Aceitar"}, []string{strings.Replace(In("pt").Messages()["%d dates other"], "%d", "7", 1), In("pt").Messages()["Accept"]})
}

func TestRules(t *testing.T) {
	pt, start := In("pt"), when.DayOf(2026, 12, 3) // a Thursday
	for rule, want := range map[string]string{
		"FREQ=DAILY":                                   "todos os dias",
		"FREQ=DAILY;INTERVAL=3":                        "a cada 3 dias",
		"FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR":             "todos os dias úteis",
		"FREQ=WEEKLY":                                  "todas as semanas, à quinta-feira",
		"FREQ=WEEKLY;BYDAY=TU,SA":                      "todas as semanas, à terça-feira e ao sábado",
		"FREQ=WEEKLY;INTERVAL=2;BYDAY=TH":              "a cada 2 semanas, à quinta-feira",
		"FREQ=MONTHLY":                                 "no dia 3 de cada mês",
		"FREQ=MONTHLY;BYMONTHDAY=1,15":                 "no dia 1 e 15 de cada mês",
		"FREQ=MONTHLY;BYDAY=1SU":                       "no primeiro domingo de cada mês",
		"FREQ=MONTHLY;INTERVAL=3;BYDAY=-1FR":           "na última sexta-feira, a cada 3 meses",
		"FREQ=YEARLY":                                  "todos os anos, a 3 de dezembro",
		"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1": "", // there are no words for it yet: the dates are counted
		"FREQ=HOURLY":                                  "",
	} {
		r, err := recur.ParseRule(rule)
		require.NoError(t, err)
		assert.Equal(t, want, pt.Rule(r, start), rule)
		assert.Equal(t, r.Words(start), In("en").Rule(r, start))
	}
}

// A fault in a file of the catalogue is found when it is read.
func TestReadRefuses(t *testing.T) {
	for _, raw := range []string{`{`, `{"language":"?"}`, `{"language":"pt","messages":[{"id":"a","translation":"b"},{"id":"a","translation":"c"}]}`,
		`{"language":"pt","messages":[{"id":"a","translation":{"select":{"feature":"plural","arg":"1","cases":{"sometimes":{"msg":"x"}}}}}]}`} {
		_, err := read(catalog.NewBuilder(), []byte(raw))
		assert.Error(t, err, raw)
	}
}
