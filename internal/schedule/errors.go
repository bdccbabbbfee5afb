package schedule

import (
	"errors"
	"fmt"
	"time"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
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
	return fmt.Sprintf("%d fields cannot be taken, first %s: %s", len(e.Faults), e.Faults[0].Field, e.Faults[0].What.Error())
}

// As gives what the first fault says to who asks for that.
func (e *InvalidError) As(target any) bool {
	what, is := target.(*say.What)
	if is {
		*what = e.Faults[0].What
	}
	return is
}

// Invalid is input that cannot be taken, at the field at fault.
func Invalid(field string, what say.What) error {
	return &InvalidError{[]meeting.Fault{{Field: field, What: what}}}
}

// Unread is the same for what a core package does not take, with what its error says.
func Unread(field string, err error) error {
	what, ok := say.Of(err)
	if !ok {
		return err
	}
	return Invalid(field, what)
}

// VersionError: somebody else, or another window, was first. Current is what
// holds now.
type VersionError struct {
	Sheet   *Sheet               // for a sheet
	Meeting *Record              // for a meeting
	Facts   *meeting.ChangeFacts // what differs from the version the caller knew, with Meeting
	What    say.What             // what the caller may do, otherwise
}

// Changed says that a meeting is another than the one that its caller knew.
func Changed(is Record, was meeting.Meeting) error {
	facts := meeting.Compare(was, is.Content).Facts()
	return &VersionError{Meeting: &is, Facts: &facts}
}

func (e *VersionError) Error() string { return "changed in the meantime: " + e.What.Error() }

// TakenError: rooms are taken, on every date that is named. Clear are the rooms
// that are clear on all of these dates and large enough instead.
type TakenError struct {
	Series bool // the dates are some of a series
	Taken  []rooms.Taken
	Clear  []Room
}

func (e *TakenError) Error() string { return e.Taken[0].Room + " is taken" }

// What says it by the clocks of the reader's zone.
func (e *TakenError) What(zone when.Zone) say.What {
	if e.Series {
		return rooms.TakenDates(e.Taken, zone)
	}
	return e.Taken[0].What(zone)
}

// ProviderError is what came of asking a conferencing provider, with what to do. Kind is ErrConnect, ErrUnreachable, ErrNotFound where the call is gone, or a
// *RefusedError.
type ProviderError struct {
	Provider string
	What     say.What
	Kind     error
	Wait     time.Duration // that it asks for before the next try, 0 where it does not
	Cause    error
}

func (e *ProviderError) Error() string {
	if e.Cause != nil {
		return e.Provider + ": " + e.What.Error() + ": " + e.Cause.Error()
	}
	return e.Provider + ": " + e.What.Error()
}

// As gives what it says to who asks for that.
func (e *ProviderError) As(target any) bool {
	what, is := target.(*say.What)
	if is {
		*what = e.What
	}
	return is
}

func (e *ProviderError) Unwrap() []error {
	if e.Cause == nil {
		return []error{e.Kind}
	}
	return []error{e.Kind, e.Cause}
}
