package schedule_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/tongue"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/meetings"
	keeping "jembro/internal/schedule/rooms"
	"jembro/internal/schedule/sheets"
)

// setRules changes a room for the length of a test.
func setRules(t testing.TB, id uuid.UUID, rules rooms.Rules) {
	t.Helper()
	ctx := context.Background() // the cleanup comes after the test's own
	set := func(rules rooms.Rules) (was rooms.Rules) {
		require.NoError(t, running.Program.Store.InTx(ctx, func(tx *postgres.Tx) error {
			r, err := tx.LockRoomToChange(ctx, id)
			if err != nil {
				return err
			}
			was, r.Rules = r.Rules, rules
			return tx.SetRoom(ctx, r)
		}))
		return was
	}
	was := set(rules)
	t.Cleanup(func() { set(was) })
}

// newsAbout is what is new for somebody about a meeting, the newest first, in words.
func newsAbout(t testing.TB, me uuid.UUID, meetingID uuid.UUID) (out []schedule.NewsItem) {
	t.Helper()
	list, err := service().News.News(t.Context(), schedule.Self(me), schedule.Page{Most: 100})
	require.NoError(t, err)
	for _, n := range list.Items {
		if n.MeetingID == meetingID {
			out = append(out, n)
		}
	}
	return out
}

// asked is what waits for a keeper about a meeting.
func asked(t testing.TB, me, room, meetingID uuid.UUID) (out []keeping.Asked) {
	t.Helper()
	page, err := service().Rooms.Room(t.Context(), schedule.Self(me), room, when.DayOf(2027, 3, 1), 14)
	require.NoError(t, err)
	for _, q := range page.Asked {
		if q.MeetingID == meetingID {
			out = append(out, q)
		}
	}
	return out
}

func roomState(t testing.TB, me, meetingID uuid.UUID) meetings.RoomState {
	t.Helper()
	d, err := service().Meetings.Meeting(t.Context(), schedule.Self(me), meetingID)
	require.NoError(t, err)
	return d.Room
}

// bookingKinds are the kinds of the bookings of a meeting, by its dates.
func bookingKinds(t testing.TB, meetingID uuid.UUID) (kinds []schedule.BookingKind) {
	t.Helper()
	for _, o := range written(t, meetingID) {
		kinds = append(kinds, o.Kind)
	}
	return kinds
}

func callOff(t testing.TB, me, id uuid.UUID) {
	t.Helper()
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(me), id, look(t, me, id).Version, nil, ""))
}

func bit(is bool) int {
	if is {
		return 1
	}
	return 0
}

