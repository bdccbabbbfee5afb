package jobs

import (
	"context"
	"sync"
	"time"
)

// turn is how long somebody waits for a turn.
const turn = time.Second

// domains lets so much go to each domain at a time. Some more may wait for their turn, which is soon
// where the other side is quick; the rest comes later, so that one that is slow holds up nobody else.
type domains struct {
	most, waiting int
	mu            sync.Mutex
	gates         map[string]*gate
}

// gate is that of one domain. It is dropped when nobody is there.
type gate struct {
	slots chan struct{}
	there int // who is in it, or waits
}

func newDomains(most, waiting int) *domains {
	return &domains{most: most, waiting: waiting, gates: map[string]*gate{}}
}

// enter gives a turn, and how to leave; ok is false where none is to be had now. What goes to no
// domain needs none.
func (d *domains) enter(ctx context.Context, domain string) (leave func(), ok bool) {
	if domain == "" {
		return func() {}, true
	}
	g := d.come(domain)
	if g == nil {
		return nil, false
	}
	wait, cancel := context.WithTimeout(ctx, turn)
	defer cancel()
	select {
	case g.slots <- struct{}{}:
		return func() { <-g.slots; d.part(domain) }, true
	case <-wait.Done():
		d.part(domain)
		return nil, false
	}
}

// come joins those at a domain, nil where they are too many.
func (d *domains) come(domain string) *gate {
	d.mu.Lock()
	defer d.mu.Unlock()
	g := d.gates[domain]
	switch {
	case g == nil:
		g = &gate{slots: make(chan struct{}, d.most)}
		d.gates[domain] = g
	case g.there >= d.most+d.waiting:
		return nil
	}
	g.there++
	return g
}

func (d *domains) part(domain string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if g := d.gates[domain]; g.there == 1 {
		delete(d.gates, domain)
	} else {
		g.there--
	}
}
