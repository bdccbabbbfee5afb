// Package ical writes meetings as iCalendar objects (RFC 5545, with RFC 7986)
// that carry iTIP methods (RFC 5546), and reads the answers.
package ical

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"jembro/internal/core/attachment"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

const productID = "-//Jembro//Jembro 1//EN"

// Method is the iTIP method of a letter.
func Method(l schedule.Letter) string {
	switch {
	case l.Own:
		return "PUBLISH"
	case l.Kind == meeting.Keep:
		return "DECLINECOUNTER"
	case l.Kind == meeting.CallOff || l.Kind == meeting.Clear:
		return "CANCEL"
	}
	return "REQUEST"
}

// Write makes the iCalendar object of a letter: lines end with CRLF and have at
// most 75 octets (RFC 5545, 3.1).
func Write(l schedule.Letter) ([]byte, error) {
	cal := ical.NewCalendar()
	cal.Props.SetText(ical.PropVersion, "2.0")
	cal.Props.SetText(ical.PropProductID, productID)
	if l.Subscribed > 0 { // a calendar has no method to follow, and says how often to look
		looksAgain(cal, l.Subscribed)
	} else {
		cal.Props.SetText(ical.PropMethod, Method(l))
	}
	w := writer{Letter: l, meeting: l.Meeting, zone: l.Meeting.StartIn().Zone}
	if l.Before != nil && Method(l) == "CANCEL" {
		w.meeting, w.zone = *l.Before, l.Before.StartIn().Zone
	}
	var events []*ical.Component
	for _, e := range w.entries() {
		events = append(events, w.event(e))
	}
	if len(events) == 0 {
		return nil, fmt.Errorf("a message to %s is about no date", l.To.Email)
	}
	if w.zoned {
		cal.Children = append(cal.Children, timezone(w.zone, w.covered))
	}
	cal.Children = append(cal.Children, events...)
	return encode(cal.Component), nil
}

// writer writes one letter.
type writer struct {
	schedule.Letter
	meeting meeting.Meeting // whose dates are written: of a CANCEL, as they were
	zone    when.Zone
	zoned   bool      // a time refers to zone
	covered when.Span // the time in which the rules of zone are needed
}

func (w *writer) entries() []meeting.Entry {
	switch {
	case len(w.IDs) > 0:
		return w.meeting.Struck(w.To, w.IDs)
	case Method(w.Letter) == "CANCEL":
		whole := w.meeting.Entries(w.To, nil)
		if len(whole) > 0 {
			whole = whole[:1]
			whole[0].Series = nil // no RECURRENCE-ID: all of it
		}
		return whole
	}
	return w.meeting.Entries(w.To, w.On)
}