func TestAKeeperIsAsked(t *testing.T) {
	ilse, marta, rui, tome := who(t, demo.Ilse), who(t, "marta.quental@marrowby.example"), who(t, "rui.calado@marrowby.example"), who(t, "tome.akande@marrowby.example")
	loft := room(t, "Rope Loft")
	d := draft(inRoom(loft.ID))
	s, hold := saved(t, ilse.ID, d)
	assert.NotZero(t, hold.Until, "what its keeper has to agree to can be held")
	asking := ilse.Hours.Zone.LocalAt(when.At(service().Now())).Clock
	sent := send(t, ilse.ID, s)
	id := sent.MeetingID
	assert.Equal(t, []schedule.BookingKind{schedule.KindAsked}, bookingKinds(t, id))
	assert.Equal(t, "asked", roomState(t, ilse.ID, id).State)
	until := func(c when.Clock) string {
		return "its keeper is asked; no answer until Wed 25 Nov 2026, " + c.String() + " is a no"
	}
	assert.Contains(t, []string{until(asking), until(asking + 1)}, roomState(t, ilse.ID, id).Words) // the minute may turn meanwhile

	q := asked(t, marta.ID, loft.ID, id)
	require.Len(t, q, 1)
	assert.Equal(t, "Rope Loft asks its keeper every time.", q[0].Why)
	assert.Equal(t, "Crate sizes", q[0].Title)
	assert.Equal(t, ilse.Name, q[0].By)
	assert.NotEmpty(t, q[0].Instead)
	require.Len(t, asked(t, rui.ID, loft.ID, id), 1, "who keeps all rooms sees it as well")
	assert.Empty(t, asked(t, tome.ID, loft.ID, id), "others do not")
	n := newsAbout(t, marta.ID, id)
	require.Len(t, n, 1)
	assert.Equal(t, "Ilse Marrant asks for Rope Loft", words.News(tongue.Tongue{}, meeting.Kind(n[0].Kind), n[0].News.News))
	assert.Equal(t, loft.ID.String(), n[0].RoomID)
	assert.False(t, n[0].Open(), "a keeper is no part of the meeting")
	assert.True(t, n[0].Decides)
	assert.Empty(t, newsAbout(t, ilse.ID, id), "what she did herself is not new")

	// While it is asked nobody else gets it.
	theirs, h := saved(t, tome.ID, d)
	assert.Contains(t, words.English(h.What), "was taken")
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), theirs.ID))

	t.Run("who does not keep it cannot answer", func(t *testing.T) {
		assert.ErrorIs(t, service().Rooms.Answer(t.Context(), schedule.Self(tome.ID), q[0].ID, true, ""), schedule.ErrNotFound)
		assert.ErrorIs(t, service().Rooms.Answer(t.Context(), schedule.Self(ilse.ID), q[0].ID, true, ""), schedule.ErrNotFound)
		assert.ErrorIs(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), uuid.New(), true, ""), schedule.ErrNotFound)
	})
	t.Run("agreed", func(t *testing.T) {
		require.NoError(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q[0].ID, true, ""))
		require.NoError(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q[0].ID, true, ""), "pressed twice")
		assert.Equal(t, []schedule.BookingKind{schedule.KindBooked}, bookingKinds(t, id))
		assert.Equal(t, meetings.RoomState{State: "booked"}, roomState(t, ilse.ID, id))
		assert.False(t, newsAbout(t, marta.ID, id)[0].Decides, "nothing waits any more")
		n := newsAbout(t, ilse.ID, id)
		require.Len(t, n, 1)
		assert.Equal(t, "Marta Quental agreed to Rope Loft", words.News(tongue.Tongue{}, meeting.Kind(n[0].Kind), n[0].News.News))
		var answered *keeping.AnsweredError
		require.ErrorAs(t, service().Rooms.Answer(t.Context(), schedule.Self(rui.ID), q[0].ID, false, "No."), &answered)
		assert.Equal(t, "Another keeper has answered this already.", words.English(answered.What()))
	})
	t.Run("a keeper who is invited is asked both", func(t *testing.T) {
		id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
			inRoom(loft.ID)(d)
			d.People = []meeting.DraftPerson{{Email: marta.Email, PersonID: marta.ID.String(), Needed: true}}
		}))).MeetingID
		var comes, decides int
		for _, n := range newsAbout(t, marta.ID, id) {
			assert.False(t, n.Asks() && n.Decides)
			comes, decides = comes+bit(n.Asks()), decides+bit(n.Decides)
		}
		assert.Equal(t, []int{1, 1}, []int{comes, decides})
		callOff(t, ilse.ID, id)
	})
	t.Run("a change of the title asks nobody, another time does", func(t *testing.T) {
		change(t, ilse.ID, id, func(d *meeting.Draft) { d.Title = "Crates, loan 14" })
		assert.Empty(t, asked(t, marta.ID, loft.ID, id))
		start, _ := when.ParseLocal(d.Start)
		change(t, ilse.ID, id, func(d *meeting.Draft) {
			d.Start, d.End = start.Add(time.Hour).String(), start.Add(2*time.Hour).String()
		})
		require.Len(t, asked(t, marta.ID, loft.ID, id), 1)
	})
	t.Run("refused with a word, and another room taken", func(t *testing.T) {
		q := asked(t, marta.ID, loft.ID, id)
		require.NoError(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q[0].ID, false, "The hoist is being mended."))
		assert.Equal(t, "refused", roomState(t, ilse.ID, id).State)
		assert.Equal(t, "Marta Quental refused it: The hoist is being mended.", roomState(t, ilse.ID, id).Words)
		assert.Empty(t, booked(t, loft.ID, id), "it is given back")
		require.NotEmpty(t, written(t, id), "the meeting stays")
		n := newsAbout(t, ilse.ID, id)
		assert.Equal(t, "Marta Quental refused Rope Loft: The hoist is being mended.", words.News(tongue.Tongue{}, meeting.Kind(n[0].Kind), n[0].News.News))

		// On the sheet the room is not clear then, for this meeting alone.
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{})
		require.NoError(t, err)
		span := spanOf(t, s.Draft)
		question := availability.DayQuestion{Day: dayOf(t, s.Draft.Start), Zone: ilse.Hours.Zone, Chosen: span, RoomID: loft.ID, WantRoom: true, But: id}
		a, err := service().Availability.Day(t.Context(), schedule.Self(ilse.ID), question)
		require.NoError(t, err)
		assert.False(t, a.Rooms[0].Clear)
		question.But = uuid.Nil
		a, err = service().Availability.Day(t.Context(), schedule.Self(tome.ID), question)
		require.NoError(t, err)
		assert.True(t, a.Rooms[0].Clear)

		// It is not asked again by itself: neither when the title changes nor when the
		// dates are written again.
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), s.ID))
		change(t, ilse.ID, id, func(d *meeting.Draft) { d.Title = "Crates" })
		assert.Empty(t, asked(t, marta.ID, loft.ID, id))
		crate := room(t, "Crate Bench")
		change(t, ilse.ID, id, func(d *meeting.Draft) { d.RoomID = crate.ID.String() })
		assert.Len(t, booked(t, crate.ID, id), 1)
		assert.Equal(t, "booked", roomState(t, ilse.ID, id).State)
	})
}

