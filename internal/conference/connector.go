package conference

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
	"jembro/internal/outbound"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
)

// values are what the expressions of a description can name of a call.
func (c *Connector) values(call links.Call, keep map[string]string) values {
	door := c.Service().Choices.Fit(call.Door)
	v := values{Title: call.Topic, Zone: call.Zone, People: call.People, Repeats: call.Repeats, Organiser: call.Organiser, Passcode: call.Passcode,
		Waits: string(door.Waits), Speaks: string(door.Speaks), Starts: string(door.Starts), Keep: keep}
	if v.Title == "" {
		v.Title = "Meeting"
	}
	if !call.Start.IsZero() {
		v.Start, v.End = call.Start.UTC(), call.End.UTC()
		v.Minutes = int((call.End.Sub(call.Start) + time.Minute - 1) / time.Minute)
	}
	if v.Keep == nil {
		v.Keep = map[string]string{}
	}
	return v
}

// Make has the provider make a call.
func (c *Connector) Make(ctx context.Context, keys links.Keyring, call links.Call) (join.Card, error) {
	card, _, err := c.make(ctx, keys, call)
	return card, err
}

func (c *Connector) make(ctx context.Context, keys links.Keyring, call links.Call) (join.Card, exchange, error) {
	r := c.requests["make"]
	if r == nil || !slices.Contains(c.Can, join.CanMake) {
		return join.Card{}, exchange{}, c.problem(&schedule.RefusedError{Reason: c.Name}, say.It("provider.standingOnly", c.Name))
	}
	a, x, err := c.ask(ctx, keys, r, c.values(call, nil))
	if err != nil {
		return join.Card{}, x, err
	}
	keep, keepErr := r.kept(a)
	card, err := r.Card.card(a)
	card.Name, card.Keep, card.Door = c.Name, keep, c.Service().Choices.Fit(call.Door)
	card.LimitPeople, card.LimitCalls = c.Limits.People, c.Limits.Calls
	if card.LimitMinutes == 0 {
		card.LimitMinutes = c.Limits.Minutes
	}
	if err == nil {
		err = keepErr
	}
	return card, x, c.misread(err)
}

// Change has a call follow its meeting.
func (c *Connector) Change(ctx context.Context, keys links.Keyring, card join.Card, call links.Call) (join.Card, error) {
	card, _, err := c.change(ctx, keys, card, call)
	return card, err
}

func (c *Connector) change(ctx context.Context, keys links.Keyring, card join.Card, call links.Call) (join.Card, exchange, error) {
	r := c.requests["change"]
	if r == nil {
		return card, exchange{}, nil
	}
	a, x, err := c.ask(ctx, keys, r, c.values(call, card.Keep))
	if err != nil {
		return card, x, err
	}
	card.Door = c.Service().Choices.Fit(call.Door)
	if r.Card == nil {
		return card, x, nil
	}
	now, err := r.Card.card(a)
	if err != nil {
		return card, x, c.misread(err)
	}
	card.URL, card.Number, card.Passcode, card.SIP = now.URL, now.Number, now.Passcode, now.SIP
	if r.Card.Phones != nil {
		card.Phones = now.Phones
	}
	return card, x, nil
}

// Withdraw takes a call back.
func (c *Connector) Withdraw(ctx context.Context, keys links.Keyring, card join.Card) error {
	_, err := c.withdraw(ctx, keys, card)
	return err
}

func (c *Connector) withdraw(ctx context.Context, keys links.Keyring, card join.Card) (exchange, error) {
	r := c.requests["withdraw"]
	if r == nil {
		return exchange{}, nil
	}
	_, x, err := c.ask(ctx, keys, r, c.values(links.Call{}, card.Keep))
	if errors.Is(err, schedule.ErrNotFound) {
		return x, nil
	}
	return x, err
}

// Holds tells whether a call is still there.
func (c *Connector) Holds(ctx context.Context, keys links.Keyring, card join.Card) (bool, error) {
	_, err := c.read(ctx, keys, card)
	if errors.Is(err, schedule.ErrNotFound) {
		return false, nil
	}
	return err == nil, err
}

func (c *Connector) read(ctx context.Context, keys links.Keyring, card join.Card) (exchange, error) {
	r := c.requests["read"]
	if r == nil {
		return exchange{}, nil
	}
	a, x, err := c.ask(ctx, keys, r, c.values(links.Call{}, card.Keep))
	if err == nil && r.Card != nil {
		_, err = r.Card.card(a)
		err = c.misread(err)
	}
	return x, err
}

// mostPages and mostRooms bound a list of standing rooms.
const mostPages, mostRooms = 20, 1000

// List gives the standing rooms that there are.
func (c *Connector) List(ctx context.Context, keys links.Keyring) ([]links.Room, error) {
	rooms, _, err := c.list(ctx, keys)
	return rooms, err
}

