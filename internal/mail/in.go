package mail

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"html"
	"io"
	"log/slog"
	"mime"
	"net"
	"regexp"
	"strings"
	"time"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // answers come in any charset
	gomail "github.com/emersion/go-message/mail"
	"github.com/emersion/go-msgauth/dkim"
	"github.com/emersion/go-smtp"
	"github.com/microcosm-cc/bluemonday"

	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/ical"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// Answers is what the listener needs of the program.
type Answers interface {
	// Mailbox is what an address stands for; it fails with schedule.ErrNotFound for
	// one that never was ours.
	Mailbox(address string) (schedule.Mailbox, error)
	// TakeMail keeps a mail and does what its answers say. It fails with
	// schedule.ErrNotFound where nobody can tell what it is about.
	TakeMail(ctx context.Context, box schedule.Mailbox, m meetings.Mail) error
}

// What one mail can cost: so many bytes, parts and levels are looked at.
const (
	messageLimit  = 2 << 20 // bytes
	partLimit     = 256 << 10
	calendarLimit = 256 << 10 // of all parts
	textLimit     = 24 << 10
	depthLimit    = 8
	partsLimit    = 40
	answersLimit  = 50
	keysLookedUp  = 3 // DKIM signatures that are checked
	lookUpWithin  = 5 * time.Second
	takenWithin   = 30 * time.Second
)

// Serve takes mail on l until the server is closed.
func Serve(s *smtp.Server, l net.Listener) error {
	if err := s.Serve(bounded(l)); err != nil && !errors.Is(err, smtp.ErrServerClosed) {
		return err
	}
	return nil
}

type quiet struct{}

func (quiet) Printf(format string, v ...any) { slog.Debug("mail in: " + fmt.Sprintf(format, v...)) }
func (quiet) Println(v ...any)               { slog.Debug("mail in: " + fmt.Sprint(v...)) }

// Data takes the message: it is answered with 250 when it is stored, with 550 when it
// could never be, and with 451 when it can be later.
func (s *session) Data(r io.Reader) error {
	raw, err := io.ReadAll(io.LimitReader(r, messageLimit+1))
	if err != nil {
		return err
	}
	if s.postmaster {
		if err := s.forward(raw); err != nil {
			return err
		}
	}
	if len(s.to) == 0 {
		return nil
	}
	ctx, cancel := context.WithTimeout(context.Background(), takenWithin)
	defer cancel()
	m := ReadMail(ctx, s.from, raw, s.in.LookupTXT)
	unknown := 0
	for _, box := range s.to {
		switch err := s.in.Answers.TakeMail(ctx, box, m); {
		case errors.Is(err, schedule.ErrNotFound):
			unknown++
		case err != nil:
			slog.Error("mail in: a mail could not be kept", "error", err)
			return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Please try again later"}
		}
	}
	if unknown == len(s.to) && !s.postmaster {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "There is no meeting here that this mail is about"}
	}
	return nil
}

// ReadMail reads a message as far as it can be read; it never panics and never
// fails. from is the sender of its envelope; lookup finds the keys of DKIM signatures, with nil
// none is checked.
func ReadMail(ctx context.Context, from string, raw []byte, lookup LookupTXT) (m meetings.Mail) {
	m.Raw, m.Returned = raw, from == ""
	defer func() {
		if p := recover(); p != nil {
			slog.Error("mail in: a message broke the reader", "panic", p)
			m.Why = "the mail could not be read to its end"
		}
	}()
	_, body, _ := bytes.Cut(raw, []byte("\r\n\r\n"))
	e, err := message.Read(bytes.NewReader(raw))
	if e == nil {
		sum := sha256.Sum256(raw)
		m.Digest, m.Why = sum[:], fmt.Sprintf("the mail could not be read: %v", err)
		return m
	}
	h := gomail.Header{Header: e.Header}
	id, err := h.MessageID()
	if m.MessageID = id; err != nil || id == "" {
		id = e.Header.Get("Date") + "\n" + e.Header.Get("Subject")
	}
	sum := sha256.Sum256(append([]byte(id+"\n\n"), body...))
	m.Digest = sum[:]
	m.FromName, m.FromEmail = writer(h)
	if m.Subject, err = h.Subject(); err != nil {
		m.Subject = e.Header.Get("Subject")
	}
	p := &parts{}
	p.read(e, 0)
	m.Replies, m.Invitations, m.Why = p.replies, p.invitations, p.why
	m.Words = unquoted(p.words(), m.Subject)
	m.Returned = m.Returned || p.report
	m.Auto, m.Reports = p.automatic(e.Header, from, m.FromEmail, m.Subject)
	m.SignedBy = signedBy(ctx, raw, m.FromEmail, lookup)
	return m
}

