package ical

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

const (
	// mostKept is how many components of a calendar are kept: those that may have to do with
	// the time asked for.
	mostKept = 200_000
	// mostTimes are the dates and periods of one component, and mostZones the zones that
	// one calendar defines.
	mostTimes = 20_000
	mostZones = 500
	// mostBlocks is how many blocks of availability one calendar can lay over each other.
	mostBlocks = 200
	// titleLimit is how many characters of a title are kept.
	titleLimit = 200
)

// ReadCalendar reads what somebody publishes: events, busy times (RFC 5545, 3.6.1 and
// 3.6.4), availability (RFC 7953). Single events that lie outside window are left out.
// addresses are those of whose calendar it is: what they declined leaves their time clear.
// What cannot be read is counted in Unread; no part of the text makes it fail but that it
// is no calendar (calendar.ErrNotCalendar, calendar.ErrBrokenOff) or too large
// (calendar.ErrTooLarge).
func ReadCalendar(raw []byte, window when.Span, addresses ...string) (c calendar.Calendar, err error) {
	if len(raw) > calendar.MostBytes {
		return c, calendar.ErrTooLarge
	}
	text, err := decoded(raw)
	if err != nil {
		return c, err
	}
	r := calendarReader{window: window, addresses: addresses}
	r.Zones, r.Unread = map[string][]recur.Observance{}, map[string]int{}
	text = bytes.TrimLeft(text, " \t\r\n")
	if !bytes.HasPrefix(bytes.ToUpper(text[:min(len(text), 15)]), []byte("BEGIN:VCALENDAR")) {
		return c, calendar.ErrNotCalendar
	}
	for l := range contentLines(text) {
		r.line(l)
		if r.full {
			return c, calendar.ErrTooLarge
		}
	}
	if len(r.stack) > 0 { // the end is missing: it broke off on its way
		return c, fmt.Errorf("%w within %s", calendar.ErrBrokenOff, r.stack[len(r.stack)-1])
	}
	return r.Calendar, nil
}

// calendarReader takes in line by line; nothing of a component is kept but what counts.
type calendarReader struct {
	calendar.Calendar
	window    when.Span
	addresses []string
	stack     []string // components that are open, the outermost first
	full      bool

	event  calendar.Event // VEVENT or AVAILABLE
	block  calendar.Block // VAVAILABILITY
	taken  []availability.Time
	zone   string
	change openObservance
	status status
	broken string // why what is open cannot be read
	nested int    // components within that are not looked at
}

// status is what decides how an event takes time.
type status struct{ transparent, tentative, declined, maybe bool }

// openObservance is a STANDARD or DAYLIGHT that is being read.
type openObservance struct {
	recur.Observance
	started, from, to, wrong bool
}

func (r *calendarReader) in() string {
	if len(r.stack) == 0 {
		return ""
	}
	return r.stack[len(r.stack)-1]
}

func (r *calendarReader) line(l line) {
	switch l.name {
	case "BEGIN":
		r.begin(strings.ToUpper(strings.TrimSpace(l.value)))
		return
	case "END":
		r.end(strings.ToUpper(strings.TrimSpace(l.value)))
		return
	}
	if r.nested > 0 {
		return
	}
	switch r.in() {
	case "VCALENDAR":
		r.property(l)
	case "VEVENT", "AVAILABLE":
		r.ofEvent(l)
	case "VAVAILABILITY":
		r.ofBlock(l)
	case "VFREEBUSY":
		if l.name == "FREEBUSY" {
			r.freeBusy(l)
		}
	case "VTIMEZONE":
		if l.name == "TZID" {
			r.zone = kept(l.value, titleLimit)
		}
	case "STANDARD", "DAYLIGHT":
		r.change.line(l)
	}
}

// within are the components that are looked at, by what they stand in.
var within = map[string]string{"VEVENT": "VCALENDAR", "VFREEBUSY": "VCALENDAR", "VTIMEZONE": "VCALENDAR", "VAVAILABILITY": "VCALENDAR",
	"AVAILABLE": "VAVAILABILITY", "STANDARD": "VTIMEZONE", "DAYLIGHT": "VTIMEZONE", "VCALENDAR": ""}

func (r *calendarReader) begin(name string) {
	parent, known := within[name]
	if r.nested > 0 || !known || parent != r.in() {
		r.nested++
		return
	}
	r.stack = append(r.stack, name)
	switch name {
	case "VEVENT", "AVAILABLE":
		r.event, r.status, r.broken = calendar.Event{}, status{}, ""
	case "VAVAILABILITY":
		r.block, r.broken = calendar.Block{Kind: availability.Leave}, ""
	case "VFREEBUSY":
		r.taken, r.broken = nil, ""
	case "VTIMEZONE":
		r.zone = ""
	case "STANDARD", "DAYLIGHT":
		r.change = openObservance{}
	}
}

