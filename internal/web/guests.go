package web

import (
	"context"

	"jembro/internal/web/api"
)

func (h *handlers) GetGuestMeeting(ctx context.Context, r api.GetGuestMeetingRequestObject) (api.GetGuestMeetingResponseObject, error) {
	v, err := h.deeds.Meetings.Guest(ctx, r.Token)
	if err != nil {
		return nil, err
	}
	return api.GetGuestMeeting200JSONResponse(h.guest(v)), nil
}

func (h *handlers) SawAsGuest(ctx context.Context, r api.SawAsGuestRequestObject) (api.SawAsGuestResponseObject, error) {
	return api.SawAsGuest204Response{}, h.deeds.Meetings.GuestSaw(ctx, r.Token, r.Body.Version)
}

func (h *handlers) AnswerAsGuest(ctx context.Context, r api.AnswerAsGuestRequestObject) (api.AnswerAsGuestResponseObject, error) {
	g, err := given(r.Body)
	if err != nil {
		return nil, err
	}
	return api.AnswerAsGuest204Response{}, h.deeds.Meetings.GuestAnswer(ctx, r.Token, g)
}

func (h *handlers) GuestFile(ctx context.Context, r api.GuestFileRequestObject) (api.GuestFileResponseObject, error) {
	file, err := h.deeds.Meetings.GuestFile(ctx, r.Token)
	return calendarFile(file), err
}

// ReadAsGuest keeps in which language a guest reads letters.
func (h *handlers) ReadAsGuest(ctx context.Context, r api.ReadAsGuestRequestObject) (api.ReadAsGuestResponseObject, error) {
	return api.ReadAsGuest204Response{}, h.deeds.Meetings.GuestReads(ctx, r.Token, r.Body.Language)
}
