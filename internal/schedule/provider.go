package schedule

import (
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/join"
	"jembro/internal/core/when"
)

// ProviderRecord is a conferencing provider as it is kept: the description that is being
// written, and what is in use of it.
type ProviderRecord struct {
	Key          string
	Draft        string
	DraftVersion int
	Version      int // the newest that was put into use, 0 for none
	InUse        bool
	Service      join.Service // of that version
	Secrets      []byte       // sealed
	SecretNames  []string     // which there are
}

// ProviderVersion is when a version of a description was put into use, and by whom.
type ProviderVersion struct {
	Number int
	At     time.Time
	By     string
}

// StandingKind is whose a standing link is.
type StandingKind string

const (
	OfPerson StandingKind = "person"
	OfRoom   StandingKind = "room"
	OfGroup  StandingKind = "group"
)

// StandingLink is a permanent way into a call. That of a room has the room's id, and no owner.
type StandingLink struct {
	ID         uuid.UUID
	Kind       StandingKind
	Name       string
	OwnerID    uuid.UUID // who keeps it, uuid.Nil for a room
	SharedWith []uuid.UUID
	Card       join.Card
	Version    int
}

// StandingUse is a date on which a meeting uses a standing link.
type StandingUse struct {
	Span      when.Span
	MeetingID uuid.UUID
	Title, By string
	Private   bool
	Mine      bool               // the reader is part of it
	Shares    availability.Level // what its organiser lets the reader see
}

// Known is the use as its reader may know it (DESIGN.md, rule 2): its title only where they
// are part of it or titles are shared with them, and whose it is not where that is private.
func (u StandingUse) Known() StandingUse {
	switch {
	case u.Mine:
		return u
	case u.Private || u.Shares == availability.SeeNothing:
		u.Title, u.By = "", ""
	case !u.Shares.Titles():
		u.Title = ""
	}
	u.MeetingID = uuid.Nil
	return u
}