func (r *calendarReader) end(name string) {
	switch {
	case r.nested > 0:
		r.nested--
		return
	case name == "" || name != r.in():
		return
	}
	r.stack = r.stack[:len(r.stack)-1]
	switch name {
	case "VEVENT":
		r.Components++
		if e, ok := r.finished(); ok && r.wanted(e) {
			r.Events = append(r.Events, e)
		}
	case "AVAILABLE":
		if e, ok := r.finished(); ok {
			r.block.Available = append(r.block.Available, e)
		}
		r.broken = ""
	case "VAVAILABILITY":
		r.Components++
		r.Blocks = append(r.Blocks, r.block)
	case "VFREEBUSY":
		r.Components++
		r.Taken = append(r.Taken, r.taken...)
	case "STANDARD", "DAYLIGHT":
		r.observance()
	}
	r.full = len(r.Events)+len(r.Taken)+len(r.Blocks)+len(r.block.Available) > mostKept || len(r.Blocks) > mostBlocks
}

// property is one of the calendar itself.
func (r *calendarReader) property(l line) {
	switch l.name {
	case "NAME": // RFC 7986, 5.1
		r.Name = kept(l.value, titleLimit)
	case "X-WR-CALNAME": // common practice
		if r.Name == "" {
			r.Name = kept(l.value, titleLimit)
		}
	case "REFRESH-INTERVAL", "X-PUBLISHED-TTL": // RFC 7986, 5.7; the other is common practice
		if days, seconds, ok := parseDuration(l.value); ok && (r.Refresh == 0 || l.name == "REFRESH-INTERVAL") {
			r.Refresh = time.Duration(min(int64(days)*86400+seconds, 400*86400)) * time.Second
		}
	}
}

func (r *calendarReader) ofEvent(l line) {
	e := &r.event
	fail := func(why string) {
		if r.broken == "" {
			r.broken = why
		}
	}
	switch l.name {
	case "UID":
		e.UID = kept(l.value, 1000)
	case "SEQUENCE":
		e.Sequence, _ = strconv.Atoi(strings.TrimSpace(l.value))
	case "DTSTAMP":
		if at, err := time.Parse("20060102T150405Z", strings.TrimSpace(l.value)); err == nil {
			e.Stamp = at.Unix()
		}
	case "SUMMARY":
		e.Title = kept(l.value, titleLimit)
	case "CLASS":
		e.Private = !strings.EqualFold(strings.TrimSpace(l.value), "PUBLIC")
	case "STATUS":
		e.Cancelled = strings.EqualFold(strings.TrimSpace(l.value), "CANCELLED")
		r.status.tentative = strings.EqualFold(strings.TrimSpace(l.value), "TENTATIVE")
	case "TRANSP":
		r.status.transparent = strings.EqualFold(strings.TrimSpace(l.value), "TRANSPARENT")
	case "ATTENDEE":
		for _, a := range r.addresses {
			if strings.EqualFold(a, address(l.value)) {
				status := l.param("PARTSTAT")
				r.status.declined = r.status.declined || strings.EqualFold(status, "DECLINED")
				r.status.maybe = r.status.maybe || strings.EqualFold(status, "TENTATIVE")
			}
		}
	case "DTSTART":
		t, ok := readTime(l)
		if e.Start = t; !ok {
			fail("a start that is no time")
		}
	case "DTEND":
		t, ok := readTime(l)
		if e.Length.End = &t; !ok {
			fail("an end that is no time")
		}
	case "DURATION":
		days, seconds, ok := parseDuration(l.value)
		if !ok {
			fail("a duration that is none")
			return
		}
		e.Length.Days, e.Length.Seconds = days, seconds
	case "RECURRENCE-ID":
		t, ok := readTime(l)
		if e.RecurrenceID, e.Onward = &t, strings.EqualFold(l.param("RANGE"), "THISANDFUTURE"); !ok {
			fail("a RECURRENCE-ID that is no time")
		}
	case "RRULE":
		if rule, err := readRule(l.value); err != nil {
			r.Unread["a repetition that is not to the rules: "+err.Error()]++
		} else if len(e.Rules) < 20 {
			e.Rules = append(e.Rules, rule)
		}
	case "RDATE":
		r.addDates(l, &e.RDates)
	case "EXDATE":
		var all []calendar.Period
		r.addDates(l, &all)
		for _, p := range all {
			if len(e.ExDates) < mostTimes {
				e.ExDates = append(e.ExDates, p.Start)
			}
		}
	}
}

