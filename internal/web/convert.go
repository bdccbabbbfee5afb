package web

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	core "jembro/internal/core/availability"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/web/api"
)

// orNil leaves a field out of the answer when there is nothing to say.
func orNil[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}

// listOrNil leaves an empty list out of the answer.
func listOrNil[T any](all []T) *[]T {
	if len(all) == 0 {
		return nil
	}
	return &all
}

// each is never nil, so that lists are written as lists.
func each[From, To any](all []From, turn func(From) To) []To {
	out := make([]To, len(all))
	for i, v := range all {
		out[i] = turn(v)
	}
	return out
}

func toSpan(s when.Span) api.Span { return api.Span{Start: s.Start.Time(), End: s.End.Time()} }

func (h *handlers) me(ctx context.Context, p schedule.Person) (api.Me, error) {
	out := api.Me{ID: p.ID, Name: p.Name, Email: p.Email, Role: p.Role, Site: p.Site, Zone: p.Hours.Zone.String(), Language: tongue.In(p.Language).Code(),
		House: h.deeds.House.Name, Now: h.deeds.Now().UTC(), Providers: []api.ProviderRef{}, NewsMail: api.NewsMail(p.NewsMail), MorningMail: p.MorningMail, Nudges: p.Nudges, KeepsRooms: p.KeepsRooms, KeepsProviders: p.KeepsProviders, UndoSeconds: int(h.deeds.Undo.Seconds()),
		FileLimit: attachment.FileLimit, FileLimitWords: attachment.Size(attachment.FileLimit)}
	usable, err := h.deeds.Links.Usable(ctx)
	for _, p := range usable {
		out.Providers = append(out.Providers, api.ProviderRef{Key: p.Key, Name: p.Service.Name, Fresh: p.Service.Does(join.CanMake), Standing: p.Service.Does(join.CanStand)})
	}
	return out, err
}

func toWeekMeeting(m schedule.InWeek, me uuid.UUID) api.WeekMeeting {
	date, _ := m.Content.Date(m.On)
	out := api.WeekMeeting{ID: m.ID, On: m.On.String(), Series: m.Content.Repeats(), Title: date.Title, Start: m.Span.Start.Time(), End: m.Span.End.Time(),
		Organiser: m.Content.Organiser.Name, Link: m.Content.Card != nil, Private: m.Content.Private, Standing: standing(m, me), AllDay: orNil(m.Content.AllDay)}
	if date.Room != nil {
		out.Room = &date.Room.Name
	}
	if m.Content.Card != nil {
		out.Join = orNil(m.Content.Card.URL)
	}
	return out
}

func standing(m schedule.InWeek, me uuid.UUID) api.WeekMeetingStanding {
	switch {
	case m.OrganiserID == me && m.Unreached:
		return api.WeekMeetingStandingBroken
	case m.OrganiserID == me:
		return api.WeekMeetingStandingMine
	case m.Answer == meeting.Accepted:
		return api.WeekMeetingStandingAccepted
	case m.Answer == meeting.Maybe:
		return api.WeekMeetingStandingMaybe
	case m.Answer == meeting.Declined:
		return api.WeekMeetingStandingDeclined
	}
	return api.WeekMeetingStandingUnanswered
}

func toRoom(r schedule.Room) api.Room {
	return api.Room{ID: r.ID, Name: r.Name, SiteID: r.SiteID, Site: r.Site, Floor: r.Floor, Seats: r.Seats, Equipment: each(r.Equipment, same)}
}

func toSheet(in tongue.Tongue, s schedule.Sheet, of *schedule.Record) api.Sheet {
	return api.Sheet{ID: s.ID, Version: s.Version, Draft: toDraft(s.Draft), Card: toCard(s.Card, join.Reader{Organiser: true, Tongue: in}), Link: toSheetLink(sheets.LinkView{}), MeetingID: s.MeetingID,
		Stale: of != nil && of.Version != s.BasedOn, UpdatedAt: s.UpdatedAt, Faults: []api.FieldError{}, Due: []api.Due{}, Readings: []api.Reading{}, Unclear: []api.Unclear{}}
}

