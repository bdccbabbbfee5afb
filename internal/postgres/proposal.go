package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// AddProposal keeps another time that somebody proposes.
func (t *Tx) AddProposal(ctx context.Context, p schedule.Proposal) error {
	return t.InsertProposal(ctx, db.InsertProposalParams{ID: p.ID, MeetingID: p.MeetingID, ParticipantID: p.ParticipantID, OnDay: dayOrNull(p.On),
		Starts: p.Span.Start.Time(), Ends: p.Span.End.Time(), WasStarts: p.Was.Start.Time(), WasEnds: p.Was.End.Time(), Comment: p.Comment,
		Sequence: int32(p.Sequence), Stamp: p.Stamp, Via: string(p.Via), ArrivedAt: p.ArrivedAt})
}

// ReplaceProposals ends what somebody proposed before about the same date.
func (t *Tx) ReplaceProposals(ctx context.Context, participant uuid.UUID, on when.Day, at time.Time) error {
	return t.Queries.ReplaceProposals(ctx, db.ReplaceProposalsParams{ParticipantID: participant, OnDay: dayOrNull(on), At: &at})
}

// Proposals are those of some meetings that are not decided, the oldest first.
func (t *Tx) Proposals(ctx context.Context, meetings []uuid.UUID) ([]schedule.Proposal, error) {
	rows, err := t.Queries.Proposals(ctx, meetings)
	if err != nil {
		return nil, err
	}
	return each(rows, toProposal)
}

// ProposalsOf are those of one participant, the newest first.
func (t *Tx) ProposalsOf(ctx context.Context, participant uuid.UUID) ([]schedule.Proposal, error) {
	rows, err := t.Queries.ProposalsOf(ctx, participant)
	if err != nil {
		return nil, err
	}
	return each(rows, toProposal)
}

// MeetingsWithProposals are those of an organiser with a proposal to decide.
func (t *Tx) MeetingsWithProposals(ctx context.Context, organiser uuid.UUID, now time.Time) ([]uuid.UUID, error) {
	return t.Queries.MeetingsWithProposals(ctx, db.MeetingsWithProposalsParams{OrganiserID: organiser, Now: now})
}

// LockProposal makes other transactions wait.
func (t *Tx) LockProposal(ctx context.Context, id uuid.UUID) (schedule.Proposal, error) {
	row, err := t.Queries.LockProposal(ctx, id)
	if err != nil {
		return schedule.Proposal{}, domain(err)
	}
	return toProposal(row)
}

// SetProposal keeps how a proposal was decided.
func (t *Tx) SetProposal(ctx context.Context, id uuid.UUID, state schedule.ProposalState, at time.Time) error {
	return t.Queries.SetProposal(ctx, db.SetProposalParams{ID: id, State: string(state), At: &at})
}

// MailsSince is how many mails to a participant were written since a moment.
func (t *Tx) MailsSince(ctx context.Context, participant uuid.UUID, since time.Time) (int, error) {
	n, err := t.Queries.MailsSince(ctx, db.MailsSinceParams{ParticipantID: participant, Since: since})
	return int(n), err
}

// Aliases are other addresses of somebody, as an organiser learnt them.
func (t *Tx) Aliases(ctx context.Context, organiser uuid.UUID, email string) (out []string, err error) {
	rows, err := t.AliasesOf(ctx, db.AliasesOfParams{PersonID: organiser, Email: email})
	for _, r := range rows {
		out = append(out, r.Address)
	}
	return out, err
}

func toProposal(r db.Proposal) (schedule.Proposal, error) {
	p := schedule.Proposal{ID: r.ID, MeetingID: r.MeetingID, ParticipantID: r.ParticipantID, Via: schedule.Via(r.Via), State: schedule.ProposalState(r.State), ArrivedAt: r.ArrivedAt,
		Proposal: meeting.Proposal{Span: when.Span{Start: when.At(r.Starts), End: when.At(r.Ends)}, Comment: r.Comment, Sequence: int(r.Sequence), Stamp: r.Stamp},
		Was:      when.Span{Start: when.At(r.WasStarts), End: when.At(r.WasEnds)}}
	if r.OnDay != nil {
		p.On = toDay(*r.OnDay)
	}
	return p, nil
}
