package schedule_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/ical/icaltest"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

// repeated makes a draft a series.
func repeated(rule string, change func(*meeting.Draft)) func(*meeting.Draft) {
	return func(d *meeting.Draft) {
		d.Repeat = &meeting.DraftRepeat{Rule: rule, Ends: "open"}
		if change != nil {
			change(d)
		}
	}
}

// changeAt sends changes to a series, begun at a date.
func changeAt(t testing.TB, me, id uuid.UUID, o sheets.Opening, alter func(*meeting.Draft)) sheets.Sent {
	t.Helper()
	s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(me), id, o)
	require.NoError(t, err)
	alter(&s.Draft)
	s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	return send(t, me, s)
}

func nthDate(t testing.TB, m meeting.Meeting, n int) when.Day {
	t.Helper()
	for d := range m.Dates(m.Start.Day) {
		if n == 0 {
			return d.On
		}
		n--
	}
	t.Fatal("the series has fewer dates")
	return 0
}

// calendars are the calendar files that a mailbox got, in their order.
func calendars(t testing.TB, address string, want int) (out [][]byte) {
	t.Helper()
	for _, m := range box(t, address, want) {
		out = append(out, m.Calendar)
	}
	return out
}

// starts are the instants of meetings as we hold them for one person outside.
func starts(t testing.TB, me uuid.UUID, email string, ids ...uuid.UUID) (out []string) {
	t.Helper()
	for _, id := range ids {
		m := look(t, me, id).Content
		for _, p := range m.Participants {
			if p.Email != email {
				continue
			}
			for d := range m.Dates(m.Start.Day) {
				if p.On(d.On) {
					out = append(out, d.Span.Start.Time().Format(time.RFC3339))
				}
			}
		}
	}
	slices.Sort(out)
	return out
}

// agrees holds a mailbox, as two libraries understand it, against what we hold.
func agrees(t testing.TB, me uuid.UUID, email string, mails int, ids ...uuid.UUID) {
	t.Helper()
	messages := calendars(t, email, mails)
	for _, library := range icaltest.Libraries {
		var theirs []string
		for _, s := range icaltest.Rebuild(t, library, messages...) {
			theirs = append(theirs, s.Start)
		}
		slices.Sort(theirs)
		require.Equal(t, starts(t, me, email, ids...), theirs, library)
	}
}

