package rooms

import (
	"slices"
	"time"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// TurnFor is how long what somebody waited for is held for them, before it is the next
// one's turn.
const TurnFor = 30 * time.Minute

// Waiting is somebody who waits for a room, or only for people, to be clear in a stretch.
type Waiting struct {
	Room string // its ID, "" where no room is waited for
	Span when.Span
	Gap  time.Duration // of the room
	// Clear tells that the room, and everybody needed, are clear then.
	Clear bool
}

// Turns gives the places of those whose turn it is, out of all who wait in the order in
// which they began to: what they wait for is clear, and nobody before them has the same
// room at the same time.
func Turns(all []Waiting) (places []int) {
	taken := map[string]when.Spans{}
	for i, w := range all {
		if !w.Clear || w.Room != "" && taken[w.Room].Overlaps(Rules{Gap: w.Gap}.Turned(w.Span)) {
			continue
		}
		places = append(places, i)
		if w.Room != "" {
			taken[w.Room] = taken[w.Room].Union(when.Spans{w.Span})
		}
	}
	return places
}

// UnsureWithin is how long before a booking begins it is asked if it is still needed.
const UnsureWithin = 24 * time.Hour

// Unsure tells whether it should be asked if a booking is still needed: it begins within
// a day, others are asked to come, and not one of them has said that they do or may.
func Unsure(begins, now when.Instant, answers []meeting.Answer) bool {
	return begins > now && begins <= now.Add(UnsureWithin) && len(answers) > 0 && !slices.ContainsFunc(answers, meeting.Answer.MayCome)
}
