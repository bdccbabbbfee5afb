package ical

import (
	"bytes"
	"fmt"
	"iter"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"jembro/internal/core/calendar"
	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// ReadInvitations reads what somebody outside sends about meetings of theirs: REQUESTs and CANCELs
// (RFC 5546, 3.2.2 and 3.2.5), a message for each UID. method is that of the mail around it. It
// fails with ErrMalformed, and with ErrNotReply for what is neither.
func ReadInvitations(raw []byte, method string) (out []invited.Message, err error) {
	text, err := decoded(raw)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrMalformed, err)
	}
	if text, err = plainLines(text); err != nil {
		return nil, err
	}
	var r invitationReader
	for l := range everyLine(string(text)) {
		r.line(l)
	}
	if r.method == "" {
		r.method = method
	}
	how := invited.Method(strings.ToUpper(strings.TrimSpace(r.method)))
	if !how.Known() || len(r.messages) == 0 {
		return nil, ErrNotReply
	}
	for _, m := range r.messages {
		m.Method, m.Zones = how, r.zones
		out = append(out, m)
	}
	return out, nil
}

// everyLine yields all content lines of a text that is unfolded.
func everyLine(text string) iter.Seq[line] {
	return func(yield func(line) bool) {
		for whole := range strings.SplitSeq(text, "\n") {
			whole = strings.TrimRight(whole, "\r")
			name := strings.IndexAny(whole, ";:")
			if name < 1 {
				continue
			}
			quoted, colon := false, -1
			for i := name; i < len(whole) && colon < 0; i++ {
				switch {
				case whole[i] == '"':
					quoted = !quoted
				case whole[i] == ':' && !quoted:
					colon = i
				}
			}
			if colon >= 0 && !yield(line{strings.ToUpper(strings.TrimSpace(whole[:name])), whole[name:colon], whole[colon+1:]}) {
				return
			}
		}
	}
}

// invitationReader takes in line by line.
type invitationReader struct {
	stack    []string
	method   string
	zones    map[string]string
	messages []invited.Message

	raw   strings.Builder // of the component that is open
	tzid  string
	event event
}

// event is a VEVENT that is being read.
type event struct {
	invited.Part
	uid, organiser, sentBy, name string
	attendees                    []string
	start, id                    string
	times                        []string
}

func (l line) text() string { return l.name + l.params + ":" + l.value }

func (r *invitationReader) line(l line) {
	name := strings.ToUpper(strings.TrimSpace(l.value))
	switch l.name {
	case "BEGIN":
		r.stack = append(r.stack, name)
		if len(r.stack) == 2 {
			r.raw.Reset()
			r.event, r.tzid = event{}, ""
		}
		if len(r.stack) > 1 {
			r.raw.WriteString("BEGIN:" + name + "\r\n")
		}
		return
	case "END":
		if len(r.stack) == 0 {
			return
		}
		if len(r.stack) > 1 {
			r.raw.WriteString("END:" + r.stack[len(r.stack)-1] + "\r\n")
		}
		r.stack = r.stack[:len(r.stack)-1]
		if len(r.stack) == 1 {
			r.end(name)
		}
		return
	}
	switch {
	case len(r.stack) == 1 && l.name == "METHOD" && r.method == "":
		r.method = l.value
	case len(r.stack) < 2:
		return
	case len(r.stack) == 2 && r.stack[1] == "VTIMEZONE" && l.name == "TZID":
		r.tzid = l.value
	case len(r.stack) == 2 && r.stack[1] == "VEVENT":
		if l.name == "STATUS" { // what is off is told by METHOD, and written again
			return
		}
		r.event.line(l)
	}
	r.raw.WriteString(l.text() + "\r\n")
}

func (e *event) line(l line) {
	switch l.name {
	case "UID":
		e.uid = strings.TrimSpace(unescape(l.value))
	case "SEQUENCE":
		if n, err := strconv.Atoi(strings.TrimSpace(l.value)); err == nil && n >= 0 {
			e.Sequence = min(n, 1<<31-1)
		}
	case "DTSTAMP":
		if at, err := time.Parse("20060102T150405Z", strings.TrimSpace(l.value)); err == nil {
			e.Stamp = at.Unix()
		}
	case "ORGANIZER":
		e.organiser, e.sentBy, e.name = address(l.value), address(l.param("SENT-BY")), l.param("CN")
	case "ATTENDEE":
		if len(e.attendees) < mostComponents {
			e.attendees = append(e.attendees, address(l.value))
		}
	case "RECURRENCE-ID":
		e.id = l.params + ":" + l.value
		e.Key = strings.TrimPrefix(e.id, ":")
		if at, ok := readTime(l); ok && at.TZID == "" {
			e.Key = l.value
		}
	case "DTSTART":
		e.start = l.params + ":" + l.value
		fallthrough
	case "DTEND", "DURATION", "RRULE", "RDATE", "EXDATE":
		e.times = append(e.times, l.text())
	}
}

