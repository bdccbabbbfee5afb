package web

import (
	"cmp"
	"context"
	"encoding/base64"
	"fmt"
	"net/http"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/holidays"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/calendars"
	"jembro/internal/web/api"
)

func (h *handlers) GetHours(ctx context.Context, _ api.GetHoursRequestObject) (api.GetHoursResponseObject, error) {
	p, err := h.deeds.Calendars.Page(ctx, actor(ctx))
	if err != nil {
		return nil, err
	}
	out := api.HoursPage{Version: p.HoursVersion, Zone: p.Hours.Zone.String(), Today: p.Today.String(), Everybody: api.SharingLevel(p.Shares), FeedURL: orNil(p.FeedURL), FeedTitles: p.FeedTitles}
	for i := range 7 {
		out.Week = append(out.Week, each(p.Hours.Week[(i+1)%7], toClockSpan))
	}
	if country, ok := holidays.Find(p.Person.Holidays); ok {
		out.Country = &country.Name
	}
	out.Other = each(p.Other, func(o schedule.OtherDay) api.OtherDay {
		return api.OtherDay{Day: o.Day.String(), Hours: each(o.Hours, toClockSpan), Word: o.Word}
	})
	out.Leave = each(p.Leave, func(l calendars.Leave) api.Leave {
		return api.Leave{ID: l.ID, First: l.First.String(), Last: l.Last.String(), Word: l.Word, WorkingDays: l.WorkingDays, Meetings: l.Meetings}
	})
	out.Holidays = each(p.Holidays, toHoliday)
	out.With = each(p.With, func(s schedule.Sharing) api.Sharing {
		return api.Sharing{PersonID: s.PersonID, Name: s.Name, Level: api.SharingLevel(s.Level)}
	})
	out.Calendars = each(p.Calendars, func(c schedule.Calendar) api.OtherCalendar {
		return api.OtherCalendar{ID: c.ID, Name: c.Name, Host: c.Host, File: c.File(), Counts: c.Counts, Entries: c.Entries, Unread: c.Unread, AddedAt: c.AddedAt,
			ReadAt: c.ReadAt, FailingSince: c.FailingSince, Problem: orNil(words.Say(schedule.Tongue(ctx), c.Fault.What())), Empty: c.EmptySince != nil}
	})
	return api.GetHours200JSONResponse(out), nil
}

func toHoliday(h schedule.Holiday) api.Holiday {
	return api.Holiday{Day: h.Day.String(), Name: h.Name}
}

func toClockSpan(s when.ClockSpan) api.ClockSpan {
	return api.ClockSpan{Start: s.Start.String(), End: s.End.String()}
}

func (h *handlers) SetHours(ctx context.Context, r api.SetHoursRequestObject) (api.SetHoursResponseObject, error) {
	return api.SetHours204Response{}, h.deeds.Calendars.SetWeek(ctx, actor(ctx), r.Params.IfMatch, [7]string(r.Body.Week), r.Body.Zone)
}

func (h *handlers) SetOtherDay(ctx context.Context, r api.SetOtherDayRequestObject) (api.SetOtherDayResponseObject, error) {
	return api.SetOtherDay204Response{}, h.deeds.Calendars.SetDay(ctx, actor(ctx), r.Params.IfMatch, r.Day, r.Body.Hours, r.Body.Word)
}

func (h *handlers) DropOtherDay(ctx context.Context, r api.DropOtherDayRequestObject) (api.DropOtherDayResponseObject, error) {
	day, err := dayIn("day", r.Day)
	if err != nil {
		return nil, err
	}
	return api.DropOtherDay204Response{}, h.deeds.Calendars.DropDay(ctx, actor(ctx), r.Params.IfMatch, day)
}

func (f calendarFile) VisitHoursFileResponse(c fiber.Ctx) error { return f.send(c) }

func (h *handlers) HoursFile(ctx context.Context, _ api.HoursFileRequestObject) (api.HoursFileResponseObject, error) {
	file, err := h.deeds.Calendars.HoursFile(ctx, actor(ctx))
	return calendarFile(file), err
}

