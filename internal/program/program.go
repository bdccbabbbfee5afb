// Package program puts the parts together and runs them.
package program

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/netip"
	"strings"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/gofiber/fiber/v3"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jackc/pgx/v5/pgxpool"
	pgxuuid "github.com/vgarvardt/pgx-google-uuid/v5"

	"jembro/internal/conference"
	"jembro/internal/ical"
	"jembro/internal/jobs"
	"jembro/internal/mail"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/subscribe"
	"jembro/internal/web"
)

// Config is set by environment variables; the README has them in a table.
type Config struct {
	DatabaseURL string `env:"JEMBRO_DATABASE_URL,required"`
	Secret      string `env:"JEMBRO_SECRET,required"`
	BaseURL     string `env:"JEMBRO_BASE_URL,required"`
	House       string `env:"JEMBRO_HOUSE,required"`
	Listen      string `env:"JEMBRO_LISTEN" envDefault:":8080"`
	MailListen  string `env:"JEMBRO_MAIL_LISTEN" envDefault:":2525"`
	MailDomain  string `env:"JEMBRO_MAIL_DOMAIN,required"`

	RelayHost     string `env:"JEMBRO_RELAY_HOST,required"`
	RelayPort     int    `env:"JEMBRO_RELAY_PORT" envDefault:"587"`
	RelayUser     string `env:"JEMBRO_RELAY_USER"`
	RelayPassword string `env:"JEMBRO_RELAY_PASSWORD"`
	RelayPlain    bool   `env:"JEMBRO_RELAY_PLAIN"`
	// DKIMKey is a file with the key that mails are signed with (RFC 6376); none are without it.
	DKIMKey      string `env:"JEMBRO_DKIM_KEY"`
	DKIMSelector string `env:"JEMBRO_DKIM_SELECTOR" envDefault:"jembro"`

	SignInsPerMinute    int `env:"JEMBRO_SIGN_INS_PER_MINUTE" envDefault:"30"`
	GuestCallsPerMinute int `env:"JEMBRO_GUEST_CALLS_PER_MINUTE" envDefault:"120"`

	TrustedProxies []string `env:"JEMBRO_TRUSTED_PROXIES"`

	// TLSCert and TLSKey are files in PEM; with them the program itself ends TLS on
	// Listen and speaks HTTP/2.
	TLSCert string `env:"JEMBRO_TLS_CERT"`
	TLSKey  string `env:"JEMBRO_TLS_KEY"`

	// Now is the RFC 3339 moment at which the program's clock begins; empty for
	// the real one.
	Now string `env:"JEMBRO_NOW"`

	// Mails to people outside that one person can cause; 0 for no limit.
	MailsPerHour int `env:"JEMBRO_MAILS_PER_HOUR" envDefault:"300"`
	MailsPerDay  int `env:"JEMBRO_MAILS_PER_DAY" envDefault:"1500"`

	// UndoSeconds is how long a Send can be taken back; 0 sends at once.
	UndoSeconds int `env:"JEMBRO_UNDO_SECONDS" envDefault:"10"`

	// GuestsMay is what those invited to a new meeting may do where its organiser says nothing
	// else: "see" each other, "bring" others, "move" it; or "nothing".
	GuestsMay []string `env:"JEMBRO_GUESTS_MAY" envDefault:"see"`

	// Language is that of letters to whom nobody knows another one of (BCP 47).
	Language string `env:"JEMBRO_LANGUAGE" envDefault:"en"`

	// CalendarNets are private or loopback addresses at which calendars may be read all the
	// same, as prefixes.
	CalendarNets []netip.Prefix `env:"JEMBRO_CALENDAR_NETS"`

	// ProviderNets are private or loopback addresses at which conferencing providers may be
	// asked all the same, as prefixes; with any, without TLS too.
	ProviderNets []netip.Prefix `env:"JEMBRO_PROVIDER_NETS"`

	// SecretBefore are secrets that held earlier, newest first: addresses that were given out
	// under them still lead here.
	SecretBefore []string `env:"JEMBRO_SECRET_BEFORE"`

	// Postmaster gets what is written to postmaster@ at the mail domain (RFC 5321,
	// 4.5.1).
	Postmaster string `env:"JEMBRO_POSTMASTER"`

	// InsecureMeant allows a weak secret and a base address without TLS.
	InsecureMeant bool `env:"JEMBRO_INSECURE_MEANT"`
	// Files is the built interface.
	Files fs.FS `env:"-"`
}

// Program is the running program.
type Program struct {
	Deeds *deeds.Deeds
	Store *postgres.Store
	Pool  *pgxpool.Pool
	Web   net.Listener
	Mail  net.Listener

	app    *fiber.App
	front  *Front
	smtp   *smtp.Server
	hub    *web.Hub
	jobs   *jobs.Running
	cancel context.CancelFunc
	failed chan error
}