// addDates reads the values of RDATE and EXDATE.
func (r *calendarReader) addDates(l line, into *[]calendar.Period) {
	for text := range strings.SplitSeq(l.value, ",") {
		if len(*into) >= mostTimes {
			return
		}
		p, ok := readPeriod(l, text)
		if !ok {
			r.Unread["a date added or left out that is none"]++
			continue
		}
		*into = append(*into, p)
	}
}

// finished is the event that has been read; ok is false where it is none.
func (r *calendarReader) finished() (e calendar.Event, ok bool) {
	e = r.event
	switch {
	case r.broken != "":
	case e.Start == (calendar.Time{}):
		r.broken = "no start"
	case e.Length.End != nil && (e.Length.End.Form == calendar.Date) != (e.Start.Form == calendar.Date):
		r.broken = "an end of another form than the start"
	}
	if r.broken != "" {
		r.Unread[r.broken]++
		return e, false
	}
	if e.UID == "" { // it has nothing to do with any other
		e.UID = fmt.Sprintf("\x00%d", r.Components)
	}
	switch {
	case r.status.transparent, r.status.declined:
		e.Kind = availability.Free
	case r.status.tentative, r.status.maybe:
		e.Kind = availability.Maybe
	default:
		e.Kind = availability.Busy
	}
	return e, true
}

// slack is how far from a window a time can lie by its clock and be within it by ours.
const slack = 3 * 86400

// wanted tells whether an event may have to do with the window.
func (r *calendarReader) wanted(e calendar.Event) bool {
	if e.RecurrenceID != nil || len(e.Rules) > 0 || len(e.RDates) > 0 {
		return true
	}
	start := int64(e.Start.Moment.Day)*86400 + int64(e.Start.Moment.Second)
	end := start + int64(e.Length.Days+1)*86400 + e.Length.Seconds
	if x := e.Length.End; x != nil {
		end = int64(x.Moment.Day)*86400 + int64(x.Moment.Second)
	}
	return start < int64(r.window.End)+slack && end > int64(r.window.Start)-slack
}

func (r *calendarReader) ofBlock(l line) {
	switch l.name {
	case "DTSTART", "DTEND":
		t, ok := readTime(l)
		switch {
		case !ok:
			r.Unread["availability with a bound that is no time"]++
		case l.name == "DTSTART":
			r.block.Start = &t
		default:
			r.block.End = &t
		}
	case "DURATION":
		if days, seconds, ok := parseDuration(l.value); ok {
			r.block.Length = calendar.Length{Days: days, Seconds: seconds}
		}
	case "PRIORITY":
		if n, err := strconv.Atoi(strings.TrimSpace(l.value)); err == nil && n >= 0 && n <= 9 {
			r.block.Priority = n
		}
	case "BUSYTYPE":
		r.block.Kind = busyKind(l.value, availability.Leave)
	}
}

// busyKind reads FBTYPE and BUSYTYPE (RFC 5545, 3.2.9, and RFC 7953, 3.2); what is not
// known is busy.
func busyKind(text string, otherwise availability.Kind) availability.Kind {
	switch strings.ToUpper(strings.TrimSpace(text)) {
	case "":
		return otherwise
	case "FREE":
		return availability.Free
	case "BUSY-TENTATIVE":
		return availability.Maybe
	case "BUSY-UNAVAILABLE":
		return availability.Leave
	}
	return availability.Busy
}

func (r *calendarReader) freeBusy(l line) {
	kind := busyKind(l.param("FBTYPE"), availability.Busy)
	for text := range strings.SplitSeq(l.value, ",") {
		p, ok := readPeriod(l, text)
		if !ok || p.Start.Form != calendar.UTC || len(r.taken) > mostKept {
			r.Unread["a busy time that is none"]++
			continue
		}
		span := when.Span{Start: recur.NewWall(when.Zone{}).At(p.Start.Moment)}
		if end := p.Length.End; end != nil {
			span.End = recur.NewWall(when.Zone{}).At(end.Moment)
		} else {
			span.End = span.Start + when.Instant(int64(p.Length.Days)*86400+p.Length.Seconds)
		}
		if span.Overlaps(r.window) && kind != availability.Free {
			r.taken = append(r.taken, availability.Time{Span: span, Kind: kind})
		}
	}
}

