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
	"time"

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
	return p.AnswerFrom(m, m.To, said, comment)
}

// AnswerFrom is Answer by somebody whose program knows them by another address than the one
// that was invited.
func (p *PostOffice) AnswerFrom(m Message, from, said, comment string) error {
	word := map[string]string{"ACCEPTED": "Accepted", "TENTATIVE": "Maybe", "DECLINED": "Declined"}[said]
	if word == "" {
		return fmt.Errorf("no such answer: %q", said)
	}
	return p.speak(m, from, "REPLY", word, comment, func(_, _ *ical.Event, me *ical.Prop) {
		me.Params.Set(ical.ParamParticipationStatus, said)
		if from != m.To {
			me.Value = "mailto:" + from
		}
	})
}

// Counter proposes another start, with the same length, as a mail program does (RFC 5546, 3.2.7).
func (p *PostOffice) Counter(m Message, start time.Time, comment string) error {
	return p.speak(m, m.To, "COUNTER", "New time proposed", comment, func(asked, out *ical.Event, me *ical.Prop) {
		me.Params.Set(ical.ParamParticipationStatus, "TENTATIVE")
		from, err := asked.DateTimeStart(time.UTC)
		until, err2 := asked.DateTimeEnd(time.UTC)
		if err == nil && err2 == nil {
			out.Props.SetDateTime(ical.PropDateTimeStart, start.UTC())
			out.Props.SetDateTime(ical.PropDateTimeEnd, start.Add(until.Sub(from)).UTC())
		}
	})
}

// Refresh asks for the meeting as it stands (RFC 5546, 3.2.6).
func (p *PostOffice) Refresh(m Message) error {
	return p.speak(m, m.To, "REFRESH", "Refresh", "", func(_, out *ical.Event, me *ical.Prop) {
		me.Params.Del(ical.ParamParticipationStatus)
		out.Props.Del(ical.PropSummary)
		out.Props.Del(ical.PropSequence)
	})
}

// Delegate sends somebody else instead (RFC 5546, 3.2.2.3): the organiser hears of it, and the
// invitation is passed on to them.
func (p *PostOffice) Delegate(m Message, to, comment string) error {
	return p.speak(m, m.To, "REPLY", "Delegated", comment, func(_, _ *ical.Event, me *ical.Prop) {
		me.Params.Set(ical.ParamParticipationStatus, "DELEGATED")
		me.Params.Set(ical.ParamDelegatedTo, "mailto:"+to)
	})
}

// Write writes to the sender of a mail without any calendar part.
func (p *PostOffice) Write(m Message, text string) error {
	read, err := ReadMail(m)
	if err != nil {
		return err
	}
	msg := gomail.NewMsg()
	if err := errors.Join(msg.From(m.To), msg.To(read.ReplyTo)); err != nil {
		return err
	}
	msg.Subject("Re: " + read.Subject)
	msg.SetBodyString(gomail.TypeTextPlain, text)
	return p.post(read.ReplyTo, msg)
}

// speak writes to the organiser of an invitation by a method of RFC 5546.
func (p *PostOffice) speak(m Message, from, method, word, comment string, change func(asked, out *ical.Event, me *ical.Prop)) error {
	read, err := ReadMail(m)
	if err != nil {
		return err
	}
	if read.Calendar == nil {
		return errors.New("there is no invitation in this mail")
	}
	reply, organiser, err := p.reply(read, method, comment, change)
	if err != nil {
		return err
	}
	msg := gomail.NewMsg()
	if err := errors.Join(msg.From(from), msg.To(organiser)); err != nil {
		return err
	}
	msg.Subject(word + ": " + read.Subject)
	msg.SetBodyString(gomail.TypeTextPlain, word+"\n"+comment)
	msg.AddAlternativeString(gomail.ContentType("text/calendar; method="+method), reply, gomail.WithPartEncoding(gomail.EncodingB64))
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

func (p *PostOffice) reply(read Read, method, comment string, change func(asked, out *ical.Event, me *ical.Prop)) (text, organiser string, err error) {
	cal, err := ical.NewDecoder(bytes.NewReader(read.Calendar)).Decode()
	if err != nil {
		return "", "", err
	}
	events := cal.Events()
	if len(events) == 0 || read.Method != "REQUEST" {
		return "", "", errors.New("this mail asks for no answer")
	}
	asked := events[0]
	out := ical.NewEvent()
	for _, name := range []string{ical.PropUID, ical.PropSequence, ical.PropOrganizer, ical.PropSummary, ical.PropRecurrenceID} {
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
			a.Params.Del(ical.ParamRSVP)
			change(&asked, out, &a)
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
	answer.Props.SetText(ical.PropMethod, method)
	answer.Children = append(answer.Children, out.Component)
	var b bytes.Buffer
	err = ical.NewEncoder(&b).Encode(answer)
	return b.String(), organiser, err
}
