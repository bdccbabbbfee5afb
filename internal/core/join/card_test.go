package join_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"jembro/internal/core/join"
)

var card = join.Card{Provider: "ostrel", Name: "Ostrel", URL: "https://ostrel.example/j/48-2190", Number: "482 190 77",
	Passcode: "veld-31", Door: "Outside guests wait", LimitMinutes: 45}

func ExampleCard_Text() {
	fmt.Print(card.Text())
	// Output:
	// Join by Ostrel
	// Link: https://ostrel.example/j/48-2190
	// Number: 482 190 77
	// Passcode: veld-31
	// Door: Outside guests wait
}

func TestCardLeavesOutWhatTheProviderDoesNotHave(t *testing.T) {
	bare := join.Card{Name: "Kestle", URL: "https://kestle.example/r/ilse"}
	assert.Equal(t, "Join by Kestle\nLink: https://kestle.example/r/ilse\n", bare.Text())
	assert.NotContains(t, bare.HTML(), "Passcode")
}

func TestCardAsHTML(t *testing.T) {
	html := string(card.HTML())
	assert.Contains(t, html, `href="https://ostrel.example/j/48-2190"`)
	assert.Contains(t, html, ">ostrel.example/j/48-2190<")
	assert.Contains(t, html, "veld-31")

	hostile := card
	hostile.URL, hostile.Passcode = "javascript:alert(1)", "<script>alert(1)</script>"
	html = string(hostile.HTML())
	assert.NotContains(t, html, "<script>")
	assert.NotContains(t, html, `href="javascript`)
}

func TestLimitOfThePlan(t *testing.T) {
	assert.True(t, card.Exceeds(time.Hour))
	assert.False(t, card.Exceeds(45*time.Minute))
	assert.False(t, join.Card{}.Exceeds(100*time.Hour))
}
