package standin

import (
	"compress/gzip"
	"crypto/sha256"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"
)

// Calendars keeps calendars that others publish, each under /calendars/NAME, and some that
// behave as none should.
type Calendars struct {
	now func() time.Time

	mu    sync.Mutex
	texts map[string]string
	asked map[string]int
}

func newCalendars(now func() time.Time) *Calendars {
	if now == nil {
		now = time.Now
	}
	return &Calendars{now: now, texts: map[string]string{}, asked: map[string]int{}}
}

// Publish puts a calendar under a name, "" takes it away.
func (c *Calendars) Publish(name, text string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if text == "" {
		delete(c.texts, name)
		return
	}
	c.texts[name] = text
}

// Asked is how often a name was asked for.
func (c *Calendars) Asked(name string) int {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.asked[name]
}

// Event is an entry of a published calendar, in UTC. More are further lines.
type Event struct {
	UID, Title string
	Start      time.Time
	Length     time.Duration
	More       string
}

// Calendar writes entries as a calendar.
func Calendar(name string, refresh time.Duration, events ...Event) string {
	var out strings.Builder
	fmt.Fprintf(&out, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//calendars.example//EN\r\nNAME:%s\r\n", name)
	if refresh > 0 {
		fmt.Fprintf(&out, "REFRESH-INTERVAL;VALUE=DURATION:PT%dM\r\n", int(refresh.Minutes()))
	}
	for _, e := range events {
		fmt.Fprintf(&out, "BEGIN:VEVENT\r\nUID:%s\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:%s\r\nDTSTART:%s\r\nDTEND:%s\r\n", e.UID, e.Title,
			e.Start.UTC().Format("20060102T150405Z"), e.Start.Add(e.Length).UTC().Format("20060102T150405Z"))
		if e.More != "" {
			out.WriteString(e.More + "\r\n")
		}
		out.WriteString("END:VEVENT\r\n")
	}
	out.WriteString("END:VCALENDAR\r\n")
	return out.String()
}

func (c *Calendars) handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /slow.ics", func(rw http.ResponseWriter, r *http.Request) { // a byte now and then
		rw.Header().Set("Content-Type", "text/calendar")
		fmt.Fprint(rw, "BEGIN:VCALENDAR\r\n")
		for r.Context().Err() == nil {
			fmt.Fprint(rw, "X")
			http.NewResponseController(rw).Flush()
			time.Sleep(200 * time.Millisecond)
		}
	})
	mux.HandleFunc("GET /endless.ics", func(rw http.ResponseWriter, r *http.Request) {
		line := []byte(strings.Repeat("X-FILLER:more\r\n", 4000))
		for r.Context().Err() == nil {
			if _, err := rw.Write(line); err != nil {
				return
			}
		}
	})
	mux.HandleFunc("GET /bomb.ics", func(rw http.ResponseWriter, r *http.Request) { // a gigabyte, packed
		rw.Header().Set("Content-Encoding", "gzip")
		w := gzip.NewWriter(rw)
		zeros := make([]byte, 1<<20)
		for range 1 << 10 {
			if _, err := w.Write(zeros); err != nil || r.Context().Err() != nil {
				return
			}
		}
		w.Close()
	})
	mux.HandleFunc("GET /page.ics", func(rw http.ResponseWriter, r *http.Request) {
		rw.Header().Set("Content-Type", "text/html")
		fmt.Fprint(rw, "<!doctype html><title>Sign in</title><p>Sign in to see this calendar.</p>")
	})
	mux.HandleFunc("GET /broken.ics", func(rw http.ResponseWriter, r *http.Request) {
		http.Error(rw, "it broke", http.StatusInternalServerError)
	})
	mux.HandleFunc("GET /locked.ics", func(rw http.ResponseWriter, r *http.Request) { http.Error(rw, "who are you", http.StatusUnauthorized) })
	mux.HandleFunc("GET /half.ics", func(rw http.ResponseWriter, r *http.Request) { // says yes and hangs up
		rw.Header().Set("Content-Length", "5000")
		fmt.Fprint(rw, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\n")
		http.NewResponseController(rw).Flush()
		if conn, _, err := http.NewResponseController(rw).Hijack(); err == nil {
			conn.Close()
		}
	})
	mux.HandleFunc("GET /away.ics", func(rw http.ResponseWriter, r *http.Request) { // into the house
		http.Redirect(rw, r, "http://10.1.2.3/secret.ics", http.StatusFound)
	})
	mux.HandleFunc("GET /round.ics", func(rw http.ResponseWriter, r *http.Request) {
		http.Redirect(rw, r, "/calendars/round.ics", http.StatusFound)
	})
	mux.HandleFunc("GET /large.ics", func(rw http.ResponseWriter, r *http.Request) { c.give(rw, r, c.large(5000)) })
	mux.HandleFunc("GET /changing.ics", func(rw http.ResponseWriter, r *http.Request) { // an hour later each time
		c.mu.Lock()
		n := c.asked["changing.ics"]
		c.asked["changing.ics"]++
		c.mu.Unlock()
		start := c.now().UTC().Truncate(24*time.Hour).AddDate(0, 0, 1).Add(time.Duration(8+n%10) * time.Hour)
		c.give(rw, r, Calendar("Changing", 15*time.Minute, Event{UID: "changing@calendars.example", Title: "It moves", Start: start, Length: time.Hour}))
	})
	mux.HandleFunc("GET /{name}", func(rw http.ResponseWriter, r *http.Request) {
		c.mu.Lock()
		text, known := c.texts[r.PathValue("name")]
		c.asked[r.PathValue("name")]++
		c.mu.Unlock()
		if !known {
			http.NotFound(rw, r)
			return
		}
		c.give(rw, r, text)
	})
	return mux
}

// large is a calendar of so many entries, a third of which repeat.
func (c *Calendars) large(n int) string {
	day := c.now().UTC().Truncate(24 * time.Hour)
	events := make([]Event, n)
	for i := range events {
		events[i] = Event{UID: fmt.Sprintf("%d@calendars.example", i), Title: fmt.Sprintf("Entry %d", i), Length: 30 * time.Minute,
			Start: day.AddDate(0, 0, i%360-60).Add(time.Duration(7+i%11) * time.Hour)}
		if i%3 == 0 {
			events[i].More = "RRULE:FREQ=WEEKLY;COUNT=8"
		}
	}
	return Calendar("Large", 0, events...)
}

// give answers with a calendar, not again to who has it already.
func (c *Calendars) give(rw http.ResponseWriter, r *http.Request, text string) {
	etag := fmt.Sprintf(`"%x"`, sha256.Sum256([]byte(text)))[:34] + `"`
	rw.Header().Set("ETag", etag)
	if r.Header.Get("If-None-Match") == etag {
		rw.WriteHeader(http.StatusNotModified)
		return
	}
	rw.Header().Set("Content-Type", "text/calendar; charset=utf-8")
	if !strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
		fmt.Fprint(rw, text)
		return
	}
	rw.Header().Set("Content-Encoding", "gzip")
	w := gzip.NewWriter(rw)
	defer w.Close()
	fmt.Fprint(w, text)
}
