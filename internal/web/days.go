package web

import (
	"context"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/web/api"
)

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
