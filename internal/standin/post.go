package standin

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-message/mail"
	"github.com/emersion/go-msgauth/dkim"
	"github.com/emersion/go-smtp"
)

// PostOffice takes mail over SMTP for .example addresses and shows every
// mailbox. It refuses addresses that begin with "nobody"; mailboxes that begin with "full",
// "late", "away" and "asks" behave as they are called.
type PostOffice struct {
	config Config
	mode   func() Mode
	server *smtp.Server

	reporting chan struct{} // so many reports go out at a time

	mu       sync.Mutex
	messages []Message
	outside  []Outside // what people outside organise, the newest message first
}

// Message is one mail in one mailbox.
type Message struct {
	ID   int       `json:"id"`
	From string    `json:"from"` // of the envelope
	To   string    `json:"to"`
	At   time.Time `json:"at"`
	Raw  []byte    `json:"raw"`
}

func newPostOffice(c Config, mode func() Mode) (*PostOffice, error) {
	p := &PostOffice{config: c, mode: mode, reporting: make(chan struct{}, 8)}
	if c.Dir == "" {
		return p, nil
	}
	if err := os.MkdirAll(c.Dir, 0o700); err != nil {
		return nil, err
	}
	names, err := filepath.Glob(filepath.Join(c.Dir, "*.json"))
	if err != nil {
		return nil, err
	}
	for _, name := range names {
		var m Message
		b, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(b, &m); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		p.messages = append(p.messages, m)
	}
	slices.SortFunc(p.messages, func(a, b Message) int { return a.ID - b.ID })
	return p, nil
}

// Serve takes mail on l until Close.
func (p *PostOffice) Serve(l net.Listener) error {
	p.server = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &postSession{office: p}, nil }))
	p.server.Domain = "post.example"
	p.server.MaxMessageBytes = 10 << 20
	p.server.ErrorLog = log.New(io.Discard, "", 0) // who hangs up is no news
	p.server.EnableSMTPUTF8, p.server.EnableDSN = true, true
	if err := p.server.Serve(moody{l, p.mode}); err != nil && !errors.Is(err, smtp.ErrServerClosed) {
		return err
	}
	return nil
}

// Box is everything one address has got, oldest first.
func (p *PostOffice) Box(address string) []Message {
	p.mu.Lock()
	defer p.mu.Unlock()
	var out []Message
	for _, m := range p.messages {
		if strings.EqualFold(m.To, address) {
			out = append(out, m)
		}
	}
	return out
}

// Message finds one by its number.
func (p *PostOffice) Message(id int) (Message, bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, m := range p.messages {
		if m.ID == id {
			return m, true
		}
	}
	return Message{}, false
}

// Put lays a mail into a mailbox.
func (p *PostOffice) Put(from, to string, raw []byte) error {
	_, err := p.put(from, to, raw)
	return err
}

func (p *PostOffice) put(from, to string, raw []byte) (Message, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	m := Message{ID: 1, From: from, To: strings.ToLower(to), At: p.config.Now().UTC(), Raw: raw}
	if n := len(p.messages); n > 0 {
		m.ID = p.messages[n-1].ID + 1
	}
	if p.config.Dir != "" {
		b, err := json.Marshal(m)
		if err != nil {
			return m, err
		}
		if err := os.WriteFile(filepath.Join(p.config.Dir, fmt.Sprintf("%06d.json", m.ID)), b, 0o600); err != nil {
			return m, err
		}
	}
	p.messages = append(p.messages, m)
	return m, nil
}

// postSession is one conversation; it implements smtp.Session.
type postSession struct {
	office *PostOffice
	from   string
	to     []string
	notify map[string][]smtp.DSNNotify
}

func (s *postSession) Reset()        { s.from, s.to, s.notify = "", nil, nil }
func (s *postSession) Logout() error { return nil }

func (s *postSession) Mail(from string, _ *smtp.MailOptions) error {
	if s.office.mode() == Failing {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Out of order, try again later"}
	}
	s.from = from
	return nil
}

func (s *postSession) Rcpt(to string, o *smtp.RcptOptions) error {
	if !strings.HasSuffix(strings.ToLower(to), ".example") {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 7, 1}, Message: "This post office only takes .example addresses"}
	}
	if strings.HasPrefix(strings.ToLower(to), "nobody") {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "No such mailbox"}
	}
	s.to = append(s.to, to)
	if s.notify == nil {
		s.notify = map[string][]smtp.DSNNotify{}
	}
	if o != nil {
		s.notify[to] = o.Notify
	}
	return nil
}

func (s *postSession) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	for _, to := range s.to {
		m, err := s.office.put(s.from, to, raw)
		if err != nil {
			return err
		}
		s.office.behave(m, slices.Contains(s.notify[to], smtp.DSNNotifySuccess))
	}
	return nil
}

// Read is a mail taken apart for showing.
type Read struct {
	Message
	Subject, Sender string
	ReplyTo         string // where a person's answer goes
	SignedBy        string // the domain of a valid signature (RFC 6376), as a mail server checks it
	Headers         []Header
	HTML, Text      string
	Calendar        []byte
	Method          string
	Attached        []string
	Files           map[string][]byte // what is attached, by name
}

// Header is one field of a mail's header, decoded.
type Header struct{ Name, Value string }

