package meeting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// TestWhoIsInvitedToSomeDatesLearnsOfThose: of the people on them, of their times, and
// of nothing else.
func TestWhoIsInvitedToSomeDatesLearnsOfThose(t *testing.T) {
	m := aSeries(t, nil)
	all := m.DatesOf(meeting.Participant{}, m.Start.Day+400)
	require.Greater(t, len(all), 3)
	one := func(id string, d meeting.Date) meeting.Participant {
		return meeting.Participant{ID: id, Dates: []series.Range{{From: d.On, To: d.On}}}
	}
	m.Participants = []meeting.Participant{{ID: "always"}, one("second", all[1]), one("also second", all[1]), one("third", all[2])}
	ids := func(m meeting.Meeting) (out []string) {
		for _, p := range m.Participants {
			out = append(out, p.ID)
		}
		return out
	}
	assert.Equal(t, []string{"always", "second", "also second"}, ids(m.SeenBy("second")))
	assert.Equal(t, []string{"always", "third"}, ids(m.SeenBy("third")))
	assert.Len(t, m.SeenBy("always").Participants, 4)
	assert.Equal(t, all[1].Span, m.SpanFor("second"))
	assert.Equal(t, m.Span(), m.SpanFor("always"))
	assert.Equal(t, all[2].On, m.NextOf(m.Participants[3], when.Instant(0)))
	over, ends := m.Over()
	assert.True(t, ends)
	assert.Equal(t, all[len(all)-1].Span.End, over)
}

// TestDirectionsAreClosed: what turns the direction of a text around does not reach
// beyond its line (Unicode Standard Annex 9).
func TestDirectionsAreClosed(t *testing.T) {
	cases := []struct{ name, text, want string }{
		{"none", "Crates", "Crates"},
		{"an override that is left open", "invoice\u202egnp.exe", "invoice\u202egnp.exe\u202c"},
		{"one that is closed", "a\u202eb\u202cc", "a\u202eb\u202cc"},
		{"isolates within an embedding", "\u202a\u2067x", "\u202a\u2067x\u2069\u202c"},
		{"each line by itself", "\u202ea\nb", "\u202ea\u202c\nb"},
		{"what closes nothing stays", "a\u202c", "a\u202c"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, meeting.Plain(c.text)) })
	}
}

// TestThoseKeptApart see themselves, and whom they send; the organiser sees all.
func TestThoseKeptApart(t *testing.T) {
	m := meeting.Meeting{Apart: true, Participants: []meeting.Participant{
		{ID: "a", Party: meeting.Party{Name: "A", Email: "a@kirisame.example"}}, {ID: "b", Party: meeting.Party{Name: "B", Email: "b@kirisame.example"}},
		{ID: "c", Party: meeting.Party{Name: "C", Email: "c@kirisame.example"}, DelegatedFrom: "A@kirisame.example"}}}
	seen := func(id string) (out string) {
		for _, p := range m.SeenBy(id).Participants {
			out += p.ID
		}
		return out
	}
	assert.Equal(t, []string{"ac", "b", "ac", "abc"}, []string{seen("a"), seen("b"), seen("c"), seen("")})
	title, words := m.Findable("b")
	assert.NotContains(t, title+words, "a@kirisame.example")
	m.Apart = false
	assert.Equal(t, "abc", seen("b"))
}
