package web

import (
	"context"
	"errors"
	"fmt"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"jembro/internal/schedule"
	"jembro/internal/web/api"
)

func (h *handlers) GetMeeting(ctx context.Context, r api.GetMeetingRequestObject) (api.GetMeetingResponseObject, error) {
	d, err := h.deeds.Meetings.Meeting(ctx, actor(ctx), r.ID)
	if err != nil {
		return nil, err
	}
	return api.GetMeeting200JSONResponse(h.meeting(schedule.Tongue(ctx), d, me(ctx))), nil
}

func (h *handlers) ChangeMeeting(ctx context.Context, r api.ChangeMeetingRequestObject) (api.ChangeMeetingResponseObject, error) {
	o, err := opening(r.Body)
	if err != nil {
		return nil, err
	}
	opened, err := h.deeds.Sheets.ChangeMeeting(ctx, actor(ctx), r.ID, o)
	if err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, opened.ID)
	return api.ChangeMeeting200JSONResponse(s), err
}

func (h *handlers) AnswerMeeting(ctx context.Context, r api.AnswerMeetingRequestObject) (api.AnswerMeetingResponseObject, error) {
	g, err := given(r.Body)
	if err != nil {
		return nil, err
	}
	return api.AnswerMeeting204Response{}, h.deeds.Meetings.Answer(ctx, actor(ctx), r.ID, g)
}

func (h *handlers) CallOffMeeting(ctx context.Context, r api.CallOffMeetingRequestObject) (api.CallOffMeetingResponseObject, error) {
	dates, err := scope(r.Body)
	if err != nil {
		return nil, err
	}
	return api.CallOffMeeting204Response{}, h.deeds.Meetings.CallOff(ctx, actor(ctx), r.ID, r.Params.IfMatch, dates, r.Body.Word)
}

// calendarFile is a calendar file with its charset and a name for the browser, which
// the contract's own responses cannot say.
type calendarFile []byte

func (f calendarFile) send(c fiber.Ctx) error {
	c.Set(fiber.HeaderContentType, "text/calendar; charset=utf-8")
	c.Set(fiber.HeaderContentDisposition, `attachment; filename="meeting.ics"`)
	return c.Send(f)
}

func (f calendarFile) VisitMeetingFileResponse(c fiber.Ctx) error    { return f.send(c) }
func (f calendarFile) VisitGuestFileResponse(c fiber.Ctx) error      { return f.send(c) }
func (f calendarFile) VisitWeekFileResponse(c fiber.Ctx) error       { return f.send(c) }
func (f calendarFile) VisitInvitationFileResponse(c fiber.Ctx) error { return f.send(c) }

func (h *handlers) MeetingFile(ctx context.Context, r api.MeetingFileRequestObject) (api.MeetingFileResponseObject, error) {
	file, err := h.deeds.Meetings.MeetingFile(ctx, actor(ctx), r.ID)
	return calendarFile(file), err
}

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

func (h *handlers) StartConnecting(ctx context.Context, r api.StartConnectingRequestObject) (api.StartConnectingResponseObject, error) {
	to, err := h.deeds.Links.StartConnecting(ctx, actor(ctx), r.Provider, deref(r.Params.Sheet))
	return api.StartConnecting303Response{Headers: api.StartConnecting303ResponseHeaders{Location: &to}}, err
}

// FinishConnecting leads back to the sheet whatever happened; the sheet makes
// the link then, or says what is wrong.
func (h *handlers) FinishConnecting(ctx context.Context, r api.FinishConnectingRequestObject) (api.FinishConnectingResponseObject, error) {
	sheet, err := h.deeds.Links.FinishConnecting(ctx, actor(ctx), r.Provider, r.Params.State, deref(r.Params.Code))
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
	if sheet == uuid.Nil { // it was to try a provider out
		to = fmt.Sprintf("/providers/%s?%s=1", r.Provider, outcome)
	}
	return api.FinishConnecting303Response{Headers: api.FinishConnecting303ResponseHeaders{Location: &to}}, nil
}
