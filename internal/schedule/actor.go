package schedule

import (
	"context"

	"github.com/google/uuid"
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

// Topic is what a notice is about.
type Topic string

const (
	AboutMeeting Topic = "meeting"
	AboutSheet   Topic = "sheet"
	AboutSession Topic = "session" // it is over
)

// Notice says to the windows of some people that something they may show has
// changed: what, and whose deed it was.
type Notice struct {
	People []uuid.UUID `json:"people"`
	Topic  Topic       `json:"topic"`
	ID     uuid.UUID   `json:"id"`
	Window string      `json:"window,omitempty"`
}
