package join_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jembro/internal/core/join"
)

func urls(text string) (out []string) {
	for _, l := range join.Links(text) {
		out = append(out, l.URL)
	}
	return out
}

func TestLinksAreKeptExactly(t *testing.T) {
	long := "https://calls.example/j/" + strings.Repeat("a", 51) + "?pwd=Zm9v" // 75 octets where it is cut
	for text, want := range map[string][]string{
		"Join: https://ostrel.example/j/48-2190.":                      {"https://ostrel.example/j/48-2190"},
		"(see https://a.example/x_(y)) and HTTP://B.example/Q?x=1&y=2": {"https://a.example/x_(y)", "HTTP://B.example/Q?x=1&y=2"},
		"<https://a.example/j/12\r\n 34?pwd=x>":                        {"https://a.example/j/1234?pwd=x"},
		"a <b> https://a.example/1,https://a.example/2":                {"https://a.example/1,https://a.example/2"},
		"„https://a.example/j“":                                        {"https://a.example/j"},
		`<a href="https://a.example/j?x=1&amp;y=2">Join</a>`:           {"https://a.example/j?x=1&y=2"},
		"「https://a.example/会議?x=1」、https://a.example/j/7を開く":          {"https://a.example/会議?x=1", "https://a.example/j/7"},
		"xhttps://a.example/":                                          nil,
		"https://":                                                     nil,
		"https://a.example/%D0%9F?u=a%20b#frag":                        {"https://a.example/%D0%9F?u=a%20b#frag"},
		"https://пример.example/встреча":                               {"https://пример.example/встреча"},
		long[:75] + "\r\n " + long[75:] + "\r\nNext":                   {long},
		long[:75] + "\n" + long[75:] + "\nNext line of text":           {long},
		long[:75] + "\nThen we go on":                                  {long[:75]},
		"https://a.example/j/1\nhttps://a.example/j/2":                 {"https://a.example/j/1", "https://a.example/j/2"},
	} {
		assert.Equal(t, want, urls(text), text)
	}
}

func TestLinkCheckersAreUnwrapped(t *testing.T) {
	for link, want := range map[string]string{
		"https://safe.example/?url=https%3A%2F%2Fcalls.example%2Fj%2F48%3Fpwd%3Dx&data=1":                   "https://calls.example/j/48?pwd=x",
		"https://check.example/v2/https://calls.example/j/48?x=1":                                           "https://calls.example/j/48?x=1",
		"https://check.example/r/https%3A%2F%2Fcalls.example%2Fj%2F48":                                      "https://calls.example/j/48",
		"https://one.example/?u=https%3A%2F%2Ftwo.example%2F%3Fu%3Dhttps%253A%252F%252Fcalls.example%252Fj": "https://calls.example/j",
		"https://calls.example/j/48?from=mail":                                                              "https://calls.example/j/48?from=mail",
		"https://calls.example/?u=notalink":                                                                 "https://calls.example/?u=notalink",
	} {
		assert.Equal(t, want, join.Target(link))
	}
}

// TestNoLinkIsLostOrChanged: whatever the text around it, a link that stands by itself is
// found as it was written.
func TestNoLinkIsLostOrChanged(t *testing.T) {
	part := rapid.StringMatching(`[A-Za-z0-9%=&+@-]{1,20}`)
	rapid.Check(t, func(t *rapid.T) {
		link := "https://" + rapid.StringMatching(`[a-z]{1,12}\.example`).Draw(t, "host") + "/" + part.Draw(t, "path") + "/" + part.Draw(t, "more") + "?" + part.Draw(t, "query")
		before := rapid.SampledFrom([]string{"", "Join: ", "(", "\n", "“", "参加: ", "<", "* "}).Draw(t, "before")
		after := map[string]string{"(": ")", "“": "”", "<": ">"}[before] + rapid.SampledFrom([]string{"", ".", ",", "\n", " and more", "\r\nID: 48"}).Draw(t, "after")
		found := join.Links(before + link + after)
		if assert.Len(t, found, 1) {
			assert.Equal(t, link, found[0].URL)
		}
	})
}

func FuzzLinks(f *testing.F) {
	f.Add("Join <https://a.example/j/1\r\n 2> or https://b.example/(x).")
	f.Add("https://safe.example/?url=https%3A%2F%2Fcalls.example%2Fj")
	f.Fuzz(func(t *testing.T, text string) {
		end := 0
		for _, l := range join.Links(text) {
			if l.At < end || l.End < l.At || l.End > len(text) {
				t.Fatalf("%d to %d after %d of %d", l.At, l.End, end, len(text))
			}
			end = l.End
			join.Target(l.URL)
		}
	})
}
