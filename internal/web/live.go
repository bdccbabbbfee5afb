package web

import (
	"bufio"
	"fmt"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"
)

// Hub hands notices to the open windows of the people they concern.
type Hub struct {
	mu      sync.Mutex
	windows map[uuid.UUID]map[chan string]bool
	closed  bool
}

// NewHub has no windows yet.
func NewHub() *Hub { return &Hub{windows: map[uuid.UUID]map[chan string]bool{}} }

// Tell says to the windows of these people that something changed. A window
// that does not keep up misses notices, not the fact that there was one.
func (h *Hub) Tell(people []uuid.UUID, about string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, p := range people {
		for w := range h.windows[p] {
			select {
			case w <- about:
			default:
			}
		}
	}
}

// TellAll says it to everybody, because notices may have been missed.
func (h *Hub) TellAll() {
	h.mu.Lock()
	people := make([]uuid.UUID, 0, len(h.windows))
	for p := range h.windows {
		people = append(people, p)
	}
	h.mu.Unlock()
	h.Tell(people, "")
}

// Close ends all streams, so that the server can stop.
func (h *Hub) Close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for _, windows := range h.windows {
		for w := range windows {
			close(w)
		}
	}
	h.windows = map[uuid.UUID]map[chan string]bool{}
}

func (h *Hub) open(p uuid.UUID) chan string {
	h.mu.Lock()
	defer h.mu.Unlock()
	w := make(chan string, 16)
	if h.closed {
		close(w)
		return w
	}
	if h.windows[p] == nil {
		h.windows[p] = map[chan string]bool{}
	}
	h.windows[p][w] = true
	return w
}

func (h *Hub) shut(p uuid.UUID, w chan string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	delete(h.windows[p], w)
	if len(h.windows[p]) == 0 {
		delete(h.windows, p)
	}
}

// stream sends server-sent events until the window or the program goes away.
func (h *Hub) stream(ctx fiber.Ctx) error {
	p := me(ctx.Context())
	w := h.open(p)
	ctx.Set("Content-Type", "text/event-stream")
	ctx.Set("Cache-Control", "no-store")
	ctx.Set("X-Accel-Buffering", "no")
	return ctx.SendStreamWriter(func(out *bufio.Writer) {
		defer h.shut(p, w)
		beat := time.NewTicker(20 * time.Second)
		defer beat.Stop()
		fmt.Fprint(out, "retry: 1000\n\n")
		for out.Flush() == nil {
			select {
			case about, ok := <-w:
				if !ok {
					return
				}
				fmt.Fprintf(out, "event: changed\ndata: %s\n\n", about)
			case <-beat.C:
				fmt.Fprint(out, ": still here\n\n")
			}
		}
	})
}
