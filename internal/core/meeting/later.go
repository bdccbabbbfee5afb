package meeting

import (
	"time"

	"jembro/internal/core/say"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
)

// LaterLimit is how long a sheet can wait to be sent.
const LaterLimit = 30 * 24 * time.Hour

// LaterFault is what stands against sending what makes m at a moment to come, nil for nothing.
func (m Meeting) LaterFault(at, now when.Instant) *Fault {
	fault := func(what say.What) *Fault { return &Fault{Field: "sendAt", What: what} }
	switch next, is := m.Date(m.Next(now)); {
	case at <= now:
		return fault(say.It("meeting.later.over"))
	case at > now.Add(LaterLimit):
		return fault(say.It("meeting.later.far"))
	case is && next.Span.Start > now && at >= next.Span.Start:
		return fault(say.It("meeting.later.afterStart"))
	}
	return nil
}

// LaterMoment is the moment that somebody typed, at now on their clocks: "7:00" is the next time
// that clocks show it. ok is false where no time is said.
func LaterMoment(w typed.When, now when.Local) (at when.Local, ok bool) {
	switch {
	case w.Shift > 0:
		return now.Add(w.Shift), true
	case !w.HasStart:
		return at, false
	case w.HasDay:
		return when.Local{Day: w.Day, Clock: w.Start}, true
	}
	if at = (when.Local{Day: now.Day, Clock: w.Start}); at.Sub(now) <= 0 {
		at.Day++
	}
	return at, true
}

// StartsAt is when the draft says that it starts, 0 while that is not clear.
func (d Draft) StartsAt() when.Instant {
	start, err := when.ParseLocal(d.Start)
	if err != nil {
		return 0
	}
	zone, err := when.LoadZone(d.Zone)
	if err != nil {
		return 0
	}
	return when.Zoned{Local: start, Zone: zone}.Instant()
}
