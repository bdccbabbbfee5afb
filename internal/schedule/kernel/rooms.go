package kernel

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// roomsTx is what is needed here of a transaction.
type roomsTx interface {
	directory.LookupTx
	keepersTx
	AddRequest(ctx context.Context, r schedule.RoomRequest) error
	Requests(ctx context.Context, meetingID uuid.UUID) ([]schedule.RoomRequest, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
	SetRequest(ctx context.Context, r schedule.RoomRequest) error
}

// RoomDecision is what a room says to the dates of a meeting that it does not have yet.
type RoomDecision struct {
	schedule.Room
	rooms.Decision
}

// What is why the room refuses or asks.
func (d RoomDecision) What() say.What { return rooms.Because(d.Name, d.Site, d.Reasons) }

// DecideRooms is what the rooms of a meeting say by their rules to its dates, but for
// those that they have already: was are the dates as they are. Rooms that just say yes are
// among them.
func (k Kernel) DecideRooms(m meeting.Meeting, dates, was []schedule.Occurrence, house []schedule.Room, by schedule.Person) (out []RoomDecision) {
	now := when.At(k.Now())
	for _, room := range house {
		var fresh []when.Span
		here := 0
		for _, o := range dates {
			if o.RoomID == room.ID {
				here++
				if _, has := had(was, o); !has {
					fresh = append(fresh, m.SpanIn(room.Zone, o.Span))
				}
			}
		}
		if len(fresh) > 0 {
			out = append(out, RoomDecision{room, room.Place().Decide(fresh, here, len(dates), room.Asker(by), now)})
		}
	}
	return out
}

// had is a date among those in the order of their days that a meeting had, if it was so
// already: at that time, in that room.
func had(was []schedule.Occurrence, o schedule.Occurrence) (w schedule.Occurrence, has bool) {
	at, is := slices.BinarySearchFunc(was, o.On, func(w schedule.Occurrence, on when.Day) int { return int(w.On - on) })
	if !is || was[at].Span != o.Span || was[at].RoomID != o.RoomID {
		return w, false
	}
	return was[at], true
}

// RoomDates are the dates of a meeting as its rooms are asked for them, in the order of
// their days.
func (k Kernel) RoomDates(m meeting.Meeting) []schedule.Occurrence {
	dates, _ := k.datesToWrite(m)
	return dates
}

// decided is what the rooms of a meeting said.
type decided struct {
	house    map[uuid.UUID]schedule.Room
	reasons  map[uuid.UUID][]rooms.Reason // of rooms that ask their keeper
	requests []schedule.RoomRequest
	by       schedule.Person
	lost     []when.Day // dates that go without a room
}

// decide has the rooms say what they say to the dates of a meeting: each gets what the
// booking is to be, and dates that a keeper has refused go without. Rooms that refuse by
// their rules are an *InvalidError, but for dates that are written again: those go
// without.
func (k Kernel) decide(ctx context.Context, tx roomsTx, record schedule.Record, dates, was []schedule.Occurrence, again bool) (d decided, err error) {
	if d.requests, err = tx.Requests(ctx, record.ID); err != nil {
		return d, err
	}
	for i, o := range dates {
		if schedule.RefusedDate(d.requests, o) {
			dates[i].RoomID = uuid.Nil
		}
	}
	d.house, d.reasons = map[uuid.UUID]schedule.Room{}, map[uuid.UUID][]rooms.Reason{}
	house, err := tx.RoomsByID(ctx, roomIDs(dates))
	if err != nil || len(house) == 0 {
		return d, err
	}
	was = slices.SortedFunc(slices.Values(was), func(a, b schedule.Occurrence) int { return int(a.On - b.On) })
	if d.by, err = directory.Person(ctx, tx, record.OrganiserID); err != nil {
		return d, err
	}
	decisions := map[uuid.UUID]RoomDecision{}
	for _, x := range k.DecideRooms(record.Content, dates, was, house, d.by) {
		decisions[x.ID] = x
	}
	for _, room := range house {
		d.house[room.ID] = room
	}
	for i := range dates {
		o := &dates[i]
		room, is := d.house[o.RoomID]
		if !is {
			continue
		}
		o.Gap = room.Rules.Gap
		if record.Content.AllDay {
			o.InRoom = record.Content.SpanIn(room.Zone, o.Span)
		}
		if w, has := had(was, *o); has {
			o.Kind = w.Kind
			continue
		}
		switch x := decisions[o.RoomID]; {
		case x.Verdict == rooms.Refused && !again:
			return d, schedule.Invalid("room", x.What())
		case x.Verdict == rooms.Refused:
			if room.Place().Decide([]when.Span{record.Content.SpanIn(room.Zone, o.Span)}, 1, 1, room.Asker(d.by), when.At(k.Now())).Verdict == rooms.Refused {
				d.lost = append(d.lost, o.On)
				o.RoomID = uuid.Nil
			}
		case x.Verdict == rooms.Asked && !(again && d.agreed(room.ID)):
			o.Kind, d.reasons[o.RoomID] = schedule.KindAsked, x.Reasons
		}
	}
	return d, nil
}

// agreed tells whether a keeper has agreed to the meeting before.
func (d decided) agreed(room uuid.UUID) bool {
	return slices.ContainsFunc(d.requests, func(r schedule.RoomRequest) bool { return r.RoomID == room && r.State == schedule.RequestAgreed })
}

func roomIDs(dates []schedule.Occurrence) (ids []uuid.UUID) {
	for _, o := range dates {
		if o.RoomID != uuid.Nil && !slices.Contains(ids, o.RoomID) {
			ids = append(ids, o.RoomID)
		}
	}
	return ids
}

// askKeepers brings what keepers are asked to what the dates of a meeting say, and tells
// those who are asked something new.
func (k Kernel) askKeepers(ctx context.Context, tx roomsTx, record schedule.Record, dates []schedule.Occurrence, d decided) error {
	asked := map[uuid.UUID][]schedule.Occurrence{}
	for _, o := range dates {
		if o.Kind == schedule.KindAsked && o.RoomID != uuid.Nil {
			asked[o.RoomID] = append(asked[o.RoomID], o)
		}
	}
	for _, r := range d.requests {
		if r.State != schedule.RequestOpen {
			continue
		}
		wanted := asked[r.RoomID]
		delete(asked, r.RoomID)
		reasons, anew := d.reasons[r.RoomID]
		switch {
		case len(wanted) == 0:
			if err := k.withdraw(ctx, tx, r); err != nil {
				return err
			}
			continue
		case anew: // other dates than before
			r.Dates, r.Reasons, r.AskedAt = wanted, reasons, k.Now()
			r.LapsesAt = k.lapses(d.house[r.RoomID], wanted)
		default:
			r.Dates = wanted
		}
		if err := tx.SetRequest(ctx, r); err != nil {
			return err
		}
		if anew {
			if err := k.tellKeepers(ctx, tx, record.ID, record.Content, d.house[r.RoomID], d.by.Name); err != nil {
				return err
			}
		}
	}
	for _, id := range roomIDs(dates) {
		if len(asked[id]) == 0 {
			continue
		}
		r := schedule.RoomRequest{ID: uuid.New(), RoomID: id, MeetingID: record.ID, AskedAt: k.Now(), LapsesAt: k.lapses(d.house[id], asked[id]),
			Reasons: d.reasons[id], Dates: asked[id], State: schedule.RequestOpen}
		if err := tx.AddRequest(ctx, r); err != nil {
			return err
		}
		if err := k.tellKeepers(ctx, tx, record.ID, record.Content, d.house[id], d.by.Name); err != nil {
			return err
		}
	}
	return nil
}

// askNobody withdraws what keepers are asked for a meeting.
func (k Kernel) askNobody(ctx context.Context, tx roomsTx, meetingID uuid.UUID) error {
	requests, err := tx.Requests(ctx, meetingID)
	if err != nil {
		return err
	}
	for _, r := range requests {
		if r.State == schedule.RequestOpen {
			if err := k.withdraw(ctx, tx, r); err != nil {
				return err
			}
		}
	}
	return nil
}

func (k Kernel) withdraw(ctx context.Context, tx roomsTx, r schedule.RoomRequest) error {
	now := k.Now()
	r.State, r.DecidedAt = schedule.RequestWithdrawn, &now
	if err := tx.SetRequest(ctx, r); err != nil {
		return err
	}
	house, err := tx.RoomsByID(ctx, []uuid.UUID{r.RoomID})
	if err != nil || len(house) == 0 {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: house[0].KeptBy, Topic: schedule.AboutRoom, ID: r.RoomID})
}