func (w *writer) event(x meeting.Entry) *ical.Component {
	l, m := w.Letter, w.Meeting
	e := ical.NewComponent(ical.CompEvent)
	text := func(name, value string) {
		if value != "" {
			e.Props.SetText(name, value)
		}
	}
	text(ical.PropUID, m.UID)
	e.Props.Set(plain(ical.PropSequence, strconv.Itoa(m.Sequence)))
	e.Props.Set(plain(ical.PropDateTimeStamp, l.Stamp.UTC().Format("20060102T150405Z")))
	w.times(e, x)
	text(ical.PropSummary, x.Title)
	switch l.Kind {
	case meeting.Keep:
		text(ical.PropComment, l.Words)
	case meeting.Invite, meeting.Update: // RFC 5546, 3.2.2: a REQUEST may have one
		text(ical.PropComment, l.Cover)
	}
	text(ical.PropDescription, description(x.Text, m.Card, l.CardReader()))
	text(ical.PropLocation, location(x.Room, m.Card))
	e.Props.Set(w.organizer())
	class := "PUBLIC"
	if m.Private {
		class = "PRIVATE"
	}
	e.Props.Set(plain(ical.PropClass, class))
	transparency := "OPAQUE"
	if m.Free {
		transparency = "TRANSPARENT"
	}
	e.Props.Set(plain(ical.PropTransparency, transparency))
	if m.RelatedTo != "" {
		related := plain(ical.PropRelatedTo, m.RelatedTo)
		related.Params.Set(ical.ParamRelationshipType, "SIBLING")
		e.Props.Set(related)
	}
	off := l.Kind == meeting.CallOff
	if off && w.goesOn(x) || l.Kind == meeting.Clear {
		// Somebody is dropped, the meeting stays: only they are named, and STATUS
		// must not be there (RFC 5546, 3.2.5).
		e.Props.Add(w.attendee(l.To, x))
		return e
	}
	status := "CONFIRMED"
	if off {
		status = "CANCELLED"
	}
	e.Props.Set(plain(ical.PropStatus, status))
	if !l.Own { // a PUBLISH has no ATTENDEE (RFC 5546, 3.2.1)
		for _, p := range w.meeting.Participants {
			if x.Names(p) || p.ID == l.To.ID {
				e.Props.Add(w.attendee(p, x))
			}
		}
		if x.Room != nil {
			e.Props.Add(roomAttendee(*x.Room))
		}
	}
	if off || l.Kind == meeting.Keep {
		return e
	}
	for _, way := range conferences(m.Card, l.CardReader()) {
		e.Props.Add(way)
	}
	for _, f := range m.Files {
		e.Props.Add(attach(f, l.FileURL(f)))
	}
	if m.Card != nil && m.Card.URL != "" {
		e.Props.Set(plain(ical.PropURL, m.Card.URL))
	}
	for _, before := range m.RemindsAt(l.Own) {
		e.Children = append(e.Children, alarm(m, x.Title, before))
	}
	return e
}

// attach is a file by its address (RFC 5545, 3.8.1.1), with what RFC 8607, 4.1 and 4.2, say of it.
func attach(f attachment.File, url string) *ical.Prop {
	p := plain(ical.PropAttach, url)
	p.Params.Set(ical.ParamFormatType, f.Type)
	p.Params.Set("FILENAME", param(f.Name))
	p.Params.Set("SIZE", strconv.Itoa(f.Size))
	return p
}

// goesOn tells whether what is taken back from somebody goes on without them.
func (w *writer) goesOn(x meeting.Entry) bool {
	switch {
	case w.OffAll:
		return false
	case x.Single:
		return w.Meeting.GoesOnWithout(w.To, x.On)
	}
	return w.Meeting.GoesOnWithout(w.To)
}

// times writes when an entry is. The end of a series is an UNTIL, what it leaves
// out are EXDATEs: nothing about it can be counted in another way (DESIGN.md, rule
// 1). A time that a clock shows never or twice is in UTC, but for those that have to
// be told by the rule.
func (w *writer) times(e *ical.Component, x meeting.Entry) {
	inUTC := !w.meeting.AllDay && x.Series == nil && !(w.zone.Once(x.Start) && w.zone.Once(x.End))
	if inUTC {
		e.Props.Set(instant(ical.PropDateTimeStart, x.Span.Start))
		e.Props.Set(instant(ical.PropDateTimeEnd, x.Span.End))
	} else {
		e.Props.Set(w.local(ical.PropDateTimeStart, x.Start))
		w.cover(x.Span)
	}
	switch s := x.Series; {
	case s == nil && !inUTC:
		e.Props.Set(w.local(ical.PropDateTimeEnd, x.End))
	case s == nil:
	case w.zone.Clear(x.Start, x.End):
		e.Props.Set(w.local(ical.PropDateTimeEnd, x.End))
	default:
		e.Props.Set(plain(ical.PropDuration, fmt.Sprintf("PT%dM", int(s.Length/time.Minute))))
	}
	if x.Single {
		e.Props.Set(w.recurrenceID(x))
	}
	if s := x.Series; s != nil {
		if rule := s.Rule; rule != (recur.Rule{}) {
			// UNTIL is a DATE where DTSTART is one (RFC 5545, 3.3.10).
			rule.Until.AllDay, rule.Until.UTC = w.meeting.AllDay, rule.Until.UTC && !w.meeting.AllDay
			e.Props.Set(plain(ical.PropRecurrenceRule, rule.String()))
		}
		w.days(e, ical.PropRecurrenceDates, s.RDates)
		w.days(e, ical.PropExceptionDates, s.ExDates)
		w.coverSeries(*s)
	}
}

