package mail_test

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/ical"
	"jembro/internal/mail"
)

// TestALetterInAnotherLanguage: nothing of it stays in English but what its sender wrote.
func TestALetterInAnotherLanguage(t *testing.T) {
	english := regexp.MustCompile(`(?i)\b(the|of|you|your|this|answer|invites|changed|called|off|time|who|dates?|until|more|and|files|organiser|optional|thursday|december|join|passcode|link|phone|needed|reminder|invitation|no|account)\b`)
	kinds := map[meeting.Kind]string{meeting.Invite: "Convite: ", meeting.Update: "Alterada: ", meeting.CallOff: "Cancelada: ", meeting.Keep: "Mantém-se: ", meeting.Remind: "Lembrete: "}
	for kind, subject := range kinds {
		for _, repeats := range []bool{false, true} {
			l := letter(t)
			l.Kind, l.To.Language, l.Meeting.Title, l.Meeting.Text = kind, "pt", "Caixas", "Tragam luvas."
			l.OffAll = kind == meeting.CallOff
			l.Meeting.Participants[0] = l.To
			l.Meeting.Card = &join.Card{Name: "Ostrel", URL: "https://ostrel.example/j/48-2190", Number: "482 190 77", Passcode: "veld-31", Phones: []join.Phone{{Number: "+351300505123", Country: "PT", PIN: "48219077"}, {Number: "+81345780119", Country: "JP"}}}
			if repeats {
				rule, err := recur.ParseRule("FREQ=WEEKLY;INTERVAL=2;COUNT=20")
				require.NoError(t, err)
				l.Meeting.Series = &meeting.Series{}
				l.Meeting.Series.Rule = rule
				if kind == meeting.Remind {
					l.On = []when.Day{l.Meeting.Start.Day}
				}
			}
			text := mail.PassOn(l)
			assert.NotRegexp(t, english, withoutNames(text), "%s %v", kind, repeats)
			if kind == meeting.Remind {
				continue
			}
			r, err := mail.Render(l)
			require.NoError(t, err)
			assert.Contains(t, r.Subject, subject)
			assert.Contains(t, r.HTML, `<html lang="pt">`)
			assert.NotContains(t, r.HTML, "%!")
			assert.NotContains(t, text, "%!")
			if kind == meeting.Invite {
				raw, err := ical.Write(l)
				require.NoError(t, err)
				assert.Contains(t, string(raw), "Entrar por Ostrel")
			}
		}
	}
	l := letter(t)
	l.To.Language = "xx"
	assert.Contains(t, mail.PassOn(l), "invites you", "a language that there is not is English")
}

func withoutNames(text string) string {
	return regexp.MustCompile(`https?://\S+|Marrowby Museums|Map Room|Main building, floor 1|Ilse Marrant|Ostrel`).ReplaceAllString(text, "")
}
