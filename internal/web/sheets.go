package web

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

func (h *handlers) ListSheets(ctx context.Context, r api.ListSheetsRequestObject) (api.ListSheetsResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	found, err := h.deeds.Sheets.Sheets(ctx, actor(ctx), p)
	shown, more := cut(found, p)
	return api.ListSheets200JSONResponse{More: more, Items: each(shown, func(s schedule.Sheet) api.SheetRef { return toSheetRef(schedule.Tongue(ctx), s) })}, err
}

func (h *handlers) OpenSheet(ctx context.Context, r api.OpenSheetRequestObject) (api.OpenSheetResponseObject, error) {
	opened, err := h.deeds.Sheets.OpenSheet(ctx, actor(ctx), deref(r.Body.Start), deref(r.Body.End))
	if err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, opened.ID)
	return api.OpenSheet201JSONResponse(s), err
}

func (h *handlers) FreshSheet(ctx context.Context, _ api.FreshSheetRequestObject) (api.FreshSheetResponseObject, error) {
	v, err := h.deeds.Sheets.FreshSheet(ctx, actor(ctx))
	return api.FreshSheet200JSONResponse(toSheetView(schedule.Tongue(ctx), v)), err
}

func (h *handlers) DiscardSheets(ctx context.Context, r api.DiscardSheetsRequestObject) (api.DiscardSheetsResponseObject, error) {
	return api.DiscardSheets204Response{}, h.deeds.Sheets.DiscardSheets(ctx, actor(ctx), r.Body.Ids)
}

// sheet answers with a sheet and how its meeting stands.
func (h *handlers) sheet(ctx context.Context, id uuid.UUID) (api.Sheet, error) {
	v, err := h.deeds.Sheets.Sheet(ctx, actor(ctx), id, "")
	return toSheetView(schedule.Tongue(ctx), v), err
}

func toSheetView(t tongue.Tongue, v sheets.SheetView) api.Sheet {
	out := toSheet(t, v.Sheet, v.Of)
	out.Card, out.Link = toCard(v.Card, v.Reader), toSheetLink(v.Link)
	out.Faults = *fieldErrors(t, v.Faults)
	out.Due = each(v.Due, func(d meetings.Due) api.Due {
		return api.Due{Name: d.To.Name, Outside: d.To.Outside(), Kind: api.DueKind(d.Kind), Whole: d.Whole, Words: d.Words}
	})
	out.Readings = each(v.Readings, func(r sheets.Reading) api.Reading {
		return api.Reading{Field: r.Field, Text: r.Text, Words: r.Words, Why: words.Say(t, r.Why)}
	})
	out.Unclear = each(v.Unclear, func(u sheets.Unclear) api.Unclear {
		return api.Unclear{Text: u.Text, Choices: each(u.Choices, toEntry), More: u.More}
	})
	out.Clocks, out.SendFault = orNil(v.Clocks), orNil(words.Say(t, v.SendFault))
	if v.SendAt != nil {
		out.Waits = &api.Waits{At: *v.SendAt, Key: sheets.LaterKey(v.ID, v.Version)}
	}
	if v.Waiting != nil {
		out.Waiting = &api.SheetWaiting{State: api.SheetWaitingState(v.Waiting.State), Words: v.WaitingWords}
	}
	if !v.HeldUntil.IsZero() {
		hold := toHold(t, sheets.Hold{Until: v.HeldUntil})
		out.Hold = &hold
	}
	return out
}

func (h *handlers) GetSheet(ctx context.Context, r api.GetSheetRequestObject) (api.GetSheetResponseObject, error) {
	s, err := h.sheet(ctx, r.ID)
	return api.GetSheet200JSONResponse(s), err
}

func (h *handlers) SaveSheet(ctx context.Context, r api.SaveSheetRequestObject) (api.SaveSheetResponseObject, error) {
	typing := deref(r.Params.Typing)
	_, saved, err := h.deeds.Sheets.SaveSheet(ctx, actor(ctx), r.ID, r.Params.IfMatch, fromDraft(*r.Body), typing)
	if err != nil {
		return nil, err
	}
	v, err := h.deeds.Sheets.Sheet(ctx, actor(ctx), r.ID, typing)
	s := toSheetView(schedule.Tongue(ctx), v)
	if len(saved.Said) > 0 {
		s.Said = &saved.Said
	}
	if !saved.Hold.What.Empty() {
		hold := toHold(schedule.Tongue(ctx), saved.Hold)
		s.Hold = &hold
	}
	return api.SaveSheet200JSONResponse(s), err
}

