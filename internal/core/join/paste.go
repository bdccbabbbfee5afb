package join

import (
	"iter"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/nyaruka/phonenumbers"
)

// Pasted is what a text says about a call: an invitation in any wording, or just a link.
// It is read by rules of form and by the words of the trade in several languages (common
// practice, no source), never by the names of services.
type Pasted struct {
	URL      string  `json:"url,omitempty"`
	Number   string  `json:"number,omitempty"` // the call's own, as it is written
	Passcode string  `json:"passcode,omitempty"`
	Phones   []Phone `json:"phones,omitempty"`
	SIP      string  `json:"sip,omitempty"` // RFC 3261, 19.1: "sip:48219077@bridge.example"
	// Others are further links into a call.
	Others []string `json:"others,omitempty"`
}

// Phone is a number to dial. Number is in E.164 form, Country in ISO 3166-1 alpha-2, PIN the
// digits to key in afterwards, without the # that ends them.
type Phone struct {
	Number  string `json:"number"`
	Country string `json:"country,omitempty"`
	PIN     string `json:"pin,omitempty"`
}

// MostPasted is how many bytes of a text are read.
const MostPasted = 256 << 10

// Read gives what a text says about a call, and whether it says anything.
func Read(text string) (Pasted, bool) {
	text = strings.ToValidUTF8(text[:min(len(text), MostPasted)], "")
	var p Pasted
	links := Links(text)
	if len(links) == 0 {
		links = bareLinks(text, nil)
	}
	var plain string // without what has been read; everything else keeps its place
	p.SIP, plain = readSIP(blanked(text, links))
	words := readWords(plain)
	phones, rest := readPhones(plain, words)
	said := readLabels(rest, words, phones)
	p.Number, p.Passcode = said.number, said.passcode
	for _, f := range phones {
		if f.PIN != "" || f.dialled || f.phone && !f.own && p.Number != "" {
			p.addPhone(f.Phone)
		}
	}
	p.chooseLinks(plain, links, words)
	if p.URL == "" && p.SIP == "" && len(p.Phones) == 0 {
		return Pasted{}, false
	}
	return p, true
}

func (p *Pasted) addPhone(f Phone) {
	at := slices.IndexFunc(p.Phones, func(have Phone) bool { return have.Number == f.Number })
	switch {
	case at < 0:
		p.Phones = append(p.Phones, f)
	case p.Phones[at].PIN == "":
		p.Phones[at].PIN = f.PIN
	}
}

// blanked is a text with spaces in place of its links, line breaks inside them too.
func blanked(text string, links []Link) string {
	out := []byte(text)
	for _, l := range links {
		blank(out[l.At:l.End])
	}
	return string(out)
}

func blank(b []byte) {
	for i := range b {
		b[i] = ' '
	}
}

var sipAddress = regexp.MustCompile(`^(?i)(sips?):[ \t]*([a-z0-9._~+%*-]+@[a-z0-9.\[\]:-]*[a-z0-9\]])`)

// longestSIP is how far before its @ an address can begin, in bytes.
const longestSIP = 200

// readSIP gives the first SIP address of a text whose links are blanked out, and the text
// without any of them.
func readSIP(text string) (address, rest string) {
	all := sipAddresses(text)
	if len(all) == 0 {
		return "", text
	}
	out := []byte(text)
	for _, w := range all {
		blank(out[w.At:w.End])
	}
	return all[0].Address, string(out)
}

// sipAddresses are the SIP addresses of a text.
func sipAddresses(text string) (out []Way) {
	last := 0
	for at := range len(text) {
		if text[at] != '@' {
			continue
		}
		from := max(last, at-longestSIP)
		colon := from + strings.LastIndexByte(text[from:at], ':')
		for _, scheme := range []string{"sips", "sip"} {
			begins := colon - len(scheme)
			if begins < from || begins > 0 && isWord(text[begins-1]) {
				continue
			}
			m := sipAddress.FindStringSubmatchIndex(text[begins:min(len(text), at+256)])
			if m == nil || begins+m[1] <= at {
				continue
			}
			last = begins + m[1]
			out = append(out, Way{begins, last, strings.ToLower(text[begins+m[2]:begins+m[3]]) + ":" + text[begins+m[4]:begins+m[5]]})
			break
		}
	}
	return out
}

