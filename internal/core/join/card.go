// Package join holds join cards: everything a person needs to get into a call,
// and how it is written for people.
package join

import (
	"fmt"
	"html/template"
	"net/url"
	"strings"
	"time"
)

// Card is what gets a person into the call. URL is the only field that is
// always there; the others are empty when the provider has no such thing.
type Card struct {
	Provider string `json:"provider"` // the provider's key, "ostrel"
	Name     string `json:"name"`     // as people call it, "Ostrel"
	RemoteID string `json:"remoteId"` // the provider's own name for the call
	URL      string `json:"url"`
	Number   string `json:"number,omitempty"`
	Passcode string `json:"passcode,omitempty"`
	// Door says who has to wait before being let in.
	Door string `json:"door,omitempty"`
	// LimitMinutes is when the provider's plan ends a call, 0 when it does not.
	LimitMinutes int `json:"limitMinutes,omitempty"`
	// GoodUntil is when the link stops working, zero when it does not.
	GoodUntil time.Time `json:"goodUntil,omitzero"`
	// Owner is in whose account it was made, by their ID, where that is not who organises
	// the meeting.
	Owner string `json:"owner,omitempty"`
}

// Line is one labelled line of a card.
type Line struct{ Label, Value string }

// Lines are the lines of a card that have something to say, in reading order.
func (c Card) Lines() []Line {
	all := []Line{{"Link", c.URL}, {"Number", c.Number}, {"Passcode", c.Passcode}, {"Door", c.Door}}
	var out []Line
	for _, l := range all {
		if l.Value != "" {
			out = append(out, l)
		}
	}
	return out
}

// ShortURL is the link as it is read aloud: without the scheme.
func (c Card) ShortURL() string {
	u, err := url.Parse(c.URL)
	if err != nil || u.Host == "" {
		return c.URL
	}
	return u.Host + u.RequestURI()
}

// Text is the card as plain text, lines end with \n; it can be pasted anywhere.
func (c Card) Text() string {
	var b strings.Builder
	fmt.Fprintf(&b, "Join by %s\n", c.Name)
	for _, l := range c.Lines() {
		fmt.Fprintf(&b, "%s: %s\n", l.Label, l.Value)
	}
	return b.String()
}

var cardHTML = template.Must(template.New("card").Parse(
	`<table role="presentation" cellpadding="0" cellspacing="0" style="border-left:4px solid #6b3f63;background:#f4f1ea;padding:10px 14px;font-size:14px;line-height:1.5">` +
		`<tr><td colspan="2" style="font-weight:bold;padding-bottom:4px">Join by {{.Name}}</td></tr>` +
		`{{range .Lines}}<tr><td style="color:#5a6668;padding-right:14px;vertical-align:top">{{.Label}}</td>` +
		`<td>{{if eq .Label "Link"}}<a href="{{$.URL}}" style="color:#17594a">{{$.ShortURL}}</a>{{else}}{{.Value}}{{end}}</td></tr>{{end}}</table>`))

// HTML is the card for a mail: one table, styled inline, no pictures.
// Everything that came from outside is escaped; a link that is neither http nor
// https is not made clickable.
func (c Card) HTML() template.HTML {
	var b strings.Builder
	if err := cardHTML.Execute(&b, c); err != nil {
		return "" // not reached: the template knows the fields
	}
	return template.HTML(b.String())
}

// Exceeds tells whether a meeting of that length outlasts the provider's plan.
func (c Card) Exceeds(length time.Duration) bool {
	return c.LimitMinutes > 0 && length > time.Duration(c.LimitMinutes)*time.Minute
}
