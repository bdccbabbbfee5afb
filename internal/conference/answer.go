package conference

import (
	"bytes"
	"cmp"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/antchfx/xmlquery"
	"github.com/tidwall/gjson"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
)

// answer is what a provider answered, in JSON or XML.
type answer interface {
	// text is what stands at a path, "" where nothing does.
	text(path string) string
	// each gives the parts at a path.
	each(path string) []answer
	// paths are those at which something stands.
	paths() []string
}

// Paths are bounded to what costs no more than one look through the answer.
var (
	jsonPath = regexp.MustCompile(`^[^@#|*?!{}()\[\]\\"]+$|^@this$`)
	xmlPath  = regexp.MustCompile(`^(?:\.|\.?/{1,2})?(?:[A-Za-z_][\w.-]*(?:\[\d{1,3}\])?/)*(?:[A-Za-z_][\w.-]*(?:\[\d{1,3}\])?|@[A-Za-z_][\w.-]*|text\(\))?$`)
)

func (c *Connector) checkPath(path string) error {
	if c.Answers == "xml" {
		if !xmlPath.MatchString(path) {
			return say.It("provider.path.xml")
		}
		return nil
	}
	if !jsonPath.MatchString(path) {
		return say.It("provider.path.json")
	}
	return nil
}

var errNoData = errors.New("no data")

// readAnswer reads what was answered; an empty answer has nothing at any path.
func (c *Connector) readAnswer(raw []byte) (answer, error) {
	raw = bytes.TrimSpace(bytes.TrimPrefix(raw, []byte("\ufeff")))
	switch {
	case len(raw) == 0:
		return jsonAnswer{}, nil
	case c.Answers == "xml":
		return readXML(raw)
	case !json.Valid(raw): // it bounds how deep the answer is nested
		return nil, errNoData
	}
	return jsonAnswer{gjson.ParseBytes(raw)}, nil
}

type jsonAnswer struct{ gjson.Result }

func (a jsonAnswer) text(path string) string {
	if !jsonPath.MatchString(path) {
		return ""
	}
	r := a.Get(path)
	if !r.Exists() || r.Type == gjson.Null || r.IsObject() || r.IsArray() {
		return ""
	}
	return strings.TrimSpace(r.String())
}

// mostParts is how many phones or rooms of one answer are read.
const mostParts = 500

func (a jsonAnswer) each(path string) (out []answer) {
	r := a.Get(path)
	if !r.IsArray() {
		return nil
	}
	r.ForEach(func(_, v gjson.Result) bool {
		out = append(out, jsonAnswer{v})
		return len(out) < mostParts
	})
	return out
}

// mostPaths is how many paths of an answer are looked at for one that is near.
const mostPaths = 500

func (a jsonAnswer) paths() (out []string) {
	var walk func(r gjson.Result, path string, depth int)
	walk = func(r gjson.Result, path string, depth int) {
		if len(out) >= mostPaths || depth > 8 {
			return
		}
		if !r.IsObject() && !r.IsArray() {
			out = append(out, path)
			return
		}
		n := 0
		r.ForEach(func(k, v gjson.Result) bool {
			key := k.String()
			if r.IsArray() {
				key = strconv.Itoa(n)
			}
			n++
			walk(v, strings.TrimPrefix(path+"."+key, "."), depth+1)
			return n < 50
		})
	}
	if a.Exists() {
		walk(a.Result, "", 0)
	}
	return out
}

type xmlAnswer struct{ *xmlquery.Node }

// readXML reads an answer of elements; no entity is looked up anywhere.
func readXML(raw []byte) (answer, error) {
	d := xml.NewDecoder(bytes.NewReader(raw))
	depth := 0
	for { // nothing is built of what is nested without end, or broken
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, errNoData
		}
		switch token.(type) {
		case xml.StartElement:
			depth++
		case xml.EndElement:
			depth--
		}
		if depth > 50 {
			return nil, errNoData
		}
	}
	doc, err := xmlquery.Parse(bytes.NewReader(raw))
	if err != nil || xmlquery.FindOne(doc, "/*") == nil {
		return nil, errNoData
	}
	return xmlAnswer{doc}, nil
}