// file reads a file sent in base64.
func file(b64 string) ([]byte, error) {
	raw, err := base64.StdEncoding.DecodeString(b64)
	if err != nil {
		return nil, field("b64", say.It("file.notWhole"))
	}
	return raw, nil
}

func (h *handlers) TakeHoursFile(ctx context.Context, r api.TakeHoursFileRequestObject) (api.TakeHoursFileResponseObject, error) {
	raw, err := file(r.Body.B64)
	if err != nil {
		return nil, err
	}
	return api.TakeHoursFile204Response{}, h.deeds.Calendars.TakeHoursFile(ctx, actor(ctx), r.Params.IfMatch, raw)
}

func (h *handlers) EnterLeave(ctx context.Context, r api.EnterLeaveRequestObject) (api.EnterLeaveResponseObject, error) {
	id, err := h.deeds.Calendars.EnterLeave(ctx, actor(ctx), r.Body.First, r.Body.Last, r.Body.Word)
	if err != nil {
		return nil, err
	}
	found, err := h.leave(ctx, id)
	return api.EnterLeave200JSONResponse(found), err
}

func (h *handlers) leave(ctx context.Context, id uuid.UUID) (api.LeaveMeetings, error) {
	a, all, err := h.deeds.Calendars.MeetingsInLeave(ctx, actor(ctx), id)
	return api.LeaveMeetings{ID: id, First: a.First.String(), Last: a.Last.String(), Word: a.Word, Items: each(all, func(m calendars.InLeave) api.LeaveMeeting {
		return api.LeaveMeeting{MeetingID: m.MeetingID, Title: m.Title, Organiser: m.Organiser, Mine: m.Mine, Repeats: m.Repeats, Whole: m.Whole,
			Dates: each(m.Dates, func(w schedule.InWeek) api.Span { return toSpan(w.Span) })}
	})}, err
}

func (h *handlers) GetLeave(ctx context.Context, r api.GetLeaveRequestObject) (api.GetLeaveResponseObject, error) {
	found, err := h.leave(ctx, r.ID)
	return api.GetLeave200JSONResponse(found), err
}

func (h *handlers) TakeLeaveBack(ctx context.Context, r api.TakeLeaveBackRequestObject) (api.TakeLeaveBackResponseObject, error) {
	return api.TakeLeaveBack204Response{}, h.deeds.Calendars.TakeLeaveBack(ctx, actor(ctx), r.ID)
}

func (h *handlers) SettleLeave(ctx context.Context, r api.SettleLeaveRequestObject) (api.SettleLeaveResponseObject, error) {
	items := each(r.Body.Items, func(i api.SettleItem) calendars.Away {
		return calendars.Away{MeetingID: i.MeetingID, Do: calendars.Doing(i.Do), To: deref(i.To)}
	})
	if err := h.deeds.Calendars.SettleLeave(ctx, actor(ctx), r.ID, items, r.Body.Word); err != nil {
		return nil, err
	}
	left, err := h.leave(ctx, r.ID)
	return api.SettleLeave200JSONResponse(left), err
}

func (h *handlers) AddCalendar(ctx context.Context, r api.AddCalendarRequestObject) (api.AddCalendarResponseObject, error) {
	n := calendars.NewCalendar{Address: deref(r.Body.Address), Name: deref(r.Body.Name), Counts: r.Body.Counts}
	if r.Body.B64 != nil {
		raw, err := file(*r.Body.B64)
		if err != nil {
			return nil, err
		}
		n.File = append([]byte{}, raw...)
	}
	_, err := h.deeds.Calendars.Add(ctx, actor(ctx), n)
	return api.AddCalendar204Response{}, err
}

func (h *handlers) ChangeCalendar(ctx context.Context, r api.ChangeCalendarRequestObject) (api.ChangeCalendarResponseObject, error) {
	c := calendars.CalendarChange{Name: r.Body.Name, Address: r.Body.Address, Counts: r.Body.Counts, Empty: deref(r.Body.Empty)}
	return api.ChangeCalendar204Response{}, h.deeds.Calendars.ChangeCalendar(ctx, actor(ctx), r.ID, c)
}

