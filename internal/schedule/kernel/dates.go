package kernel

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// datesTx is what is needed here of a transaction.
type datesTx interface {
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	Occurrences(ctx context.Context, meetingID uuid.UUID) ([]schedule.Occurrence, error)
	waitTx
	roomsTx
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	ParticipationsWritten(ctx context.Context, meetingID uuid.UUID) error
	SetBusy(ctx context.Context, meetingID uuid.UUID, personID uuid.UUID, taken []schedule.BusyTime) error
	SetOccurrences(ctx context.Context, meetingID, owner uuid.UUID, all []schedule.Occurrence, now time.Time) ([]schedule.Clash, error)
	SetParticipations(ctx context.Context, meetingID, only uuid.UUID, all []schedule.Participation) error
	SetWrittenTo(ctx context.Context, meetingID uuid.UUID, day when.Day) error
	Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) (map[string]when.Spans, error)
}

// WriteTimes writes what follows from a meeting that was kept in another way than by Write: asked
// are the rooms whose keepers have to agree. It fails as Write does.
func (k Kernel) WriteTimes(ctx context.Context, in In, record schedule.Record) (asked []uuid.UUID, err error) {
	return k.writeTimes(ctx, in.Kernel().store, record)
}

// writeTimes writes what follows from a meeting on the line of instants, up to
// its end or two years ahead: its dates, who is busy, and the rooms, booked or asked. It
// fails with a *TakenError that names every date on which a room is taken, and with an
// *InvalidError where the rules of a room forbid it. Asked are the rooms whose keepers
// have to agree. Was are dates of the series that this one goes on from: where they stay
// as they were, their rooms are not asked again.
func (k Kernel) writeTimes(ctx context.Context, tx datesTx, record schedule.Record, was ...schedule.Occurrence) (asked []uuid.UUID, err error) {
	d, clashes, err := k.writeDates(ctx, tx, record, was, nil, false)
	if err == nil && len(clashes) > 0 {
		return nil, k.taken(ctx, tx, record, clashes)
	}
	return slices.Collect(maps.Keys(d.reasons)), err
}

// writeDates writes the same, but for the rooms of some dates. It writes nothing
// where others are taken, and gives those. Again tells that nobody has changed the
// meeting.
func (k Kernel) writeDates(ctx context.Context, tx datesTx, record schedule.Record, was []schedule.Occurrence, roomless []when.Day, again bool) (decided, []schedule.Clash, error) {
	dates, writtenTo := k.datesToWrite(record.Content)
	for i := range dates {
		if slices.Contains(roomless, dates[i].On) {
			dates[i].RoomID = uuid.Nil
		}
	}
	own, err := tx.Occurrences(ctx, record.ID)
	if err != nil {
		return decided{}, nil, err
	}
	if err := tx.LockRooms(ctx, roomIDs(slices.Concat(own, dates))); err != nil {
		return decided{}, nil, err
	}
	d, err := k.decide(ctx, tx, record, dates, slices.Concat(own, was), again)
	if err != nil {
		return d, nil, err
	}
	clashes, err := tx.SetOccurrences(ctx, record.ID, record.OrganiserID, dates, k.Now())
	if err != nil || len(clashes) > 0 {
		return d, clashes, err
	}
	if err := k.askKeepers(ctx, tx, record, dates, d); err != nil {
		return d, nil, err
	}
	if err := tx.SetWrittenTo(ctx, record.ID, writtenTo); err != nil {
		return d, nil, err
	}
	if err := k.writeParts(ctx, tx, record, uuid.Nil); err != nil {
		return d, nil, err
	}
	given := slices.DeleteFunc(own, func(o schedule.Occurrence) bool {
		_, kept := had(dates, o)
		return kept || o.RoomID == uuid.Nil
	})
	if len(given) == 0 {
		return d, nil, nil
	}
	return d, nil, k.offerTo(ctx, tx, roomIDs(given))
}

// datesToWrite are the dates of a meeting up to the horizon; writtenTo is the day
// they go to when there are more.
func (k Kernel) datesToWrite(m meeting.Meeting) (dates []schedule.Occurrence, writtenTo when.Day) {
	horizon := m.WrittenTo(when.At(k.Now()))
	for d := range m.Dates(m.Start.Day) {
		if d.On > horizon {
			return dates, horizon
		}
		o := schedule.Occurrence{On: d.On, Span: d.Span}
		if d.Room != nil {
			o.RoomID, _ = uuid.Parse(d.Room.ID)
		}
		dates = append(dates, o)
	}
	return dates, 0
}

// WriteParts writes who is asked to which date and what they answered, and how that takes the
// time of those inside: of everybody, the organiser too, or with only of one of those invited.
func (k Kernel) WriteParts(ctx context.Context, in In, record schedule.Record, only uuid.UUID) error {
	return k.writeParts(ctx, in.Kernel().store, record, only)
}