// Connect opens the database.
func Connect(ctx context.Context, url string) (*pgxpool.Pool, error) {
	config, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, err
	}
	if !strings.Contains(url, "pool_max_conns") {
		config.MaxConns = 20 // the default of four would make people wait for the queue's work
	}
	// No statement and no transaction that is forgotten holds anybody up for long.
	config.ConnConfig.RuntimeParams["statement_timeout"] = "30s"
	config.ConnConfig.RuntimeParams["lock_timeout"] = "15s"
	config.ConnConfig.RuntimeParams["idle_in_transaction_session_timeout"] = "60s"
	// Every statement here is a short one: compiling it costs more than it saves.
	config.ConnConfig.RuntimeParams["jit"] = "off"
	config.AfterConnect = func(_ context.Context, conn *pgx.Conn) error {
		// Instants come back in UTC, wherever the program runs.
		conn.TypeMap().RegisterType(&pgtype.Type{Name: "timestamptz", OID: pgtype.TimestamptzOID, Codec: &pgtype.TimestamptzCodec{ScanLocation: time.UTC}})
		pgxuuid.Register(conn.TypeMap()) // without it every id goes through its text
		return nil
	}
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, err
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	return pool, nil
}

// Start brings everything up: it migrates, listens and works on the queue.
func Start(ctx context.Context, c Config) (_ *Program, err error) {
	p := &Program{failed: make(chan error, 3)}
	defer func() {
		if err != nil {
			p.Stop()
		}
	}()
	cert, withTLS, err := c.certificate()
	if err != nil {
		return nil, err
	}
	address := c.Listen
	if withTLS {
		address, c.TrustedProxies = "127.0.0.1:0", append(c.TrustedProxies, "127.0.0.1")
	}
	if p.Web, err = listen("JEMBRO_LISTEN", address); err != nil {
		return nil, err
	}
	if withTLS {
		outer, err := listen("JEMBRO_LISTEN", c.Listen)
		if err != nil {
			return nil, err
		}
		p.front = ServeTLS(outer, cert, p.Web.Addr().String(), p.report)
	}
	if p.Mail, err = listen("JEMBRO_MAIL_LISTEN", c.MailListen); err != nil {
		return nil, err
	}
	if p.Pool, err = Connect(ctx, c.DatabaseURL); err != nil {
		return nil, err
	}
	if err = postgres.Migrate(ctx, p.Pool); err != nil {
		return nil, err
	}
	if p.Store, err = postgres.NewStore(p.Pool); err != nil {
		return nil, err
	}
	clock, err := newClock(ctx, c.Now, p.Store)
	if err != nil {
		return nil, err
	}
	if p.Deeds, err = newDeeds(c, p.Store, clock.now); err != nil {
		return nil, err
	}
	if err = p.Deeds.Meetings.FillParts(ctx); err != nil {
		return nil, err
	}
	running, cancel := context.WithCancel(context.WithoutCancel(ctx))
	p.cancel = cancel
	go clock.follow(running)
	p.hub = web.NewHub()
	go postgres.Listen(running, p.Pool, p.hub.Tell, p.hub.TellAll)
	if p.jobs, err = jobs.Start(running, p.Pool, p.Deeds); err != nil {
		return nil, err
	}
	if p.smtp, err = mail.NewListener(c.inbox(p.Deeds)); err != nil {
		return nil, err
	}
	go func() { p.report(mail.Serve(p.smtp, p.Mail)) }()
	if p.app, err = web.New(web.Config{Deeds: p.Deeds, Hub: p.hub, Files: c.Files, Healthy: p.Pool.Ping, Secure: isHTTPS(c.BaseURL),
		SignInsPerMinute: c.SignInsPerMinute, GuestCallsPerMinute: c.GuestCallsPerMinute, TrustedProxies: c.TrustedProxies}); err != nil {
		return nil, err
	}
	go func() { p.report(p.app.Listener(p.Web, fiber.ListenConfig{DisableStartupMessage: true})) }()
	return p, nil
}

func (p *Program) report(err error) {
	if err != nil {
		p.failed <- err
	}
}

// Address is where the program is reached.
func (p *Program) Address() string {
	if p.front != nil {
		return p.front.Listener.Addr().String()
	}
	return p.Web.Addr().String()
}

// Streams is how many windows listen to this instance.
func (p *Program) Streams() int { return p.hub.Streams() }

// Failed gives the error of a listener that ended by itself.
func (p *Program) Failed() <-chan error { return p.failed }