func (h *handlers) RemoveCalendar(ctx context.Context, r api.RemoveCalendarRequestObject) (api.RemoveCalendarResponseObject, error) {
	return api.RemoveCalendar204Response{}, h.deeds.Calendars.Remove(ctx, actor(ctx), r.ID)
}

func (h *handlers) ReadCalendar(ctx context.Context, r api.ReadCalendarRequestObject) (api.ReadCalendarResponseObject, error) {
	return api.ReadCalendar204Response{}, h.deeds.Calendars.TryNow(ctx, actor(ctx), r.ID)
}

func (h *handlers) SetSharing(ctx context.Context, r api.SetSharingRequestObject) (api.SetSharingResponseObject, error) {
	with := each(r.Body.With, func(s api.ShareWith) schedule.Sharing {
		return schedule.Sharing{PersonID: s.PersonID, Level: availability.Level(s.Level)}
	})
	return api.SetSharing204Response{}, h.deeds.Calendars.Share(ctx, actor(ctx), availability.Level(r.Body.Everybody), with)
}

func (h *handlers) GiveBusyTimes(ctx context.Context, r api.GiveBusyTimesRequestObject) (api.GiveBusyTimesResponseObject, error) {
	return api.GiveBusyTimes204Response{}, h.deeds.Calendars.Give(ctx, actor(ctx), r.Body.Titles)
}

func (h *handlers) WithdrawBusyTimes(ctx context.Context, _ api.WithdrawBusyTimesRequestObject) (api.WithdrawBusyTimesResponseObject, error) {
	return api.WithdrawBusyTimes204Response{}, h.deeds.Calendars.Withdraw(ctx, actor(ctx))
}

func (h *handlers) GetRoomFeed(ctx context.Context, r api.GetRoomFeedRequestObject) (api.GetRoomFeedResponseObject, error) {
	url, err := h.deeds.Calendars.RoomAddress(ctx, actor(ctx), r.ID)
	return api.GetRoomFeed200JSONResponse{URL: orNil(url)}, err
}

func (h *handlers) GiveRoomTimes(ctx context.Context, r api.GiveRoomTimesRequestObject) (api.GiveRoomTimesResponseObject, error) {
	url, err := h.deeds.Calendars.GiveRoom(ctx, actor(ctx), r.ID)
	return api.GiveRoomTimes200JSONResponse{URL: orNil(url)}, err
}

func (h *handlers) WithdrawRoomTimes(ctx context.Context, r api.WithdrawRoomTimesRequestObject) (api.WithdrawRoomTimesResponseObject, error) {
	return api.WithdrawRoomTimes204Response{}, h.deeds.Calendars.WithdrawRoom(ctx, actor(ctx), r.ID)
}

func (h *handlers) GetWatched(ctx context.Context, r api.GetWatchedRequestObject) (api.GetWatchedResponseObject, error) {
	first, days, err := daysAsked(r.Params.From, r.Params.Days)
	if err != nil {
		return nil, err
	}
	all, err := h.deeds.Calendars.Watched(ctx, actor(ctx), first, days)
	return api.GetWatched200JSONResponse{Items: each(all, toWatched)}, err
}

func toWatched(w calendars.WatchedTime) api.WatchedTime {
	out := api.WatchedTime{Name: w.Name, Email: w.Email, Hidden: w.Hidden}
	if w.PersonID != uuid.Nil {
		out.PersonID = &w.PersonID
	} else {
		out.RoomID = &w.RoomID
	}
	out.Times = each(w.Times, func(t availability.Shown) api.ShownTime {
		return api.ShownTime{Start: t.Span.Start.Time(), End: t.Span.End.Time(), Kind: api.ShownTimeKind(t.Kind), Title: t.Title}
	})
	for _, u := range w.Uses {
		out.Times = append(out.Times, api.ShownTime{Start: u.Span.Start.Time(), End: u.Span.End.Time(), Kind: api.ShownTimeKindBusy, Title: cmp.Or(u.Title, u.By)})
	}
	return out
}