// found is a phone number in its place.
type found struct {
	Phone
	at, end int // in the text
	line    int
	dialled bool // the text says that one dials it for the call
	phone   bool // the text says that it is a phone number
	own     bool // the text says that it is somebody's own
}

var (
	phoneForm = regexp.MustCompile(`^(?:\+|00)[1-9](?:[ \t\x{a0}]?[().\-/\x{2010}-\x{2013}]?[ \t\x{a0}]?[(]?\d){6,16}`)
	// oneTap is what follows a number that a telephone dials by itself: pauses, digits, #.
	oneTap = regexp.MustCompile(`^[ \t]*(?:,+|x|ext\.?|;+(?:ext=|postd=)?|p+|w+|(?:%2[cC])+)[ \t]*p*(\d[\d \t-]*)(?:#|%23)?(?:(?:,|%2[cC]|p)+\*?\d+(?:#|%23)?)*`)
)

// mostPhones is how many phone numbers are read.
const mostPhones = 200

// readPhones gives the phone numbers of a text, and the text without them. Only numbers in
// the international form are taken: for any other the country would be a guess.
func readPhones(text string, words hits) (all []*found, rest string) {
	out := []byte(text)
	dial := slices.IndexFunc(words, func(h hit) bool { return h.kind == dialWord })
	read := map[string]Phone{}
	line, counted := 0, 0
	for at := 0; at < len(text) && len(all) < mostPhones; at++ {
		if text[at] != '+' && (text[at] != '0' || at > 0 && isWord(text[at-1])) {
			continue
		}
		if !mayDial(text[at:]) {
			continue
		}
		start := at
		m := phoneForm.FindStringIndex(text[start:min(len(text), start+60)])
		if m == nil {
			continue
		}
		end := start + m[1]
		written := strings.Replace(text[start:end], "(0)", "", 1) // +44 (0)20: the 0 is for dialling inside
		written = "+" + digits(strings.TrimPrefix(written, "00"))
		phone, known := read[written]
		if !known {
			parsed, err := phonenumbers.Parse(written, "")
			if err == nil && phonenumbers.IsPossibleNumber(parsed) {
				phone = Phone{Number: phonenumbers.Format(parsed, phonenumbers.E164), Country: countryOf(parsed)}
			}
			read[written] = phone
		}
		if phone.Number == "" {
			continue
		}
		line += strings.Count(text[counted:start], "\n")
		counted = start
		f := &found{Phone: phone, at: start, line: line}
		begins := max(0, start-60)
		begins += strings.LastIndexByte(text[begins:start], '\n') + 1
		said := words.in(begins, start)
		f.own, f.phone = said&ownWord != 0, said&phoneWord != 0
		f.dialled = dial >= 0 && words[dial].at < end+80 && !f.own
		if tap := oneTap.FindStringSubmatchIndex(text[end:min(len(text), end+200)]); tap != nil {
			f.PIN = digits(text[end+tap[2] : end+tap[3]])
			end += tap[1]
		}
		blank(out[start:end])
		f.end = end
		all = append(all, f)
		at = end - 1
	}
	return all, string(out)
}

// ReadPhone is a phone number as somebody writes it, in E.164 form, with what to key in after
// it. A number without a country code is one of the country. It fails where it is no number.
func ReadPhone(number, country, pin string) (Phone, error) {
	n, err := phonenumbers.Parse(number, country)
	if err == nil && !phonenumbers.IsPossibleNumber(n) {
		err = phonenumbers.ErrNotANumber
	}
	if err != nil {
		return Phone{}, err
	}
	p := Phone{Number: phonenumbers.Format(n, phonenumbers.E164), Country: country, PIN: digits(pin)}
	if len(country) != 2 {
		p.Country = countryOf(n)
	}
	return p, nil
}

// mayDial tells at a glance whether a phone number can begin here.
func mayDial(text string) bool {
	at := 1
	if text[0] == '0' {
		if len(text) < 2 || text[1] != '0' {
			return false
		}
		at = 2
	}
	return len(text) > at && text[at] >= '1' && text[at] <= '9'
}

