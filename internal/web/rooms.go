package web

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/rooms"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	keeping "jembro/internal/schedule/rooms"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

func (h *handlers) GetRoom(ctx context.Context, r api.GetRoomRequestObject) (api.GetRoomResponseObject, error) {
	first, err := dayIn("from", r.Params.From)
	if err != nil {
		return nil, err
	}
	days := 14
	if r.Params.Days != nil {
		days = *r.Params.Days
	}
	room, err := h.deeds.Rooms.Room(ctx, actor(ctx), r.ID, first, days)
	if err != nil {
		return nil, err
	}
	out := api.GetRoom200JSONResponse{Room: toRoom(room.Room), Version: room.Version, Directions: room.Directions, Link: orNil(room.Link), Keeps: room.Keeps,
		Rules: room.Rules, Clear: room.Clear, Zone: room.Zone.String(), Keepers: each(room.Keepers, func(p schedule.Person) string { return p.Name }),
		Days: each(room.Days, func(d keeping.Day) api.RoomDay {
			return api.RoomDay{Day: d.Day.String(), Closed: d.Closed, Shut: each(d.Shut, toSpan), Taken: each(d.Uses, toRoomUse)}
		}),
		Waiting: each(room.Waiting, func(w schedule.WaitingPerson) api.RoomWait {
			return api.RoomWait{Name: w.Name, Start: w.Span.Start.Time(), End: w.Span.End.Time()}
		}),
		Asked: each(room.Asked, func(q keeping.Asked) api.AskedRoom { return toAskedRoom(schedule.Tongue(ctx), q) }), Settings: toSettings(schedule.Tongue(ctx), room)}
	if room.Until != 0 {
		until := room.Until.Time()
		out.Until = &until
	}
	return out, nil
}

func toAskedRoom(in tongue.Tongue, q keeping.Asked) api.AskedRoom {
	out := api.AskedRoom{ID: q.ID, RoomID: q.RoomID, Room: q.Room, Title: q.Title, By: q.By, People: len(q.Content.Participants) + 1, When: q.When, Why: q.Why,
		LapsesAt: q.LapsesAt, Dates: q.Dates, Without: q.Without, Instead: each(q.Instead, toRoomRef), Day: q.Day.String()}
	if q.Content.Repeats() {
		out.Repeats = orNil(words.Series(in, q.Content.Plan()))
	}
	return out
}

func toSettings(in tongue.Tongue, room keeping.Room) api.RoomChange {
	r, named := keeping.Type(in, room.Room.Rules), map[string]string{}
	for _, p := range room.People {
		named[p.ID.String()] = p.Name
	}
	person := func(id string) api.RoomPerson { return api.RoomPerson{ID: idOf(id), Name: named[id]} }
	out := api.RoomChange{Name: room.Name, Floor: room.Floor, Seats: room.Seats, Equipment: each(room.Equipment, same), Directions: room.Directions, Link: room.Link,
		Keepers: each(room.Room.Keepers, func(id uuid.UUID) api.RoomPerson { return person(id.String()) }),
		Rules: api.RoomRules{By: api.RoomRulesByEverybody, Others: api.RoomRulesOthersAsk, People: each(r.People, person), Longest: r.Longest, Ahead: r.Ahead, Gap: r.Gap,
			Open: r.Open[:], Holidays: r.Holidays, Closed: r.Closed, Share: r.Share, Outside: &r.Outside,
			AgreeAlways: r.AgreeAlways, AgreeAbove: r.AgreeAbove, AgreeAfter: r.AgreeAfter, AgreeWithin: r.AgreeWithin}}
	if r.By != rooms.ByEverybody {
		out.Rules.By = api.RoomRulesBy(r.By)
	}
	if r.Others == rooms.OthersRefused {
		out.Rules.Others = api.RoomRulesOthersRefuse
	}
	return out
}

func (h *handlers) ChangeRoom(ctx context.Context, r api.ChangeRoomRequestObject) (api.ChangeRoomResponseObject, error) {
	c := keeping.Change{Name: r.Body.Name, Floor: r.Body.Floor, Seats: r.Body.Seats, Equipment: r.Body.Equipment, Directions: r.Body.Directions, Link: r.Body.Link,
		Rules: fromRules(r.Body.Rules), Keepers: each(r.Body.Keepers, func(p api.RoomPerson) uuid.UUID { return p.ID })}
	return api.ChangeRoom204Response{}, h.deeds.Rooms.ChangeRoom(ctx, actor(ctx), r.ID, r.Params.IfMatch, c)
}