func toSheetRef(in tongue.Tongue, s schedule.Sheet) api.SheetRef {
	return api.SheetRef{ID: s.ID, Title: s.Draft.Title, Start: s.Draft.Start, Zone: s.Draft.Zone, People: len(s.Draft.People), MeetingID: s.MeetingID, UpdatedAt: s.UpdatedAt, SendAt: s.SendAt, SendFault: orNil(words.Say(in, s.SendFault))}
}

func toDraft(d meeting.Draft) api.Draft {
	out := api.Draft{Title: d.Title, Text: d.Text, Start: d.Start, End: d.End, Zone: d.Zone, Private: d.Private, AllDay: orNil(d.AllDay), Free: orNil(d.Free), Apart: orNil(d.Apart), Bring: orNil(d.Bring), Move: orNil(d.Move), Cover: toCover(d.Cover), Files: listOrNil(each(d.Files, toFile)), Reminders: listOrNil(each(d.Reminders, toReminder)), RemindBefore: d.RemindBefore,
		RoomID: d.RoomID, NoRoom: d.NoRoom, NoLink: d.NoLink, NoWays: listOrNil(d.NoWays), Dates: each(d.Dates, toDraftDate),
		People: each(d.People, func(p meeting.DraftPerson) api.DraftPerson {
			return api.DraftPerson{PersonID: p.PersonID, Name: p.Name, Email: p.Email, Needed: p.Needed, DelegatedFrom: orNil(p.DelegatedFrom), BroughtBy: orNil(p.BroughtBy), Language: orNil(p.Language),
				Dates: each(p.Dates, func(r meeting.DraftRange) api.DraftRange { return api.DraftRange(r) })}
		})}
	if r := d.Repeat; r != nil {
		out.Repeat = &api.DraftRepeat{Rule: r.Rule, Ends: api.DraftRepeatEnds(r.Ends), Until: r.Until, Count: r.Count, Weekends: r.Weekends,
			Holidays: r.Holidays, Days: each(r.Days, same), Added: each(r.Added, same)}
	}
	if d.Scope != nil {
		scope := api.DraftScope(*d.Scope)
		out.Scope = &scope
	}
	out.LongMeant = orNil(d.LongMeant)
	if len(d.Typed) > 0 {
		waiting := each(d.Typed, func(t meeting.DraftTyped) api.DraftTyped {
			return api.DraftTyped{Field: t.Field, Text: t.Text, Window: orNil(t.Window)}
		})
		out.Typed = &waiting
	}
	return out
}

func toFile(f attachment.File) api.File {
	return api.File{ID: idOf(f.ID), Name: f.Name, Size: f.Size, Words: attachment.Size(f.Size)}
}

func toReminder(r meeting.Reminder) api.Reminder {
	return api.Reminder{Before: r.Before, Own: r.Own, Mail: r.Mail}
}

func toDraftDate(d meeting.DraftDate) api.DraftDate {
	return api.DraftDate{On: d.On, Out: d.Out, Start: d.Start, End: d.End, RoomID: d.RoomID, NoRoom: d.NoRoom}
}

func toCover(c *meeting.Cover) *api.Cover {
	if c == nil {
		return nil
	}
	return &api.Cover{Subject: c.Subject, All: c.All, One: each(c.One, func(o meeting.CoverOne) api.CoverOne { return api.CoverOne{Email: o.Email, Words: o.Words} })}
}

// fromCover is nil where nothing is written.
func fromCover(c *api.Cover) *meeting.Cover {
	if c == nil || c.Subject == "" && c.All == "" && len(c.One) == 0 {
		return nil
	}
	return &meeting.Cover{Subject: c.Subject, All: c.All, One: each(c.One, func(o api.CoverOne) meeting.CoverOne { return meeting.CoverOne{Email: o.Email, Words: o.Words} })}
}