func (k Kernel) lapses(room schedule.Room, dates []schedule.Occurrence) time.Time {
	first := slices.MinFunc(dates, func(a, b schedule.Occurrence) int { return cmp.Compare(a.Span.Start, b.Span.Start) })
	return room.Place().Lapses(when.At(k.Now()), first.Span.Start).Time()
}

// keepersTx is what is needed here of a transaction.
type keepersTx interface {
	AddNews(ctx context.Context, all []schedule.News) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// TellKeepers has it be new for who keeps a room that somebody asks for it. What the
// meeting is they learn unless it is private.
func (k Kernel) TellKeepers(ctx context.Context, in In, meetingID uuid.UUID, content meeting.Meeting, room schedule.Room, by string) error {
	return k.tellKeepers(ctx, in.Kernel().store, meetingID, content, room, by)
}

func (k Kernel) tellKeepers(ctx context.Context, tx keepersTx, meetingID uuid.UUID, content meeting.Meeting, room schedule.Room, by string) error {
	n := meeting.NewsOfEvent(content, meeting.Event{Kind: meeting.EventRoomWanted, Who: by, Name: room.Name})
	n.RoomID = room.ID.String()
	if content.Private {
		n.Title, n.Is.Title = words.PrivateMeeting, ""
	}
	var news []schedule.News
	for _, keeper := range room.KeptBy {
		news = append(news, schedule.News{ID: schedule.NewsID(), PersonID: keeper, MeetingID: meetingID, Kind: schedule.NewsEvent, News: n, At: k.Now()})
	}
	if err := tx.AddNews(ctx, news); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: room.KeptBy, Topic: schedule.AboutRoom, ID: room.ID})
}
