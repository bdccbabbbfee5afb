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
	"strings"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/outbound"
	"jembro/internal/schedule/calendars"
)

const (
	// answerWithin is how long one calendar may take, from the name to the last byte.
	answerWithin = 30 * time.Second
	mostHops     = 5
)

// Client asks addresses of the public internet, and those that its gate lets through.
type Client struct {
	// Agent names who asks.
	Agent string

	http *http.Client
}

// New makes a Client that may ask some private or loopback addresses all the same.
func New(allow []netip.Prefix, agent string) *Client {
	transport := outbound.Gate{Allow: allow}.Transport()
	transport.ResponseHeaderTimeout = 20 * time.Second
	return &Client{Agent: agent, http: &http.Client{Timeout: answerWithin, Transport: transport, CheckRedirect: redirect}}
}

var _ calendars.Fetcher = (*Client)(nil)

var errRedirect = errors.New("it leads on to where it must not")

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
	f.ETag, f.Modified, f.Wait = header(res, "ETag"), header(res, "Last-Modified"), outbound.Wait(res)
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
	case errors.Is(err, outbound.ErrPrivate):
		return availability.FaultPrivate
	case errors.Is(err, errRedirect):
		return availability.FaultRedirects
	case errors.As(err, &dns) && dns.IsNotFound:
		return availability.FaultAddress
	}
	return availability.FaultUnreachable
}
