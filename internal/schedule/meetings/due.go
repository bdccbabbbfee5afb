package meetings

import (
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule/kernel"
)

// Due is a message that Send would cause, and what it is about: "4 dates at
// 10:00", "28 January only".
type Due struct {
	meeting.Message
	Whole bool // the meeting or the series, and not single dates of it
	Words string
}

// DueWords says of each message of what is settled what it is about.
func DueWords(in tongue.Tongue, st kernel.Settled) (out []Due) {
	say := func(m meeting.Meeting, due []meeting.Message, next bool) {
		for _, d := range due {
			whole := !m.Repeats() || d.Kind == meeting.Invite || d.Kind == meeting.CallOff && len(d.On) == 0
			out = append(out, Due{d, whole, dueWords(in, st, m, d, next)})
		}
	}
	say(st.Meeting, st.Due, false)
	if st.Next != nil {
		say(*st.Next, st.DueNext, true)
	}
	return out
}

func dueWords(in tongue.Tongue, st kernel.Settled, m meeting.Meeting, d meeting.Message, next bool) string {
	if !m.Repeats() {
		return ""
	}
	switch {
	case d.Kind == meeting.Clear:
		return in.Say("%s as it was, taken back", words.Count(in, len(d.IDs), "single date"))
	case len(d.On) > 0 && d.Kind == meeting.CallOff:
		return in.Say("%s called off", words.Days(in, d.On))
	case len(d.On) > 0:
		return words.Days(in, d.On)
	case d.Kind == meeting.CallOff:
		return in.Say("no more dates")
	case next:
		return theirDates(in, m, d.To) + " " + words.FromAt(in, st.Next.Start)
	case st.Next != nil:
		last, _ := m.Plan().Last()
		return in.Say("the old dates end with %s", in.Date(last))
	}
	return theirDates(in, m, d.To)
}

// theirDates says how many dates somebody is invited to.
func theirDates(t tongue.Tongue, m meeting.Meeting, p meeting.Participant) string {
	if !p.Finite() && m.Plan().Open() {
		return t.Say("all dates, no end")
	}
	dates := m.DatesOf(p, m.Start.Day+10*meeting.Horizon)
	if len(dates) == 1 {
		return t.Say("%s only", t.Date(dates[0].Start.Day))
	}
	return t.Say("%d dates", len(dates))
}