func fromDraft(d api.Draft) meeting.Draft {
	out := meeting.Draft{Title: d.Title, Text: d.Text, Start: d.Start, End: d.End, Zone: d.Zone, Private: d.Private, AllDay: d.AllDay != nil && *d.AllDay, Free: d.Free != nil && *d.Free, Apart: deref(d.Apart), Bring: deref(d.Bring), Move: deref(d.Move), Cover: fromCover(d.Cover), RemindBefore: d.RemindBefore,
		RoomID: d.RoomID, NoRoom: d.NoRoom, NoLink: d.NoLink, NoWays: deref(d.NoWays), People: fromPeople(d.People)}
	for _, x := range d.Dates {
		out.Dates = append(out.Dates, meeting.DraftDate{On: x.On, Out: x.Out, Start: x.Start, End: x.End, RoomID: x.RoomID, NoRoom: x.NoRoom})
	}
	if r := d.Repeat; r != nil {
		out.Repeat = &meeting.DraftRepeat{Rule: r.Rule, Ends: string(r.Ends), Until: r.Until, Count: r.Count, Weekends: r.Weekends,
			Holidays: r.Holidays, Days: r.Days, Added: r.Added}
	}
	if d.Scope != nil {
		scope := meeting.DraftScope(*d.Scope)
		out.Scope = &scope
	}
	for _, r := range deref(d.Reminders) {
		out.Reminders = append(out.Reminders, meeting.Reminder{Before: r.Before, Own: r.Own, Mail: r.Mail})
	}
	for _, f := range deref(d.Files) {
		out.Files = append(out.Files, attachment.File{ID: f.ID.String(), Name: f.Name, Size: f.Size})
	}
	if d.LongMeant != nil {
		out.LongMeant = *d.LongMeant
	}
	if d.Typed != nil {
		out.Typed = each(*d.Typed, func(t api.DraftTyped) meeting.DraftTyped {
			return meeting.DraftTyped{Field: t.Field, Text: t.Text, Window: deref(t.Window)}
		})
	}
	return out
}

func fromPeople(people []api.DraftPerson) []meeting.DraftPerson {
	return each(people, func(p api.DraftPerson) meeting.DraftPerson {
		out := meeting.DraftPerson{PersonID: p.PersonID, Name: p.Name, Email: p.Email, Needed: p.Needed, DelegatedFrom: deref(p.DelegatedFrom), BroughtBy: deref(p.BroughtBy), Language: deref(p.Language)}
		for _, r := range p.Dates {
			out.Dates = append(out.Dates, meeting.DraftRange(r))
		}
		return out
	})
}

func toDay(in tongue.Tongue, a availability.DayAnswer, wantRoom bool) api.Day {
	return api.Day{Window: toSpan(a.Window), AllRooms: a.AllRooms, Seats: a.Seats,
		Lanes: each(a.Lanes, toLane), Rooms: each(a.Rooms, func(x availability.RoomLane) api.RoomLane { return toRoomLane(in, x) }),
		Fits:     each(a.Fits, func(s core.Stretch) api.Stretch { return toStretch(in, s, a.People, wantRoom) }),
		Troubles: each(a.Troubles, func(t core.Trouble) api.Trouble { return toTrouble(in, t, a) })}
}

func toLane(l availability.Lane) api.Lane {
	out := api.Lane{Name: l.Name, Email: l.Email, Needed: l.Needed, You: l.You, TimeKnown: l.PersonID != uuid.Nil && !l.Hidden || l.Published != nil, Off: each(l.Off, toSpan),
		Busy: each(l.Taken, func(b core.Time) api.BusyTime {
			return api.BusyTime{Start: b.Span.Start.Time(), End: b.Span.End.Time(), Kind: api.BusyTimeKind(b.Kind)}
		})}
	if l.Hidden {
		out.Hidden = &l.Hidden
	}
	out.StaleSince = l.StaleSince
	if c := l.Published; c != nil {
		out.Published = &api.PublishedTimes{ReadAt: *c.ReadAt, Failing: c.FailingSince != nil}
	}
	if l.ZoneKnown {
		out.Zone = orNil(l.Zone.String())
	}
	return out
}

