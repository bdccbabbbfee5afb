// Package recur expands recurrence rules: all of RFC 5545's RRULE (3.3.10) with
// RDATE and EXDATE, on whole days and seconds of the wall clock. A rule is a
// value; expanding begins at any date without walking there, unless the rule
// counts.
package recur

import (
	"time"

	"jembro/internal/core/when"
)

// Frequency is how often the periods of a rule come.
type Frequency uint8

const (
	Secondly Frequency = iota + 1
	Minutely
	Hourly
	Daily
	Weekly
	Monthly
	Yearly
)

// Moment is a wall-clock time with seconds, in no zone. For a series of whole
// days Second is 0.
type Moment struct {
	Day    when.Day
	Second int32 // since midnight
}

// Compare orders moments as a clock shows them.
func (m Moment) Compare(o Moment) int {
	if m.Day != o.Day {
		return int(m.Day - o.Day)
	}
	return int(m.Second - o.Second)
}

// Date writes the day as RFC 5545, 3.3.4 does: 20260105.
func (m Moment) Date() string {
	y, mo, d := civil(m.Day)
	return string(digitsOf(digitsOf(digitsOf(make([]byte, 0, 8), y, 4), mo, 2), d, 2))
}

// digitsOf writes a number with leading zeros.
func digitsOf(out []byte, n, width int) []byte {
	for i := width - 1; i >= 0; i-- {
		div := 1
		for range i {
			div *= 10
		}
		out = append(out, byte('0'+n/div%10))
	}
	return out
}

// String writes the moment as RFC 5545, 3.3.5, form 1 does: 20260105T093000.
func (m Moment) String() string {
	clock := digitsOf(digitsOf(digitsOf(append(make([]byte, 0, 7), 'T'), int(m.Second)/3600, 2), int(m.Second)/60%60, 2), int(m.Second)%60, 2)
	return m.Date() + string(clock)
}

// Kind is the value type of a time: it decides what UNTIL has to be.
type Kind uint8

const (
	Floating Kind = iota // local time in no zone
	Zoned                // local time in a zone, UTC included
	AllDay               // a date
)

// Until is the end of a rule, inclusive. The zero Until is no end.
type Until struct {
	Set    bool
	UTC    bool // Moment is in UTC
	AllDay bool // Moment is a date
	Moment Moment
}

// Rule is a recurrence rule. Rules are equal with == when they say the same. The
// zero Rule recurs never.
type Rule struct {
	Freq      Frequency
	Interval  int
	Count     int // 0: no number of times
	Until     Until
	Seconds   uint64 // bit n: second n
	Minutes   uint64
	Hours     uint32
	Months    uint16 // bit 1: January
	MonthDays Ordinals
	YearDays  Ordinals
	WeekNos   Ordinals
	SetPos    Ordinals
	Days      Weekdays
	WeekStart time.Weekday
}

// Ordinals is a set of the numbers 1 to 383 and −1 to −383.
type Ordinals struct{ above, below [6]uint64 }

// Has tells whether n is in the set.
func (s Ordinals) Has(n int) bool {
	if n < 0 {
		return s.below[-n>>6]&(1<<(-n&63)) != 0
	}
	return s.above[n>>6]&(1<<(n&63)) != 0
}

// Empty tells whether the set has no number.
func (s Ordinals) Empty() bool { return s == Ordinals{} }

func (s *Ordinals) add(n int) {
	if n < 0 {
		s.below[-n>>6] |= 1 << (-n & 63)
		return
	}
	s.above[n>>6] |= 1 << (n & 63)
}

const maxOrdinal = 53

// Weekdays is a set of weekdays, each with or without an ordinal: the first
// Monday, the last Friday, every Tuesday. The index is the ordinal plus 53, the
// bit the time.Weekday; the ordinal 0 is every one.
type Weekdays [2*maxOrdinal + 1]uint8

// Empty tells whether the set has no weekday.
func (w Weekdays) Empty() bool { return w == Weekdays{} }

func (w *Weekdays) add(ordinal int, day time.Weekday) { w[ordinal+maxOrdinal] |= 1 << day }

// every tells whether all such weekdays are in the set.
func (w *Weekdays) every(day time.Weekday) bool { return w[maxOrdinal]&(1<<day) != 0 }

// ordinals tells whether any weekday has an ordinal.
func (w Weekdays) ordinals() bool {
	w[maxOrdinal] = 0
	return !w.Empty()
}

// match tells whether a day, the nth such weekday of its month or year and the
// nth from the end, is in the set.
func (w *Weekdays) match(day time.Weekday, nth, fromEnd int) bool {
	bit := uint8(1) << day
	return (w[maxOrdinal]|w[maxOrdinal+nth]|w[maxOrdinal-fromEnd])&bit != 0
}