func (c *Connector) list(ctx context.Context, keys links.Keyring) (rooms []links.Room, x exchange, err error) {
	r := c.requests["list"]
	if r == nil {
		return nil, x, nil
	}
	page, seen := *r, map[string]bool{}
	for range mostPages {
		var a answer
		if a, x, err = c.ask(ctx, keys, &page, c.values(links.Call{}, nil)); err != nil {
			return nil, x, err
		}
		parts := a.each(r.Items)
		if len(parts) == 0 && len(rooms) == 0 && !stands(a, r.Items) {
			return nil, x, c.misread(lacks(a, "items", r.Items))
		}
		for _, part := range parts {
			card, err := r.Card.card(part)
			if err != nil {
				return nil, x, c.misread(err)
			}
			name, err := r.Card.Name.of(part)
			if err != nil {
				return nil, x, c.misread(err)
			}
			if card.Keep, err = r.kept(part); err != nil {
				return nil, x, c.misread(err)
			}
			card.Kind, card.Name, card.Door = join.Standing, c.Name, c.Service().Choices.Usual()
			card.LimitPeople = c.Limits.People
			if card.LimitMinutes == 0 {
				card.LimitMinutes = c.Limits.Minutes
			}
			if name == "" {
				name = card.ShortURL()
			}
			if rooms = append(rooms, links.Room{Name: name, Card: card}); len(rooms) >= mostRooms {
				return rooms, x, nil
			}
		}
		next := ""
		if r.Next != "" {
			next = a.text(r.Next)
		}
		if next == "" {
			return rooms, x, nil
		}
		follow, err := page.next(next)
		if err != nil || seen[next] {
			return nil, x, c.problem(schedule.ErrUnreachable, say.It("provider.circle", c.Name))
		}
		seen[next], page = true, *follow
	}
	return rooms, x, nil
}

// stands tells whether there is anything at a path, an empty list too.
func stands(a answer, path string) bool {
	if j, is := a.(jsonAnswer); is {
		return j.Get(path).IsArray()
	}
	return true // an empty list has no elements in XML
}

// next is the request for a further page, at the same host.
func (r *request) next(text string) (*request, error) {
	base, err := url.Parse(r.origin)
	if err != nil {
		return nil, err
	}
	to, err := base.Parse(text)
	if err != nil || to.Scheme+"://"+to.Host != r.origin || len(text) > 2000 {
		return nil, errors.New("elsewhere")
	}
	page := *r
	page.query = nil
	page.address, err = literal(to.String())
	return &page, err
}

// ask sends one request as the person whose keys are given, and reads the answer. Where the
// sign-in turns out to be over it is renewed once, where the provider asks to wait a moment
// that is waited for once.
func (c *Connector) ask(ctx context.Context, keys links.Keyring, r *request, v values) (answer, exchange, error) {
	s, err := c.signIn(ctx, keys)
	if err != nil {
		return nil, exchange{}, err
	}
	renewed, waited := false, false
	for {
		req, body, err := r.compose(ctx, v, s.query)
		if err != nil {
			return nil, exchange{}, c.problem(&schedule.RefusedError{Reason: err.Error()}, say.It("provider.unwritten", c.Name, whatOf(err)))
		}
		s.sign(req)
		x, err := c.client.do(ctx, req, body)
		if err != nil {
			return nil, x.without(s.hidden), c.away(err)
		}
		a, err := c.judge(x)
		x = x.without(s.hidden) // what is shown of it
		var said *schedule.ProviderError
		switch {
		case err == nil:
			return a, x, nil
		case errors.Is(err, errSignedOut) && !renewed:
			renewed = true
			again, renewErr := s.again(ctx)
			if renewErr != nil {
				return nil, x, renewErr
			}
			if again {
				continue
			}
		case errors.As(err, &said) && said.Wait > 0 && said.Wait <= shortWait && !waited:
			waited = true
			select {
			case <-time.After(said.Wait):
				continue
			case <-ctx.Done():
			}
		}
		return nil, x, err
	}
}

// errSignedOut is a sign-in that the other side does not take.
var errSignedOut = errors.New("signed out")

