package meeting

import (
	"slices"
	"strings"
	"time"

	"jembro/internal/core/typed"
	"jembro/internal/core/when"
)

// DraftTyped is what stands typed in a field of a sheet and has not become part of it:
// because somebody still writes it, or because it could not be read. Fields are "day",
// "start", "end", "lastDay", "repeat.until", "repeat.days", "repeat.added", the times of
// one date ("dates.2027-01-07.start"), "people", and "unclear" for each of those typed
// as people of whom it has to be said who is meant.
type DraftTyped struct {
	Field string `json:"field"`
	Text  string `json:"text"`
	// Window is the one that it was typed in: another window does not take it over.
	Window string `json:"window,omitempty"`
}

// Reading is how something typed was read: After is the sheet with it, Err why there is
// none.
type Reading struct {
	DraftTyped
	After Draft
	Err   *typed.Error
}

// Fields of a sheet that people are typed into.
const (
	FieldPeople  = "people"
	FieldUnclear = "unclear"
)

// overMidnight is how long a meeting may be that ends on the day after the one it starts
// on, for a time typed as its end to mean that day.
const overMidnight = 12 * time.Hour

// Still tells what is still being typed, and is nobody's to take over.
type Still func(DraftTyped) bool

// NoMore is for a sheet that is sent: nothing is typed any more.
func NoMore(DraftTyped) bool { return false }

// Read takes what is typed into the fields for days and times over into the sheet, but
// for what is still being typed; what cannot be read stays as it was typed.
func (d Draft) Read(r typed.Reader, still Still) Draft {
	var left []DraftTyped
	for _, t := range d.Typed {
		if t.people() || still(t) {
			left = append(left, t)
		} else if after, err := d.with(r, t); err == nil {
			d = after
		} else if strings.TrimSpace(t.Text) != "" {
			left = append(left, t)
		}
	}
	d.Typed = left
	return d
}

// Readings are how each of what stands in the fields for days and times reads.
func (d Draft) Readings(r typed.Reader) (out []Reading) {
	for _, t := range d.Typed {
		if !t.people() && strings.TrimSpace(t.Text) != "" {
			after, err := d.with(r, t)
			out = append(out, Reading{DraftTyped: t, After: after, Err: err})
		}
	}
	return out
}

func (t DraftTyped) people() bool { return t.Field == FieldPeople || t.Field == FieldUnclear }

// with is the sheet with what was typed into one field.
func (d Draft) with(r typed.Reader, t DraftTyped) (Draft, *typed.Error) {
	switch t.Field {
	case "start":
		return d.withTimes(r.Start(t.Text))
	case "day":
		return d.withTimes(r.Day(t.Text))
	case "end":
		w, err := r.End(t.Text, d.startLocal(r.Today).Clock)
		if w.HasDay && w.HasStart { // "3 Dec 10:30": the times were read as those of a start
			w.End, w.HasEnd, w.HasStart = w.Start, true, false
		}
		if err != nil {
			return d, err
		}
		return d.withEnd(w), nil
	case "lastDay":
		w, err := r.Day(t.Text)
		if end, broken := when.ParseLocal(d.End); err == nil && broken == nil {
			d.End = when.Local{Day: w.Day, Clock: end.Clock}.String()
			if d.AllDay {
				d.End = when.Local{Day: w.Day + 1}.String()
			}
		}
		return d, err
	case "length":
		length, err := r.Length(t.Text)
		if err != nil {
			return d, err
		}
		return d.lasting(length), nil
	}
	if on, field, ok := strings.Cut(strings.TrimPrefix(t.Field, "dates."), "."); ok && strings.HasPrefix(t.Field, "dates.") {
		return d.withOwn(r, on, field, t.Text)
	}
	w, err := r.Day(t.Text)
	if err != nil || d.Repeat == nil {
		return d, err
	}
	repeat, day := *d.Repeat, w.Day.String()
	switch t.Field {
	case "repeat.until":
		repeat.Until = day
	case "repeat.days":
		repeat.Days = withDay(repeat.Days, day)
	case "repeat.added":
		repeat.Added = withDay(repeat.Added, day)
	}
	d.Repeat = &repeat
	return d, nil
}

func withDay(days []string, day string) []string {
	days = append(slices.Clone(days), day)
	slices.Sort(days)
	return slices.Compact(days)
}

// startLocal is when the sheet starts, this morning where that is not known.
func (d Draft) startLocal(today when.Day) when.Local {
	if start, err := when.ParseLocal(d.Start); err == nil {
		return start
	}
	return when.Local{Day: today, Clock: when.ClockOf(9, 0)}
}

