package rooms

import (
	"slices"
	"time"

	"jembro/internal/core/when"
)

// Rules say who may book a room, when, and for how long. The zero Rules let everybody in
// the house book it at any time.
type Rules struct {
	By      By
	People  []string      // the IDs of those named, with ByNamed
	Others  Others        // what the rules say to those who are not meant by By
	Longest time.Duration // of one booking, 0 for any
	Ahead   int           // how many days from today on it can be booked, 0 for any
	Gap     time.Duration // kept clear between two bookings, for turning the room round
	// Open are the hours in which it can be booked, for each time.Weekday, on the clocks
	// of its site; all empty for always.
	Open     [7][]when.ClockSpan
	Holidays bool       // it is closed on the public holidays of its site
	Closed   []when.Day // days on which it is closed besides
	// Share of ten dates of a series have to be clear for it to be taken at all, 0 for
	// any.
	Share int
	Agree Agree
	// Outside lets people outside ask for it by inviting it; its keeper answers.
	Outside bool
}

// By is who may book a room.
type By string

const (
	ByEverybody By = ""      // who works in the house
	BySite      By = "site"  // who works at its site
	ByNamed     By = "named" // the people named, and who keeps it
)

// Others is what becomes of the wish of somebody who may not book a room.
type Others string

const (
	OthersAsk     Others = ""       // its keeper is asked
	OthersRefused Others = "refuse" // it is refused
)

// Agree is when the keeper of a room has to agree.
type Agree struct {
	Always bool
	Above  time.Duration // bookings longer than that, 0 for none
	After  when.Clock    // bookings that end later than that, 0 for none
	Within int           // working days in which no answer is a no; 0 is DefaultWithin
}

// DefaultWithin is in how many working days a keeper answers where the rules do not say.
const DefaultWithin = 2

// Asker is who wants a room.
type Asker struct {
	PersonID, SiteID string
	Keeps            bool // they keep the room, or nobody does: nobody has to agree
}

// Place is a room as its rules see it: where it is, and the rules.
type Place struct {
	Rules
	SiteID  string
	Zone    when.Zone
	Holiday func(when.Day) bool // public holidays of its site
}

// Turned is a booking with what has to stay clear around it.
func (r Rules) Turned(s when.Span) when.Span {
	return when.Span{Start: s.Start.Add(-r.Gap), End: s.End.Add(r.Gap)}
}

// TooLong tells whether a stretch is longer than one booking may be.
func (r Rules) TooLong(length time.Duration) bool { return r.Longest > 0 && length > r.Longest }

// allowed tells whether somebody may book at all, and without being asked about.
func (p Place) allowed(a Asker) (may, freely bool) {
	meant := true
	switch p.By {
	case BySite:
		meant = a.SiteID == p.SiteID
	case ByNamed:
		meant = slices.Contains(p.People, a.PersonID)
	}
	if meant || a.Keeps {
		return true, true
	}
	return p.Others == OthersAsk, false
}

// Asks tells whether a booking of some length needs a keeper to agree, whenever it is.
func (p Place) Asks(a Asker, length time.Duration) bool {
	_, freely := p.allowed(a)
	return !a.Keeps && (!freely || p.Agree.Always || p.Agree.Above > 0 && length > p.Agree.Above)
}

// LastDay is the last day on which the room can be booked now; ok is false where there is
// no such limit.
func (r Rules) LastDay(today when.Day) (last when.Day, ok bool) {
	return today + when.Day(r.Ahead), r.Ahead > 0
}

// Shut is when in some windows somebody cannot book the room, whatever is booked: all of
// them where they may not at all, else the hours and days on which it is closed, and what
// lies too far ahead.
func (p Place) Shut(windows when.Spans, a Asker, now when.Instant) when.Spans {
	if may, _ := p.allowed(a); !may {
		return windows
	}
	var shut when.Spans
	if !p.always() {
		shut = when.Hours{Week: p.Open, Zone: p.Zone}.Off(windows)
	}
	var closed []when.Span
	if p.Holidays && p.Holiday != nil || len(p.Closed) > 0 {
		for _, w := range windows {
			first, last := p.Zone.LocalAt(w.Start).Day, p.Zone.LocalAt(w.End-1).Day
			for day := first; day <= last; day++ {
				if p.Holidays && p.Holiday != nil && p.Holiday(day) || slices.Contains(p.Closed, day) {
					closed = append(closed, when.DaySpan(day, p.Zone))
				}
			}
		}
	}
	if last, limited := p.LastDay(p.Zone.LocalAt(now).Day); limited && len(windows) > 0 {
		if end, ahead := windows[len(windows)-1].End, when.DaySpan(last, p.Zone).End; ahead < end {
			closed = append(closed, when.Span{Start: ahead, End: end})
		}
	}
	return shut.Union(when.Union(closed...))
}

