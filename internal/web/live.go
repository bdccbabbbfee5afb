package web

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"jembro/internal/schedule"
)

// Hub hands notices to the open windows of the people they concern.
type Hub struct {
	mu      sync.Mutex
	streams map[uuid.UUID][]*stream // by person, the oldest first
	closed  bool
}

// streamsPerPerson is how many windows of one person are told; the oldest is let go
// for a new one.
const streamsPerPerson = 12

// stream is one window that listens.
type stream struct {
	session uuid.UUID
	notices chan []byte // closed when the stream is over
}

// notice is what a window is told: what changed, and which window did it. Topic
// "all" means that notices may have been missed.
type notice struct {
	Topic  string `json:"topic"`
	ID     string `json:"id,omitempty"`
	Window string `json:"window,omitempty"`
}

// NewHub has no windows yet.
func NewHub() *Hub { return &Hub{streams: map[uuid.UUID][]*stream{}} }

// Tell says to the windows of some people what changed. A window that does not
// keep up is told that it missed something.
func (h *Hub) Tell(n schedule.Notice) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if n.Topic == schedule.AboutSession {
		for _, p := range n.People {
			h.drop(p, func(s *stream) bool { return n.ID == uuid.Nil || s.session == n.ID })
		}
		return
	}
	h.tell(n.People, notice{Topic: string(n.Topic), ID: n.ID.String(), Window: n.Window})
}

// TellAll says to everybody that notices may have been missed.
func (h *Hub) TellAll() {
	h.mu.Lock()
	defer h.mu.Unlock()
	people := make([]uuid.UUID, 0, len(h.streams))
	for p := range h.streams {
		people = append(people, p)
	}
	h.tell(people, notice{Topic: "all"})
}

var missed = []byte(`{"topic":"all"}`)

func (h *Hub) tell(people []uuid.UUID, n notice) {
	raw, err := json.Marshal(n)
	if err != nil {
		return
	}
	for _, p := range people {
		for _, s := range h.streams[p] {
			say := raw
			if len(s.notices) == cap(s.notices)-1 {
				say = missed
			}
			select {
			case s.notices <- say:
			default: // "all" is in there already
			}
		}
	}
}

// Streams is how many windows listen.
func (h *Hub) Streams() (n int) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, all := range h.streams {
		n += len(all)
	}
	return n
}

// Close ends all streams, so that the server can stop.
func (h *Hub) Close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for p := range h.streams {
		h.drop(p, func(*stream) bool { return true })
	}
}

// drop ends some streams of a person.
func (h *Hub) drop(p uuid.UUID, which func(*stream) bool) {
	var kept []*stream
	for _, s := range h.streams[p] {
		if which(s) {
			close(s.notices)
			continue
		}
		kept = append(kept, s)
	}
	if len(kept) == 0 {
		delete(h.streams, p)
		return
	}
	h.streams[p] = kept
}

func (h *Hub) open(p, session uuid.UUID) *stream {
	h.mu.Lock()
	defer h.mu.Unlock()
	s := &stream{session: session, notices: make(chan []byte, 16)}
	if h.closed {
		close(s.notices)
		return s
	}
	if all := h.streams[p]; len(all) >= streamsPerPerson {
		h.drop(p, func(s *stream) bool { return s == all[0] })
	}
	h.streams[p] = append(h.streams[p], s)
	return s
}

func (h *Hub) shut(p uuid.UUID, s *stream) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, x := range h.streams[p] {
		if x == s {
			h.drop(p, func(x *stream) bool { return x == s })
			return
		}
	}
}

// beat is how often a stream shows that it lives, and writeWithin how long a window
// has to take what it is sent.
const beat, writeWithin = 20 * time.Second, 20 * time.Second

// live sends server-sent events until the window, the session or the program goes
// away.
func (h *handlers) live(ctx fiber.Ctx) error {
	p := me(ctx.Context())
	token, _ := ctx.Context().Value(keyToken).(string)
	s := h.hub.open(p, schedule.SessionID(token))
	ctx.Set("Content-Type", "text/event-stream")
	ctx.Set("Cache-Control", "no-store")
	ctx.Set("X-Accel-Buffering", "no")
	conn := ctx.RequestCtx().Conn()
	return ctx.SendStreamWriter(func(out *bufio.Writer) {
		defer h.hub.shut(p, s)
		beats := time.NewTicker(beat)
		defer beats.Stop()
		fmt.Fprint(out, "retry: 1000\n\n")
		for {
			conn.SetWriteDeadline(time.Now().Add(writeWithin))
			if out.Flush() != nil {
				return
			}
			select {
			case raw, ok := <-s.notices:
				if !ok {
					return
				}
				fmt.Fprintf(out, "event: changed\ndata: %s\n\n", raw)
			case <-beats.C:
				if !h.stillSignedIn(token) {
					return
				}
				fmt.Fprint(out, ": still here\n\n")
			}
		}
	})
}

// stillSignedIn tells whether a session goes on; looking does not keep it alive.
func (h *handlers) stillSignedIn(token string) bool {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	_, err := h.deeds.Account.Peek(ctx, token)
	return err == nil
}