func toRoomLane(in tongue.Tongue, r availability.RoomLane) api.RoomLane {
	out := api.RoomLane{Room: toRoom(r.Room), Suits: r.Suits, Clear: r.Clear, Waitable: r.Waitable(), Shut: each(r.Shut, toSpan), Taken: each(r.Taken, func(b schedule.Booking) api.Taken {
		return api.Taken{Start: b.Span.Start.Time(), End: b.Span.End.Time(), By: orNil(b.By), Kind: api.TakenKind(b.Kind), Until: b.Until}
	})}
	switch sentence := words.RoomReasons(in, r.Name, r.Site, r.Says.Reasons); r.Says.Verdict {
	case rooms.Asked:
		out.Asks = &sentence
	case rooms.Refused:
		out.Refuses = &sentence
	}
	return out
}

func toStretch(in tongue.Tongue, s core.Stretch, people []core.Person, wantRoom bool) api.Stretch {
	return api.Stretch{Start: s.Start.Time(), End: s.End.Time(), Kind: api.StretchKind(s.Kind()), Words: words.Stretch(in, s, people, wantRoom)}
}

func toOpening(in tongue.Tongue, o core.Opening, a availability.OpeningsAnswer) api.Opening {
	zones := make([]*when.Zone, len(a.Lanes))
	for i, l := range a.Lanes {
		if l.ZoneKnown {
			zones[i] = &a.Lanes[i].Zone
		}
	}
	out := api.Opening{Start: o.Start.Time(), End: o.End.Time(), NoRoom: orNil(o.NoRoom), Kind: api.OpeningKindNearly}
	out.Head, out.Lines = words.Opening(in, o, a.People, zones)
	if out.Lines == nil {
		out.Lines = []string{}
	}
	if o.Room >= 0 {
		out.Room = &api.RoomRef{ID: a.Rooms[o.Room].ID, Name: a.Rooms[o.Room].Name, Seats: a.Rooms[o.Room].Seats}
	}
	switch {
	case o.Good():
		out.Kind = api.OpeningKindGood
	case len(o.Missing) == 0 && !o.NoRoom:
		out.Kind = api.OpeningKindSoft
	}
	return out
}

func toTrouble(in tongue.Tongue, t core.Trouble, a availability.DayAnswer) api.Trouble {
	lane := a.Lanes[t.Person]
	return api.Trouble{Name: lane.Name, Email: lane.Email, Needed: t.Needed, Hard: t.Busy, Blocks: t.Blocks(), Short: words.Trouble(in, t, a.People[t.Person])}
}

var answerNames = map[meeting.Answer]api.Answer{meeting.NoAnswer: api.AnswerNone, meeting.Accepted: api.AnswerAccepted,
	meeting.Maybe: api.AnswerMaybe, meeting.Declined: api.AnswerDeclined}

// fromAnswer is empty for an answer that is none; the service refuses it.
func fromAnswer(a api.GiveAnswerAnswer) meeting.Answer {
	for answer, name := range answerNames {
		if string(name) == string(a) && answer.Known() {
			return answer
		}
	}
	return ""
}

func toParty(p meeting.Party) api.Party {
	return api.Party{Name: p.Name, Email: p.Email, Zone: orNil(p.Zone)}
}

func toMeetingRoom(r *meeting.Room) *api.MeetingRoom {
	if r == nil {
		return nil
	}
	return &api.MeetingRoom{Name: r.Name, Place: r.Place, Seats: r.Seats}
}

