package web

import (
	"context"

	core "jembro/internal/core/availability"
	"jembro/internal/core/rooms"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

func (h *handlers) FindSeriesOpenings(ctx context.Context, r api.FindSeriesOpeningsRequestObject) (api.FindSeriesOpeningsResponseObject, error) {
	q := sheets.SeriesQuestion{SheetID: r.ID, From: when.Clock(r.Params.From), To: when.Clock(r.Params.To), SiteID: idOf(deref(r.Params.Site))}
	if r.Params.Equipment != nil {
		q.Equipment = *r.Params.Equipment
	}
	a, err := h.deeds.Sheets.SeriesOpenings(ctx, actor(ctx), q)
	out := api.FindSeriesOpenings200JSONResponse{Items: each(a.Openings, func(o core.SeriesOpening) api.SeriesOpening { return toSeriesOpening(schedule.Tongue(ctx), o, a) })}
	if a.Shared != nil {
		out.Items = append(out.Items, toShared(schedule.Tongue(ctx), *a.Shared, a))
	}
	return out, err
}

func toSeriesOpening(in tongue.Tongue, o core.SeriesOpening, a sheets.SeriesOpenings) api.SeriesOpening {
	first := o.Dates[0]
	out := api.SeriesOpening{Start: a.Zone.LocalAt(first.Start).String(), End: a.Zone.LocalAt(first.End).String(), Kind: api.SeriesOpeningKindNearly, Turns: []api.DraftDate{}}
	room := ""
	if o.One != rooms.NoRoom {
		ref := toRoomRef(a.Rooms[o.One])
		out.Room, room = &ref, ref.Name
	}
	out.Head, out.Lines = words.SeriesOpening(in, o, a.People, room, a.WantRoom, a.Weekday, a.Zone)
	switch {
	case o.Good():
		out.Kind = api.SeriesOpeningKindGood
	case o.Fails == 0:
		out.Kind = api.SeriesOpeningKindSoft
	}
	return out
}

// toShared is two times by turns: all dates at the first, every other one moved to the
// second.
func toShared(in tongue.Tongue, s core.Shared, a sheets.SeriesOpenings) api.SeriesOpening {
	out := toSeriesOpening(in, s.First, a)
	out.Head, out.Lines = words.Shared(in, s, a.Zone)
	out.Kind = api.SeriesOpeningKindSoft
	for i := 1; i < len(a.Days); i += 2 {
		own := s.Second.Dates[i]
		out.Turns = append(out.Turns, api.DraftDate{On: a.Days[i].String(), Start: a.Zone.LocalAt(own.Start).String(), End: a.Zone.LocalAt(own.End).String()})
	}
	return out
}

func toMend(in tongue.Tongue, m core.Mend, o core.Opening, a availability.OpeningsAnswer, zone when.Zone) api.Mend {
	out := api.Mend{Kind: api.MendKind(m.Kind), Start: m.Span.Start.Time(), End: m.Span.End.Time()}
	place := ""
	switch {
	case m.Kind == core.MendRoom:
		room := a.Others[m.Other]
		ref := toRoomRef(room)
		out.Room, place = &ref, room.Name+", "+room.Site
	case m.Room != rooms.NoRoom:
		ref := toRoomRef(a.Rooms[m.Room])
		out.Room = &ref
	}
	if m.Kind == core.MendWithout {
		out.Email = &a.Lanes[m.Person].Email
	}
	out.Words = words.Mend(in, m, o, a.People, place, zone)
	return out
}
