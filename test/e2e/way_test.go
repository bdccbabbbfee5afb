package e2e_test

import (
	"io"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// way is a connection to the program that can be held up or broken off.
type way struct {
	url string

	mu     sync.Mutex
	held   chan struct{} // closed when what is held up goes on
	broken bool
	open   map[net.Conn]bool
}

// newWay is a way to the program on a port of its own.
func newWay(t *testing.T) *way {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	w := &way{url: "http://" + l.Addr().String(), open: map[net.Conn]bool{}}
	t.Cleanup(func() { l.Close(); w.breakOff() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go w.carry(c)
		}
	}()
	return w
}

func (w *way) carry(from net.Conn) {
	defer from.Close()
	w.mu.Lock()
	broken := w.broken
	w.open[from] = true
	w.mu.Unlock()
	to, err := net.Dial("tcp", strings.TrimPrefix(running.BaseURL, "http://"))
	if broken || err != nil {
		return
	}
	defer to.Close()
	go func() { defer from.Close(); io.Copy(from, to) }()
	buffer := make([]byte, 32<<10)
	for {
		n, err := from.Read(buffer)
		if n > 0 {
			w.mu.Lock()
			held := w.held
			w.mu.Unlock()
			if held != nil {
				select {
				case <-held:
				case <-time.After(time.Minute):
					return
				}
			}
			if _, err := to.Write(buffer[:n]); err != nil {
				return
			}
		}
		if err != nil {
			return
		}
	}
}

// hold keeps what is asked from the program, until it is let go.
func (w *way) hold() (letGo func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	held := make(chan struct{})
	w.held = held
	return func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		w.held = nil
		close(held)
	}
}

// breakOff ends every connection and takes none, until it is mended.
func (w *way) breakOff() {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.broken = true
	for c := range w.open {
		c.Close()
	}
	w.open = map[net.Conn]bool{}
}

func (w *way) mend() {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.broken = false
}