// TestASeriesAndEveryChangeOfIt: after each change the mailbox outside got the
// right number of messages, and shows the dates that we hold.
func TestASeriesAndEveryChangeOfIt(t *testing.T) {
	ilse, tome := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example")
	outside := "series@kirisame.example"
	mapRoom, loft := room(t, "Map Room"), room(t, "Loft Studio")
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(repeated("every 2nd Thursday, 6 times", func(d *meeting.Draft) {
		d.Start, d.End = "2027-06-03T14:00", "2027-06-03T15:00"
		d.People = []meeting.DraftPerson{{Name: "S. Onari", Email: outside, Needed: true}, {Email: tome.Email, Needed: true}}
		d.RoomID, d.NoRoom = mapRoom.ID.String(), false
	}))))
	first := sent.MeetingID
	at := func(n int) when.Day { return nthDate(t, look(t, ilse.ID, first).Content, n) }
	agrees(t, ilse.ID, outside, 1, first)
	assert.Equal(t, 2, sent.Told)
	assert.Len(t, busyOf(t, tome.ID, first), 6)
	assert.Len(t, booked(t, mapRoom.ID, first), 6)

	// One date to another day and room.
	sent = changeAt(t, ilse.ID, first, sheets.Opening{At: at(1), One: true}, func(d *meeting.Draft) {
		d.Start, d.End, d.RoomID = "2027-06-18T10:00", "2027-06-18T11:00", loft.ID.String()
	})
	assert.Equal(t, first, sent.MeetingID)
	agrees(t, ilse.ID, outside, 2, first)
	assert.Len(t, booked(t, mapRoom.ID, first), 5)
	assert.Len(t, booked(t, loft.ID, first), 1)

	// This and later to another hour: the old series ends, a new one begins.
	require.NoError(t, service().Meetings.RemindMe(t.Context(), schedule.Self(tome.ID), first, []meeting.Reminder{{Before: 45}}))
	sent = changeAt(t, ilse.ID, first, sheets.Opening{At: at(3)}, func(d *meeting.Draft) {
		d.Start, d.End = d.Start[:11]+"16:00", d.End[:11]+"17:00"
	})
	second := sent.MeetingID
	require.NotEqual(t, first, second)
	assert.Equal(t, 4, sent.Told, "two people, two messages each")
	agrees(t, ilse.ID, outside, 4, first, second)
	old, next := look(t, ilse.ID, first), look(t, ilse.ID, second)
	assert.Equal(t, old.Content.UID, next.Content.RelatedTo)
	assert.Equal(t, second, old.After.ID)
	assert.Equal(t, first, next.Before.ID)
	assert.Equal(t, old.Content.Room, next.Content.Room)
	assert.Equal(t, []meeting.Reminder{{Before: 45, Own: true}}, look(t, tome.ID, second).Reminders, "what people set for themselves goes on")
	assert.Len(t, busyOf(t, tome.ID, first), 3)
	assert.Len(t, busyOf(t, tome.ID, second), 3)

	// One date is called off.
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), second, 1,
		&series.Range{From: nthDate(t, next.Content, 1), To: nthDate(t, next.Content, 1)}, "The truck is late."))
	agrees(t, ilse.ID, outside, 5, first, second)
	assert.Len(t, booked(t, mapRoom.ID, second), 2)
	assert.Contains(t, box(t, outside, 5)[4].Subject, "Called off")

	// It is extended.
	s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), second, sheets.Opening{Extend: true})
	require.NoError(t, err)
	dates, err := service().Sheets.SheetDates(t.Context(), schedule.Self(ilse.ID), sheets.DatesQuestion{SheetID: s.ID})
	require.NoError(t, err)
	assert.Len(t, dates.Dates, 2+1+2, "those there are, the one called off, and as many again, looked at first")
	send(t, ilse.ID, s)
	agrees(t, ilse.ID, outside, 6, first, second)
	assert.Len(t, booked(t, mapRoom.ID, second), 4)

	// One more person: one message, and only to them.
	sent = changeAt(t, ilse.ID, second, sheets.Opening{}, func(d *meeting.Draft) {
		d.People = append(d.People, meeting.DraftPerson{Email: "late@kirisame.example"})
	})
	assert.Equal(t, 1, sent.Told)
	agrees(t, ilse.ID, "late@kirisame.example", 1, second)
	agrees(t, ilse.ID, outside, 6, first, second)

	// The rest is called off: nothing is left anywhere.
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), second, look(t, ilse.ID, second).Version, nil, ""))
	assert.Empty(t, busyOf(t, tome.ID, second))
	assert.Empty(t, booked(t, mapRoom.ID, second))
	theirs := icaltest.Rebuild(t, "icalendar", calendars(t, outside, 7)...)
	assert.Len(t, theirs, 3, "the old series stays")
}

// written are the dates of a meeting as they are written down.
func written(t testing.TB, meetingID uuid.UUID) (dates []schedule.Occurrence) {
	t.Helper()
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) (err error) {
		dates, err = tx.Occurrences(t.Context(), meetingID)
		return err
	}))
	return dates
}

// busyOf is how a meeting takes somebody's time.
func busyOf(t testing.TB, person, meetingID uuid.UUID) (spans []when.Span) {
	t.Helper()
	for _, o := range written(t, meetingID) {
		require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
			taken, err := tx.BusyTimes(t.Context(), []uuid.UUID{person}, when.Spans{o.Span}, schedule.View{})
			for _, b := range taken[person] {
				if b.Span == o.Span && b.Kind != core.Leave {
					spans = append(spans, b.Span)
				}
			}
			return err
		}))
	}
	return spans
}