func (a xmlAnswer) text(path string) string {
	if !xmlPath.MatchString(path) {
		return ""
	}
	n, err := xmlquery.Query(a.Node, path)
	if err != nil || n == nil {
		return ""
	}
	return strings.TrimSpace(n.InnerText())
}

func (a xmlAnswer) each(path string) (out []answer) {
	all, err := xmlquery.QueryAll(a.Node, path)
	if err != nil {
		return nil
	}
	for _, n := range all[:min(len(all), mostParts)] {
		out = append(out, xmlAnswer{n})
	}
	return out
}

func (a xmlAnswer) paths() (out []string) {
	var walk func(n *xmlquery.Node, path string)
	walk = func(n *xmlquery.Node, path string) {
		leaf := true
		for child := n.FirstChild; child != nil && len(out) < mostPaths; child = child.NextSibling {
			if child.Type == xmlquery.ElementNode {
				leaf = false
				walk(child, path+"/"+child.Data)
			}
		}
		if leaf && path != "" {
			out = append(out, path)
		}
		for _, attr := range n.Attr {
			out = append(out, path+"/@"+attr.Name.Local)
		}
	}
	walk(a.Node, "")
	return slices.Compact(out)
}

// missing is a value that an answer does not have.
type missing struct {
	field, path string
	near        []string
	broken      say.What // why what stands there cannot be used
}

func (m *missing) Error() string { return m.What().Error() }

// What is what is missing, within a sentence.
func (m *missing) What() say.What {
	if !m.broken.Empty() {
		return say.It("answer.unusable", m.path, m.broken)
	}
	return say.It("answer.missing", m.path)
}

func lacks(a answer, field, path string) *missing {
	all := a.paths()
	near := nearest(path, all)
	if len(near) == 0 { // then what stands beside where it should
		parent := strings.TrimSuffix(path, last(path))
		for _, p := range all {
			if parent != "" && strings.TrimSuffix(p, last(p)) == parent && len(near) < 2 {
				near = append(near, p)
			}
		}
	}
	return &missing{field: field, path: path, near: near}
}

// taken is what a field of a card comes to.
func (t take) of(a answer) (string, error) {
	if t.At == "" {
		return "", nil
	}
	text := a.text(t.At)
	if t.as == nil || text == "" {
		return text, nil
	}
	v, err := run(t.as, values{Value: text, Answer: a.text})
	if err != nil || v == nil {
		return "", err
	}
	return strings.TrimSpace(fmt.Sprint(v)), nil
}

const longestField = 2000 // of a link; anything else on a card is shorter

// card is the join card that an answer says. It fails with a *missing.
func (p *cardPaths) card(a answer) (c join.Card, err error) {
	texts := map[string]string{}
	for _, t := range p.all() {
		if texts[t.name], err = t.of(a); err != nil {
			return c, &missing{field: t.name, path: t.At, broken: whatOf(err)}
		}
		if len(texts[t.name]) > longestField || strings.ContainsFunc(texts[t.name], func(r rune) bool { return r < ' ' || r == 0x7f || r == '\ufffd' }) {
			return c, &missing{field: t.name, path: t.At, broken: say.It("answer.line")}
		}
	}
	c.URL, c.Number, c.Passcode, c.HostPIN, c.SIP = texts["link"], texts["number"], texts["passcode"], texts["host_pin"], texts["sip"]
	if p.Phones != nil {
		if c.Phones, err = p.phones(a, texts["pin"]); err != nil {
			return c, err
		}
	}
	switch {
	case c.URL == "" && p.Link.At != "":
		return c, lacks(a, "link", p.Link.At)
	case c.URL != "" && !join.IsLink(c.URL):
		return c, &missing{field: "link", path: p.Link.At, broken: say.It("answer.link")}
	case c.SIP != "" && !strings.HasPrefix(c.SIP, "sip:") && !strings.HasPrefix(c.SIP, "sips:"):
		return c, &missing{field: "sip", path: p.SIP.At, broken: say.It("answer.sip")}
	}
	for _, t := range p.all() { // what the description promises has to be there
		if slices.Contains([]string{"number", "passcode", "host_pin", "pin"}, t.name) && t.At != "" && texts[t.name] == "" {
			return c, lacks(a, t.name, t.At)
		}
	}
	if c.LimitMinutes, err = count(texts["minutes"]); err != nil {
		return c, &missing{field: "minutes", path: p.Minutes.At, broken: say.It("answer.number")}
	}
	if c.GoodUntil, err = moment(texts["until"]); err != nil {
		return c, &missing{field: "until", path: p.Until.At, broken: say.It("answer.time")}
	}
	return c, nil
}

