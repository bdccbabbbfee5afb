package words_test

import (
	"encoding/json"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

// TestEveryCodeHasItsSentence: whatever the program says by a code is in the catalogue, and has as
// many places as arguments are given; and nothing is in the catalogue that nobody says.
func TestEveryCodeHasItsSentence(t *testing.T) {
	given := regexp.MustCompile(`say\.(?:It\(|Code = |Code\()"([^"]+)"((?:, [^\n]*?)?)\)?`)
	said := map[string]bool{}
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		raw, err := os.ReadFile(path)
		for _, m := range given.FindAllStringSubmatch(string(raw), -1) {
			said[m[1]] = true
		}
		for _, m := range regexp.MustCompile(`"((?:[a-z][\w-]*\.)+[\w-]+)"`).FindAllStringSubmatch(string(raw), -1) {
			if filepath.Base(path) != "says.go" {
				said[m[1]] = true // named in a map of codes
			}
		}
		return err
	}))
	require.Greater(t, len(said), 200)
	catalogue := words.Codes()
	for code := range said {
		if _, known := catalogue[say.Code(code)]; !known && !strings.HasSuffix(code, ".") && isCode(code, catalogue) {
			assert.Fail(t, code+" has no sentence")
		}
	}
	composed := []string{"problem.", "change.", "typed.", "calendar.fault.", "mails.", "room.", "recur.listed"}
	for code := range catalogue {
		made := false
		for _, prefix := range composed {
			made = made || strings.HasPrefix(string(code), prefix)
		}
		assert.True(t, made || said[string(code)], "nobody says %s", code)
	}
}

// isCode tells a code from another text with dots in it: the catalogue has others that begin so.
func isCode(text string, catalogue map[say.Code]string) bool {
	subject, _, _ := strings.Cut(text, ".")
	for code := range catalogue {
		if strings.HasPrefix(string(code), subject+".") {
			return !strings.Contains(text, ".json") && !strings.Contains(text, ".example") && !regexp.MustCompile(`\.(at|on|go|csv|ics|yaml)$|^(room|zone|field|text|series|provider|calendar|answer|table|file|link|day|meeting|password|language)\.(email|name|id|org|com|proto\w*)$`).MatchString(text)
		}
	}
	return false
}

// TestArgumentsAreKept: whatever is said comes back as it was stored, each kind of argument.
func TestArgumentsAreKept(t *testing.T) {
	day := when.DayOf(2026, time.December, 3)
	all := say.It("x.y", 3, "text", day, when.ClockOf(9, 30), when.Local{Day: day, Clock: when.ClockOf(9, 30)}, when.Span{Start: 1, End: 2}, say.Days{day, day + 1},
		say.Person("Ilse"), say.Room("Map Room"), say.Title("Crate sizes"), say.Address("a@firm.example"), say.Quoted("?"), say.Zone("Europe/Lisbon"), say.Size(10), say.Count{N: 2, Of: "date"},
		say.Length(time.Hour), say.Weekdays(time.Monday), say.Hours{{Start: 540, End: 600}}, say.ShortDay(day), time.Tuesday, say.It("z", 1), say.List{1, say.Person("Rui")})
	raw, err := json.Marshal(all)
	require.NoError(t, err)
	var back say.What
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.Equal(t, all, back)
	assert.Len(t, all.Kept(), len(all.Args))

	_, err = json.Marshal(say.It("x.y", 1.5))
	assert.Error(t, err, "no kind of argument")
	assert.Error(t, json.Unmarshal([]byte(`{"code":"x","args":[{"kind":"planet","value":1}]}`), &back))
}

func TestSentencesWithTheirArguments(t *testing.T) {
	day := when.DayOf(2026, time.December, 3)
	for _, c := range []struct {
		what say.What
		says string
	}{
		{say.It("meeting.title.long", 200, 203), "A title has room for 200 characters, this one has 203. Move the rest into the text."},
		{say.It("meeting.scope.begun", day), "3 December has begun already. Choose later dates."},
		{say.It("mails.hour", say.Count{N: 1, Of: "mail"}, 300, 300), "This is 1 mail to people outside; 300 of 300 for this hour are used. Send after the full hour, or ask whoever runs Jembro here for more."},
		{say.It("leave.ofMeeting", say.Title("Glaze"), say.It("answer.which")), "“Glaze”: Answer with accept, maybe or decline."},
		{say.It("address.none", say.Quoted("tom@")), `"tom@" is not an e-mail address. It looks like name@firm.example.`},
		{meeting.ChangeFacts{Fields: []string{"time", "room"}, Days: []when.Day{day}, Added: 2}.What(), "time, room, 3 December, 2 added"},
		{say.What{}, ""},
	} {
		assert.Equal(t, c.says, words.English(c.what))
	}
	assert.Equal(t, "3 de dezembro", words.Say(tongue.In("pt"), say.It("verbatim", day)))
}
