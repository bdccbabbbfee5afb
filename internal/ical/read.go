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

	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/schedule/meetings"
)

// Answer is what one component of a REPLY says (RFC 5546, 3.2.3).
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

// ReadReplies reads all that REPLYs say, one Answer a component. method is that of
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
		if strings.EqualFold(strings.TrimSpace(said), "REPLY") {
			out = append(out, readEvents(cal)...)
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

func readEvents(cal *ical.Calendar) (out []Answer) {
	zones := zones{theirZones(cal), recur.NewBudget(zoneSteps)}
	for _, c := range cal.Children {
		if c.Name == ical.CompEvent {
			out = append(out, readEvent(c, zones)...)
		}
	}
	return out
}

// readEvent reads what a component says, for each ATTENDEE.
func readEvent(e *ical.Component, zones zones) (out []Answer) {
	a := Answer{UID: strings.TrimSpace(unescape(value(e.Props, ical.PropUID)))}
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
	for _, p := range e.Props.Values(ical.PropAttendee) {
		one := a
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
func unescape(s string) string {
	return strings.NewReplacer(`\\`, `\`, `\;`, ";", `\,`, ",", `\n`, "\n", `\N`, "\n").Replace(s)
}

// zones are those that a sender defines, and what looking into them may still cost.
type zones struct {
	byName map[string][]change
	budget *recur.Budget
}

// change is an observance of a sender's VTIMEZONE (RFC 5545, 3.6.5).
type change struct {
	onsets       recur.Series // in local time before the change
	before, then int          // offsets in seconds
}

func theirZones(cal *ical.Calendar) map[string][]change {
	out := map[string][]change{}
	for _, c := range cal.Children {
		if c.Name != ical.CompTimezone {
			continue
		}
		id := value(c.Props, ical.PropTimezoneID)
		for _, o := range c.Children {
			if x, ok := readChange(o); ok && len(out[id]) < mostObservances {
				out[id] = append(out[id], x)
			}
		}
	}
	return out
}

func readChange(o *ical.Component) (x change, ok bool) {
	start, _, _, err := recur.ParseMoment(strings.ToUpper(value(o.Props, ical.PropDateTimeStart)))
	if err != nil {
		return x, false
	}
	x.onsets = recur.Series{Start: start, Kind: recur.Floating}
	if text := value(o.Props, ical.PropRecurrenceRule); text != "" {
		if x.onsets.Rule, err = recur.ParseRule(strings.ToUpper(text)); err != nil {
			return x, false
		}
		x.onsets.Rule.Until.UTC = false // near enough: a year has two changes
	}
	for _, p := range o.Props.Values(ical.PropRecurrenceDates) {
		for text := range strings.SplitSeq(p.Value, ",") {
			if m, _, _, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(text))); err == nil {
				x.onsets.Dates = append(x.onsets.Dates, m)
			}
		}
	}
	x.before, ok = readOffset(value(o.Props, ical.PropTimezoneOffsetFrom))
	then, known := readOffset(value(o.Props, ical.PropTimezoneOffsetTo))
	x.then = then
	return x, ok && known
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

// offset is that of the observance that began last.
func (z zones) offset(name string, m recur.Moment) (seconds int, ok bool) {
	all := z.byName[name]
	var latest recur.Moment
	for i, x := range all {
		at, begun := x.last(m, z.budget)
		if begun && (!ok || at.Compare(latest) > 0) {
			latest, seconds, ok = at, x.then, true
		}
		if i == 0 && !ok {
			seconds = x.before
		}
	}
	return seconds, (ok || len(all) > 0) && !z.budget.Spent()
}

// last is the last onset up to a moment.
func (x change) last(m recur.Moment, budget *recur.Budget) (at recur.Moment, ok bool) {
	for _, from := range []recur.Moment{{Day: m.Day - 800}, x.onsets.Start} {
		for onset := range x.onsets.From(from, budget) {
			if onset.Compare(m) > 0 {
				break
			}
			at, ok = onset, true
		}
		if ok {
			break
		}
	}
	return at, ok
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
	own, known := zoneNamed(name)
	switch seconds, theirs := z.offset(name, m); {
	case kind == recur.AllDay:
		id.Local, id.Day = &local, true
	case utc:
		id.At = when.Zoned{Local: local}.Instant()
	case known:
		id.At = when.Zoned{Local: local, Zone: own}.Instant()
	case theirs:
		id.At = when.Zoned{Local: local}.Instant() - when.Instant(seconds)
	default:
		id.Local = &local
	}
	return id
}

// zoneNamed finds a zone by its IANA name, alone or at the end of a longer one.
func zoneNamed(name string) (when.Zone, bool) {
	name = strings.Trim(name, `"`)
	for name != "" {
		if zone, err := when.LoadZone(name); err == nil {
			return zone, true
		}
		_, rest, more := strings.Cut(name, "/")
		if !more || strings.Count(rest, "/") < 1 {
			return when.Zone{}, false
		}
		name = rest
	}
	return when.Zone{}, false
}