// toOwnRoom is that with how the meeting stands with it, for those inside.
func toOwnRoom(r *meeting.Room, s meetings.RoomState) *api.MeetingRoom {
	out := toMeetingRoom(r)
	if out != nil {
		state := api.MeetingRoomState(s.State)
		out.ID, out.State, out.Words = orNil(r.ID), &state, orNil(s.Words)
		if len(s.Unsure) > 0 {
			days := each(s.Unsure, when.Day.String)
			out.Unsure = &days
		}
	}
	return out
}

func (h *handlers) meeting(in tongue.Tongue, d meetings.Detail, me uuid.UUID) api.Meeting {
	m, span := d.Content, d.Content.Span()
	if d.Me != nil {
		span = m.SpanFor(d.Me.ID.String())
	}
	out := api.Meeting{ID: d.ID, Version: d.Version, Sequence: m.Sequence, Title: m.Title, Text: m.Text, Files: listOrNil(each(m.Files, toFile)),
		Start: span.Start.Time(), End: span.End.Time(), Zone: m.Zone,
		AllDay: orNil(m.AllDay), Free: orNil(m.Free), Private: m.Private, CalledOff: d.CalledOffAt != nil, Organiser: toParty(m.Organiser), Mine: d.OrganiserID == me,
		Room: toOwnRoom(m.Room, d.Room), Card: toCard(m.Card, join.Reader{Country: when.CountryOf(d.Zone.String()), Organiser: d.OrganiserID == me, Tongue: in}), Happenings: []api.Happening{}, Series: toSeries(h.deeds.Meetings.Series(in, d), m)}
	if out.Series != nil && d.Before != nil {
		out.Series.GoesOnFrom = &d.Before.ID
	}
	if out.Series != nil && d.After != nil {
		out.Series.GoesOnIn = &d.After.ID
	}
	if d.Me != nil {
		part, _ := d.Roll.Part(d.Me.ID)
		answer, seen := answerNames[part.Kept().ToAll()], part.Kept().Seen()
		out.MyAnswer, out.MySequence = &answer, &seen
		out.MayBring, out.MayMove = orNil(m.Bring), orNil(m.Move)
		out.Reminders = listOrNil(each(d.Reminders, func(r meeting.Reminder) api.OwnReminder { return api.OwnReminder{Before: r.Before, Mail: r.Mail} }))
	}
	out.Proposed = toOwnProposal(d.Proposed, d.Content)
	if len(d.Clashes) > 0 {
		clashes := each(d.Clashes, func(c schedule.OwnClash) api.OwnClash {
			return api.OwnClash{On: c.On.String(), Words: words.OwnClash(in, c.Title, c.Leave, c.Start, d.Zone)}
		})
		out.Clashes = &clashes
	}
	out.Participants = each(d.Invited, func(i schedule.Invited) api.Participant { return toParticipant(in, i, d, out.Mine) })
	if out.Mine {
		out.Letters = h.letters(in, d)
		if d.Address != nil {
			out.Address = h.shortAddress(*d.Address)
		}
		if trouble, is := meeting.CallTrouble(events(d.Happenings)); is && out.Card != nil && !out.CalledOff {
			said := words.Event(in, trouble)
			out.CallTrouble = &said
		}
		out.Happenings = each(d.Happenings, func(h schedule.Happening) api.Happening {
			return api.Happening{At: h.At, Words: words.Event(in, h.Event)}
		})
	}
	return out
}

