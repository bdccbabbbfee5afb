package mail

import (
	"bytes"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
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
	// Signer signs what goes out, nil where nothing is.
	Signer *Signer
}

var _ schedule.Post = Relay{}

// How long an answer is waited for: ten minutes after the message itself (RFC 5321,
// 4.5.3.2.6), because a message that is sent again too early arrives twice; two
// minutes after each command before, where nothing is lost by trying again.
const (
	dialWithin    = 30 * time.Second
	commandWithin = 2 * time.Minute
	messageWithin = 10 * time.Minute
)

// Render and Calendar are the same for every relay.
func (Relay) Render(l schedule.Letter) (schedule.Rendered, error) { return Render(l) }
func (Relay) PassOn(l schedule.Letter) string                     { return PassOn(l) }
func (Relay) Calendar(l schedule.Letter) ([]byte, error)          { return ical.Write(l) }

// stage is how far a conversation with a mail server came (RFC 5321, 3).
type stage string

const (
	stageConnect stage = "connecting"
	stageGreet   stage = "greeting" // banner, EHLO, STARTTLS
	stageSignIn  stage = "signing in"
	stageSender  stage = "naming the sender"
	stageReader  stage = "naming the recipient"
	stageData    stage = "handing the message over"
	stageTaken   stage = "taking the message"
)

// Send hands one letter to the relay. It succeeds when the relay took the message,
// whatever becomes of the connection then. A refusal of the recipient or of the
// message is a *schedule.RefusedError; what the relay says of itself, of our
// sign-in or of the sender is not the message's fault and can be tried again.
func (r Relay) Send(ctx context.Context, l schedule.Letter) (string, error) {
	msg, err := Compose(l)
	if err != nil {
		return "", err
	}
	raw, err := written(msg)
	if err != nil {
		return "", err
	}
	// What becomes of it is asked for by name (RFC 3461): the envelope is called as its message.
	envelope, _, _ := strings.Cut(l.MessageID, "@")
	at, err := r.converse(ctx, l.ReturnTo, l.To.Email, envelope, raw)
	if refusesAsking(at, err) {
		at, err = r.converse(ctx, l.ReturnTo, l.To.Email, "", raw)
	}
	if len(l.Enclosed) > 0 && tooLarge(err) {
		l.Enclosed = nil // their links are in the message
		return r.Send(ctx, l)
	}
	if err == nil {
		return r.Host, nil
	}
	return "", r.verdict(at, err)
}

// tooLarge tells whether a server refuses a message for its size (RFC 5321, 4.2.3; RFC 3463, X.3.4).
func tooLarge(err error) bool {
	var reply *smtp.SMTPError
	return errors.As(err, &reply) && (reply.Code == 552 || reply.EnhancedCode == smtp.EnhancedCode{5, 3, 4})
}

// Forward hands on what somebody wrote to a meeting. The envelope has no sender: what
// is returned of it is nobody's (RFC 3834, 4).
func (r Relay) Forward(ctx context.Context, f schedule.Forwarded) error {
	msg, err := ComposeForward(f)
	if err != nil {
		return err
	}
	raw, err := written(msg)
	if err != nil {
		return err
	}
	return r.HandOn(ctx, "", f.To.Email, raw)
}

// SendReminder reminds of a meeting. What is returned of it is nobody's.
func (r Relay) SendReminder(ctx context.Context, l schedule.Letter) error {
	msg, err := ComposeReminder(l)
	if err != nil {
		return err
	}
	raw, err := written(msg)
	if err != nil {
		return err
	}
	return r.HandOn(ctx, "", l.To.Email, raw)
}

// SendNews tells somebody inside what is new. What is returned of it is nobody's.
func (r Relay) SendNews(ctx context.Context, l schedule.NewsLetter) error {
	raw, err := written(ComposeNews(l))
	if err != nil {
		return err
	}
	return r.HandOn(ctx, "", l.To.Email, raw)
}

// written is a mail as it goes over the line. One that cannot be written is refused: trying again
// does not help.
func written(msg *gomail.Msg) ([]byte, error) {
	var raw bytes.Buffer
	if _, err := msg.WriteTo(&raw); err != nil {
		return nil, &schedule.RefusedError{Reason: "the message cannot be written: " + err.Error()}
	}
	return raw.Bytes(), nil
}

// HandOn hands a mail on as it came.
func (r Relay) HandOn(ctx context.Context, from, to string, raw []byte) error {
	at, err := r.converse(ctx, from, to, "", raw)
	if err != nil {
		return r.verdict(at, err)
	}
	return nil
}

// refusesAsking tells whether a server offers reports and then does not know what that is: a
// parameter that it does not take (RFC 5321, 4.1.1.11).
func refusesAsking(at stage, err error) bool {
	var reply *smtp.SMTPError
	return (at == stageSender || at == stageReader) && errors.As(err, &reply) && (reply.Code == 501 || reply.Code == 504 || reply.Code == 555)
}

