package standin

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"math/big"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"
)

// The credentials that the demo and the tests register.
const (
	OstrelClientID     = "jembro"
	OstrelClientSecret = "ostrel-stand-in-secret"
	planMinutes        = 45
	planDays           = 400 // for which a link is kept
)

// Ostrel is a conferencing service: fresh links with passcode and door, on a
// free plan that ends calls after 45 minutes and keeps a link for 400 days.
type Ostrel struct {
	public string
	now    func() time.Time
	file   string // keeps everything; empty: it is forgotten
	mode   func() Mode

	mu         sync.Mutex
	codes      map[string]grant  // by authorization code
	tokens     map[string]string // access token to account
	renewals   map[string]string // refresh token to account
	gatherings map[string]Gathering
}

// memory is what the file holds.
type memory struct {
	Tokens, Renewals map[string]string
	Gatherings       map[string]Gathering
}

type grant struct {
	account, redirect, challenge string
	until                        time.Time
}

// Gathering is a call at Ostrel.
type Gathering struct {
	Ref       string `json:"ref"`
	Topic     string `json:"topic"`
	Opens     string `json:"opens_at"`
	Closes    string `json:"closes_at"`
	Door      string `json:"door"`   // "open", "guests", "locked"
	Floor     string `json:"floor"`  // who speaks: "free", "hosts"
	Begins    string `json:"begins"` // "anytime", "host"
	Address   string `json:"address"`
	Dial      string `json:"dial_number"`
	Word      string `json:"word"`
	Owner     string `json:"owner"`
	Withdrawn bool   `json:"withdrawn,omitempty"`
}

func newOstrel(c Config, mode func() Mode) (*Ostrel, error) {
	o := &Ostrel{public: c.OstrelPublic, now: c.Now, mode: mode, codes: map[string]grant{}, tokens: map[string]string{},
		renewals: map[string]string{}, gatherings: map[string]Gathering{}}
	if c.Dir == "" {
		return o, nil
	}
	o.file = filepath.Join(c.Dir, "ostrel.state")
	b, err := os.ReadFile(o.file)
	if errors.Is(err, os.ErrNotExist) {
		return o, nil
	}
	if err != nil {
		return nil, err
	}
	m := memory{o.tokens, o.renewals, o.gatherings}
	return o, json.Unmarshal(b, &m)
}

// keep writes everything down; the caller holds the lock.
func (o *Ostrel) keep() {
	if o.file == "" {
		return
	}
	b, err := json.Marshal(memory{o.tokens, o.renewals, o.gatherings})
	if err == nil {
		err = os.WriteFile(o.file, b, 0o600)
	}
	if err != nil {
		slog.Error("stand-in Ostrel cannot keep its state", "error", err)
	}
}

func (o *Ostrel) put(g Gathering) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.gatherings[g.Ref] = g
	o.keep()
}

// New makes a gathering of the topic, times and owner that g has.
func (o *Ostrel) New(g Gathering) Gathering {
	number := digits(8)
	g.Ref = digits(2) + "-" + digits(4)
	g.Address = o.public + "/j/" + g.Ref
	g.Dial = number[:3] + " " + number[3:6] + " " + number[6:]
	if g.Word == "" {
		g.Word = word()
	}
	o.put(g)
	return g
}

// Gathering finds a call by its name.
func (o *Ostrel) Gathering(ref string) (Gathering, bool) {
	o.mu.Lock()
	defer o.mu.Unlock()
	g, ok := o.gatherings[ref]
	return g, ok
}

// Forget makes every access token and sign-in invalid.
func (o *Ostrel) Forget() {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.tokens, o.renewals = map[string]string{}, map[string]string{}
	o.keep()
}

func (o *Ostrel) handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /oauth/authorize", o.authorize)
	mux.HandleFunc("POST /oauth/authorize", o.allow)
	mux.HandleFunc("POST /oauth/token", o.token)
	mux.HandleFunc("POST /v1/gatherings", o.make)
	mux.HandleFunc("GET /v1/gatherings/{ref}", o.read)
	mux.HandleFunc("PATCH /v1/gatherings/{ref}", o.change)
	mux.HandleFunc("DELETE /v1/gatherings/{ref}", o.withdraw)
	mux.HandleFunc("GET /j/{ref}", o.join)
	mux.HandleFunc("GET /standin.css", stylesheet)
	return mux
}