func TestARequestLapses(t *testing.T) {
	ilse, marta := who(t, demo.Ilse), who(t, "marta.quental@marrowby.example")
	loft := room(t, "Rope Loft")
	id := send(t, ilse.ID, open(t, ilse.ID, draft(inRoom(loft.ID)))).MeetingID
	q := asked(t, marta.ID, loft.ID, id)[0]
	require.NoError(t, later(23*time.Hour).Rooms.Sweep(t.Context()))
	assert.Len(t, asked(t, marta.ID, loft.ID, id), 1)
	require.NoError(t, later(25*time.Hour).Rooms.Sweep(t.Context()))
	require.NoError(t, later(25*time.Hour).Rooms.Sweep(t.Context()))
	assert.Equal(t, "refused", roomState(t, ilse.ID, id).State)
	assert.Equal(t, "nobody answered in time", roomState(t, ilse.ID, id).Words)
	assert.Empty(t, booked(t, loft.ID, id))
	n := newsAbout(t, ilse.ID, id)
	require.Len(t, n, 1)
	assert.Equal(t, "Nobody answered for Rope Loft in time; take another room", words.News(tongue.Tongue{}, meeting.Kind(n[0].Kind), n[0].News.News))
	var answered *keeping.AnsweredError
	require.ErrorAs(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q.ID, true, ""), &answered)
	assert.Equal(t, "Nobody answered in time, and the room was given back.", words.English(answered.What()))
}