func booked(t testing.TB, room, meetingID uuid.UUID) (spans []when.Span) {
	t.Helper()
	for _, o := range written(t, meetingID) {
		if o.RoomID == room {
			spans = append(spans, o.Span)
		}
	}
	return spans
}

func TestAnswersToAllDatesOrOne(t *testing.T) {
	ilse, tome := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example")
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(repeated("every Friday, 4 times", func(d *meeting.Draft) {
		d.Start, d.End = "2027-07-02T11:00", "2027-07-02T12:00"
		d.People = []meeting.DraftPerson{{Email: tome.Email, Needed: true}, {Email: "byday@njoro.example"}}
	}))))
	m := look(t, ilse.ID, sent.MeetingID)
	second, third := nthDate(t, m.Content, 1), nthDate(t, m.Content, 2)
	answer := func(on when.Day, a meeting.Answer, seen int) error {
		return service().Meetings.Answer(t.Context(), schedule.Self(tome.ID), sent.MeetingID, meetings.Given{Answer: a, On: on, Seen: seen})
	}
	require.NoError(t, answer(0, meeting.Accepted, 0))
	require.NoError(t, answer(second, meeting.Declined, 0))
	assert.Len(t, busyOf(t, tome.ID, sent.MeetingID), 3, "the date that was declined is clear")
	require.NoError(t, answer(0, meeting.Maybe, 0))
	assert.Len(t, busyOf(t, tome.ID, sent.MeetingID), 3, "an answer to all leaves the one to a date as it is")
	assert.ErrorIs(t, answer(second+1, meeting.Accepted, 0), schedule.ErrNotFound, "no date")

	// By mail, as a local time, as an instant, and for a date that there is not.
	guest := m.Invited[1].ID
	p := writesTo(t, ilse, sent.MeetingID)
	reply := func(date meeting.DateID) {
		r := yes(0, 0)
		r.Date = &date
		p.mail("byday@njoro.example", r)
	}
	reply(meeting.DateID{Local: &when.Local{Day: second, Clock: when.ClockOf(11, 0)}})
	reply(meeting.DateID{At: when.Zoned{Local: when.Local{Day: third, Clock: when.ClockOf(10, 0)}}.Instant()})
	reply(meeting.DateID{Local: &when.Local{Day: third + 1, Clock: when.ClockOf(11, 0)}})
	assert.Contains(t, p.line(), "to no date that there is")
	m = look(t, ilse.ID, sent.MeetingID)
	assert.Equal(t, meeting.NoAnswer, m.Invited[1].Answer)
	part, _ := m.Roll.Part(guest)
	assert.Equal(t, []meeting.DateAnswer{{On: second, Answer: meeting.Accepted}, {On: third, Answer: meeting.Accepted}}, part.Kept().Single())

	// A date that moves is asked again, and an answer to its earlier time is late;
	// the others are as they were.
	changeAt(t, ilse.ID, sent.MeetingID, sheets.Opening{At: second, One: true}, func(d *meeting.Draft) {
		d.Start, d.End = d.Start[:11]+"15:00", d.End[:11]+"16:00"
	})
	m = look(t, ilse.ID, sent.MeetingID)
	assert.Equal(t, meeting.Maybe, m.Invited[0].Answer)
	series := service().Meetings.Series(tongue.Tongue{}, m)
	assert.Equal(t, 2, series.Dates[1].Answers[meeting.NoAnswer], "both are asked again")
	assert.Equal(t, 1, series.Dates[2].Answers[meeting.Accepted])
	var late *schedule.VersionError
	assert.ErrorAs(t, answer(second, meeting.Accepted, 0), &late)
	require.NoError(t, answer(third, meeting.Accepted, 0), "what was not touched can be answered as it was seen")
	require.NoError(t, answer(second, meeting.Accepted, 1))
}

