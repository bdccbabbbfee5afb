package web

import (
	"context"
	"sync"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"
)

// bounded lets each account do so many costly things at a time; a few more wait
// for their turn.
type bounded struct {
	mu      sync.Mutex
	atATime int
	slots   map[uuid.UUID]*slots
}

type slots struct {
	free    chan struct{}
	waiting int
}

// previewsAtATime is how many letters are written at a time for one account, and
// mostWaiting how many requests may wait for that.
const previewsAtATime, mostWaiting = 2, 20

func newBounded(atATime int) *bounded {
	return &bounded{atATime: atATime, slots: map[uuid.UUID]*slots{}}
}

// enter waits for a turn; leave has to be called after it. It fails when too many
// wait already.
func (b *bounded) enter(ctx context.Context, who uuid.UUID) (leave func(), err error) {
	b.mu.Lock()
	s := b.slots[who]
	if s == nil {
		s = &slots{free: make(chan struct{}, b.atATime)}
		b.slots[who] = s
	}
	if s.waiting >= mostWaiting {
		b.mu.Unlock()
		return nil, refuse(fiber.StatusTooManyRequests, "request.atOnce")
	}
	s.waiting++
	b.mu.Unlock()
	done := func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		if s.waiting--; s.waiting == 0 {
			delete(b.slots, who)
		}
	}
	select {
	case s.free <- struct{}{}:
		return func() { <-s.free; done() }, nil
	case <-ctx.Done():
		done()
		return nil, ctx.Err()
	}
}
