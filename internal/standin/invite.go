package standin

import (
	"errors"
	"fmt"
	"net/http"
	"net/mail"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"
)

// Outside is a meeting that somebody outside organises. To is where the invitation goes, Invited
// the address that it names.
type Outside struct {
	UID, Title, From, Name, To, Invited, Text, Rule string
	Start                                           time.Time
	Length                                          time.Duration
	Sequence                                        int
	Off                                             bool
	Date                                            time.Time // one date of a series, as the rule has it; zero for all
}

func (o Outside) method() string {
	if o.Off {
		return "CANCEL"
	}
	return "REQUEST"
}

// Calendar is the iCalendar object of its message.
func (o Outside) Calendar(now time.Time) string {
	const form = "20060102T150405Z"
	lines := []string{"BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Post office stand-in//EN", "METHOD:" + o.method(), "BEGIN:VEVENT", "UID:" + o.UID,
		fmt.Sprintf("SEQUENCE:%d", o.Sequence), "DTSTAMP:" + now.UTC().Add(time.Duration(o.Sequence)*time.Second).Format(form)}
	if !o.Date.IsZero() {
		lines = append(lines, "RECURRENCE-ID:"+o.Date.UTC().Format(form))
	}
	lines = append(lines, "DTSTART:"+o.Start.UTC().Format(form), "DTEND:"+o.Start.Add(o.Length).UTC().Format(form))
	if o.Rule != "" && o.Date.IsZero() {
		lines = append(lines, "RRULE:"+o.Rule)
	}
	escape := strings.NewReplacer(`\`, `\\`, ";", `\;`, ",", `\,`, "\n", `\n`).Replace
	lines = append(lines, "SUMMARY:"+escape(o.Title), "DESCRIPTION:"+escape(o.Text), fmt.Sprintf(`ORGANIZER;CN="%s":mailto:%s`, o.Name, o.From),
		"ATTENDEE;PARTSTAT=NEEDS-ACTION;RSVP=TRUE:mailto:"+o.Invited, "END:VEVENT", "END:VCALENDAR", "")
	return strings.Join(lines, "\r\n")
}

// InviteHouse invites somebody of the house by mail, or tells what changed, as a calendar program
// outside does (RFC 5546, 3.2.2 and 3.2.5).
func (p *PostOffice) InviteHouse(o Outside) error {
	if _, err := mail.ParseAddress(o.From); err != nil {
		return err
	}
	p.mu.Lock()
	p.outside = append([]Outside{o}, p.outside...)
	p.mu.Unlock()
	msg := gomail.NewMsg()
	if err := errors.Join(msg.FromFormat(o.Name, o.From), msg.To(o.To)); err != nil {
		return err
	}
	msg.Subject(o.Title)
	msg.SetBodyString(gomail.TypeTextPlain, o.Text)
	msg.AddAlternativeString(gomail.ContentType("text/calendar; method="+o.method()), o.Calendar(p.config.Now()), gomail.WithPartEncoding(gomail.EncodingB64))
	return p.post(o.To, msg)
}

// invite takes what the page asks for: a new invitation, or the last one an hour later, or off.
func (p *PostOffice) invite(rw http.ResponseWriter, r *http.Request) {
	o := Outside{From: r.FormValue("from"), Name: r.FormValue("name"), To: r.FormValue("to"), Invited: r.FormValue("to"), Title: r.FormValue("title"), Text: r.FormValue("text"),
		Length: time.Hour, UID: fmt.Sprintf("out-%d@post.example", time.Now().UnixNano())}
	p.mu.Lock()
	for _, x := range p.outside {
		if what := r.FormValue("what"); x.UID == r.FormValue("uid") && what != "" {
			o = x
			o.Sequence++
			if o.Off = what == "off"; !o.Off {
				o.Start = o.Start.Add(time.Hour)
			}
			break
		}
	}
	p.mu.Unlock()
	var err error
	if o.Start.IsZero() {
		o.Start, err = time.Parse("2006-01-02T15:04", r.FormValue("start"))
	}
	if err == nil {
		err = p.InviteHouse(o)
	}
	if err != nil {
		http.Error(rw, err.Error(), http.StatusBadGateway)
		return
	}
	http.Redirect(rw, r, "/post/outside", http.StatusSeeOther)
}

// invites shows what outside people invited to, the newest first.
func (p *PostOffice) invites(rw http.ResponseWriter, _ *http.Request) {
	p.mu.Lock()
	var all []Outside
	seen := map[string]bool{}
	for _, o := range p.outside {
		if !seen[o.UID] {
			seen[o.UID] = true
			all = append(all, o)
		}
	}
	p.mu.Unlock()
	show(rw, "outside.html", all)
}
