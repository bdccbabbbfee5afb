package mail

import (
	"bytes"
	"errors"
	"strings"

	gomail "github.com/wneessen/go-mail"

	"jembro/internal/ical"
	"jembro/internal/schedule"
)

// Compose writes the mail: text, HTML and text/calendar as alternatives, the
// calendar object once more as a file (RFC 6047, 2.4). What the other side's
// mail server returns goes to the reply address, what a person answers to the
// organiser.
func Compose(l schedule.Letter) (*gomail.Msg, error) {
	rendered, err := Render(l)
	if err != nil {
		return nil, err
	}
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	organiser := l.Meeting.Organiser
	if err := errors.Join(
		msg.EnvelopeFrom(l.ReplyTo),
		msg.FromFormat(organiser.Name, organiser.Email),
		msg.ReplyToFormat(organiser.Name, organiser.Email),
		msg.AddToFormat(l.To.Name, l.To.Email),
	); err != nil {
		return nil, &schedule.RefusedError{Reason: "the address cannot be written: " + err.Error()}
	}
	msg.Subject(rendered.Subject)
	msg.SetMessageIDWithValue(l.MessageID)
	msg.SetDateWithValue(l.Stamp)
	if n := len(l.Earlier); n > 0 {
		msg.SetGenHeader(gomail.HeaderInReplyTo, "<"+l.Earlier[n-1]+">")
		msg.SetGenHeader(gomail.HeaderReferences, "<"+strings.Join(l.Earlier, "> <")+">")
	}
	msg.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834: no holiday notes to the reply address
	method := ical.Method(l.Kind)
	msg.SetBodyString(gomail.TypeTextPlain, rendered.Text)
	msg.AddAlternativeString(gomail.TypeTextHTML, rendered.HTML)
	msg.AddAlternativeString(gomail.ContentType("text/calendar; method="+method), string(rendered.Calendar), gomail.WithPartEncoding(gomail.EncodingB64))
	name := "invitation.ics"
	if method == "CANCEL" {
		name = "called-off.ics"
	}
	err = msg.AttachReader(name, bytes.NewReader(rendered.Calendar), gomail.WithFileContentType("application/ics"))
	return msg, err
}