// end takes a component that is whole.
func (r *invitationReader) end(name string) {
	raw := r.raw.String()
	switch {
	case name == "VTIMEZONE" && r.tzid != "" && len(r.zones) < mostZones:
		if r.zones == nil {
			r.zones = map[string]string{}
		}
		r.zones[r.tzid] = raw
	case name == "VEVENT" && r.event.uid != "":
		e := r.event
		if e.start == "" && e.id != "" { // a CANCEL may leave it out (RFC 5546, 3.2.5)
			raw = strings.Replace(raw, "BEGIN:VEVENT\r\n", "BEGIN:VEVENT\r\nDTSTART"+e.id+"\r\n", 1)
		}
		slices.Sort(e.times)
		e.Raw, e.Times = raw, strings.Join(e.times, "\n")
		at := slices.IndexFunc(r.messages, func(m invited.Message) bool { return m.UID == e.uid })
		if at < 0 {
			at = len(r.messages)
			r.messages = append(r.messages, invited.Message{UID: e.uid, Organiser: e.organiser, SentBy: e.sentBy, OrganiserName: unescape(e.name)})
		}
		m := &r.messages[at]
		m.Parts, m.Attendees = append(m.Parts, e.Part), append(m.Attendees, e.attendees...)
	}
}

// InvitationCalendar is what is known of a meeting of somebody outside, as one calendar: what is
// off is there as cancelled.
func InvitationCalendar(s invited.State) []byte {
	var out strings.Builder
	out.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:" + productID + "\r\n")
	for _, z := range s.Zones {
		out.WriteString(z)
	}
	for _, p := range s.Parts {
		raw := p.Raw
		if p.Off || s.Off {
			raw = strings.Replace(raw, "BEGIN:VEVENT\r\n", "BEGIN:VEVENT\r\nSTATUS:CANCELLED\r\n", 1)
		}
		out.WriteString(raw)
	}
	out.WriteString("END:VCALENDAR\r\n")
	return []byte(out.String())
}

// InvitationWords reads what an invitation says, of all of it, or of the first date that there is.
// addresses are those of its reader.
func InvitationWords(s invited.State, addresses ...string) (t invited.Told) {
	part, ok := s.Whole()
	if !ok && len(s.Parts) > 0 {
		part = s.Parts[0]
	}
	depth := 0
	for l := range everyLine(part.Raw) {
		switch l.name {
		case "BEGIN":
			depth++
		case "END":
			depth--
		}
		if depth != 1 {
			continue
		}
		value := strings.TrimSpace(unescape(l.value))
		switch l.name {
		case "SUMMARY":
			t.Title = kept(l.value, titleLimit)
		case "LOCATION":
			t.Place = kept(l.value, titleLimit)
		case "DESCRIPTION":
			t.Text = meeting.Plain(value)
		case "URL", "CONFERENCE":
			t.Ways = append(t.Ways, value)
		case "ATTENDEE":
			at := address(l.value)
			for _, a := range addresses {
				if strings.EqualFold(a, at) && t.Own == "" {
					t.Own = at
				}
			}
			name := meeting.OneLine(unescape(l.param("CN")))
			if name == "" {
				name = at
			}
			if len(t.Names) < 100 {
				t.Names = append(t.Names, name)
			}
		}
	}
	return t
}

// WriteReply writes the answers to an invitation from outside that are on their way (RFC 5546,
// 3.2.3): to all of it, and to single dates, each with its RECURRENCE-ID as the invitation writes it.
func WriteReply(r schedule.InvitationReply) []byte {
	cal := ical.NewCalendar()
	cal.Props.SetText(ical.PropVersion, "2.0")
	cal.Props.SetText(ical.PropProductID, productID)
	cal.Props.SetText(ical.PropMethod, "REPLY")
	zones := map[string]bool{}
	add := func(answer meeting.Answer, comment string, id *line) {
		if id != nil && id.param("TZID") != "" {
			zones[id.param("TZID")] = true
		}
		cal.Children = append(cal.Children, replyTo(r, answer, comment, id))
	}
	for _, on := range r.Replying {
		if a, own := r.To(on); own {
			add(a.Answer, a.Comment, recurrenceID(r.State, on, r.Zone))
			continue
		}
		if _, whole := r.State.Whole(); whole {
			add(r.Answer, r.Comment, nil)
			continue
		}
		for _, p := range r.State.Parts { // they are invited to single dates alone
			add(r.Answer, r.Comment, lineOf(p.Raw, "RECURRENCE-ID"))
		}
	}
	raw := encode(cal.Component)
	for id := range zones { // a TZID has its VTIMEZONE (RFC 5545, 3.2.19), as it came
		var zone bytes.Buffer
		for l := range strings.SplitSeq(strings.TrimSuffix(r.State.Zones[id], "\r\n"), "\r\n") {
			fold(&zone, l)
		}
		raw = bytes.Replace(raw, []byte("BEGIN:VEVENT"), append(zone.Bytes(), "BEGIN:VEVENT"...), 1)
	}
	return raw
}