// writer is who a mail says that it is from.
func writer(h gomail.Header) (name, email string) {
	if all, err := h.AddressList("From"); err == nil && len(all) > 0 {
		return all[0].Name, all[0].Address
	}
	if found := bareAddress.FindString(h.Get("From")); found != "" {
		return "", found
	}
	return "", strings.TrimSpace(h.Get("From"))
}

var bareAddress = regexp.MustCompile(`[^\s<>"(),;:]+@[^\s<>"(),;:]+`)

// parts are what is looked at of a message.
type parts struct {
	seen, calendar int
	replies        []meetings.MailReply
	invitations    []invited.Message
	why            string
	plain, html    string
	report         bool // a delivery report (RFC 6522)
	reports        []reach.Event
}

// read looks for all calendar parts, however deep (RFC 6047, 2 lets them be anywhere
// in a multipart), and for the text.
func (p *parts) read(e *message.Entity, depth int) {
	if p.seen++; p.seen > partsLimit || depth > depthLimit {
		return
	}
	kind, params := contentType(e)
	if strings.HasPrefix(kind, "multipart/") {
		p.report = p.report || kind == "multipart/report"
		e.Header.Set("Content-Type", mime.FormatMediaType(kind, params))
		reader := e.MultipartReader()
		if reader == nil {
			return
		}
		for {
			part, err := reader.NextPart()
			if part == nil || err != nil && !message.IsUnknownCharset(err) && !message.IsUnknownEncoding(err) {
				return
			}
			if p.read(part, depth+1); p.seen > partsLimit {
				return
			}
		}
	}
	switch kind {
	case "message/delivery-status", "message/global-delivery-status", "message/disposition-notification", "message/global-disposition-notification",
		"message/feedback-report":
		p.readReport(e, kind)
	case "text/calendar", "application/ics":
		p.readCalendar(e, params["method"])
	case "text/plain", "":
		if p.plain == "" {
			p.plain = text(e)
		}
	case "text/html":
		if p.html == "" {
			p.html = text(e)
		}
	}
}

func (p *parts) readCalendar(e *message.Entity, method string) {
	var body []byte
	var err error
	if p.calendar <= calendarLimit {
		body, err = io.ReadAll(io.LimitReader(e.Body, partLimit+1))
	}
	if p.calendar += len(body); err != nil || len(body) > partLimit || p.calendar > calendarLimit {
		p.why = "the calendar part is too large or broken"
		return
	}
	replies, err := ical.ReadReplies(body, method)
	if errors.Is(err, ical.ErrNotReply) {
		if all, other := ical.ReadInvitations(body, method); other == nil {
			p.invitations, p.why = append(p.invitations, all...), err.Error()
			return
		}
	}
	if err != nil {
		p.why = err.Error()
		return
	}
	for _, r := range replies { // the same object often comes twice, as a part and as a file
		if len(p.replies) == answersLimit {
			p.why = "it holds more answers than anybody gives"
			return
		}
		if !p.has(r) {
			p.replies = append(p.replies, r)
		}
	}
}

func (p *parts) has(r meetings.MailReply) bool {
	for _, o := range p.replies {
		if o.UID == r.UID && o.Attendee == r.Attendee && o.Status == r.Status && o.Stamp == r.Stamp && o.Sequence == r.Sequence && o.SameDate(r) {
			return true
		}
	}
	return false
}

// words are the text of the message.
func (p *parts) words() string {
	if p.plain != "" || p.html == "" {
		return p.plain
	}
	broken := lineBreaks.ReplaceAllString(p.html, "\n")
	return html.UnescapeString(bluemonday.StrictPolicy().Sanitize(broken))
}

var lineBreaks = regexp.MustCompile(`(?i)<br[^>]*>|</p>|</div>|</tr>|</li>`)

