package web

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/today"
	"jembro/internal/web/api"
)

func (h *handlers) GetToday(ctx context.Context, _ api.GetTodayRequestObject) (api.GetTodayResponseObject, error) {
	t, err := h.deeds.Today.Today(ctx, actor(ctx))
	if err != nil {
		return nil, err
	}
	id := me(ctx)
	item := func(i today.Item) api.TodayItem { return toTodayItem(schedule.Tongue(ctx), i, id, t.Zone) }
	out := api.Today{Day: t.Day.String(), Items: each(t.Items, item), WholeDay: each(t.WholeDay, item), Reminded: each(t.Reminded, item), Away: t.Away, Ends: each(t.Ends, func(e today.End) api.LooseEnd { return toLooseEnd(schedule.Tongue(ctx), e, t) }),
		Invited: each(t.Invited, func(i schedule.OpenInvitation) api.InvitedTo { return toInvitedTo(schedule.Tongue(ctx), i, t) }),
		Clear:   each(t.Clear, func(c when.Span) api.Span { return api.Span{Start: c.Start.Time(), End: c.End.Time()} }),
		Asked:   each(t.Asked, func(a today.Asked) api.AskedOf { return toAskedOf(schedule.Tongue(ctx), a, t) })}
	if n := t.Next; n != nil {
		out.Next = &api.TodayNext{Start: n.Span.Start.Time(), Title: n.Content.Title, MeetingID: n.ID}
	}
	return api.GetToday200JSONResponse(out), nil
}

func toTodayItem(in tongue.Tongue, i today.Item, reader uuid.UUID, zone when.Zone) api.TodayItem {
	out := api.TodayItem{Start: i.Span.Start.Time(), End: i.Span.End.Time(), Title: i.Title, People: i.People, Coming: i.Coming, Missing: []string{}, NoRoom: i.NoRoom}
	out.Reminders = each(i.Reminders(), when.Instant.Time)
	m := i.Meeting
	if o := i.Outside; o != nil {
		stands := api.TodayItemStanding(standsTo(o.Answer))
		out.InvitationID, out.Organiser, out.Standing = &o.Invitation, &o.Calendar, &stands
	}
	if m == nil {
		return out
	}
	w := toWeekMeeting(*m, reader)
	out.Title, out.MeetingID, out.On, out.Room, out.Join = w.Title, &m.ID, &w.On, w.Room, w.Join
	stands := api.TodayItemStanding(standsTo(m.Answer))
	if m.OrganiserID == reader {
		stands = api.TodayItemStandingMine
		out.Missing = append(out.Missing, i.Missing...)
	} else {
		out.Organiser = &w.Organiser
	}
	out.Standing = &stands
	if card := m.Content.Card; card != nil {
		out.Provider = orNil(card.Name)
		out.Card = orNil(card.Text(join.Reader{Country: when.CountryOf(zone.String()), Tongue: in}))
	}
	return out
}

func toAskedOf(in tongue.Tongue, a today.Asked, t today.Today) api.AskedOf {
	m := a.Content
	out := api.AskedOf{MeetingID: a.ID, Title: m.Title, Organiser: m.Organiser.Name, Words: words.Near(in, a.Start, t.Day, t.Zone), Start: a.Start.Time(), Sequence: a.Sequence,
		Clashes: each(a.Clashes, func(c schedule.OwnClash) string { return words.OwnClash(in, c.Title, c.Leave, c.Start, t.Zone) })}
	if a.Rule {
		out.Words = in.Say("%[1]s, next %[2]s", words.Series(in, m.Plan()), out.Words)
	}
	return out
}

// parsed is an id where there is one.
func parsed(text string) *uuid.UUID {
	if id, err := uuid.Parse(text); err == nil {
		return &id
	}
	return nil
}

func toLooseEnd(in tongue.Tongue, e today.End, t today.Today) api.LooseEnd {
	out := api.LooseEnd{SheetID: parsed(e.Sheet), Key: e.Key, Kind: api.LooseEndKind(e.Kind), Worst: e.Worst(), MeetingID: parsed(e.MeetingID), On: e.On.String(), Title: e.Title, Start: e.Span.Start.Time(),
		Rooms: each(e.Rooms, toRoomRef), Address: orNil(e.Address)}
	out.Words, out.Detail = words.Loose(in, e.End, t.Day, t.Zone)
	if e.Message.ID != uuid.Nil {
		out.DispatchID = &e.Message.ID
		out.Detail += "; " + words.Heard(in, e.Message.Heard)
	}
	out.ParticipantID = parsed(e.Person.ID)
	if e.Letter.ID != uuid.Nil {
		out.LetterID = &e.Letter.ID
		what, instead := asks(e.Letter)
		out.Asks, out.Instead, out.Said = orNil(api.LooseEndAsks(what)), orNil(instead), orNil(e.Letter.Words)
		if i := e.Suggested; i != nil {
			out.Suggested, out.SuggestedName = &i.ID, &i.Name
		} else {
			all := each(e.Invited, func(i schedule.Invited) api.RoomRef { return api.RoomRef{ID: i.ID, Name: i.Name} })
			out.Invited = &all
		}
	}
	if p := e.Proposal; p != nil {
		out.Said = orNil(p.Comment)
		out.Detail += "; " + words.Span(in, t.Zone, p.Span)
	}
	if e.Kind == loose.Ends {
		out.Until = orNil(in.Date(e.Until))
	}
	return out
}

func (h *handlers) LetBe(ctx context.Context, r api.LetBeRequestObject) (api.LetBeResponseObject, error) {
	return api.LetBe204Response{}, h.deeds.Today.LetBe(ctx, actor(ctx), r.Body.Key)
}

func (h *handlers) TakeRoom(ctx context.Context, r api.TakeRoomRequestObject) (api.TakeRoomResponseObject, error) {
	var on when.Day
	if r.Body.On != nil {
		var err error
		if on, err = when.ParseDay(*r.Body.On); err != nil {
			return nil, schedule.Invalid("on", say.It("date.which"))
		}
	}
	return api.TakeRoom204Response{}, h.deeds.Today.TakeRoom(ctx, actor(ctx), r.ID, on, r.Body.RoomID)
}

func (h *handlers) ExtendSeries(ctx context.Context, r api.ExtendSeriesRequestObject) (api.ExtendSeriesResponseObject, error) {
	return api.ExtendSeries204Response{}, h.deeds.Today.Extend(ctx, actor(ctx), r.ID)
}

func (h *handlers) AskAgain(ctx context.Context, r api.AskAgainRequestObject) (api.AskAgainResponseObject, error) {
	return api.AskAgain204Response{}, h.deeds.Meetings.AskAgain(ctx, actor(ctx), r.ID)
}

// standsTo is how somebody stands to a meeting that they are asked to, as the contract names it.
func standsTo(a meeting.Answer) string {
	switch a {
	case meeting.Accepted:
		return "accepted"
	case meeting.Maybe:
		return "maybe"
	case meeting.Declined:
		return "declined"
	}
	return "unanswered"
}