func TestWhatIsAskedGoesWithTheMeeting(t *testing.T) {
	ilse, marta := who(t, demo.Ilse), who(t, "marta.quental@marrowby.example")
	loft := room(t, "Rope Loft")
	t.Run("called off", func(t *testing.T) {
		id := send(t, ilse.ID, open(t, ilse.ID, draft(inRoom(loft.ID)))).MeetingID
		q := asked(t, marta.ID, loft.ID, id)[0]
		callOff(t, ilse.ID, id)
		assert.Empty(t, asked(t, marta.ID, loft.ID, id))
		var answered *keeping.AnsweredError
		require.ErrorAs(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q.ID, true, ""), &answered)
		assert.Contains(t, words.English(answered.What()), "not asked any more")
	})
	t.Run("another room", func(t *testing.T) {
		id := send(t, ilse.ID, open(t, ilse.ID, draft(inRoom(loft.ID)))).MeetingID
		change(t, ilse.ID, id, func(d *meeting.Draft) { d.RoomID, d.NoRoom = "", true })
		assert.Empty(t, asked(t, marta.ID, loft.ID, id))
	})
	t.Run("private: its keeper learns when and who, not what", func(t *testing.T) {
		d := draft(inRoom(loft.ID))
		d.Private, d.Title = true, "Secret of the loft"
		id := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
		assert.Equal(t, "Private", asked(t, marta.ID, loft.ID, id)[0].Title)
		n := newsAbout(t, marta.ID, id)
		assert.Equal(t, "Private", n[0].Title)
		assert.NotContains(t, n[0].Is.Title, "Secret")
		callOff(t, ilse.ID, id)
	})
	t.Run("a series is one request, and no date is asked for twice", func(t *testing.T) {
		id := send(t, ilse.ID, open(t, ilse.ID, draft(repeated("every Tuesday, 8 times", inRoom(loft.ID))))).MeetingID
		q := asked(t, marta.ID, loft.ID, id)
		require.Len(t, q, 1)
		assert.Equal(t, 8, q[0].Dates)
		require.NoError(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q[0].ID, true, ""))
		dates := written(t, id)
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{At: dates[2].On, One: true})
		require.NoError(t, err)
		start, _ := when.ParseLocal(s.Draft.Start)
		s.Draft.Start, s.Draft.End = start.Add(time.Hour).String(), start.Add(2*time.Hour).String()
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		send(t, ilse.ID, s)
		q = asked(t, marta.ID, loft.ID, id)
		require.Len(t, q, 1)
		assert.Equal(t, 1, q[0].Dates, "only the date that was moved")
		require.NoError(t, service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q[0].ID, false, "Not then."))
		assert.Equal(t, 7, len(booked(t, loft.ID, id)))

		// From a date on the series goes on as another, at the same time: its keeper has
		// agreed to that.
		s, err = service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{At: dates[5].On})
		require.NoError(t, err)
		s.Draft.Title = "Crates, from here on"
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		next := send(t, ilse.ID, s).MeetingID
		require.NotEqual(t, id, next)
		assert.Empty(t, asked(t, marta.ID, loft.ID, next))
		assert.Len(t, booked(t, loft.ID, next), 3)
	})
}

