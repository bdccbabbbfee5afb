package standin

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
)

// KestleUser and KestlePassword are those of the demo house at Kestle.
const (
	KestleUser     = "marrowby"
	KestlePassword = "kestle-stand-in-password"
)

// Kestle has standing rooms only: a name and a password for the house, a list in pages, and
// errors that come with status 200.
type Kestle struct {
	public string
	mode   func() Mode
	rooms  []kestleRoom
}

type kestleRoom struct {
	Slug  string `json:"slug"`
	Label string `json:"label"`
	Href  string `json:"href"`
	Seats int    `json:"seats"`
}

const kestlePage = 4

func newKestle(c Config, mode func() Mode) *Kestle {
	k := &Kestle{public: c.KestlePublic, mode: mode}
	for _, r := range [][2]string{{"map-room", "Map Room"}, {"ilse", "Ilse Marrant"}, {"ilse-quiet", "Ilse Marrant, quiet"}, {"freight-desk", "Freight desk"}, {"loans", "Loans desk"},
		{"tower-study", "Tower Study"}, {"lantern", "Lantern Hall"}, {"press", "Press room"}, {"rui", "Rui Calado"}} {
		k.rooms = append(k.rooms, kestleRoom{r[0], r[1], k.public + "/r/" + r[0], 80})
	}
	return k
}

// Room is where browsers find a room.
func (k *Kestle) Room(slug string) string { return k.public + "/r/" + slug }

func (k *Kestle) handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /api/rooms", k.list)
	mux.HandleFunc("GET /r/{slug}", k.join)
	mux.HandleFunc("GET /standin.css", stylesheet)
	return mux
}

func (k *Kestle) list(rw http.ResponseWriter, r *http.Request) {
	problem := func(code, text string) {
		reply(rw, http.StatusOK, map[string]any{"ok": false, "problem": map[string]string{"code": code, "text": text}})
	}
	user, password, _ := r.BasicAuth()
	switch {
	case user != KestleUser || password != KestlePassword || k.mode() == SignedOut:
		problem("LOGIN", "name or password are wrong")
		return
	case k.mode() == Quota:
		problem("PLAN", "the plan of this house has ended")
		return
	}
	page, err := strconv.Atoi(r.FormValue("page"))
	if err != nil || page < 1 {
		page = 1
	}
	from := min((page-1)*kestlePage, len(k.rooms))
	to := min(from+kestlePage, len(k.rooms))
	body := map[string]any{"ok": true, "rooms": k.rooms[from:to]}
	if to < len(k.rooms) {
		body["more"] = fmt.Sprintf("/api/rooms?page=%d", page+1)
	}
	reply(rw, http.StatusOK, body)
}

func (k *Kestle) join(rw http.ResponseWriter, r *http.Request) {
	label := ""
	for _, room := range k.rooms {
		if strings.EqualFold(room.Slug, r.PathValue("slug")) {
			label = room.Label
		}
	}
	show(rw, "kestle-join.html", label)
}
