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
	"strings"
	"sync"
	"time"
)

//go:embed pages/*.html pages/standin.css
var files embed.FS

var pages = template.Must(template.New("").Funcs(template.FuncMap{
	"at": func(t time.Time) string { return t.UTC().Format("2 Jan 15:04 UTC") },
	"dict": func(service, title string, mode Mode, modes []Mode) map[string]any {
		return map[string]any{"Service": service, "Title": title, "Mode": mode, "Modes": modes}
	},
}).ParseFS(files, "pages/*.html"))

// Mode is how a service behaves.
type Mode string

const (
	Working Mode = "working"
	Failing Mode = "failing" // answers, with errors
	Away    Mode = "away"    // drops every connection
)

// World is everything outside.
type World struct {
	Post      *PostOffice
	Ostrel    *Ostrel
	Calendars *Calendars

	mu    sync.Mutex
	modes map[string]Mode
}

// Config says where the outside world is reached.
type Config struct {
	// OstrelPublic is where browsers reach Ostrel.
	OstrelPublic string
	// AnswersTo is the SMTP listener that takes answers, "127.0.0.1:9102", for
	// addresses in AnswersDomain.
	AnswersTo, AnswersDomain string
	// Dir keeps mail and calls; empty keeps them in memory only.
	Dir string
	Now func() time.Time
}

// New makes the outside world.
func New(c Config) (*World, error) {
	w := &World{modes: map[string]Mode{}, Calendars: newCalendars(c.Now)}
	post, err := newPostOffice(c, func() Mode { return w.Mode("post") })
	if err != nil {
		return nil, err
	}
	w.Post = post
	w.Ostrel, err = newOstrel(c)
	return w, err
}

// Mode is how a service ("post", "ostrel") behaves now.
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

// Handler serves all pages: the post office below /post/, Ostrel below /ostrel/
// and at every host name that begins with "ostrel.".
func (w *World) Handler() http.Handler {
	ostrel := w.behave("ostrel", w.Ostrel.handler())
	mux := http.NewServeMux()
	mux.Handle("/post/", http.StripPrefix("/post", w.Post.handler()))
	mux.Handle("/ostrel/", http.StripPrefix("/ostrel", ostrel))
	mux.Handle("/calendars/", http.StripPrefix("/calendars", w.behave("calendars", w.Calendars.handler())))
	mux.HandleFunc("GET /{$}", w.index)
	mux.HandleFunc("POST /switch", w.switchMode)
	mux.HandleFunc("GET /standin.css", stylesheet)
	return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if strings.HasPrefix(r.Host, "ostrel.") {
			ostrel.ServeHTTP(rw, r)
			return
		}
		mux.ServeHTTP(rw, r)
	})
}

func stylesheet(rw http.ResponseWriter, r *http.Request) {
	http.ServeFileFS(rw, r, files, "pages/standin.css")
}

// behave makes a handler fail or drop connections as it was switched to.
func (w *World) behave(service string, next http.Handler) http.Handler {
	return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		switch w.Mode(service) {
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
	show(rw, "index.html", map[string]any{"Post": w.Mode("post"), "Ostrel": w.Mode("ostrel"), "Calendars": w.Mode("calendars"), "Modes": []Mode{Working, Failing, Away}})
}

func (w *World) switchMode(rw http.ResponseWriter, r *http.Request) {
	service, mode := r.FormValue("service"), Mode(r.FormValue("mode"))
	if service != "post" && service != "ostrel" && service != "calendars" || mode != Working && mode != Failing && mode != Away {
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