func TestRulesSpeakBeforeSend(t *testing.T) {
	ilse, tome, yara := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example"), who(t, "yara.mendonca@marrowby.example")
	hall := room(t, "Courtyard Hall")
	now := service().Now()
	day := when.DayOf(now.Date()) + 21 // a Tuesday
	require.Equal(t, time.Tuesday, day.Weekday())
	at := func(day when.Day, start, end string) meeting.Draft {
		return draft(func(d *meeting.Draft) {
			inRoom(hall.ID)(d)
			d.Start, d.End = day.String()+"T"+start, day.String()+"T"+end
		})
	}
	for _, c := range []struct {
		name string
		me   schedule.Person
		d    meeting.Draft
		want string // the fault at the room, "" for none
		asks string
	}{
		{"within its rules", tome, at(day, "09:00", "10:00"), "", ""},
		{"too long", tome, at(day, "09:00", "14:00"), "Courtyard Hall can be booked for 4 h at a time.", ""},
		{"too early and too long", tome, at(day, "07:00", "12:00"), "Courtyard Hall can be booked for 4 h at a time and is open 8:00 – 21:00 on Tuesdays.", ""},
		{"on a Saturday", tome, at(day+4, "09:00", "10:00"), "Courtyard Hall is closed on Saturdays.", ""},
		{"too far ahead", tome, at(day+98, "09:00", "10:00"), "Courtyard Hall can be booked until 22 February so far.", ""},
		{"late", tome, at(day, "17:30", "18:30"), "", "Courtyard Hall asks its keeper for anything after 18:00."},
		{"by its keeper", ilse, at(day, "19:30", "20:30"), "", ""},
		{"from another site", yara, at(day, "10:45", "11:00"), "", "Courtyard Hall asks its keeper for others than people of Main building."},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := open(t, c.me.ID, c.d)
			v, err := service().Sheets.Sheet(t.Context(), schedule.Self(c.me.ID), s.ID, "")
			require.NoError(t, err)
			fault := ""
			for _, f := range v.Faults {
				if f.Field == "room" {
					fault = words.English(f.What)
				}
			}
			assert.Equal(t, c.want, fault)
			a, err := service().Availability.Day(t.Context(), schedule.Self(c.me.ID), availability.DayQuestion{Day: dayOf(t, c.d.Start), Zone: c.me.Hours.Zone, Chosen: spanOf(t, c.d), RoomID: hall.ID, WantRoom: true})
			require.NoError(t, err)
			assert.Equal(t, c.want == "", a.Rooms[0].Clear, "what is shown as clear can be had")
			says := a.Rooms[0].Says
			if c.asks != "" {
				assert.Equal(t, c.asks, words.RoomReasons(tongue.Tongue{}, hall.Name, hall.Site, says.Reasons))
			}
			_, err = service().Sheets.Send(t.Context(), schedule.Self(c.me.ID), s.ID, s.Version, uuid.NewString())
			if c.want == "" {
				require.NoError(t, err)
				return
			}
			var invalid *schedule.InvalidError
			require.ErrorAs(t, err, &invalid)
			assert.Equal(t, c.want, words.English(invalid.Faults[0].What))
			assert.Equal(t, "room", invalid.Faults[0].Field)
			require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(c.me.ID), s.ID))
		})
	}
	t.Run("the gap after a booking is kept clear", func(t *testing.T) {
		s, hold := saved(t, tome.ID, at(day, "10:00", "10:30"))
		assert.Contains(t, words.English(hold.What), "with 30 min before and after it")
		_, err := service().Sheets.Send(t.Context(), schedule.Self(tome.ID), s.ID, s.Version, uuid.NewString())
		var taken *schedule.TakenError
		require.ErrorAs(t, err, &taken)
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), s.ID))
	})
	t.Run("a series of which too few dates are clear", func(t *testing.T) {
		d := draft(repeated("every Wednesday, 10 times", inRoom(hall.ID)))
		d.Start, d.End = (day+1).String()+"T09:00", (day+1).String()+"T10:00"
		for n := range 3 {
			d.Dates = append(d.Dates, meeting.DraftDate{On: (day + 1 + when.Day(7*n)).String(), NoRoom: true})
		}
		s := open(t, tome.ID, d)
		v, err := service().Sheets.Sheet(t.Context(), schedule.Self(tome.ID), s.ID, "")
		require.NoError(t, err)
		require.NotEmpty(t, v.Faults)
		last := v.Faults[len(v.Faults)-1]
		assert.Equal(t, "room: Courtyard Hall takes a series where 8 of 10 dates are clear, and 7 of 10 are.", last.Field+": "+words.English(last.What))
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), s.ID))
	})
}

