// Package standin is the simulated outside world: a post office that takes mail
// for .example addresses, and conferencing providers. It shares nothing with
// the program but the open protocols between them.
package standin

import (
	"embed"
	"fmt"
	"html/template"
	"net"
	"net/http"
	"slices"
	"sync"
	"time"
)

//go:embed pages/*.html pages/standin.css
var files embed.FS

var pages = template.Must(template.New("").Funcs(template.FuncMap{
	"at": func(t time.Time) string { return t.UTC().Format("2 Jan 15:04 UTC") },
}).ParseFS(files, "pages/*.html"))

// Mode is how a service behaves.
type Mode string

const (
	Working Mode = "working"
	Failing Mode = "failing" // answers, with errors
	Away    Mode = "away"    // drops every connection
	// Providers have three more.
	Slow      Mode = "slow"       // answers after a while
	Quota     Mode = "quota"      // has no calls left
	SignedOut Mode = "signed out" // no sign-in holds any more
)

// modesOf are those that a service has.
func modesOf(service string) []Mode {
	switch service {
	case "ostrel", "tamberline", "kestle":
		return []Mode{Working, Slow, Failing, Away, Quota, SignedOut}
	case "post", "calendars":
		return []Mode{Working, Failing, Away}
	}
	return nil
}

// World is everything outside.
type World struct {
	Post       *PostOffice
	Ostrel     *Ostrel
	Tamberline *Tamberline
	Kestle     *Kestle
	Calendars  *Calendars
	// Delay is how long a slow provider takes.
	Delay time.Duration

	mu    sync.Mutex
	modes map[string]Mode
}

// Config says where the outside world is reached.
type Config struct {
	// OstrelPublic, TamberlinePublic and KestlePublic are where browsers reach the providers.
	OstrelPublic, TamberlinePublic, KestlePublic string
	// AnswersTo is the SMTP listener that takes answers, "127.0.0.1:9102", for
	// addresses in AnswersDomain.
	AnswersTo, AnswersDomain string
	// Dir keeps mail and calls; empty keeps them in memory only.
	Dir string
	Now func() time.Time
	// LookupTXT finds the keys of signatures, nil for none.
	LookupTXT func(name string) ([]string, error)
}

// New makes the outside world.
func New(c Config) (*World, error) {
	w := &World{modes: map[string]Mode{}, Calendars: newCalendars(c.Now), Delay: 20 * time.Second}
	post, err := newPostOffice(c, func() Mode { return w.Mode("post") })
	if err != nil {
		return nil, err
	}
	w.Post = post
	if w.Ostrel, err = newOstrel(c, func() Mode { return w.Mode("ostrel") }); err != nil {
		return nil, err
	}
	w.Kestle = newKestle(c, func() Mode { return w.Mode("kestle") })
	w.Tamberline, err = newTamberline(c, func() Mode { return w.Mode("tamberline") })
	return w, err
}

// Mode is how a service ("post", "ostrel", "tamberline", "kestle", "calendars") behaves now.
func (w *World) Mode(service string) Mode {
	w.mu.Lock()
	defer w.mu.Unlock()
	if m := w.modes[service]; m != "" {
		return m
	}
	return Working
}

// Switch makes a service behave differently.
func (w *World) Switch(service string, m Mode) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.modes[service] = m
}

// Provider serves a conferencing provider, "ostrel", "tamberline" or "kestle".
func (w *World) Provider(name string) http.Handler {
	switch name {
	case "ostrel":
		return w.behave(name, w.Ostrel.handler())
	case "tamberline":
		return w.behave(name, w.Tamberline.handler())
	case "kestle":
		return w.behave(name, w.Kestle.handler())
	}
	return http.NotFoundHandler()
}

// Handler serves the pages of the post office below /post/, the calendars, and the switches.
func (w *World) Handler() http.Handler {
	mux := http.NewServeMux()
	mux.Handle("/post/", http.StripPrefix("/post", w.Post.handler()))
	mux.Handle("/calendars/", http.StripPrefix("/calendars", w.behave("calendars", w.Calendars.handler())))
	mux.HandleFunc("GET /{$}", w.index)
	mux.HandleFunc("POST /switch", w.switchMode)
	mux.HandleFunc("GET /standin.css", stylesheet)
	return mux
}

func stylesheet(rw http.ResponseWriter, r *http.Request) {
	http.ServeFileFS(rw, r, files, "pages/standin.css")
}

// behave makes a handler fail or drop connections as it was switched to.
func (w *World) behave(service string, next http.Handler) http.Handler {
	return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/standin.css" {
			next.ServeHTTP(rw, r)
			return
		}
		switch w.Mode(service) {
		case Slow:
			select {
			case <-time.After(w.Delay):
				next.ServeHTTP(rw, r)
			case <-r.Context().Done():
			}
		case Away:
			if conn, _, err := http.NewResponseController(rw).Hijack(); err == nil {
				conn.Close()
			}
		case Failing:
			http.Error(rw, `{"fault":{"kind":"internal","note":"something broke here"}}`, http.StatusInternalServerError)
		default:
			next.ServeHTTP(rw, r)
		}
	})
}

func (w *World) index(rw http.ResponseWriter, r *http.Request) {
	type service struct {
		Key, Title string
		Mode       Mode
		Modes      []Mode
	}
	var all []service
	for _, s := range [][2]string{{"post", "Post office"}, {"ostrel", "Ostrel, a provider with fresh links"}, {"tamberline", "Tamberline, a telephone bridge"},
		{"kestle", "Kestle, a provider with standing rooms"}, {"calendars", "Calendars of others"}} {
		all = append(all, service{s[0], s[1], w.Mode(s[0]), modesOf(s[0])})
	}
	show(rw, "index.html", all)
}

func (w *World) switchMode(rw http.ResponseWriter, r *http.Request) {
	service, mode := r.FormValue("service"), Mode(r.FormValue("mode"))
	if !slices.Contains(modesOf(service), mode) {
		http.Error(rw, "no such service or mode", http.StatusBadRequest)
		return
	}
	w.Switch(service, mode)
	http.Redirect(rw, r, "/", http.StatusSeeOther)
}

func show(rw http.ResponseWriter, name string, data any) {
	rw.Header().Set("Content-Type", "text/html; charset=utf-8")
	rw.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'")
	if err := pages.ExecuteTemplate(rw, name, data); err != nil {
		fmt.Fprintf(rw, "page: %v", err)
	}
}

// moody accepts connections and drops them at once while the service is away.
type moody struct {
	net.Listener
	mode func() Mode
}

func (l moody) Accept() (net.Conn, error) {
	for {
		conn, err := l.Listener.Accept()
		if err != nil || l.mode() != Away {
			return conn, err
		}
		conn.Close()
	}
}
