// Package typed reads days, times and lengths as people type them: "next tue",
// "3/12", "9h30", "2pm", "for 1 h 30". It knows the forms; the words of a language
// come with a Vocabulary. How a day without a year, a weekday or a number is taken is
// common practice and said where it is done; whoever asks shows how it was read.
package typed

import (
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Limit is how many bytes of text are read.
const Limit = 100

// Vocabulary are the words of a language, in lower case. Months and weekdays may be
// cut short to three letters (weekdays to two); the others are taken as they are.
type Vocabulary struct {
	Months                               [12]string
	Weekdays                             [7]string // by time.Weekday
	Today, Tomorrow, AfterTomorrow       []string
	Yesterday                            []string
	This, Next, In, For, At, Of, To, And []string
	Days, Weeks, MonthsOf, Years         []string // as they are counted
	Hours, Minutes                       []string
	Noon, Midnight, Morning, Afternoon   []string // Morning and Afternoon follow a clock: am, pm
	HalfPast, QuarterPast, QuarterTo     []string
	Half, Clock, Ordinal                 []string // "half", "o'clock", what follows a number: st, nd
	Numbers                              map[string]int
}

// Order is which part of a day written in numbers comes first.
type Order string

const (
	DayFirst   Order = "dmy"
	MonthFirst Order = "mdy"
	YearFirst  Order = "ymd"
)

// Reader reads what is typed by somebody: Today is their day, Order how their region
// writes days in numbers.
type Reader struct {
	Words Vocabulary
	Today when.Day
	Order Order
}

// Kind is what is the matter with something typed.
type Kind string

const (
	NotADay     Kind = "notADay"
	NotATime    Kind = "notATime"
	NoSuchDay   Kind = "noSuchDay"  // 31 February
	NoSuchTime  Kind = "noSuchTime" // 25:00
	OtherDay    Kind = "otherDay"   // the weekday is not that of the day
	NotALength  Kind = "notALength"
	OutOfBounds Kind = "outOfBounds" // a year that no meeting lies in
)

// Error says what is the matter; Day and Weekday are set with OtherDay.
type Error struct {
	Kind    Kind
	Day     when.Day
	Weekday time.Weekday
}

func (e *Error) Error() string { return string(e.Kind) }

// mostQuoted is how much of what was typed is said again, in characters.
const mostQuoted = 40

// What is why a text was not read, and how it could be typed.
func (e *Error) What(text string) say.What {
	if r := []rune(text); len(r) > mostQuoted {
		text = string(r[:mostQuoted]) + "…"
	}
	switch e.Kind {
	case OtherDay:
		return say.It("typed.otherDay", say.ShortDay(e.Day), e.Day.Weekday(), e.Weekday)
	case OutOfBounds:
		return say.It("typed.outOfBounds", when.FirstYear, when.LastYear)
	case NoSuchDay, NoSuchTime, NotALength, NotATime:
		return say.It(say.Code("typed."+e.Kind), text)
	}
	return say.It("typed.notADay", text)
}

// When is what a text says: a day, times, or some of both.
type When struct {
	Day        when.Day
	Start, End when.Clock // 1440 is the midnight that ends the day
	Length     time.Duration
	HasDay     bool
	HasStart   bool
	HasEnd     bool
	HasLength  bool
	// Shift is how far what is there now moves: "+45" where a time starts.
	Shift time.Duration
}

// token is a number or a word or a sign, in lower case.
type token struct {
	text   string
	number bool
	spaced bool // white space stands before it
}

// tokens takes a text apart. Letters of compatible forms are one letter (Unicode
// Standard Annex 15, NFKC): full-width digits and ½ are what they mean.
func tokens(text string) []token {
	if len(text) > Limit {
		return nil
	}
	var out []token
	spaced := false
	for _, r := range strings.ToLower(norm.NFKC.String(text)) {
		kind := kindOf(r)
		switch {
		case kind == 0:
			spaced = true
			continue
		case kind != signKind && len(out) > 0 && !spaced && kindOf([]rune(out[len(out)-1].text)[0]) == kind:
			out[len(out)-1].text += string(r)
			continue
		}
		if kind == signKind {
			r = plainSign(r)
		}
		out = append(out, token{text: string(r), number: kind == numberKind, spaced: spaced})
		spaced = false
	}
	return out
}

const (
	numberKind = iota + 1
	letterKind
	signKind
)

func kindOf(r rune) int {
	switch {
	case unicode.IsSpace(r):
		return 0
	case r >= '0' && r <= '9':
		return numberKind
	case unicode.IsLetter(r) || unicode.IsMark(r):
		return letterKind
	}
	return signKind
}

// plainSign is the sign of a typewriter for one that a text program puts there.
func plainSign(r rune) rune {
	switch r {
	case '–', '—', '−', '‐', '‑':
		return '-'
	case '’', '‘', '′', '´', '`':
		return '\''
	case '⁄', '∕':
		return '/'
	}
	return r
}

// Read reads a text that may say a day and times together: "next tue 9h30 for 2 h",
// "14:00-15:30 fri". own reads what the field is for and goes first.
func (r Reader) Read(text string, own func([]token) (When, *Error)) (When, *Error) {
	all := tokens(text)
	w, err := own(all)
	if err == nil || err.Kind == NoSuchDay || err.Kind == OtherDay {
		return w, err
	}
	for _, dayFirst := range []bool{true, false} {
		for cut := len(all) - 1; cut > 0; cut-- {
			day, times := all[:cut], all[cut:]
			if isSign(times[0], ",") && cut < len(all)-1 {
				times = times[1:]
			} else if !times[0].spaced {
				continue
			}
			if !dayFirst {
				day, times = times, day
			}
			if at, noDay := r.day(day); noDay == nil {
				if w, noTimes := r.times(times); noTimes == nil {
					w.Day, w.HasDay = at, true
					return w, nil
				}
			}
		}
	}
	return When{}, err
}

func isSign(t token, signs string) bool { return !t.number && strings.Contains(signs, t.text) }

// Day reads what is typed where a day is asked for.
func (r Reader) Day(text string) (When, *Error) {
	return r.Read(text, func(all []token) (When, *Error) {
		day, err := r.day(all)
		return When{Day: day, HasDay: err == nil}, err
	})
}

// Start reads what is typed where a meeting starts: a time, a shift like +45, or a
// whole phrase.
func (r Reader) Start(text string) (When, *Error) {
	return r.Read(text, func(all []token) (When, *Error) {
		if by, ok := r.shift(all); ok {
			return When{Shift: by}, nil
		}
		return r.times(all)
	})
}

// Moment reads what is typed where something is to happen once: a time, a shift from now like +45,
// "45 min" or "in 2 h", or a whole phrase.
func (r Reader) Moment(text string) (When, *Error) {
	return r.Read(text, func(all []token) (When, *Error) {
		if by, ok := r.shift(all); ok {
			return When{Shift: by}, nil
		}
		w, err := r.times(all)
		if err == nil {
			return w, nil
		}
		if len(all) > 1 && slices.Contains(r.Words.In, all[0].text) {
			all = all[1:]
		}
		if by, ok := r.length(all); ok {
			return When{Shift: by}, nil
		}
		return w, err
	})
}

// End reads what is typed where a meeting that starts at start ends: a time, or how
// long it takes. "10h30" is the clock where that is later than start, and a length
// where it is not.
func (r Reader) End(text string, start when.Clock) (When, *Error) {
	return r.Read(text, func(all []token) (When, *Error) {
		clock, err := r.clock(all)
		length, isLength := r.length(all)
		if isLength && (err != nil || !isClockWithH(all) || clock <= start) {
			return When{Length: length, HasLength: true}, nil
		}
		if by, ok := r.shift(all); ok && by > 0 {
			return When{Length: by, HasLength: true}, nil
		}
		if err != nil {
			return When{}, err
		}
		return When{End: ending(clock), HasEnd: true}, nil
	})
}

// Length reads how long something takes: "45 min", "1h30", "1:30", "2 days". A number
// alone is minutes from ten on and hours below that; whoever asks shows which.
func (r Reader) Length(text string) (time.Duration, *Error) {
	w, err := r.Read(text, func(all []token) (When, *Error) {
		if len(all) == 1 && all[0].number {
			n, err := strconv.Atoi(all[0].text)
			unit := time.Minute
			if n < 10 {
				unit = time.Hour
			}
			if err != nil || n <= 0 || n > 10_000 {
				return When{}, &Error{Kind: NotALength}
			}
			return When{Length: time.Duration(n) * unit, HasLength: true}, nil
		}
		if length, ok := r.length(all); ok {
			return When{Length: length, HasLength: true}, nil
		}
		if clock, err := r.clock(all); err == nil && clock > 0 && strings.Contains(text, ":") {
			return When{Length: time.Duration(clock) * time.Minute, HasLength: true}, nil
		}
		return When{}, &Error{Kind: NotALength}
	})
	switch {
	case err != nil:
		return 0, &Error{Kind: NotALength}
	case w.HasDay || w.HasStart || w.HasEnd || !w.HasLength || w.Length <= 0:
		return 0, &Error{Kind: NotALength}
	}
	return w.Length, nil
}

// ending is a clock as the end of something: the midnight it ends at is the one after it.
func ending(c when.Clock) when.Clock {
	if c == 0 {
		return 24 * 60
	}
	return c
}

// isClockWithH tells whether a text is of the form 9h30, as times are written, without
// the blank of "1 h 30".
func isClockWithH(all []token) bool {
	return len(all) >= 2 && all[0].number && all[1].text == "h" && !all[1].spaced
}
