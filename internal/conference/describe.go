// Package conference talks to conferencing services as their descriptions say: a YAML file
// each, checked by description.schema.json, that names the requests and how the answers become
// join cards. A description is code of somebody else: what it can do is bounded in expressions,
// paths, addresses, sizes and time.
package conference

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"github.com/expr-lang/expr/vm"
	"github.com/goccy/go-yaml"
	"github.com/yosida95/uritemplate/v3"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
	"jembro/internal/schedule/links"
)

// mostText is how large a description can be, in bytes.
const mostText = 64 << 10

// description is the file as it is written.
type description struct {
	Name      string         `yaml:"name"`
	About     string         `yaml:"about"`
	SignIn    signIn         `yaml:"sign_in"`
	Can       []join.Ability `yaml:"can"`
	Limits    limits         `yaml:"limits"`
	Countries int            `yaml:"countries"`
	Choices   choices        `yaml:"choices"`
	Pace      struct {
		PerMinute int `yaml:"per_minute"`
	} `yaml:"pace"`
	Answers   string          `yaml:"answers"`
	Calls     map[string]call `yaml:"calls"`
	Errors    []errorRule     `yaml:"errors"`
	ErrorText string          `yaml:"error_text"`
}

type signIn struct {
	Kind      string   `yaml:"kind"`
	Authorize string   `yaml:"authorize"`
	Token     string   `yaml:"token"`
	Scopes    []string `yaml:"scopes"`
	SecretIn  string   `yaml:"secret_in"`
	In        string   `yaml:"in"`
	Field     string   `yaml:"field"`
	Before    string   `yaml:"before"`
}

type limits struct {
	Minutes  int `yaml:"minutes"`
	People   int `yaml:"people"`
	Calls    int `yaml:"calls"`
	Dates    int `yaml:"dates"`
	LinkDays int `yaml:"link_days"`
}

type choices struct {
	Waits    []join.Waits  `yaml:"waits"`
	Speaks   []join.Speaks `yaml:"speaks"`
	Starts   []join.Starts `yaml:"starts"`
	Passcode []string      `yaml:"passcode"`
}

type call struct {
	Get     string            `yaml:"get"`
	Post    string            `yaml:"post"`
	Put     string            `yaml:"put"`
	Patch   string            `yaml:"patch"`
	Delete  string            `yaml:"delete"`
	Query   map[string]any    `yaml:"query"`
	Headers map[string]any    `yaml:"headers"`
	JSON    any               `yaml:"json"`
	Form    map[string]any    `yaml:"form"`
	XML     map[string]any    `yaml:"xml"`
	Items   string            `yaml:"items"`
	Next    string            `yaml:"next"`
	Card    *cardPaths        `yaml:"card"`
	Keep    map[string]string `yaml:"keep"`
}

type cardPaths struct {
	Name     take `yaml:"name"`
	Link     take `yaml:"link"`
	Number   take `yaml:"number"`
	Passcode take `yaml:"passcode"`
	PIN      take `yaml:"pin"`
	HostPIN  take `yaml:"host_pin"`
	SIP      take `yaml:"sip"`
	Minutes  take `yaml:"minutes"`
	Until    take `yaml:"until"`
	Phones   *struct {
		Each    string `yaml:"each"`
		Number  string `yaml:"number"`
		Country string `yaml:"country"`
		PIN     string `yaml:"pin"`
	} `yaml:"phones"`
}

// take is where a value stands, and what is made of it.
type take struct {
	At, As string
	as     *vm.Program
}

func (t *take) UnmarshalYAML(raw []byte) error {
	if err := yaml.Unmarshal(raw, &t.At); err == nil {
		return nil
	}
	var both struct {
		At string `yaml:"at"`
		As string `yaml:"as"`
	}
	err := yaml.Unmarshal(raw, &both)
	t.At, t.As = both.At, both.As
	return err
}

type errorRule struct {
	Status int    `yaml:"status"`
	When   string `yaml:"when"`
	Means  string `yaml:"means"`
	Say    string `yaml:"say"`
	when   *vm.Program
}

// request is a call made ready.
type request struct {
	call
	method string
	// origin is the scheme, host and port that the address begins with; nothing that is filled
	// in changes it.
	origin  string
	address *uritemplate.Template
	query   map[string]value
	headers map[string]value
	body    value // of json or xml
	form    map[string]value
	lines   string // where it stands in the description: "calls.make"
}

// Connector is a description made ready. It can be used by many at once.
type Connector struct {
	description
	requests map[string]*request
	lines    map[string]int // of the fields of the description, by path
	client   *client
	house    houseToken
}

