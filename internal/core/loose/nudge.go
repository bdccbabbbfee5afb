package loose

import (
	"time"

	"jembro/internal/core/when"
)

// Who says nothing is asked again by itself so long before the start, not any more shortly before
// it, and nobody who had a message so lately.
const (
	NudgeBefore = 26 * time.Hour
	NudgeUntil  = 2 * time.Hour
	NudgeRest   = 20 * time.Hour
)

// nudgeNear is how near a meeting has to be for somebody to be asked at night.
const nudgeNear = 5 * time.Hour

// The night, by the clock of who is asked.
const nightFrom, nightUntil = when.Clock(21 * 60), when.Clock(8 * 60)

// NudgeNow tells whether somebody in a zone can be asked again now about a meeting that starts
// then: never at night, unless it is near.
func NudgeNow(start, now when.Instant, zone when.Zone) bool {
	left := start.Time().Sub(now.Time())
	if left > NudgeBefore || left < NudgeUntil {
		return false
	}
	return left <= nudgeNear || byDay(zone.LocalAt(now).Clock)
}

// byDay tells whether a clock shows no time of the night.
func byDay(c when.Clock) bool { return c >= nightUntil && c < nightFrom }

// RemindLate is how late a reminder by mail may be: a program that stood still for longer says
// nothing any more.
const RemindLate = 6 * time.Hour

// RemindDue tells whether it is time to remind of a date by mail, so many minutes before its
// start: the moment has come, and what it reminds of was settled before. Of what was settled or
// changed after it those invited have just heard.
func RemindDue(start when.Instant, before int, settled, now when.Instant) bool {
	moment := start.Add(-time.Duration(before) * time.Minute)
	return start > now && moment <= now && moment > now.Add(-RemindLate) && settled <= moment
}

// RemindIn is how long a reminder by mail waits: for the morning of its reader, where that comes
// before the meeting and the meeting is not near.
func RemindIn(start, now when.Instant, zone when.Zone) time.Duration {
	at := zone.LocalAt(now)
	if start.Time().Sub(now.Time()) <= nudgeNear || byDay(at.Clock) {
		return 0
	}
	if at.Clock >= nightFrom {
		at.Day++
	}
	morning := when.Zoned{Local: when.Local{Day: at.Day, Clock: nightUntil}, Zone: zone}.Instant()
	if morning >= start {
		return 0
	}
	return morning.Time().Sub(now.Time())
}
