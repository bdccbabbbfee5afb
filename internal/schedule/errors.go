package schedule

import (
	"errors"
	"fmt"
	"time"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

var (
	// ErrNotFound: it is not there, or not for this person to see.
	ErrNotFound = errors.New("not found")
	// ErrOverlap: the database refused a booking that overlaps another one.
	ErrOverlap = errors.New("room is taken")
	// ErrSignIn: name or password are wrong.
	ErrSignIn = errors.New("name or password are wrong")
	// ErrConnect: the person has no account at the provider, or it is no longer
	// valid; they have to sign in there.
	ErrConnect = errors.New("sign-in at the provider needed")
	// ErrUnreachable: the other side does not answer, or not sensibly. Trying
	// again later can help.
	ErrUnreachable = errors.New("the other side does not answer")
	// ErrCalledOff: the meeting has been called off and cannot be changed.
	ErrCalledOff = errors.New("the meeting has been called off")
)

// RefusedError is a refusal by the other side that trying again does not mend.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return "refused: " + e.Reason }

// InvalidError is input that cannot be taken, with every field at fault.
type InvalidError struct{ Faults []meeting.Fault }

func (e *InvalidError) Error() string {
	return fmt.Sprintf("%d fields cannot be taken, first %s: %s", len(e.Faults), e.Faults[0].Field, e.Faults[0].Sentence)
}

func Invalid(field, sentence string) error {
	return &InvalidError{[]meeting.Fault{{Field: field, Sentence: sentence}}}
}

// VersionError: somebody else, or another window, was first. Current is what
// holds now.
type VersionError struct {
	Sheet   *Sheet  // for a sheet
	Meeting *Record // for a meeting
	Changed string  // what differs from the version the caller knew, in words
}

func (e *VersionError) Error() string { return "changed in the meantime: " + e.Changed }

// TakenError: rooms are taken, on every date that is named. Clear are the rooms
// that are clear on all of these dates and large enough instead.
type TakenError struct {
	Series bool // the dates are some of a series
	Taken  []rooms.Taken
	Clear  []Room
}

func (e *TakenError) Error() string { return e.Taken[0].Room + " is taken" }

// Sentence says it by the clocks of the reader's zone.
func (e *TakenError) Sentence(zone when.Zone) string {
	if e.Series {
		return words.TakenDates(e.Taken, zone)
	}
	return words.Taken(e.Taken[0], zone)
}

// ProviderError is what came of asking a conferencing provider, as a sentence that tells what
// to do. Kind is ErrConnect, ErrUnreachable, ErrNotFound where the call is gone, or a
// *RefusedError.
type ProviderError struct {
	Provider, Sentence string
	Kind               error
	Wait               time.Duration // that it asks for before the next try, 0 where it does not
	Cause              error
}

func (e *ProviderError) Error() string {
	if e.Cause != nil {
		return e.Provider + ": " + e.Sentence + ": " + e.Cause.Error()
	}
	return e.Provider + ": " + e.Sentence
}

func (e *ProviderError) Unwrap() []error {
	if e.Cause == nil {
		return []error{e.Kind}
	}
	return []error{e.Kind, e.Cause}
}