// recurrenceID is the time that the rule gives to a date, as the rule writes it; for
// who knows no rule, without doubt.
func (w *writer) recurrenceID(x meeting.Entry) *ical.Prop {
	at := w.zone.LocalAt(x.ID)
	if x.Lone && !w.zone.Once(at) {
		return instant(ical.PropRecurrenceID, x.ID)
	}
	w.cover(when.Span{Start: x.ID, End: x.ID})
	return w.local(ical.PropRecurrenceID, at)
}

// mostValues is how many dates one property lists: libical reads no more than 500.
const mostValues = 100

// days writes dates of a series as lists in its zone.
func (w *writer) days(e *ical.Component, name string, all []when.Day) {
	for some := range slices.Chunk(all, mostValues) {
		var p *ical.Prop
		var texts []string
		for _, day := range some {
			p = w.local(name, when.Local{Day: day, Clock: w.meeting.Start.Clock})
			texts = append(texts, p.Value)
		}
		p.Value = strings.Join(texts, ",")
		e.Props.Add(p)
	}
}

func (w *writer) cover(span when.Span) {
	if w.covered == (when.Span{}) {
		w.covered = span
	}
	w.covered.Start, w.covered.End = min(w.covered.Start, span.Start), max(w.covered.End, span.End)
}

func (w *writer) coverSeries(s series.Written) {
	plan := w.meeting.Plan()
	last := plan.Start.Day
	if len(s.RDates) > 0 {
		last = slices.Max(s.RDates)
	}
	if u := s.Rule.Until; u.Set {
		last = max(last, u.Moment.Day+1)
	}
	w.cover(plan.Regular(last).Span)
}

// conferences are the ways into a call, one property each (RFC 7986, 5.11): the link first,
// then the phones of the reader's country and the others. What the organiser keys in is for
// the organiser alone (6.3).
func conferences(card *join.Card, reader join.Reader) (out []*ical.Prop) {
	if card == nil || card.Follows {
		return nil
	}
	add := func(uri, label string, features ...string) {
		conference := plain("CONFERENCE", uri)
		conference.Params.Set("VALUE", "URI")
		conference.Params["FEATURE"] = features
		conference.Params.Set("LABEL", param(label))
		out = append(out, conference)
	}
	if card.URL != "" {
		add(card.URL, card.Heading(reader.Tongue), "AUDIO", "VIDEO")
	}
	if card.SIP != "" {
		add(card.SIP, reader.Tongue.Say("%s from a room system", card.Heading(reader.Tongue)), "AUDIO", "VIDEO")
	}
	near, far := card.Near(reader)
	for _, p := range append(near, far...) {
		label := reader.Tongue.Say("Join by phone")
		if where := p.Where(reader.Tongue); where != "" {
			label = reader.Tongue.Say("Join by phone in %s", where)
		}
		add(p.URI(), label, "PHONE")
		if reader.Organiser && card.HostPIN != "" && len(near) > 0 && p == near[0] {
			p.PIN = card.HostPIN
			add(p.URI(), reader.Tongue.Say("%s, as the organiser", label), "PHONE", "MODERATOR")
		}
	}
	return out
}

// description is the text of the meeting with the join card below it: a program
// that knows no CONFERENCE still shows how to get in.
func description(text string, card *join.Card, reader join.Reader) string {
	parts := []string{}
	if text != "" {
		parts = append(parts, text)
	}
	if card != nil {
		parts = append(parts, strings.TrimSpace(card.Text(reader)))
	}
	return strings.Join(parts, "\n\n")
}

func location(room *meeting.Room, card *join.Card) string {
	switch {
	case room != nil:
		return room.Name + " (" + room.Place + ")"
	case card != nil:
		return card.Address()
	}
	return ""
}

