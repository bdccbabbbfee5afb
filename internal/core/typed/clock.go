package typed

import (
	"slices"
	"strconv"
	"time"

	"jembro/internal/core/when"
)

// times reads a time, two times, or a time and a length: "9", "9 to 10:30", "9h30 for
// 2 h".
func (r Reader) times(all []token) (When, *Error) {
	clock, err := r.clock(all)
	if err == nil {
		return When{Start: clock, HasStart: true}, nil
	}
	for cut := 1; cut < len(all)-1; cut++ {
		sign := all[cut]
		start, noStart := r.clock(all[:cut])
		if noStart != nil {
			continue
		}
		rest := all[cut+1:]
		if isSign(sign, "-") || slices.Contains(r.Words.To, sign.text) {
			end, noEnd := r.clock(rest)
			if noEnd != nil {
				continue
			}
			if later := start + 12*60; r.afterNoon(rest) && later < end && !r.said(all[:cut]) {
				start = later // "2-3pm": what is said of the end holds for the start
			}
			return When{Start: start, End: ending(end), HasStart: true, HasEnd: true}, nil
		}
		if isSign(sign, "+") || slices.Contains(r.Words.For, sign.text) {
			if isSign(sign, "+") {
				if by, ok := r.shift(all[cut:]); ok {
					return When{Start: start, HasStart: true, Length: by, HasLength: true}, nil
				}
			}
			if length, ok := r.length(rest); ok {
				return When{Start: start, HasStart: true, Length: length, HasLength: true}, nil
			}
		}
	}
	return When{}, err
}

// afterNoon tells whether a clock is said to be after noon, said whether it is said at all.
func (r Reader) afterNoon(all []token) bool {
	_, is := r.before(all, r.Words.Afternoon)
	return is
}

func (r Reader) said(all []token) bool {
	_, morning := r.before(all, r.Words.Morning)
	return morning || r.afterNoon(all)
}

// clock reads one time: "9", "930", "9:30", "9.30", "9h30", "9:30 am", "noon",
// "midnight", "24:00", "half past 9", "at 9".
func (r Reader) clock(all []token) (when.Clock, *Error) {
	if len(all) > 1 && slices.Contains(r.Words.At, all[0].text) {
		all = all[1:]
	}
	if len(all) == 0 {
		return 0, &Error{Kind: NotATime}
	}
	if len(all) == 1 {
		switch {
		case slices.Contains(r.Words.Noon, all[0].text):
			return 12 * 60, nil
		case slices.Contains(r.Words.Midnight, all[0].text):
			return 0, nil
		}
	}
	for _, past := range []struct {
		words   []string
		minutes when.Clock
	}{{r.Words.HalfPast, 30}, {r.Words.QuarterPast, 15}, {r.Words.QuarterTo, -15}} {
		if rest, ok := r.after(all, past.words); ok {
			hour, err := r.clock(rest)
			if err != nil || hour%60 != 0 || hour+past.minutes < 0 {
				return 0, &Error{Kind: NotATime}
			}
			return hour + past.minutes, nil
		}
	}
	var afternoon, morning bool
	if rest, ok := r.before(all, r.Words.Afternoon); ok {
		all, afternoon = rest, true
	} else if rest, ok := r.before(all, r.Words.Morning); ok {
		all, morning = rest, true
	} else if rest, ok := r.before(all, r.Words.Clock); ok {
		all = rest
	}
	h, m, ok := r.hourAndMinute(all)
	switch {
	case !ok:
		return 0, &Error{Kind: NotATime}
	case m > 59 || h > 24 || h == 24 && m > 0, (afternoon || morning) && (h == 0 || h > 12):
		return 0, &Error{Kind: NoSuchTime}
	case afternoon && h < 12:
		h += 12
	case morning && h == 12:
		h = 0
	}
	return when.ClockOf(h, m), nil
}

func (r Reader) hourAndMinute(all []token) (h, m int, ok bool) {
	if len(all) == 0 {
		return 0, 0, false
	}
	if n, isWord := r.Words.Numbers[all[0].text]; isWord && len(all) == 1 && n <= 12 {
		return n, 0, true
	}
	if !all[0].number {
		return 0, 0, false
	}
	first := all[0].text
	switch {
	case len(all) == 1 && len(first) <= 2:
		return number(first), 0, true
	case len(all) == 1 && (len(first) == 3 || len(first) == 4):
		return number(first[:len(first)-2]), number(first[len(first)-2:]), true
	case len(first) > 2:
		return 0, 0, false
	case len(all) == 2 && (all[1].text == "h" || isSign(all[1], ":.")):
		return number(first), 0, all[1].text == "h"
	case len(all) >= 3 && (isSign(all[1], ":.") || all[1].text == "h") && all[2].number && len(all[2].text) == 2:
		h, m = number(first), number(all[2].text)
		if len(all) == 3 || len(all) == 4 && all[3].text == "h" {
			return h, m, true
		}
		// a time copied with its seconds
		if len(all) == 5 && isSign(all[1], ":") && isSign(all[3], ":") && all[4].number && len(all[4].text) == 2 && number(all[4].text) == 0 {
			return h, m, true
		}
	}
	return 0, 0, false
}

