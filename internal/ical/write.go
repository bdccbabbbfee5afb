// Package ical writes meetings as iCalendar objects (RFC 5545, with RFC 7986)
// that carry iTIP methods (RFC 5546), and reads the answers.
package ical

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/emersion/go-ical"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

const productID = "-//Jembro//Jembro 1//EN"

// Method is the iTIP method of a message.
func Method(k meeting.Kind) string {
	if k == meeting.CallOff {
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
	cal.Props.SetText(ical.PropMethod, Method(l.Kind))

	parts := components(l)
	if zone := l.Meeting.StartIn().Zone; zone.String() != "UTC" {
		cal.Children = append(cal.Children, timezone(zone, covered(l.Meeting, parts)))
	}
	for _, p := range parts {
		cal.Children = append(cal.Children, event(l, p))
	}

	var raw bytes.Buffer
	if err := ical.NewEncoder(&raw).Encode(cal); err != nil {
		return nil, fmt.Errorf("write invitation: %w", err)
	}
	return fold(raw.Bytes()), nil
}

func event(l schedule.Letter, c component) *ical.Component {
	m := l.Meeting
	e := ical.NewComponent(ical.CompEvent)
	text := func(name, value string) {
		if value != "" {
			e.Props.SetText(name, value)
		}
	}
	text(ical.PropUID, m.UID)
	e.Props.Set(plain(ical.PropSequence, strconv.Itoa(m.Sequence)))
	e.Props.Set(plain(ical.PropDateTimeStamp, l.Stamp.UTC().Format("20060102T150405Z")))
	c.times(e, m)
	text(ical.PropSummary, c.Title)
	text(ical.PropDescription, description(c.Text, m.Card))
	text(ical.PropLocation, location(c.Room, m.Card))
	e.Props.Set(organizer(l))
	class, status := "PUBLIC", "CONFIRMED"
	if m.Private {
		class = "PRIVATE"
	}
	e.Props.Set(plain(ical.PropClass, class))
	e.Props.Set(plain(ical.PropTransparency, "OPAQUE"))
	if m.RelatedTo != "" {
		related := plain(ical.PropRelatedTo, m.RelatedTo)
		related.Params.Set(ical.ParamRelationshipType, "SIBLING")
		e.Props.Set(related)
	}

	if l.Kind == meeting.CallOff {
		_, all := m.Participant(l.To.ID)
		if !all || c.theirs {
			// Somebody is dropped, the meeting stays: only they are named, and
			// STATUS must not be there (RFC 5546, 3.2.5).
			e.Props.Add(attendee(l.To, l, c))
			return e
		}
		status = "CANCELLED"
	}
	e.Props.Set(plain(ical.PropStatus, status))
	for _, p := range m.Participants {
		if c.names(p) {
			e.Props.Add(attendee(p, l, c))
		}
	}
	if c.Room != nil {
		e.Props.Add(roomAttendee(*c.Room))
	}
	if l.Kind == meeting.CallOff {
		return e
	}
	if m.Card != nil {
		conference := plain("CONFERENCE", m.Card.URL) // RFC 7986, 5.11
		conference.Params.Set("VALUE", "URI")
		conference.Params["FEATURE"] = []string{"AUDIO", "VIDEO"}
		conference.Params.Set("LABEL", param("Join by "+m.Card.Name))
		e.Props.Add(conference)
	}
	if l.GuestURL != "" {
		e.Props.Set(plain(ical.PropURL, l.GuestURL))
	}
	if m.RemindBefore > 0 {
		e.Children = append(e.Children, alarm(m, c.Title))
	}
	return e
}

// description is the text of the meeting with the join card below it: a program
// that knows no CONFERENCE still shows how to get in.
func description(text string, card *join.Card) string {
	parts := []string{}
	if text != "" {
		parts = append(parts, text)
	}
	if card != nil {
		parts = append(parts, strings.TrimSpace(card.Text()))
	}
	return strings.Join(parts, "\n\n")
}

func location(room *meeting.Room, card *join.Card) string {
	switch {
	case room != nil:
		return room.Name + " (" + room.Place + ")"
	case card != nil:
		return card.URL
	}
	return ""
}

// organizer is the address that takes this participant's answers; the address
// of the person is its EMAIL (RFC 7986, 6.2).
func organizer(l schedule.Letter) *ical.Prop {
	p := plain(ical.PropOrganizer, "mailto:"+l.ReplyTo)
	p.Params.Set(ical.ParamCommonName, param(l.Meeting.Organiser.Name))
	p.Params.Set("EMAIL", param(l.Meeting.Organiser.Email))
	return p
}

func attendee(p meeting.Participant, l schedule.Letter, c component) *ical.Prop {
	a := plain(ical.PropAttendee, "mailto:"+p.Email)
	role, answer := "OPT-PARTICIPANT", meeting.NoAnswer
	if p.Needed {
		role = "REQ-PARTICIPANT"
	}
	if p.ID == l.To.ID && l.Answer != "" {
		answer = l.Answer
		if own, is := l.Answers[c.On]; is && c.single {
			answer = own
		}
	}
	a.Params.Set(ical.ParamCommonName, param(p.Name))
	a.Params.Set("CUTYPE", "INDIVIDUAL")
	a.Params.Set(ical.ParamRole, role)
	a.Params.Set(ical.ParamParticipationStatus, string(answer))
	if l.Kind != meeting.CallOff {
		a.Params.Set(ical.ParamRSVP, strings.ToUpper(strconv.FormatBool(answer == meeting.NoAnswer)))
	}
	return a
}

func roomAttendee(r meeting.Room) *ical.Prop {
	a := plain(ical.PropAttendee, "mailto:"+r.Email)
	a.Params.Set(ical.ParamCommonName, param(r.Name))
	a.Params.Set("CUTYPE", "ROOM")
	a.Params.Set(ical.ParamRole, "NON-PARTICIPANT")
	a.Params.Set(ical.ParamParticipationStatus, "ACCEPTED")
	return a
}

func alarm(m meeting.Meeting, title string) *ical.Component {
	a := ical.NewComponent(ical.CompAlarm)
	a.Props.Set(plain(ical.PropAction, "DISPLAY"))
	a.Props.Set(plain(ical.PropTrigger, fmt.Sprintf("-PT%dM", m.RemindBefore)))
	a.Props.SetText(ical.PropDescription, title)
	return a
}

// at is a DATE-TIME in a zone (RFC 5545, 3.3.5, form 3), or in UTC (form 2).
func at(name string, l when.Local, zone when.Zone) *ical.Prop {
	text := localText(l)
	if zone.String() == "UTC" {
		return plain(name, text+"Z")
	}
	p := plain(name, text)
	p.Params.Set(ical.ParamTimezoneID, zone.String())
	return p
}

func localText(l when.Local) string {
	return strings.NewReplacer("-", "", ":", "").Replace(l.String()) + "00"
}

func plain(name, value string) *ical.Prop {
	return &ical.Prop{Name: name, Params: ical.Params{}, Value: value}
}

// param writes a parameter value with the escapes of RFC 6868.
func param(s string) string {
	return strings.NewReplacer("^", "^^", "\n", "^n", `"`, "^'").Replace(s)
}

// fold breaks lines longer than 75 octets, never inside a character.
func fold(raw []byte) []byte {
	const limit = 75
	var out bytes.Buffer
	for line := range bytes.SplitSeq(bytes.TrimSuffix(raw, []byte("\r\n")), []byte("\r\n")) {
		room := limit
		for len(line) > room {
			cut := room
			for !utf8.RuneStart(line[cut]) {
				cut--
			}
			out.Write(line[:cut])
			out.WriteString("\r\n ")
			line, room = line[cut:], limit-1
		}
		out.Write(line)
		out.WriteString("\r\n")
	}
	return out.Bytes()
}
