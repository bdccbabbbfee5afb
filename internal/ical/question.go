package ical

import (
	"encoding/base64"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"jembro/internal/core/when"
)

// Question asks when a calendar takes time, as "jembro busy --batch" reads it, a JSON
// object a line.
type Question struct {
	ICS  string `json:"ics"`  // the calendar, or
	B64  string `json:"b64"`  // the same in base64 (RFC 4648, 4), for one that is not UTF-8
	From string `json:"from"` // 2026-01-05T00:00:00Z, or 20260105T000000Z
	To   string `json:"to"`
	Zone string `json:"zone"` // where floating times and whole days are meant
}

// BusyAnswer is when time is taken: ascending, no instant twice, each "start, end, kind" in
// the form of From.
type BusyAnswer struct {
	Busy [][3]string `json:"busy"`
	// Unread is what was left out because it is not to the standard, by why.
	Unread []string `json:"unread,omitempty"`
}

// longestQuestion is how long a time can be that is asked about.
const longestQuestion = 100 * 366 * 24 * time.Hour

const basicForm = "20060102T150405Z"

// Ask answers a question. Its cost is bounded whatever the calendar says: calendar.MostBytes,
// calendar.Steps and calendar.MostTimes.
func (q Question) Ask() (a BusyAnswer, err error) {
	from, form, err := momentOf("from", q.From)
	if err != nil {
		return a, err
	}
	to, _, err := momentOf("to", q.To)
	if err != nil {
		return a, err
	}
	window := when.Span{Start: when.At(from), End: when.At(to)}
	switch {
	case window.Empty():
		return a, errors.New("to has to be after from")
	case to.Sub(from) > longestQuestion:
		return a, errors.New("ask about a hundred years at the most")
	}
	zone := when.Zone{}
	if q.Zone != "" {
		if zone, err = when.LoadZone(q.Zone); err != nil {
			return a, fmt.Errorf("zone: %w", err)
		}
	}
	raw := []byte(q.ICS)
	switch {
	case q.ICS != "" && q.B64 != "":
		return a, errors.New("give the calendar as ics or as b64, not as both")
	case q.B64 != "":
		if raw, err = base64.StdEncoding.DecodeString(q.B64); err != nil {
			return a, fmt.Errorf("b64: %w", err)
		}
	}
	c, err := ReadCalendar(raw, window)
	if err != nil {
		return a, err
	}
	busy, err := c.Busy(window, zone)
	if err != nil {
		return a, err
	}
	a.Busy = make([][3]string, len(busy))
	for i, t := range busy {
		a.Busy[i] = [3]string{t.Span.Start.Time().Format(form), t.Span.End.Time().Format(form), string(t.Kind)}
	}
	for _, why := range slices.Sorted(maps.Keys(c.Unread)) {
		a.Unread = append(a.Unread, fmt.Sprintf("%d × %s", c.Unread[why], why))
	}
	return a, nil
}

// momentOf reads an instant, and in which form it is written.
func momentOf(name, text string) (time.Time, string, error) {
	if t, err := time.Parse(basicForm, text); err == nil {
		return t, basicForm, nil
	}
	t, err := time.Parse(time.RFC3339, text)
	if err != nil || t.Year() < 1 || t.Year() > 9999 {
		return t, "", fmt.Errorf("%s: %q is not a moment like 2026-01-05T00:00:00Z", name, text)
	}
	return t.UTC(), "2006-01-02T15:04:05Z", nil
}
