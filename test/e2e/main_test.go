// Package e2e_test drives the whole program as a person does: headless
// Chromium, the real PostgreSQL, real SMTP and the stand-ins.
package e2e_test

import (
	"context"
	"fmt"
	"net"
	"os"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/web"
)

// now is a Tuesday morning in the demo house.
const now = "2026-11-24T10:12:00Z"

var (
	browser context.Context
	running *demo.Running
)

func TestMain(m *testing.M) { os.Exit(run(m)) }

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("/tmp", "jembro-e2e-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil { // PostgreSQL's account has to get in
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	running, err = demo.Start(context.Background(), demo.Options{Port: freePorts(), Data: dir, Now: now, Files: web.Files(),
		Say: func(string, ...any) {}})
	if err != nil {
		fmt.Fprintln(os.Stderr, "start the demo:", err)
		return 1
	}
	defer running.Stop()
	var stop context.CancelFunc
	browser, stop = newBrowser()
	defer stop()
	if err := chromedp.Do(browser); err != nil {
		fmt.Fprintln(os.Stderr, "start Chromium:", err)
		return 1
	}
	return m.Run()
}

// freePorts is the first of four ports in a row that nobody has.
func freePorts() int {
	for base := 21000; base < 40000; base += 10 {
		free := true
		for p := base; p < base+4; p++ {
			l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", p))
			if err != nil {
				free = false
				break
			}
			l.Close()
		}
		if free {
			return base
		}
	}
	return 0
}

// signIn opens a window for somebody of the demo house.
func signIn(t *testing.T, email string) *page {
	t.Helper()
	p := newPage(t)
	p.open(running.BaseURL + "/weeks")
	p.write("E-mail address", email)
	p.write("Password", demo.Password)
	p.press("Sign in")
	p.sees("Week 48")
	return p
}

func TestSignInSaysWhatIsWrongAndLetsIn(t *testing.T) {
	p := newPage(t)
	p.open(running.BaseURL + "/weeks")
	p.write("E-mail address", demo.Ilse)
	p.write("Password", "wrong")
	p.press("Sign in")
	p.sees("Address or password are wrong.")
	require.Equal(t, demo.Ilse, value[string](p, `document.getElementById("email").value`), "what was typed stays")
	p.write("Password", demo.Password)
	p.press("Sign in")
	p.sees("Week 48", "Crate sizes, loan 14")
}
