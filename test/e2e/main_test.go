// Package e2e_test drives the whole program as a person does: headless
// Chromium, the real PostgreSQL, real SMTP and the stand-ins.
package e2e_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/demo/demotest"
	"jembro/internal/web/api"
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

// signIn opens a window for somebody of the demo house, in a session of its own; the form has its
// tests below.
func signIn(t *testing.T, email string) *page {
	t.Helper()
	return signInAt(t, running.BaseURL, email)
}

func signInAt(t *testing.T, url, email string) *page {
	t.Helper()
	p := withSession(t, url, email)
	p.open(url + "/weeks")
	p.sees("Week 48")
	return p
}

// withSession is a window of somebody who is signed in, without a page yet.
func withSession(t *testing.T, url, email string) *page {
	t.Helper()
	p := newPage(t)
	who, err := json.Marshal(api.SignIn{Email: email, Password: demo.Password})
	require.NoError(t, err)
	res, err := http.Post(url+"/api/session", "application/json", bytes.NewReader(who))
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Equal(t, http.StatusOK, res.StatusCode)
	p.do("have a session", chromedp.Func(func(ctx context.Context, tab *chromedp.Target) error {
		for _, c := range res.Cookies() {
			if _, err := cdp.Call(ctx, tab, network.SetCookie, network.SetCookieParams{URL: url, Name: c.Name, Value: c.Value, HTTPOnly: &c.HttpOnly}); err != nil {
				return err
			}
		}
		return nil
	}))
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
