package ical

import (
	"bytes"
	"errors"
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/emersion/go-ical"

	"jembro/internal/core/calendar"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/schedule/meetings"
)

// Answer is what one component says that somebody invited sends back: a REPLY, a COUNTER or a
// REFRESH (RFC 5546, 3.2.3, 3.2.7, 3.2.6).
type Answer = meetings.MailReply

var (
	// ErrNotReply: an iCalendar object, but not an answer to an invitation.
	ErrNotReply = errors.New("not a reply to an invitation")
	// ErrMalformed is wrapped by every error about text that is no iCalendar.
	ErrMalformed = errors.New("malformed calendar data")
)

// What a reader takes before it looks into anything: reading costs in proportion to
// it.
const (
	mostComponents = 500
	mostLines      = 20_000
	longestLine    = 100_000 // unfolded
	mostParameters = 50      // of a line
	// mostObservances is what is looked at of a zone of a sender's own making.
	mostObservances = 30
	zoneSteps       = 20_000 // to look up times in zones of a sender's own making
)

// ReadReplies reads all that REPLYs, COUNTERs and REFRESHs say, one Answer an ATTENDEE. method is that of
// the message around it, for objects that have none (RFC 6047, 2.4: they should agree).
// What a sender's program got wrong and is not needed is passed over: the RFC has
// exactly one ATTENDEE, and others arrive. It fails with ErrNotReply or ErrMalformed,
// and never panics, whatever it is given.
func ReadReplies(raw []byte, method string) (out []Answer, err error) {
	defer func() {
		if r := recover(); r != nil { // the decoder indexes past the end of some broken lines
			out, err = nil, fmt.Errorf("%w: %v", ErrMalformed, r)
		}
	}()
	text, err := plainLines(raw)
	if err != nil {
		return nil, err
	}
	decoder := ical.NewDecoder(bytes.NewReader(text))
	for n := 0; ; n++ {
		cal, err := decoder.Decode()
		if err != nil {
			if n > 0 { // what follows the last object
				break
			}
			return nil, fmt.Errorf("%w: %w", ErrMalformed, err)
		}
		said := value(cal.Props, ical.PropMethod)
		if said == "" {
			said = method
		}
		if how := meetings.Method(strings.ToUpper(strings.TrimSpace(said))); how.Known() {
			out = append(out, readEvents(cal, how)...)
		}
	}
	if len(out) == 0 {
		return nil, ErrNotReply
	}
	return out, nil
}

// plainLines is the text unfolded, without a byte order mark and within the limits.
func plainLines(raw []byte) ([]byte, error) {
	text := bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
	text = bytes.ReplaceAll(text, []byte("\r\n"), []byte("\n"))
	text = bytes.ReplaceAll(text, []byte("\n "), nil)
	text = bytes.ReplaceAll(text, []byte("\n\t"), nil)
	text = bytes.ToValidUTF8(bytes.ReplaceAll(text, []byte{0}, nil), []byte(string(utf8.RuneError)))
	lines, components := 0, 0
	var out bytes.Buffer
	for line := range bytes.Lines(bytes.TrimLeft(text, " \t\r\n")) {
		lines++
		if len(line) >= 6 && bytes.EqualFold(line[:6], []byte("BEGIN:")) {
			components++
		}
		if len(line) > longestLine || lines > mostLines || components > mostComponents {
			return nil, fmt.Errorf("%w: more than anybody answers with", ErrMalformed)
		}
		if tidy := tidyLine(string(bytes.TrimRight(line, "\r\n"))); tidy != "" {
			out.WriteString(tidy + "\r\n")
		}
	}
	return out.Bytes(), nil
}

// tidyLine is a content line without parameters that are none; a line without a value
// is dropped. RFC 5546 itself has such: RECURRENCE-ID;THISANDFUTURE (4.4.5) and
// ATTENDEE;CUTYPE=INDIVIDUAL;mailto:a@example.com (4.2.9).
func tidyLine(line string) string {
	var parts []string // the name, and the parameters
	from, quoted := 0, false
	for i := 0; i < len(line); i++ {
		switch c := line[i]; {
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == ';':
			parts, from = append(parts, line[from:i]), i+1
		case c == ':':
			parts = append(parts, line[from:i])
			kept := parts[:1]
			for _, p := range parts[1:min(len(parts), mostParameters)] {
				switch {
				case strings.Contains(p, "="):
					kept = append(kept, p)
				case strings.EqualFold(p, "THISANDFUTURE"):
					kept = append(kept, "RANGE=THISANDFUTURE")
				}
			}
			return strings.Join(kept, ";") + line[i:]
		}
	}
	return ""
}

