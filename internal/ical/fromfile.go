package ical

import (
	"cmp"
	"slices"
	"strings"

	"jembro/internal/core/calendar"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// mostFiled is how many meetings of one file become sheets.
const mostFiled = 50

// ReadFile makes of the events of a calendar file what sheets can hold; zone is that of who reads
// it, where their times are in none, or in UTC. What a sheet cannot hold is said. It fails with the
// errors of ReadCalendar.
func ReadFile(raw []byte, zone when.Zone) (out []schedule.Filed, err error) {
	text, err := decoded(raw)
	if err != nil {
		return nil, err
	}
	if !strings.HasPrefix(strings.ToUpper(strings.TrimLeft(string(text[:min(len(text), 100)]), " \t\r\n")), "BEGIN:VCALENDAR") {
		return nil, calendar.ErrNotCalendar
	}
	if text, err = plainLines(text); err != nil {
		return nil, calendar.ErrTooLarge
	}
	var stack []string
	var f filing
	var uids []string
	dates := map[string]int{} // single dates of a series, which are left out
	for l := range everyLine(string(text)) {
		switch name := strings.ToUpper(strings.TrimSpace(l.value)); {
		case l.name == "BEGIN":
			if stack = append(stack, name); len(stack) == 2 && name == "VEVENT" {
				f = filing{zone: zone}
			}
		case l.name == "END" && len(stack) > 0:
			stack = stack[:len(stack)-1]
			if len(stack) != 1 || name != "VEVENT" {
				continue
			}
			switch {
			case f.single:
				dates[f.uid]++
			case len(out) < mostFiled:
				out, uids = append(out, f.filed()), append(uids, f.uid)
			}
		case len(stack) == 2 && stack[1] == "VEVENT":
			f.line(l)
		case len(stack) == 3 && stack[1] == "VEVENT" && stack[2] == "VALARM" && l.name == "TRIGGER":
			f.alarm(l)
		}
	}
	for i := range out {
		if n := dates[uids[i]]; n > 0 {
			out[i].Lost = append(out[i].Lost, say.It("file.lostDiffering", n))
		}
	}
	if len(out) == 0 {
		return nil, calendar.ErrNotCalendar
	}
	return out, nil
}

// filing reads one event.
type filing struct {
	zone             when.Zone
	uid              string
	single           bool
	start, end       *calendar.Time
	days             int
	seconds          int64
	rule             string
	out, added       []string
	people           []meeting.DraftPerson
	organiser        string
	title, text, loc string
	ways             []string
	lost             []say.What
	class            string
	free             bool
	reminds          []int
}

func (f *filing) line(l line) {
	value := strings.TrimSpace(unescape(l.value))
	day := func(into *[]string) {
		for text := range strings.SplitSeq(l.value, ",") {
			if t, ok := timeOf(l, text); ok && len(*into) < 300 {
				*into = append(*into, t.Moment.Day.String())
			} else if !ok {
				f.lose("file.lostDay")
			}
		}
	}
	switch l.name {
	case "UID":
		f.uid = value
	case "RECURRENCE-ID":
		f.single = true
	case "SUMMARY":
		f.title = value
	case "DESCRIPTION":
		f.text = value
	case "LOCATION":
		f.loc = value
	case "URL", "CONFERENCE":
		f.ways = append(f.ways, value)
	case "CLASS":
		f.class = strings.ToUpper(value)
	case "TRANSP":
		f.free = strings.EqualFold(value, "TRANSPARENT")
	case "DTSTART", "DTEND":
		t, ok := readTime(l)
		switch {
		case !ok:
			f.lose("file.lostTime")
		case l.name == "DTSTART":
			f.start = &t
		default:
			f.end = &t
		}
	case "DURATION":
		f.days, f.seconds, _ = parseDuration(l.value)
	case "RRULE":
		if f.rule != "" {
			f.lose("file.lostSecondRule")
			return
		}
		f.rule = strings.TrimSpace(l.value)
	case "EXDATE":
		day(&f.out)
	case "RDATE":
		day(&f.added)
	case "ORGANIZER":
		f.organiser = address(l.value)
	case "ATTENDEE":
		f.attendee(l)
	case "ATTACH":
		f.lose("file.lostAttached")
	}
}

func (f *filing) lose(code say.Code, args ...any) {
	if what := say.It(code, args...); !slices.ContainsFunc(f.lost, func(l say.What) bool { return l.Code == code }) {
		f.lost = append(f.lost, what)
	}
}

func (f *filing) attendee(l line) {
	email, err := meeting.ParseEmail(address(l.value))
	kind := strings.ToUpper(l.param("CUTYPE"))
	switch {
	case kind == "ROOM" || kind == "RESOURCE":
		f.lose("file.lostRoom")
	case err != nil:
		f.lose("file.lostSomebody")
	case len(f.people) < meeting.PeopleLimit:
		f.people = append(f.people, meeting.DraftPerson{Name: meeting.OneLine(unescape(l.param("CN"))), Email: email, Needed: !strings.EqualFold(l.param("ROLE"), "OPT-PARTICIPANT")})
	default:
		f.lose("file.lostMorePeople", meeting.PeopleLimit)
	}
}

// alarm keeps a reminder: what is so long before the start.
func (f *filing) alarm(l line) {
	if len(f.reminds) > meeting.RemindersLimit {
		f.lose("file.lostFurtherReminder")
		return
	}
	days, seconds, ok := parseDuration(strings.TrimPrefix(strings.TrimSpace(l.value), "-"))
	if !ok || !strings.HasPrefix(strings.TrimSpace(l.value), "-") || strings.EqualFold(l.param("RELATED"), "END") {
		f.lose("file.lostFixedReminder")
		return
	}
	f.reminds = append(f.reminds, min(int(int64(days)*1440+seconds/60), meeting.ReminderLimit))
}

// local is a time in the zone of the meeting.
func (f *filing) local(t calendar.Time, zone when.Zone) when.Local {
	l := when.Local{Day: t.Moment.Day, Clock: when.Clock(t.Moment.Second / 60)}
	from := f.zone
	switch {
	case t.Form == calendar.Date:
		return when.Local{Day: t.Moment.Day}
	case t.Form == calendar.UTC:
		from = when.Zone{}
	case t.TZID != "":
		if z, known := calendar.ZoneNamed(t.TZID); known {
			from = z
		}
	}
	return zone.LocalAt(when.Zoned{Local: l, Zone: from}.Instant())
}

func (f *filing) filed() schedule.Filed {
	d := meeting.Draft{Title: meeting.OneLine(f.title), Text: meeting.Plain(f.text), Private: f.class == "PRIVATE" || f.class == "CONFIDENTIAL", Free: f.free,
		People: []meeting.DraftPerson{}, Zone: f.zone.String(), NoRoom: true}
	for i, before := range f.reminds {
		if i == 0 {
			d.RemindBefore = before
		} else {
			d.Reminders = append(d.Reminders, meeting.Reminder{Before: before})
		}
	}
	zone := f.zone
	if s := f.start; s != nil {
		if s.Form == calendar.Local && s.TZID != "" {
			if z, known := calendar.ZoneNamed(s.TZID); known {
				zone, d.Zone = z, z.String()
			} else {
				f.lose("file.lostZone", s.TZID)
			}
		}
		start := f.local(*s, zone)
		end := start.Add(when.Zone{}.LocalAt(when.Instant(f.seconds)).Sub(when.Zone{}.LocalAt(0)))
		end.Day += when.Day(f.days)
		if f.end != nil {
			end = f.local(*f.end, zone)
		}
		if d.AllDay = s.Form == calendar.Date; d.AllDay && end.Day <= start.Day {
			end = when.Local{Day: start.Day + 1}
		}
		d.Start, d.End = start.String(), end.String()
		f.repeat(&d, start)
	}
	for _, p := range f.people {
		if !strings.EqualFold(p.Email, f.organiser) {
			d.People = append(d.People, p)
		}
	}
	call := strings.Join(append([]string{f.loc, d.Text}, f.ways...), "\n")
	if f.loc != "" && !strings.Contains(f.loc, "://") {
		d.Text = strings.TrimSpace("Where: " + meeting.OneLine(f.loc) + "\n\n" + d.Text)
	}
	return schedule.Filed{Draft: d, Call: call, Lost: f.lost}
}

func (f *filing) repeat(d *meeting.Draft, start when.Local) {
	if f.rule == "" && len(f.added) == 0 {
		return
	}
	r := &meeting.DraftRepeat{Ends: "open", Days: f.out, Added: f.added}
	if f.rule == "" {
		f.lose("file.lostNoRule")
		return
	}
	rule, err := readRule(f.rule)
	if err != nil {
		f.lose("file.lostRule")
		return
	}
	switch {
	case rule.Count > 0:
		r.Ends, r.Count = "after", rule.Count
	case rule.Until.Set:
		r.Ends, r.Until = "on", rule.Until.Moment.Day.String()
	}
	rule.Count, rule.Until = 0, recur.Until{}
	r.Rule = rule.String()
	d.Repeat = r
}

// MergeFiles joins calendars that this package wrote into one, as a file to keep: no method, each
// zone once.
func MergeFiles(all ...[]byte) []byte {
	var events strings.Builder
	zones := map[string]string{}
	for _, raw := range all {
		var block strings.Builder
		depth, name, tzid := 0, "", ""
		for folded := range strings.SplitAfterSeq(string(raw), "\r\n") {
			whole := strings.TrimRight(folded, "\r\n")
			if strings.HasPrefix(whole, "BEGIN:") {
				if depth++; depth == 2 {
					name, tzid = strings.TrimPrefix(whole, "BEGIN:"), ""
					block.Reset()
				}
			}
			if depth >= 2 {
				block.WriteString(folded)
				if strings.HasPrefix(whole, "TZID:") {
					tzid = whole
				}
			}
			if strings.HasPrefix(whole, "END:") {
				switch depth--; {
				case depth != 1:
				case name == "VTIMEZONE":
					if len(block.String()) > len(zones[tzid]) {
						zones[tzid] = block.String()
					}
				default:
					events.WriteString(block.String())
				}
			}
		}
	}
	out := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:" + productID + "\r\n"
	names := make([]string, 0, len(zones))
	for id := range zones {
		names = append(names, id)
	}
	slices.SortFunc(names, cmp.Compare)
	for _, id := range names {
		out += zones[id]
	}
	return []byte(out + events.String() + "END:VCALENDAR\r\n")
}