func (k Kernel) writeParts(ctx context.Context, tx datesTx, record schedule.Record, only uuid.UUID) error {
	dates, err := tx.Occurrences(ctx, record.ID)
	if err != nil {
		return err
	}
	all, err := tx.AllInvited(ctx, record.ID)
	if err != nil {
		return err
	}
	answers, err := tx.AnswersOn(ctx, record.ID)
	if err != nil {
		return err
	}
	var taken []schedule.BusyTime
	take := func(person uuid.UUID, zone string, o schedule.Occurrence, kind availability.Kind) {
		if kind == "" {
			return
		}
		if record.Content.Free {
			kind = availability.Free
		}
		span := record.Content.SpanIn(zoneNamed(zone), o.Span)
		taken = append(taken, schedule.BusyTime{PersonID: person, MeetingID: record.ID, OccurrenceID: o.ID, Time: availability.Time{Span: span, Kind: kind}})
	}
	if only == uuid.Nil {
		for _, o := range dates {
			take(record.OrganiserID, record.Content.Organiser.Zone, o, availability.Busy)
		}
	}
	on := map[when.Day]schedule.Occurrence{}
	for _, o := range dates {
		on[o.On] = o
	}
	var rows []schedule.Participation
	if only != uuid.Nil {
		all = slices.DeleteFunc(all, func(i schedule.Invited) bool { return i.ID != only })
	}
	roll, person := schedule.RollOf(record.Content, all, answers), uuid.Nil
	for _, i := range all {
		part, is := roll.Part(i.ID)
		if !is {
			continue
		}
		if only != uuid.Nil {
			person = i.Actor()
		}
		for p := range part.Upto(record.Content.WrittenTo(when.At(k.Now()))) {
			o, written := on[p.On]
			if !written {
				continue
			}
			rows = append(rows, schedule.Participation{ParticipantID: i.ID, OccurrenceID: o.ID, PersonID: i.Actor(), Participation: p})
			if i.PersonID != nil {
				take(*i.PersonID, i.Zone, o, availability.Taken(p.Answer))
			}
		}
	}
	if err := tx.SetParticipations(ctx, record.ID, only, rows); err != nil {
		return err
	}
	if only != uuid.Nil && person == uuid.Nil {
		return nil // from outside: nobody's time here
	}
	if err := tx.SetBusy(ctx, record.ID, person, taken); err != nil || only != uuid.Nil {
		return err // those of the others may be due
	}
	return tx.ParticipationsWritten(ctx, record.ID)
}

// zoneNamed is a zone by its name, UTC where nobody knows it.
func zoneNamed(name string) when.Zone {
	zone, err := when.LoadZone(name)
	if err != nil {
		return when.Zone{}
	}
	return zone
}

// Taken says which rooms are taken on which dates and by whom, and what is clear
// instead.
func (k Kernel) Taken(ctx context.Context, in In, record schedule.Record, clashes []schedule.Clash) error {
	return k.taken(ctx, in.Kernel().store, record, clashes)
}

func (k Kernel) taken(ctx context.Context, tx datesTx, record schedule.Record, clashes []schedule.Clash) error {
	all, err := tx.Rooms(ctx, schedule.EveryRoom)
	if err != nil {
		return err
	}
	organiser, err := directory.Person(ctx, tx, record.OrganiserID)
	if err != nil {
		return err
	}
	named := map[uuid.UUID]schedule.Room{}
	for _, r := range all {
		named[r.ID] = r
	}
	out := &schedule.TakenError{Series: record.Content.Repeats()}
	var dates []when.Span
	for _, c := range clashes {
		t := c.Taken(named[c.RoomID])
		if n := len(out.Taken); n == 0 || out.Taken[n-1].On != t.On {
			out.Taken = append(out.Taken, t)
			dates = append(dates, c.Wanted.Span)
		}
	}
	windows := when.Union(dates...)
	booked, err := tx.Taken(ctx, nil, schedule.Wide(windows, all), schedule.View{But: record.ID, For: record.OrganiserID, Now: k.Now()})
	if err != nil {
		return err
	}
	longest := slices.MaxFunc(dates, func(a, b when.Span) int { return cmp.Compare(a.Length(), b.Length()) })
	booked = schedule.Unclear(all, booked, windows, organiser, longest.Length(), when.At(k.Now()))
	instead := rooms.Instead(schedule.RoomFacts(all), booked, dates, len(record.Content.Participants)+1, named[clashes[0].RoomID].SiteID.String())
	for _, at := range instead {
		out.Clear = append(out.Clear, all[at])
	}
	return out
}

// WriteAgain writes the dates of a meeting that is locked anew. Where its room is taken meanwhile
// the date goes without, and its history says so.
func (k Kernel) WriteAgain(ctx context.Context, in In, record schedule.Record) error {
	tx := in.Kernel().store
	d, clashes, err := k.writeDates(ctx, tx, record, nil, nil, true)
	if err != nil || len(clashes) == 0 && len(d.lost) == 0 {
		return err
	}
	roomless := d.lost
	for _, c := range clashes {
		roomless = append(roomless, c.Wanted.On)
	}
	lost := meeting.Event{Kind: meeting.EventRoomLost, Days: roomless}
	if err := k.Happened(ctx, tx, record, uuid.Nil, lost); err != nil {
		return err
	}
	_, clashes, err = k.writeDates(ctx, tx, record, nil, roomless, true)
	if err == nil && len(clashes) > 0 {
		return fmt.Errorf("%d rooms were taken in between", len(clashes))
	}
	return err
}
