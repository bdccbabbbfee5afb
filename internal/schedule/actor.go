package schedule

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/tongue"
	"jembro/internal/core/typed"
)

// Actor is who does a deed, and for whom: the same person, mostly.
type Actor struct{ By, For uuid.UUID }

// Self is somebody who acts for themselves.
func Self(person uuid.UUID) Actor { return Actor{By: person, For: person} }

type windowKey struct{}

// FromWindow marks what is done under ctx as asked for by one open window, so that
// it need not be told of its own deed.
func FromWindow(ctx context.Context, window string) context.Context {
	return context.WithValue(ctx, windowKey{}, window)
}

// WindowOf is the window that asked, or "".
func WindowOf(ctx context.Context) string {
	window, _ := ctx.Value(windowKey{}).(string)
	return window
}

type orderKey struct{}

// WritingDays marks what is done under ctx as asked for by somebody whose region writes
// days in numbers in this order.
func WritingDays(ctx context.Context, order typed.Order) context.Context {
	return context.WithValue(ctx, orderKey{}, order)
}

// DayOrder is that order, the day first where it is not known.
func DayOrder(ctx context.Context) typed.Order {
	order, _ := ctx.Value(orderKey{}).(typed.Order)
	return order
}

type tongueKey struct{}

// Reading marks what is done under ctx as asked for by somebody who reads a language.
func Reading(ctx context.Context, t tongue.Tongue) context.Context {
	return context.WithValue(ctx, tongueKey{}, t)
}

// Tongue is that language, English where it is not known.
func Tongue(ctx context.Context) tongue.Tongue {
	t, _ := ctx.Value(tongueKey{}).(tongue.Tongue)
	return t
}

// Topic is what a notice is about.
type Topic string

const (
	AboutMeeting    Topic = "meeting"
	AboutSheet      Topic = "sheet"
	AboutNews       Topic = "news"       // it was read
	AboutToday      Topic = "today"      // a loose end is let be
	AboutInvitation Topic = "invitation" // from outside
	AboutRoom       Topic = "room"
	AboutHours      Topic = "hours"   // hours, leave, other calendars, and who sees what
	AboutSession    Topic = "session" // it is over
)

// Notice says to the windows of some people that something they may show has
// changed: what, and whose deed it was.
type Notice struct {
	People []uuid.UUID `json:"people"`
	Topic  Topic       `json:"topic"`
	ID     uuid.UUID   `json:"id"`
	Window string      `json:"window,omitempty"`
}