func readEvents(cal *ical.Calendar, how meetings.Method) (out []Answer) {
	zones := zones{theirZones(cal), recur.NewBudget(zoneSteps)}
	for _, c := range cal.Children {
		if c.Name == ical.CompEvent {
			out = append(out, readEvent(c, how, zones)...)
		}
	}
	return out
}

// readEvent reads what a component says, for each ATTENDEE.
func readEvent(e *ical.Component, how meetings.Method, zones zones) (out []Answer) {
	a := Answer{Method: how, UID: strings.TrimSpace(unescape(value(e.Props, ical.PropUID)))}
	var comments []string
	for _, p := range e.Props.Values(ical.PropComment) {
		comments = append(comments, unescape(p.Value))
	}
	a.Comment = strings.TrimSpace(strings.Join(comments, "\n"))
	if n, err := strconv.Atoi(strings.TrimSpace(value(e.Props, ical.PropSequence))); err == nil && n >= 0 { // 0 when it is left out
		a.Sequence = min(n, 1<<31-1)
	}
	if stamp, err := time.Parse("20060102T150405Z", strings.TrimSpace(value(e.Props, ical.PropDateTimeStamp))); err == nil {
		a.Stamp = stamp.Unix()
	}
	if p := e.Props.Get(ical.PropRecurrenceID); p != nil {
		if a.Date = zones.dateID(p); a.Date == nil {
			a.NoDate = true
		}
	}
	if how == meetings.Counter {
		a.Proposed = zones.span(e)
	}
	for _, p := range e.Props.Values(ical.PropAttendee) {
		one := a
		one.DelegatedTo, one.DelegatedFrom = address(p.Params.Get(ical.ParamDelegatedTo)), address(p.Params.Get(ical.ParamDelegatedFrom))
		one.Attendee, one.SentBy = address(p.Value), address(p.Params.Get("SENT-BY"))
		one.Status = strings.ToUpper(strings.TrimSpace(p.Params.Get(ical.ParamParticipationStatus)))
		if answer := meeting.Answer(one.Status); answer.Known() {
			one.Answer = answer
		}
		if one.UID != "" && one.Attendee != "" {
			out = append(out, one)
		}
	}
	return out
}

func value(props ical.Props, name string) string {
	if p := props.Get(name); p != nil {
		return p.Value
	}
	return ""
}

// address is a calendar address without its scheme (RFC 6068).
func address(s string) string {
	s = strings.TrimSpace(s)
	if len(s) >= 7 && strings.EqualFold(s[:7], "mailto:") {
		s, _, _ = strings.Cut(s[7:], "?")
		if plain, err := url.PathUnescape(s); err == nil {
			s = plain
		}
	}
	return strings.TrimSpace(s)
}

// unescape undoes the escapes of TEXT (RFC 5545, 3.3.11). What is escaped
// wrongly stays as it is: an answer is not refused for it.
func unescape(s string) string { return escapes.Replace(s) }

