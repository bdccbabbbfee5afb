package typed

import (
	"net/mail"
	"net/url"
	"regexp"
	"strings"
)

// Somebody is one of those typed or pasted as people: a name, an address or both. Text
// is what stood there.
type Somebody struct{ Name, Email, Text string }

// PeopleLimit is how many people are read from one text.
const PeopleLimit = 500

// People reads a list as it is typed or pasted from a mail, a table or a page: names
// and addresses separated by commas, semicolons, tabs and line breaks, with names before
// their addresses or behind them (RFC 5322, 3.4 and 3.2.2), mailto: addresses (RFC 6068),
// and the members of a group. What is none of that is a name.
func People(text string) []Somebody {
	var out []Somebody
	add := func(item string) {
		for _, s := range somebody(item) {
			if len(out) < PeopleLimit {
				out = append(out, s)
			}
		}
	}
	var lines []string
	for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r", "\n"), "\n") {
		lines = append(lines, split(line, ";")...)
	}
	for _, line := range lines {
		line = withoutGroup(strings.TrimSpace(line))
		if cells := split(line, "\t"); len(cells) > 1 {
			addRow(cells, add)
			continue
		}
		// "Duarte, Ana <ana@…>" is one person where line breaks or semicolons separate.
		if len(lines) > 1 && strings.Count(line, "<") == 1 && strings.HasSuffix(line, ">") && strings.Count(line, ",") == 1 && !strings.Contains(line[:strings.Index(line, "<")], "@") {
			add(line)
			continue
		}
		for _, item := range split(line, ",") {
			add(item)
		}
	}
	return out
}

// addRow reads a line of a table: one address and what stands beside it are one person.
func addRow(cells []string, add func(string)) {
	address := -1
	for i, c := range cells {
		if strings.Contains(c, "@") {
			if address >= 0 {
				address = -2
				break
			}
			address = i
		}
	}
	if address < 0 {
		for _, c := range cells {
			add(c)
		}
		return
	}
	for i, c := range cells {
		if c = strings.TrimSpace(c); i != address && c != "" {
			add(`"` + strings.ReplaceAll(c, `"`, "") + `" <` + strings.Trim(strings.TrimSpace(cells[address]), "<>") + ">")
			return
		}
	}
	add(cells[address])
}

// split cuts a text at signs that stand outside of quotes, angle brackets and round
// ones. A quote that is not closed is none.
func split(text, signs string) (out []string) {
	var quoted bool
	var angle, round, from int
	for i, r := range text {
		switch {
		case r == '"' && (quoted || strings.Contains(text[i+1:], `"`)):
			quoted = !quoted
		case quoted:
		case r == '<' && strings.Contains(text[i:], ">"):
			angle++
		case r == '>' && angle > 0:
			angle--
		case r == '(' && strings.Contains(text[i:], ")"):
			round++
		case r == ')' && round > 0:
			round--
		case angle == 0 && round == 0 && strings.ContainsRune(signs, r):
			out = append(out, text[from:i])
			from = i + 1
		}
	}
	return append(out, text[from:])
}

var group = regexp.MustCompile(`^[^@<>",:]{1,100}:\s*(\S*@.*)?$`)

// withoutGroup takes the name of a group off its members, and "To:" off a header.
func withoutGroup(line string) string {
	if group.MatchString(line) && !strings.HasPrefix(strings.ToLower(line), "mailto:") {
		return strings.TrimSpace(line[strings.IndexByte(line, ':')+1:])
	}
	return line
}

var comment = regexp.MustCompile(`^\s*(\S+@\S+)\s*\(([^()]*)\)\s*$`)

func somebody(item string) []Somebody {
	item = strings.TrimSpace(item)
	if item == "" {
		return nil
	}
	if rest, ok := cutFold(item, "mailto:"); ok {
		return mailto(rest, item)
	}
	if m := comment.FindStringSubmatch(item); m != nil {
		return []Somebody{{Name: clean(m[2]), Email: m[1], Text: item}}
	}
	if open := strings.LastIndexByte(item, '<'); open >= 0 && strings.HasSuffix(item, ">") {
		email := strings.TrimSpace(item[open+1 : len(item)-1])
		if rest, ok := cutFold(email, "mailto:"); ok {
			email, _, _ = strings.Cut(rest, "?")
		}
		name := item[:open]
		if parsed, err := mail.ParseAddress(item); err == nil {
			name = parsed.Name
		}
		return []Somebody{{Name: clean(name), Email: email, Text: item}}
	}
	words := strings.Fields(item)
	var out []Somebody
	var name []string
	for _, w := range words {
		if !strings.Contains(w, "@") {
			name = append(name, w)
			continue
		}
		// "Ana Duarte ana@firm.example", and addresses with blanks between them
		out = append(out, Somebody{Name: clean(strings.Join(name, " ")), Email: strings.Trim(w, "<>,;"), Text: item})
		name = nil
	}
	if len(out) == 0 || len(name) > 0 {
		left := clean(strings.Join(name, " "))
		if left != "" {
			out = append(out, Somebody{Name: left, Text: left})
		}
	}
	return out
}

// mailto reads the addresses of a mailto: address (RFC 6068, 2); what follows the
// question mark is of a letter.
func mailto(rest, item string) (out []Somebody) {
	rest, _, _ = strings.Cut(rest, "?")
	for _, one := range strings.Split(rest, ",") {
		if email, err := url.PathUnescape(strings.TrimSpace(one)); err == nil && email != "" {
			out = append(out, Somebody{Email: email, Text: item})
		}
	}
	return out
}

func cutFold(s, prefix string) (string, bool) {
	if len(s) < len(prefix) || !strings.EqualFold(s[:len(prefix)], prefix) {
		return s, false
	}
	return s[len(prefix):], true
}

// clean is a name without its quotes and the white space around it.
func clean(name string) string {
	name = strings.TrimSpace(name)
	if len(name) > 1 && name[0] == '"' && name[len(name)-1] == '"' {
		name = strings.NewReplacer(`\"`, `"`, `\\`, `\`).Replace(name[1 : len(name)-1])
	}
	return strings.Trim(strings.TrimSpace(name), `"',;`)
}