// TestAKeeperWhoLeaves: what they were asked is asked of who keeps the room then; a room
// that nobody keeps books itself.
func TestAKeeperWhoLeaves(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	gone := schedule.Person{ID: uuid.New(), Email: "vera.rocha@marrowby.example"}
	bench := room(t, "Print Cabinet")
	require.NoError(t, running.Program.Store.InTx(t.Context(), func(tx *postgres.Tx) error {
		err := tx.InsertPerson(t.Context(), db.InsertPersonParams{ID: gone.ID, Name: "Vera Rocha", Email: gone.Email, SiteID: ilse.SiteID, Zone: "Europe/Lisbon",
			Hours: []byte("[[],[],[],[],[],[],[]]"), Fold: "vera rocha vera.rocha@marrowby.example"})
		if err != nil {
			return err
		}
		r, err := tx.LockRoomToChange(t.Context(), bench.ID)
		if err != nil {
			return err
		}
		r.Keepers = []uuid.UUID{gone.ID}
		return tx.SetRoom(t.Context(), r)
	}))
	setRules(t, bench.ID, rooms.Rules{Agree: rooms.Agree{Always: true}})
	id := send(t, ilse.ID, open(t, ilse.ID, draft(inRoom(bench.ID)))).MeetingID
	require.Len(t, newsAbout(t, gone.ID, id), 1)
	require.Empty(t, newsAbout(t, rui.ID, id), "who keeps all rooms is not asked while somebody keeps it")

	orphaned, err := service().Rooms.Leave(t.Context(), "Vera.Rocha@marrowby.example")
	require.NoError(t, err)
	assert.Empty(t, orphaned)
	require.Len(t, newsAbout(t, rui.ID, id), 1)
	q := asked(t, rui.ID, bench.ID, id)
	require.Len(t, q, 1)
	answered := service().Rooms.Answer(t.Context(), schedule.Self(gone.ID), q[0].ID, true, "")
	require.ErrorIs(t, answered, schedule.ErrNotFound)
	require.NoError(t, service().Rooms.Answer(t.Context(), schedule.Self(rui.ID), q[0].ID, true, ""))
	again, err := service().Rooms.Leave(t.Context(), gone.Email)
	require.NoError(t, err)
	assert.Empty(t, again, "once is enough")
	_, err = service().Rooms.Leave(t.Context(), "nobody@marrowby.example")
	require.ErrorIs(t, err, schedule.ErrNotFound)

	found, err := service().Directory.FindPeople(t.Context(), schedule.Self(ilse.ID), "Vera Rocha", schedule.Page{Most: 5})
	require.NoError(t, err)
	assert.Empty(t, found)
}

// TestAnswersAndChangesAtOnce: a keeper agrees, another refuses, the organiser moves or
// calls off the meeting and the time for answering ends, all at the same moment: one way
// or another the bookings and the request say the same.
func TestAnswersAndChangesAtOnce(t *testing.T) {
	ilse, marta, rui := who(t, demo.Ilse), who(t, "marta.quental@marrowby.example"), who(t, "rui.calado@marrowby.example")
	loft, crate := room(t, "Rope Loft"), room(t, "Crate Bench")
	for round := range rounds(6) {
		day := (when.DayOf(2027, 11, 1) + when.Day(round/5*7+round%5)).String() // no other test has this room then
		d := draft(func(d *meeting.Draft) {
			inRoom(loft.ID)(d)
			d.Start, d.End = day+"T09:30", day+"T10:30"
		})
		id := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
		q := asked(t, marta.ID, loft.ID, id)[0]
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{})
		require.NoError(t, err)
		if s.Draft.RoomID = crate.ID.String(); round%2 == 0 {
			start, _ := when.ParseLocal(d.Start)
			s.Draft.RoomID, s.Draft.Start, s.Draft.End = loft.ID.String(), start.Add(2*time.Hour).String(), start.Add(3*time.Hour).String()
		}
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		deeds := []func() error{
			func() error { return service().Rooms.Answer(t.Context(), schedule.Self(marta.ID), q.ID, true, "") },
			func() error { return service().Rooms.Answer(t.Context(), schedule.Self(rui.ID), q.ID, false, "No.") },
			func() error { return later(48 * time.Hour).Rooms.Sweep(t.Context()) },
			func() error {
				_, err := service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, uuid.NewString())
				return err
			},
		}
		if round%3 == 2 {
			deeds = append(deeds, func() error { return service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), id, 1, nil, "") })
		}
		for _, err := range atOnce(deeds...) {
			var answered *keeping.AnsweredError
			var version *schedule.VersionError
			if !errors.As(err, &answered) && !errors.As(err, &version) {
				oneOf(t, err, schedule.ErrCalledOff, schedule.ErrNotFound)
			}
		}
		open, kinds := asked(t, marta.ID, loft.ID, id), bookingKinds(t, id)
		waits := slices.Contains(kinds, schedule.KindAsked)
		require.Equal(t, waits, len(open) == 1, "round %d: %v", round, kinds)
		state := roomState(t, ilse.ID, id)
		if len(kinds) > 0 && kinds[0] == "" {
			require.Equal(t, "refused", state.State)
		}
	}
}

