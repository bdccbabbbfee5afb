package ical

import (
	"bytes"
	"cmp"
	"fmt"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/invited"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/calendars"
	"jembro/internal/schedule/invitations"
)

// Calendars reads and writes calendars for the deeds about everybody's time.
type Calendars struct{}

var (
	_ calendars.Format   = Calendars{}
	_ invitations.Format = Calendars{}
)

// Invitation is what is known of a meeting outside, as a calendar.
func (Calendars) Invitation(s invited.State) []byte { return InvitationCalendar(s) }

// ReadFile is ReadFile, MergeFiles is MergeFiles.
func (Calendars) ReadFile(raw []byte, zone when.Zone) ([]schedule.Filed, error) {
	return ReadFile(raw, zone)
}
func (Calendars) MergeFiles(all ...[]byte) []byte { return MergeFiles(all...) }

// InvitationWords is what it says to its reader.
func (Calendars) InvitationWords(s invited.State, addresses ...string) invited.Told {
	return InvitationWords(s, addresses...)
}

// Read is ReadCalendar.
func (Calendars) Read(raw []byte, window when.Span, addresses ...string) (calendar.Calendar, error) {
	return ReadCalendar(raw, window, addresses...)
}

// published begins a calendar that says how often to look (RFC 7986, 5.7; the other line
// is common practice).
func published(name string, refresh time.Duration) *ical.Calendar {
	cal := ical.NewCalendar()
	cal.Props.SetText(ical.PropVersion, "2.0")
	cal.Props.SetText(ical.PropProductID, productID)
	cal.Props.SetText(ical.PropMethod, "PUBLISH")
	if name != "" {
		cal.Props.SetText("NAME", name)
		cal.Props.SetText("X-WR-CALNAME", name)
	}
	if refresh > 0 {
		looksAgain(cal, refresh)
	}
	return cal
}

// looksAgain says how often a calendar is to be read again.
func looksAgain(cal *ical.Calendar, refresh time.Duration) {
	every := duration(refresh)
	p := plain("REFRESH-INTERVAL", every)
	p.Params.Set("VALUE", "DURATION")
	cal.Props.Set(p)
	cal.Props.Set(plain("X-PUBLISHED-TTL", every))
}

func duration(d time.Duration) string { return fmt.Sprintf("PT%dM", int(d.Minutes())) }

func utc(i when.Instant) string { return recur.MomentIn(i, 0).String() + "Z" }

// freeBusyType is a kind as FBTYPE (RFC 5545, 3.2.9).
func freeBusyType(k availability.Kind) string {
	switch k {
	case availability.Maybe:
		return "BUSY-TENTATIVE"
	case availability.Leave:
		return "BUSY-UNAVAILABLE"
	}
	return "BUSY"
}

// sheet is content lines that are written one by one: building components for thousands
// of times takes ten times as long.
type sheet struct{ bytes.Buffer }

func (s *sheet) line(parts ...string) { fold(&s.Buffer, strings.Join(parts, "")) }

// text writes a property of text (RFC 5545, 3.3.11).
func (s *sheet) text(name, value string) {
	p := ical.NewProp(name)
	p.SetText(value)
	s.line(contentLine(*p))
}

// open begins a calendar that goes on with lines.
func (s *sheet) open(cal *ical.Calendar) {
	head, _ := bytes.CutSuffix(encode(cal.Component), []byte("END:VCALENDAR\r\n"))
	s.Write(head)
}

var untitled = map[availability.Kind]string{availability.Busy: "Busy", availability.Maybe: "Maybe", availability.Leave: "Leave"}

// Events writes busy times as events, each under a name that stays as long as it does.
// Those without a title say that the time is taken, and nothing else.
func (Calendars) Events(p calendars.Published) []byte {
	var s sheet
	s.open(published(p.Name, p.Refresh))
	stamp := "DTSTAMP:" + p.Stamp.UTC().Format(basicForm)
	for _, t := range p.Times {
		start, end := utc(t.Span.Start), utc(t.Span.End)
		s.line("BEGIN:VEVENT")
		s.line("UID:", string(t.Kind), "-", start, "-", end, "-", p.ID, "@", p.Domain)
		s.line(stamp)
		s.line("DTSTART:", start)
		s.line("DTEND:", end)
		s.text(ical.PropSummary, cmp.Or(t.Title, untitled[t.Kind]))
		if t.Kind == availability.Maybe {
			s.line("STATUS:TENTATIVE")
		} else {
			s.line("STATUS:CONFIRMED")
		}
		s.line("TRANSP:OPAQUE")
		s.line("END:VEVENT")
	}
	s.line("END:VCALENDAR")
	return s.Bytes()
}