func TestSomebodyForOneDateOnly(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	one := "onedate@kirisame.example"
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(repeated("every Monday, 5 times", func(d *meeting.Draft) {
		d.Start, d.End = "2027-08-02T09:00", "2027-08-02T10:00"
		d.People = []meeting.DraftPerson{{Email: one, Dates: []meeting.DraftRange{{From: "2027-08-16", To: "2027-08-16"}}},
			{Email: rui.Email, Dates: []meeting.DraftRange{{From: "2027-08-16", To: "2027-08-16"}}}}
	}))))
	agrees(t, ilse.ID, one, 1, sent.MeetingID)
	assert.Contains(t, string(calendars(t, one, 1)[0]), "RECURRENCE-ID;TZID=Europe/Lisbon:20270816T090000")
	_, event, _ := strings.Cut(string(calendars(t, one, 1)[0]), "BEGIN:VEVENT")
	assert.NotContains(t, event, "RRULE")
	assert.Len(t, busyOf(t, rui.ID, sent.MeetingID), 1)
	week, err := service().Availability.Week(t.Context(), schedule.Self(rui.ID), dayOf(t, "2027-08-09T09:00"), 14)
	require.NoError(t, err)
	var shown []when.Day
	for _, m := range week.Meetings {
		if m.ID == sent.MeetingID {
			shown = append(shown, m.On)
		}
	}
	assert.Equal(t, []when.Day{dayOf(t, "2027-08-16T09:00")}, shown, "their week shows their date")

	// Another date moves: nothing for them.
	changeAt(t, ilse.ID, sent.MeetingID, sheets.Opening{At: dayOf(t, "2027-08-09T09:00"), One: true}, func(d *meeting.Draft) {
		d.Start, d.End = "2027-08-10T09:00", "2027-08-10T10:00"
	})
	// Theirs does.
	changeAt(t, ilse.ID, sent.MeetingID, sheets.Opening{At: dayOf(t, "2027-08-16T09:00"), One: true}, func(d *meeting.Draft) {
		d.Start, d.End = "2027-08-17T09:00", "2027-08-17T10:00"
	})
	agrees(t, ilse.ID, one, 2, sent.MeetingID)
	v, err := service().Meetings.Guest(t.Context(), service().Seal.GuestToken(look(t, ilse.ID, sent.MeetingID).Invited[0].ID, 0))
	require.NoError(t, err)
	require.Len(t, service().Meetings.GuestSeries(v).Dates, 1, "the page shows theirs only")
}