func (r Rules) always() bool {
	return !slices.ContainsFunc(r.Open[:], func(s []when.ClockSpan) bool { return len(s) > 0 })
}

// Unclear is when somebody cannot have the room in some windows: while it is taken, with
// the gap around that, and while it is shut to them.
func (p Place) Unclear(taken when.Spans, windows when.Spans, a Asker, now when.Instant) when.Spans {
	if p.Gap > 0 && len(taken) > 0 {
		turned := make([]when.Span, len(taken))
		for i, s := range taken {
			turned[i] = p.Turned(s)
		}
		taken = when.Union(turned...)
	}
	if shut := p.Shut(windows, a, now); len(shut) > 0 {
		return taken.Union(shut)
	}
	return taken
}

// Verdict is what a room says to a wish.
type Verdict string

const (
	Booked  Verdict = "booked"
	Asked   Verdict = "asked"   // its keeper has to agree
	Refused Verdict = "refused" // its rules forbid it
)

// ReasonCode is why a room refuses, or asks.
type ReasonCode string

const (
	NotForThem ReasonCode = "notForThem" // it is for others
	TooLong    ReasonCode = "tooLong"    // Limit is the longest
	TooFar     ReasonCode = "tooFar"     // Day is the last on which it can be booked
	ClosedDay  ReasonCode = "closed"     // Day is when
	OutOfHours ReasonCode = "hours"      // Day is when, Open are its hours on that day
	TooFew     ReasonCode = "tooFew"     // Clear of Dates are clear, Share of ten have to be
	AskAlways  ReasonCode = "always"
	AskOthers  ReasonCode = "others" // it is for others, who need not ask
	AskLong    ReasonCode = "long"   // Limit is what needs no asking
	AskLate    ReasonCode = "late"   // Clock is what needs no asking
)

// Reason is one of them with its data.
type Reason struct {
	Code  ReasonCode       `json:"code"`
	Day   when.Day         `json:"day,omitzero"`
	Limit time.Duration    `json:"limit,omitzero"`
	Clock when.Clock       `json:"clock,omitzero"`
	Open  []when.ClockSpan `json:"open,omitempty"`
	Clear int              `json:"clear,omitzero"`
	Dates int              `json:"dates,omitzero"`
	Share int              `json:"share,omitzero"`
	By    By               `json:"by,omitempty"`
}

// Decision is what a room says to a wish, and why. Reasons are of the verdict alone, each
// once, in the order of the dates.
type Decision struct {
	Verdict Verdict
	Reasons []Reason
}

// Decide is what the room says to somebody who wants it for some stretches, by its rules
// alone: whether it is taken is for who knows the bookings. here is how many dates of a
// series are to be in this room, with those that are already, and of how many the series
// has, with those on which another room or none is wanted.
func (p Place) Decide(wanted []when.Span, here, of int, a Asker, now when.Instant) Decision {
	d := Decision{Verdict: Booked}
	say := func(v Verdict, r Reason) {
		if v == Asked && d.Verdict == Refused {
			return
		}
		if v == Refused && d.Verdict != Refused {
			d.Reasons = nil
		}
		d.Verdict = v
		if !slices.ContainsFunc(d.Reasons, func(x Reason) bool { return x.Code == r.Code }) {
			d.Reasons = append(d.Reasons, r)
		}
	}
	may, freely := p.allowed(a)
	if !may {
		say(Refused, Reason{Code: NotForThem, By: p.By})
	}
	if of > 1 && here*10 < p.Share*of {
		say(Refused, Reason{Code: TooFew, Clear: here, Dates: of, Share: p.Share})
	}
	today := p.Zone.LocalAt(now).Day
	for _, s := range wanted {
		for _, r := range p.against(s, today) {
			say(Refused, r)
		}
	}
	if a.Keeps {
		return d
	}
	if p.Agree.Always && d.Verdict != Refused { // all else is said with it
		return Decision{Asked, []Reason{{Code: AskAlways}}}
	}
	if !freely {
		say(Asked, Reason{Code: AskOthers, By: p.By})
	}
	for _, s := range wanted {
		start, end := p.Zone.LocalAt(s.Start), p.Zone.LocalAt(s.End)
		if p.Agree.Above > 0 && s.Length() > p.Agree.Above {
			say(Asked, Reason{Code: AskLong, Limit: p.Agree.Above})
		}
		if p.Agree.After > 0 && (end.Clock > p.Agree.After || end.Day > start.Day && end.Clock > 0) {
			say(Asked, Reason{Code: AskLate, Clock: p.Agree.After})
		}
	}
	return d
}

