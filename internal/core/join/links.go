package join

import (
	"net/url"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Link is an http or https link in a text: from At up to End, exactly as it is written but
// for the line breaks that folding and wrapping put into it.
type Link struct {
	At, End int
	URL     string
}

var beginsLink = regexp.MustCompile(`(?i)https?://`)

// Links are the links of a text in their order. A link goes on over a line break where it
// stands in angle brackets (RFC 3986, appendix C), where the line was folded (RFC 5545, 3.1)
// or cut by a mail program at the end of a long line.
func Links(text string) (out []Link) {
	for at := 0; ; {
		mark := strings.Index(text[at:], "://")
		if mark < 0 {
			return out
		}
		mark += at
		start := mark - schemeBefore(text[at:mark])
		at = mark + len("://")
		if start == mark || start > 0 && isWord(text[start-1]) { // in the middle of a word
			continue
		}
		l := linkAt(text, start)
		if len(l.URL) > at-start { // more than its scheme
			out = append(out, l)
		}
		at = max(l.End, at)
	}
}

// schemeBefore is the length of the http or https that a text ends in, 0 without.
func schemeBefore(text string) int {
	for _, scheme := range []string{"https", "http"} {
		if len(text) >= len(scheme) && strings.EqualFold(text[len(text)-len(scheme):], scheme) {
			return len(scheme)
		}
	}
	return 0
}

func isWord(c byte) bool {
	return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9'
}

// inLink tells whether a byte can stand in a link as people write them: what RFC 3986
// allows, and everything beyond ASCII.
func inLink(c byte) bool {
	return c > ' ' && c != 0x7f && !strings.ContainsRune("<>\"`{}|\\^", rune(c))
}

// longestAngled is how far the end of a link in angle brackets or quotes is looked for.
const longestAngled = 4000

func linkAt(text string, start int) Link {
	if start > 0 && text[start-1] == '<' {
		if end := strings.IndexByte(text[start:min(len(text), start+longestAngled)], '>'); end > 0 {
			inside := text[start : start+end]
			if bare := strings.Join(strings.FieldsFunc(inside, func(r rune) bool { return r == '\r' || r == '\n' || r == ' ' || r == '\t' }), ""); allInLink(bare) && !strings.ContainsAny(strings.TrimSpace(firstLine(inside)), " \t") {
				return Link{start, start + end, bare}
			}
		}
	}
	if start > 1 && (text[start-2:start] == `="` || text[start-2:start] == "='") { // of the source of a page
		if end := strings.IndexByte(text[start:min(len(text), start+longestAngled)], text[start-1]); end > 0 && allInLink(text[start:start+end]) {
			return Link{start, start + end, strings.ReplaceAll(text[start:start+end], "&amp;", "&")}
		}
	}
	var whole strings.Builder
	at := start
	for {
		from := at
		for at < len(text) && inLink(text[at]) {
			at++
		}
		whole.WriteString(text[from:at])
		next, ok := goesOn(text, at)
		if !ok {
			break
		}
		at = next
	}
	exact := trimmed(beforeText(whole.String()))
	return Link{start, at - (whole.Len() - len(exact)), exact}
}

func firstLine(s string) string {
	first, _, _ := strings.Cut(s, "\n")
	return first
}

func allInLink(s string) bool {
	for i := range len(s) {
		if !inLink(s[i]) {
			return false
		}
	}
	return true
}

// goesOn tells where a link goes on that a line break cuts: after folding at 75 octets, or
// where a mail program wrapped a line of about its width and all of the next line can be
// nothing but the rest of it.
func goesOn(text string, at int) (next int, ok bool) {
	rest := text[at:]
	rest = strings.TrimPrefix(rest, "\r")
	if !strings.HasPrefix(rest, "\n") {
		return 0, false
	}
	line := at - (strings.LastIndexByte(text[:at], '\n') + 1) // octets, up to the break
	rest = rest[1:]
	if line >= 73 && line <= 75 && len(rest) > 1 && (rest[0] == ' ' || rest[0] == '\t') && inLink(rest[1]) {
		return len(text) - len(rest) + 1, true
	}
	tail, _, _ := strings.Cut(rest, "\n")
	tail = strings.TrimRight(tail, "\r")
	if line < 72 || line > 79 || tail == "" || !allInLink(tail) || !strings.ContainsAny(tail, "=&%/?-_.0123456789") || strings.Contains(tail, "://") {
		return 0, false
	}
	return len(text) - len(rest), true
}

// beforeText is a link without the text that follows it where no space is written between
// words: from a full-width mark on, or from a character of such a script behind a letter or
// digit of ASCII.
func beforeText(s string) string {
	if isASCII(s) {
		return s
	}
	last := 'a'
	for i, r := range s {
		if r >= 0x3000 && r <= 0x303f || r >= 0xff00 && r <= 0xffef || isWord(byte(min(last, 0x7f))) && unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Thai) {
			return s[:i]
		}
		last = r
	}
	return s
}

