package mail

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/textproto"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"

	"jembro/internal/ical"
	"jembro/internal/schedule"
)

// Relay is the mail server that takes everything that goes out.
type Relay struct {
	Host     string
	Port     int
	User     string // empty: no sign-in
	Password string
	// Plain allows a relay without TLS, as on loopback.
	Plain bool
	// Helo is the name this program gives itself.
	Helo string
}

var _ schedule.Post = Relay{}

// Render is the same for every relay.
func (Relay) Render(l schedule.Letter) (schedule.Rendered, error) { return Render(l) }

// Send hands one letter to the relay. An answer of the 5xx class is a
// *schedule.RefusedError, anything else can be tried again.
func (r Relay) Send(ctx context.Context, l schedule.Letter) (string, error) {
	msg, err := Compose(l)
	if err != nil {
		return "", err
	}
	client, err := r.client()
	if err != nil {
		return "", err
	}
	err = client.DialAndSendWithContext(ctx, msg)
	if err == nil {
		return r.Host, nil
	}
	var send *gomail.SendError
	var reply *textproto.Error
	switch {
	case errors.As(err, &send) && send.ErrorCode() >= 500 && send.ErrorCode() < 600,
		errors.As(err, &reply) && reply.Code >= 500 && reply.Code < 600 && reply.Code != 503:
		return "", &schedule.RefusedError{Reason: reason(err)}
	}
	return "", fmt.Errorf("%w: %s", schedule.ErrUnreachable, r.Host)
}

// reason is what the server said, without what the library put around it.
func reason(err error) string {
	var reply *textproto.Error
	if errors.As(err, &reply) {
		return fmt.Sprintf("%d %s", reply.Code, strings.Join(strings.Fields(reply.Msg), " "))
	}
	text := err.Error()
	for _, code := range []string{"550", "551", "552", "553", "554"} {
		if at := strings.Index(text, code); at >= 0 {
			return strings.Join(strings.Fields(text[at:]), " ")
		}
	}
	return text
}

func (r Relay) client() (*gomail.Client, error) {
	options := []gomail.Option{gomail.WithPort(r.Port), gomail.WithTimeout(20 * time.Second), gomail.WithHELO(r.Helo)}
	if r.Plain {
		options = append(options, gomail.WithTLSPolicy(gomail.NoTLS))
	} else {
		options = append(options, gomail.WithTLSPolicy(gomail.TLSMandatory))
	}
	if r.User != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(r.User), gomail.WithPassword(r.Password))
	}
	return gomail.NewClient(r.Host, options...)
}

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