func TestDatesOfASheetAndTheirRepairs(t *testing.T) {
	ilse, tome := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example")
	hall := room(t, "Print Cabinet")
	base := func(d *meeting.Draft) {
		d.Start, d.End = "2027-09-10T09:30", "2027-09-10T10:30" // a Friday
		d.People = []meeting.DraftPerson{{Email: tome.Email, Needed: true}}
		d.RoomID, d.NoRoom = hall.ID.String(), false
	}
	// Somebody has the room on the second date, and Tomé is busy on the third.
	send(t, who(t, "rui.calado@marrowby.example").ID, open(t, who(t, "rui.calado@marrowby.example").ID, draft(func(d *meeting.Draft) {
		base(d)
		d.Start, d.End, d.People = "2027-09-24T09:00", "2027-09-24T10:00", nil
	})))
	send(t, tome.ID, open(t, tome.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End, d.People = "2027-10-08T10:00", "2027-10-08T11:00", nil
	})))
	s := open(t, ilse.ID, draft(repeated("every 2nd Friday until 31 December 2027", base)))
	look := func() (states []string, d sheets.Dates) {
		d, err := service().Sheets.SheetDates(t.Context(), schedule.Self(ilse.ID), sheets.DatesQuestion{SheetID: s.ID})
		require.NoError(t, err)
		for _, x := range d.Dates {
			states = append(states, string(x.State))
		}
		return states, d
	}
	states, d := look()
	assert.Equal(t, []string{"fits", "noroom", "busy", "fits", "fits", "fits", "fits", "fits", "fits"}, states[:9])
	assert.Equal(t, "every 2nd Friday until 31 December", d.Words)
	assert.Equal(t, "Print Cabinet taken by Rui Calado", d.Dates[1].Words)
	assert.Equal(t, "Tomé Akande is busy", d.Dates[2].Words)
	assert.Equal(t, 9, d.Count)
	assert.Equal(t, 1, d.Rooms.Taken)
	repair := func(at int, kind core.RepairKind) {
		t.Helper()
		_, d := look()
		i := slices.IndexFunc(d.Dates[at].Repairs, func(r sheets.Repair) bool { return r.Kind == kind })
		require.GreaterOrEqual(t, i, 0, "%s at %+v", kind, d.Dates[at])
		fix := d.Dates[at].Repairs[i].Date
		draft := s.Draft
		draft.Dates = append(slices.DeleteFunc(slices.Clone(draft.Dates), func(x meeting.DraftDate) bool { return x.On == fix.On }), fix)
		var err error
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, draft, "")
		require.NoError(t, err)
	}
	// Each repair in turn leaves a date that fits, or none.
	repair(1, core.RepairRoom)
	repair(2, core.RepairMove)
	states, d = look()
	assert.Equal(t, "fits", states[1])
	assert.Equal(t, "fits", states[2])
	assert.NotEmpty(t, d.Dates[2].Notes)
	repair(1, core.RepairRegular)
	repair(1, core.RepairNoRoom)
	states, _ = look()
	assert.Equal(t, "fits", states[1])
	repair(1, core.RepairRegular)
	repair(1, core.RepairOut)
	states, _ = look()
	assert.Equal(t, "out", states[1])
	sent := send(t, ilse.ID, s)
	assert.Len(t, booked(t, hall.ID, sent.MeetingID), 8)

	// Where clocks are changed here and not there, the date says what they show.
	s = open(t, ilse.ID, draft(repeated("every 2nd Monday, 3 times", func(d *meeting.Draft) {
		d.Start, d.End = "2027-10-18T10:00", "2027-10-18T11:00"
		d.People = []meeting.DraftPerson{{Email: "s.onari@kirisame.example", Needed: true}}
	})))
	_, d = look()
	assert.Empty(t, d.Dates[0].Marks)
	assert.Equal(t, []string{"19:00 in Tokyo, not 18:00"}, d.Dates[1].Marks, "summer time ends on 31 October")
	assert.Empty(t, d.OnAll, "Onari is within hours before that, and outside after")

	// A date that the clock leaps over is left out, and said.
	s = open(t, ilse.ID, draft(repeated("every Sunday, 3 times", func(d *meeting.Draft) {
		d.Start, d.End, d.People = "2027-03-21T01:30", "2027-03-21T02:00", nil
	})))
	_, d = look()
	require.Len(t, d.Skipped, 1)
	assert.Equal(t, "1:30 is not on the clock that day", words.English(d.Skipped[0].Why))

	// A holiday is said, and can be left out with all others.
	s = open(t, ilse.ID, draft(repeated("every Wednesday until 15 December 2027", func(d *meeting.Draft) {
		d.Start, d.End, d.People = "2027-11-24T09:30", "2027-11-24T10:30", nil
	})))
	states, d = look()
	assert.Equal(t, []string{"fits", "soft", "soft", "fits"}, states, "1 and 8 December")
	assert.Equal(t, "holiday: Restauração da Independência", d.Dates[1].Words)
	s.Draft.Repeat.Holidays = true
	var err error
	s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	_, d = look()
	assert.Len(t, d.Dates, 2)
	assert.Len(t, d.Skipped, 2)
}