// against is what the rules have against one stretch.
func (p Place) against(s when.Span, today when.Day) (out []Reason) {
	if p.TooLong(s.Length()) {
		out = append(out, Reason{Code: TooLong, Limit: p.Longest})
	}
	first, end := p.Zone.LocalAt(s.Start).Day, p.Zone.LocalAt(s.End-1).Day
	if last, limited := p.LastDay(today); limited && end > last {
		out = append(out, Reason{Code: TooFar, Day: last})
	}
	for day := first; day <= end; day++ {
		if slices.Contains(p.Closed, day) || p.Holidays && p.Holiday != nil && p.Holiday(day) {
			out = append(out, Reason{Code: ClosedDay, Day: day})
			return out
		}
	}
	if !p.always() {
		if off := (when.Hours{Week: p.Open, Zone: p.Zone}).Off(when.Spans{s}); len(off) > 0 {
			day := p.Zone.LocalAt(off[0].Start).Day
			out = append(out, Reason{Code: OutOfHours, Day: day, Open: p.Open[day.Weekday()]})
		}
	}
	return out
}

// Lapses is until when a keeper has to answer a wish made at some moment: the same time
// of day, so many working days later, and not later than the first date begins.
func (p Place) Lapses(asked when.Instant, first when.Instant) when.Instant {
	days := p.Agree.Within
	if days == 0 {
		days = DefaultWithin
	}
	at := p.Zone.LocalAt(asked)
	for days > 0 {
		at.Day++
		switch {
		case at.Day.Weekday() == time.Saturday, at.Day.Weekday() == time.Sunday:
		case p.Holiday != nil && p.Holiday(at.Day):
		default:
			days--
		}
	}
	lapses := when.Zoned{Local: at, Zone: p.Zone}.Instant()
	return min(lapses, max(first, asked))
}

// Limits of what rules can say.
const (
	longestLongest = 31 * 24 * time.Hour
	mostAhead      = 3660
	longestGap     = 24 * time.Hour
	mostClosed     = 400
	mostNamed      = 300
	mostWithin     = 30
	mostADay       = 12
)

// Fault is what is wrong with rules, at which of them.
type Fault string

const (
	FaultBy      Fault = "by"
	FaultPeople  Fault = "people"
	FaultLongest Fault = "longest"
	FaultAhead   Fault = "ahead"
	FaultGap     Fault = "gap"
	FaultOpen    Fault = "open"
	FaultClosed  Fault = "closed"
	FaultShare   Fault = "share"
	FaultAgree   Fault = "agree"
	FaultWithin  Fault = "within"
)

// Faults are the rules that cannot be kept: nobody could follow them. A gap longer than
// the day is open is one; then the room could be booked once a day at the most, and the
// gap would reach into the next.
func (r Rules) Faults() (out []Fault) {
	add := func(bad bool, f Fault) {
		if bad {
			out = append(out, f)
		}
	}
	add(!slices.Contains([]By{ByEverybody, BySite, ByNamed}, r.By) || !slices.Contains([]Others{OthersAsk, OthersRefused}, r.Others), FaultBy)
	add(r.By == ByNamed && len(r.People) == 0 || len(r.People) > mostNamed, FaultPeople)
	add(r.Longest < 0 || r.Longest > longestLongest || r.Longest > 0 && r.Longest < when.Quarter, FaultLongest)
	add(r.Ahead < 0 || r.Ahead > mostAhead, FaultAhead)
	add(r.Gap < 0 || r.Gap > longestGap || r.Gap > r.longestDay(), FaultGap)
	add(!r.openWell(), FaultOpen)
	add(len(r.Closed) > mostClosed, FaultClosed)
	add(r.Share < 0 || r.Share > 10, FaultShare)
	add(r.Agree.Above < 0 || r.Agree.Above > longestLongest || r.Agree.After < 0 || r.Agree.After > 24*60, FaultAgree)
	add(r.Agree.Within < 0 || r.Agree.Within > mostWithin, FaultWithin)
	return out
}

// longestDay is how long the room is open on the day that it is open longest.
func (r Rules) longestDay() time.Duration {
	if r.always() {
		return 24 * time.Hour
	}
	var most time.Duration
	for _, spans := range r.Open {
		var all time.Duration
		for _, s := range spans {
			all += time.Duration(s.End-s.Start) * time.Minute
		}
		most = max(most, all)
	}
	return most
}

func (r Rules) openWell() bool {
	for _, spans := range r.Open {
		last := when.Clock(0)
		for _, s := range spans {
			if s.Start < 0 || s.End > 24*60 || s.Start >= s.End || s.Start < last {
				return false
			}
			last = s.End
		}
		if len(spans) > mostADay {
			return false
		}
	}
	return true
}
