package conference

import (
	"bytes"
	"context"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/netip"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/yosida95/uritemplate/v3"
	"golang.org/x/time/rate"

	"jembro/internal/outbound"
)

const (
	// answerWithin is how long one request may take, from the name to the last byte.
	answerWithin = 30 * time.Second
	// mostAnswer is how many bytes of an answer are read.
	mostAnswer = 1 << 20
	// shortWait is how long a provider can ask to wait within one request.
	shortWait = 3 * time.Second
)

// client asks providers: bounded in time, size and pace, without following redirects, and
// never an address inside the house but for those allowed.
type client struct {
	http  *http.Client
	agent string
	// plain lets requests go without TLS, as to stand-ins.
	plain bool
	pace  *rate.Limiter
}

func newClient(allow []netip.Prefix, agent string) *client {
	return &client{agent: agent, plain: len(allow) > 0, http: &http.Client{Timeout: answerWithin, Transport: outbound.Gate{Allow: allow}.Transport(),
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

// paced is the client for one provider that takes so many requests in a minute, 0 for any.
func (c *client) paced(perMinute int) *client {
	own := *c
	if perMinute > 0 {
		own.pace = rate.NewLimiter(rate.Limit(float64(perMinute)/60), min(perMinute, 10))
	}
	return &own
}

// exchange is one request with its answer, as a trial shows it.
type exchange struct {
	method, address  string
	sent             []byte
	status           int
	received         []byte
	kind             string // Content-Type
	wait             time.Duration
	location         string
	took             time.Duration
	tooLarge, packed bool
}

// errPace is more requests than the provider takes.
var errPace = errors.New("more requests than it takes in a minute")

// do sends one request. It fails where nothing sensible came back at all.
func (c *client) do(ctx context.Context, req *http.Request, body []byte) (x exchange, err error) {
	x = exchange{method: req.Method, address: req.URL.String(), sent: body}
	if c.pace != nil {
		soon, cancel := context.WithTimeout(ctx, 5*time.Second)
		defer cancel()
		if err := c.pace.Wait(soon); err != nil {
			return x, errPace
		}
	}
	req.Header.Set("User-Agent", c.agent)
	req.Header.Set("Accept", "application/json, application/xml, text/xml, */*;q=0.1")
	began := time.Now()
	res, err := c.http.Do(req)
	x.took = time.Since(began)
	var of *url.Error
	if errors.As(err, &of) {
		err = of.Err // without the address, which may hold a key
	}
	if err != nil {
		return x, err
	}
	defer res.Body.Close()
	x.status, x.kind, x.wait, x.location = res.StatusCode, res.Header.Get("Content-Type"), outbound.Wait(res), res.Header.Get("Location")
	x.packed = res.Header.Get("Content-Encoding") != "" && !strings.EqualFold(res.Header.Get("Content-Encoding"), "identity")
	x.received, err = io.ReadAll(io.LimitReader(res.Body, mostAnswer+1))
	x.took = time.Since(began)
	if len(x.received) > mostAnswer {
		x.received, x.tooLarge = x.received[:1000], true
		return x, nil
	}
	return x, err
}

// html tells whether an answer is a web page, whatever it calls itself.
func (x exchange) html() bool {
	begin := strings.ToLower(strings.TrimSpace(string(x.received[:min(len(x.received), 200)])))
	return strings.HasPrefix(begin, "<!doctype html") || strings.HasPrefix(begin, "<html") ||
		strings.HasPrefix(x.kind, "text/html") && strings.HasPrefix(begin, "<")
}

// compose writes the request of a call.
func (r *request) compose(ctx context.Context, v values, signed url.Values) (*http.Request, []byte, error) {
	kept := uritemplate.Values{}
	for name, text := range v.Keep {
		kept.Set(name, uritemplate.String(text))
	}
	address, err := r.address.Expand(kept)
	if err != nil {
		return nil, nil, err
	}
	if !strings.HasPrefix(address, r.origin) || len(address) > 4000 {
		return nil, nil, errors.New("the address leads elsewhere")
	}
	query, err := filled(r.query, v)
	if err != nil {
		return nil, nil, err
	}
	maps.Copy(query, signed)
	if len(query) > 0 {
		join := "?"
		if strings.Contains(address, "?") {
			join = "&"
		}
		address += join + query.Encode()
	}
	body, kind, err := r.write(v)
	if err != nil {
		return nil, nil, err
	}
	var reader io.Reader
	if body != nil {
		reader = bytes.NewReader(body)
	}
	req, err := http.NewRequestWithContext(ctx, r.method, address, reader)
	if err != nil {
		return nil, nil, err
	}
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	headers, err := filled(r.headers, v)
	if err != nil {
		return nil, nil, err
	}
	for name := range headers {
		text := headers.Get(name)
		if strings.ContainsAny(text, "\r\n\x00") {
			return nil, nil, fmt.Errorf("the header %s would have more than one line", name)
		}
		req.Header.Set(name, text)
	}
	return req, body, nil
}

func filled(fields map[string]value, v values) (url.Values, error) {
	out := url.Values{}
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		x, err := fields[name].fill(v)
		if err != nil {
			return nil, within(name, err)
		}
		if x != nil && x != "" {
			out.Set(name, fmt.Sprint(x))
		}
	}
	return out, nil
}

// write gives the body of a call and its media type.
func (r *request) write(v values) ([]byte, string, error) {
	switch {
	case r.Form != nil:
		form, err := filled(r.form, v)
		return []byte(form.Encode()), "application/x-www-form-urlencoded", err
	case r.JSON != nil:
		filled, err := r.body.fill(v)
		if err != nil {
			return nil, "", err
		}
		body, err := json.Marshal(filled)
		return body, "application/json", err
	case r.XML != nil:
		filled, err := r.body.fill(v)
		if err != nil {
			return nil, "", err
		}
		var b bytes.Buffer
		b.WriteString(xml.Header)
		encoder := xml.NewEncoder(&b)
		for name, inner := range filled.(map[string]any) {
			if err := writeElement(encoder, name, inner); err != nil {
				return nil, "", err
			}
		}
		err = encoder.Flush()
		return b.Bytes(), "application/xml", err
	}
	return nil, "", nil
}

var elementName = regexp.MustCompile(`^@?[A-Za-z_][\w.-]{0,60}$`)

// elementNames are those of all elements and attributes of an XML body.
func elementNames(v any) (out []string) {
	switch v := v.(type) {
	case map[string]any:
		for name, inner := range v {
			out = append(append(out, name), elementNames(inner)...)
		}
	case []any:
		for _, inner := range v {
			out = append(out, elementNames(inner)...)
		}
	}
	return out
}

// writeElement writes an element: fields are elements in it, those that begin with @ its
// attributes, and a list is the element several times.
func writeElement(e *xml.Encoder, name string, v any) error {
	if list, is := v.([]any); is {
		for _, item := range list {
			if err := writeElement(e, name, item); err != nil {
				return err
			}
		}
		return nil
	}
	start := xml.StartElement{Name: xml.Name{Local: name}}
	fields, is := v.(map[string]any)
	inner := slices.Sorted(maps.Keys(fields))
	for _, key := range inner {
		if attr, is := strings.CutPrefix(key, "@"); is {
			start.Attr = append(start.Attr, xml.Attr{Name: xml.Name{Local: attr}, Value: fmt.Sprint(fields[key])})
		}
	}
	if err := e.EncodeToken(start); err != nil {
		return err
	}
	if !is {
		if err := e.EncodeToken(xml.CharData(fmt.Sprint(v))); err != nil {
			return err
		}
	}
	for _, key := range inner {
		if strings.HasPrefix(key, "@") {
			continue
		}
		if err := writeElement(e, key, fields[key]); err != nil {
			return err
		}
	}
	return e.EncodeToken(start.End())
}
