// Package mail writes invitations as mails and hands them over (RFC 5321,
// 6047), and takes the answers that mail programs send.
package mail

import (
	"bytes"
	"embed"
	htmltemplate "html/template"
	"strings"
	texttemplate "text/template"
	"unicode"
	"unicode/utf8"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/ical"
	"jembro/internal/schedule"
)

//go:embed templates
var templates embed.FS

var (
	asHTML = htmltemplate.Must(htmltemplate.ParseFS(templates, "templates/letter.html"))
	asText = texttemplate.Must(texttemplate.ParseFS(templates, "templates/letter.txt"))
)

// page is what the templates show.
type page struct {
	schedule.Letter
	T        tongue.Tongue // of its reader
	Headline string
	// Title and Body are those of the meeting, or of the one date that it is about.
	Title, Body string
	When        string // in the recipient's zone when known, else the meeting's
	Zone        string // "Lisbon time", "" for whole days
	AlsoWhen    string // in the organiser's zone, where it differs
	Where       string
	// Dates are those of a series one by one; MoreDates says how many follow.
	Dates     []dateLine
	MoreDates string
	Until     string // where a series ends
	room      *meeting.Room
	counted   bool // When is a count of dates
	Changed   string
	Word      string
	Aside     string // what a note to the calendar says to its reader
	Card      htmltemplate.HTML
	CardText  string
	Names     string
	Files     []fileLine
	OnSheet   bool // the meeting goes on: there is something to answer
}

// fileLine is a file that goes with the meeting.
type fileLine struct{ Name, Size, URL string }

// Render writes a letter as its reader sees it.
func Render(l schedule.Letter) (schedule.Rendered, error) {
	html, text, subject, err := render(l)
	if err != nil {
		return schedule.Rendered{}, err
	}
	calendar, err := ical.Write(l)
	return schedule.Rendered{Subject: subject, HTML: html, Text: text, Calendar: calendar}, err
}

func render(l schedule.Letter) (html, text, subject string, err error) {
	p := newPage(l)
	var h, t bytes.Buffer
	if err = asHTML.Execute(&h, p); err == nil {
		err = asText.Execute(&t, p)
	}
	return h.String(), t.String(), p.subject(), err
}

// PassOn writes what a letter says as somebody passes it on by hand.
func PassOn(l schedule.Letter) string {
	var text bytes.Buffer
	asText.Execute(&text, newPage(l)) // into memory: it fails for no letter that Render takes
	return strings.TrimSpace(text.String())
}

func newPage(l schedule.Letter) page {
	m := l.Meeting
	span, own := m.Span(), m.StartIn().Zone
	zone := own
	if z, err := when.LoadZone(l.To.Zone); err == nil {
		zone = z
	}
	t := l.Tongue()
	p := page{Letter: l, T: t, Title: m.Title, Body: m.Text, When: words.When(t, m, span, zone), Zone: t.Say("%s time", t.City(zone)), OnSheet: ical.Method(l) == "REQUEST" || l.Kind == meeting.Remind, room: m.Room}
	if m.AllDay {
		zone, p.Zone = own, ""
	}
	if zone.OffsetAt(span.Start) != own.OffsetAt(span.Start) || zone.OffsetAt(span.End) != own.OffsetAt(span.End) {
		p.AlsoWhen = t.Say("%[1]s in %[2]s", t.Span(own, span), t.City(own))
	}
	if m.Repeats() {
		p.series(l, zone)
		p.AlsoWhen = ""
		if zone.OffsetAt(span.Start) != own.OffsetAt(span.Start) {
			p.AlsoWhen = t.Say("the times of the meeting are those of %s", t.City(own))
		}
	}
	who := m.Organiser.Name + ", " + l.House.Name + ","
	switch l.Kind {
	case meeting.Invite:
		p.Headline = t.Say("%s invites you", who)
		switch {
		case l.Words != "":
			p.Headline = who + " " + l.Words
		case len(l.Earlier) > 0:
			p.Headline = t.Say("%s asks you again whether you come", who)
		}
	case meeting.Remind:
		if p.Headline = t.Say("%s reminds you of this meeting", who); l.Own || l.Wished {
			p.Headline = t.Say("You wanted to be reminded of this meeting")
		}
	case meeting.Keep:
		p.Headline = t.Say("%s keeps the time of this meeting; another one was proposed", who)
		p.Word = l.Words
	case meeting.Update:
		p.Headline = t.Say("%s changed this meeting", who)
		p.Changed = l.Words
	case meeting.CallOff:
		p.Headline = t.Say("%s called this meeting off", who)
		if len(l.On) > 0 && !l.OffAll && !l.To.Single {
			p.Headline = t.Say("%[1]s called off %[2]s of this meeting; the others go on", who, t.Say("%d dates", len(l.On)))
		}
		if p.left() {
			p.Headline = t.Say("%s took you off the list; the meeting goes on without you", who)
		} else {
			p.Word = l.Words
		}
	case meeting.Clear:
		p.Headline = t.Say("%s changed this meeting; these dates, as your calendar had them, no longer hold", who)
		p.Aside = t.Say("You need do nothing. How the meeting goes on stands in the message before this one.")
	}
	if p.room != nil {
		p.Where = p.room.Name + ", " + p.room.Place
	}
	if m.Card != nil && p.OnSheet {
		p.Card, p.CardText = m.Card.HTML(l.CardReader()), m.Card.Text(l.CardReader())
	}
	for _, f := range m.Files {
		p.Files = append(p.Files, fileLine{f.Name, attachment.Size(f.Size), l.FileURL(f)})
	}
	names := []string{t.Say("%s (organiser)", m.Organiser.Name)}
	for _, x := range m.Participants {
		name := x.Name
		if !x.Needed {
			name = t.Say("%s (optional)", name)
		}
		names = append(names, name)
	}
	p.Names = strings.Join(names, ", ")
	return p
}

// Asks tells whether there is something to answer.
func (p page) Asks() bool { return p.OnSheet && p.GuestURL != "" }

// Heading is when it is, as a sentence begins.
func (p page) Heading() string {
	first, size := utf8.DecodeRuneInString(p.When)
	return string(unicode.ToUpper(first)) + p.When[size:]
}

// Code is the language of the letter.
func (p page) Code() string { return p.T.Code() }

// Say is a sentence in it.
func (p page) Say(id string, args ...any) string { return p.T.Say(id, args...) }

// Struck tells whether all of the meeting is off.
func (p page) Struck() bool {
	return p.Kind == meeting.CallOff && (len(p.On) == 0 || p.To.Single || p.OffAll)
}

// left tells whether the meeting goes on without the reader: they are taken off, and
// the date that is all they knew of is not called off for everybody.
func (p page) left() bool {
	return !p.OffAll && p.Meeting.GoesOnWithout(p.To) && p.Meeting.GoesOnWithout(p.To, p.On...)
}

func (p page) subject() string {
	if p.Subject != "" {
		return p.Subject
	}
	word := map[meeting.Kind]string{meeting.Invite: "Invitation", meeting.Update: "Changed", meeting.CallOff: "Called off", meeting.Clear: "Replaced", meeting.Keep: "Stays as it is", meeting.Remind: "Reminder"}[p.Kind]
	if p.Kind == meeting.CallOff && p.left() {
		word = "No longer needed"
	}
	word = p.T.Say(word)
	if p.counted {
		return word + ": " + p.Title + ", " + p.When
	}
	return strings.TrimSpace(word + ": " + p.Title + ", " + p.When + " " + p.Zone)
}
