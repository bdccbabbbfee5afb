package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"

	"jembro/internal/schedule"
	"jembro/internal/web/api"
)

func (h *handlers) GetMeeting(ctx context.Context, r api.GetMeetingRequestObject) (api.GetMeetingResponseObject, error) {
	d, err := h.service.Meeting(ctx, me(ctx), r.ID)
	if err != nil {
		return nil, err
	}
	return api.GetMeeting200JSONResponse(toMeeting(d, me(ctx))), nil
}

func (h *handlers) ChangeMeeting(ctx context.Context, r api.ChangeMeetingRequestObject) (api.ChangeMeetingResponseObject, error) {
	opened, err := h.service.ChangeMeeting(ctx, me(ctx), r.ID)
	if err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, opened.ID)
	return api.ChangeMeeting200JSONResponse(s), err
}

func (h *handlers) AnswerMeeting(ctx context.Context, r api.AnswerMeetingRequestObject) (api.AnswerMeetingResponseObject, error) {
	return api.AnswerMeeting204Response{}, h.service.Answer(ctx, me(ctx), r.ID, r.Body.Sequence, fromAnswer(r.Body.Answer), r.Body.Comment)
}

func (h *handlers) CallOffMeeting(ctx context.Context, r api.CallOffMeetingRequestObject) (api.CallOffMeetingResponseObject, error) {
	return api.CallOffMeeting204Response{}, h.service.CallOff(ctx, me(ctx), r.ID, r.Params.IfMatch, r.Body.Word)
}

// asFile is what the browser calls a calendar file that it saves.
var asFile = `attachment; filename="meeting.ics"`

func (h *handlers) MeetingFile(ctx context.Context, r api.MeetingFileRequestObject) (api.MeetingFileResponseObject, error) {
	file, err := h.service.MeetingFile(ctx, me(ctx), r.ID)
	return api.MeetingFile200TextCalendarResponse{Body: bytes.NewReader(file),
		Headers: api.MeetingFile200ResponseHeaders{ContentDisposition: &asFile}}, err
}

func (h *handlers) GetGuestMeeting(ctx context.Context, r api.GetGuestMeetingRequestObject) (api.GetGuestMeetingResponseObject, error) {
	v, err := h.service.Guest(ctx, r.Token)
	if err != nil {
		return nil, err
	}
	return api.GetGuestMeeting200JSONResponse(toGuest(v, h.service.House.Name)), nil
}

func (h *handlers) AnswerAsGuest(ctx context.Context, r api.AnswerAsGuestRequestObject) (api.AnswerAsGuestResponseObject, error) {
	return api.AnswerAsGuest204Response{}, h.service.GuestAnswer(ctx, r.Token, r.Body.Sequence, fromAnswer(r.Body.Answer), r.Body.Comment)
}

func (h *handlers) GuestFile(ctx context.Context, r api.GuestFileRequestObject) (api.GuestFileResponseObject, error) {
	file, err := h.service.GuestFile(ctx, r.Token)
	return api.GuestFile200TextCalendarResponse{Body: bytes.NewReader(file),
		Headers: api.GuestFile200ResponseHeaders{ContentDisposition: &asFile}}, err
}

func (h *handlers) StartConnecting(ctx context.Context, r api.StartConnectingRequestObject) (api.StartConnectingResponseObject, error) {
	to, err := h.service.StartConnecting(ctx, me(ctx), r.Provider, r.Params.Sheet)
	return api.StartConnecting303Response{Headers: api.StartConnecting303ResponseHeaders{Location: &to}}, err
}

// FinishConnecting leads back to the sheet whatever happened; the sheet makes
// the link then, or says what is wrong.
func (h *handlers) FinishConnecting(ctx context.Context, r api.FinishConnectingRequestObject) (api.FinishConnectingResponseObject, error) {
	sheet, err := h.service.FinishConnecting(ctx, me(ctx), r.Provider, r.Params.State, deref(r.Params.Code))
	outcome := "attach"
	switch {
	case errors.Is(err, schedule.ErrConnect):
		outcome = "refused"
	case errors.Is(err, schedule.ErrUnreachable):
		outcome = "away"
	case err != nil:
		return nil, err
	}
	to := fmt.Sprintf("/sheet/%s?%s=%s", sheet, outcome, r.Provider)
	return api.FinishConnecting303Response{Headers: api.FinishConnecting303ResponseHeaders{Location: &to}}, nil
}