func isASCII(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

// trimmed is a link without what ends the sentence around it.
func trimmed(s string) string {
	surplus := map[byte]int{')': strings.Count(s, ")") - strings.Count(s, "("), ']': strings.Count(s, "]") - strings.Count(s, "[")}
	for s != "" {
		last, size := utf8.DecodeLastRuneInString(s)
		c := s[len(s)-1]
		if surplus[c] > 0 {
			surplus[c]--
		} else if !strings.ContainsRune(".,;:!?'*_~»«“”„‘’）】、。，；：！？", last) {
			return s
		}
		s = s[:len(s)-size]
	}
	return s
}

// Target is where a link leads that only checks it: the link in one of its parameters, or
// at the end of its path. It is the link itself for all others.
func Target(link string) string {
	for range 3 { // one checker behind another
		inner := behind(link)
		if inner == "" {
			return link
		}
		link = inner
	}
	return link
}

func behind(link string) string {
	if !leadsOn(link) {
		return ""
	}
	u, err := url.Parse(link)
	if err != nil {
		return ""
	}
	for _, pair := range strings.FieldsFunc(u.RawQuery, func(r rune) bool { return r == '&' || r == ';' }) {
		_, value, _ := strings.Cut(pair, "=")
		if inner, err := url.QueryUnescape(value); err == nil && IsLink(inner) {
			return inner
		}
	}
	path := u.EscapedPath()
	if at := beginsLink.FindStringIndex(path); at != nil { // .../https://target
		return path[at[0]:] + query(u)
	}
	for _, escaped := range []string{"http%3a%2f%2f", "https%3a%2f%2f"} {
		if at := strings.Index(strings.ToLower(path), escaped); at >= 0 {
			return unescaped(path[at:])
		}
	}
	return ""
}

// leadsOn tells whether a link can hold another one.
func leadsOn(link string) bool {
	rest := link[min(len(link), 8):]
	return strings.Contains(rest, "://") || strings.Contains(rest, "%3A%2F") || strings.Contains(rest, "%3a%2f") ||
		strings.Contains(rest, "%3A%2f") || strings.Contains(rest, "%3a%2F") || strings.Contains(rest, "%3A//") || strings.Contains(rest, "%3a//") ||
		strings.Contains(rest, ":%2F") || strings.Contains(rest, ":%2f") || strings.Contains(rest, "http%") || strings.Contains(rest, "HTTP%") || strings.Contains(rest, "%68") || strings.Contains(rest, "%48")
}

func unescaped(s string) string {
	inner, err := url.PathUnescape(s)
	if err != nil || !IsLink(inner) {
		return ""
	}
	return inner
}

func query(u *url.URL) string {
	if u.RawQuery == "" {
		return ""
	}
	return "?" + u.RawQuery
}

// IsLink tells whether a text is an http or https link and nothing else.
func IsLink(s string) bool {
	at := beginsLink.FindStringIndex(s)
	if at == nil || at[0] != 0 || !allInLink(s) {
		return false
	}
	u, err := url.Parse(s)
	return err == nil && u.Hostname() != ""
}
