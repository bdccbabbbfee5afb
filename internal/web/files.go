package web

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/core/calendar"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
	"jembro/internal/web/api"
)

// mostInFile is how many meetings of one file become sheets at once.
const mostInFile = 20

// SheetsFromFile opens sheets for the meetings of a calendar file, with the calls that it names.
func (h *handlers) SheetsFromFile(ctx context.Context, r api.SheetsFromFileRequestObject) (api.SheetsFromFileResponseObject, error) {
	raw, err := file(r.Body.B64)
	if err != nil {
		return nil, err
	}
	p, err := h.deeds.Account.Me(ctx, actor(ctx))
	if err != nil {
		return nil, err
	}
	filed, err := h.deeds.Files.ReadFile(raw, p.Hours.Zone)
	switch {
	case errors.Is(err, calendar.ErrNotCalendar):
		return nil, field("b64", say.It("file.noMeetings"))
	case errors.Is(err, calendar.ErrTooLarge), errors.Is(err, calendar.ErrBrokenOff):
		return nil, field("b64", say.It("file.unread"))
	case err != nil:
		return nil, err
	case len(filed) > mostInFile:
		return nil, field("b64", say.It("file.calendar"))
	}
	opened, err := h.deeds.Sheets.FromFile(ctx, actor(ctx), filed)
	if err != nil {
		return nil, err
	}
	out := api.SheetsFromFile200JSONResponse{Items: []api.FiledSheet{}}
	for i, s := range opened {
		h.deeds.Links.Choose(ctx, actor(ctx), s.ID, links.Choice{Text: filed[i].Call}) // where there is a way into a call
		out.Items = append(out.Items, api.FiledSheet{ID: s.ID, Title: s.Draft.Title, Lost: each(filed[i].Lost, func(w say.What) string { return words.Say(schedule.Tongue(ctx), w) })})
	}
	return out, nil
}

// WeekFile is a week as a calendar file.
func (h *handlers) WeekFile(ctx context.Context, r api.WeekFileRequestObject) (api.WeekFileResponseObject, error) {
	first, days, err := daysAsked(r.Params.From, nil)
	if err != nil {
		return nil, err
	}
	w, err := h.deeds.Availability.Week(ctx, actor(ctx), first, days)
	if err != nil {
		return nil, err
	}
	on := map[uuid.UUID][]when.Day{}
	var order []uuid.UUID
	for _, m := range w.Meetings {
		if m.Answer == meeting.Declined {
			continue
		}
		if on[m.ID] == nil {
			order = append(order, m.ID)
		}
		on[m.ID] = append(on[m.ID], m.On)
	}
	var all [][]byte
	for _, id := range order {
		raw, err := h.deeds.Meetings.DatesFile(ctx, actor(ctx), id, on[id])
		if errors.Is(err, schedule.ErrNotFound) {
			continue
		}
		if err != nil {
			return nil, err
		}
		all = append(all, raw)
	}
	return calendarFile(h.deeds.Files.MergeFiles(all...)), nil
}
