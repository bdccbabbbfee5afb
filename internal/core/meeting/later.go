package meeting

import (
	"time"

	"jembro/internal/core/when"
)

// LaterLimit is how long a sheet can wait to be sent.
const LaterLimit = 30 * 24 * time.Hour

// LaterFault is what stands against sending what makes m at a moment to come, nil for nothing.
func (m Meeting) LaterFault(at, now when.Instant) *Fault {
	fault := func(sentence string) *Fault { return &Fault{Field: "sendAt", Sentence: sentence} }
	switch next, is := m.Date(m.Next(now)); {
	case at <= now:
		return fault("That moment is over. Give one to come.")
	case at > now.Add(LaterLimit):
		return fault("A sheet can wait for 30 days. Give an earlier day, or keep it as a draft.")
	case is && next.Span.Start > now && at >= next.Span.Start:
		return fault("The meeting begins before that. Give an earlier moment.")
	}
	return nil
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