func TestRoomsAsATable(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	take := func(csv string, try bool) (keeping.Taken, []keeping.LineError) {
		t.Helper()
		done, err := service().Rooms.TakeTable(t.Context(), schedule.Self(rui.ID), csv, try)
		var table *keeping.TableError
		if !errors.As(err, &table) {
			require.NoError(t, err)
			return done, nil
		}
		return done, table.Lines
	}
	table, err := service().Rooms.Table(t.Context(), schedule.Self(rui.ID))
	require.NoError(t, err)
	all, err := service().Directory.Rooms(t.Context(), schedule.EveryRoom)
	require.NoError(t, err)
	done, faults := take(table, false)
	require.Empty(t, faults)
	assert.Equal(t, keeping.Taken{Same: len(all)}, done, "what is written is read as the same")
	again, err := service().Rooms.Table(t.Context(), schedule.Self(rui.ID))
	require.NoError(t, err)
	assert.Equal(t, table, again)
	assert.Contains(t, table, `,site,ask,240,90,30,Mon 8:00-21:00; Tue 8:00-21:00; Wed 8:00-21:00; Thu 8:00-21:00; Fri 8:00-21:00,open,,8,,120,18:00,2`)

	t.Run("it is for who keeps all rooms", func(t *testing.T) {
		_, err := service().Rooms.Table(t.Context(), schedule.Self(ilse.ID))
		require.ErrorIs(t, err, schedule.ErrNotFound)
		_, err = service().Rooms.TakeTable(t.Context(), schedule.Self(ilse.ID), table, true)
		require.ErrorIs(t, err, schedule.ErrNotFound)
	})
	t.Run("a new room, and another's gap, tried first", func(t *testing.T) {
		csv := "\ufeffemail;name;site;seats;gap;open;keepers\r\nbell.loft@rooms.marrowby.example;Bell Loft;lantern house;5;;Sat 9:00-24:00;marta.quental@marrowby.example\r\n" +
			"tide.office@rooms.marrowby.example;Tide Office;Quay store;5;15;;\r\n;;;;;;\r\n"
		want := keeping.Taken{Added: 1, Changed: 1}
		tried, faults := take(csv, true)
		require.Empty(t, faults)
		assert.Equal(t, want, tried)
		before, _ := service().Directory.Rooms(t.Context(), schedule.EveryRoom)
		assert.Len(t, before, len(all), "trying changes nothing")
		done, faults := take(csv, false)
		require.Empty(t, faults)
		assert.Equal(t, want, done)
		bell := room(t, "Bell Loft")
		assert.Equal(t, []when.ClockSpan{{Start: 540, End: 1440}}, bell.Rules.Open[time.Saturday])
		assert.Len(t, bell.Keepers, 1)
		assert.Equal(t, 15*time.Minute, room(t, "Tide Office").Rules.Gap)
		assert.NotEmpty(t, room(t, "Tide Office").Equipment, "a column that is not there stays")
		setRules(t, room(t, "Tide Office").ID, rooms.Rules{})
	})
	t.Run("what is wrong is said by line and column, and nothing is changed", func(t *testing.T) {
		_, faults := take("email,name,site,seats,gap,open,others,keepers,closed days,agree after\n"+
			"map.room@rooms.marrowby.example,,Main building,many,5000,Mon 9-5,maybe,ghost@marrowby.example,tomorrow,25:00\n"+
			"MAP.room@rooms.marrowby.example,Map Room,Main building,8,,,,,,\n"+
			"new@rooms.marrowby.example,New,The moon,0,,,,,,\n", false)
		var got []string
		for _, f := range faults {
			got = append(got, fmt.Sprintf("%d %s: %s", f.Line, f.Column, words.English(f.What)))
		}
		assert.Equal(t, []string{
			"2 seats: Give a whole number, or nothing.",
			"2 keepers: Nobody here has the address ghost@marrowby.example.",
			"2 others: Write one of: “ask”, “refuse”.",
			"2 open: Write hours as “Mon 8:00-18:00; Tue 8:00-12:00”, or nothing for always.",
			"2 closed days: Write days as 2026-12-24, with semicolons between them.",
			"2 agree after: Write a time as 18:00, or nothing.",
			"3 email: The room stands on line 2 already.",
			"4 site: There is no such site. Those there are: Lantern house, Main building, Quay store.",
		}, got)
		_, faults = take("email,gap\nmap.room@rooms.marrowby.example,5000\n", false)
		require.Len(t, faults, 1)
		assert.Equal(t, "gap", faults[0].Column)
		assert.Zero(t, room(t, "Map Room").Rules.Gap)
	})
	for name, csv := range map[string]string{"nothing": "", "no heads that are known": "a,b\n1,2\n", "an open quotation mark": "email,name\n\"x,y\n", "a head twice": "email,email\na,b\n",
		"two mebibytes": strings.Repeat("x", 2<<20), "no address": "email,name,site,seats\n,A,Quay store,3\n", "a binary file": "\x00\x01\x02"} {
		t.Run(name, func(t *testing.T) {
			_, faults := take(csv, true)
			assert.NotEmpty(t, faults)
		})
	}
}