func fromRules(r api.RoomRules) keeping.TypedRules {
	out := keeping.TypedRules{By: rooms.By(r.By), People: each(r.People, func(p api.RoomPerson) string { return p.ID.String() }), Longest: r.Longest, Ahead: r.Ahead, Gap: r.Gap,
		Open: [7]string(r.Open), Holidays: r.Holidays, Closed: r.Closed, Share: r.Share, Outside: deref(r.Outside),
		AgreeAlways: r.AgreeAlways, AgreeAbove: r.AgreeAbove, AgreeAfter: r.AgreeAfter, AgreeWithin: r.AgreeWithin}
	if r.By == api.RoomRulesByEverybody {
		out.By = rooms.ByEverybody
	}
	if r.Others == api.RoomRulesOthersRefuse {
		out.Others = rooms.OthersRefused
	}
	return out
}

func (h *handlers) AnswerRoomRequest(ctx context.Context, r api.AnswerRoomRequestRequestObject) (api.AnswerRoomRequestResponseObject, error) {
	return api.AnswerRoomRequest204Response{}, h.deeds.Rooms.Answer(ctx, actor(ctx), r.ID, r.Body.Yes, r.Body.Word)
}

func (h *handlers) GetRoomTable(ctx context.Context, _ api.GetRoomTableRequestObject) (api.GetRoomTableResponseObject, error) {
	text, err := h.deeds.Rooms.Table(ctx, actor(ctx))
	if err != nil {
		return nil, err
	}
	name := `attachment; filename="rooms.csv"`
	return api.GetRoomTable200TextCsvResponse{Body: strings.NewReader(text), ContentLength: int64(len(text)),
		Headers: api.GetRoomTable200ResponseHeaders{ContentDisposition: &name}}, nil
}

func (h *handlers) TakeRoomTable(ctx context.Context, r api.TakeRoomTableRequestObject) (api.TakeRoomTableResponseObject, error) {
	done, err := h.deeds.Rooms.TakeTable(ctx, actor(ctx), r.Body.Csv, r.Body.Try)
	return api.TakeRoomTable200JSONResponse{Added: done.Added, Changed: done.Changed, Same: done.Same}, err
}

func (h *handlers) HoldRooms(ctx context.Context, r api.HoldRoomsRequestObject) (api.HoldRoomsResponseObject, error) {
	hold, err := h.deeds.Sheets.HoldRooms(ctx, actor(ctx), r.ID)
	return api.HoldRooms200JSONResponse(toHold(schedule.Tongue(ctx), hold)), err
}

func toHold(in tongue.Tongue, h sheets.Hold) api.Hold {
	out := api.Hold{Words: orNil(words.Say(in, h.What)), Again: int(rooms.HoldAgain.Seconds())}
	if !h.Until.IsZero() {
		out.Until = &h.Until
	}
	return out
}

func (h *handlers) WaitForRoom(ctx context.Context, r api.WaitForRoomRequestObject) (api.WaitForRoomResponseObject, error) {
	if err := h.deeds.Sheets.Wait(ctx, actor(ctx), r.ID); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.WaitForRoom200JSONResponse(s), err
}

func (h *handlers) StopWaiting(ctx context.Context, r api.StopWaitingRequestObject) (api.StopWaitingResponseObject, error) {
	if err := h.deeds.Sheets.StopWaiting(ctx, actor(ctx), r.ID); err != nil {
		return nil, err
	}
	s, err := h.sheet(ctx, r.ID)
	return api.StopWaiting200JSONResponse(s), err
}

func (h *handlers) DecideRoom(ctx context.Context, r api.DecideRoomRequestObject) (api.DecideRoomResponseObject, error) {
	on, err := dayIn("on", r.Body.On)
	if err != nil {
		return nil, err
	}
	decide := h.deeds.Sheets.GiveBack
	if r.Body.Needed {
		decide = h.deeds.Meetings.KeepRoom
	}
	return api.DecideRoom204Response{}, decide(ctx, actor(ctx), r.ID, on)
}

func (h *handlers) ListRooms(ctx context.Context, r api.ListRoomsRequestObject) (api.ListRoomsResponseObject, error) {
	p := page(r.Params.Limit, r.Params.Offset)
	found, err := h.deeds.Directory.Rooms(ctx, p)
	shown, more := cut(found, p)
	return api.ListRooms200JSONResponse{Items: each(shown, toRoom), More: more}, err
}
