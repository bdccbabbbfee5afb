package schedule

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Recipient is somebody invited as letters about a version of the meeting name
// them.
func Recipient(i Invited, m meeting.Meeting) meeting.Participant {
	p := meeting.Participant{ID: i.ID.String(), Party: i.Party(), Needed: i.Needed}
	if in, ok := m.Participant(p.ID); ok {
		p.Dates, p.Single = in.Dates, in.Single
	}
	return p
}

// AnswersByDay are answers to single dates by their day.
func AnswersByDay(answers []AnswerOn) map[when.Day]meeting.Answer {
	out := map[when.Day]meeting.Answer{}
	for _, a := range answers {
		if a.Answer != "" {
			out[a.On] = a.Answer
		}
	}
	return out
}

// Letter is a message to one participant, before it is written out.
type Letter struct {
	DispatchID uuid.UUID
	Kind       meeting.Kind
	Meeting    meeting.Meeting
	Stamp      time.Time
	To         meeting.Participant
	// On are the dates of a series that it is about; empty for all of theirs.
	On     []when.Day
	Answer meeting.Answer // what they answered so far
	// Answers are what they answered to single dates of a series.
	Answers map[when.Day]meeting.Answer
	Words   string // what changed, or the word with a cancellation
	House   House
	// GuestURL is the page of this recipient, ReplyTo the address that takes
	// their answer, MessageID and Earlier the names of this and of the earlier
	// messages about the meeting to them, without angle brackets.
	GuestURL, ReplyTo, MessageID string
	Earlier                      []string
}

// Rendered is a letter as its reader sees it.
type Rendered struct {
	Subject, HTML, Text string
	Calendar            []byte // text/calendar
}

// Post writes letters and hands them over.
type Post interface {
	Render(Letter) (Rendered, error)
	// Send hands a letter to the mail server and returns that server's name. It
	// fails with a *RefusedError when trying again does not help.
	Send(ctx context.Context, l Letter) (takenBy string, err error)
}
