package web

import (
	"context"
	"errors"
	"strings"
	"time"

	"jembro/internal/core/say"
	"jembro/internal/core/words"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

// page is a part of a list; it asks for one more than it shows, to know whether
// more follow.
func page(limit, offset *int) schedule.Page {
	p := schedule.Page{Most: 20}
	if limit != nil {
		p.Most = min(max(*limit, 1), 200)
	}
	if offset != nil {
		p.Skip = min(max(*offset, 0), 100_000)
	}
	p.Most++
	return p
}

// cut is the part that a page shows.
func cut[T any](found []T, p schedule.Page) (shown []T, more bool) {
	if len(found) < p.Most {
		return found, false
	}
	return found[:p.Most-1], true
}

func field(name string, what say.What) error { return schedule.Invalid(name, what) }

// dayIn reads a day that a field of a request gives.
func dayIn(name, text string) (when.Day, error) {
	day, err := when.ParseDay(text)
	switch {
	case errors.Is(err, when.ErrYears):
		return 0, field(name, say.It("field.dayYears", text, when.FirstYear, when.LastYear))
	case err != nil:
		return 0, field(name, say.It("field.dayUnread", when.FirstYear, when.LastYear))
	}
	return day, nil
}

// daysAsked are the first of some days that are asked for and how many, a week where nobody
// says.
func daysAsked(from string, days *int) (first when.Day, n int, err error) {
	if first, err = dayIn("from", from); err != nil {
		return 0, 0, err
	}
	if days == nil {
		return first, 7, nil
	}
	return first, min(max(*days, 1), 28), nil
}

func (h *handlers) GetWeek(ctx context.Context, r api.GetWeekRequestObject) (api.GetWeekResponseObject, error) {
	first, days, err := daysAsked(r.Params.From, r.Params.Days)
	if err != nil {
		return nil, err
	}
	w, err := h.deeds.Availability.Week(ctx, actor(ctx), first, days)
	if err != nil {
		return nil, err
	}
	shown, entries := each(w.Meetings, func(m schedule.InWeek) api.WeekMeeting { return toWeekMeeting(m, me(ctx)) }), []api.WeekEntry{}
	for _, e := range w.Entries {
		if e.Invitation != uuid.Nil && !e.WholeDay {
			shown = append(shown, toOutsideMeeting(schedule.Tongue(ctx), e, w.Zone))
		} else {
			entries = append(entries, toWeekEntry(e))
		}
	}
	return api.GetWeek200JSONResponse{From: first.String(), Zone: w.Zone.String(), Window: toSpan(w.Window), Working: each(w.Working, toSpan),
		Leave: each(w.Leave, toSpan), Meetings: shown,
		Entries: entries, Holidays: each(w.Holidays, toHoliday), Broken: each(w.Broken, func(c schedule.Calendar) string { return c.Name })}, nil
}

func (h *handlers) FindPeople(ctx context.Context, r api.FindPeopleRequestObject) (api.FindPeopleResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	found, err := h.deeds.Directory.FindPeople(ctx, actor(ctx), r.Params.Q, p)
	shown, more := cut(found, p)
	return api.FindPeople200JSONResponse{More: more, Items: each(shown, toEntry)}, err
}

func toWeekEntry(e schedule.CalendarEntry) api.WeekEntry {
	return api.WeekEntry{Start: e.Span.Start.Time(), End: e.Span.End.Time(), Kind: api.WeekEntryKind(e.Kind), Title: e.Title, WholeDay: e.WholeDay, Calendar: e.Calendar, Counts: e.Counts}
}

func toEntry(e schedule.Entry) api.Entry {
	out := api.Entry{Name: e.Name, Email: e.Email, About: e.About, Outside: e.Outside}
	if !e.Outside {
		out.PersonID = e.ID.String()
	}
	return out
}

func (h *handlers) ListRooms(ctx context.Context, r api.ListRoomsRequestObject) (api.ListRoomsResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	found, err := h.deeds.Directory.Rooms(ctx, p)
	shown, more := cut(found, p)
	return api.ListRooms200JSONResponse{Items: each(shown, toRoom), More: more}, err
}

func (h *handlers) GetDay(ctx context.Context, r api.GetDayRequestObject) (api.GetDayResponseObject, error) {
	day, err := dayIn("day", r.Body.Day)
	if err != nil {
		return nil, err
	}
	zone, err := when.LoadZone(r.Body.Zone)
	if err != nil {
		return nil, field("zone", say.It("zone.choose"))
	}
	q := availability.DayQuestion{Day: day, Zone: zone, People: fromPeople(r.Body.People), WantRoom: r.Body.WantRoom, Equipment: r.Body.Equipment,
		Chosen: when.Span{Start: local(r.Body.Start, zone), End: local(r.Body.End, zone)}}
	if q.Chosen.Start == 0 || q.Chosen.Empty() || q.Chosen.Length() > meeting.LengthLimit {
		return nil, field("end", say.It("day.noMeeting"))
	}
	q.RoomID, q.SiteID, q.But = idOf(r.Body.RoomID), idOf(r.Body.SiteID), idOf(deref(r.Body.MeetingID))
	a, err := h.deeds.Availability.Day(ctx, actor(ctx), q)
	return api.GetDay200JSONResponse(toDay(schedule.Tongue(ctx), a, q.WantRoom)), err
}

func (h *handlers) GetRoomsDay(ctx context.Context, r api.GetRoomsDayRequestObject) (api.GetRoomsDayResponseObject, error) {
	day, err := dayIn("day", r.Params.Day)
	if err != nil {
		return nil, err
	}
	q := availability.RoomsQuestion{Day: day, SiteID: idOf(deref(r.Params.Site)), Floor: deref(r.Params.Floor)}
	if r.Params.Seats != nil {
		q.Seats = *r.Params.Seats
	}
	if r.Params.Equipment != nil {
		q.Equipment = *r.Params.Equipment
	}
	if r.Params.ClearFor != nil {
		q.ClearFor = time.Duration(*r.Params.ClearFor) * time.Minute
	}
	a, err := h.deeds.Availability.RoomsDay(ctx, actor(ctx), q)
	return api.GetRoomsDay200JSONResponse{Day: day.String(), Zone: a.Zone.String(), All: a.All,
		Rooms: each(a.Rooms, func(x availability.RoomToday) api.RoomToday { return toRoomToday(x, a.Today) })}, err
}

func toRoomUse(u schedule.RoomUse) api.RoomUse {
	use := api.RoomUse{Start: u.Span.Start.Time(), End: u.Span.End.Time(), Private: u.Private, Mine: u.Mine, By: orNil(u.By), Title: orNil(u.Title),
		Kind: api.RoomUseKind(u.Kind), Until: u.Until}
	if u.Mine && u.MeetingID != uuid.Nil && u.Kind != schedule.KindHold {
		use.MeetingID, use.On = &u.MeetingID, orNil(u.On.String())
	}
	return use
}

func toRoomToday(x availability.RoomToday, today bool) api.RoomToday {
	out := api.RoomToday{Room: toRoom(x.Room), Taken: each(x.Taken, toRoomUse), Shut: each(x.Shut, toSpan)}
	if today {
		out.Clear = &x.Clear
		if x.Until != 0 {
			until := x.Until.Time()
			out.Until = &until
		}
	}
	if x.NextOK {
		next := toSpan(x.Next)
		out.Next = &next
	}
	return out
}

func (h *handlers) FindOpenings(ctx context.Context, r api.FindOpeningsRequestObject) (api.FindOpeningsResponseObject, error) {
	first, err := dayIn("first", r.Body.First)
	if err != nil {
		return nil, err
	}
	zone, err := when.LoadZone(r.Body.Zone)
	if err != nil {
		return nil, field("zone", say.It("zone.choose"))
	}
	q := availability.OpeningsQuestion{First: first, Days: r.Body.Days, Zone: zone, Length: time.Duration(r.Body.Minutes) * time.Minute, From: when.Clock(r.Body.From), To: when.Clock(r.Body.To),
		People: fromPeople(r.Body.People), WantRoom: r.Body.WantRoom, Equipment: r.Body.Equipment,
		RoomID: idOf(r.Body.RoomID), SiteID: idOf(r.Body.SiteID), But: idOf(deref(r.Body.MeetingID))}
	a, err := h.deeds.Availability.Openings(ctx, actor(ctx), q)
	out := api.FindOpenings200JSONResponse{Items: each(a.Openings, func(o core.Opening) api.Opening { return toOpening(schedule.Tongue(ctx), o, a) }), Days: []api.OpeningDay{}}
	for i, asks := range a.Asks {
		out.Items[i].Asks = orNil(asks)
		out.Items[i].Mends = each(a.Mends[i], func(m core.Mend) api.Mend { return toMend(schedule.Tongue(ctx), m, a.Openings[i], a, zone) })
	}
	for i, good := range a.Good {
		out.Days = append(out.Days, api.OpeningDay{Day: (first + when.Day(i)).String(), Good: good})
	}
	return out, err
}

// idOf is the id that a text is, uuid.Nil for none.
func idOf(text string) uuid.UUID {
	id, err := uuid.Parse(text)
	if err != nil {
		return uuid.Nil
	}
	return id
}

// deref is what a field holds, the zero value where it is left out.
func deref[T any](v *T) T {
	if v == nil {
		var none T
		return none
	}
	return *v
}

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
	return api.FreshSheet200JSONResponse(toSheetView(reads(ctx), v)), err
}

func (h *handlers) DiscardSheets(ctx context.Context, r api.DiscardSheetsRequestObject) (api.DiscardSheetsResponseObject, error) {
	return api.DiscardSheets204Response{}, h.deeds.Sheets.DiscardSheets(ctx, actor(ctx), r.Body.Ids)
}

// sheet answers with a sheet and how its meeting stands.
func (h *handlers) sheet(ctx context.Context, id uuid.UUID) (api.Sheet, error) {
	v, err := h.deeds.Sheets.Sheet(ctx, actor(ctx), id, "")
	return toSheetView(reads(ctx), v), err
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
		out.Hold = &api.Hold{Until: &v.HeldUntil}
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
	s := toSheetView(reads(ctx), v)
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

// ReadAsGuest keeps in which language a guest reads letters.
func (h *handlers) ReadAsGuest(ctx context.Context, r api.ReadAsGuestRequestObject) (api.ReadAsGuestResponseObject, error) {
	return api.ReadAsGuest204Response{}, h.deeds.Meetings.GuestReads(ctx, r.Token, r.Body.Language)
}
