package ical

import (
	"bytes"
	"fmt"
	"iter"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/unicode"

	"jembro/internal/core/calendar"
)

// line is a content line (RFC 5545, 3.1), unfolded. go-ical reads these as well; it keeps
// a whole calendar in memory, looks at parameters byte by byte and gives up at the first
// line that is not to the letter, and what others publish is large and rarely so.
type line struct {
	name   string // in upper case
	params string // with the semicolon before each
	value  string
}

// contentLines yields the content lines of a calendar. What is no content line is left
// out. The strings are good until the next line.
func contentLines(text []byte) iter.Seq[line] {
	return func(yield func(line) bool) {
		var whole []byte // of a folded line
		for len(text) > 0 {
			var part []byte
			part, text = nextLine(text)
			if len(text) > 0 && (text[0] == ' ' || text[0] == '\t') {
				whole = append(whole[:0], part...)
				for len(text) > 0 && (text[0] == ' ' || text[0] == '\t') {
					part, text = nextLine(text[1:])
					if len(whole) < longestLine {
						whole = append(whole, part...)
					}
				}
				part = whole
			}
			if l, ok := parseLine(part); ok && !yield(l) {
				return
			}
		}
	}
}

// nextLine cuts a line off, at CRLF, or at CR or LF alone.
func nextLine(text []byte) (first, rest []byte) {
	at := bytes.IndexAny(text, "\r\n")
	if at < 0 {
		return text, nil
	}
	first, rest = text[:at], text[at+1:]
	if text[at] == '\r' && len(rest) > 0 && rest[0] == '\n' {
		rest = rest[1:]
	}
	return first, rest
}

// counted are the properties that are looked at: of the others nothing is kept. They are
// found without making a text of each name.
var counted = func() map[string]string {
	names := map[string]string{}
	for _, name := range strings.Fields("BEGIN END NAME X-WR-CALNAME REFRESH-INTERVAL X-PUBLISHED-TTL UID SEQUENCE DTSTAMP SUMMARY CLASS STATUS TRANSP ATTENDEE " +
		"DTSTART DTEND DURATION RECURRENCE-ID RRULE RDATE EXDATE PRIORITY BUSYTYPE FREEBUSY TZID TZOFFSETFROM TZOFFSETTO") {
		names[name] = name
	}
	return names
}()

func parseLine(raw []byte) (l line, ok bool) {
	if len(raw) > longestLine {
		raw = raw[:longestLine]
	}
	nameEnd := bytes.IndexAny(raw, ";:")
	if nameEnd < 1 {
		return l, false
	}
	name, ok := counted[string(raw[:nameEnd])]
	if !ok {
		if name, ok = counted[strings.ToUpper(strings.TrimSpace(string(raw[:nameEnd])))]; !ok {
			return l, false
		}
	}
	quoted := false
	for i, c := range raw[nameEnd:] {
		switch {
		case c == '"':
			quoted = !quoted
		case c == ':' && !quoted:
			return line{name, string(raw[nameEnd : nameEnd+i]), string(raw[nameEnd+i+1:])}, true
		}
	}
	if at := bytes.IndexByte(raw, ':'); at > 0 { // a quote that is never closed
		return line{name, string(raw[nameEnd:at]), string(raw[at+1:])}, true
	}
	return l, false
}

// param is the first value of a parameter, without quotes.
func (l line) param(name string) string {
	rest := l.params
	for rest != "" {
		rest = rest[1:] // the semicolon
		end, quoted := 0, false
		for end < len(rest) && (quoted || rest[end] != ';') {
			if rest[end] == '"' {
				quoted = !quoted
			}
			end++
		}
		key, value, _ := strings.Cut(rest[:end], "=")
		if strings.EqualFold(strings.TrimSpace(key), name) {
			if strings.HasPrefix(value, `"`) {
				value, _, _ = strings.Cut(value[1:], `"`)
				return value
			}
			value, _, _ = strings.Cut(value, ",")
			return strings.TrimSpace(value)
		}
		rest = rest[end:]
	}
	return ""
}

// decoded is a calendar in UTF-8, without a byte order mark: one in UTF-16 is turned.
func decoded(raw []byte) ([]byte, error) {
	order, utf16 := unicode.LittleEndian, false
	switch {
	case bytes.HasPrefix(raw, []byte("\xff\xfe")), bytes.HasPrefix(raw, []byte("B\x00E\x00")):
		utf16 = true
	case bytes.HasPrefix(raw, []byte("\xfe\xff")), bytes.HasPrefix(raw, []byte("\x00B\x00E")):
		order, utf16 = unicode.BigEndian, true
	}
	if !utf16 {
		return bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf")), nil
	}
	text, err := unicode.UTF16(order, unicode.UseBOM).NewDecoder().Bytes(raw)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", calendar.ErrBrokenOff, err)
	}
	return bytes.TrimPrefix(text, []byte("\xef\xbb\xbf")), nil
}

// kept is text as it can be kept and shown: valid, without NUL, of a sensible length.
func kept(s string, most int) string {
	s = strings.TrimSpace(strings.ReplaceAll(strings.ToValidUTF8(unescape(s), string(utf8.RuneError)), "\x00", ""))
	if runes := []rune(s); len(s) > most && len(runes) > most {
		return string(runes[:most])
	}
	return s
}
