package meetings

import (
	"slices"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
)

// SeriesView is a series as the pages of a meeting show it.
type SeriesView struct {
	Words string // "every 2nd Thursday until 25 February 2027"
	Open  bool
	// Count is how many dates there are and Left how many are still to come, both 0
	// for a series without an end.
	Count, Left int
	Near        bool     // the end is near
	Next        when.Day // the next date, or the last one
	More        bool     // there are more than Dates
	Dates       []SeriesDate
}

// These are how a date of a running series stands.
const (
	SeriesHeld   = "held"
	SeriesComing = "coming"
	SeriesNoRoom = "noroom" // a room is meant, and none is booked
	SeriesOff    = "off"    // called off
)

// SeriesDate is one date with what became of it.
type SeriesDate struct {
	meeting.Date
	State   string
	Words   string // what it has of its own
	Answers map[meeting.Answer]int
	// Mine is the reader's answer to it, nil for the organiser; MySequence is the
	// state that they answer.
	Mine       *meeting.Answer
	MySequence int
}

const (
	// seriesShown is how many dates are shown, and seriesBefore how many of them
	// lie before the next one.
	seriesShown, seriesBefore = 60, 8
)

// Series is the series of a meeting, nil for one that is once.
func (s *Deeds) Series(t tongue.Tongue, d Detail) *SeriesView {
	return s.series(t, d.Content, d.Invited, d.Roll, d.Booked, d.Me)
}

// GuestSeries is the same for a guest: the dates they are invited to.
func (s *Deeds) GuestSeries(v GuestView) *SeriesView {
	return s.series(v.Tongue, v.Content, []schedule.Invited{v.Guest}, v.roll, nil, &v.Guest)
}

func (s *Deeds) series(t tongue.Tongue, m meeting.Meeting, invited []schedule.Invited, roll schedule.Roll, booked []schedule.Occurrence, me *schedule.Invited) *SeriesView {
	if !m.Repeats() {
		return nil
	}
	now := when.At(s.Now())
	plan := m.Plan()
	out := &SeriesView{Open: plan.Open(), Next: m.Next(when.At(s.Now()))}
	_, ends := plan.Last()
	out.Words = words.Series(t, plan)
	theirs := func(when.Day) bool { return true }
	if me != nil {
		p, is := m.Participant(me.ID.String())
		theirs = func(on when.Day) bool { return is && p.On(on) }
		if len(p.Dates) > 0 { // the rule is not for them to know, only their dates
			out.Words, out.Open = DatesWords(t, m, *me), out.Open && !p.Finite()
			ends = !out.Open
			out.Next = m.NextOf(p, now)
		}
	}
	var shown []SeriesDate
	for d := range m.Dates(m.Start.Day) {
		if !theirs(d.On) {
			if d.On > out.Next+2*meeting.Horizon {
				break
			}
			continue
		}
		if ends {
			out.Count++
			if d.Span.Start > now {
				out.Left++
			}
		} else if d.On > out.Next+2*meeting.Horizon {
			break
		}
		shown = append(shown, s.seriesDate(t, m, d, invited, roll, booked, me, now))
	}
	for _, day := range m.Series.Off {
		if theirs(day) {
			shown = append(shown, SeriesDate{Date: meeting.Date{Date: plan.Regular(day), Title: m.Title, Text: m.Text}, State: SeriesOff, Words: t.Say("called off")})
		}
	}
	slices.SortStableFunc(shown, func(a, b SeriesDate) int { return int(a.Span.Start - b.Span.Start) })
	_, near := m.EndsSoon(now)
	out.Near = me == nil && near
	from := max(0, slices.IndexFunc(shown, func(d SeriesDate) bool { return d.On >= out.Next })-seriesBefore)
	if len(shown) <= seriesShown {
		from = 0
	}
	out.Dates = shown[from:min(len(shown), from+seriesShown)]
	out.More = out.Open || len(out.Dates) < len(shown)
	return out
}

func (s *Deeds) seriesDate(t tongue.Tongue, m meeting.Meeting, d meeting.Date, invited []schedule.Invited, roll schedule.Roll, booked []schedule.Occurrence, me *schedule.Invited, now when.Instant) SeriesDate {
	out := SeriesDate{Date: d, State: SeriesComing, Answers: map[meeting.Answer]int{}}
	if d.Span.Start <= now {
		out.State = SeriesHeld
	}
	for _, i := range invited {
		if p := roll.At(i.ID, d.On); p.Invited {
			out.Answers[p.Answer]++
		}
	}
	if part, is := mine(roll, me); is {
		answer := part.At(d.On).Answer
		out.Mine, out.MySequence = &answer, part.Kept().SeenOn(d.On)
	}
	var words []string
	if d.Moved {
		words = append(words, MovedWords(t, m, d))
	}
	switch {
	case d.Room == nil && m.Room != nil:
		words = append(words, t.Say("no room"))
	case d.Room != nil && (m.Room == nil || d.Room.ID != m.Room.ID):
		words = append(words, d.Room.Name)
	}
	if d.Title != m.Title {
		words = append(words, "“"+d.Title+"”")
	}
	if d.Room != nil && out.State == SeriesComing {
		for _, o := range booked {
			if o.On == d.On && o.RoomID == uuid.Nil {
				out.State = SeriesNoRoom
				words = append(words, t.Say("%s is taken", d.Room.Name))
			}
		}
	}
	out.Words = strings.Join(words, ", ")
	return out
}

// MovedWords says where a date was moved from: "moved from 24 Dec", or, on the
// same day, "moved from 9:30".
func MovedWords(t tongue.Tongue, m meeting.Meeting, d meeting.Date) string {
	regular := m.Plan().Regular(d.On)
	switch {
	case d.Start.Day != d.On:
		return t.Say("moved from %s", words.ShortDay(t, d.On))
	case d.Start == regular.Start:
		return t.Say("until %s", d.End.Clock.String())
	}
	return t.Say("moved from %s", regular.Start.Clock.String())
}

// DatesWords says which dates somebody is invited to, "" for all.
func DatesWords(t tongue.Tongue, m meeting.Meeting, i schedule.Invited) string {
	p, is := m.Participant(i.ID.String())
	if !is || len(p.Dates) == 0 || !m.Repeats() {
		return ""
	}
	if !p.Finite() {
		return t.Say("from %s on", t.Date(p.Dates[0].From))
	}
	return theirDates(t, m, p)
}

// mine is the part of the reader, ok is false for the organiser.
func mine(roll schedule.Roll, me *schedule.Invited) (part meeting.Part, ok bool) {
	if me == nil {
		return part, false
	}
	return roll.Part(me.ID)
}
