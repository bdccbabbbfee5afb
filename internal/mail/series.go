package mail

import (
	"fmt"
	"slices"
	"strings"

	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
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
				p.Dates = append(p.Dates, line(l, m, d, zone))
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
	p.When = whenWords(m, firstOf(m, theirs), zone)
	p.Until = untilWords(m, len(theirs))
	for _, d := range theirs {
		if len(p.Dates) == mostDates {
			p.MoreDates = moreWords(m, len(theirs)-mostDates)
			break
		}
		p.Dates = append(p.Dates, line(l, m, d, zone))
	}
}

// struck are the dates that a letter takes back, as they were known.
func (p *page) struck(l schedule.Letter, zone when.Zone) {
	m := l.Meeting
	if l.Before != nil {
		m = *l.Before
	}
	for _, e := range m.Struck(l.To, l.IDs) {
		x := dateLine{When: words.When(m, e.Span, zone), Off: l.Kind == meeting.CallOff && !p.left()}
		if l.Kind == meeting.Clear {
			x.Note = "as your calendar had it"
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
	p.When, p.counted = datesCount(len(p.Dates)), true
	if more := len(p.Dates) - mostDates; more > 1 {
		p.Dates, p.MoreDates = p.Dates[:mostDates], fmt.Sprintf("and %d more", more)
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
// the days are others on the recipient's clock, whose days are meant.
func whenWords(m meeting.Meeting, first meeting.Date, zone when.Zone) string {
	rule := m.Plan().Rule.Words(m.Start.Day)
	if m.AllDay {
		return rule + ", from " + words.When(m, first.Span, zone)
	}
	start, end := zone.LocalAt(first.Span.Start), zone.LocalAt(first.Span.End)
	if start.Day != first.Start.Day || end.Day != start.Day {
		return rule + " in " + m.StartIn().Zone.City() + ", first " + zone.Words(first.Span)
	}
	y, month, dom := start.Day.Date()
	return fmt.Sprintf("%s from %d %s %d, %s – %s", rule, dom, month, y, start.Clock, end.Clock)
}

// untilWords is "until 25 February 2027, 7 dates".
func untilWords(m meeting.Meeting, theirs int) string {
	last, ends := m.Plan().Last()
	if !ends {
		return "without an end"
	}
	return strings.TrimSpace(recur.End{Until: last}.Words(0)) + ", " + datesCount(theirs)
}

func datesCount(n int) string { return words.Count(n, "date") }

func moreWords(m meeting.Meeting, more int) string {
	if m.Plan().Open() {
		return "and so on, without an end"
	}
	return fmt.Sprintf("and %d more", more)
}

// line is a date of a meeting as a letter names it.
func line(l schedule.Letter, m meeting.Meeting, d meeting.Date, zone when.Zone) dateLine {
	if l.Kind == meeting.CallOff {
		return dateLine{When: words.When(m, d.Span, zone), Off: true}
	}
	var notes []string
	if d.Moved {
		regular := m.Plan().Regular(d.On)
		notes = append(notes, "instead of "+words.When(m, regular.Span, zone))
	}
	switch {
	case d.Room == nil && m.Room != nil:
		notes = append(notes, "without a room")
	case d.Room != nil && (m.Room == nil || d.Room.ID != m.Room.ID) && len(l.On) != 1 && !l.To.Single:
		notes = append(notes, d.Room.Name+", "+d.Room.Place)
	}
	alone := len(l.On) == 1 || l.To.Single // title and text stand above then
	if d.Title != m.Title && !alone {
		notes = append(notes, "“"+d.Title+"”")
	}
	if d.Text != m.Text && !alone {
		if d.Text == "" {
			notes = append(notes, "without a text")
		} else {
			notes = append(notes, d.Text)
		}
	}
	if p, is := m.Participant(l.To.ID); is && p.AnswerOn(d.On) == meeting.NoAnswer && p.AnswerToAll() != meeting.NoAnswer {
		notes = append(notes, "please answer again")
	}
	return dateLine{When: words.When(m, d.Span, zone), Note: strings.Join(slices.Compact(notes), ", ")}
}