func number(text string) int {
	n, err := strconv.Atoi(text)
	if err != nil {
		return 1 << 30
	}
	return n
}

// after takes the words off the beginning.
func (r Reader) after(all []token, phrases []string) ([]token, bool) {
	for _, phrase := range phrases {
		if p := tokens(phrase); len(all) > len(p) && sameTokens(all[:len(p)], p) {
			return all[len(p):], true
		}
	}
	return nil, false
}

// before takes the words off the end; full stops and blanks in them do not matter.
func (r Reader) before(all []token, phrases []string) ([]token, bool) {
	for _, phrase := range phrases {
		if p := tokens(phrase); len(all) > len(p) && sameTokens(all[len(all)-len(p):], p) {
			return all[:len(all)-len(p)], true
		}
	}
	return nil, false
}

func sameTokens(a, b []token) bool {
	return slices.EqualFunc(a, b, func(x, y token) bool { return x.text == y.text })
}

// shift reads "+45", "-15" and "+1 h".
func (r Reader) shift(all []token) (time.Duration, bool) {
	if len(all) < 2 || !isSign(all[0], "+-") {
		return 0, false
	}
	by, ok := r.length(all[1:])
	if !ok && len(all) == 2 && all[1].number && len(all[1].text) <= 4 {
		by, ok = time.Duration(number(all[1].text))*time.Minute, true
	}
	if isSign(all[0], "-") {
		by = -by
	}
	return by, ok && by != 0
}

// lengthLimit keeps what is typed within what can be counted.
const lengthLimit = 366 * 24 * time.Hour

// length reads "45 min", "1h30", "1 h 30", "1.5 h", "for 2 hours", "half an hour", "an
// hour and a half", "2 days".
func (r Reader) length(all []token) (time.Duration, bool) {
	if len(all) > 1 && slices.Contains(r.Words.For, all[0].text) {
		all = all[1:]
	}
	var total time.Duration
	var last time.Duration // the unit before: what follows hours without a unit is minutes
	for len(all) > 0 {
		if last != 0 && slices.Contains(r.Words.And, all[0].text) && len(all) > 1 {
			all = all[1:]
		}
		count, half, rest, ok := r.amount(all)
		if !ok {
			return 0, false
		}
		unit, rest, isUnit := r.unit(rest)
		switch {
		case isUnit:
		case last == time.Hour && !half && count < 60 && len(rest) == 0:
			unit = time.Minute
		case last != 0 && half && count == 0 && len(rest) == 0: // "an hour and a half"
			unit = last
		default:
			return 0, false
		}
		if count > int(lengthLimit/unit) || last != 0 && unit > last {
			return 0, false
		}
		total += time.Duration(count) * unit
		if half {
			total += unit / 2
		}
		all, last = rest, unit
	}
	return total, last != 0 && total > 0 && total <= lengthLimit
}

// amount reads a number before a unit, with its half: "2", "a", "1.5", "½", "half an".
func (r Reader) amount(all []token) (count int, half bool, rest []token, ok bool) {
	has := func(i int, words []string) bool { return i < len(all) && slices.Contains(words, all[i].text) }
	switch {
	case has(0, r.Words.Half): // "half an hour"
		if _, isWord := r.Words.Numbers[textAt(all, 1)]; isWord {
			return 0, true, all[2:], true
		}
		return 0, true, all[1:], true
	case len(all) >= 3 && all[0].number && isSign(all[1], "/") && all[0].text == "1" && all[2].text == "2": // ½
		return 0, true, all[3:], true
	case len(all) >= 3 && all[0].number && len(all[0].text) > 1 && isSign(all[1], "/") && all[2].text == "2" && all[0].text[len(all[0].text)-1] == '1': // 1½ is 11⁄2 in NFKC
		return number(all[0].text[:len(all[0].text)-1]), true, all[3:], true
	case len(all) > 0 && all[0].number && len(all[0].text) <= 5:
		count = number(all[0].text)
		if len(all) > 2 && isSign(all[1], ".,") && all[2].number && all[2].text == "5" {
			return count, true, all[3:], true
		}
		return count, false, all[1:], true
	}
	if n, isWord := r.Words.Numbers[textAt(all, 0)]; isWord {
		if n == 1 && has(1, r.Words.Half) { // "and a half"
			return 0, true, all[2:], true
		}
		return n, false, all[1:], true
	}
	return 0, false, nil, false
}

func textAt(all []token, i int) string {
	if i >= len(all) {
		return ""
	}
	return all[i].text
}

// unit reads what is counted; a full stop after a short form does not matter.
func (r Reader) unit(all []token) (time.Duration, []token, bool) {
	if len(all) == 0 {
		return 0, all, false
	}
	for _, u := range []struct {
		words []string
		unit  time.Duration
	}{{r.Words.Hours, time.Hour}, {r.Words.Minutes, time.Minute}, {r.Words.Days, 24 * time.Hour}, {r.Words.Weeks, 7 * 24 * time.Hour}} {
		if slices.Contains(u.words, all[0].text) {
			rest := all[1:]
			if len(rest) > 0 && isSign(rest[0], ".") {
				rest = rest[1:]
			}
			return u.unit, rest, true
		}
	}
	return 0, all, false
}
