package mail

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"log/slog"
	"math/big"
	"net"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/google/uuid"
	"golang.org/x/net/netutil"
	"golang.org/x/time/rate"

	"jembro/internal/schedule"
)

// What one neighbour can ask of the listener. A house's own mail server is one
// neighbour, with the answers of everybody.
const (
	connectionsAtATime    = 200
	connectionsByAddress  = 50
	messagesAMinute       = 6000
	returnsAMinute        = 20  // of messages to one person
	mailsAMinute          = 300 // to one meeting, and to all without a secret part
	recipientsOfAMessage  = 10
	remembered            = 10 * time.Minute
	longestLine           = 4000
	postmaster            = "postmaster"
	certificateGoodFor    = 825 * 24 * time.Hour
	postmasterMailWithin  = time.Minute
	postmasterMailsAnHour = 30
)

// Inbox says where the mail listener is and whom it serves.
type Inbox struct {
	Answers Answers
	Domain  string
	// Postmaster takes what is written to postmaster@ (RFC 5321, 4.5.1); nil where
	// nobody was named: it is taken, and only its arrival is noted then.
	Postmaster func(ctx context.Context, from string, raw []byte) error
	// LookupTXT finds the keys of signatures; nil where none are checked.
	LookupTXT LookupTXT
}

// NewListener makes the SMTP server that takes answers. It accepts mail only
// for the addresses that were given out and for the postmaster; no message
// stops it, and no neighbour holds up the others.
func NewListener(in Inbox) (*smtp.Server, error) {
	limits := newLimits()
	s := smtp.NewServer(smtp.BackendFunc(func(c *smtp.Conn) (smtp.Session, error) {
		address := addressOf(c.Conn())
		if !limits.enter(address) {
			slog.Info("security: mail listener limit", "limit", "connections of one address")
			return nil, &smtp.SMTPError{Code: 421, EnhancedCode: smtp.EnhancedCode{4, 7, 0}, Message: "Too many connections, try again later"}
		}
		return &session{in: in, limits: limits, address: address}, nil
	}))
	s.Domain = in.Domain
	s.MaxMessageBytes, s.MaxRecipients, s.MaxLineLength = messageLimit, recipientsOfAMessage, longestLine
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	s.ErrorLog = quiet{}
	certificate, err := ownCertificate(in.Domain)
	s.TLSConfig = &tls.Config{Certificates: []tls.Certificate{certificate}, MinVersion: tls.VersionTLS12}
	return s, err
}

// bounded takes so many connections at a time.
func bounded(l net.Listener) net.Listener { return netutil.LimitListener(l, connectionsAtATime) }

func addressOf(c net.Conn) string {
	host, _, err := net.SplitHostPort(c.RemoteAddr().String())
	if err != nil {
		return c.RemoteAddr().String()
	}
	return host
}

// ownCertificate is one that nobody else vouches for: between mail servers it keeps
// who merely listens from reading along, which is what STARTTLS without more is for
// (RFC 3207).
func ownCertificate(domain string) (tls.Certificate, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return tls.Certificate{}, err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 127))
	if err != nil {
		return tls.Certificate{}, err
	}
	now := time.Now()
	template := x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: domain}, DNSNames: []string{domain},
		NotBefore: now.Add(-time.Hour), NotAfter: now.Add(certificateGoodFor), KeyUsage: x509.KeyUsageDigitalSignature,
		ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	der, err := x509.CreateCertificate(rand.Reader, &template, &template, &key.PublicKey, key)
	return tls.Certificate{Certificate: [][]byte{der}, PrivateKey: key}, err
}

// limits counts what neighbours do.
type limits struct {
	mu       sync.Mutex
	open     map[string]int
	messages map[string]*counted
	boxes    map[schedule.Mailbox]*counted
	master   *rate.Limiter
}

type counted struct {
	*rate.Limiter
	used time.Time
}

func newLimits() *limits {
	return &limits{open: map[string]int{}, messages: map[string]*counted{}, boxes: map[schedule.Mailbox]*counted{},
		master: rate.NewLimiter(rate.Every(time.Hour/postmasterMailsAnHour), postmasterMailsAnHour)}
}

func (l *limits) enter(address string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.open[address] >= connectionsByAddress {
		return false
	}
	l.open[address]++
	return true
}

func (l *limits) leave(address string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.open[address]--; l.open[address] <= 0 {
		delete(l.open, address)
	}
}

func (l *limits) message(address string) bool {
	return allow(&l.mu, l.messages, address, messagesAMinute)
}

func (l *limits) mail(box schedule.Mailbox) bool {
	most := mailsAMinute
	if box.Participant != uuid.Nil || box.Dispatch != uuid.Nil {
		most = returnsAMinute
	}
	return allow(&l.mu, l.boxes, box, most)
}

func allow[K comparable](mu *sync.Mutex, all map[K]*counted, key K, aMinute int) bool {
	mu.Lock()
	defer mu.Unlock()
	now := time.Now()
	c := all[key]
	if c == nil {
		for k, old := range all {
			if now.Sub(old.used) > remembered {
				delete(all, k)
			}
		}
		c = &counted{Limiter: rate.NewLimiter(rate.Limit(aMinute)/60, aMinute)}
		all[key] = c
	}
	c.used = now
	return c.Allow()
}

// session is one conversation; it implements smtp.Session.
type session struct {
	in         Inbox
	limits     *limits
	address    string
	from       string
	to         []schedule.Mailbox
	postmaster bool
}

func (s *session) Reset() { s.from, s.to, s.postmaster = "", nil, false }

func (s *session) Logout() error {
	s.limits.leave(s.address)
	return nil
}

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	if !s.limits.message(s.address) {
		slog.Info("security: mail listener limit", "limit", "messages of one address")
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "Too many messages, try again later"}
	}
	return nil
}

// Rcpt takes an address once, however often it is named.
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	if s.isPostmaster(to) {
		s.postmaster = true
		return nil
	}
	box, err := s.in.Answers.Mailbox(to)
	if err != nil {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "No such address here"}
	}
	if slices.Contains(s.to, box) {
		return nil
	}
	if !s.limits.mail(box) {
		slog.Info("security: mail listener limit", "limit", "mails to one address")
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "Too many mails, try again later"}
	}
	s.to = append(s.to, box)
	return nil
}

func (s *session) isPostmaster(to string) bool {
	local, domain, at := strings.Cut(to, "@")
	return strings.EqualFold(local, postmaster) && (!at || strings.EqualFold(domain, s.in.Domain))
}

// forward hands on what is for the postmaster.
func (s *session) forward(raw []byte) error {
	slog.Info("mail in: for the postmaster", "bytes", len(raw))
	if s.in.Postmaster == nil {
		return nil
	}
	if !s.limits.master.Allow() {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "Too many messages, try again later"}
	}
	ctx, cancel := context.WithTimeout(context.Background(), postmasterMailWithin)
	defer cancel()
	if err := s.in.Postmaster(ctx, s.from, raw); err != nil {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Please try again later"}
	}
	return nil
}