// replyTo is one answer: to a date by its RECURRENCE-ID, or with nil to all.
func replyTo(r schedule.InvitationReply, answer meeting.Answer, comment string, id *line) *ical.Component {
	e := ical.NewComponent(ical.CompEvent)
	e.Props.SetText(ical.PropUID, r.UID)
	e.Props.Set(plain(ical.PropSequence, strconv.Itoa(r.State.Sequence())))
	e.Props.Set(plain(ical.PropDateTimeStamp, r.Stamp.UTC().Format("20060102T150405Z")))
	if id != nil {
		p := plain(ical.PropRecurrenceID, id.value)
		for _, name := range []string{"TZID", "VALUE"} {
			if v := id.param(name); v != "" {
				p.Params.Set(name, v)
			}
		}
		e.Props.Set(p)
	}
	e.Props.Set(plain("ORGANIZER", mailto(r.Organiser)))
	if r.Title != "" {
		e.Props.SetText(ical.PropSummary, r.Title)
	}
	if comment != "" {
		e.Props.SetText(ical.PropComment, comment)
	}
	a := plain(ical.PropAttendee, mailto(r.Attendee))
	a.Params.Set(ical.ParamCommonName, param(r.From.Name))
	a.Params.Set(ical.ParamParticipationStatus, string(answer))
	e.Props.Add(a)
	e.Props.Set(plain(ical.PropRequestStatus, "2.0;Success"))
	return e
}

// lineOf is the first line of a component with a property, nil where there is none.
func lineOf(raw, property string) *line {
	depth := 0
	for l := range everyLine(raw) {
		switch {
		case l.name == "BEGIN":
			depth++
		case l.name == "END":
			depth--
		case depth == 1 && l.name == property:
			return &l
		}
	}
	return nil
}

// recurrenceID names a date as its invitation does: by the RECURRENCE-ID that it has, or in the form
// of DTSTART (RFC 5545, 3.8.4.4). Floating times and whole days are meant in zone.
func recurrenceID(s invited.State, on when.Instant, zone when.Zone) *line {
	for _, p := range s.Parts {
		if id := lineOf(p.Raw, "RECURRENCE-ID"); p.Key != "" && id != nil && instantOf(*id, zone) == on {
			return id
		}
	}
	whole, _ := s.Whole()
	start := lineOf(whole.Raw, "DTSTART")
	if start == nil {
		return nil
	}
	t, ok := readTime(*start)
	if !ok {
		return nil
	}
	in := zone
	if z, known := calendar.ZoneNamed(t.TZID); t.TZID != "" {
		if in = z; !known { // of their own making: the same instant in UTC
			return &line{name: "RECURRENCE-ID", value: utc(on)}
		}
	}
	local := recur.MomentIn(on, in.OffsetAt(on)).String()
	switch {
	case t.Form == calendar.Date:
		return &line{name: "RECURRENCE-ID", params: ";VALUE=DATE", value: local[:8]}
	case t.Form == calendar.UTC:
		return &line{name: "RECURRENCE-ID", value: utc(on)}
	case t.TZID == "":
		return &line{name: "RECURRENCE-ID", value: local}
	}
	return &line{name: "RECURRENCE-ID", params: start.params, value: local}
}

// instantOf is when a line says; a TZID that nobody knows is taken as zone.
func instantOf(l line, zone when.Zone) when.Instant {
	t, ok := readTime(l)
	if !ok {
		return 0
	}
	if t.Form == calendar.UTC {
		zone = when.Zone{}
	} else if z, known := calendar.ZoneNamed(t.TZID); known && t.TZID != "" {
		zone = z
	}
	return when.Zoned{Local: when.Local{Day: t.Moment.Day, Clock: when.Clock(t.Moment.Second / 60)}, Zone: zone}.Instant() + when.Instant(t.Moment.Second%60)
}
