package meeting

import (
	"slices"
	"strings"
	"unicode"

	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// SeenBy is a meeting as one of those invited may know it: somebody who is invited
// to some dates of a series learns of the people who are on those, and of no others; where
// those invited are kept apart, of whom they send or come for alone.
func (m Meeting) SeenBy(id string) Meeting {
	me, invited := m.Participant(id)
	if invited && m.Apart {
		var seen []Participant
		for _, p := range m.Participants {
			if p.ID == id || p.comesBy(me) || me.comesBy(p) {
				seen = append(seen, p)
			}
		}
		m.Participants = seen
	}
	if !invited || len(me.Dates) == 0 || !m.Repeats() {
		return m
	}
	mine := m.DatesOf(me, me.firstDay(m)+2*Horizon)
	var seen []Participant
	for _, p := range m.Participants {
		if p.ID == id || p.onAny(mine) {
			seen = append(seen, p)
		}
	}
	m.Participants = seen
	return m
}

// comesBy tells whether somebody comes in the place of another one, or was brought by them.
func (p Participant) comesBy(o Participant) bool {
	return p.DelegatedFrom != "" && strings.EqualFold(p.DelegatedFrom, o.Email) || p.BroughtBy != "" && strings.EqualFold(p.BroughtBy, o.Email)
}

// firstDay is the first day of a series that somebody can be invited to.
func (p Participant) firstDay(m Meeting) when.Day {
	return max(m.Start.Day, series.Whole(p.Dates)[0].From)
}

func (p Participant) onAny(dates []Date) bool {
	for _, d := range dates {
		if p.On(d.On) {
			return true
		}
	}
	return false
}

// SpanFor is when a meeting is for one of those invited: the first date that they
// are invited to, of a series.
func (m Meeting) SpanFor(id string) when.Span {
	me, invited := m.Participant(id)
	if !invited || len(me.Dates) == 0 || !m.Repeats() {
		return m.Span()
	}
	for _, d := range m.DatesOf(me, me.firstDay(m)+2*Horizon) {
		return d.Span
	}
	return m.Span()
}

// Over is when a meeting is over for good; ok is false for a series without an end.
func (m Meeting) Over() (at when.Instant, ok bool) {
	if !m.Repeats() {
		return m.Span().End, true
	}
	if _, ends := m.Plan().Last(); !ends {
		return 0, false
	}
	for d := range m.Dates(m.Start.Day) {
		at = max(at, d.Span.End)
	}
	return at, true
}

// Words are those of a text as meetings are searched by: letters and figures.
func Words(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) && !unicode.IsMark(r) })
}

// Findable are the words that a meeting can be found by for one of those invited, or
// with "" for the organiser: nothing that they may not see. Title holds those of its
// titles, words everything else.
func (m Meeting) Findable(id string) (title, words string) {
	m = m.SeenBy(id)
	titles, rest := []string{m.Title}, []string{m.Text, m.Organiser.Name, m.Organiser.Email}
	room := func(r *Room) {
		if r != nil {
			rest = append(rest, r.Name, r.Place)
		}
	}
	room(m.Room)
	for _, p := range m.Participants {
		rest = append(rest, p.Name, p.Email)
	}
	if m.Card != nil {
		rest = append(rest, m.Card.Name, m.Card.Number)
	}
	for _, f := range m.Files {
		rest = append(rest, f.Name)
	}
	if !m.Repeats() {
		return m.Title, strings.Join(rest, "\n")
	}
	me, invited := m.Participant(id)
	for _, own := range m.Series.Overrides {
		if !invited || me.On(own.On) {
			if d, ok := m.Date(own.On); ok {
				titles, rest = append(titles, d.Title), append(rest, d.Text)
				room(d.Room)
			}
		}
	}
	if invited && len(me.Dates) > 0 && !slices.ContainsFunc(m.DatesOf(me, me.firstDay(m)+2*Horizon), func(d Date) bool { return d.Title == m.Title }) {
		titles = titles[1:] // every date of theirs is called something else
	}
	return strings.Join(titles, "\n"), strings.Join(rest, "\n")
}