// asking is how reports are asked for, of servers that offer them; without an envelope none are.
func asking(envelope, to string) (*smtp.MailOptions, *smtp.RcptOptions) {
	if envelope == "" {
		return nil, nil
	}
	kind := smtp.DSNAddressTypeRFC822
	if strings.IndexFunc(to, func(r rune) bool { return r > '~' }) >= 0 {
		kind = smtp.DSNAddressTypeUTF8
	}
	return &smtp.MailOptions{Return: smtp.DSNReturnHeaders, EnvelopeID: envelope}, &smtp.RcptOptions{OriginalRecipientType: kind, OriginalRecipient: to,
		Notify: []smtp.DSNNotify{smtp.DSNNotifySuccess, smtp.DSNNotifyFailure, smtp.DSNNotifyDelayed}}
}

// converse goes through the stages of handing one message over, and says at which
// it ended. Reports are asked for under the name of the envelope; "" asks for none.
func (r Relay) converse(ctx context.Context, from, to, envelope string, raw []byte) (stage, error) {
	raw, err := r.Signer.sign(raw)
	if err != nil {
		return stageConnect, err
	}
	dialer := net.Dialer{Timeout: dialWithin}
	conn, err := dialer.DialContext(ctx, "tcp", net.JoinHostPort(r.Host, strconv.Itoa(r.Port)))
	if err != nil {
		return stageConnect, err
	}
	defer conn.Close()
	stop := context.AfterFunc(ctx, func() { conn.Close() })
	defer stop()
	client, err := r.greet(conn)
	if err != nil {
		return stageGreet, err
	}
	if r.User != "" {
		if err := client.Auth(r.auth(client)); err != nil {
			return stageSignIn, err
		}
	}
	mail, rcpt := asking(envelope, to)
	if mail == nil {
		mail = &smtp.MailOptions{}
	}
	mail.Size = int64(len(raw)) // whoever takes no message of this size says so before it is sent
	if err := client.Mail(from, mail); err != nil {
		return stageSender, err
	}
	if err := client.Rcpt(to, rcpt); err != nil {
		return stageReader, err
	}
	data, err := client.Data()
	if err != nil {
		return stageData, err
	}
	if _, err := data.Write(raw); err != nil {
		return stageData, err
	}
	if err := data.Close(); err != nil {
		return stageTaken, err
	}
	client.Quit() // the message is theirs by now, politely or not
	return stageTaken, nil
}

func (r Relay) greet(conn net.Conn) (*smtp.Client, error) {
	if r.Plain {
		client := r.patient(smtp.NewClient(conn))
		return client, client.Hello(r.Helo)
	}
	conn.SetDeadline(time.Now().Add(commandWithin))
	client, err := smtp.NewClientStartTLS(conn, &tls.Config{ServerName: r.Host})
	conn.SetDeadline(time.Time{})
	if err != nil {
		return nil, err
	}
	client = r.patient(client)
	return client, client.Hello(r.Helo)
}

func (r Relay) patient(c *smtp.Client) *smtp.Client {
	c.CommandTimeout, c.SubmissionTimeout = commandWithin, messageWithin
	return c
}

func (r Relay) auth(c *smtp.Client) sasl.Client {
	if !c.SupportsAuth("PLAIN") && c.SupportsAuth("LOGIN") {
		return sasl.NewLoginClient(r.User, r.Password)
	}
	return sasl.NewPlainClient("", r.User, r.Password)
}

// verdict tells what an ended conversation means for the message.
func (r Relay) verdict(at stage, err error) error {
	var reply *smtp.SMTPError
	if !errors.As(err, &reply) {
		return fmt.Errorf("%w: %s, at %s", schedule.ErrUnreachable, r.Host, at)
	}
	said := strings.Join(strings.Fields(fmt.Sprintf("%d %s", reply.Code, reply.Message)), " ")
	if reply.EnhancedCode != (smtp.EnhancedCode{}) && reply.EnhancedCode != smtp.NoEnhancedCode && reply.EnhancedCode != smtp.EnhancedCodeNotSet {
		c := reply.EnhancedCode
		said = strings.Join(strings.Fields(fmt.Sprintf("%d %d.%d.%d %s", reply.Code, c[0], c[1], c[2], reply.Message)), " ")
	}
	if aboutMessage(at, reply.Code) {
		return &schedule.RefusedError{Reason: said}
	}
	return fmt.Errorf("%w: %s says at %s: %s", schedule.ErrUnreachable, r.Host, at, said)
}

// aboutMessage tells whether a reply refuses this message or this recipient for
// good: a code of the 5xx class (RFC 5321, 4.2.1) to RCPT, to DATA or to the message,
// but for those that speak of the conversation: 503 (out of order), 530 and 535
// (signing in), 521 (the host takes no mail).
func aboutMessage(at stage, code int) bool {
	switch {
	case code < 500 || code > 599:
		return false
	case code == 503 || code == 521 || code == 530 || code == 535:
		return false
	}
	return at == stageReader || at == stageData || at == stageTaken
}