// FreeBusy writes busy times as a VFREEBUSY that is published (RFC 5545, 3.6.4): no titles,
// in UTC, a line for each period: several in one are allowed (3.8.2.6), and not read by all.
func (Calendars) FreeBusy(p calendars.Published) []byte {
	var s sheet
	s.open(published("", 0))
	s.line("BEGIN:VFREEBUSY")
	s.text(ical.PropUID, p.ID+"@"+p.Domain)
	s.line("DTSTAMP:", p.Stamp.UTC().Format(basicForm))
	s.line("DTSTART:", utc(p.Window.Start))
	s.line("DTEND:", utc(p.Window.End))
	s.line("ORGANIZER:", mailto(p.Email))
	for _, t := range untitledTimes(p.Times) {
		s.line("FREEBUSY;FBTYPE=", freeBusyType(t.Kind), ":", utc(t.Span.Start), "/", utc(t.Span.End))
	}
	s.line("END:VFREEBUSY")
	s.line("END:VCALENDAR")
	return s.Bytes()
}

// untitledTimes are times without their titles: those that touch are one then.
func untitledTimes(all []availability.Shown) []availability.Time {
	times := make([]availability.Time, len(all))
	titles := false
	for i, s := range all {
		times[i] = s.Time
		titles = titles || s.Title != ""
	}
	if !titles { // each instant is there once already
		return times
	}
	return availability.Combine(times)
}

// Priorities of the blocks of somebody's hours (RFC 7953, 4): the week below all, holidays
// over it, other days over these, leave above all.
const priorityHoliday, priorityOther, priorityLeave = 7, 5, 1

var weekdayNames = [7]string{"SU", "MO", "TU", "WE", "TH", "FR", "SA"}

// Availability writes working hours, public holidays, other days and leave as blocks of
// availability.
func (Calendars) Availability(h calendars.Hours) []byte {
	cal := published("", 0)
	zone := h.Hours.Zone
	span := when.DaysSpan(h.From, h.From+400, zone)
	cal.Children = append(cal.Children, timezone(zone, span))
	block := func(name string, priority int) *ical.Component {
		b := ical.NewComponent("VAVAILABILITY")
		b.Props.SetText(ical.PropUID, fmt.Sprintf("%s-%s@%s", name, uidOf(h.Email), h.Domain))
		b.Props.Set(plain(ical.PropDateTimeStamp, h.Stamp.UTC().Format(basicForm)))
		b.Props.Set(plain(ical.PropOrganizer, mailto(h.Email)))
		if priority > 0 {
			b.Props.Set(plain(ical.PropPriority, fmt.Sprint(priority)))
		}
		cal.Children = append(cal.Children, b)
		return b
	}
	available := func(b *ical.Component, name string, day when.Day, c when.ClockSpan, rule string) {
		a := ical.NewComponent("AVAILABLE")
		a.Props.SetText(ical.PropUID, fmt.Sprintf("%s-%s-%d-%s@%s", name, day, c.Start, uidOf(h.Email), h.Domain))
		a.Props.Set(plain(ical.PropDateTimeStamp, h.Stamp.UTC().Format(basicForm)))
		a.Props.Set(inZone(ical.PropDateTimeStart, when.Local{Day: day, Clock: c.Start}, zone))
		a.Props.Set(inZone(ical.PropDateTimeEnd, when.Local{Day: day}.Add(time.Duration(c.End)*time.Minute), zone))
		if rule != "" {
			a.Props.Set(plain(ical.PropRecurrenceRule, rule))
		}
		b.Children = append(b.Children, a)
	}
	week := block("week", 0)
	for i := range when.Day(7) { // from a Monday on
		day := h.From + i
		for _, c := range h.Hours.Week[day.Weekday()] {
			available(week, "week", day, c, "FREQ=WEEKLY;BYDAY="+weekdayNames[day.Weekday()])
		}
	}
	days := func(b *ical.Component, first, last when.Day) {
		b.Props.Set(inZone(ical.PropDateTimeStart, when.Local{Day: first}, zone))
		b.Props.Set(inZone(ical.PropDateTimeEnd, when.Local{Day: last + 1}, zone))
	}
	for _, day := range h.Holidays {
		days(block("holiday-"+day.String(), priorityHoliday), day, day)
	}
	for _, o := range h.Other {
		b := block("day-"+o.Day.String(), priorityOther)
		days(b, o.Day, o.Day)
		for _, c := range o.Hours {
			available(b, "day", o.Day, c, "")
		}
	}
	for _, a := range h.Leave {
		days(block("leave-"+a.First.String(), priorityLeave), a.First, a.Last)
	}
	return encode(cal.Component)
}

func uidOf(email string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, strings.ToLower(email))
}

func inZone(name string, l when.Local, zone when.Zone) *ical.Prop {
	p := plain(name, recur.Moment{Day: l.Day, Second: int32(l.Clock) * 60}.String())
	p.Params.Set(ical.ParamTimezoneID, zone.String())
	return p
}
