package web

import (
	"context"
	"slices"

	"jembro/internal/core/join"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/invitations"
	"jembro/internal/schedule/today"
	"jembro/internal/web/api"
)

func (h *handlers) GetInvitationAddress(ctx context.Context, _ api.GetInvitationAddressRequestObject) (api.GetInvitationAddressResponseObject, error) {
	return api.GetInvitationAddress200JSONResponse{Address: h.deeds.Invitations.Address(actor(ctx))}, nil
}

func (h *handlers) GetInvitation(ctx context.Context, r api.GetInvitationRequestObject) (api.GetInvitationResponseObject, error) {
	v, err := h.deeds.Invitations.Invitation(ctx, actor(ctx), r.ID)
	if err != nil {
		return nil, err
	}
	return api.GetInvitation200JSONResponse(toInvitation(schedule.Tongue(ctx), v)), nil
}

func toInvitation(in tongue.Tongue, v invitations.View) api.Invitation {
	date := func(e schedule.CalendarEntry) api.InvitationDate {
		d := api.InvitationDate{Start: e.Span.Start.Time(), End: e.Span.End.Time(), Title: e.Title, WholeDay: e.WholeDay, On: e.On.Time()}
		if a, own := v.To(e.On); own {
			answer := answerNames[a.Answer]
			d.Answer, d.Comment = &answer, orNil(a.Comment)
		}
		return d
	}
	out := api.Invitation{ID: v.ID, Version: v.Version, Title: v.Told.Title, Text: v.Told.Text, Place: v.Told.Place, Organiser: v.Name(), OrganiserAddress: v.Organiser,
		Attendee: v.Attendee, Names: slices.Concat([]string{}, v.Told.Names), Off: v.State.Off, Answer: answerNames[v.Answer], Comment: v.Comment, Dates: each(v.Dates, date),
		Card: toCard(v.Card, join.Reader{Country: when.CountryOf(v.Zone.String()), Tongue: in}), Reply: api.InvitationReplyNone, ReplyDetail: orNil(v.ReplyDetail)}
	if v.Room != nil {
		out.Room = &v.Room.Name
	}
	if v.Reply != "" {
		out.Reply = api.InvitationReply(v.Reply)
	}
	if w := v.Waiting; w != nil {
		out.Doubt = &api.InvitationDoubt{From: w.From, Off: v.Doubt.Off, Title: v.Doubt.Title}
		if len(v.Doubt.Dates) > 0 {
			dates := each(v.Doubt.Dates, date)
			out.Doubt.Dates = &dates
		}
	}
	return out
}

func (h *handlers) AnswerInvitation(ctx context.Context, r api.AnswerInvitationRequestObject) (api.AnswerInvitationResponseObject, error) {
	answer := fromAnswer(api.GiveAnswerAnswer(r.Body.Answer))
	var on when.Instant
	if r.Body.On != nil {
		on = when.At(*r.Body.On)
	}
	return api.AnswerInvitation204Response{}, h.deeds.Invitations.Answer(ctx, actor(ctx), r.ID, on, answer, r.Body.Comment, r.Body.Version)
}

func (h *handlers) BelieveInvitation(ctx context.Context, r api.BelieveInvitationRequestObject) (api.BelieveInvitationResponseObject, error) {
	return api.BelieveInvitation204Response{}, h.deeds.Invitations.Believe(ctx, actor(ctx), r.ID, r.Body.Believe)
}

func (h *handlers) InvitationFile(ctx context.Context, r api.InvitationFileRequestObject) (api.InvitationFileResponseObject, error) {
	file, err := h.deeds.Invitations.File(ctx, actor(ctx), r.ID)
	return calendarFile(file), err
}

func toInvitedTo(in tongue.Tongue, i schedule.OpenInvitation, t today.Today) api.InvitedTo {
	title := i.Title
	if i.RoomID != nil {
		title = in.Say("%s (asks for a room)", title)
	}
	return api.InvitedTo{ID: i.ID, Title: title, Organiser: i.Name(), Words: words.Near(in, i.Start, t.Day, t.Zone), Start: i.Start.Time(), Version: i.Version, Doubt: i.Waiting != nil,
		Unsent: i.Reply == schedule.Failed}
}

// toOutsideMeeting is a date of a meeting outside as a week shows it, beside those of here.
func toOutsideMeeting(in tongue.Tongue, e schedule.CalendarEntry, zone when.Zone) api.WeekMeeting {
	outside := true
	return api.WeekMeeting{ID: e.Invitation, On: zone.LocalAt(e.Span.Start).Day.String(), Title: e.Title, Start: e.Span.Start.Time(), End: e.Span.End.Time(),
		Organiser: e.Calendar, Standing: api.WeekMeetingStanding(standsTo(e.Answer)), Outside: &outside}
}
