package rooms

import "time"

// Limits of holding a room for a sheet.
const (
	HoldFor   = 10 * time.Minute // a hold, renewed while its sheet is in front
	HoldAgain = 4 * time.Minute  // when that is done: one that fails can be done again before it lapses
	HoldLimit = time.Hour        // one person holds a room for a day so long, then it is others' turn for as long
	HoldMost  = 3                // sheets of one person that hold something
	HoldDates = 60               // dates of a series that are held, the first
)

// HoldUntil is until when somebody can hold a room who has held it since some moment, and
// until when at the last; both are zero for who has not. ok is false where it is others'
// turn, until the moment given. from is what to keep as since.
func HoldUntil(since, last, now time.Time) (until, from time.Time, ok bool) {
	if last.IsZero() || !now.Before(last.Add(HoldLimit)) {
		since = now
	}
	end := since.Add(HoldLimit)
	if !now.Before(end) {
		return last.Add(HoldLimit), since, false
	}
	until = now.Add(HoldFor)
	if until.After(end) {
		until = end
	}
	return until, since, true
}