func (o *Ostrel) authorize(rw http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	if q.Get("client_id") != OstrelClientID || q.Get("response_type") != "code" || q.Get("code_challenge_method") != "S256" {
		http.Error(rw, "unknown application", http.StatusBadRequest)
		return
	}
	rw.Header().Set("Content-Type", "text/html; charset=utf-8")
	if err := pages.ExecuteTemplate(rw, "ostrel-signin.html", map[string]string{
		"Redirect": q.Get("redirect_uri"), "State": q.Get("state"), "Challenge": q.Get("code_challenge")}); err != nil {
		http.Error(rw, err.Error(), http.StatusInternalServerError)
	}
}

func (o *Ostrel) allow(rw http.ResponseWriter, r *http.Request) {
	back, err := url.Parse(r.FormValue("redirect"))
	if err != nil || back.Scheme != "http" && back.Scheme != "https" {
		http.Error(rw, "no way back", http.StatusBadRequest)
		return
	}
	q := url.Values{"state": {r.FormValue("state")}}
	account := strings.TrimSpace(r.FormValue("account"))
	if r.FormValue("do") == "allow" && account != "" {
		code := rand.Text()
		o.mu.Lock()
		o.codes[code] = grant{account, r.FormValue("redirect"), r.FormValue("challenge"), o.now().Add(time.Minute)}
		o.mu.Unlock()
		q.Set("code", code)
	} else {
		q.Set("error", "access_denied")
	}
	back.RawQuery = q.Encode()
	http.Redirect(rw, r, back.String(), http.StatusSeeOther)
}

func (o *Ostrel) token(rw http.ResponseWriter, r *http.Request) {
	id, secret, _ := r.BasicAuth()
	if id != OstrelClientID || secret != OstrelClientSecret {
		reply(rw, http.StatusUnauthorized, map[string]string{"error": "invalid_client"})
		return
	}
	if o.mode() == SignedOut && r.FormValue("grant_type") == "refresh_token" {
		reply(rw, http.StatusBadRequest, map[string]string{"error": "invalid_grant"})
		return
	}
	o.mu.Lock()
	defer o.mu.Unlock()
	var account string
	switch r.FormValue("grant_type") {
	case "authorization_code":
		g, ok := o.codes[r.FormValue("code")]
		delete(o.codes, r.FormValue("code"))
		sum := sha256.Sum256([]byte(r.FormValue("code_verifier")))
		if ok && g.redirect == r.FormValue("redirect_uri") && g.challenge == base64.RawURLEncoding.EncodeToString(sum[:]) && o.now().Before(g.until) {
			account = g.account
		}
	case "refresh_token":
		account = o.renewals[r.FormValue("refresh_token")]
		delete(o.renewals, r.FormValue("refresh_token"))
	}
	if account == "" {
		reply(rw, http.StatusBadRequest, map[string]string{"error": "invalid_grant"})
		return
	}
	access, renewal := rand.Text(), rand.Text()
	o.tokens[access], o.renewals[renewal] = account, account
	o.keep()
	reply(rw, http.StatusOK, map[string]any{"access_token": access, "token_type": "Bearer", "expires_in": 3600, "refresh_token": renewal})
}

func reply(rw http.ResponseWriter, status int, body any) {
	rw.Header().Set("Content-Type", "application/json")
	rw.WriteHeader(status)
	json.NewEncoder(rw).Encode(body)
}

func fault(rw http.ResponseWriter, status int, kind, note string) {
	reply(rw, status, map[string]any{"fault": map[string]string{"kind": kind, "note": note}})
}

// account is whose token a request carries; it has answered when there is none.
func (o *Ostrel) account(rw http.ResponseWriter, r *http.Request) string {
	token, _ := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
	o.mu.Lock()
	account := o.tokens[token]
	o.mu.Unlock()
	if account == "" || o.mode() == SignedOut {
		account = ""
		fault(rw, http.StatusUnauthorized, "signed_out", "sign in first")
	}
	return account
}