func FuzzRoomTable(f *testing.F) {
	f.Add("email,name,site,seats\r\nmap.room@rooms.marrowby.example,Map Room,Main building,8\r\n")
	f.Add("email;open\nx@y.example;Mon 8:00-24:00; Tue 9:00-9:00\n")
	f.Add("email,by,agree\n\"a\"\"b@x.example\",\"p@x.example; q@x.example\",always\n")
	rui := who(f, "rui.calado@marrowby.example")
	f.Fuzz(func(t *testing.T, csv string) {
		_, err := service().Rooms.TakeTable(t.Context(), schedule.Self(rui.ID), csv, true)
		var table *keeping.TableError
		if err != nil && !errors.As(err, &table) {
			t.Fatal(err)
		}
	})
}

// What a form shows of the rules of a room is read back as the same rules.
func TestRulesReadBackAsTyped(t *testing.T) {
	reader := typed.Reader{Words: words.Typed, Today: when.DayOf(2026, 11, 24), Order: typed.DayFirst}
	rapid.Check(t, func(t *rapid.T) {
		minutes := func(name string, most int) time.Duration {
			return time.Duration(rapid.IntRange(0, most).Draw(t, name)) * time.Minute
		}
		r := rooms.Rules{Longest: minutes("longest", 60*24*31), Gap: minutes("gap", 600), Ahead: rapid.IntRange(0, 400).Draw(t, "ahead"), Share: rapid.IntRange(0, 10).Draw(t, "share"),
			Holidays: rapid.Bool().Draw(t, "holidays"), Others: rapid.SampledFrom([]rooms.Others{rooms.OthersAsk, rooms.OthersRefused}).Draw(t, "others"),
			Agree: rooms.Agree{Always: rapid.Bool().Draw(t, "always"), Above: minutes("above", 600), After: when.Clock(rapid.IntRange(0, 1439).Draw(t, "after")), Within: rapid.IntRange(0, 30).Draw(t, "within")}}
		for day := range r.Open {
			at := when.Clock(rapid.IntRange(0, 300).Draw(t, "opens"))
			for range rapid.IntRange(0, 3).Draw(t, "spans") {
				end := at + when.Clock(rapid.IntRange(1, 300).Draw(t, "long"))
				r.Open[day] = append(r.Open[day], when.ClockSpan{Start: at, End: end})
				at = end + when.Clock(rapid.IntRange(0, 60).Draw(t, "pause"))
			}
		}
		for range rapid.IntRange(0, 4).Draw(t, "closed") {
			r.Closed = append(r.Closed, when.DayOf(2027, 1, 1)+when.Day(rapid.IntRange(0, 700).Draw(t, "day")))
		}
		got, faults := keeping.Type(tongue.Tongue{}, r).Read(reader)
		require.Empty(t, faults)
		require.Equal(t, r, got)
	})
}