// TestOverlappingSeriesFrom32Senders: no double booking, no lost booking, no
// deadlock; whoever is refused is told every date.
func TestOverlappingSeriesFrom32Senders(t *testing.T) {
	const senders = 32
	owners := []uuid.UUID{who(t, demo.Ilse).ID, who(t, "rui.calado@marrowby.example").ID, who(t, "tome.akande@marrowby.example").ID}
	house := []schedule.Room{room(t, "Crate Bench"), room(t, "Founders Table"), room(t, "Map Room")}
	var sheets []schedule.Sheet
	for i := range senders {
		sheets = append(sheets, open(t, owners[i%len(owners)], draft(repeated("every Tuesday, 12 times", func(d *meeting.Draft) {
			// Starts a week apart, so that series overlap in part, and dates in other
			// rooms, in any order, so that senders want the same rooms crosswise.
			start := when.DayOf(2028, 1, 4) + when.Day(i%4*7)
			d.Start, d.End = start.String()+"T10:00", start.String()+"T11:00"
			d.RoomID, d.NoRoom, d.People = house[i%3].ID.String(), false, nil
			for k := range 3 {
				d.Dates = append(d.Dates, meeting.DraftDate{On: (start + when.Day(7*(3*k+1))).String(), RoomID: house[(i+k+1)%3].ID.String()})
			}
		}))))
	}
	for _, s := range sheets { // Send alone decides here
		dropHolds(t, s.ID)
	}
	var mu sync.Mutex
	var won []uuid.UUID
	refused := map[uuid.UUID]*schedule.TakenError{}
	var wait sync.WaitGroup
	for _, s := range sheets {
		wait.Go(func() {
			sent, err := service().Sheets.Send(context.Background(), schedule.Self(s.OwnerID), s.ID, s.Version, uuid.NewString())
			mu.Lock()
			defer mu.Unlock()
			var taken *schedule.TakenError
			switch {
			case err == nil:
				won = append(won, sent.MeetingID)
			case assert.ErrorAs(t, err, &taken):
				refused[s.ID] = taken
			}
		})
	}
	wait.Wait()
	require.Len(t, refused, senders-len(won))
	require.NotEmpty(t, won)

	type slot struct {
		room  uuid.UUID
		start when.Instant
	}
	bookings := map[slot]int{}
	for _, id := range won {
		dates := written(t, id)
		require.Len(t, dates, 12)
		for _, o := range dates {
			require.NotEqual(t, uuid.Nil, o.RoomID, "no booking is lost")
			bookings[slot{o.RoomID, o.Span.Start}]++
		}
	}
	for at, n := range bookings {
		require.Equal(t, 1, n, "%v", at)
	}
	// Sent again one after the other, each is told exactly the dates that are taken.
	for _, s := range sheets {
		if refused[s.ID] == nil {
			continue
		}
		_, err := service().Sheets.Send(t.Context(), schedule.Self(s.OwnerID), s.ID, s.Version, uuid.NewString())
		var taken *schedule.TakenError
		require.ErrorAs(t, err, &taken)
		var named, want []when.Day
		for _, d := range taken.Taken {
			named = append(named, d.On)
			require.NotEmpty(t, d.By)
		}
		out, faults := s.Draft.Settle(meeting.Surroundings{Rooms: namedRooms(house)})
		require.Empty(t, faults)
		for d := range out.Dates(out.Start.Day) {
			if bookings[slot{uuid.MustParse(d.Room.ID), d.Span.Start}] > 0 {
				want = append(want, d.On)
			}
		}
		require.Equal(t, want, named)
		require.Contains(t, words.English(taken.What(who(t, demo.Ilse).Hours.Zone)), "taken")
	}
}

func namedRooms(rooms []schedule.Room) map[string]*meeting.Room {
	out := map[string]*meeting.Room{}
	for _, r := range rooms {
		out[r.ID.String()] = r.Named()
	}
	return out
}