// organizer is the address of the meeting, the same for everybody and that of From;
// the person's own is its EMAIL (RFC 7986, 6.2). In the organiser's own calendar it
// is the person.
func (w *writer) organizer() *ical.Prop {
	organiser, address := w.Meeting.Organiser, w.Address
	if w.Own {
		address = organiser.Email
	}
	p := plain(ical.PropOrganizer, mailto(address))
	p.Params.Set(ical.ParamCommonName, param(organiser.Name))
	p.Params.Set("EMAIL", param(organiser.Email))
	return p
}

func (w *writer) attendee(p meeting.Participant, x meeting.Entry) *ical.Prop {
	a := plain(ical.PropAttendee, mailto(p.Email))
	role, answer := "OPT-PARTICIPANT", p.AnswerToAll()
	if p.Needed {
		role = "REQ-PARTICIPANT"
	}
	if x.Single {
		answer = p.AnswerOn(x.On)
	}
	a.Params.Set(ical.ParamCommonName, param(p.Name))
	a.Params.Set("CUTYPE", "INDIVIDUAL")
	a.Params.Set(ical.ParamRole, role)
	a.Params.Set(ical.ParamParticipationStatus, string(answer))
	if to, sends := w.meeting.DelegateOf(p); sends {
		a.Params.Set(ical.ParamParticipationStatus, "DELEGATED")
		a.Params.Set(ical.ParamDelegatedTo, mailto(to.Email))
		answer = ""
	}
	if p.DelegatedFrom != "" {
		a.Params.Set(ical.ParamDelegatedFrom, mailto(p.DelegatedFrom))
	}
	if Method(w.Letter) == "REQUEST" {
		a.Params.Set(ical.ParamRSVP, strings.ToUpper(strconv.FormatBool(answer == meeting.NoAnswer)))
	}
	return a
}

func roomAttendee(r meeting.Room) *ical.Prop {
	a := plain(ical.PropAttendee, mailto(r.Email))
	a.Params.Set(ical.ParamCommonName, param(r.Name))
	a.Params.Set("CUTYPE", "ROOM")
	a.Params.Set(ical.ParamRole, "NON-PARTICIPANT")
	a.Params.Set(ical.ParamParticipationStatus, "ACCEPTED")
	return a
}

// alarm reminds of a meeting, and says where its call is.
func alarm(m meeting.Meeting, title string, before int) *ical.Component {
	a := ical.NewComponent(ical.CompAlarm)
	a.Props.Set(plain(ical.PropAction, "DISPLAY"))
	a.Props.Set(plain(ical.PropTrigger, fmt.Sprintf("-PT%dM", before)))
	if m.Card != nil && m.Card.Address() != "" {
		title += "\n" + m.Card.Address()
	}
	a.Props.SetText(ical.PropDescription, title)
	return a
}

// local is a DATE-TIME in the zone (RFC 5545, 3.3.5, form 3), or in UTC (form 2); of whole
// days it is a DATE (3.3.4), and the end is the day after the last (3.6.1).
func (w *writer) local(name string, l when.Local) *ical.Prop {
	if w.meeting.AllDay {
		p := plain(name, strings.ReplaceAll(l.Day.String(), "-", ""))
		p.Params.Set("VALUE", "DATE")
		return p
	}
	text := strings.NewReplacer("-", "", ":", "").Replace(l.String()) + "00"
	if w.zone.String() == "UTC" {
		return plain(name, text+"Z")
	}
	w.zoned = true
	p := plain(name, text)
	p.Params.Set(ical.ParamTimezoneID, w.zone.String())
	return p
}

// instant is a DATE-TIME in UTC (RFC 5545, 3.3.5, form 2).
func instant(name string, i when.Instant) *ical.Prop {
	return plain(name, i.Time().Format("20060102T150405Z"))
}

func plain(name, value string) *ical.Prop {
	return &ical.Prop{Name: name, Params: ical.Params{}, Value: value}
}
