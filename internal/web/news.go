package web

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/web/api"
)

func (h *handlers) ListNews(ctx context.Context, r api.ListNewsRequestObject) (api.ListNewsResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	list, err := h.deeds.News.News(ctx, actor(ctx), p)
	shown, more := cut(list.Items, p)
	return api.ListNews200JSONResponse{More: more, Unread: list.Unread, Items: each(shown, func(n schedule.NewsItem) api.News { return toNews(schedule.Tongue(ctx), n, list.Zone) })}, err
}

func toNews(in tongue.Tongue, n schedule.NewsItem, zone when.Zone) api.News {
	kind := meeting.Kind(n.Kind)
	out := api.News{ID: n.ID, At: n.At, Unread: n.ReadAt == nil, CanOpen: n.Open(), Title: n.Title, Words: words.News(in, kind, n.News.News),
		Word: orNil(n.Word), Kind: newsKind(n), Clashes: each(n.Clashes, func(c schedule.OwnClash) string { return words.OwnClash(in, c.Title, c.Leave, c.Start, zone) }),
		Lines: each(words.NewsLines(in, kind, n.News.News, zone), func(l words.NewsLine) api.NewsLine { return api.NewsLine{What: l.What, Was: orNil(l.Was), Is: l.Is} })}
	if len(n.On) > 0 {
		out.On = orNil(n.On[0].String())
	}
	if n.Event != nil {
		if n.Event.Kind == meeting.EventAnswered {
			out.Word = orNil(n.Event.Comment)
		}
	}
	out.RoomID, out.Decides = orNil(n.RoomID), n.Decides
	if n.SheetID != uuid.Nil {
		out.SheetID = orNil(n.SheetID.String())
	}
	if n.MeetingID != uuid.Nil {
		out.MeetingID = &n.MeetingID
	}
	if n.Asks() {
		out.Asks = &api.NewsAsks{Sequence: n.Sequence}
	}
	return out
}

func newsKind(n schedule.NewsItem) api.NewsKind {
	switch {
	case n.Event != nil && n.Event.Kind == meeting.EventAnswered:
		return api.NewsKindAnswered
	case n.Event != nil:
		return api.NewsKindHappened
	case n.Kind == schedule.NewsKind(meeting.CallOff):
		return api.NewsKindCalledOff
	case n.Kind == schedule.NewsKind(meeting.Invite):
		return api.NewsKindAsked
	}
	return api.NewsKindChanged
}

func (h *handlers) ReadNews(ctx context.Context, r api.ReadNewsRequestObject) (api.ReadNewsResponseObject, error) {
	var ids []uuid.UUID
	var meetingID uuid.UUID
	var upTo time.Time
	if r.Body.Ids != nil {
		ids = *r.Body.Ids
	}
	if r.Body.MeetingID != nil {
		meetingID = *r.Body.MeetingID
	}
	if r.Body.UpTo != nil {
		upTo = *r.Body.UpTo
	}
	return api.ReadNews204Response{}, h.deeds.News.Read(ctx, actor(ctx), ids, meetingID, upTo)
}

func (h *handlers) SetNewsMail(ctx context.Context, r api.SetNewsMailRequestObject) (api.SetNewsMailResponseObject, error) {
	if on := r.Body.MorningMail; on != nil {
		if err := h.deeds.Today.MorningMail(ctx, actor(ctx), *on); err != nil {
			return nil, err
		}
	}
	if on := r.Body.Nudges; on != nil {
		if err := h.deeds.Today.Nudges(ctx, actor(ctx), *on); err != nil {
			return nil, err
		}
	}
	return api.SetNewsMail204Response{}, h.deeds.News.SetMail(ctx, actor(ctx), schedule.NewsMail(r.Body.NewsMail))
}

func (h *handlers) FindMeetings(ctx context.Context, r api.FindMeetingsRequestObject) (api.FindMeetingsResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	found, err := h.deeds.Meetings.Find(ctx, actor(ctx), r.Params.Q, p)
	shown, more := cut(found.Items, p)
	out := api.FindMeetings200JSONResponse{More: more, Items: each(shown, func(f meetings.Found) api.FoundMeeting {
		x := api.FoundMeeting{ID: f.ID, On: f.Date.On.String(), Title: f.Date.Title, Start: f.Date.Span.Start.Time(), End: f.Date.Span.End.Time(), AllDay: orNil(f.Content.AllDay),
			Series: f.Content.Repeats(), CalledOff: f.CalledOff, Organiser: f.Content.Organiser.Name, Mine: f.OrganiserID == me(ctx)}
		if f.Date.Room != nil {
			x.Room = &f.Date.Room.Name
		}
		return x
	})}
	if found.Day != 0 {
		out.Day = orNil(found.Day.String())
	}
	return out, err
}

func (h *handlers) GetMonth(ctx context.Context, r api.GetMonthRequestObject) (api.GetMonthResponseObject, error) {
	first, err := dayIn("from", r.Params.From)
	if err != nil {
		return nil, err
	}
	counts, err := h.deeds.Availability.Month(ctx, actor(ctx), first, r.Params.Days)
	out := api.GetMonth200JSONResponse{Days: []api.MonthDay{}}
	for day := first; day < first+when.Day(r.Params.Days); day++ {
		if n := counts[day]; n > 0 {
			out.Days = append(out.Days, api.MonthDay{Day: day.String(), Meetings: n})
		}
	}
	return out, err
}
