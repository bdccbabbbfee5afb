package join

import (
	"cmp"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"github.com/nyaruka/phonenumbers"
	"golang.org/x/text/language"

	"jembro/internal/core/tongue"
)

// Reader is who reads a card: the country they call from (ISO 3166-1 alpha-2, "" where it is
// not known), whether they are from outside, and whether they organise the meeting.
type Reader struct {
	Country            string
	Outside, Organiser bool
	Tongue             tongue.Tongue // English where it is not said
}

// URI is what a telephone dials by itself: the number, pauses and the PIN, as RFC 7986, 5.11
// shows it. RFC 3966 knows no comma; telephones do.
func (p Phone) URI() string {
	if p.PIN == "" {
		return "tel:" + p.Number
	}
	return "tel:" + p.Number + ",," + p.PIN + "%23"
}

// Words is the number as it is written for people all over the world, with spaces alone
// (ITU-T E.123).
func (p Phone) Words() string {
	n, err := phonenumbers.Parse(p.Number, "")
	if err != nil {
		return p.Number
	}
	return strings.ReplaceAll(phonenumbers.Format(n, phonenumbers.INTERNATIONAL), "-", " ")
}

// Where is the name of the country of a number in a language, "" where it has none.
func (p Phone) Where(t tongue.Tongue) string {
	r, err := language.ParseRegion(p.Country)
	if err != nil {
		return ""
	}
	return t.Region(r)
}

// Near are the phones of the reader's country, and all others by the name of the country.
// Where the reader's country has none, or is not known, the first of all is near.
func (c Card) Near(r Reader) (near, far []Phone) {
	for _, p := range c.Phones {
		if r.Country != "" && p.Country == r.Country {
			near = append(near, p)
		} else {
			far = append(far, p)
		}
	}
	if len(near) == 0 && len(far) > 0 {
		near, far = far[:1:1], slices.Clone(far[1:])
	}
	slices.SortStableFunc(far, func(a, b Phone) int { return cmp.Compare(a.Where(r.Tongue), b.Where(r.Tongue)) })
	return near, far
}

// Line is one labelled line of a card; Link, where there is one, is what a press on it opens. Way is
// set for the link of the call, Phone for a number to dial.
type Line struct {
	Label, Value, Link string
	Way, Phone         bool
}

// Lines are the lines of a card that have something to say to its reader, in reading order,
// but for the phones of other countries.
func (c Card) Lines(r Reader) (out []Line) {
	add := func(label, value, link string) {
		if value != "" {
			out = append(out, Line{Label: r.Tongue.Say(label), Value: value, Link: link, Way: label == "Link" && link != "", Phone: label == "By phone"})
		}
	}
	if c.Follows {
		add("Link", r.Tongue.Say("follows by itself; you get it as soon as it is made"), "")
		return out
	}
	add("Link", c.URL, c.URL)
	add("Number", c.Number, "")
	add("Passcode", c.Passcode, "")
	near, _ := c.Near(r)
	for _, p := range near {
		add("By phone", p.dial(r.Tongue), p.URI())
	}
	add("SIP", c.SIP, c.SIP)
	if r.Organiser {
		add("Organiser's PIN", hashed(c.HostPIN), "")
	}
	for _, words := range c.DoorLines(r) {
		add("Door", words, "")
	}
	return out
}

// DoorLines say what the reader has to expect at the door.
func (c Card) DoorLines(r Reader) []string {
	if c.Door == (Door{}) && c.DoorWords != "" {
		return []string{c.DoorWords}
	}
	lines := c.Door.Words(r.Outside)
	for i := range lines {
		lines[i] = r.Tongue.Say(lines[i])
	}
	return lines
}

func hashed(pin string) string {
	if pin == "" {
		return ""
	}
	return pin + "#"
}

// dial is a phone with what to key in afterwards: "+81 3-4578-0119 (Japan), PIN 48219077#".
func (p Phone) dial(t tongue.Tongue) string {
	words := p.Words()
	if where := p.Where(t); where != "" {
		words += " (" + where + ")"
	}
	if p.PIN != "" {
		words += ", PIN " + p.PIN + "#"
	}
	return words
}

// Heading is what the card is called in a language: by the name of its provider, if it has one.
func (c Card) Heading(t tongue.Tongue) string {
	if c.Name == "" {
		return t.Say("Join the call")
	}
	return t.Say("Join by %s", c.Name)
}

// Text is the card as plain text, lines end with \n; it can be pasted anywhere.
func (c Card) Text(r Reader) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", c.Heading(r.Tongue))
	for _, l := range c.Lines(r) {
		fmt.Fprintf(&b, "%s: %s\n", l.Label, l.Value)
	}
	_, far := c.Near(r)
	if len(far) > 0 {
		b.WriteString(r.Tongue.Say("By phone from elsewhere:") + "\n")
	}
	for _, p := range far {
		fmt.Fprintf(&b, "%s\n", p.dial(r.Tongue))
	}
	return b.String()
}

// Chat is the card in one line, for a chat.
func (c Card) Chat(r Reader) string {
	var parts []string
	add := func(says, value string) {
		if value != "" {
			if says != "" {
				value = r.Tongue.Say(says, value)
			}
			parts = append(parts, value)
		}
	}
	add("", c.URL)
	if c.URL == "" {
		add("number %s", c.Number)
	}
	add("passcode %s", c.Passcode)
	if near, _ := c.Near(r); len(near) > 0 {
		add("by phone %s", near[0].Number+hashedAfter(near[0].PIN))
	} else if c.URL == "" {
		add("", c.SIP)
	}
	return strings.Join(parts, " · ")
}

func hashedAfter(pin string) string {
	if pin == "" {
		return ""
	}
	return ", PIN " + pin + "#"
}

// view is what the card's HTML shows.
type view struct {
	Card
	Heading, Elsewhere string
	Lines              []Line
	Far                []string
}

var cardHTML = template.Must(template.New("card").Parse(
	`<table role="presentation" cellpadding="0" cellspacing="0" style="border-left:4px solid #6b3f63;background:#f4f1ea;padding:10px 14px;font-size:14px;line-height:1.5">` +
		`<tr><td colspan="2" style="font-weight:bold;padding-bottom:4px">{{.Heading}}</td></tr>` +
		`{{range .Lines}}<tr><td style="color:#5a6668;padding-right:14px;vertical-align:top;white-space:nowrap">{{.Label}}</td>` +
		`<td>{{if .Way}}<a href="{{.Link}}" style="color:#17594a">{{$.ShortURL}}</a>{{else}}{{.Value}}{{end}}</td></tr>{{end}}` +
		`{{with .Far}}<tr><td style="color:#5a6668;padding-right:14px;vertical-align:top">{{$.Elsewhere}}</td><td style="font-size:12px;color:#5a6668">` +
		`{{range $i, $p := .}}{{if $i}}<br>{{end}}{{$p}}{{end}}</td></tr>{{end}}</table>`))

// HTML is the card for a mail: one table, styled inline, no pictures. Everything that came
// from outside is escaped; a link that is neither http nor https is not made clickable.
func (c Card) HTML(r Reader) template.HTML {
	v := view{Card: c, Heading: c.Heading(r.Tongue), Elsewhere: r.Tongue.Say("Elsewhere"), Lines: c.Lines(r)}
	_, far := c.Near(r)
	for _, p := range far {
		v.Far = append(v.Far, p.dial(r.Tongue))
	}
	var b strings.Builder
	if err := cardHTML.Execute(&b, v); err != nil {
		return "" // not reached: the template knows the fields
	}
	return template.HTML(b.String())
}