// judge tells what an answer means.
func (c *Connector) judge(x exchange) (answer, error) {
	switch {
	case x.tooLarge:
		return nil, c.problem(schedule.ErrUnreachable, say.It("provider.answerLarge", c.Name))
	case x.packed:
		return nil, c.problem(schedule.ErrUnreachable, say.It("provider.answerPacked", c.Name))
	case x.status >= 300 && x.status < 400:
		return nil, c.problem(schedule.ErrUnreachable, say.It("provider.leadsOn", c.Name, host(x.location)))
	}
	a, readErr := c.readAnswer(x.received)
	if readErr == nil || x.status >= 400 {
		if a == nil {
			a = jsonAnswer{}
		}
		for _, rule := range c.Errors {
			if rule.fits(x.status, a) {
				return nil, c.meaning(rule.Means, rule.Say, x, a)
			}
		}
	}
	switch {
	case x.status == http.StatusUnauthorized:
		return nil, c.meaning("signed_out", "", x, a)
	case x.status == http.StatusNotFound || x.status == http.StatusGone:
		return nil, c.meaning("gone", "", x, a)
	case x.status == http.StatusTooManyRequests || x.status >= 500:
		return nil, c.meaning("later", "", x, a)
	case x.status >= 400:
		return nil, c.meaning("refused", "", x, a)
	case x.html():
		return nil, c.problem(schedule.ErrUnreachable, say.It("provider.webPage", c.Name))
	case readErr != nil:
		kind := "JSON"
		if c.Answers == "xml" {
			kind = "XML"
		}
		return nil, c.problem(schedule.ErrUnreachable, say.It("provider.otherForm", c.Name, kind))
	}
	return a, nil
}

func (e errorRule) fits(status int, a answer) bool {
	if e.Status != 0 && e.Status != status {
		return false
	}
	if e.when == nil {
		return true
	}
	is, err := run(e.when, values{Status: status, Answer: a.text})
	yes, _ := is.(bool)
	return err == nil && yes
}

// meaning is the error of an answer, in the words of the description where it has some.
func (c *Connector) meaning(means, says string, x exchange, a answer) error {
	own := ""
	if c.ErrorText != "" && a != nil {
		own = clean(a.text(c.ErrorText))
	}
	said := func(kind error, what say.What) error {
		p := c.problem(kind, what)
		if says != "" {
			p.What = say.It("verbatim", says)
		} else if own != "" {
			p.What = say.It("provider.says", p.What, own)
		}
		p.Wait = x.wait
		return p
	}
	switch means {
	case "signed_out":
		p := c.signedOut(fmt.Errorf("%w: status %d", errSignedOut, x.status))
		if says != "" {
			p.What = say.It("verbatim", says)
		}
		return p
	case "gone":
		return said(schedule.ErrNotFound, say.It("provider.gone", c.Name))
	case "later":
		return said(schedule.ErrUnreachable, say.It("provider.later", c.Name))
	case "quota":
		return said(&schedule.RefusedError{Reason: own}, say.It("provider.quota", c.Name))
	}
	return said(&schedule.RefusedError{Reason: own}, say.It("provider.refuses", c.Name, x.status))
}

// clean is a text of somebody else's in one line of a sensible length.
func clean(text string) string {
	text = strings.Join(strings.Fields(text), " ")
	if r := []rune(text); len(r) > 200 {
		text = string(r[:200]) + "…"
	}
	return strings.TrimRight(text, ".")
}

func host(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" {
		return address
	}
	return u.Host
}

func (c *Connector) problem(kind error, what say.What) *schedule.ProviderError {
	return &schedule.ProviderError{Provider: c.Name, Kind: kind, What: what}
}

func (c *Connector) away(cause error) error {
	p := c.problem(schedule.ErrUnreachable, say.It("provider.away", c.Name))
	switch {
	case errors.Is(cause, outbound.ErrPrivate):
		p = c.problem(&schedule.RefusedError{Reason: cause.Error()}, say.It("provider.private", c.Name))
	case errors.Is(cause, errPace):
		p = c.problem(schedule.ErrUnreachable, say.It("provider.pace", c.Name, c.Pace.PerMinute))
		p.Wait = time.Minute
	}
	p.Cause = cause
	return p
}

func (c *Connector) signedOut(cause error) *schedule.ProviderError {
	if c.SignIn.Kind == "oauth2_code" {
		return &schedule.ProviderError{Provider: c.Name, Kind: schedule.ErrConnect, What: say.It("provider.signIn", c.Name), Cause: cause}
	}
	return &schedule.ProviderError{Provider: c.Name, Kind: &schedule.RefusedError{Reason: "sign-in"}, Cause: cause,
		What: say.It("provider.signedOut", c.Name)}
}

// misread is the error of an answer that has not what the description says.
func (c *Connector) misread(err error) error {
	var m *missing
	if !errors.As(err, &m) {
		return err
	}
	return &schedule.ProviderError{Provider: c.Name, Kind: schedule.ErrUnreachable, Cause: err,
		What: say.It("provider.misread", c.Name, m.What())}
}

// without hides secrets in what a trial shows.
func (x exchange) without(hidden []string) exchange {
	hide := func(s string) string {
		for _, h := range hidden {
			if len(h) > 2 {
				s = strings.ReplaceAll(s, h, "•••")
			}
		}
		return s
	}
	x.address, x.sent, x.received = hide(x.address), []byte(hide(string(x.sent))), []byte(hide(string(x.received)))
	return x
}

// whatOf is what an error says; one of somebody else's program as it stands.
func whatOf(err error) say.What {
	if what, ok := say.Of(err); ok {
		return what
	}
	return say.It("verbatim", err.Error())
}
