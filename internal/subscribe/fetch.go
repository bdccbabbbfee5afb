// Package subscribe asks addresses of calendars that users name: bounded in time and size,
// and never one inside the house.
package subscribe

import (
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/schedule/calendars"
)

const (
	// answerWithin is how long one calendar may take, from the name to the last byte.
	answerWithin = 30 * time.Second
	mostHops     = 5
	longestWait  = 24 * time.Hour
)

// Client asks addresses. The zero Client asks none that is private, loopback, or else not
// of the public internet; a connection is made only to an address that was looked at, so
// that a name cannot mean another one the second time.
type Client struct {
	// Allow are private or loopback addresses that may be asked all the same.
	Allow []netip.Prefix
	// Agent names who asks.
	Agent string

	http *http.Client
}

// New makes a Client.
func New(allow []netip.Prefix, agent string) *Client {
	c := &Client{Allow: allow, Agent: agent}
	dialer := &net.Dialer{Timeout: 10 * time.Second, Control: c.control}
	c.http = &http.Client{
		Timeout: answerWithin,
		Transport: &http.Transport{DialContext: dialer.DialContext, TLSHandshakeTimeout: 10 * time.Second, ResponseHeaderTimeout: 20 * time.Second,
			DisableCompression: true, MaxResponseHeaderBytes: 64 << 10, MaxIdleConns: 20, MaxIdleConnsPerHost: 1, IdleConnTimeout: 20 * time.Second, ForceAttemptHTTP2: true},
		CheckRedirect: redirect,
	}
	return c
}

var _ calendars.Fetcher = (*Client)(nil)

var (
	errPrivate  = errors.New("an address that is not asked for anybody")
	errRedirect = errors.New("it leads on to where it must not")
)

// control looks at the address that is about to be dialled.
func (c *Client) control(_, address string, _ syscall.RawConn) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return err
	}
	allowed := slices.ContainsFunc(c.Allow, func(p netip.Prefix) bool { return p.Contains(at.Addr().Unmap()) })
	if !allowed && (!may(at.Addr()) || !webPort(at.Port())) {
		return errPrivate
	}
	return nil
}

// webPort tells whether calendars may be asked at a port: not at those of other services,
// mail above all.
func webPort(port uint16) bool { return port == 80 || port == 443 || port >= 1024 }

// special are addresses of no single host of the public internet beyond those that netip
// knows (IANA's special-purpose registries, RFC 6890).
var special = func() (out []netip.Prefix) {
	for _, s := range []string{"0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15", "198.51.100.0/24",
		"203.0.113.0/24", "240.0.0.0/4", "64:ff9b::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16", "fec0::/10"} {
		out = append(out, netip.MustParsePrefix(s))
	}
	return out
}()

// may tells whether an address is one of the public internet.
func may(a netip.Addr) bool {
	a = a.Unmap()
	within := func(p netip.Prefix) bool { return p.Contains(a) }
	return a.IsGlobalUnicast() && !a.IsPrivate() && !a.IsLoopback() && !a.IsLinkLocalUnicast() && !slices.ContainsFunc(special, within)
}

// redirect follows a few times, to http and https only, and never from https to http.
func redirect(next *http.Request, via []*http.Request) error {
	if len(via) > mostHops || next.URL.Scheme != "https" && (next.URL.Scheme != "http" || via[len(via)-1].URL.Scheme == "https") {
		return errRedirect
	}
	return nil
}

// Fetch asks an address; etag and modified are those of the answer known, "" for none.
func (c *Client) Fetch(ctx context.Context, address, etag, modified string) (f calendars.Fetched, err error) {
	ctx, cancel := context.WithTimeout(ctx, answerWithin)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return f, failed(availability.FaultAddress, err)
	}
	req.Header.Set("User-Agent", c.Agent)
	req.Header.Set("Accept", "text/calendar, */*;q=0.5")
	req.Header.Set("Accept-Encoding", "gzip")
	if etag != "" {
		req.Header.Set("If-None-Match", etag)
	}
	if modified != "" {
		req.Header.Set("If-Modified-Since", modified)
	}
	res, err := c.http.Do(req)
	if err != nil {
		return f, failed(faultOf(err), err)
	}
	defer res.Body.Close()
	f.ETag, f.Modified, f.Wait = header(res, "ETag"), header(res, "Last-Modified"), wait(res)
	switch {
	case res.StatusCode == http.StatusNotModified && (etag != "" || modified != ""):
		f.Same = true
		return f, nil
	case res.StatusCode != http.StatusOK:
		return f, &calendars.FetchError{Fault: ofStatus(res.StatusCode), Wait: f.Wait, Cause: fmt.Errorf("status %d", res.StatusCode)}
	}
	f.Body, err = body(res)
	switch {
	case errors.Is(err, calendar.ErrTooLarge):
		return f, failed(availability.FaultTooLarge, err)
	case err != nil && ctx.Err() != nil:
		return f, failed(availability.FaultUnreachable, err)
	case err != nil:
		return f, failed(availability.FaultBroken, err)
	}
	return f, nil
}

// body reads an answer up to what a calendar can have, packed and unpacked.
func body(res *http.Response) ([]byte, error) {
	var in io.Reader = io.LimitReader(res.Body, calendar.MostBytes+1)
	switch encoding := strings.ToLower(strings.TrimSpace(res.Header.Get("Content-Encoding"))); encoding {
	case "", "identity":
	case "gzip", "x-gzip":
		unpacked, err := gzip.NewReader(in)
		if err != nil {
			return nil, err
		}
		in = io.LimitReader(unpacked, calendar.MostBytes+1)
	default:
		return nil, fmt.Errorf("packed as %q, which was not asked for", encoding)
	}
	raw, err := io.ReadAll(in)
	if err == nil && len(raw) > calendar.MostBytes {
		err = calendar.ErrTooLarge
	}
	return raw, err
}

func failed(f availability.Fault, err error) error {
	return &calendars.FetchError{Fault: f, Cause: err}
}

// header is one of a sensible length, to be given back.
func header(res *http.Response, name string) string {
	if v := res.Header.Get(name); len(v) <= 300 {
		return v
	}
	return ""
}

// wait is how long the other side asks to wait (RFC 9110, 10.2.3).
func wait(res *http.Response) time.Duration {
	text := res.Header.Get("Retry-After")
	if seconds, err := strconv.Atoi(text); err == nil && seconds > 0 {
		return min(time.Duration(min(seconds, 1<<20))*time.Second, longestWait)
	}
	if at, err := http.ParseTime(text); err == nil {
		return min(max(time.Until(at), 0), longestWait)
	}
	return 0
}

func ofStatus(code int) availability.Fault {
	switch {
	case code == http.StatusNotFound, code == http.StatusGone:
		return availability.FaultGone
	case code == http.StatusUnauthorized, code == http.StatusForbidden, code == http.StatusPaymentRequired:
		return availability.FaultForbidden
	case code >= 300 && code < 400:
		return availability.FaultRedirects
	case code == http.StatusTooManyRequests:
		return availability.FaultUnreachable
	}
	return availability.FaultBroken
}

func faultOf(err error) availability.Fault {
	var dns *net.DNSError
	switch {
	case errors.Is(err, errPrivate):
		return availability.FaultPrivate
	case errors.Is(err, errRedirect):
		return availability.FaultRedirects
	case errors.As(err, &dns) && dns.IsNotFound:
		return availability.FaultAddress
	}
	return availability.FaultUnreachable
}