var _ links.Provider = (*Connector)(nil)

// callNames are the calls in the order in which they are tried.
var callNames = []string{"make", "change", "read", "withdraw", "list"}

// compile reads a description.
func compile(text string, c *client) (*Connector, []links.DescriptionFault) {
	fault := func(what say.What) (*Connector, []links.DescriptionFault) {
		return nil, []links.DescriptionFault{{What: what}}
	}
	switch {
	case strings.TrimSpace(text) == "":
		return fault(say.It("description.empty"))
	case len(text) > mostText:
		return fault(say.It("description.long", mostText>>10, len(text)>>10))
	case strings.ContainsRune(text, 0):
		return fault(say.It("description.character"))
	}
	doc, faults := parse(text)
	if len(faults) > 0 {
		return nil, faults
	}
	if faults := doc.check(); len(faults) > 0 {
		return nil, faults
	}
	out := &Connector{lines: doc.lines, client: c, requests: map[string]*request{}}
	if err := yaml.Unmarshal([]byte(text), &out.description); err != nil {
		return nil, []links.DescriptionFault{yamlFault(err)}
	}
	faults = out.prepare()
	slices.SortStableFunc(faults, func(a, b links.DescriptionFault) int { return a.Line - b.Line })
	if len(faults) > 0 {
		return nil, faults
	}
	out.client = c.paced(out.Pace.PerMinute)
	return out, nil
}

// prepare makes requests of the calls, and finds what does not go together.
func (c *Connector) prepare() (faults []links.DescriptionFault) {
	fault := func(path string, err error) { faults = append(faults, c.fault(path, err)) }
	for _, name := range callNames {
		described, is := c.Calls[name]
		if !is {
			continue
		}
		r, more := c.request(name, described)
		faults = append(faults, more...)
		c.requests[name] = r
	}
	for i := range c.Errors {
		rule := &c.Errors[i]
		if rule.When == "" {
			continue
		}
		var err error
		if rule.when, err = condition(rule.When); err != nil {
			fault(fmt.Sprintf("errors.%d.when", i), err)
		}
	}
	if c.ErrorText != "" {
		if err := c.checkPath(c.ErrorText); err != nil {
			fault("error_text", err)
		}
	}
	needs := func(ability join.Ability, name string, fields ...string) {
		if !slices.Contains(c.Can, ability) {
			return
		}
		described, is := c.Calls[name]
		if !is {
			fault("can", say.It("description.noCall", string(ability), name))
			return
		}
		for _, field := range fields {
			if field == "card" && described.Card == nil || field == "keep" && len(described.Keep) == 0 && c.needsKeep() || field == "items" && described.Items == "" {
				fault("calls."+name, say.It("description.needsField", name, field))
			}
		}
	}
	needs(join.CanMake, "make", "card", "keep")
	needs(join.CanMove, "change")
	needs(join.CanWithdraw, "withdraw")
	needs(join.CanStand, "list", "items", "card")
	if !slices.Contains(c.Can, join.CanMake) && !slices.Contains(c.Can, join.CanStand) {
		fault("can", say.It("description.noWay"))
	}
	kept := c.kept()
	for _, name := range []string{"change", "read", "withdraw"} {
		if r := c.requests[name]; r != nil && r.address != nil {
			for _, v := range r.address.Varnames() {
				if !slices.Contains(kept, v) {
					fault("calls."+name, say.It("description.notKept", v))
				}
			}
		}
	}
	return faults
}

// needsKeep tells whether any later call names something that was kept.
func (c *Connector) needsKeep() bool {
	return slices.ContainsFunc([]string{"change", "read", "withdraw"}, func(name string) bool { _, is := c.Calls[name]; return is })
}

// kept are the names under which something is kept.
func (c *Connector) kept() (names []string) {
	for _, name := range []string{"make", "list"} {
		for key := range c.Calls[name].Keep {
			names = append(names, key)
		}
	}
	return names
}

var origin = regexp.MustCompile(`^https?://[^/{}?#]+`)

