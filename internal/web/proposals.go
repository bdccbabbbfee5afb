package web

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

func (h *handlers) ProposeTime(ctx context.Context, r api.ProposeTimeRequestObject) (api.ProposeTimeResponseObject, error) {
	p, err := proposing(r.Body)
	if err != nil {
		return nil, err
	}
	return api.ProposeTime204Response{}, h.deeds.Sheets.Propose(ctx, actor(ctx), r.ID, p)
}

func (h *handlers) ProposeTimeAsGuest(ctx context.Context, r api.ProposeTimeAsGuestRequestObject) (api.ProposeTimeAsGuestResponseObject, error) {
	p, err := proposing(r.Body)
	if err != nil {
		return nil, err
	}
	return api.ProposeTimeAsGuest204Response{}, h.deeds.Sheets.ProposeAsGuest(ctx, r.Token, p)
}

func proposing(b *api.ProposeTime) (p meetings.Proposing, err error) {
	p = meetings.Proposing{Day: b.Day, From: b.From, To: b.To, Zone: b.Zone, Comment: b.Comment, Seen: b.Sequence}
	if b.On != nil && *b.On != "" {
		if p.On, err = when.ParseDay(*b.On); err != nil {
			err = schedule.Invalid("on", say.It("date.which"))
		}
	}
	return p, err
}

func (h *handlers) ListProposals(ctx context.Context, r api.ListProposalsRequestObject) (api.ListProposalsResponseObject, error) {
	all, err := h.deeds.Sheets.Proposals(ctx, actor(ctx), r.ID)
	if err != nil {
		return nil, err
	}
	return api.ListProposals200JSONResponse{Items: each(all, func(x sheets.Proposal) api.Proposal { return toProposal(schedule.Tongue(ctx), x) })}, nil
}

func toProposal(in tongue.Tongue, p sheets.Proposal) api.Proposal {
	out := api.Proposal{ID: p.ID, Name: p.By.Name, Words: words.When(tongue.Tongue{}, p.Of, p.Span, p.Zone), Start: p.Span.Start.Time(), End: p.Span.End.Time(), Comment: p.Comment,
		At: p.ArrivedAt, Troubles: []api.Trouble{}, RoomClear: p.RoomClear, Rooms: each(p.Rooms, toRoomRef)}
	if p.On != 0 {
		out.On = orNil(p.On.String())
	}
	if p.Room != nil {
		out.Room = &p.Room.Name
	}
	for _, t := range p.Day.Troubles {
		x := toTrouble(in, t, p.Day)
		if p.Day.Lanes[t.Person].You {
			x.Name = "You"
		}
		out.Troubles = append(out.Troubles, x)
	}
	for _, l := range p.Day.Lanes {
		if l.PersonID == uuid.Nil && !strings.EqualFold(l.Email, p.By.Email) {
			out.Unseen++
		}
	}
	return out
}

func toOwnProposal(p *schedule.Proposal, m meeting.Meeting) *api.OwnProposal {
	if p == nil || p.State == schedule.ProposalReplaced || p.State == schedule.ProposalOpen && !m.Stands(p.Proposal, p.Was, 0) {
		return nil
	}
	out := api.OwnProposal{Start: p.Span.Start.Time(), End: p.Span.End.Time(), State: api.OwnProposalState(p.State)}
	if p.On != 0 {
		out.On = orNil(p.On.String())
	}
	return &out
}

func (h *handlers) DecideProposal(ctx context.Context, r api.DecideProposalRequestObject) (api.DecideProposalResponseObject, error) {
	if !r.Body.Move {
		return api.DecideProposal204Response{}, h.deeds.Meetings.KeepTime(ctx, actor(ctx), r.ID, r.ProposalID, deref(r.Body.Word))
	}
	return api.DecideProposal204Response{}, h.deeds.Sheets.TakeProposal(ctx, actor(ctx), r.ID, r.ProposalID, deref(r.Body.RoomID))
}

func (h *handlers) Bring(ctx context.Context, r api.BringRequestObject) (api.BringResponseObject, error) {
	return api.Bring204Response{}, h.deeds.Sheets.Bring(ctx, actor(ctx), r.ID, sheets.Brings{Name: r.Body.Name, Email: r.Body.Email})
}

// RemindMe sets when a colleague who is invited is reminded besides.
func (h *handlers) RemindMe(ctx context.Context, r api.RemindMeRequestObject) (api.RemindMeResponseObject, error) {
	own := each(r.Body.Reminders, func(r api.OwnReminder) meeting.Reminder { return meeting.Reminder{Before: r.Before, Mail: r.Mail} })
	return api.RemindMe204Response{}, h.deeds.Meetings.RemindMe(ctx, actor(ctx), r.ID, own)
}

func (h *handlers) BringAsGuest(ctx context.Context, r api.BringAsGuestRequestObject) (api.BringAsGuestResponseObject, error) {
	return api.BringAsGuest204Response{}, h.deeds.Sheets.BringAsGuest(ctx, r.Token, sheets.Brings{Name: r.Body.Name, Email: r.Body.Email})
}
