package standin

import (
	"encoding/json"
	"encoding/xml"
	"errors"
	"log/slog"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"time"
)

// TamberlineKey is the key that the demo house has at Tamberline.
const TamberlineKey = "tamberline-stand-in-key"

// Tamberline is a telephone bridge with a page for browsers: one key for the house, requests
// as forms, answers in XML, numbers in 14 countries.
type Tamberline struct {
	public string
	now    func() time.Time
	file   string
	mode   func() Mode

	mu      sync.Mutex
	bridges map[string]Bridge
	asked   []time.Time // lately
}

// Bridge is a call at Tamberline.
type Bridge struct {
	ID, Subject, HostPIN string
	Begins               int64 // Unix seconds
	Minutes              int
	Waiting              string // "nobody" or "everybody"
	Listen               bool   // only the organiser speaks
	Closed               bool
}

// lines are its numbers: invented, and of a form that each country has.
var lines = [][2]string{{"PT", "+351210005506"}, {"NL", "+31207990119"}, {"JP", "+81345780119"}, {"KE", "+254205000119"}, {"BR", "+551130040119"},
	{"GB", "+442079460119"}, {"DE", "+493023125019"}, {"FR", "+33170180119"}, {"ES", "+34911980119"}, {"IT", "+390689970119"}, {"SE", "+46850510119"},
	{"PL", "+48223060119"}, {"US", "+12125550119"}, {"AU", "+61270100119"}}

const (
	mostAsked = 30 // requests
	askedIn   = 10 * time.Second
)

func newTamberline(c Config, mode func() Mode) (*Tamberline, error) {
	t := &Tamberline{public: c.TamberlinePublic, now: c.Now, mode: mode, bridges: map[string]Bridge{}}
	if c.Dir == "" {
		return t, nil
	}
	t.file = filepath.Join(c.Dir, "tamberline.state")
	b, err := os.ReadFile(t.file)
	if errors.Is(err, os.ErrNotExist) {
		return t, nil
	}
	if err != nil {
		return nil, err
	}
	return t, json.Unmarshal(b, &t.bridges)
}

// put keeps a bridge; the caller holds the lock.
func (t *Tamberline) put(b Bridge) {
	t.bridges[b.ID] = b
	if t.file == "" {
		return
	}
	raw, err := json.Marshal(t.bridges)
	if err == nil {
		err = os.WriteFile(t.file, raw, 0o600)
	}
	if err != nil {
		slog.Error("stand-in Tamberline cannot keep its state", "error", err)
	}
}

// Open opens a bridge of the subject and time that b has.
func (t *Tamberline) Open(b Bridge) Bridge {
	b.ID, b.HostPIN = digits(8), digits(6)
	t.mu.Lock()
	defer t.mu.Unlock()
	t.put(b)
	return b
}

// Close closes a bridge from its own side.
func (t *Tamberline) Close(id string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	b := t.bridges[id]
	b.Closed = true
	t.put(b)
}

// Page is where browsers join a bridge.
func (t *Tamberline) Page(id string) string { return t.public + "/c/" + id }

// TamberlineLines are its numbers: the country and the number of each.
func TamberlineLines() [][2]string { return lines }

// Bridge finds a call by its number.
func (t *Tamberline) Bridge(id string) (Bridge, bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	b, ok := t.bridges[id]
	return b, ok
}

func (t *Tamberline) handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("POST /bridge/open", t.asked30(t.open))
	mux.HandleFunc("GET /bridge/{id}", t.asked30(t.read))
	mux.HandleFunc("POST /bridge/{id}", t.asked30(t.change))
	mux.HandleFunc("POST /bridge/{id}/close", t.asked30(t.close))
	mux.HandleFunc("GET /c/{id}", t.join)
	mux.HandleFunc("GET /standin.css", stylesheet)
	return mux
}

type bridgeXML struct {
	XMLName xml.Name `xml:"conference"`
	ID      string   `xml:"id,attr"`
	Web     string   `xml:"web"`
	Pins    struct {
		Participant string `xml:"participant"`
		Organiser   string `xml:"organiser"`
	} `xml:"pins"`
	Lines []lineXML `xml:"lines>line"`
}

type lineXML struct {
	Country string `xml:"country,attr"`
	Number  string `xml:",chardata"`
}

type errorXML struct {
	XMLName xml.Name `xml:"error"`
	Code    string   `xml:"code,attr"`
	Text    string   `xml:",chardata"`
}