// TestAnOpenSeriesRollsForward: two years are written down, and more as time goes
// on; a room that is taken by then is said.
func TestAnOpenSeriesRollsForward(t *testing.T) {
	ilse, tome := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example")
	bay := room(t, "Tide Office")
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(repeated("the 2nd Tuesday of the month", func(d *meeting.Draft) {
		d.Start, d.End = "2027-03-09T17:00", "2027-03-09T17:30"
		d.People = []meeting.DraftPerson{{Email: tome.Email}}
		d.RoomID, d.NoRoom = bay.ID.String(), false
	}))))
	assert.Len(t, written(t, sent.MeetingID), 21, "from March 2027 to November 2028")
	require.NoError(t, service().Meetings.RollForward(t.Context()))
	assert.Len(t, written(t, sent.MeetingID), 21, "nothing to do yet")
	// Somebody takes the room at a time that is not written down yet.
	send(t, tome.ID, open(t, tome.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End, d.People = "2029-01-09T17:00", "2029-01-09T18:00", nil
		d.RoomID, d.NoRoom = bay.ID.String(), false
	})))
	later := *service().Meetings
	later.Clock = func() time.Time { return time.Date(2027, 6, 1, 8, 0, 0, 0, time.UTC) }
	require.NoError(t, later.RollForward(t.Context()))
	dates := written(t, sent.MeetingID)
	assert.Len(t, dates, 27, "to May 2029")
	for _, o := range dates {
		assert.Equal(t, o.On == dayOf(t, "2029-01-09T17:00"), o.RoomID == uuid.Nil, "%s", o.On)
	}
	assert.Len(t, busyOf(t, tome.ID, sent.MeetingID), 27)
	m := look(t, ilse.ID, sent.MeetingID)
	assert.Contains(t, words.Event(tongue.Tongue{}, m.Happenings[0].Event), "The room is taken on 9 January")
	require.NoError(t, later.RollForward(t.Context()))
	assert.Len(t, written(t, sent.MeetingID), 27, "twice is once")
}

// TestInstantsFollowTheZone: when the rules of a zone change, what was written
// down by the old ones is written anew.
func TestInstantsFollowTheZone(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) { d.Zone, d.People = "Africa/Nairobi", nil })))
	pool := running.Program.Pool
	require.NoError(t, service().Meetings.RollForward(t.Context()))
	spans := busyOf(t, ilse.ID, sent.MeetingID)
	require.Len(t, spans, 1)
	// As if Nairobi had been two hours ahead when it was written.
	_, err := pool.Exec(t.Context(), `UPDATE occurrence SET starts = starts + interval '1 hour', ends = ends + interval '1 hour' WHERE meeting_id = $1`, sent.MeetingID)
	require.NoError(t, err)
	require.NoError(t, service().Meetings.RollForward(t.Context()))
	assert.NotEqual(t, spans, busyOf(t, ilse.ID, sent.MeetingID), "the rules are as they were: nothing is looked at")
	_, err = pool.Exec(t.Context(), `UPDATE zone_print SET print = 'other rules' WHERE zone = 'Africa/Nairobi'`)
	require.NoError(t, err)
	require.NoError(t, service().Meetings.RollForward(t.Context()))
	assert.Equal(t, spans, busyOf(t, ilse.ID, sent.MeetingID))
}

