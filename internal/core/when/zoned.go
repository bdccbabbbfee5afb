package when

import (
	"errors"
	"fmt"
	"regexp"
	"sync"
	"time"
	_ "time/tzdata" // the same zone rules on every machine
)

// ErrZone is wrapped by every error about a zone name that is not in the IANA
// time zone database.
var ErrZone = errors.New("unknown time zone")

// Day is a calendar day, counted from 1970-01-01, in no zone.
type Day int32

// DayOf is the day of a year, month and day of month; overflowing values are
// carried as time.Date does.
func DayOf(year int, month time.Month, day int) Day {
	return Day(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// The years that a day of a meeting can lie in: what is further away is a slip, and
// would be walked to day by day.
const FirstYear, LastYear = 1900, 2199

// ErrYears is a day outside of them.
var ErrYears = fmt.Errorf("a day outside the years %d to %d", FirstYear, LastYear)

// ParseDay reads "2026-11-24" (RFC 3339, full-date).
func ParseDay(s string) (Day, error) {
	t, err := time.Parse(time.DateOnly, s)
	if err != nil {
		return 0, fmt.Errorf("%q is not a date like 2026-11-24", s)
	}
	if y := t.Year(); y < FirstYear || y > LastYear {
		return 0, fmt.Errorf("%q: %w", s, ErrYears)
	}
	return Day(t.Unix() / 86400), nil
}

func (d Day) midnight() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

// Date is the year, month and day of month.
func (d Day) Date() (int, time.Month, int) { return d.midnight().Date() }

// Weekday is the day of the week.
func (d Day) Weekday() time.Weekday { return d.midnight().Weekday() }

// Week is the ISO 8601 year and week.
func (d Day) Week() (year, week int) { return d.midnight().ISOWeek() }

// String is the day as RFC 3339 writes it.
func (d Day) String() string { return d.midnight().Format(time.DateOnly) }

// MarshalText writes a day as String does.
func (d Day) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (d *Day) UnmarshalText(b []byte) (err error) {
	*d, err = ParseDay(string(b))
	return err
}

// Clock is a time of day in minutes since midnight, 0 to 1439; 1440 is the
// midnight that ends the day.
type Clock int16

// ClockOf is h:m.
func ClockOf(h, m int) Clock { return Clock(h*60 + m) }

// ParseClock reads "9:30" or "09:30".
func ParseClock(s string) (Clock, error) {
	t, err := time.Parse("15:04", s)
	if err != nil {
		return 0, fmt.Errorf("%q is not a time like 9:30", s)
	}
	return ClockOf(t.Hour(), t.Minute()), nil
}

// String is the clock as people here write it: 9:30.
func (c Clock) String() string { return fmt.Sprintf("%d:%02d", c/60, c%60) }

// Local is a wall-clock time in no zone.
type Local struct {
	Day   Day
	Clock Clock
}

const localLayout = "2006-01-02T15:04"

// ParseLocal reads "2026-11-24T09:30".
func ParseLocal(s string) (Local, error) {
	t, err := time.Parse(localLayout, s)
	if err != nil {
		return Local{}, fmt.Errorf("%q is not a date and time like 2026-11-24T09:30", s)
	}
	if y := t.Year(); y < FirstYear || y > LastYear {
		return Local{}, fmt.Errorf("%q: %w", s, ErrYears)
	}
	return localOf(t), nil
}

func localOf(t time.Time) Local {
	y, m, d := t.Date()
	return Local{DayOf(y, m, d), ClockOf(t.Hour(), t.Minute())}
}

// String is the local time as ParseLocal reads it.
func (l Local) String() string { return l.utc().Time().Format(localLayout) }

// MarshalText writes a local time as String does.
func (l Local) MarshalText() ([]byte, error) { return []byte(l.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (l *Local) UnmarshalText(b []byte) (err error) {
	*l, err = ParseLocal(string(b))
	return err
}

// Add moves the wall clock by d, in whole minutes.
func (l Local) Add(d time.Duration) Local { return localOf(l.utc().Add(d).Time()) }

// Sub is how far the wall clock runs from o to l.
func (l Local) Sub(o Local) time.Duration { return l.utc().Time().Sub(o.utc().Time()) }

// utc reads the wall clock as if it hung in Greenwich.
func (l Local) utc() Instant { return Instant(int64(l.Day)*86400 + int64(l.Clock)*60) }

// Zone is a time zone by its IANA name. The zero Zone is UTC.
type Zone struct{ name string }

// LoadZone finds a zone by its IANA name; it fails with ErrZone.
func LoadZone(name string) (Zone, error) {
	if !ianaName.MatchString(name) || notZones[name] {
		return Zone{}, fmt.Errorf("%w %q", ErrZone, name)
	}
	if _, known := locations.Load(name); known {
		return Zone{name}, nil
	}
	l, err := time.LoadLocation(name)
	if err != nil {
		return Zone{}, fmt.Errorf("%w %q", ErrZone, name)
	}
	locations.Store(name, l)
	return Zone{name}, nil
}

// ianaName is how the IANA database names zones: no relative paths, and none of the
// copies that systems keep below posix and right. notZones are files beside them.
var (
	ianaName = regexp.MustCompile(`^[A-Z][A-Za-z0-9_+-]*(/[A-Z][A-Za-z0-9_+-]*){0,2}$`)
	notZones = map[string]bool{"Local": true, "Factory": true}
)

// locations keeps what was read of the time zone database, by IANA name:
// time.LoadLocation reads and parses the rules at every call.
var locations sync.Map

// String is the IANA name.
func (z Zone) String() string {
	if z.name == "" {
		return "UTC"
	}
	return z.name
}

// Location is the zone for package time.
func (z Zone) Location() *time.Location {
	if l, known := locations.Load(z.name); known {
		return l.(*time.Location)
	}
	return time.UTC
}

// LocalAt is what a clock in z shows at i; seconds are cut off.
func (z Zone) LocalAt(i Instant) Local { return localOf(i.Time().In(z.Location())) }

// OffsetAt is the offset from UTC in seconds, east positive.
func (z Zone) OffsetAt(i Instant) int {
	_, offset := i.Time().In(z.Location()).Zone()
	return offset
}

// NextChange is the first instant after i at which clocks in z are changed; ok is
// false when they never are again. The standard library's bounds of a zone are
// not enough: past the listed changes they end with every year, and on 31
// December of a leap year before the moment asked for.
func (z Zone) NextChange(i Instant) (at Instant, ok bool) {
	loc := z.Location()
	for at = i; at < i+200*366*86400; {
		_, end := at.Time().In(loc).ZoneBounds()
		switch next := At(end); {
		case end.IsZero():
			return 0, false
		case next <= at:
			at += 86400
		default:
			at = next
		}
		if z.OffsetAt(at) != z.OffsetAt(at-1) {
			return at, true
		}
	}
	return 0, false
}

// ClockChange is a change of clocks: the instant, and what they show at it by the
// offset before and by the one after.
type ClockChange struct {
	At       Instant
	From, To Local
}

// ChangeAfter is the first change of clocks in z after i; ok is false when there is none.
func (z Zone) ChangeAfter(i Instant) (c ClockChange, ok bool) {
	at, ok := z.NextChange(i)
	if !ok {
		return c, false
	}
	return ClockChange{At: at, From: localOf((at + Instant(z.OffsetAt(at-1))).Time()), To: z.LocalAt(at)}, true
}

// Resolve is the instant at which a clock in z shows l. A local time that
// exists twice is the first one; one that does not exist is taken with the
// offset before the gap, and exists is false then (RFC 5545, 3.3.5).
func (z Zone) Resolve(l Local) (i Instant, exists bool) {
	loc, wall := z.Location(), l.utc()
	// Any reading of the wall clock lies within a day of it; the offsets in
	// force around that moment are the only candidates.
	near := wall.Time().In(loc)
	offsets := []int{z.OffsetAt(wall)}
	from, until := near.ZoneBounds()
	if !from.IsZero() && wall.Time().Sub(from) < 26*time.Hour {
		offsets = append(offsets, z.OffsetAt(At(from)-1))
	}
	if !until.IsZero() && until.Sub(wall.Time()) < 26*time.Hour {
		offsets = append(offsets, z.OffsetAt(At(until)))
	}
	for _, offset := range offsets {
		if t := wall - Instant(offset); z.OffsetAt(t) == offset && (!exists || t < i) {
			i, exists = t, true
		}
	}
	if exists {
		return i, true
	}
	// In the gap: the offset before it is the smaller one, so that the instant
	// read with it is the later of the two readings.
	i = wall - Instant(offsets[0])
	for _, offset := range offsets[1:] {
		i = max(i, wall-Instant(offset))
	}
	return i, false
}

// Once tells whether a clock in z shows l exactly once: only then everybody reads
// it alike.
func (z Zone) Once(l Local) bool {
	i, exists := z.Resolve(l)
	if !exists {
		return false
	}
	at, changes := z.NextChange(i - 1)
	for changes && at <= i+26*3600 { // back to before the change, and l comes again
		if z.LocalAt(i+Instant(z.OffsetAt(at-1)-z.OffsetAt(at))) == l && z.OffsetAt(at) < z.OffsetAt(at-1) {
			return false
		}
		at, changes = z.NextChange(at)
	}
	return true
}

// Clear tells whether two times in z leave no doubt about their instants, and how
// far the clock runs between them is how long it takes.
func (z Zone) Clear(start, end Local) bool {
	return z.Once(start) && z.Once(end) &&
		z.OffsetAt(Zoned{start, z}.Instant()) == z.OffsetAt(Zoned{end, z}.Instant())
}

// Zoned is a wall-clock time in a zone: the truth from which instants follow.
type Zoned struct {
	Local Local
	Zone  Zone
}

// Instant is the moment of z, resolved as Zone.Resolve does.
func (z Zoned) Instant() Instant {
	i, _ := z.Zone.Resolve(z.Local)
	return i
}

// DaySpan is a whole day in a zone: 23 to 25 hours where the clocks change.
func DaySpan(d Day, z Zone) Span { return DaysSpan(d, d, z) }

// DaysSpan are whole days in a zone, from the first to the last.
func DaysSpan(first, last Day, z Zone) Span {
	start, _ := z.Resolve(Local{Day: first})
	end, _ := z.Resolve(Local{Day: last + 1})
	return Span{start, end}
}