func (h *handlers) SetWatched(ctx context.Context, r api.SetWatchedRequestObject) (api.SetWatchedResponseObject, error) {
	var all []schedule.Watched
	for i, w := range r.Body.Items {
		switch {
		case (w.PersonID == nil) == (w.RoomID == nil):
			return nil, field(fmt.Sprintf("items.%d", i), say.It("watch.what"))
		case w.PersonID != nil:
			all = append(all, schedule.Watched{PersonID: *w.PersonID})
		default:
			all = append(all, schedule.Watched{RoomID: *w.RoomID})
		}
	}
	return api.SetWatched204Response{}, h.deeds.Calendars.Watch(ctx, actor(ctx), all)
}

func (h *handlers) KeepTheirAddress(ctx context.Context, r api.KeepTheirAddressRequestObject) (api.KeepTheirAddressResponseObject, error) {
	return api.KeepTheirAddress204Response{}, h.deeds.Calendars.KeepTheirAddress(ctx, actor(ctx), r.Body.Email, r.Body.Name, r.Body.Address)
}

func (h *handlers) ForgetTheirAddress(ctx context.Context, r api.ForgetTheirAddressRequestObject) (api.ForgetTheirAddressResponseObject, error) {
	return api.ForgetTheirAddress204Response{}, h.deeds.Calendars.ForgetTheirAddress(ctx, actor(ctx), r.Params.Email)
}

// busyTimes answers at a secret address: .ics gives events, .ifb busy times alone.
func (h *handlers) busyTimes(ctx fiber.Ctx) error {
	name := ctx.Params("name")
	token, events := strings.CutSuffix(name, ".ics")
	if !events {
		var ok bool
		if token, ok = strings.CutSuffix(name, ".ifb"); !ok {
			return schedule.ErrNotFound
		}
	}
	g, err := h.deeds.Calendars.Given(ctx.Context(), token, !events)
	if err != nil {
		return err
	}
	ctx.Set(fiber.HeaderETag, "W/"+g.ETag) // packed or not
	ctx.Set(fiber.HeaderLastModified, g.Changed.UTC().Format(http.TimeFormat))
	ctx.Set(fiber.HeaderCacheControl, "private, no-cache")
	ctx.Set("X-Robots-Tag", "noindex")
	if unchanged(ctx, g) {
		return ctx.SendStatus(fiber.StatusNotModified)
	}
	ctx.Set(fiber.HeaderContentType, "text/calendar; charset=utf-8")
	ctx.Set(fiber.HeaderVary, fiber.HeaderAcceptEncoding)
	if ctx.AcceptsEncodings("gzip") != "gzip" {
		return ctx.Send(g.Body)
	}
	packed, err := calendars.Pack(g.Body)
	if err != nil {
		return err
	}
	ctx.Set(fiber.HeaderContentEncoding, "gzip")
	return ctx.Send(packed)
}

// unchanged tells whether the reader has it already; If-None-Match goes before
// If-Modified-Since (RFC 9110, 13.2.2).
func unchanged(ctx fiber.Ctx, g calendars.Given) bool {
	if match := ctx.Get(fiber.HeaderIfNoneMatch); match != "" {
		for tag := range strings.SplitSeq(match, ",") {
			if tag = strings.TrimPrefix(strings.TrimSpace(tag), "W/"); tag == g.ETag || tag == "*" {
				return true
			}
		}
		return false
	}
	since, err := http.ParseTime(ctx.Get(fiber.HeaderIfModifiedSince))
	return err == nil && !g.Changed.After(since)
}

// largest is what a request can hold: a file of a calendar in base64 where one is sent.
func largest(path string) int {
	if path == "/api/calendars" || path == "/api/hours/file" {
		return calendar.MostBytes/3*4 + 4096
	}
	if path == "/api/files" {
		return attachment.FileLimit
	}
	return bodyLimit
}
