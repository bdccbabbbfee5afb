package ical_test

import (
	"encoding/json"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// conference is a CONFERENCE property as a library reads it (RFC 7986, 5.11).
type conference struct{ URI, Type, Feature, Label string }

// telephone is a card with every way in that there is.
func telephone() *join.Card {
	return &join.Card{Provider: "tamberline", Name: "Tamberline", URL: "https://tamberline.example/c/48219077?a=1,2;b", Number: "482 190 77", HostPIN: "700219",
		SIP: "sip:48219077@tamberline.example", Phones: []join.Phone{
			{Number: "+351210005506", Country: "PT", PIN: "48219077"}, {Number: "+81345780119", Country: "JP", PIN: "48219077"}, {Number: "+80012345678"}}}
}

func read(t *testing.T, library, text string) (found []conference) {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "testdata/conference.py", library)
	if library == "ical.js" {
		path, err := filepath.Abs("../../web/node_modules/ical.js/dist/ical.js")
		require.NoError(t, err)
		cmd = exec.CommandContext(t.Context(), "node", "testdata/conference.mjs", path)
	}
	cmd.Stdin = strings.NewReader(text)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s", out)
	require.NoError(t, json.Unmarshal(out, &found), "%s", out)
	return found
}

// TestWaysIntoACallAsOthersReadThem: python3-icalendar, libical and ical.js read each way in,
// the phones with their pauses and PINs, as it was meant. RFC 3966 knows no comma in a tel:
// address; RFC 7986, 5.11 shows it, and these libraries keep it.
func TestWaysIntoACallAsOthersReadThem(t *testing.T) {
	l := letter(t)
	l.Meeting.Card = telephone()
	text := write(t, l)
	want := []conference{
		{"https://tamberline.example/c/48219077?a=1,2;b", "URI", "AUDIO,VIDEO", "Join by Tamberline"},
		{"sip:48219077@tamberline.example", "URI", "AUDIO,VIDEO", "Join by Tamberline from a room system"},
		{"tel:+81345780119,,48219077%23", "URI", "PHONE", "Join by phone in Japan"}, // S. Onari is in Tokyo
		{"tel:+80012345678", "URI", "PHONE", "Join by phone"},
		{"tel:+351210005506,,48219077%23", "URI", "PHONE", "Join by phone in Portugal"},
	}
	for _, library := range []string{"icalendar", "libical", "ical.js"} {
		assert.Equal(t, want, read(t, library, text), library)
	}
	assert.NotContains(t, text, "700219", "what the organiser keys in is for nobody else (RFC 7986, 6.3)")
	assert.Contains(t, strings.Join(unfold(text), "\n"), "URL:https://tamberline.example/c/48219077?a=1,2;b", "for programs that read that alone")
	assert.Contains(t, strings.Join(unfold(text), "\n"), `DESCRIPTION:Crate sizes\; loan 14\, “lacquer”\nhttps://tamberline.example/c/48219077?a=1\,2\;b`, "the reminder says where it is")

	own := l
	own.Own = true
	own.Meeting.Organiser.Zone = "Europe/Lisbon"
	found := read(t, "ical.js", write(t, own))
	assert.Contains(t, found, conference{"tel:+351210005506,,700219%23", "URI", "PHONE,MODERATOR", "Join by phone in Portugal, as the organiser"})
}

// TestACardWithoutALink: phones alone, and a link that follows.
func TestACardWithoutALink(t *testing.T) {
	l := letter(t)
	l.Meeting.Room, l.Meeting.Card = nil, &join.Card{Kind: join.Given, Phones: telephone().Phones[:1]}
	lines := strings.Join(unfold(write(t, l)), "\n")
	assert.Contains(t, lines, "LOCATION:tel:+351210005506\\,\\,48219077%23")
	assert.NotContains(t, lines, "\nURL:")
	l.Meeting.Card = &join.Card{Provider: "tamberline", Name: "Tamberline", Follows: true}
	lines = strings.Join(unfold(write(t, l)), "\n")
	assert.NotContains(t, lines, "CONFERENCE")
	assert.Contains(t, lines, "Link: follows by itself")
}

// TestCardReader: numbers come by the reader's country, and only the organiser reads as one.
func TestCardReader(t *testing.T) {
	l := letter(t)
	assert.Equal(t, join.Reader{Country: "JP", Outside: true}, l.CardReader())
	l.To = meeting.Participant{Party: meeting.Party{PersonID: "p", Zone: ""}}
	assert.Equal(t, join.Reader{}, l.CardReader())
	assert.Equal(t, join.Reader{Country: "PT", Organiser: true}, schedule.Letter{Own: true, Meeting: meeting.Meeting{Organiser: meeting.Party{Zone: "Europe/Lisbon"}}}.CardReader())
}
