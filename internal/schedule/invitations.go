package schedule

import (
	"cmp"
	"slices"
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
	ID, PersonID uuid.UUID
	// RoomID is set where it asks for a room: PersonID is its keeper then, who answers for it.
	RoomID                   *uuid.UUID
	UID                      string
	State                    invited.State
	Waiting                  *invited.Message
	OrganiserName, Organiser string
	Attendee, Title          string
	Answer                   meeting.Answer
	Comment                  string
	// Answers are those to single dates, Replying the dates whose answers are on their way: by when
	// they were meant first, 0 for all.
	Answers              []InvitationAnswer
	Replying             []when.Instant
	AnsweredAt           *time.Time
	Reply                State // how far the answer came, "" before there is one
	ReplyDetail          string
	Version              int
	ArrivedAt, ChangedAt time.Time
	ExpandedOn           when.Day
}

// InvitationAnswer is an answer to one date, by when that was meant first (RECURRENCE-ID).
type InvitationAnswer struct {
	On      when.Instant   `json:"on"`
	Answer  meeting.Answer `json:"answer"`
	Comment string         `json:"comment,omitempty"`
}

// To is the answer to a date of its own, ok is false where that to all holds.
func (i Invitation) To(on when.Instant) (a InvitationAnswer, ok bool) {
	for _, a := range i.Answers {
		if a.On == on {
			return a, true
		}
	}
	return a, false
}

// Answering is the invitation with an answer to one date, or with 0 to all: also to those that had
// one of their own, which their organiser's program may keep apart.
func (i Invitation) Answering(on when.Instant, answer meeting.Answer, comment string) Invitation {
	if on == 0 {
		i.Answer, i.Comment, i.Replying = answer, comment, []when.Instant{0}
		i.Answers = slices.Clone(i.Answers)
		for at := range i.Answers {
			i.Answers[at].Answer, i.Answers[at].Comment = answer, ""
			i.Replying = append(i.Replying, i.Answers[at].On)
		}
	} else {
		others := func(a InvitationAnswer) bool { return a.On == on }
		i.Answers = append(slices.DeleteFunc(slices.Clone(i.Answers), others), InvitationAnswer{On: on, Answer: answer, Comment: comment})
	}
	if !slices.Contains(i.Replying, on) {
		i.Replying = append(slices.Clone(i.Replying), on)
	}
	return i
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
	Zone      when.Zone // the reader's, in which floating times are meant
	MessageID string    // without angle brackets
}

// Taken is the time that its dates take: none that was declined, and maybe until it is accepted.
func (i Invitation) Taken(dates []CalendarEntry) (out []availability.Time) {
	for _, d := range dates {
		kind := availability.Maybe
		switch cmp.Or(d.Answer, i.Answer) {
		case meeting.Accepted:
			kind = availability.Busy
		case meeting.Declined:
			continue
		}
		if d.Kind != availability.Free {
			out = append(out, availability.Time{Span: d.Span, Kind: kind})
		}
	}
	return out
}