func isHTTPS(url string) bool { return strings.HasPrefix(url, "https://") }

func listen(name, address string) (net.Listener, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("%s: cannot listen on %s: %w", name, address, err)
	}
	return l, nil
}

func newDeeds(c Config, store *postgres.Store, now func() time.Time) (*deeds.Deeds, error) {
	seal, err := Seal(c.Secret, c.SecretBefore)
	if err != nil {
		return nil, err
	}
	relay, err := c.relay()
	if err != nil {
		return nil, err
	}
	guests, err := guestRights(c.GuestsMay)
	if err != nil {
		return nil, err
	}
	agent := "; " + c.BaseURL + ")"
	house := schedule.House{Name: c.House, BaseURL: c.BaseURL, MailDomain: c.MailDomain}
	set := schedule.Setting{House: house, Seal: seal, Clock: now, Mails: schedule.MailLimits{PerHour: c.MailsPerHour, PerDay: c.MailsPerDay},
		Guests: guests, Language: c.Language, Undo: time.Duration(c.UndoSeconds) * time.Second}
	return deeds.New(set, store, deeds.Outside{Post: relay, Descriptions: conference.NewDescriptions(c.ProviderNets, "Jembro (calls"+agent), Format: ical.Calendars{},
		Fetcher: subscribe.New(c.CalendarNets, "Jembro (calendars"+agent)}), nil
}

// guestRights reads what those invited may do; nothing said is that they see each other.
func guestRights(may []string) (r schedule.GuestRights, err error) {
	r.Apart = len(may) > 0
	for _, what := range may {
		switch strings.TrimSpace(what) {
		case "see":
			r.Apart = false
		case "bring":
			r.Bring = true
		case "move":
			r.Move = true
		case "nothing":
		default:
			return r, fmt.Errorf("JEMBRO_GUESTS_MAY: %q is none of see, bring, move, nothing", what)
		}
	}
	return r, nil
}

// Seal is that of a secret, and of those that held before.
func Seal(secret string, before []string) (*schedule.Seal, error) {
	var old [][]byte
	for _, b := range before {
		old = append(old, []byte(b))
	}
	seal, err := schedule.NewSeal([]byte(secret), old...)
	if err != nil {
		return nil, fmt.Errorf("JEMBRO_SECRET: %w", err)
	}
	return seal, nil
}

func (c Config) relay() (r mail.Relay, err error) {
	r = mail.Relay{Host: c.RelayHost, Port: c.RelayPort, User: c.RelayUser, Password: c.RelayPassword, Plain: c.RelayPlain, Helo: c.MailDomain}
	if c.DKIMKey != "" {
		if r.Signer, err = mail.ReadSigner(c.MailDomain, c.DKIMSelector, c.DKIMKey); err != nil {
			err = fmt.Errorf("JEMBRO_DKIM_KEY: %w", err)
		}
	}
	return r, err
}

// inbox is what the mail listener serves.
func (c Config) inbox(d *deeds.Deeds) mail.Inbox {
	in := mail.Inbox{Answers: deeds.Inbox{Deeds: d}, Domain: c.MailDomain, LookupTXT: net.DefaultResolver.LookupTXT}
	if c.Postmaster != "" {
		in.Postmaster = func(ctx context.Context, from string, raw []byte) error {
			relay, err := c.relay()
			if err != nil {
				return err
			}
			return relay.HandOn(ctx, from, c.Postmaster, raw)
		}
	}
	return in
}

// Stop ends everything in order: what is asked is answered, jobs under way are
// finished, and the rest waits in the queue.
func (p *Program) Stop() {
	within, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	if p.hub != nil {
		p.hub.Close()
	}
	var errs []error
	if p.front != nil {
		errs = append(errs, p.front.Stop(within))
	}
	if p.app != nil {
		// A request that is only half here does not hold the program up.
		web, done := context.WithTimeout(within, 3*time.Second)
		if err := p.app.ShutdownWithContext(web); err != nil && !errors.Is(err, context.DeadlineExceeded) {
			errs = append(errs, err)
		}
		done()
	} else if p.Web != nil {
		errs = append(errs, p.Web.Close())
	}
	if p.smtp != nil {
		errs = append(errs, p.smtp.Close())
	} else if p.Mail != nil {
		errs = append(errs, p.Mail.Close())
	}
	if p.jobs != nil {
		errs = append(errs, p.jobs.Stop(within))
	}
	if p.cancel != nil {
		p.cancel()
	}
	if p.Pool != nil {
		p.Pool.Close()
	}
	if err := errors.Join(errs...); err != nil && !errors.Is(err, net.ErrClosed) {
		slog.Warn("stopping", "error", err)
	}
}