func digits(n int) string {
	limit := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n)), nil)
	v, err := rand.Int(rand.Reader, limit)
	if err != nil {
		panic(err)
	}
	return fmt.Sprintf("%0*d", n, v)
}

var words = []string{"veld", "reed", "slate", "fern", "quay", "loam", "birch", "tarn", "wold", "marl", "heath", "cove"}

func word() string {
	v, err := rand.Int(rand.Reader, big.NewInt(int64(len(words))))
	if err != nil {
		panic(err)
	}
	return words[v.Int64()] + "-" + digits(2)
}

func (o *Ostrel) make(rw http.ResponseWriter, r *http.Request) {
	account := o.account(rw, r)
	if account == "" {
		return
	}
	if o.mode() == Quota {
		fault(rw, http.StatusConflict, "quota", "the free plan has no gatherings left this month")
		return
	}
	var g Gathering
	if err := json.NewDecoder(r.Body).Decode(&g); err != nil || strings.TrimSpace(g.Topic) == "" {
		fault(rw, http.StatusUnprocessableEntity, "topic_missing", "a gathering needs a topic")
		return
	}
	g.Owner = account
	g = o.New(g)
	reply(rw, http.StatusCreated, map[string]any{"gathering": g, "plan": map[string]any{"name": "free", "ends_after_minutes": planMinutes,
		"keeps_links_until": o.now().UTC().AddDate(0, 0, planDays).Format(time.RFC3339)}})
}

// owned finds the gathering of a request; it has answered when there is none.
func (o *Ostrel) owned(rw http.ResponseWriter, r *http.Request) (Gathering, bool) {
	account := o.account(rw, r)
	if account == "" {
		return Gathering{}, false
	}
	g, ok := o.Gathering(r.PathValue("ref"))
	if !ok || g.Owner != account || g.Withdrawn {
		fault(rw, http.StatusNotFound, "unknown", "there is no such gathering")
		return g, false
	}
	return g, true
}

func (o *Ostrel) read(rw http.ResponseWriter, r *http.Request) {
	if g, ok := o.owned(rw, r); ok {
		reply(rw, http.StatusOK, map[string]any{"gathering": g})
	}
}

func (o *Ostrel) change(rw http.ResponseWriter, r *http.Request) {
	g, ok := o.owned(rw, r)
	if !ok {
		return
	}
	var to Gathering
	if err := json.NewDecoder(r.Body).Decode(&to); err != nil {
		fault(rw, http.StatusUnprocessableEntity, "unreadable", "that is no gathering")
		return
	}
	g.Topic, g.Opens, g.Closes = to.Topic, to.Opens, to.Closes
	if to.Door != "" {
		g.Door, g.Floor, g.Begins = to.Door, to.Floor, to.Begins
	}
	if len(to.Word) > 20 {
		fault(rw, http.StatusUnprocessableEntity, "word_long", "a word has 20 letters at most")
		return
	}
	if to.Word != "" {
		g.Word = to.Word
	}
	o.put(g)
	reply(rw, http.StatusOK, map[string]any{"gathering": g})
}

func (o *Ostrel) withdraw(rw http.ResponseWriter, r *http.Request) {
	g, ok := o.owned(rw, r)
	if !ok {
		return
	}
	g.Withdrawn = true
	o.put(g)
	rw.WriteHeader(http.StatusNoContent)
}

func (o *Ostrel) join(rw http.ResponseWriter, r *http.Request) {
	g, ok := o.Gathering(r.PathValue("ref"))
	name := strings.TrimSpace(r.FormValue("name"))
	data := map[string]any{"Gathering": g, "Known": ok && !g.Withdrawn, "Name": name, "Minutes": planMinutes}
	switch {
	case name == "":
	case r.FormValue("word") != g.Word:
		data["Verdict"] = "would not be let in: the passcode is wrong"
	case strings.EqualFold(name, g.Owner):
		data["Verdict"] = "would be let in at once, as the one who made the gathering"
	case g.Door == "open":
		data["Verdict"] = "would be let in at once: nobody waits at this door"
	default:
		data["Verdict"] = "would wait at the door until " + g.Owner + " opens"
	}
	show(rw, "ostrel-join.html", data)
}
