package web

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

func (h *handlers) GetSheetDates(ctx context.Context, r api.GetSheetDatesRequestObject) (api.GetSheetDatesResponseObject, error) {
	q := sheets.DatesQuestion{SheetID: r.ID}
	if r.Params.Equipment != nil {
		q.Equipment = *r.Params.Equipment
	}
	if id, err := uuid.Parse(deref(r.Params.Site)); err == nil {
		q.SiteID = id
	}
	d, err := h.deeds.Sheets.SheetDates(ctx, actor(ctx), q)
	return api.GetSheetDates200JSONResponse(toSheetDates(schedule.Tongue(ctx), d)), err
}

func toSheetDates(in tongue.Tongue, d sheets.Dates) api.SheetDates {
	out := api.SheetDates{Words: d.Words, RuleWords: d.RuleWords, RuleSaid: d.RuleSaid, Rule: d.Rule, Count: d.Count, Open: d.Open, More: d.More, Splits: d.Splits,
		OnAll: each(d.OnAll, same), Countries: each(sheets.CountryNames(d.Countries), same), Dates: each(d.Dates, toSheetDate),
		Skipped: each(d.Skipped, func(l series.LeftOut) api.Skipped { return api.Skipped{On: l.On.String(), Why: words.Say(in, l.Why)} }),
		Lost:    each(d.Lost, func(l series.Lost) api.Skipped { return api.Skipped{On: l.On.String(), Why: words.Say(in, l.Why)} })}
	if r := d.Rooms; r != nil {
		out.Rooms = &api.SeriesRooms{Dates: r.Dates, Taken: r.Taken, OneClear: r.OneClear, Each: each(r.Each, toRoomRef),
			EachMost: r.EachMost.String(), EachDates: each(r.EachDates, toDraftDate), EachWithout: r.EachWithout}
		if r.One != nil {
			one := toRoomRef(*r.One)
			out.Rooms.One = &one
		}
	}
	return out
}

func (h *handlers) WhatCallingOffDoes(ctx context.Context, r api.WhatCallingOffDoesRequestObject) (api.WhatCallingOffDoesResponseObject, error) {
	dates, err := scope(&api.CallOff{From: r.Params.From, To: r.Params.To})
	if err != nil {
		return nil, err
	}
	e, err := h.deeds.Meetings.WhatCallingOffDoes(ctx, actor(ctx), r.ID, dates)
	return api.WhatCallingOffDoes200JSONResponse{Names: each(e.Names, same), Whole: e.Whole, Dates: e.Dates, More: e.More, Held: e.Held,
		Rooms: each(e.Rooms, same), Link: api.CallOffEffectLink(e.Link)}, err
}

func same(s string) string { return s }

func toRoomRef(r schedule.Room) api.RoomRef {
	return api.RoomRef{ID: r.ID, Name: r.Name, Seats: r.Seats}
}

func toSheetDate(d sheets.SheetDate) api.SheetDate {
	return api.SheetDate{On: d.Key.String(), Scope: dayText(d.Scope), InScope: d.InScope, Start: d.Span.Start.Time(), End: d.Span.End.Time(),
		State: api.SheetDateState(d.State), Words: d.Words, Notes: each(d.Notes, same), Marks: each(d.Marks, same),
		Repairs: each(d.Repairs, func(r sheets.Repair) api.Repair {
			return api.Repair{Kind: api.RepairKind(r.Kind), Words: r.Words, Date: toDraftDate(r.Date)}
		})}
}

// dayText is empty for the day 0.
func dayText(d when.Day) string {
	if d == 0 {
		return ""
	}
	return d.String()
}

func toSeries(v *meetings.SeriesView, m meeting.Meeting) *api.Series {
	if v == nil {
		return nil
	}
	return &api.Series{Words: v.Words, Open: v.Open, Count: v.Count, Left: v.Left, Near: v.Near, Next: v.Next.String(), More: v.More,
		Dates: each(v.Dates, func(d meetings.SeriesDate) api.SeriesDate { return toSeriesDate(d, m) })}
}

func toSeriesDate(d meetings.SeriesDate, m meeting.Meeting) api.SeriesDate {
	out := api.SeriesDate{On: d.On.String(), Start: d.Span.Start.Time(), End: d.Span.End.Time(), State: api.SeriesDateState(d.State),
		Words: d.Words, Room: toMeetingRoom(d.Room), Answers: []api.AnswerCount{}}
	if d.Title != m.Title {
		out.Title = &d.Title
	}
	if d.Text != m.Text {
		out.Text = &d.Text
	}
	for _, answer := range []meeting.Answer{meeting.Accepted, meeting.Maybe, meeting.Declined, meeting.NoAnswer} {
		if n := d.Answers[answer]; n > 0 {
			out.Answers = append(out.Answers, api.AnswerCount{Answer: answerNames[answer], Count: n})
		}
	}
	if d.Mine != nil {
		mine := answerNames[*d.Mine]
		out.Mine, out.MySequence = &mine, &d.MySequence
	}
	return out
}

// day reads a day of a series that may be left out; it is 0 then.
func day(name string, text *string) (when.Day, error) {
	if deref(text) == "" {
		return 0, nil
	}
	d, err := when.ParseDay(*text)
	if err != nil {
		return 0, field(name, say.It("field.day", text))
	}
	return d, nil
}

func given(g *api.GiveAnswer) (meetings.Given, error) {
	on, err := day("on", g.On)
	return meetings.Given{Answer: fromAnswer(g.Answer), Comment: g.Comment, On: on, Seen: g.Sequence}, err
}

// opening reads how changes to a meeting are begun.
func opening(c *api.ChangeMeeting) (o sheets.Opening, err error) {
	if o.At, err = day("at", c.At); err != nil {
		return o, err
	}
	if c.Start != nil {
		o.Start = when.At(*c.Start)
	}
	o.One, o.Extend = c.One != nil && *c.One, c.Extend != nil && *c.Extend
	return o, nil
}

// scope reads which dates are called off; nil is the whole meeting.
func scope(c *api.CallOff) (*series.Range, error) {
	from, err := day("from", c.From)
	if err != nil || from == 0 {
		return nil, err
	}
	to, err := day("to", c.To)
	return &series.Range{From: from, To: to}, err
}