func countryOf(n *phonenumbers.PhoneNumber) string {
	c := phonenumbers.GetRegionCodeForNumber(n)
	if c == "" { // in a range that is not given out
		c = phonenumbers.GetRegionCodeForCountryCode(int(n.GetCountryCode()))
	}
	if len(c) != 2 || c == "ZZ" { // 001: of the whole world
		return ""
	}
	return c
}

func digits(s string) string {
	return strings.Map(func(r rune) rune {
		if r < '0' || r > '9' {
			return -1
		}
		return r
	}, s)
}

var isNumber = regexp.MustCompile(`^(\d(?:[ \x{a0}-]?\d){3,19})[ \t]*#?(?:[ \t.,]|$)`)

// said is what a text says under labels.
type said struct{ number, passcode, access string }

// isKeyed is what one keys in on a telephone: digits that # ends.
var isKeyed = regexp.MustCompile(`^(\d(?:[ -]?\d){2,15})[ ]?#`)

// readLabels reads the labelled values of a text whose links and phone numbers are blanked
// out, and gives the PINs to the phones that they belong to.
func readLabels(text string, words hits, phones []*found) (s said) {
	waiting := ""    // a PIN on a line of its own
	var pending kind // of a label whose value stands on the next line
	begins := 0
	for n, line := range strings.Split(text, "\n") {
		for from, to := range parts(line) {
			part := line[from:to]
			label, value := labelled(part)
			kinds := words.in(begins+from, begins+from+label)
			switch {
			case label == 0 || pending != 0 && kinds == 0:
				kinds, value = pending, strings.TrimSpace(part)
			case value == "":
				pending = kinds
				continue
			}
			if value == "" {
				continue
			}
			pending = 0
			if pin := s.take(kinds, value); pin != "" && !pinTo(phones, n, pin) {
				waiting = pin
			}
		}
		begins += len(line) + 1
	}
	switch {
	case s.access == "" || waiting != "":
	case s.number != "" && s.passcode == "":
		s.passcode = s.access
	case len(phones) > 0:
		waiting = s.access
	case s.number == "":
		s.number = s.access
	}
	anyDialled := slices.ContainsFunc(phones, func(f *found) bool { return f.dialled })
	for _, f := range phones {
		if f.PIN == "" && (f.dialled || !anyDialled && !f.own) {
			f.PIN = waiting
		}
	}
	return s
}

// parts are the pieces of a line that can have a label each, as from and to. A remark in
// brackets before a colon belongs to its label.
func parts(line string) iter.Seq2[int, int] {
	return func(yield func(int, int) bool) {
		from := 0
		for at := 0; at < len(line); {
			size := ends(line[at:])
			if size == 2 && line[at+1] == '(' {
				if remark := strings.IndexByte(line[at:min(len(line), at+60)], ')'); remark > 0 && digits(line[at:at+remark]) == "" {
					if rest := strings.TrimLeft(line[at+remark+1:], " "); strings.HasPrefix(rest, ":") || strings.HasPrefix(rest, "：") {
						at += remark + 1
						continue
					}
				}
			}
			if size == 0 {
				at++
				continue
			}
			if at > from && !yield(from, at) {
				return
			}
			at += size
			from = at
		}
		if from < len(line) {
			yield(from, len(line))
		}
	}
}

// ends tells how many bytes at the beginning of s end a piece of a line, 0 for none.
func ends(s string) int {
	switch s[0] {
	case '|', '\t', '\r', '<', '>':
		return 1
	case ',', ';', '.', ')':
		if len(s) == 1 || s[1] == ' ' {
			return min(2, len(s))
		}
	case ' ':
		if len(s) > 1 && (s[1] == ' ' || s[1] == '(') {
			return 2
		}
	case 0xc2, 0xe2, 0xe3, 0xef:
		for _, mark := range []string{"·", "•", "。", "、", "，"} {
			if strings.HasPrefix(s, mark) {
				return len(mark)
			}
		}
	}
	return 0
}

// longestLabel is in bytes.
const longestLabel = 120

