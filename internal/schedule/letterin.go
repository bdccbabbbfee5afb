package schedule

import (
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// LetterState is where a mail to a meeting stands.
type LetterState string

const (
	LetterTaken LetterState = "taken" // there is nothing to decide
	LetterOpen  LetterState = "open"  // the organiser decides
	LetterLeft  LetterState = "left"  // they decided that it does not count
)

// LetterIn is a mail that came to the address of a meeting.
type LetterIn struct {
	ID, MeetingID       uuid.UUID
	Digest              []byte // of what makes it the same mail
	FromName, FromEmail string
	SignedBy            string // the domain of a valid DKIM signature that goes with From, or ""
	Subject, Words      string
	Answers             []AnswerIn
	Why                 string // why a calendar part of it could not be read, or ""
	State               LetterState
	ArrivedAt           time.Time
	Raw                 []byte // kept until it is handed on, nil where it is not
}

// AnswerIn is an answer in such a mail, and what became of it.
type AnswerIn struct {
	Attendee string `json:"attendee"`
	// Method is how it came, "" for a REPLY, or for plain words.
	Method string `json:"method,omitempty"`
	// Proposed is the other time that it proposes, Delegate the address of who is sent
	// instead, DelegatedFrom that of who sends the writer.
	Proposed      *when.Span     `json:"proposed,omitempty"`
	Delegate      string         `json:"delegate,omitempty"`
	DelegatedFrom string         `json:"delegatedFrom,omitempty"`
	Answer        meeting.Answer `json:"answer"`
	Comment       string         `json:"comment,omitempty"`
	// Date is the one of a series that it is to, nil for all, and Days the days of the
	// rule that this comes to.
	Date     *meeting.DateID `json:"date,omitempty"`
	Days     []when.Day      `json:"days,omitempty"`
	Sequence int             `json:"sequence"`
	Stamp    int64           `json:"stamp"`
	// Meeting is the series that the dates are in now, where one goes on from it.
	Meeting     uuid.UUID       `json:"meeting"`
	Participant uuid.UUID       `json:"participant"` // uuid.Nil where it is nobody
	Verdict     meeting.Verdict `json:"verdict"`
}
