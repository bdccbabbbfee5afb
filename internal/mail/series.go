package mail

import (
	"slices"
	"strconv"
	"strings"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
)

// mostDates is how many dates a letter names one by one.
const mostDates = 12

// dateLine is one date of a series as a letter names it.
type dateLine struct {
	When string
	Note string // what it has of its own: "moved from 31 December", "Loft Studio"
	Off  bool   // called off
}

// series fills in what a letter says about the dates of a series: those that it
// is about, or all that the recipient is invited to.
func (p *page) series(l schedule.Letter, zone when.Zone) {
	m := l.Meeting
	if len(l.IDs) > 0 {
		p.struck(l, zone)
		return
	}
	about := l.On
	if l.Kind == meeting.CallOff && l.Before != nil {
		m = *l.Before
	}
	theirs := m.DatesOf(l.To, horizonOf(m))
	if len(about) == 0 && l.To.Finite() {
		for _, d := range theirs {
			about = append(about, d.On)
		}
	}
	if len(about) > 0 {
		for _, on := range about {
			if d, is := m.Date(on); is {
				p.Dates = append(p.Dates, line(p.T, l, m, d, zone))
			}
		}
		p.shorten()
		if len(about) == 1 {
			if d, is := m.Date(about[0]); is {
				p.room, p.Title, p.Body = d.Room, d.Title, d.Text
			}
		}
		return
	}
	p.When = whenWords(p.T, m, firstOf(m, theirs), zone, len(theirs))
	p.Until = untilWords(p.T, m, len(theirs))
	for _, d := range theirs {
		if len(p.Dates) == mostDates {
			p.MoreDates = moreWords(p.T, m, len(theirs)-mostDates)
			break
		}
		p.Dates = append(p.Dates, line(p.T, l, m, d, zone))
	}
}

// struck are the dates that a letter takes back, as they were known.
func (p *page) struck(l schedule.Letter, zone when.Zone) {
	m := l.Meeting
	if l.Before != nil {
		m = *l.Before
	}
	for _, e := range m.Struck(l.To, l.IDs) {
		x := dateLine{When: words.When(p.T, m, e.Span, zone), Off: l.Kind == meeting.CallOff && !p.left()}
		if l.Kind == meeting.Clear {
			x.Note = p.T.Say("as your calendar had it")
		}
		p.Dates = append(p.Dates, x)
		p.room, p.Title = e.Room, e.Title
	}
	if len(p.Dates) > 1 {
		p.room, p.Title = m.Room, m.Title
	}
	p.shorten()
}

// shorten says when the dates of a letter are in one line, and names not too many of
// them.
func (p *page) shorten() {
	switch len(p.Dates) {
	case 0:
		return
	case 1:
		p.When = p.Dates[0].When
		if p.Dates[0].Note == "" && !p.Dates[0].Off {
			p.Dates = nil
		}
		return
	}
	p.When, p.counted = p.T.Say("%d dates", len(p.Dates)), true
	if more := len(p.Dates) - mostDates; more > 1 {
		p.Dates, p.MoreDates = p.Dates[:mostDates], p.T.Say("and %s more", strconv.Itoa(more))
	}
}

// horizonOf is the last day that a letter counts dates to.
func horizonOf(m meeting.Meeting) when.Day {
	if m.Plan().Open() {
		return m.Start.Day + meeting.Horizon
	}
	last, _ := m.Plan().Last()
	return last
}

func firstOf(m meeting.Meeting, theirs []meeting.Date) meeting.Date {
	if len(theirs) > 0 {
		return theirs[0]
	}
	return meeting.Date{Date: m.Plan().Regular(m.Start.Day)}
}

// whenWords is "every 2nd Thursday from 3 December 2026, 18:30 – 19:30"; where
// the days are others on the recipient's clock, whose days are meant. A rule that there are no words
// for is a count of dates.
func whenWords(t tongue.Tongue, m meeting.Meeting, first meeting.Date, zone when.Zone, dates int) string {
	rule := t.Rule(m.Plan().Rule, m.Start.Day)
	if rule == "" {
		return t.Say("%[1]s, first %[2]s", t.Say("%d dates", dates), words.When(t, m, first.Span, zone))
	}
	if m.AllDay {
		return t.Say("%[1]s, from %[2]s", rule, words.When(t, m, first.Span, zone))
	}
	start, end := zone.LocalAt(first.Span.Start), zone.LocalAt(first.Span.End)
	if start.Day != first.Start.Day || end.Day != start.Day {
		return t.Say("%[1]s in %[2]s, first %[3]s", rule, t.City(m.StartIn().Zone), t.Span(zone, first.Span))
	}
	return t.Say("%[1]s from %[2]s, %[3]s – %[4]s", rule, t.FullDate(start.Day), start.Clock.String(), end.Clock.String())
}

// untilWords is "until 25 February 2027, 7 dates".
func untilWords(t tongue.Tongue, m meeting.Meeting, theirs int) string {
	last, ends := m.Plan().Last()
	if !ends {
		return t.Say("without an end")
	}
	return t.Say("until %[1]s, %[2]s", t.FullDate(last), t.Say("%d dates", theirs))
}

func moreWords(t tongue.Tongue, m meeting.Meeting, more int) string {
	if m.Plan().Open() {
		return t.Say("and so on, without an end")
	}
	return t.Say("and %s more", strconv.Itoa(more))
}

// line is a date of a meeting as a letter names it.
func line(t tongue.Tongue, l schedule.Letter, m meeting.Meeting, d meeting.Date, zone when.Zone) dateLine {
	if l.Kind == meeting.CallOff {
		return dateLine{When: words.When(t, m, d.Span, zone), Off: true}
	}
	var notes []string
	if d.Moved {
		regular := m.Plan().Regular(d.On)
		notes = append(notes, t.Say("instead of %s", words.When(t, m, regular.Span, zone)))
	}
	switch {
	case d.Room == nil && m.Room != nil:
		notes = append(notes, t.Say("without a room"))
	case d.Room != nil && (m.Room == nil || d.Room.ID != m.Room.ID) && len(l.On) != 1 && !l.To.Single:
		notes = append(notes, d.Room.Name+", "+d.Room.Place)
	}
	alone := len(l.On) == 1 || l.To.Single // title and text stand above then
	if d.Title != m.Title && !alone {
		notes = append(notes, "“"+d.Title+"”")
	}
	if d.Text != m.Text && !alone {
		if d.Text == "" {
			notes = append(notes, t.Say("without a text"))
		} else {
			notes = append(notes, d.Text)
		}
	}
	if p, is := m.Participant(l.To.ID); is && p.AnswerOn(d.On) == meeting.NoAnswer && p.AnswerToAll() != meeting.NoAnswer {
		notes = append(notes, t.Say("please answer again"))
	}
	return dateLine{When: words.When(t, m, d.Span, zone), Note: strings.Join(slices.Compact(notes), ", ")}
}