// request makes one call ready.
func (c *Connector) request(name string, d call) (*request, []links.DescriptionFault) {
	var faults []links.DescriptionFault
	path := "calls." + name
	fault := func(at string, err error) {
		if err != nil {
			faults = append(faults, c.fault(path+at, err))
		}
	}
	r := &request{call: d, lines: path}
	address := ""
	for method, a := range map[string]string{"GET": d.Get, "POST": d.Post, "PUT": d.Put, "PATCH": d.Patch, "DELETE": d.Delete} {
		if a != "" {
			r.method, address = method, a
		}
	}
	at := "." + strings.ToLower(r.method)
	r.origin = origin.FindString(address)
	if u, err := url.Parse(r.origin); r.origin == "" || err != nil || u.User != nil {
		fault(at, say.It("description.address"))
	} else if u.Scheme == "http" && !c.client.plain {
		fault(at, say.It("description.https"))
	}
	var err error
	if r.address, err = uritemplate.New(address); err != nil {
		fault(at, say.It("description.template"))
	}
	prepared := func(field string, all map[string]any) map[string]value {
		out := map[string]value{}
		for key, v := range all {
			x, err := prepareValue(v)
			fault("."+field+"."+key, err)
			out[key] = x
		}
		return out
	}
	r.query, r.headers, r.form = prepared("query", d.Query), prepared("headers", d.Headers), prepared("form", d.Form)
	for key := range d.Headers {
		if slices.Contains([]string{"host", "content-length", "transfer-encoding", "connection", "cookie"}, strings.ToLower(key)) {
			fault(".headers."+key, say.It("description.header"))
		}
	}
	bodies := 0
	if d.JSON != nil {
		bodies++
		r.body, err = prepareValue(d.JSON)
		faults = append(faults, c.valueFaults(path+".json", err)...)
	}
	if d.XML != nil {
		bodies++
		r.body, err = prepareValue(d.XML)
		faults = append(faults, c.valueFaults(path+".xml", err)...)
		for _, name := range elementNames(d.XML) {
			if !elementName.MatchString(name) {
				fault(".xml", say.It("description.element", name))
			}
		}
	}
	if d.Form != nil {
		bodies++
	}
	switch {
	case bodies > 1:
		fault("", say.It("description.bodies"))
	case bodies > 0 && r.method == "GET":
		fault("", say.It("description.getBody"))
	}
	return r, append(faults, c.preparePaths(path, &r.call)...)
}

// fault is one at a field of the description.
func (c *Connector) fault(path string, err error) links.DescriptionFault {
	return links.DescriptionFault{Line: lineOf(c.lines, path), Path: path, What: whatOf(err)}
}

// preparePaths checks the paths of a call, and makes its expressions ready.
func (c *Connector) preparePaths(at string, d *call) (faults []links.DescriptionFault) {
	check := func(path, text string) {
		if text == "" {
			return
		}
		if err := c.checkPath(text); err != nil {
			faults = append(faults, c.fault(at+path, err))
		}
	}
	check(".items", d.Items)
	check(".next", d.Next)
	for name, path := range d.Keep {
		check(".keep."+name, path)
	}
	if d.Card == nil {
		return faults
	}
	for _, t := range d.Card.all() {
		check(".card."+t.name, t.At)
		if t.As == "" {
			continue
		}
		var err error
		if t.as, err = ofValue(t.As); err != nil {
			faults = append(faults, c.fault(at+".card."+t.name+".as", err))
		}
	}
	if p := d.Card.Phones; p != nil {
		check(".card.phones.each", p.Each)
		check(".card.phones.number", p.Number)
		check(".card.phones.country", p.Country)
		check(".card.phones.pin", p.PIN)
	}
	return faults
}

type namedTake struct {
	name string
	*take
}

// all are the single values of a card.
func (p *cardPaths) all() []namedTake {
	return []namedTake{{"name", &p.Name}, {"link", &p.Link}, {"number", &p.Number}, {"passcode", &p.Passcode}, {"pin", &p.PIN},
		{"host_pin", &p.HostPIN}, {"sip", &p.SIP}, {"minutes", &p.Minutes}, {"until", &p.Until}}
}

// Service is what is known of the provider without asking it.
func (c *Connector) Service() join.Service {
	return join.Service{Name: c.Name, About: c.About, Can: c.Can, Limits: join.Limits(c.Limits), Countries: c.Countries, Each: c.SignIn.Kind == "oauth2_code",
		Choices: join.Choices{Waits: c.Choices.Waits, Speaks: c.Choices.Speaks, Starts: c.Choices.Starts, OwnPasscode: slices.Contains(c.Choices.Passcode, "own")}}
}

// Knows tells whether everything that later calls name was kept of a call.
func (c *Connector) Knows(card join.Card) bool {
	for _, name := range []string{"change", "read", "withdraw"} {
		r := c.requests[name]
		if r == nil {
			continue
		}
		for _, v := range r.address.Varnames() {
			if card.Keep[v] == "" {
				return false
			}
		}
	}
	return true
}

// secrets are what the house has to give for each kind of sign-in.
var secrets = map[string][]string{"oauth2_code": {"client_id", "client_secret"}, "oauth2_client": {"client_id", "client_secret"}, "api_key": {"key"}, "basic": {"user", "password"}}