// labelled gives where the label of a piece ends, 0 for none, and the value after it: behind a
// colon, or from the first word with a digit on.
func labelled(part string) (label int, value string) {
	if at := colon(part[:min(len(part), longestLabel)]); at > 0 {
		_, size := utf8.DecodeRuneInString(part[at:])
		return at, strings.Trim(part[at+size:], " \t*_\u00a0")
	}
	if at := firstDigit(part); at > 1 && at < longestLabel { // the word that it stands in
		if at = strings.LastIndexByte(part[:at], ' ') + 1; at > 1 {
			return at, strings.TrimSpace(part[at:])
		}
	}
	return 0, ""
}

// colon is where the mark stands that ends a label, -1 for none.
func colon(s string) int {
	for i := range len(s) {
		if s[i] == ':' || s[i] == '=' || s[i] == 0xef && strings.HasPrefix(s[i:], "：") {
			return i
		}
	}
	return -1
}

func firstDigit(s string) int {
	for i := range len(s) {
		if s[i] >= '0' && s[i] <= '9' {
			return i
		}
	}
	return -1
}

// pinTo gives a PIN to the phones of its own line, if there are any.
func pinTo(phones []*found, line int, pin string) (given bool) {
	for _, f := range phones {
		if f.line == line && f.PIN == "" {
			f.PIN, given = pin, true
		}
	}
	return given
}

// take keeps one labelled value, the first of each kind, and gives it back where it is a PIN.
func (s *said) take(label kind, value string) (pin string) {
	number := ""
	if m := isNumber.FindStringSubmatch(value); m != nil {
		number = strings.TrimSpace(m[1])
	}
	keyed := isKeyed.FindStringSubmatch(value)
	switch {
	case label&(hostWord|otherWord) != 0:
	case label&secretWord != 0:
		if s.passcode == "" {
			s.passcode = secret(value)
		}
	case label&pinWord != 0:
		return digits(number)
	case label&accessWord != 0 && label&numberWord == 0 && keyed == nil:
		if number == "" && s.passcode == "" {
			s.passcode = secret(value)
		} else if s.access == "" {
			s.access = number
		}
	case label&numberWord != 0 && s.number == "":
		s.number = number
	case keyed != nil && label&numberWord == 0:
		return digits(keyed[1])
	}
	return ""
}

// secret is a passcode without what ends the sentence around it.
func secret(value string) string {
	first := strings.Fields(value)[0]
	return strings.Trim(strings.TrimRight(first, ".,;"), "\"'“”„«»*`")
}

// chooseLinks sorts the links of a text, that are blanked out in it, into the way in, further ways in, and the rest.
func (p *Pasted) chooseLinks(text string, links []Link, words hits) {
	type candidate struct {
		url   string
		score int
	}
	alone := len(links) == 1 && strings.TrimFunc(text[:links[0].At]+text[links[0].End:], func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) == ""
	told := p.Number != "" || p.Passcode != "" || len(p.Phones) > 0
	var ways []candidate
	type seen struct {
		url  string
		near kind
	}
	known, weighed := map[string]int{}, map[seen]bool{}
	before := 0
	for _, l := range links {
		is := seen{l.URL, near(text, words, before, l.At)}
		before = l.End
		if weighed[is] { // the same again
			continue
		}
		weighed[is] = true
		u := Target(l.URL)
		score := wayIn(u, is.near, p.Number)
		if at, twice := known[u]; twice {
			ways[at].score = max(ways[at].score, score)
			continue
		}
		known[u] = len(ways)
		ways = append(ways, candidate{u, score})
	}
	best := -1
	for i, c := range ways {
		if best < 0 || c.score > ways[best].score {
			best = i
		}
	}
	if best < 0 || ways[best].score < 2 && (ways[best].score < 0 || !alone && !told) {
		return
	}
	p.URL = ways[best].url
	for i, c := range ways {
		if i != best && c.score >= 2 {
			p.Others = append(p.Others, c.url)
		}
	}
}

// near are the kinds of words in front of a link: on its line, or on the line before where its
// own has none. From is where the link before it ends.
func near(text string, words hits, from, link int) kind {
	for end, lines := link, 0; lines < 2 && end > from; {
		begins := from + strings.LastIndexByte(text[from:end], '\n') + 1
		if k := words.in(begins, end) & (wayWord | restWord); k != 0 {
			return k
		}
		if strings.TrimSpace(text[begins:end]) != "" {
			lines++
		}
		end = begins - 1
	}
	return 0
}
