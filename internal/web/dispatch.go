package web

import (
	"context"
	"time"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/dispatch"
	"jembro/internal/web/api"
)

func (h *handlers) ListDispatches(ctx context.Context, r api.ListDispatchesRequestObject) (api.ListDispatchesResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	search := schedule.Search{House: deref(r.Params.House), Troubled: deref(r.Params.Troubled), Words: deref(r.Params.Words)}
	o, err := h.deeds.Dispatch.List(ctx, actor(ctx), search, p)
	shown, more := cut(o.Sent, p)
	return api.ListDispatches200JSONResponse{Items: each(shown, func(s dispatch.Sent) api.SentMeeting { return toSent(schedule.Tongue(ctx), s, o.Zone) }), More: more, Lost: o.Lost, Other: o.Other, Keeper: o.Keeper}, err
}

func toSent(in tongue.Tongue, s dispatch.Sent, zone when.Zone) api.SentMeeting {
	m := s.Content
	out := api.SentMeeting{ID: s.ID, Title: m.Title, Words: sentWords(in, m, zone), Organiser: m.Organiser.Name, Mine: s.Mine, CalledOff: s.CalledOffAt != nil,
		All: s.All, Reached: s.Reached, Lines: each(s.Lines, toSentLine)}
	if m.Private && !s.Mine {
		out.Title = ""
	}
	return out
}

func sentWords(in tongue.Tongue, m meeting.Meeting, zone when.Zone) string {
	if m.Repeats() {
		return words.Series(in, m.Plan())
	}
	return words.When(in, m, m.Span(), zone)
}

func toSentLine(l dispatch.Line) api.SentLine {
	address := l.Address
	if address == "" {
		address = l.To.Address()
	}
	out := api.SentLine{ID: l.ID, Name: l.To.Name, Address: address, Outside: l.Channel == schedule.Mail, State: api.SentLineState(l.State),
		Stage: api.SentLineStageNone, Trouble: api.SentLineTroubleNone, Code: l.Heard.Code.String(), Mended: api.SentLineMendedNone, Answer: answerNames[l.To.Answer],
		Reached: l.Reached(), Troubled: l.Troubled(), Broke: l.Trouble.Fatal(), Lost: l.NotReached(), QueuedAt: l.QueuedAt, StageAt: moment(l.StageAt), TroubleAt: moment(l.Heard.At)}
	if l.Stage != "" {
		out.Stage = api.SentLineStage(l.Stage)
	}
	if l.Trouble != "" {
		out.Trouble = api.SentLineTrouble(l.Trouble)
	} else if l.Waits() {
		out.Trouble = api.SentLineTroubleNotYet
	}
	if l.Mended != "" {
		out.Mended = api.SentLineMended(l.Mended)
	}
	if l.SeenAt != nil {
		out.Stage, out.StageAt = api.SentLineStageSeen, l.SeenAt
	}
	if l.Answered() {
		out.AnsweredAt = l.To.AnsweredAt
	}
	return out
}

func moment(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
}

func (h *handlers) GetDispatch(ctx context.Context, r api.GetDispatchRequestObject) (api.GetDispatchResponseObject, error) {
	w, err := h.deeds.Dispatch.Ways(ctx, actor(ctx), r.ID)
	if err != nil {
		return nil, err
	}
	out := api.DispatchDetail{Line: toSentLine(w.Line), MeetingID: w.MeetingID, Title: w.Meeting.Content.Title, Text: w.Text, GuestURL: w.GuestURL,
		Server: w.Heard.Server, Events: []api.Happening{}, Again: w.Newest && w.Repeatable(), Helps: w.AgainHelps(),
		Known: each(w.Known, func(k dispatch.Known) api.KnownAddress {
			return api.KnownAddress{Email: k.Email, Words: knownWords(schedule.Tongue(ctx), k)}
		})}
	if w.Trouble != "" {
		out.Said, out.Why = w.Heard.Said, words.Unreached(schedule.Tongue(ctx), w.Heard, h.deeds.House.MailDomain)
	}
	for _, e := range w.Events {
		out.Events = append(out.Events, api.Happening{At: e.At, Words: words.Heard(schedule.Tongue(ctx), e)})
	}
	out.Events = append(out.Events, api.Happening{At: w.QueuedAt, Words: schedule.Tongue(ctx).Say("written")})
	return api.GetDispatch200JSONResponse(out), nil
}

// knownWords says what is known of another address.
func knownWords(in tongue.Tongue, k dispatch.Known) string {
	switch {
	case k.Title != "":
		return in.Say("used for “%s”, arrived", k.Title)
	case !k.At.IsZero():
		return in.Say("known since %s", words.FullDay(in, when.DayOf(k.At.Date())))
	}
	return in.Say("where they were invited first")
}

func (h *handlers) SendAgain(ctx context.Context, r api.SendAgainRequestObject) (api.SendAgainResponseObject, error) {
	return api.SendAgain204Response{}, h.deeds.Dispatch.Again(ctx, actor(ctx), r.ID, deref(r.Body.Address))
}

func (h *handlers) MarkTold(ctx context.Context, r api.MarkToldRequestObject) (api.MarkToldResponseObject, error) {
	return api.MarkTold204Response{}, h.deeds.Dispatch.Told(ctx, actor(ctx), r.ID, schedule.Mending(r.Body.How))
}

func (h *handlers) RenewPage(ctx context.Context, r api.RenewPageRequestObject) (api.RenewPageResponseObject, error) {
	return api.RenewPage204Response{}, h.deeds.Dispatch.RenewPage(ctx, actor(ctx), r.ID)
}

func (h *handlers) DispatchMessage(ctx context.Context, r api.DispatchMessageRequestObject) (api.DispatchMessageResponseObject, error) {
	l, err := h.deeds.Dispatch.AsSent(ctx, actor(ctx), r.ID)
	return api.DispatchMessage200JSONResponse{Subject: l.Subject, Text: l.Text}, err
}