func (o *openObservance) line(l line) {
	switch l.name {
	case "DTSTART":
		m, _, _, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(l.value)))
		o.Onsets.Start, o.started = m, err == nil
	case "RRULE":
		rule, err := readRule(l.value)
		o.Onsets.Rule, o.wrong = rule, o.wrong || err != nil
	case "RDATE":
		for text := range strings.SplitSeq(l.value, ",") {
			if m, _, _, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(text))); err == nil && len(o.Onsets.Dates) < mostTimes {
				o.Onsets.Dates = append(o.Onsets.Dates, m)
			}
		}
	case "TZOFFSETFROM":
		o.Before, o.from = readOffset(l.value)
	case "TZOFFSETTO":
		o.After, o.to = readOffset(l.value)
	}
}

// observance keeps one that is whole.
func (r *calendarReader) observance() {
	o, ok := r.change.whole()
	if !ok || r.zone == "" || len(r.Zones[r.zone]) >= mostObservances || len(r.Zones) >= mostZones {
		return
	}
	r.Zones[r.zone] = append(r.Zones[r.zone], o)
}

// whole is what was read, once all of it was.
func (o *openObservance) whole() (recur.Observance, bool) {
	o.Onsets.Kind = recur.Floating
	if until := &o.Onsets.Rule.Until; until.UTC { // onsets are in local time here
		until.Moment, until.UTC = recur.MomentIn(recur.NewWall(when.Zone{}).At(until.Moment), o.Before), false
	}
	o.Onsets.Dates = append(o.Onsets.Dates, o.Onsets.Start)
	return o.Observance, o.started && o.from && o.to && !o.wrong
}

// readRule reads a rule; a semicolon at its end and blanks are passed over.
func readRule(text string) (recur.Rule, error) {
	text = strings.ReplaceAll(strings.TrimSpace(text), " ", "")
	return recur.ParseRule(strings.ToUpper(strings.Trim(text, ";")))
}

func readTime(l line) (calendar.Time, bool) { return timeOf(l, l.value) }

func timeOf(l line, text string) (t calendar.Time, ok bool) {
	m, kind, utc, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(text)))
	t.Moment = m
	switch {
	case kind == recur.AllDay:
	case utc:
		t.Form = calendar.UTC
	default:
		t.Form, t.TZID = calendar.Local, kept(l.param("TZID"), titleLimit)
		if strings.EqualFold(t.TZID, "UTC") || strings.EqualFold(t.TZID, "Etc/UTC") || strings.EqualFold(t.TZID, "GMT") {
			t.Form, t.TZID = calendar.UTC, ""
		}
	}
	return t, err == nil
}

// readPeriod reads a time, or a PERIOD (RFC 5545, 3.3.9).
func readPeriod(l line, text string) (p calendar.Period, ok bool) {
	first, rest, period := strings.Cut(text, "/")
	if p.Start, ok = timeOf(l, first); !ok || !period {
		return p, ok
	}
	if days, seconds, is := parseDuration(rest); is {
		p.Length = calendar.Length{Days: days, Seconds: seconds}
		return p, true
	}
	end, ok := timeOf(l, rest)
	p.Length.End = &end
	return p, ok
}

// parseDuration reads a DURATION (RFC 5545, 3.3.6): days and weeks as days, the rest in
// seconds; one that is negative is nothing that takes time.
func parseDuration(text string) (days int, seconds int64, ok bool) {
	text = strings.ToUpper(strings.TrimSpace(text))
	negative := strings.HasPrefix(text, "-")
	text = strings.TrimLeft(text, "+-")
	if !strings.HasPrefix(text, "P") || len(text) < 3 || len(text) > 40 {
		return 0, 0, false
	}
	inTime := false
	number, digits := int64(0), 0
	for _, c := range text[1:] {
		switch {
		case c >= '0' && c <= '9':
			if number, digits = number*10+int64(c-'0'), digits+1; digits > 9 {
				return 0, 0, false
			}
			continue
		case c == 'T' && digits == 0:
			inTime = true
			continue
		case digits == 0:
			return 0, 0, false
		}
		switch {
		case c == 'W' && !inTime:
			days += int(min(number, 100_000)) * 7
		case c == 'D' && !inTime:
			days += int(min(number, 1_000_000))
		case c == 'H' && inTime:
			seconds += number * 3600
		case c == 'M' && inTime:
			seconds += number * 60
		case c == 'S' && inTime:
			seconds += number
		default:
			return 0, 0, false
		}
		number, digits = 0, 0
	}
	if digits > 0 {
		return 0, 0, false
	}
	if negative {
		return 0, 0, true
	}
	return days, seconds, true
}