func replyXML(rw http.ResponseWriter, status int, body any) {
	rw.Header().Set("Content-Type", "application/xml; charset=utf-8")
	rw.WriteHeader(status)
	rw.Write([]byte(xml.Header))
	xml.NewEncoder(rw).Encode(body)
}

// asked30 lets a request through that carries the key, thirty of them in ten seconds.
func (t *Tamberline) asked30(next http.HandlerFunc) http.HandlerFunc {
	return func(rw http.ResponseWriter, r *http.Request) {
		if r.Header.Get("X-Bridge-Key") != TamberlineKey || t.mode() == SignedOut {
			replyXML(rw, http.StatusForbidden, errorXML{Code: "key", Text: "this key opens no bridge"})
			return
		}
		t.mu.Lock()
		since := time.Now().Add(-askedIn)
		for len(t.asked) > 0 && t.asked[0].Before(since) {
			t.asked = t.asked[1:]
		}
		full := len(t.asked) >= mostAsked
		if !full {
			t.asked = append(t.asked, time.Now())
		}
		t.mu.Unlock()
		if full {
			rw.Header().Set("Retry-After", "2")
			replyXML(rw, http.StatusTooManyRequests, errorXML{Code: "pace", Text: "thirty requests in ten seconds"})
			return
		}
		next(rw, r)
	}
}

func (t *Tamberline) answer(rw http.ResponseWriter, status int, b Bridge) {
	x := bridgeXML{ID: b.ID, Web: t.Page(b.ID)}
	x.Pins.Participant, x.Pins.Organiser = b.ID, b.HostPIN
	for _, l := range lines {
		x.Lines = append(x.Lines, lineXML{l[0], l[1]})
	}
	replyXML(rw, status, x)
}

// fill takes over what a form says of a bridge.
func (b *Bridge) fill(r *http.Request) {
	b.Subject = strings.TrimSpace(r.PostFormValue("subject"))
	b.Begins, _ = strconv.ParseInt(r.PostFormValue("begin"), 10, 64)
	b.Minutes, _ = strconv.Atoi(r.PostFormValue("length"))
	b.Waiting, b.Listen = r.PostFormValue("waiting"), r.PostFormValue("listen") == "Y"
}

func (t *Tamberline) open(rw http.ResponseWriter, r *http.Request) {
	if t.mode() == Quota {
		replyXML(rw, http.StatusPaymentRequired, errorXML{Code: "credit", Text: "the house has no credit left"})
		return
	}
	var b Bridge
	if b.fill(r); b.Subject == "" {
		replyXML(rw, http.StatusBadRequest, errorXML{Code: "subject", Text: "a bridge needs a subject"})
		return
	}
	t.answer(rw, http.StatusOK, t.Open(b))
}

// known finds the bridge of a request; it has answered when there is none.
func (t *Tamberline) known(rw http.ResponseWriter, r *http.Request) (Bridge, bool) {
	b, ok := t.Bridge(r.PathValue("id"))
	if !ok || b.Closed {
		replyXML(rw, http.StatusGone, errorXML{Code: "closed", Text: "this bridge is closed"})
	}
	return b, ok && !b.Closed
}

func (t *Tamberline) read(rw http.ResponseWriter, r *http.Request) {
	if b, ok := t.known(rw, r); ok {
		t.answer(rw, http.StatusOK, b)
	}
}

func (t *Tamberline) change(rw http.ResponseWriter, r *http.Request) {
	b, ok := t.known(rw, r)
	if !ok {
		return
	}
	b.fill(r)
	t.mu.Lock()
	t.put(b)
	t.mu.Unlock()
	t.answer(rw, http.StatusOK, b)
}

func (t *Tamberline) close(rw http.ResponseWriter, r *http.Request) {
	b, ok := t.known(rw, r)
	if !ok {
		return
	}
	b.Closed = true
	t.mu.Lock()
	t.put(b)
	t.mu.Unlock()
	replyXML(rw, http.StatusOK, struct {
		XMLName xml.Name `xml:"closed"`
	}{})
}

func (t *Tamberline) join(rw http.ResponseWriter, r *http.Request) {
	b, ok := t.Bridge(r.PathValue("id"))
	show(rw, "tamberline-join.html", map[string]any{"Bridge": b, "Known": ok && !b.Closed, "Lines": lines})
}
