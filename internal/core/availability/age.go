package availability

import (
	"time"

	"jembro/internal/core/say"
)

// Fault is why a calendar kept elsewhere could not be read.
type Fault string

const (
	FaultNone        Fault = ""
	FaultUnreachable Fault = "unreachable" // no answer, or none that ends in time
	FaultGone        Fault = "gone"        // nothing is there (404, 410)
	FaultForbidden   Fault = "forbidden"   // it wants somebody to sign in (401, 403)
	FaultBroken      Fault = "broken"      // the other side says that it is at fault (5xx), or breaks off
	FaultNotCalendar Fault = "notCalendar"
	FaultTooLarge    Fault = "tooLarge"
	FaultTooOften    Fault = "tooOften" // an entry repeats beyond what can be looked up
	FaultPrivate     Fault = "private"  // it leads to an address that is not asked for anybody
	FaultRedirects   Fault = "redirects"
	FaultAddress     Fault = "address" // it is none, or nobody has that name
	FaultEmpty       Fault = "empty"   // it came back without any entry
)

// Definite tells whether looking again would find the same: whoever typed the address has
// to mend it.
func (f Fault) Definite() bool {
	switch f {
	case FaultNone, FaultUnreachable, FaultBroken, FaultEmpty:
		return false
	}
	return true
}

// How often a calendar is looked at that says nothing of it, and the bounds of what it can
// say.
const (
	lookEvery, lookSoonest, lookLatest = time.Hour, 15 * time.Minute, 24 * time.Hour
	retrySoonest, retryLatest          = 2 * time.Minute, 6 * time.Hour
)

// NextLook is how long to wait before looking at a calendar again: as its publisher says,
// within bounds, and after failures ever longer. wait is what the other side asked for.
func NextLook(refresh time.Duration, failures int, wait time.Duration) time.Duration {
	if failures > 0 {
		return max(min(retrySoonest<<min(failures-1, 12), retryLatest), min(wait, lookLatest))
	}
	if refresh <= 0 {
		refresh = lookEvery
	}
	return min(max(refresh, lookSoonest), lookLatest)
}

// What is why a calendar kept elsewhere cannot be read, and what to do; nothing for FaultNone.
func (f Fault) What() say.What {
	if f == FaultNone {
		return say.What{}
	}
	return say.It(say.Code("calendar.fault." + f))
}