// withTimes moves the start, and the end along: a new day keeps both on the clock, a
// new time the length.
func (d Draft) withTimes(w typed.When, err *typed.Error) (Draft, *typed.Error) {
	if err != nil {
		return d, err
	}
	start, broken := when.ParseLocal(d.Start)
	end, noEnd := when.ParseLocal(d.End)
	if broken != nil {
		start = when.Local{Day: w.Day, Clock: when.ClockOf(9, 0)}
	}
	if broken != nil || noEnd != nil || end.Sub(start) <= 0 {
		end = start.Add(time.Hour)
	}
	if d.AllDay { // days move, and nothing of a clock counts
		w.HasStart, w.HasEnd, w.HasLength, w.Shift = false, false, false, 0
	}
	length := d.span(start, end).Length()
	if w.HasDay {
		end.Day, start.Day = end.Day+w.Day-start.Day, w.Day
	}
	if w.HasStart {
		start = when.Local{Day: start.Day}.Add(time.Duration(w.Start) * time.Minute)
		end = d.later(start, length)
	}
	if w.Shift != 0 {
		start, end = d.later(start, w.Shift), d.later(end, w.Shift)
	}
	d.Start, d.End = start.String(), end.String()
	return d.withEnd(w), nil
}

// withEnd ends the meeting at a time or after a length. A time is one of the first day,
// or of the night after it; of a meeting over days, of its last one.
func (d Draft) withEnd(w typed.When) Draft {
	start, err := when.ParseLocal(d.Start)
	if err != nil {
		return d
	}
	if w.HasLength {
		d.End = d.later(start, w.Length).String()
	}
	if !w.HasEnd {
		return d
	}
	end, day := when.Local{}, start.Day
	if now, err := when.ParseLocal(d.End); err == nil && now.Sub(start) >= 24*time.Hour {
		day = now.Day
	}
	if w.HasDay {
		day = w.Day
	}
	end = when.Local{Day: day}.Add(time.Duration(w.End) * time.Minute)
	if night := end.Add(24 * time.Hour); !w.HasDay && end.Sub(start) <= 0 && night.Sub(start) <= overMidnight {
		end = night
	}
	d.End = end.String()
	return d
}

// lasting is the sheet with another length; whole days stay whole.
func (d Draft) lasting(length time.Duration) Draft {
	start, err := when.ParseLocal(d.Start)
	if err != nil {
		return d
	}
	if d.AllDay {
		days := max(1, int((length+24*time.Hour-1)/(24*time.Hour)))
		d.End = when.Local{Day: start.Day + when.Day(days)}.String()
		return d
	}
	d.End = d.later(start, length).String()
	if length > LongLength { // it was said
		d.LongMeant = int(length.Minutes())
	}
	return d
}

// withOwn changes the times of one date of a series.
func (d Draft) withOwn(r typed.Reader, on, field, text string) (Draft, *typed.Error) {
	i := slices.IndexFunc(d.Dates, func(x DraftDate) bool { return x.On == on })
	if i < 0 {
		return d, &typed.Error{Kind: typed.NotADay}
	}
	own := d.Dates[i]
	one, err := Draft{Start: own.Start, End: own.End, Zone: d.Zone}.with(r, DraftTyped{Field: field, Text: text})
	if err != nil {
		return d, err
	}
	own.Start, own.End = one.Start, one.End
	d.Dates = slices.Clone(d.Dates)
	d.Dates[i] = own
	return d, nil
}

// later is a time of the sheet's zone after some time has gone by; the clock may be
// changed meanwhile.
func (d Draft) later(from when.Local, by time.Duration) when.Local {
	zone, err := when.LoadZone(d.Zone)
	if err != nil {
		return from.Add(by)
	}
	return zone.LocalAt(when.Zoned{Local: from, Zone: zone}.Instant().Add(by))
}

func (d Draft) span(start, end when.Local) when.Span {
	zone, err := when.LoadZone(d.Zone)
	if err != nil {
		zone = when.Zone{}
	}
	return when.Span{Start: when.Zoned{Local: start, Zone: zone}.Instant(), End: when.Zoned{Local: end, Zone: zone}.Instant()}
}

// ClockChange is how clocks are changed while the meeting runs, or so that its start or
// end is not on the clock, or twice. Ok is false where none of that is.
func (d Draft) ClockChange() (c when.ClockChange, ok bool) {
	start, noStart := when.ParseLocal(d.Start)
	end, noEnd := when.ParseLocal(d.End)
	zone, noZone := when.LoadZone(d.Zone)
	if noStart != nil || noEnd != nil || noZone != nil {
		return c, false
	}
	span := d.span(start, end)
	morning, _ := zone.Resolve(when.Local{Day: start.Day})
	if c, ok = zone.ChangeAfter(morning - 1); !ok || c.At > max(span.End, span.Start)+4*3600 {
		return c, false
	}
	return c, span.Start < c.At && c.At < span.End || !zone.Once(start) || !zone.Once(end)
}