// ReadMail takes a mail apart.
func ReadMail(m Message) (Read, error) {
	out := Read{Message: m, Files: map[string][]byte{}}
	r, err := mail.CreateReader(bytes.NewReader(m.Raw))
	if err != nil {
		return out, err
	}
	out.Subject, _ = r.Header.Subject()
	for _, name := range []string{"From", "To", "Reply-To", "Subject", "Date", "Message-ID", "In-Reply-To"} {
		if v, err := r.Header.Text(name); err == nil && v != "" {
			out.Headers = append(out.Headers, Header{name, v})
		}
	}
	if from, err := r.Header.AddressList("From"); err == nil && len(from) > 0 {
		out.Sender, out.ReplyTo = from[0].Name, from[0].Address
	}
	if to, err := r.Header.AddressList("Reply-To"); err == nil && len(to) > 0 {
		out.ReplyTo = to[0].Address
	}
	for {
		part, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		body, err := io.ReadAll(part.Body)
		if err != nil {
			return out, err
		}
		switch h := part.Header.(type) {
		case *mail.InlineHeader:
			kind, params, _ := h.ContentType()
			switch kind {
			case "text/html":
				out.HTML = string(body)
			case "text/plain":
				out.Text = string(body)
			case "text/calendar":
				out.Calendar, out.Method = body, params["method"]
			}
		case *mail.AttachmentHeader:
			name, _ := h.Filename()
			out.Attached = append(out.Attached, name)
			out.Files[name] = body
		}
	}
}

func (p *PostOffice) handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /{$}", p.boxes)
	mux.HandleFunc("GET /boxes/{address}", p.box)
	mux.HandleFunc("GET /messages/{id}", p.message)
	mux.HandleFunc("POST /messages/{id}/answer", p.answer)
	mux.HandleFunc("GET /outside", p.invites)
	mux.HandleFunc("POST /outside", p.invite)
	mux.HandleFunc("POST /messages/{id}/report", p.report)
	return mux
}

type boxLine struct {
	Address string
	Count   int
	Newest  Read
}

func (p *PostOffice) boxes(rw http.ResponseWriter, _ *http.Request) {
	p.mu.Lock()
	all := slices.Clone(p.messages)
	p.mu.Unlock()
	var lines []boxLine
	for _, m := range slices.Backward(all) {
		at := slices.IndexFunc(lines, func(l boxLine) bool { return l.Address == m.To })
		if at >= 0 {
			lines[at].Count++
			continue
		}
		read, _ := ReadMail(m) // a mail that cannot be read is shown raw
		lines = append(lines, boxLine{m.To, 1, read})
	}
	show(rw, "boxes.html", lines)
}

func (p *PostOffice) box(rw http.ResponseWriter, r *http.Request) {
	address := r.PathValue("address")
	var reads []Read
	for _, m := range slices.Backward(p.Box(address)) {
		read, _ := ReadMail(m)
		reads = append(reads, read)
	}
	show(rw, "box.html", map[string]any{"Address": address, "Messages": reads})
}

// signer is the domain of a valid signature of a mail, "" for none.
func (p *PostOffice) signer(m Message) string {
	if p.config.LookupTXT == nil {
		return ""
	}
	checked, _ := dkim.VerifyWithOptions(bytes.NewReader(m.Raw), &dkim.VerifyOptions{LookupTXT: p.config.LookupTXT, MaxVerifications: 3})
	for _, v := range checked {
		if v.Err == nil {
			return v.Domain
		}
	}
	return ""
}

func (p *PostOffice) message(rw http.ResponseWriter, r *http.Request) {
	number, raw := strings.CutSuffix(r.PathValue("id"), ".eml")
	m, ok := p.find(number)
	if !ok {
		http.NotFound(rw, r)
		return
	}
	if raw {
		rw.Header().Set("Content-Type", "message/rfc822")
		rw.Write(m.Raw)
		return
	}
	read, err := ReadMail(m)
	if err != nil {
		read.Text = err.Error()
	}
	read.SignedBy = p.signer(m)
	show(rw, "message.html", map[string]any{"Mail": read, "Safe": sanitise(read.HTML), "Calendar": string(read.Calendar), "Said": r.FormValue("said")})
}

func (p *PostOffice) find(number string) (Message, bool) {
	id, err := strconv.Atoi(number)
	if err != nil {
		return Message{}, false
	}
	return p.Message(id)
}

func (p *PostOffice) answer(rw http.ResponseWriter, r *http.Request) {
	m, ok := p.find(r.PathValue("id"))
	if !ok {
		http.NotFound(rw, r)
		return
	}
	said, comment, from := r.FormValue("answer"), r.FormValue("comment"), m.To
	if other := strings.TrimSpace(r.FormValue("from")); other != "" {
		from = other
	}
	var err error
	switch said {
	case "COUNTER":
		var start time.Time
		if start, err = time.Parse("2006-01-02T15:04", r.FormValue("start")); err == nil {
			err = p.Counter(m, start, comment)
		}
	case "DELEGATED":
		err = p.Delegate(m, strings.TrimSpace(r.FormValue("to")), comment)
	case "REFRESH":
		err = p.Refresh(m)
	case "WRITE":
		err = p.Write(m, comment)
	default:
		err = p.AnswerFrom(m, from, said, comment)
	}
	if err != nil {
		http.Error(rw, err.Error(), http.StatusBadGateway)
		return
	}
	http.Redirect(rw, r, fmt.Sprintf("/post/messages/%d?said=%s", m.ID, said), http.StatusSeeOther)
}