var escapes = strings.NewReplacer(`\\`, `\`, `\;`, ";", `\,`, ",", `\n`, "\n", `\N`, "\n")

// zones are those that a sender defines, and what looking into them may still cost.
type zones struct {
	defined map[string][]recur.Observance
	budget  *recur.Budget
}

func theirZones(cal *ical.Calendar) map[string][]recur.Observance {
	out := map[string][]recur.Observance{}
	for _, c := range cal.Children {
		if c.Name != ical.CompTimezone {
			continue
		}
		id := value(c.Props, ical.PropTimezoneID)
		for _, child := range c.Children {
			var open openObservance
			for name, props := range child.Props {
				for _, p := range props {
					open.line(line{name: name, value: p.Value})
				}
			}
			if o, ok := open.whole(); ok && len(out[id]) < mostObservances {
				out[id] = append(out[id], o)
			}
		}
	}
	return out
}

// readOffset reads +0100, -0330, +013045.
func readOffset(text string) (seconds int, ok bool) {
	text = strings.TrimSpace(text)
	if len(text) != 5 && len(text) != 7 || strings.Trim(text[1:], "0123456789") != "" {
		return 0, false
	}
	digits, _ := strconv.Atoi((text[1:] + "00")[:6])
	seconds = digits/10000*3600 + digits/100%100*60 + digits%100
	if text[0] == '-' {
		return -seconds, true
	}
	return seconds, text[0] == '+'
}

// instant is when clocks of a zone show m, as the sender defines it.
func (z zones) instant(name string, m recur.Moment) (when.Instant, bool) {
	own, ok := recur.NewOwnZone(z.defined[name], m.Day-800, m.Day+800, z.budget)
	if !ok {
		return 0, false
	}
	i, _ := own.Resolve(m)
	return i, true
}

// span is when an event is; nil where it cannot be read without doubt. Whole days are those of
// UTC, as everywhere in a meeting over whole days.
func (z zones) span(e *ical.Component) *when.Span {
	start, m, ok := z.at(e.Props.Get(ical.PropDateTimeStart))
	if !ok {
		return nil
	}
	end, _, ok := z.at(e.Props.Get(ical.PropDateTimeEnd))
	if !ok {
		days, seconds, has := parseDuration(value(e.Props, ical.PropDuration))
		if m.Day, end = m.Day+when.Day(days), 0; has && days == 0 {
			end = start.Add(time.Duration(min(seconds, 1<<31)) * time.Second)
		} else if end, ok = z.of(e.Props.Get(ical.PropDateTimeStart), m); has && ok { // by the clock there (RFC 5545, 3.3.6)
			end = end.Add(time.Duration(min(seconds, 1<<31)) * time.Second)
		} else {
			return nil
		}
	}
	return &when.Span{Start: start, End: end}
}

func (z zones) at(p *ical.Prop) (when.Instant, recur.Moment, bool) {
	if p == nil {
		return 0, recur.Moment{}, false
	}
	m, _, _, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(p.Value)))
	if err != nil {
		return 0, m, false
	}
	at, ok := z.of(p, m)
	return at, m, ok
}

// of is when a moment is that stands like a property.
func (z zones) of(p *ical.Prop, m recur.Moment) (when.Instant, bool) {
	_, kind, utc, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(p.Value)))
	if year, _, _ := m.Day.Date(); err != nil || year < when.FirstYear || year > when.LastYear {
		return 0, false
	}
	local := when.Local{Day: m.Day, Clock: when.Clock(m.Second / 60)}
	name := p.Params.Get(ical.ParamTimezoneID)
	own, known := calendar.ZoneNamed(name)
	switch at, theirs := z.instant(name, m); {
	case utc || kind == recur.AllDay:
		return when.Zoned{Local: local}.Instant(), true
	case known:
		return when.Zoned{Local: local, Zone: own}.Instant(), true
	case theirs:
		return at, true
	}
	return 0, false
}

// dateID reads which date of a series is answered; nil for what is no date.
func (z zones) dateID(p *ical.Prop) *meeting.DateID {
	m, kind, utc, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(p.Value)))
	if year, _, _ := m.Day.Date(); err != nil || year < when.FirstYear || year > when.LastYear {
		return nil
	}
	local := when.Local{Day: m.Day, Clock: when.Clock(m.Second / 60)}
	id := &meeting.DateID{Onward: strings.EqualFold(p.Params.Get("RANGE"), "THISANDFUTURE")}
	name := p.Params.Get(ical.ParamTimezoneID)
	own, known := calendar.ZoneNamed(name)
	switch at, theirs := z.instant(name, m); {
	case kind == recur.AllDay:
		id.Local, id.Day = &local, true
	case utc:
		id.At = when.Zoned{Local: local}.Instant()
	case known:
		id.At = when.Zoned{Local: local, Zone: own}.Instant()
	case theirs:
		id.At = at
	default:
		id.Local = &local
	}
	return id
}
