package standin

import (
	"bytes"
	"errors"
	"fmt"
	"html/template"
	"net"
	"net/url"
	"strconv"
	"strings"

	"github.com/emersion/go-ical"
	"github.com/microcosm-cc/bluemonday"
	gomail "github.com/wneessen/go-mail"
)

var mailPolicy = func() *bluemonday.Policy {
	p := bluemonday.UGCPolicy()
	p.AllowStyles("color", "background", "background-color", "padding", "margin", "max-width", "font-size", "font-weight", "font-family", "line-height",
		"border-top", "border-left", "border-radius", "white-space", "text-decoration", "display", "padding-right", "padding-bottom", "vertical-align").Globally()
	p.AllowAttrs("role", "cellpadding", "cellspacing").OnElements("table")
	p.AllowURLSchemes("http", "https", "mailto")
	p.RequireNoFollowOnLinks(false)
	return p
}()

// sanitise makes a mail's HTML safe to stand in a page.
func sanitise(html string) template.HTML { return template.HTML(mailPolicy.Sanitize(html)) }

// Answer answers an invitation as a mail program does: with an iTIP REPLY (RFC
// 5546, 3.2.3) to the organiser's address, by mail (RFC 6047). said is
// "ACCEPTED", "TENTATIVE" or "DECLINED".
func (p *PostOffice) Answer(m Message, said, comment string) error {
	read, err := ReadMail(m)
	if err != nil {
		return err
	}
	if read.Calendar == nil {
		return errors.New("there is no invitation in this mail")
	}
	reply, organiser, err := p.reply(read, said, comment)
	if err != nil {
		return err
	}
	msg := gomail.NewMsg()
	if err := errors.Join(msg.From(m.To), msg.To(organiser)); err != nil {
		return err
	}
	word := map[string]string{"ACCEPTED": "Accepted", "TENTATIVE": "Maybe", "DECLINED": "Declined"}[said]
	if word == "" {
		return fmt.Errorf("no such answer: %q", said)
	}
	msg.Subject(word + ": " + read.Subject)
	msg.SetBodyString(gomail.TypeTextPlain, word+"\n"+comment)
	msg.AddAlternativeString(gomail.ContentType("text/calendar; method=REPLY"), reply, gomail.WithPartEncoding(gomail.EncodingB64))
	return p.post(organiser, msg)
}

// post sends a mail to the outside of the post office.
func (p *PostOffice) post(to string, msg *gomail.Msg) error {
	if _, domain, _ := strings.Cut(to, "@"); !strings.EqualFold(domain, p.config.AnswersDomain) {
		return fmt.Errorf("no way to %s from here", domain)
	}
	host, port, err := net.SplitHostPort(p.config.AnswersTo)
	if err != nil {
		return err
	}
	number, err := strconv.Atoi(port)
	if err != nil {
		return err
	}
	client, err := gomail.NewClient(host, gomail.WithPort(number), gomail.WithTLSPolicy(gomail.NoTLS), gomail.WithHELO("post.example"))
	if err != nil {
		return err
	}
	return client.DialAndSend(msg)
}

func (p *PostOffice) reply(read Read, said, comment string) (text, organiser string, err error) {
	cal, err := ical.NewDecoder(bytes.NewReader(read.Calendar)).Decode()
	if err != nil {
		return "", "", err
	}
	events := cal.Events()
	if len(events) != 1 || read.Method != "REQUEST" {
		return "", "", errors.New("this mail asks for no answer")
	}
	asked := events[0]
	out := ical.NewEvent()
	for _, name := range []string{ical.PropUID, ical.PropSequence, ical.PropOrganizer, ical.PropSummary} {
		if prop := asked.Props.Get(name); prop != nil {
			out.Props.Set(prop)
		}
	}
	out.Props.SetDateTime(ical.PropDateTimeStamp, p.config.Now().UTC())
	if comment != "" {
		out.Props.SetText(ical.PropComment, comment)
	}
	for _, a := range asked.Props.Values(ical.PropAttendee) {
		if address, err := url.PathUnescape(strings.TrimPrefix(a.Value, "mailto:")); err == nil && strings.EqualFold(address, read.To) {
			a.Params.Set(ical.ParamParticipationStatus, said)
			a.Params.Del(ical.ParamRSVP)
			out.Props.Set(&a)
		}
	}
	if out.Props.Get(ical.PropAttendee) == nil {
		return "", "", errors.New("this mailbox is not invited")
	}
	organiser = strings.TrimPrefix(out.Props.Get(ical.PropOrganizer).Value, "mailto:")
	answer := ical.NewCalendar()
	answer.Props.SetText(ical.PropVersion, "2.0")
	answer.Props.SetText(ical.PropProductID, "-//Post office stand-in//EN")
	answer.Props.SetText(ical.PropMethod, "REPLY")
	answer.Children = append(answer.Children, out.Component)
	var b bytes.Buffer
	err = ical.NewEncoder(&b).Encode(answer)
	return b.String(), organiser, err
}
