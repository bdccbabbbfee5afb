package schedule

import (
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Invitation is a meeting of somebody outside to which somebody inside is invited. Attendee is
// the address that is invited; Waiting is a message about it that was not believed by itself, nil
// for none.
type Invitation struct {
	ID, PersonID             uuid.UUID
	UID                      string
	State                    invited.State
	Waiting                  *invited.Message
	OrganiserName, Organiser string
	Attendee, Title          string
	Answer                   meeting.Answer
	Comment                  string
	AnsweredAt               *time.Time
	Reply                    State // how far the answer came, "" before there is one
	ReplyDetail              string
	Version                  int
	ArrivedAt, ChangedAt     time.Time
	ExpandedOn               when.Day
}

// Name is what its organiser is called.
func (i Invitation) Name() string {
	if i.OrganiserName != "" {
		return i.OrganiserName
	}
	return i.Organiser
}

// OpenInvitation is one that waits for its reader, with when it is next.
type OpenInvitation struct {
	Invitation
	Start when.Instant
}

// InvitationReply is an answer on its way to who organises a meeting outside.
type InvitationReply struct {
	Invitation
	From      meeting.Party // who answers
	House     House
	Stamp     time.Time
	MessageID string // without angle brackets
}

// Taken is the time that its dates take: none that was declined, and maybe until it is accepted.
func (i Invitation) Taken(dates []CalendarEntry) (out []availability.Time) {
	kind := availability.Maybe
	switch i.Answer {
	case meeting.Accepted:
		kind = availability.Busy
	case meeting.Declined:
		return nil
	}
	for _, d := range dates {
		if d.Kind != availability.Free {
			out = append(out, availability.Time{Span: d.Span, Kind: kind})
		}
	}
	return out
}