// TestRepetitionLeavesTheLinkAlone: link, number and passcode are the same with
// repetition on or off, before the link or after.
func TestRepetitionLeavesTheLinkAlone(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	s := open(t, ilse.ID, draft(nil))
	s, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, ostrel)
	require.NoError(t, err)
	card := *s.Card
	assert.False(t, card.GoodUntil.IsZero(), "Ostrel says how long it keeps a link")
	for _, repeat := range []*meeting.DraftRepeat{{Rule: "every Tuesday", Ends: "after", Count: 5}, nil, {Rule: "every day", Ends: "open"}} {
		s.Draft.Repeat = repeat
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		assert.Equal(t, card, *s.Card)
	}
	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), s.ID, "")
	require.NoError(t, err)
	var said []string
	for _, over := range v.Link.Over {
		said = append(said, over.Words)
	}
	assert.Contains(t, strings.Join(said, "\n"), "Ostrel keeps a link until", "an endless series outlives the link, and that is said")
	sent := send(t, ilse.ID, s)
	assert.Equal(t, card, *look(t, ilse.ID, sent.MeetingID).Content.Card)
	s, err = service().Links.Choose(t.Context(), schedule.Self(ilse.ID), open(t, ilse.ID, draft(repeated("every Tuesday, 5 times", nil))).ID, ostrel)
	require.NoError(t, err)
	second := *s.Card
	s.Draft.Repeat = nil
	s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	assert.Equal(t, second, *s.Card)
}

func TestWhatASheetOfASeriesRefuses(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(repeated("every Friday, 3 times", nil))))
	version := look(t, ilse.ID, sent.MeetingID).Version
	var invalid *schedule.InvalidError
	require.ErrorAs(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, version, &series.Range{From: when.DayOf(2035, 1, 1)}, ""), &invalid)
	assert.Equal(t, "scope", invalid.Faults[0].Field)
	later := *service().Meetings
	later.Clock = func() time.Time { return time.Date(2031, 1, 1, 0, 0, 0, 0, time.UTC) }
	require.ErrorAs(t, later.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, version, &series.Range{From: when.DayOf(2026, 1, 1)}, ""), &invalid)
	assert.Contains(t, words.English(invalid.Faults[0].What), "have begun")
	// Changes begun already are not lost when somebody begins others.
	s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	s.Draft.Title = "Begun"
	_, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	again, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{Extend: true})
	require.NoError(t, err)
	assert.Equal(t, "Begun", again.Draft.Title)
}

// BenchmarkSend stores a meeting with 20 people and a room: once, and as a
// series of 104 dates. The ratio is that of both.
func BenchmarkSend(b *testing.B) {
	ilse := who(b, demo.Ilse)
	hall := room(b, "Courtyard Hall")
	setRules(b, hall.ID, rooms.Rules{})
	var people []meeting.DraftPerson
	require.NoError(b, running.Program.Store.Look(b.Context(), func(tx *postgres.Tx) error {
		found, err := tx.SearchDirectory(b.Context(), ilse.ID, "marrowby", schedule.Page{Most: 20})
		for _, e := range found {
			people = append(people, meeting.DraftPerson{PersonID: e.ID.String(), Email: e.Email, Needed: true})
		}
		return err
	}))
	require.Len(b, people, 20)
	slot := 0 // five minutes at night, on a weekday: nobody else is there
	var once time.Duration
	for _, dates := range []int{1, 104} {
		b.Run(fmt.Sprintf("%d dates, 20 people, a room", dates), func(b *testing.B) {
			for b.Loop() {
				b.StopTimer()
				start := when.Local{Day: when.DayOf(2026, 11, 25) + when.Day(slot%7), Clock: when.ClockOf(2, slot/7*5)}
				slot++
				s := open(b, ilse.ID, draft(func(d *meeting.Draft) {
					d.Start, d.End, d.People = start.String(), start.Add(5*time.Minute).String(), people
					d.RoomID, d.NoRoom = hall.ID.String(), false
					if dates > 1 {
						d.Repeat = &meeting.DraftRepeat{Rule: "every " + start.Day.Weekday().String(), Ends: "after", Count: dates}
					}
				}))
				b.StartTimer()
				sent := send(b, ilse.ID, s)
				b.StopTimer()
				require.Len(b, booked(b, hall.ID, sent.MeetingID), dates)
				b.StartTimer()
			}
			each := b.Elapsed() / time.Duration(b.N)
			if dates == 1 {
				once = each
			}
			b.ReportMetric(float64(each.Microseconds())/1000, "ms/send")
			b.ReportMetric(float64(each)/float64(once), "×once")
		})
	}
}
