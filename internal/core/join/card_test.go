package join_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/join"
)

var card = join.Card{Provider: "ostrel", Name: "Ostrel", URL: "https://ostrel.example/j/48-2190", Number: "482 190 77",
	Passcode: "veld-31", Door: join.Door{Waits: join.GuestsWait}, LimitMinutes: 45}

var guest = join.Reader{Country: "JP", Outside: true}

func ExampleCard_Text() {
	fmt.Print(card.Text(guest))
	// Output:
	// Join by Ostrel
	// Link: https://ostrel.example/j/48-2190
	// Number: 482 190 77
	// Passcode: veld-31
	// Door: You wait until the organiser lets you in
}

func TestCardLeavesOutWhatTheProviderDoesNotHave(t *testing.T) {
	bare := join.Card{Name: "Kestle", URL: "https://kestle.example/r/ilse"}
	assert.Equal(t, "Join by Kestle\nLink: https://kestle.example/r/ilse\n", bare.Text(guest))
	assert.NotContains(t, bare.HTML(guest), "Passcode")
}

func TestCardAsHTML(t *testing.T) {
	html := string(card.HTML(guest))
	assert.Contains(t, html, `href="https://ostrel.example/j/48-2190"`)
	assert.Contains(t, html, ">ostrel.example/j/48-2190<")
	assert.Contains(t, html, "veld-31")

	hostile := card
	hostile.URL, hostile.Passcode = "javascript:alert(1)", "<script>alert(1)</script>"
	html = string(hostile.HTML(guest))
	assert.NotContains(t, html, "<script>")
	assert.NotContains(t, html, `href="javascript`)
}

// TestPhonesByCountry: the numbers of the reader's country first, and each reads back as the
// same card.
func TestPhonesByCountry(t *testing.T) {
	c := join.Card{Name: "Tamberline", URL: "https://tamberline.example/c/48219077", HostPIN: "7002", Phones: []join.Phone{
		{Number: "+351210005506", Country: "PT", PIN: "48219077"}, {Number: "+81345780119", Country: "JP", PIN: "48219077"},
		{Number: "+551130040119", Country: "BR", PIN: "48219077"}}}
	assert.Equal(t, "Join by Tamberline\nLink: https://tamberline.example/c/48219077\nBy phone: +81 3 4578 0119 (Japan), PIN 48219077#\n"+
		"By phone from elsewhere:\n+55 11 3004 0119 (Brazil), PIN 48219077#\n+351 21 000 5506 (Portugal), PIN 48219077#\n", c.Text(guest))
	assert.Contains(t, c.Text(join.Reader{Country: "NO"}), "By phone: +351 21 000 5506 (Portugal), PIN 48219077#", "none there: the first")
	assert.Contains(t, c.Text(join.Reader{Organiser: true}), "Organiser's PIN: 7002#")
	assert.Equal(t, "https://tamberline.example/c/48219077 · by phone +81345780119, PIN 48219077#", c.Chat(guest))
	assert.Equal(t, "tel:+81345780119,,48219077%23", c.Phones[1].URI(), "RFC 7986, 5.11")
}

func TestWhatAGuestExpectsAtTheDoor(t *testing.T) {
	all := join.Door{Waits: join.GuestsWait, Speaks: join.OrganisersSpeak, Starts: join.OrganiserStarts}
	assert.Equal(t, []string{"You wait until the organiser lets you in", "It opens when the organiser is there", "Only the organisers speak and present"}, all.Words(true))
	assert.Equal(t, "Guests from outside wait until the organiser lets them in", all.Words(false)[0])
	assert.Empty(t, join.Door{Waits: join.NobodyWaits, Speaks: join.AllSpeak}.Words(true))
	old := join.Card{DoorWords: "Outside guests wait"}
	assert.Equal(t, []string{"Outside guests wait"}, old.DoorLines(guest), "as cards were stored once")
	can := join.Choices{Waits: []join.Waits{join.GuestsWait, join.AllWait}}
	assert.Equal(t, join.Door{Waits: join.GuestsWait}, can.Fit(join.Door{Waits: join.NobodyWaits, Speaks: join.OrganisersSpeak}), "what it cannot do is left out")
}

func TestLimitsOfThePlan(t *testing.T) {
	now := time.Date(2026, 11, 26, 10, 0, 0, 0, time.UTC)
	plan := join.Limits{Minutes: 45, People: 50, Calls: 2, Dates: 50, LinkDays: 400}
	cases := []struct {
		name string
		use  join.Use
		want []join.ExcessKind
	}{
		{"within all", join.Use{Length: 45 * time.Minute, People: 50, Others: 1, Ends: now.AddDate(0, 0, 400)}, nil},
		{"a second too long", join.Use{Length: 45*time.Minute + time.Second}, []join.ExcessKind{join.TooLong}},
		{"one too many", join.Use{People: 51}, []join.ExcessKind{join.TooMany}},
		{"a third call", join.Use{Others: 2}, []join.ExcessKind{join.TooBusy}},
		{"a series of a year", join.Use{Repeats: true, Dates: 52, Ends: now.AddDate(1, 0, 0)}, []join.ExcessKind{join.TooOften}},
		{"a series without an end", join.Use{Repeats: true}, []join.ExcessKind{join.TooOften, join.LinkEnds}},
		{"far ahead", join.Use{Ends: now.AddDate(0, 0, 401)}, []join.ExcessKind{join.LinkEnds}},
	}
	for _, c := range cases {
		var got []join.ExcessKind
		for _, e := range plan.Over(c.use, now) {
			got = append(got, e.Kind)
		}
		assert.Equal(t, c.want, got, c.name)
	}
	assert.Empty(t, join.Card{}.Over(join.Use{Length: 100 * time.Hour, People: 1000, Repeats: true}), "a plan without limits")
}