func toParticipant(in tongue.Tongue, i schedule.Invited, d meetings.Detail, mine bool) api.Participant {
	out := api.Participant{ID: i.ID, Name: i.Name, Email: i.Email, Zone: orNil(i.Zone), Outside: i.PersonID == nil, Needed: i.Needed,
		Answer: answerNames[i.Answer], AnsweredAt: i.AnsweredAt, Dates: orNil(meetings.DatesWords(in, d.Content, i))}
	if p, is := d.Content.Participant(i.ID.String()); is {
		out.Instead, out.BroughtBy = orNil(p.DelegatedFrom), orNil(d.Content.BringerOf(p))
		if to, sends := d.Content.DelegateOf(p); sends {
			out.Sends = &to.Name
		}
	}
	if !mine {
		return out
	}
	out.Comment = i.Comment
	out.AnswersOn = listOrNil(each(d.AnswersOn(i.ID), func(a schedule.AnswerOn) api.AnswerOn {
		return api.AnswerOn{On: a.On.String(), Answer: answerNames[a.Answer], Comment: a.Comment}
	}))
	if x, ok := d.Dispatches[i.ID]; ok {
		at := x.QueuedAt
		if x.HandedAt != nil {
			at = *x.HandedAt
		}
		out.Dispatch = &api.Dispatch{ID: x.ID, Kind: api.DispatchKind(x.Kind), Channel: api.DispatchChannel(x.Channel),
			State: api.DispatchState(x.State), Stage: api.DispatchStageNone, Detail: x.Detail, At: at}
		if x.Stage != "" {
			out.Dispatch.Stage = api.DispatchStage(x.Stage)
		}
		switch {
		case x.State == schedule.Queued && x.Detail != "":
			out.Dispatch.Detail = in.Say("not yet: %s", x.Detail)
		case x.Mended != "":
			out.Dispatch.State, out.Dispatch.Detail = api.DispatchStateMended, words.Mended(in, string(x.Mended))
		case x.Open() && !x.Lost():
			out.Dispatch.State, out.Dispatch.Detail = api.DispatchStateOpen, words.Heard(in, x.Heard)
		}
	}
	return out
}

func (h *handlers) guest(v meetings.GuestView) api.GuestMeeting {
	m, span := v.Content, v.Content.SpanFor(v.Guest.ID.String())
	names := []string{m.Organiser.Name}
	for _, p := range m.Participants {
		names = append(names, p.Name)
	}
	return api.GuestMeeting{House: h.deeds.House.Name, Series: toSeries(h.deeds.Meetings.GuestSeries(v), m), Title: m.Title, Text: m.Text, Start: span.Start.Time(), End: span.End.Time(), AllDay: orNil(m.AllDay), Zone: m.Zone,
		CalledOff: v.CalledOffAt != nil, Organiser: toParty(m.Organiser), Guest: toParty(v.Guest.Party()), GuestZone: v.Guest.Zone,
		Answer: answerNames[v.Part.Kept().ToAll()], Comment: v.Guest.Comment, Sequence: v.Part.Kept().Seen(), Proposed: toOwnProposal(v.Proposed, m),
		Version: v.Version, Unseen: v.Guest.PageSeen < v.Version, Since: toSince(v.Since),
		Room: toMeetingRoom(m.Room), Card: toCard(m.Card, join.Reader{Country: when.CountryOf(v.Guest.Zone), Outside: v.Guest.PersonID == nil, Tongue: v.Tongue}), Names: slices.Compact(names), Files: listOrNil(each(m.Files, toFile)), MayBring: orNil(m.Bring), MayMove: orNil(m.Move), Language: v.Tongue.Code(), Languages: languages()}
}

func toSince(s *meetings.GuestSince) *api.GuestSince {
	if s == nil {
		return nil
	}
	out := &api.GuestSince{Words: s.Words}
	if s.Was != nil {
		start, end := s.Was.Start.Time(), s.Was.End.Time()
		out.WasStart, out.WasEnd = &start, &end
	}
	return out
}

// local reads a time of the sheet; it is zero while it is not one.
func local(text string, zone when.Zone) when.Instant {
	l, err := when.ParseLocal(text)
	if err != nil {
		return 0
	}
	return when.Zoned{Local: l, Zone: zone}.Instant()
}

func events(all []schedule.Happening) []meeting.Event {
	return each(all, func(h schedule.Happening) meeting.Event { return h.Event })
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