func text(e *message.Entity) string {
	body, _ := io.ReadAll(io.LimitReader(e.Body, textLimit)) // what can be read of it
	return string(body)
}

// contentType reads the type of a part; comments (RFC 2045, 5.1 allows them) and
// parameters that are broken are passed over.
func contentType(e *message.Entity) (kind string, params map[string]string) {
	raw := withoutComments(e.Header.Get("Content-Type"))
	kind, params, err := mime.ParseMediaType(raw)
	if err != nil {
		kind, _, _ = strings.Cut(raw, ";")
		kind, params = strings.ToLower(strings.TrimSpace(kind)), map[string]string{}
	}
	return kind, params
}

// withoutComments drops (comments) that stand outside quoted strings (RFC 5322,
// 3.2.2).
func withoutComments(s string) string {
	var out strings.Builder
	depth, quoted := 0, false
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c == '\\' && i+1 < len(s):
			if i++; depth == 0 {
				out.WriteString(s[i-1 : i+1])
			}
			continue
		case c == '"' && depth == 0:
			quoted = !quoted
		case c == '(' && !quoted:
			depth++
			continue
		case c == ')' && !quoted && depth > 0:
			depth--
			continue
		}
		if depth == 0 {
			out.WriteByte(s[i])
		}
	}
	return out.String()
}

// What begins the part of a text that somebody else wrote, and what programs write
// by themselves into an answer: common practice of mail programs.
var (
	quoteBegins = regexp.MustCompile(`(?i)^(-{2,} ?(original|forwarded|ursprüngliche|message d.origine).*|_{10,}|from: .+|von: .+|de : .+|-- )$`)
	wroteLine   = regexp.MustCompile(`(?i)^(on|am|le|el|il|em) .{6,200}(wrote|schrieb|a écrit|escribió|ha scritto|escreveu).{0,30}:$`)
	statusLine  = regexp.MustCompile(`(?i)^(accepted|tentative|tentatively accepted|maybe|declined|yes|no|new time proposed|delegated)[.!]?$`)
)

// unquoted is what the writer of a mail typed: quoted parts are cut, and lines that
// only repeat the answer or the subject.
func unquoted(words, subject string) string {
	words = strings.ReplaceAll(words, "\r\n", "\n")
	var out []string
	lines := strings.Split(words, "\n")
	for i, line := range lines {
		plain := strings.TrimSpace(line)
		two := plain
		if i+1 < len(lines) { // the line before a quote is often broken in two
			two = plain + " " + strings.TrimSpace(lines[i+1])
		}
		if quoteBegins.MatchString(strings.TrimRight(line, "\r")) || wroteLine.MatchString(plain) || wroteLine.MatchString(two) {
			break
		}
		if strings.HasPrefix(plain, ">") || statusLine.MatchString(plain) || subject != "" && plain == strings.TrimSpace(subject) {
			continue
		}
		out = append(out, line)
	}
	return strings.TrimSpace(strings.Join(out, "\n"))
}

// LookupTXT finds the TXT records of a name, as net.Resolver does.
type LookupTXT func(ctx context.Context, name string) ([]string, error)

// signedBy is the domain of a valid DKIM signature (RFC 6376) that goes with the
// address of the writer: it is theirs, or stands above it; "" for none.
func signedBy(ctx context.Context, raw []byte, from string, lookup LookupTXT) string {
	domain := meeting.DomainOf(from)
	if lookup == nil || domain == "" || !bytes.Contains(bytes.ToLower(raw[:min(len(raw), textLimit)]), []byte("dkim-signature:")) {
		return ""
	}
	ctx, cancel := context.WithTimeout(ctx, lookUpWithin)
	defer cancel()
	checked, _ := dkim.VerifyWithOptions(bytes.NewReader(raw), &dkim.VerifyOptions{MaxVerifications: keysLookedUp,
		LookupTXT: func(name string) ([]string, error) { return lookup(ctx, name) }}) // too many are not all checked
	for _, v := range checked {
		signer := strings.ToLower(v.Domain)
		if v.Err == nil && signer != "" && (signer == domain || strings.HasSuffix(domain, "."+signer)) {
			return signer
		}
	}
	return ""
}
