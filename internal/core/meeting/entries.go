package meeting

import (
	"slices"

	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// Told is a date of a series that somebody's calendar may hold by itself, or may
// have struck, because a message was about it: a new whole has to say it again or
// take it back, as many programs keep what they know of single dates when a new whole
// arrives (common practice; RFC 5546, 3.2.2 does not say what becomes of them).
type Told struct {
	ID   when.Instant // the RECURRENCE-ID: when the rule had it
	Gone bool         // taken back
}

// DateAnswer is what somebody answered to one date of a series.
type DateAnswer struct {
	On     when.Day
	Answer Answer
}

// AnswerOn is what a participant is known to answer on a date: to it, or else to all.
func (p Participant) AnswerOn(on when.Day) Answer {
	for _, a := range p.Answers {
		if a.On == on {
			return a.Answer
		}
	}
	return p.AnswerToAll()
}

// AnswerToAll is what a participant is known to answer, NoAnswer at first.
func (p Participant) AnswerToAll() Answer {
	if p.Answer == "" {
		return NoAnswer
	}
	return p.Answer
}

// Entry is what a calendar holds of a meeting as one component: the whole, or a
// date by itself.
type Entry struct {
	Date
	// Series is how the whole repeats, nil for a meeting that is once and for a
	// single date.
	Series *series.Written
	// Single is a date by itself. ID is its RECURRENCE-ID.
	Single bool
	ID     when.Instant
	// Lone: its reader knows single dates only, and no rule.
	Lone bool
}

// Names tells whether an entry names a participant: those who are invited to that
// date, or to the series.
func (e Entry) Names(p Participant) bool {
	switch {
	case e.Single:
		return p.On(e.On)
	case e.Series != nil:
		return !p.Single
	}
	return true
}

// Entries are what the calendar of a participant holds, or, with days, those dates
// alone. There is nothing where they are invited to no date.
func (m Meeting) Entries(p Participant, on []when.Day) (out []Entry) {
	if !m.Repeats() && !slices.ContainsFunc(p.Told, func(t Told) bool { return m.holds(p, t) }) {
		return []Entry{m.whole()}
	}
	if len(on) > 0 || p.Single {
		for _, d := range m.theirs(p, on) {
			out = append(out, m.single(d, p))
		}
		return out
	}
	written, ok := m.Plan().Written(p.On, p.until())
	if !ok {
		return nil
	}
	first := m.whole()
	first.On, first.Start, first.End = written.Start.Day, written.Start, written.End
	first.Span = m.Plan().Regular(written.Start.Day).Span
	for _, d := range m.exceptions(p, m.Plan().Unclear()) {
		out = append(out, m.single(d, p))
	}
	if len(out) > 0 && written.Rule == (recur.Rule{}) {
		// Only what repeats has single dates.
		written = written.Once()
	}
	if m.Repeats() || len(out) > 0 {
		first.Series = &written
	}
	return append([]Entry{first}, out...)
}

// whole is a meeting as it is for all.
func (m Meeting) whole() Entry {
	return Entry{Date: Date{Date: series.Date{On: m.Start.Day, Start: m.Start, End: m.End, Span: m.Span()}, Title: m.Title, Text: m.Text, Room: m.Room}}
}

func (m Meeting) single(d Date, p Participant) Entry {
	return Entry{Date: d, Single: true, ID: m.Plan().Regular(d.On).Span.Start, Lone: p.Single}
}

// until is the last day that a participant is invited to.
func (p Participant) until() when.Day {
	if p.Finite() {
		return p.Dates[len(p.Dates)-1].To
	}
	return series.Forever
}

// theirs are the dates of a participant on some days, or all of somebody with a
// last one.
func (m Meeting) theirs(p Participant, on []when.Day) (out []Date) {
	if len(on) == 0 {
		return m.DatesOf(p, p.until())
	}
	for _, day := range on {
		if d, is := m.Date(day); is && p.On(day) {
			out = append(out, d)
		}
	}
	return out
}

// exceptions are the dates of a participant that are not as the rule has them, that
// readers could take for another time, or that they were told of by themselves.
func (m Meeting) exceptions(p Participant, unclear []when.Day) (out []Date) {
	days := slices.Clone(unclear)
	for _, a := range p.Answers { // else a new whole would take their answer to that date back
		days = append(days, a.On)
	}
	if m.Series != nil {
		for _, o := range m.Series.Overrides {
			days = append(days, o.On)
		}
		for _, x := range m.Series.Moved {
			days = append(days, x.On)
		}
	}
	for _, t := range p.Told {
		if !t.Gone && m.holds(p, t) {
			days = append(days, m.zone().LocalAt(t.ID).Day)
		}
	}
	slices.Sort(days)
	for _, day := range slices.Compact(days) {
		if d, is := m.Date(day); is && p.On(day) {
			out = append(out, d)
		}
	}
	return out
}

// byThemselves are the dates that a message to a participant has as components of
// their own.
func (m Meeting) byThemselves(p Participant, on, unclear []when.Day) []Date {
	switch {
	case !m.Repeats():
		return nil
	case len(on) > 0 || p.Single:
		return m.theirs(p, on)
	}
	return m.exceptions(p, unclear)
}

// holds tells whether a RECURRENCE-ID that somebody was told is of a date that they
// are invited to.
func (m Meeting) holds(p Participant, t Told) bool {
	day := m.zone().LocalAt(t.ID).Day
	return p.On(day) && m.Plan().Has(day) && m.Plan().Regular(day).Span.Start == t.ID
}

// Struck are dates by their RECURRENCE-ID as a calendar held them before they are
// taken back.
func (m Meeting) Struck(p Participant, ids []when.Instant) (out []Entry) {
	for _, id := range ids {
		day := m.zone().LocalAt(id).Day
		d, is := m.Date(day)
		if !is || m.Plan().Regular(day).Span.Start != id {
			span := when.Span{Start: id, End: id.Add(m.Length())}
			d = m.whole().Date
			d.Date = series.Date{On: day, Start: m.zone().LocalAt(id), End: m.zone().LocalAt(span.End), Span: span}
		}
		out = append(out, Entry{Date: d, Single: true, ID: id, Lone: p.Single})
	}
	return out
}

// GoesOnWithout tells whether what is taken back from a participant goes on without
// them in this version: one of some dates of the rule, or, without any, the meeting.
func (m Meeting) GoesOnWithout(p Participant, days ...when.Day) bool {
	if len(days) == 0 {
		_, invited := m.Participant(p.ID)
		return !invited
	}
	return m.Repeats() && slices.ContainsFunc(days, m.Plan().Has)
}

// KnowingTold is a meeting as it was kept before what people were told was kept with
// it: their calendars hold what has its own, and all dates of who knows single ones.
func (m Meeting) KnowingTold() Meeting {
	if !m.Repeats() {
		return m
	}
	m.Participants = slices.Clone(m.Participants)
	for i := range m.Participants {
		p := &m.Participants[i]
		if !p.Outside() {
			continue
		}
		dates := m.exceptions(*p, nil)
		if p.Single {
			dates = m.theirs(*p, nil)
		}
		for _, d := range dates {
			p.Told = append(p.Told, Told{ID: m.Plan().Regular(d.On).Span.Start})
		}
		slices.SortFunc(p.Told, func(a, b Told) int { return int(a.ID - b.ID) })
	}
	return m
}

// tell is a participant after messages: what their calendar holds by itself then,
// and a message that takes back what it holds of dates that are not theirs any
// more.
func (m Meeting) tell(p Participant, due []Message, unclear []when.Day) (Participant, *Message) {
	told := map[when.Instant]bool{} // ID: gone
	for _, t := range p.Told {
		told[t.ID] = t.Gone
	}
	for _, d := range due {
		switch {
		case d.Kind == CallOff:
			for _, id := range d.IDs {
				told[id] = true
			}
		default:
			for _, date := range m.byThemselves(p, d.On, unclear) {
				told[m.Plan().Regular(date.On).Span.Start] = false
			}
			if len(d.On) == 0 && !p.Single { // a new whole: what was struck and is back is said again
				for id, gone := range told {
					if gone && m.holds(p, Told{ID: id}) {
						told[id] = false
					}
				}
			}
		}
	}
	var stale []when.Instant
	p.Told = nil
	for id, gone := range told {
		if !gone && !m.holds(p, Told{ID: id}) {
			stale, gone = append(stale, id), true
		}
		p.Told = append(p.Told, Told{id, gone})
	}
	slices.SortFunc(p.Told, func(a, b Told) int { return int(a.ID - b.ID) })
	if len(stale) == 0 {
		return p, nil
	}
	slices.Sort(stale)
	return p, &Message{To: p, Kind: Clear, IDs: stale}
}
