package schedule

import (
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// ProposalState is what became of a proposal.
type ProposalState string

const (
	ProposalOpen     ProposalState = "open"
	ProposalTaken    ProposalState = "taken"    // the meeting moved there
	ProposalKept     ProposalState = "kept"     // the meeting stays where it is
	ProposalReplaced ProposalState = "replaced" // by a newer one
)

// Proposal is another time that somebody proposes for a meeting. Was is when what it is about
// was then.
type Proposal struct {
	ID, MeetingID, ParticipantID uuid.UUID
	meeting.Proposal
	Was       when.Span
	Via       Via
	State     ProposalState
	ArrivedAt time.Time
}

// Silent is somebody who needs to answer about a date that is near, and did not. Zone is theirs,
// or that of the meeting where nobody knows it.
type Silent struct {
	Participant, Organiser uuid.UUID
	Start                  when.Instant
	Zone                   when.Zone
}
