// Package e2e_test drives the whole program as a person does: headless
// Chromium, the real PostgreSQL, real SMTP and the stand-ins.
package e2e_test

import (
	"context"
	"fmt"
	"os"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/web"
)

var (
	browser context.Context
	running *demo.Running
)

func TestMain(m *testing.M) {
	var stop context.CancelFunc
	browser, stop = newBrowser()
	if err := chromedp.Do(browser); err != nil {
		fmt.Fprintln(os.Stderr, "start Chromium:", err)
		os.Exit(1)
	}
	code := demotest.Run(m, web.Files(), func(r *demo.Running) { running = r })
	stop()
	os.Exit(code)
}

// signIn opens a window for somebody of the demo house.
func signIn(t *testing.T, email string) *page {
	t.Helper()
	return signInAt(t, running.BaseURL, email)
}

func signInAt(t *testing.T, url, email string) *page {
	t.Helper()
	p := newPage(t)
	p.open(url + "/weeks")
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
	p.sees("Address or password is wrong.")
	require.Equal(t, demo.Ilse, value[string](p, `document.getElementById("email").value`), "what was typed stays")
	p.write("Password", demo.Password)
	p.press("Sign in")
	p.sees("Week 48", "Crate sizes, loan 14")
}
