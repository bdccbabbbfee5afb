package ical

import (
	"bytes"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/schedule/meetings"
)

// Answer is what a REPLY says (RFC 5546, 3.2.3).
type Answer = meetings.MailReply

var (
	// ErrNotReply: an iCalendar object, but not an answer to an invitation.
	ErrNotReply = errors.New("not a reply to an invitation")
	// ErrMalformed is wrapped by every error about text that is no iCalendar.
	ErrMalformed = errors.New("malformed calendar data")
)

// ReadReply reads a REPLY. It fails with ErrNotReply or ErrMalformed, and never
// panics, whatever it is given.
func ReadReply(raw []byte) (a Answer, err error) {
	defer func() {
		if r := recover(); r != nil { // the decoder indexes past the end of some broken lines
			a, err = Answer{}, fmt.Errorf("%w: %v", ErrMalformed, r)
		}
	}()
	cal, err := ical.NewDecoder(bytes.NewReader(raw)).Decode()
	if err != nil {
		return a, fmt.Errorf("%w: %w", ErrMalformed, err)
	}
	if !strings.EqualFold(value(cal.Props, ical.PropMethod), "REPLY") {
		return a, ErrNotReply
	}
	for _, c := range cal.Children {
		if c.Name == ical.CompEvent {
			return readEvent(c)
		}
	}
	return a, ErrNotReply
}

func readEvent(e *ical.Component) (a Answer, err error) {
	attendees := e.Props.Values(ical.PropAttendee)
	if len(attendees) != 1 { // exactly one in a REPLY
		return a, fmt.Errorf("%w: %d attendees", ErrNotReply, len(attendees))
	}
	a.UID = unescape(value(e.Props, ical.PropUID))
	a.Attendee = address(attendees[0].Value)
	a.Reply.Answer = meeting.Answer(strings.ToUpper(attendees[0].Params.Get(ical.ParamParticipationStatus)))
	a.Comment = unescape(value(e.Props, ical.PropComment))
	if a.UID == "" || a.Attendee == "" || !a.Reply.Answer.Known() {
		return a, fmt.Errorf("%w: no UID, attendee or answer", ErrNotReply)
	}
	if s := value(e.Props, ical.PropSequence); s != "" { // 0 when it is left out
		if a.Sequence, err = strconv.Atoi(strings.TrimSpace(s)); err != nil || a.Sequence < 0 {
			return a, fmt.Errorf("%w: SEQUENCE %q", ErrMalformed, s)
		}
	}
	stamp, err := time.Parse("20060102T150405Z", strings.TrimSpace(value(e.Props, ical.PropDateTimeStamp)))
	if err != nil {
		return a, fmt.Errorf("%w: DTSTAMP: %w", ErrMalformed, err)
	}
	a.Stamp = stamp.Unix()
	a.Date, err = dateID(e.Props.Get(ical.PropRecurrenceID))
	return a, err
}

// dateID reads which date of a series is answered; nil for all.
func dateID(p *ical.Prop) (*meetings.DateID, error) {
	if p == nil {
		return nil, nil
	}
	m, _, utc, err := recur.ParseMoment(strings.ToUpper(strings.TrimSpace(p.Value)))
	if err != nil {
		return nil, fmt.Errorf("%w: RECURRENCE-ID: %w", ErrMalformed, err)
	}
	id := &meetings.DateID{Local: when.Local{Day: m.Day, Clock: when.Clock(m.Second / 60)}, Zone: p.Params.Get(ical.ParamTimezoneID)}
	if utc {
		id.Zone = "UTC"
	}
	return id, nil
}

func value(props ical.Props, name string) string {
	if p := props.Get(name); p != nil {
		return p.Value
	}
	return ""
}

// address is a calendar address without its scheme.
func address(s string) string {
	s = strings.TrimSpace(s)
	if len(s) >= 7 && strings.EqualFold(s[:7], "mailto:") {
		return s[7:]
	}
	return s
}

// unescape undoes the escapes of TEXT (RFC 5545, 3.3.11). What is escaped
// wrongly stays as it is: an answer is not refused for it.
func unescape(s string) string {
	return strings.NewReplacer(`\\`, `\`, `\;`, ";", `\,`, ",", `\n`, "\n", `\N`, "\n").Replace(s)
}
