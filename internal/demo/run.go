package demo

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"hash/crc32"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"path/filepath"
	"sync/atomic"
	"time"

	"jembro/internal/mail"
	"jembro/internal/postgres/cluster"
	"jembro/internal/program"
	"jembro/internal/schedule"
	"jembro/internal/standin"
)

// Options say where a demo runs.
type Options struct {
	// Port serves the program; the stand-ins' pages are at the next one, the
	// mail for the program at the one after, the post office at the third; the fourth
	// serves the program over TLS and HTTP/2; the next three are the conferencing providers.
	Port int
	// Data keeps everything; it is made when it is not there.
	Data  string
	Reset bool   // forget what Data holds
	Now   string // as program.Config.Now
	// UndoSeconds is as program.Config.UndoSeconds.
	UndoSeconds int
	Files       fs.FS
	// Durable waits for the disk.
	Durable bool
	// Say hears what is being done.
	Say func(format string, args ...any)
}

// Running is a demo: a database, the outside world and the program.
type Running struct {
	Program  *program.Program
	World    *standin.World
	BaseURL  string // of the program
	TLSURL   string // the same over TLS and HTTP/2
	WorldURL string // of the stand-ins' pages

	front     *program.Front
	cluster   *cluster.Cluster
	clock     atomic.Pointer[schedule.Setting] // of the program, once it runs
	pages     *http.Server
	post      net.Listener
	providers []*http.Server
}

const (
	host       = "127.0.0.1"
	mailDomain = "meet.marrowby.example"
)

func address(port int) string { return net.JoinHostPort(host, fmt.Sprint(port)) }

// Start brings up a private database cluster, the outside world and the
// program, and loads the demo house once.
func Start(ctx context.Context, o Options) (_ *Running, err error) {
	r := &Running{BaseURL: fmt.Sprintf("http://%s:%d", host, o.Port), WorldURL: fmt.Sprintf("http://%s:%d", host, o.Port+1)}
	defer func() {
		if err != nil {
			r.Stop()
		}
	}()
	if err := portsFree(o.Port, o.Port+1, o.Port+2, o.Port+3, o.Port+4, o.Port+5, o.Port+6, o.Port+7); err != nil {
		return nil, err
	}
	data, err := filepath.Abs(o.Data)
	if err != nil {
		return nil, err
	}
	database := databaseDir(data, o.Say)
	if o.Reset {
		o.Say("Forgetting what %s holds", data)
		for _, dir := range []string{database, database + ".password", database + ".log", filepath.Join(data, "outside"), filepath.Join(data, "secret")} {
			if err := os.RemoveAll(dir); err != nil {
				return nil, err
			}
		}
	}
	if err := os.MkdirAll(data, 0o711); err != nil {
		return nil, err
	}
	secret, err := keptSecret(filepath.Join(data, "secret"))
	if err != nil {
		return nil, err
	}
	o.Say("Starting a private PostgreSQL in %s", database)
	if r.cluster, err = cluster.Start(ctx, cluster.Options{Dir: database, Durable: o.Durable}); err != nil {
		return nil, err
	}
	if err := r.cluster.Create(ctx, "jembro", ""); err != nil {
		return nil, err
	}
	config := r.config(o, secret)
	config.DKIMKey, config.DKIMSelector = filepath.Join(data, "mail-key.pem"), "jembro"
	signer, err := keptKey(config.DKIMKey, config.DKIMSelector)
	if err != nil {
		return nil, err
	}
	if err := r.startWorld(o, config, signer, filepath.Join(data, "outside")); err != nil {
		return nil, err
	}
	if r.Program, err = program.Start(ctx, config); err != nil {
		return nil, err
	}
	r.clock.Store(&r.Program.Deeds.Setting)
	if err = r.startFront(o.Port + 4); err != nil {
		return nil, err
	}
	r.publishCalendars()
	if err = Load(ctx, r.Program.Store, r.Program.Deeds, r.link, r.WorldURL); err != nil {
		return r, err
	}
	return r, r.describeProviders(ctx, o.Port)
}

// standins is where they are asked.
var standins = []netip.Prefix{netip.MustParsePrefix("127.0.0.1/32")}

