package web

import (
	"context"

	"jembro/internal/core/join"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

func (h *handlers) shortAddress(a schedule.ShortAddress) *api.ShortAddress {
	return &api.ShortAddress{URL: h.deeds.Meetings.ShortURL(a), Asks: a.Asks}
}

func (h *handlers) GiveAddress(ctx context.Context, r api.GiveAddressRequestObject) (api.GiveAddressResponseObject, error) {
	a, err := h.deeds.Meetings.GiveAddress(ctx, actor(ctx), r.ID, r.Body.Asks)
	return api.GiveAddress200JSONResponse(*h.shortAddress(a)), err
}

func (h *handlers) WithdrawAddress(ctx context.Context, r api.WithdrawAddressRequestObject) (api.WithdrawAddressResponseObject, error) {
	return api.WithdrawAddress204Response{}, h.deeds.Meetings.WithdrawAddress(ctx, actor(ctx), r.ID)
}

// GetAtAddress is what a short address shows to anybody who has it.
func (h *handlers) GetAtAddress(ctx context.Context, r api.GetAtAddressRequestObject) (api.GetAtAddressResponseObject, error) {
	v, err := h.deeds.Meetings.ByAddress(ctx, r.Code)
	if err != nil {
		return nil, err
	}
	m, d := v.Content, v.Next
	out := api.GetAtAddress200JSONResponse{House: h.deeds.House.Name, Title: d.Title, Text: d.Text, Start: d.Span.Start.Time(), End: d.Span.End.Time(), AllDay: orNil(m.AllDay), Zone: m.Zone,
		Organiser: m.Organiser.Name, CalledOff: v.CalledOffAt != nil, Room: toMeetingRoom(d.Room), Asks: v.Asks}
	if m.Repeats() {
		out.Repeats = orNil(m.Plan().Words())
	}
	if v.CalledOffAt == nil {
		out.Card = toCard(m.Card, join.Reader{Outside: true})
	}
	return out, nil
}

func (h *handlers) JoinAtAddress(ctx context.Context, r api.JoinAtAddressRequestObject) (api.JoinAtAddressResponseObject, error) {
	return api.JoinAtAddress204Response{}, h.deeds.Sheets.Join(ctx, r.Code, sheets.Brings{Name: r.Body.Name, Email: r.Body.Email})
}
