package ical

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"jembro/internal/core/when"
)

// zoneYears is how many years of changes of the clocks are looked at to find their
// rules: in 28 years a day of the week has been on every day of the month.
const zoneYears = 34

// observance is one set of offsets and name of a zone with its onsets, as 3.6.5
// has it.
type observance struct {
	name         string
	before, from int // offsets in seconds
	daylight     bool
}

// timezone writes a zone's rules from the start of span on as a VTIMEZONE (RFC 5545,
// 3.6.5): changes of the clocks that come by a yearly rule as that rule, without an
// end, and the irregular ones one by one, up to the end of span at least.
func timezone(zone when.Zone, span when.Span) *ical.Component {
	comp := ical.NewComponent(ical.CompTimezone)
	comp.Props.SetText(ical.PropTimezoneID, zone.String())
	loc := zone.Location()
	first := time.Date(span.Start.Time().Year()-1, 1, 1, 0, 0, 0, 0, time.UTC)
	needed := time.Date(span.End.Time().Year()+2, 1, 1, 0, 0, 0, 0, time.UTC)
	last := time.Date(max(needed.Year(), first.Year()+zoneYears), 1, 1, 0, 0, 0, 0, time.UTC)

	var order []observance
	onsets := map[observance][]time.Time{} // as clocks show them that were not changed yet
	add := func(onset time.Time, before int) {
		name, offset := onset.In(loc).Zone()
		o := observance{name, before, offset, onset.In(loc).IsDST()}
		if onsets[o] == nil {
			order = append(order, o)
		}
		onsets[o] = append(onsets[o], onset.UTC().Add(time.Duration(before)*time.Second))
	}
	// The observance in force at the beginning, from its real onset if it has one.
	if onset, _ := first.In(loc).ZoneBounds(); onset.IsZero() {
		onset = time.Date(1970, 1, 1, 0, 0, 0, 0, time.UTC)
		_, offset := onset.In(loc).Zone()
		add(onset, offset)
	} else {
		add(onset, zone.OffsetAt(when.At(onset)-1))
	}
	for at, ok := zone.NextChange(when.At(first)); ok && at < when.At(last); at, ok = zone.NextChange(at) {
		add(at.Time(), zone.OffsetAt(at-1))
	}
	for _, o := range order {
		single, ruled, rule := regular(onsets[o], last.Year()-1)
		if len(ruled) > 0 {
			c := o.component(ruled[0])
			c.Props.Set(plain(ical.PropRecurrenceRule, rule))
			comp.Children = append(comp.Children, c)
		}
		if len(single) == 0 {
			continue
		}
		c := o.component(single[0])
		var more []string
		for _, onset := range single[1:] {
			if onset.Before(needed) {
				more = append(more, onset.Format(localForm))
			}
		}
		for some := range slices.Chunk(more, mostValues) {
			c.Props.Add(plain(ical.PropRecurrenceDates, strings.Join(some, ",")))
		}
		comp.Children = append(comp.Children, c)
	}
	return comp
}

const localForm = "20060102T150405"

func (o observance) component(onset time.Time) *ical.Component {
	kind := ical.CompTimezoneStandard
	if o.daylight {
		kind = ical.CompTimezoneDaylight
	}
	c := ical.NewComponent(kind)
	c.Props.Set(plain(ical.PropDateTimeStart, onset.Format(localForm)))
	c.Props.Set(plain(ical.PropTimezoneOffsetFrom, offsetText(o.before)))
	c.Props.Set(plain(ical.PropTimezoneOffsetTo, offsetText(o.from)))
	c.Props.SetText(ical.PropTimezoneName, o.name)
	return c
}

// fewest is how many years in a row make a rule.
const fewest = 5

// regular parts onsets into those that come by a yearly rule, the last of them in
// the year lastYear, and those before. It knows the nth and the last weekday of a
// month, a weekday in a week of days, and a day of a month, always at one time.
func regular(onsets []time.Time, lastYear int) (single, ruled []time.Time, rule string) {
	if len(onsets) < fewest || onsets[len(onsets)-1].Year() != lastYear {
		return onsets, nil, ""
	}
	last := onsets[len(onsets)-1]
	from := len(onsets) - 1
	for from > 0 {
		before := onsets[from-1]
		if before.Year() != onsets[from].Year()-1 || before.Month() != last.Month() || before.Format("1504") != last.Format("1504") {
			break
		}
		from--
	}
	for ; len(onsets)-from >= fewest; from++ {
		if parts := yearly(onsets[from:]); parts != "" {
			return onsets[:from], onsets[from:], fmt.Sprintf("FREQ=YEARLY;BYMONTH=%d;%s", last.Month(), parts)
		}
	}
	return onsets, nil, ""
}

// yearly are the parts of a rule for days of one month, "" for none.
func yearly(onsets []time.Time) string {
	sameWeekday, low, high := true, 32, 0
	for _, o := range onsets {
		sameWeekday = sameWeekday && o.Weekday() == onsets[0].Weekday()
		low, high = min(low, o.Day()), max(high, o.Day())
	}
	day := strings.ToUpper(onsets[0].Weekday().String()[:2])
	length := time.Date(onsets[0].Year(), onsets[0].Month()+1, 0, 0, 0, 0, 0, time.UTC).Day()
	switch {
	case low == high:
		return fmt.Sprintf("BYMONTHDAY=%d", low)
	case !sameWeekday || high-low > 6:
		return ""
	case low > length-7:
		return "BYDAY=-1" + day
	case (low-1)/7 == (high-1)/7:
		return fmt.Sprintf("BYDAY=%d%s", (low-1)/7+1, day)
	case high-low < 6:
		return "" // it could be several weeks
	}
	var days []string
	for d := low; d <= high; d++ {
		days = append(days, fmt.Sprint(d))
	}
	return "BYDAY=" + day + ";BYMONTHDAY=" + strings.Join(days, ",")
}

// offsetText is an offset as 3.3.14 writes it: +0100, -0330.
func offsetText(seconds int) string {
	sign := '+'
	if seconds < 0 {
		sign, seconds = '-', -seconds
	}
	text := fmt.Sprintf("%c%02d%02d", sign, seconds/3600, seconds/60%60)
	if s := seconds % 60; s != 0 {
		text += fmt.Sprintf("%02d", s)
	}
	return text
}
