package conference

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"net/netip"
	"slices"
	"strings"
	"time"

	"github.com/yosida95/uritemplate/v3"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
)

// Descriptions makes providers of their descriptions.
type Descriptions struct{ client *client }

var _ links.Descriptions = Descriptions{}

// NewDescriptions makes providers that ask only addresses of the public internet, and those
// allowed; agent says who asks.
func NewDescriptions(allow []netip.Prefix, agent string) Descriptions {
	return Descriptions{newClient(allow, agent)}
}

// Compile reads a description.
func (d Descriptions) Compile(text string) (links.Provider, []links.DescriptionFault) {
	c, faults := compile(text, d.client)
	if len(faults) > 0 {
		return nil, faults
	}
	return c, nil
}

// Secrets names what the house has to give.
func (d Descriptions) Secrets(p links.Provider) []string {
	c, is := p.(*Connector)
	if !is {
		return nil
	}
	return secrets[c.SignIn.Kind]
}

// Schema is the JSON Schema of a description.
func (d Descriptions) Schema() string { return schemaText }

// literal is an address in which nothing is filled in.
func literal(address string) (*uritemplate.Template, error) {
	return uritemplate.New(strings.NewReplacer("{", "%7B", "}", "%7D").Replace(address))
}

// mostShown is how much of a request or an answer is shown, in bytes.
const mostShown = 4000

// Try makes a call, changes it, reads it and takes it back.
func (d Descriptions) Try(ctx context.Context, p links.Provider, keys links.Keyring, call links.Call) (t links.Trial) {
	c, is := p.(*Connector)
	if !is {
		return t
	}
	t.Steps = append(t.Steps, links.TrialStep{Name: "description", Outcome: "ok"})
	if _, err := c.signIn(ctx, keys); err != nil {
		t.Steps = append(t.Steps, c.step("sign-in", exchange{}, err))
		return t
	}
	t.Steps = append(t.Steps, links.TrialStep{Name: "sign-in", Outcome: "ok"})
	skip := func(name string, note say.What) {
		t.Steps = append(t.Steps, links.TrialStep{Name: name, Outcome: "skipped", Note: note})
	}
	if slices.Contains(c.Can, join.CanMake) {
		card, x, err := c.make(ctx, keys, call)
		t.Steps = append(t.Steps, c.step("make", x, err))
		if x.status != 0 {
			t.Card = &card
		}
		made := err == nil || card.Keep != nil // a call is there, whatever its card is
		for _, name := range []string{"change", "read", "withdraw"} {
			r := c.requests[name]
			switch {
			case r == nil:
			case !made, err != nil && name != "withdraw":
				skip(name, say.It("trial.notTried"))
			default:
				var x exchange
				var failed error
				switch name {
				case "change":
					later := call
					later.Start, later.End = call.Start.Add(time.Hour), call.End.Add(time.Hour)
					_, x, failed = c.change(ctx, keys, card, later)
				case "read":
					x, failed = c.read(ctx, keys, card)
				case "withdraw":
					x, failed = c.withdraw(ctx, keys, card)
				}
				t.Steps = append(t.Steps, c.step(name, x, failed))
			}
		}
		if x.status >= 200 && x.status < 300 && !made {
			t.Steps = append(t.Steps, links.TrialStep{Name: "withdraw", Outcome: "skipped", Note: say.It("trial.left")})
		}
	}
	if c.requests["list"] != nil {
		rooms, x, err := c.list(ctx, keys)
		s := c.step("list", x, err)
		if err == nil {
			s.Note = say.It("trial.rooms", say.Count{N: len(rooms), Of: "room"})
			t.Rooms = rooms
			if t.Card == nil && len(rooms) > 0 {
				t.Card = &rooms[0].Card
			}
		}
		t.Steps = append(t.Steps, s)
	}
	return t
}

// step is how a request is shown.
func (c *Connector) step(name string, x exchange, err error) links.TrialStep {
	s := links.TrialStep{Name: name, Outcome: "ok", Status: x.status, Took: x.took, Answer: shown(x.received)}
	if x.method != "" {
		s.Request = x.method + " " + x.address
		if len(x.sent) > 0 {
			s.Request += "\n" + shown(x.sent)
		}
	}
	if x.tooLarge {
		s.Answer += "\n…"
	}
	if err == nil {
		return s
	}
	s.Outcome = "failed"
	var said *schedule.ProviderError
	s.Note = whatOf(err)
	if errors.As(err, &said) {
		s.Note = said.What
	}
	path := "calls." + name
	f := links.DescriptionFault{Path: path, What: s.Note}
	var m *missing
	switch {
	case errors.As(err, &m):
		f.Path = path + ".card." + m.field
		if strings.HasPrefix(m.field, "keep.") || m.field == "items" {
			f.Path = path + "." + m.field
		}
		f.What, f.Near = say.It("trial.missing", m.path), m.near
		if !m.broken.Empty() {
			f.What = say.It("trial.unusable", m.path, m.broken)
		}
		s.Note = say.What{}
	case name == "sign-in":
		f.Path = "sign_in"
	case c.requests[name] != nil:
		f.Path = path + "." + strings.ToLower(c.requests[name].method)
	}
	if f.Line = lineOf(c.lines, f.Path); f.Line > 0 {
		s.Fault = &f
	}
	return s
}

// shown is a body as it is shown: laid out where it is JSON, and cut where it is long.
func shown(raw []byte) string {
	var laid bytes.Buffer
	if json.Indent(&laid, raw, "", "  ") == nil {
		raw = laid.Bytes()
	}
	text := strings.ToValidUTF8(string(raw[:min(len(raw), mostShown)]), "·")
	if len(raw) > mostShown {
		text += "\n…"
	}
	return strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\t' {
			return '·'
		}
		return r
	}, text)
}
