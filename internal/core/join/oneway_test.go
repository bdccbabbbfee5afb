package join_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jembro/internal/core/join"
)

func TestASecondWayIn(t *testing.T) {
	own := &join.Card{URL: "https://ostrel.example/j/48-2190", SIP: "sip:48219077@bridge.example", Phones: []join.Phone{{Number: "+442079460119", Country: "GB", PIN: "48219077"}}}
	cases := []struct {
		name, text string
		none, want []string
	}{
		{"nothing", "Bring the humidity log.", nil, nil},
		{"a second call", "Bring the log. Call: https://kestle.example/r/freight-desk", nil, []string{"https://kestle.example/r/freight-desk"}},
		{"without a scheme", "Call: kestle.example/r/freight-desk", nil, []string{"https://kestle.example/r/freight-desk"}},
		{"its own", "We meet at https://ostrel.example/j/48-2190 as always", nil, nil},
		{"its own as people write it", "OSTREL.example/j/48-2190/", nil, nil},
		{"behind a checker", "https://safe.example/check?u=https%3A%2F%2Fkestle.example%2Fr%2Filse", nil, []string{"https://kestle.example/r/ilse"}},
		{"its own behind a checker", "https://safe.example/check?u=https%3A%2F%2Fostrel.example%2Fj%2F48-2190", nil, nil},
		{"said to be none", "https://kestle.example/r/ilse", []string{"https://kestle.example/r/ilse"}, nil},
		{"SIP", "sip:31@freight.example and sip:48219077@bridge.example", nil, []string{"sip:31@freight.example"}},
		{"a mail address", "Write to i.marrant@marrowby.example/room", nil, nil},
		{"a phone with a PIN", "Dial +351 21 000 5506, PIN 48219077#", nil, []string{"tel:+351210005506,,48219077%23"}},
		{"one that dials by itself", "+81345780119,,48219077#", nil, []string{"tel:+81345780119,,48219077%23"}},
		{"far into long text", strings.Repeat("Tomé é à ", 300) + "Dial +351 21 000 5506, PIN 48219077#" + strings.Repeat(" é", 900), nil, []string{"tel:+351210005506,,48219077%23"}},
		{"far from each other", strings.Repeat("ü", 801) + "+81345780119,,48219077#" + strings.Repeat("日", 900) + "00351 21 000 5506,,31#" + strings.Repeat("日", 301), nil,
			[]string{"tel:+81345780119,,48219077%23", "tel:+351210005506,,31%23"}},
		{"somebody's phone", "Tomé is at +351 910 000 111 until noon", nil, nil},
		{"a phone of its own", "Dial +44 20 7946 0119, PIN 48219077#", nil, nil},
		{"two", "https://a.example/j/1234567 or\nhttps://b.example/meet/x", nil, []string{"https://a.example/j/1234567", "https://b.example/meet/x"}},
	}
	for _, c := range cases {
		var got []string
		for _, w := range join.OtherWays(c.text, own, c.none) {
			got = append(got, w.Address)
			assert.Contains(t, c.text, c.text[w.At:w.End])
		}
		assert.Equal(t, c.want, got, c.name)
	}
	assert.Len(t, join.OtherWays("https://ostrel.example/j/48-2190", nil, nil), 1, "a meeting without a call: the first way is seen as well")
}

func TestOrdinaryLinksAreNoSecondWay(t *testing.T) {
	for _, link := range ordinary {
		for _, text := range []string{"Please look at " + link + " before Thursday.", "Agenda: " + link, strings.TrimPrefix(link, "https://")} {
			assert.Empty(t, join.OtherWays(text, &join.Card{URL: "https://ostrel.example/j/1"}, nil), text)
		}
	}
}

func TestTakenOut(t *testing.T) {
	link := "https://kestle.example/r/freight-desk"
	for text, want := range map[string]string{
		"Bring the log. Call: " + link:                   "Bring the log.",
		"Crates.\n" + link + "\nBring the log.":          "Crates.\nBring the log.",
		"Crates.\nLink: <" + link + ">":                  "Crates.",
		"We meet at " + link + ", as always.":            "We meet at, as always.",
		"See " + link + " and bring the log":             "See and bring the log",
		link:                                             "",
		"Bring this: pens, paper, and " + link + " too.": "Bring this: pens, paper, and too.",
	} {
		ways := join.OtherWays(text, &join.Card{URL: "https://ostrel.example/j/1"}, nil)
		if assert.Len(t, ways, 1, text) {
			assert.Equal(t, want, join.Without(text, ways[0]))
		}
	}
}

// TestNothingElseIsTakenOut: what is taken out is the way alone, and it is not found again.
func TestNothingElseIsTakenOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`([A-Za-zé.,: \n]{0,30}(https://[a-z]{2,6}\.example/(j|doc|r)/[a-z0-9-]{1,12})?){1,4}`).Draw(t, "text")
		ways := join.OtherWays(text, nil, nil)
		for _, w := range slicesReversed(ways) {
			text = join.Without(text, w)
		}
		assert.Empty(t, join.OtherWays(text, nil, nil), text)
	})
}

func slicesReversed(in []join.Way) (out []join.Way) {
	for i := range in {
		out = append(out, in[len(in)-1-i])
	}
	return out
}

// BenchmarkOtherWays checks a text of 2 kB as it is written on a sheet, with three links.
func BenchmarkOtherWays(b *testing.B) {
	text := strings.Repeat("The crates for loan 31 leave the depot on Thursday; Tomé keeps the log. ", 27) +
		"Tomé is at +351 910 000 111. See https://wiki.example/pages/crates and https://files.example/share/48-2190. Call: https://kestle.example/r/freight-desk\n"
	own := &join.Card{URL: "https://ostrel.example/j/48-2190"}
	for b.Loop() {
		join.OtherWays(text, own, nil)
	}
}
