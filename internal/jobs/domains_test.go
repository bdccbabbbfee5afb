package jobs

import (
	"context"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSoMuchGoesToADomainAtATime(t *testing.T) {
	d := newDomains(4, 16)
	var all sync.WaitGroup
	var now, most, through atomic.Int32
	for range 20 {
		all.Go(func() {
			leave, ok := d.enter(t.Context(), "kirisame.example")
			if !ok {
				return
			}
			for n := now.Add(1); n > most.Load(); {
				most.Store(n)
			}
			time.Sleep(5 * time.Millisecond)
			now.Add(-1)
			through.Add(1)
			leave()
		})
	}
	all.Wait()
	assert.LessOrEqual(t, most.Load(), int32(4))
	assert.Equal(t, int32(20), through.Load(), "who waits has a turn")
	assert.Empty(t, d.gates)
}

// TestASlowDomainHoldsUpNobody: those who wait for it are few, and do not wait long.
func TestASlowDomainHoldsUpNobody(t *testing.T) {
	d := newDomains(1, 1)
	leave, ok := d.enter(t.Context(), "slow.example")
	require.True(t, ok)
	waits := make(chan bool)
	go func() {
		_, ok := d.enter(t.Context(), "slow.example")
		waits <- ok
	}()
	require.Eventually(t, func() bool { d.mu.Lock(); defer d.mu.Unlock(); return d.gates["slow.example"].there == 2 }, time.Second, time.Millisecond)
	_, ok = d.enter(t.Context(), "slow.example")
	assert.False(t, ok, "one waits already")
	other, ok := d.enter(t.Context(), "quick.example")
	require.True(t, ok)
	other()
	assert.False(t, <-waits, "not for long")
	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	_, ok = d.enter(stopped, "slow.example")
	assert.False(t, ok, "the program is being stopped")
	leave()
	assert.Empty(t, d.gates)
	none, ok := d.enter(t.Context(), "")
	require.True(t, ok)
	none()
}
