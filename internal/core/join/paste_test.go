package join_test

import (
	"bufio"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/join"
)

// TestInvitationsOfTheTrade reads invented invitations in the styles and languages that such
// texts have (common practice, no source), and ordinary texts with links that are no calls.
func TestInvitationsOfTheTrade(t *testing.T) {
	file, err := os.Open("testdata/texts.jsonl")
	require.NoError(t, err)
	defer file.Close()
	texts, right := 0, 0
	for lines := bufio.NewScanner(file); lines.Scan(); {
		texts++
		var c struct {
			Lang, Text string
			Card       *join.Pasted
		}
		require.NoError(t, json.Unmarshal(lines.Bytes(), &c))
		got, found := join.Read(c.Text)
		if c.Card == nil {
			if assert.False(t, found, "%s\n%+v", c.Text, got) {
				right++
			}
			continue
		}
		if assert.Equal(t, *c.Card, got, c.Text) {
			right++
		}
	}
	t.Logf("%d of %d right", right, texts)
}

// TestOwnCardReadsTheSame: what Jembro writes for pasting is read as the same card.
func TestOwnCardReadsTheSame(t *testing.T) {
	known := []join.Phone{{Number: "+351210005506", Country: "PT"}, {Number: "+81345780119", Country: "JP"}, {Number: "+551130040119", Country: "BR"}, {Number: "+31207990119", Country: "NL"}}
	rapid.Check(t, func(t *rapid.T) {
		c := join.Card{
			Name:     rapid.SampledFrom([]string{"Ostrel", "Kestle", "Tamberline"}).Draw(t, "name"),
			URL:      "https://" + rapid.StringMatching(`[a-z]{3,12}\.example/j/[A-Za-z0-9-]{1,20}(\?pwd=[A-Za-z0-9%]{1,10}[a-z])?`).Draw(t, "url"),
			Number:   rapid.SampledFrom([]string{"", "482 190 77", "48-2190", "9081234567"}).Draw(t, "number"),
			Passcode: rapid.StringMatching(`([A-Za-z0-9][A-Za-z0-9!#$%&+@-]{2,12}[a-z0-9])?`).Draw(t, "passcode"),
			SIP:      rapid.SampledFrom([]string{"", "sip:48219077@bridge.example"}).Draw(t, "sip"),
			Door: join.Door{Waits: rapid.SampledFrom([]join.Waits{"", join.AllWait, join.GuestsWait}).Draw(t, "waits"),
				Speaks: rapid.SampledFrom([]join.Speaks{"", join.OrganisersSpeak}).Draw(t, "speaks"),
				Starts: rapid.SampledFrom([]join.Starts{"", join.OrganiserStarts}).Draw(t, "starts")},
			HostPIN: rapid.SampledFrom([]string{"", "700219"}).Draw(t, "host"),
		}
		for _, phone := range known[:rapid.IntRange(0, len(known)).Draw(t, "phones")] {
			phone.PIN = rapid.SampledFrom([]string{"48219077", "1904"}).Draw(t, "pin")
			c.Phones = append(c.Phones, phone)
		}
		reader := join.Reader{Country: rapid.SampledFrom([]string{"", "JP", "PT", "NO"}).Draw(t, "country"), Outside: rapid.Bool().Draw(t, "outside"), Organiser: rapid.Bool().Draw(t, "organises")}
		got, found := join.Read(c.Text(reader))
		assert.True(t, found)
		assert.ElementsMatch(t, c.Phones, got.Phones)
		got.Phones = nil
		assert.Equal(t, join.Pasted{URL: c.URL, Number: c.Number, Passcode: c.Passcode, SIP: c.SIP}, got)
	})
}

// ordinary are links as they stand in the texts of an office that hold no call.
var ordinary = strings.Fields(`
	https://docs.example/d/1AbC https://wiki.example/pages/viewpage?id=48219077 https://files.example/share/48-2190
	https://tickets.example/browse/LOAN-31 https://maps.example/place/museum https://www.veldhuis.example/
	https://git.example/team/repo/pull/48 https://news.example/2026/11/26/article https://shop.example/orders/9081234567
	https://cloud.example/s/x7Qm2 https://calendar.example/events/48 https://forms.example/f/Gb2 https://img.example/room.png
	https://calls.example/recordings/48219077 https://ostrel.example/help https://ostrel.example/download/ https://ostrel.example
	https://mail.example/unsubscribe?u=1 https://rail.example/timetable https://hotel.example/booking/48219077
	https://museum.example/exhibitions/north https://law.example/acts/2026/31 https://post.example/track/482190771`)

func TestOrdinaryLinksAreNoCalls(t *testing.T) {
	for _, link := range ordinary {
		for _, text := range []string{"Please look at " + link + " before Thursday.", "Agenda: " + link} {
			got, found := join.Read(text)
			assert.False(t, found, "%s: %+v", text, got)
		}
	}
}

func FuzzRead(f *testing.F) {
	texts, err := os.ReadFile("testdata/texts.jsonl")
	require.NoError(f, err)
	for line := range strings.Lines(string(texts)) {
		var c struct{ Text string }
		require.NoError(f, json.Unmarshal([]byte(line), &c))
		f.Add(c.Text)
	}
	for _, piece := range []string{"<http://a", "https://a.example/)", "@", "sip:a@", "+351300505620 ", "ID: 1 ", "a(", "https://a.example/j/1 ", ":@"} {
		f.Add(strings.Repeat(piece, 200))
	}
	f.Fuzz(func(t *testing.T, text string) {
		p, found := join.Read(text)
		if found != (p.URL != "" || p.SIP != "" || len(p.Phones) > 0) {
			t.Fatalf("%v with %+v", found, p)
		}
	})
}

// BenchmarkRead20kB reads 20 kB: a long mail with one invitation at its end, and a mail that
// holds nothing but invitations.
func BenchmarkRead20kB(b *testing.B) {
	texts, err := os.ReadFile("testdata/texts.jsonl")
	require.NoError(b, err)
	var all []string
	for line := range strings.Lines(string(texts)) {
		var c struct{ Text string }
		require.NoError(b, json.Unmarshal([]byte(line), &c))
		all = append(all, c.Text)
	}
	prose := "The crates for loan 31 leave the depot on Thursday at 9:30; Tomé keeps the humidity log. See https://wiki.example/pages/crates.\n"
	for name, text := range map[string]string{
		"one invitation": strings.Repeat(prose, 20_000/len(prose)-4) + all[0],
		"only such":      strings.Repeat(strings.Join(all, "\n\n"), 20)[:20_000],
	} {
		b.Run(name, func(b *testing.B) {
			b.SetBytes(int64(len(text)))
			for b.Loop() {
				join.Read(text)
			}
		})
	}
}
