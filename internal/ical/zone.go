package ical

import (
	"fmt"
	"time"

	"github.com/emersion/go-ical"

	"jembro/internal/core/when"
)

// timezone writes a zone's own rules for the years around span as a VTIMEZONE
// (RFC 5545, 3.6.5): one observance for each set of offsets and name, with every
// onset that falls into the window.
func timezone(zone when.Zone, span when.Span) *ical.Component {
	comp := ical.NewComponent(ical.CompTimezone)
	comp.Props.SetText(ical.PropTimezoneID, zone.String())
	loc := zone.Location()
	from := time.Date(span.Start.Time().Year()-1, 1, 1, 0, 0, 0, 0, time.UTC)
	until := time.Date(span.End.Time().Year()+2, 1, 1, 0, 0, 0, 0, time.UTC)

	type observance struct {
		name               string
		offsetFrom, offset int
		daylight           bool
	}
	byRule := map[observance]*ical.Component{}
	add := func(onset time.Time, before int) {
		name, offset := onset.In(loc).Zone()
		rule := observance{name, before, offset, onset.In(loc).IsDST()}
		// The onset as a clock shows it that was not changed yet (3.6.5).
		local := onset.In(time.FixedZone("", before)).Format("20060102T150405")
		if known, ok := byRule[rule]; ok {
			known.Props.Add(&ical.Prop{Name: ical.PropRecurrenceDates, Params: ical.Params{}, Value: local})
			return
		}
		kind := ical.CompTimezoneStandard
		if rule.daylight {
			kind = ical.CompTimezoneDaylight
		}
		o := ical.NewComponent(kind)
		o.Props.Set(&ical.Prop{Name: ical.PropDateTimeStart, Params: ical.Params{}, Value: local})
		o.Props.Set(&ical.Prop{Name: ical.PropTimezoneOffsetFrom, Params: ical.Params{}, Value: offsetText(before)})
		o.Props.Set(&ical.Prop{Name: ical.PropTimezoneOffsetTo, Params: ical.Params{}, Value: offsetText(offset)})
		o.Props.SetText(ical.PropTimezoneName, name)
		byRule[rule] = o
		comp.Children = append(comp.Children, o)
	}

	// The observance in force at the beginning, from its real onset if it has one.
	onset, _ := from.In(loc).ZoneBounds()
	if onset.IsZero() {
		onset = time.Date(1970, 1, 1, 0, 0, 0, 0, time.UTC)
		_, offset := onset.In(loc).Zone()
		add(onset, offset)
	} else {
		add(onset, zone.OffsetAt(when.At(onset)-1))
	}
	for at, ok := zone.NextChange(when.At(from)); ok && at < when.At(until); at, ok = zone.NextChange(at) {
		add(at.Time(), zone.OffsetAt(at-1))
	}
	return comp
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