// config is how the demo sets the program up.
func (r *Running) config(o Options, secret string) program.Config {
	return program.Config{
		DatabaseURL: r.cluster.URL("jembro"), Secret: secret, BaseURL: r.BaseURL, House: "Marrowby Museums",
		Listen: address(o.Port), MailListen: address(o.Port + 2), MailDomain: mailDomain,
		RelayHost: host, RelayPort: o.Port + 3, RelayPlain: true,
		CalendarNets: standins, ProviderNets: standins,
		SignInsPerMinute: 60, GuestCallsPerMinute: 600, Now: o.Now, UndoSeconds: o.UndoSeconds, Files: o.Files,
	}
}

func (r *Running) startFront(port int) error {
	cert, err := Certificate(time.Now())
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", address(port))
	if err != nil {
		return err
	}
	r.TLSURL = "https://" + address(port)
	r.front = program.ServeTLS(l, cert, r.Program.Web.Addr().String(), func(err error) { slog.Warn("serving TLS", "error", err) })
	return nil
}

func (r *Running) startWorld(o Options, c program.Config, signer *mail.Signer, dir string) error {
	var err error
	r.World, err = standin.New(standin.Config{OstrelPublic: publicAt(o.Port, 0), TamberlinePublic: publicAt(o.Port, 1), KestlePublic: publicAt(o.Port, 2), AnswersTo: c.MailListen,
		AnswersDomain: mailDomain, Dir: dir, Now: r.now, LookupTXT: recordsOf(signer)})
	if err != nil {
		return err
	}
	pages, err := net.Listen("tcp", address(o.Port+1))
	if err != nil {
		return err
	}
	r.pages = &http.Server{Handler: r.World.Handler(), ReadHeaderTimeout: 10 * time.Second}
	go r.pages.Serve(pages)
	if r.post, err = net.Listen("tcp", address(o.Port+3)); err != nil {
		return err
	}
	go r.World.Post.Serve(r.post)
	return r.startProviders(o.Port)
}

// now is what the program's clock shows: the outside world has no other time.
func (r *Running) now() time.Time {
	if set := r.clock.Load(); set != nil {
		return set.Now()
	}
	return time.Now()
}

// Stop ends everything, the database last.
func (r *Running) Stop() {
	if r.front != nil {
		within, cancel := context.WithTimeout(context.Background(), 2*time.Second)
		defer cancel()
		r.front.Stop(within)
	}
	if r.Program != nil {
		r.Program.Stop()
	}
	if r.pages != nil {
		r.pages.Close()
	}
	for _, p := range r.providers {
		p.Close()
	}
	if r.post != nil {
		r.post.Close()
	}
	if r.cluster != nil {
		r.cluster.Stop()
	}
}

func portsFree(ports ...int) error {
	for _, p := range ports {
		l, err := net.Listen("tcp", address(p))
		if err != nil {
			return fmt.Errorf("port %d is taken, perhaps by another demo; choose another one, as in: PORT=%d make demo", p, p+10)
		}
		l.Close()
	}
	return nil
}

// databaseDir is below data, unless the account that PostgreSQL runs as cannot
// get there, as in root's home.
func databaseDir(data string, say func(string, ...any)) string {
	dir := filepath.Join(data, "postgres")
	if cluster.Reachable(dir) {
		return dir
	}
	elsewhere := fmt.Sprintf("/var/lib/postgresql/jembro-%x", crc32.ChecksumIEEE([]byte(data)))
	say("The user postgres cannot get into %s; the database lives in %s", data, elsewhere)
	return elsewhere
}

// keptKey is what the demo signs its mails with, made once.
func keptKey(name, selector string) (*mail.Signer, error) {
	if _, err := os.Stat(name); errors.Is(err, os.ErrNotExist) {
		key, err := mail.NewKey()
		if err != nil {
			return nil, err
		}
		if err := os.WriteFile(name, key, 0o600); err != nil {
			return nil, err
		}
	}
	return mail.ReadSigner(mailDomain, selector, name)
}

// recordsOf is the DNS in which others look the key up.
func recordsOf(s *mail.Signer) func(name string) ([]string, error) {
	return func(name string) ([]string, error) {
		if name != s.Name() {
			return nil, fmt.Errorf("no such name: %s", name)
		}
		record, err := s.Record()
		return []string{record}, err
	}
}

// keptSecret is made once; with another one, addresses in sent mails would lead
// nowhere.
func keptSecret(name string) (string, error) {
	b, err := os.ReadFile(name)
	if errors.Is(err, os.ErrNotExist) {
		secret := rand.Text()
		return secret, os.WriteFile(name, []byte(secret), 0o600)
	}
	return string(b), err
}