func (h *handlers) DiscardSheet(ctx context.Context, r api.DiscardSheetRequestObject) (api.DiscardSheetResponseObject, error) {
	return api.DiscardSheet204Response{}, h.deeds.Sheets.DiscardSheet(ctx, actor(ctx), r.ID)
}

func (h *handlers) RebaseSheet(ctx context.Context, r api.RebaseSheetRequestObject) (api.RebaseSheetResponseObject, error) {
	if _, err := h.deeds.Sheets.RebaseSheet(ctx, actor(ctx), r.ID, r.Params.IfMatch); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.RebaseSheet200JSONResponse(s), err
}

func (h *handlers) PreviewSheet(ctx context.Context, r api.PreviewSheetRequestObject) (api.PreviewSheetResponseObject, error) {
	previews, err := h.deeds.Sheets.Previews(ctx, actor(ctx), r.ID)
	return api.PreviewSheet200JSONResponse{Languages: languages(), Items: each(previews, func(p sheets.Preview) api.Preview {
		return api.Preview{Language: languageOf(p), Name: p.To.Name, Email: p.To.Email, Channel: api.PreviewChannel(p.Channel), Kind: api.PreviewKind(p.Kind)}
	})}, err
}

// letter writes one letter; an account has a few written at a time.
func (h *handlers) letter(ctx context.Context, id uuid.UUID, number int) (schedule.Rendered, error) {
	leave, err := h.previews.enter(ctx, me(ctx))
	if err != nil {
		return schedule.Rendered{}, err
	}
	defer leave()
	return h.deeds.Sheets.PreviewLetter(ctx, actor(ctx), id, number)
}

func (h *handlers) PreviewLetter(ctx context.Context, r api.PreviewLetterRequestObject) (api.PreviewLetterResponseObject, error) {
	l, err := h.letter(ctx, r.ID, r.Number)
	return api.PreviewLetter200JSONResponse{Subject: l.Subject, Text: l.Text}, err
}

// PreviewPage has a policy of its own: a letter is styled inline, and may be
// shown in a frame of the sheet and nowhere else.
func (h *handlers) PreviewPage(ctx context.Context, r api.PreviewPageRequestObject) (api.PreviewPageResponseObject, error) {
	l, err := h.letter(ctx, r.ID, r.Number)
	if err != nil {
		return nil, err
	}
	own := "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'self'; sandbox"
	return api.PreviewPage200TextHTMLResponse{Body: strings.NewReader(l.HTML), ContentLength: int64(len(l.HTML)),
		Headers: api.PreviewPage200ResponseHeaders{ContentSecurityPolicy: &own}}, nil
}

func (h *handlers) SendLater(ctx context.Context, r api.SendLaterRequestObject) (api.SendLaterResponseObject, error) {
	if _, err := h.deeds.Sheets.SendLater(ctx, actor(ctx), r.ID, r.Params.IfMatch, deref(r.Body.At)); err != nil {
		return nil, err
	}
	out, err := h.sheet(ctx, r.ID)
	return api.SendLater200JSONResponse(out), err
}

func (h *handlers) TakeBack(ctx context.Context, r api.TakeBackRequestObject) (api.TakeBackResponseObject, error) {
	if _, err := h.deeds.Sheets.TakeBack(ctx, actor(ctx), r.ID); err != nil {
		return nil, err
	}
	out, err := h.sheet(ctx, r.ID)
	return api.TakeBack200JSONResponse(out), err
}

func (h *handlers) SendSheet(ctx context.Context, r api.SendSheetRequestObject) (api.SendSheetResponseObject, error) {
	sent, err := h.deeds.Sheets.Send(ctx, actor(ctx), r.ID, r.Params.IfMatch, r.Params.IdempotencyKey)
	return api.SendSheet200JSONResponse{MeetingID: sent.MeetingID, Told: sent.Told}, err
}

// languageOf is that of a letter by mail.
func languageOf(p sheets.Preview) *string {
	if p.Channel != schedule.Mail {
		return nil
	}
	code := tongue.In(p.To.Language).Code()
	return &code
}

// languages are those that letters can be written in.
func languages() []api.Language {
	return each(tongue.Choices(), func(c tongue.Choice) api.Language { return api.Language{Code: c.Code, Name: c.Name} })
}
