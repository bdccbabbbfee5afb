package web

import (
	"context"

	"github.com/gofiber/fiber/v3"

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
