package join

import (
	"net/url"
	"slices"
	"strings"
	"unicode/utf8"
)

// Way is a way into a call that stands in a text from At up to End, in bytes. Address is the
// link (behind what only checks it), the SIP address, or the tel: address of a phone that a PIN
// is keyed in on; a link may be written without its scheme.
type Way struct {
	At, End int
	Address string
}

// mostChecked is how many bytes of a text are looked through for ways into a call: more than
// a sheet takes.
const mostChecked = 128 << 10

// OtherWays are the ways into a call that a text holds beside its meeting's own card
// (DESIGN.md, rule 8), but for those that somebody said are none. A link to a document is no
// way in.
func OtherWays(text string, card *Card, none []string) (out []Way) {
	text = text[:min(len(text), mostChecked)]
	dials := mayDialIn(text)
	if len(dials) == 0 && !strings.ContainsAny(text, "/@") {
		return nil
	}
	var links []Link
	if strings.Contains(text, "://") {
		links = Links(text)
	}
	links = append(links, bareLinks(text, links)...)
	slices.SortFunc(links, func(a, b Link) int { return a.At - b.At })
	before := 0
	for _, l := range links {
		target := Target(l.URL)
		from := max(before, l.At-longestLabel)
		from += max(0, strings.IndexAny(text[from:l.At], " \n")) // no character is cut
		near := near(text[from:l.At], readWords(text[from:l.At]), 0, l.At-from)
		before = l.End
		if wayIn(target, near, "") >= 2 && !(card != nil && SameAddress(target, card.URL)) && !among(none, target) {
			out = append(out, Way{l.At, l.End, target})
		}
	}
	if strings.Contains(text, "@") {
		for _, s := range sipAddresses(text) {
			if !(card != nil && SameAddress(s.Address, card.SIP)) && !among(none, s.Address) {
				out = append(out, s)
			}
		}
	}
	if len(dials) > 0 {
		rest := blanked(text, links)
		for _, d := range dials {
			out = append(out, phoneWays(rest, d[0], d[1], card, none)...)
		}
	}
	slices.SortFunc(out, func(a, b Way) int { return a.At - b.At })
	return out
}

// nearPIN is how many bytes before and after a phone number its PIN can stand.
const nearPIN = 400

// mayDialIn are the parts of a text, each from its first byte up to its last, in which phone
// numbers may stand with their PINs. They are found at a glance.
func mayDialIn(text string) (parts [][2]int) {
	for at := range len(text) - 1 {
		if text[at] != '+' && (text[at] != '0' || at > 0 && isWord(text[at-1])) || !mayDial(text[at:]) {
			continue
		}
		end := min(len(text), at+nearPIN)
		if last := len(parts) - 1; last >= 0 && parts[last][1] >= at-nearPIN {
			parts[last][1] = end
			continue
		}
		from := max(0, at-nearPIN)
		if from > 0 {
			from += strings.IndexAny(text[from:at]+" ", " \n") // no character is cut
		}
		parts = append(parts, [2]int{from, end})
	}
	for i, p := range parts {
		for end := p[1]; end < len(text) && end > p[0] && !utf8.RuneStart(text[end]); end-- {
			parts[i][1] = end - 1
		}
	}
	return parts
}

// phoneWays are the phones in a part of a text, whose links are blanked out, on which one keys
// in a PIN: those of a call. A number alone is somebody's.
func phoneWays(text string, from, to int, card *Card, none []string) (out []Way) {
	text = text[from:to]
	words := readWords(text)
	phones, rest := readPhones(text, words)
	readLabels(rest, words, phones)
	for _, f := range phones {
		own := card != nil && slices.ContainsFunc(card.Phones, func(p Phone) bool { return p.Number == f.Number })
		if f.PIN != "" && !f.own && !own && !among(none, f.URI()) {
			out = append(out, Way{from + f.at, from + f.end, f.URI()})
		}
	}
	return out
}

func among(none []string, address string) bool {
	return slices.ContainsFunc(none, func(n string) bool { return SameAddress(n, address) })
}

// bareLinks are the links of a text that are written as people type them, a host name and a
// path without a scheme, outside the others.
func bareLinks(text string, others []Link) (out []Link) {
	for last, slash := 0, 0; ; slash++ {
		next := strings.IndexByte(text[slash:], '/')
		if next < 0 {
			return out
		}
		slash += next
		at := slash
		for at > last && (isWord(text[at-1]) || text[at-1] == '.' || text[at-1] == '-' || text[at-1] == ':') {
			at--
		}
		if !isHost(text[at:slash]) || at > 0 && (text[at-1] == '@' || text[at-1] == '/' || text[at-1] >= 0x80) {
			continue
		}
		end := slash
		for end < len(text) && inLink(text[end]) {
			end++
		}
		exact := trimmed(beforeText(text[at:end]))
		if len(exact) <= slash-at+1 || slices.ContainsFunc(others, func(o Link) bool { return at < o.End && o.At < end }) {
			continue
		}
		out = append(out, Link{at, at + len(exact), "https://" + exact})
		slash, last = at+len(exact)-1, at+len(exact)
	}
}

// isHost tells whether a text is a host name of several labels, maybe with a port.
func isHost(s string) bool {
	if name, port, is := strings.Cut(s, ":"); is {
		if port == "" || len(port) > 5 || digits(port) != port {
			return false
		}
		s = name
	}
	if len(s) > 253 || !strings.Contains(s, ".") {
		return false
	}
	last := ""
	for label := range strings.SplitSeq(s, ".") {
		if label == "" || len(label) > 63 || label[0] == '-' || label[len(label)-1] == '-' {
			return false
		}
		last = label
	}
	return len(last) > 1 && strings.Trim(strings.ToLower(last), "abcdefghijklmnopqrstuvwxyz") == ""
}

// SameAddress tells whether two addresses lead to the same place: the scheme, the case of the
// host and a slash at the end do not matter.
func SameAddress(a, b string) bool {
	return a == b || a != "" && b != "" && plainAddress(a) == plainAddress(b)
}

func plainAddress(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" {
		return strings.ToLower(address)
	}
	query := ""
	if u.RawQuery != "" {
		query = "?" + u.RawQuery
	}
	return strings.ToLower(u.Host) + strings.TrimRight(u.EscapedPath(), "/") + query
}

// Without is a text without one of its ways, and without the word before it that led to it
// and nothing else ("Call:", "Link:"), or the line that is empty then.
func Without(text string, w Way) string {
	if w.At < 0 || w.End > len(text) || w.At > w.End {
		return text
	}
	before, after := text[:w.At], text[w.End:]
	if strings.HasSuffix(before, "<") && strings.HasPrefix(after, ">") {
		before, after = before[:len(before)-1], after[1:]
	}
	line := strings.LastIndexByte(before, '\n') + 1
	lead := strings.TrimRight(before[line:], " \t")
	if at := strings.LastIndexAny(lead, ".!?;"); strings.HasSuffix(lead, ":") && len(lead)-at < longestLabel/3 {
		lead = strings.TrimRight(lead[:at+1], " \t")
	}
	before = before[:line] + lead
	rest := strings.TrimLeft(after, " \t")
	switch {
	case lead == "" && strings.HasPrefix(rest, "\n"): // nothing is left of the line
		return before + rest[1:]
	case lead == "" && rest == "":
		return strings.TrimRight(before, "\n")
	case lead == "" || rest == "" || strings.IndexByte(".,;:!?)\n", rest[0]) >= 0:
		return before + rest
	}
	return before + " " + rest
}
