package schedule

import (
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
)

// Filed is a meeting as a calendar file holds it, made into what a sheet can hold. Text names
// ways into a call as well; Lost is what a sheet cannot hold.
type Filed struct {
	Draft meeting.Draft
	Call  string // the text to read a way into a call from, "" for none
	Lost  []say.What
}