func count(text string) (int, error) {
	if text == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(text)
	if n < 0 || n > 1_000_000 {
		return 0, errors.New("out of range")
	}
	return n, err
}

// moment reads a time as RFC 3339, a day, or seconds since 1970.
func moment(text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	if seconds, err := strconv.ParseInt(text, 10, 64); err == nil && seconds > 0 && seconds < 253402300800 {
		return time.Unix(seconds, 0).UTC(), nil
	}
	for _, layout := range []string{time.RFC3339, "2006-01-02T15:04:05", time.DateTime, time.DateOnly} {
		if t, err := time.Parse(layout, text); err == nil && t.Year() > 1970 && t.Year() < 9999 {
			return t.UTC(), nil
		}
	}
	return time.Time{}, errors.New("no time")
}

func (p *cardPaths) phones(a answer, pin string) (out []join.Phone, err error) {
	parts := a.each(p.Phones.Each)
	if len(parts) == 0 {
		return nil, lacks(a, "phones.each", p.Phones.Each)
	}
	for _, part := range parts {
		number := part.text(p.Phones.Number)
		if number == "" {
			return nil, lacks(part, "phones.number", p.Phones.Number)
		}
		country := ""
		if p.Phones.Country != "" {
			country = strings.ToUpper(part.text(p.Phones.Country))
		}
		own := pin
		if p.Phones.PIN != "" {
			own = part.text(p.Phones.PIN)
		}
		phone, err := join.ReadPhone(number, country, own)
		if err != nil {
			return nil, &missing{field: "phones.number", path: p.Phones.Number, broken: say.It("answer.phone", fmt.Sprintf("%.40s", number))}
		}
		if !slices.ContainsFunc(out, func(o join.Phone) bool { return o.Number == phone.Number }) {
			out = append(out, phone)
		}
	}
	return out, nil
}

// kept is what later calls name of an answer.
func (r *request) kept(a answer) (map[string]string, error) {
	out := map[string]string{}
	for name, path := range r.Keep {
		if out[name] = a.text(path); out[name] == "" {
			return nil, lacks(a, "keep."+name, path)
		}
		if len(out[name]) > 500 {
			return nil, &missing{field: "keep." + name, path: path, broken: say.It("answer.long")}
		}
	}
	return out, nil
}

// nearest are the names that are most like one, at most two, the likest first.
func nearest(name string, all []string) []string {
	type near struct {
		name string
		off  int
	}
	var found []near
	for _, candidate := range all {
		off := min(distance(last(name), last(candidate))+min(3, distance(name, candidate)/3), distance(name, candidate))
		if off <= max(2, len(last(name))/2) {
			found = append(found, near{candidate, off})
		}
	}
	slices.SortStableFunc(found, func(a, b near) int { return cmp.Compare(a.off, b.off) })
	var out []string
	for _, n := range found[:min(2, len(found))] {
		out = append(out, n.name)
	}
	return out
}

// last is the last part of a path.
func last(path string) string {
	return path[strings.LastIndexAny(path, "./@")+1:]
}

// distance is how many letters have to be put in, taken out or changed.
func distance(a, b string) int {
	a, b = a[:min(len(a), 100)], b[:min(len(b), 100)]
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range len(a) {
		diagonal := row[0]
		row[0] = i + 1
		for j := range len(b) {
			next := min(row[j]+1, row[j+1]+1)
			if a[i] == b[j] {
				next = min(next, diagonal)
			} else {
				next = min(next, diagonal+1)
			}
			diagonal, row[j+1] = row[j+1], next
		}
	}
	return row[len(b)]
}
