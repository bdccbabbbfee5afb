// Package mail writes invitations as mails and hands them over (RFC 5321,
// 6047), and takes the answers that mail programs send.
package mail

import (
	"bytes"
	"embed"
	htmltemplate "html/template"
	"strings"
	texttemplate "text/template"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
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
	Headline string
	When     string // in the recipient's zone when known, else the meeting's
	Zone     string // the city of that zone
	AlsoWhen string // in the organiser's zone, where it differs
	Where    string
	// Dates are those of a series one by one; MoreDates says how many follow.
	Dates     []dateLine
	MoreDates string
	Until     string // where a series ends
	room      *meeting.Room
	Changed   string
	Word      string
	Card      htmltemplate.HTML
	CardText  string
	Names     string
	OnSheet   bool // the meeting goes on: there is something to answer
}

// Render writes a letter as its reader sees it.
func Render(l schedule.Letter) (schedule.Rendered, error) {
	p := newPage(l)
	var html, text bytes.Buffer
	if err := asHTML.Execute(&html, p); err != nil {
		return schedule.Rendered{}, err
	}
	if err := asText.Execute(&text, p); err != nil {
		return schedule.Rendered{}, err
	}
	calendar, err := ical.Write(l)
	return schedule.Rendered{Subject: p.subject(), HTML: html.String(), Text: text.String(), Calendar: calendar}, err
}

func newPage(l schedule.Letter) page {
	m := l.Meeting
	span, own := m.Span(), m.StartIn().Zone
	zone := own
	if z, err := when.LoadZone(l.To.Zone); err == nil {
		zone = z
	}
	p := page{Letter: l, When: zone.Words(span), Zone: zone.City(), OnSheet: l.Kind != meeting.CallOff, room: m.Room}
	if zone.OffsetAt(span.Start) != own.OffsetAt(span.Start) || zone.OffsetAt(span.End) != own.OffsetAt(span.End) {
		p.AlsoWhen = own.Words(span) + " in " + own.City()
	}
	if m.Repeats() {
		p.series(l, zone)
		p.AlsoWhen = ""
		if zone.OffsetAt(span.Start) != own.OffsetAt(span.Start) {
			p.AlsoWhen = "the times of the meeting are those of " + own.City()
		}
	}
	who := m.Organiser.Name + ", " + l.House.Name + ","
	switch l.Kind {
	case meeting.Invite:
		p.Headline = who + " invites you"
	case meeting.Update:
		p.Headline = who + " changed this meeting"
		p.Changed = l.Words
	case meeting.CallOff:
		p.Headline = who + " called this meeting off"
		if len(l.On) > 0 {
			p.Headline = who + " called off " + datesCount(len(l.On)) + " of this meeting; the others go on"
		}
		if _, invited := m.Participant(l.To.ID); !invited {
			p.Headline = who + " took you off the list; the meeting goes on without you"
		} else {
			p.Word = l.Words
		}
	}
	if p.room != nil {
		p.Where = p.room.Name + ", " + p.room.Place
	}
	if m.Card != nil && p.OnSheet {
		p.Card, p.CardText = m.Card.HTML(), m.Card.Text()
	}
	names := []string{m.Organiser.Name + " (organiser)"}
	for _, x := range m.Participants {
		name := x.Name
		if !x.Needed {
			name += " (optional)"
		}
		names = append(names, name)
	}
	p.Names = strings.Join(names, ", ")
	return p
}

// Heading is when it is, as a sentence begins.
func (p page) Heading() string { return strings.ToUpper(p.When[:1]) + p.When[1:] }

// Struck tells whether all of the meeting is off.
func (p page) Struck() bool { return p.Kind == meeting.CallOff && len(p.On) == 0 }

func (p page) subject() string {
	word := map[meeting.Kind]string{meeting.Invite: "Invitation", meeting.Update: "Changed", meeting.CallOff: "Called off"}[p.Kind]
	if p.Kind == meeting.CallOff && p.Word == "" {
		if _, invited := p.Meeting.Participant(p.To.ID); !invited {
			word = "No longer needed"
		}
	}
	return word + ": " + p.Meeting.Title + ", " + p.When + " " + p.Zone + " time"
}
