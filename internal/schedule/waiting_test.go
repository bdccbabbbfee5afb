package schedule_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

// view is a sheet as its owner sees it.
func view(t testing.TB, me, id uuid.UUID) sheets.SheetView {
	t.Helper()
	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(me), id, "")
	require.NoError(t, err)
	return v
}

// newsOfSheet is what is new for somebody about a sheet, in words.
func newsOfSheet(t testing.TB, me, sheet uuid.UUID) (out []string) {
	t.Helper()
	list, err := service().News.News(t.Context(), schedule.Self(me), schedule.Page{Most: 100})
	require.NoError(t, err)
	for _, n := range list.Items {
		if n.SheetID == sheet {
			out = append(out, words.News(tongue.Tongue{}, meeting.Kind(n.Kind), n.News.News))
		}
	}
	return out
}

// late puts a draft into an evening, where no series of another test keeps anybody busy.
func late(change func(*meeting.Draft)) func(*meeting.Draft) {
	return func(d *meeting.Draft) {
		d.Start, d.End = d.Start[:10]+"T19:15", d.Start[:10]+"T20:15"
		change(d)
	}
}

// TestWaitingForARoom: given back, the first who waits is told and has it held, then the
// next.
func TestWaitingForARoom(t *testing.T) {
	ilse, tome, joana := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example"), who(t, "joana.bras@marrowby.example")
	bay := room(t, "Map Room")
	d := draft(late(inRoom(bay.ID)))
	taken := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
	wait := func(me schedule.Person) uuid.UUID {
		s, hold := saved(t, me.ID, d)
		require.Zero(t, hold.Until)
		require.NoError(t, service().Sheets.Wait(t.Context(), schedule.Self(me.ID), s.ID))
		require.NoError(t, service().Sheets.Wait(t.Context(), schedule.Self(me.ID), s.ID), "pressed twice")
		return s.ID
	}
	first := wait(tome)
	time.Sleep(1100 * time.Millisecond) // whole seconds tell who was first
	second := wait(joana)
	assert.Equal(t, "You wait for this room and are told when it is clear.", view(t, tome.ID, first).WaitingWords)
	assert.Equal(t, "You wait for this room, after one other.", view(t, joana.ID, second).WaitingWords)
	page, err := service().Rooms.Room(t.Context(), schedule.Self(who(t, "rui.calado@marrowby.example").ID), bay.ID, dayOf(t, d.Start), 1)
	require.NoError(t, err)
	require.Len(t, page.Waiting, 2)
	assert.Equal(t, tome.Name, page.Waiting[0].Name)
	other, err := service().Rooms.Room(t.Context(), schedule.Self(joana.ID), bay.ID, dayOf(t, d.Start), 1)
	require.NoError(t, err)
	assert.Empty(t, other.Waiting, "who waits is for its keepers")

	callOff(t, ilse.ID, taken)
	assert.Equal(t, []string{"Map Room is clear now and held for you for 30 min"}, newsOfSheet(t, tome.ID, first))
	assert.Empty(t, newsOfSheet(t, joana.ID, second))
	assert.Contains(t, view(t, tome.ID, first).WaitingWords, "It is your turn: held for you until 10:4")
	assert.Equal(t, when.Spans{spanOf(t, d)}, heldBy(t, first))
	hold, err := service().Sheets.HoldRooms(t.Context(), schedule.Self(tome.ID), first)
	require.NoError(t, err)
	assert.True(t, hold.Until.After(service().Now().Add(rooms.HoldFor)), "looking at the sheet does not make the turn shorter")
	_, lost := saved(t, ilse.ID, d)
	assert.Contains(t, words.English(lost.What), "held by Tomé Akande")

	// He does not take it: then it is hers, and Send books it.
	require.NoError(t, later(rooms.TurnFor+time.Minute).Rooms.Sweep(t.Context()))
	require.NoError(t, later(rooms.TurnFor+time.Minute).Rooms.Sweep(t.Context()))
	assert.Equal(t, schedule.WaitPassed, view(t, tome.ID, first).Waiting.State)
	assert.Len(t, newsOfSheet(t, joana.ID, second), 1)
	v := view(t, joana.ID, second)
	sent, err := later(rooms.TurnFor+2*time.Minute).Sheets.Send(t.Context(), schedule.Self(joana.ID), second, v.Version, uuid.NewString())
	require.NoError(t, err)
	assert.Len(t, booked(t, bay.ID, sent.MeetingID), 1)
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), first))
}

func TestWhatCanBeWaitedFor(t *testing.T) {
	ilse, tome, rui := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example"), who(t, "rui.calado@marrowby.example")
	bay := room(t, "Map Room")
	wait := func(me schedule.Person, d meeting.Draft) (uuid.UUID, string) {
		s, _ := saved(t, me.ID, d)
		err := service().Sheets.Wait(t.Context(), schedule.Self(me.ID), s.ID)
		var invalid *schedule.InvalidError
		if err != nil {
			require.ErrorAs(t, err, &invalid)
			return s.ID, words.English(invalid.Faults[0].What)
		}
		return s.ID, ""
	}
	_, why := wait(tome, draft(late(inRoom(bay.ID))))
	assert.Equal(t, "Everything is clear then: nothing has to be waited for.", why)
	_, why = wait(tome, draft(repeated("every Tuesday, 4 times", inRoom(bay.ID))))
	assert.Contains(t, why, "A series cannot wait")
	_, why = wait(tome, draft(func(d *meeting.Draft) { d.End = "soon" }))
	assert.Contains(t, why, "time")
	_, why = wait(tome, draft(func(d *meeting.Draft) { d.Start, d.End = "2026-11-20T10:00", "2026-11-20T11:00" }))
	assert.Equal(t, "This day has passed.", why)
	hall := room(t, "Courtyard Hall")
	_, why = wait(tome, draft(func(d *meeting.Draft) { inRoom(hall.ID)(d); d.Start, d.End = "2026-12-05T10:00", "2026-12-05T11:00" }))
	assert.Equal(t, "Courtyard Hall is closed on Saturdays.", why, "what never becomes clear is not waited for")
	assert.ErrorIs(t, service().Sheets.Wait(t.Context(), schedule.Self(ilse.ID), uuid.New()), schedule.ErrNotFound)

	t.Run("somebody needed", func(t *testing.T) {
		d := draft(late(func(d *meeting.Draft) {
			d.People = []meeting.DraftPerson{{Email: rui.Email, PersonID: rui.ID.String(), Needed: true}}
		}))
		busy := send(t, rui.ID, open(t, rui.ID, draft(func(x *meeting.Draft) { x.Start, x.End, x.People = d.Start, d.End, nil }))).MeetingID
		id, why := wait(tome, d)
		require.Empty(t, why)
		assert.Equal(t, "You wait for everybody needed and are told when it is clear.", view(t, tome.ID, id).WaitingWords)
		require.NoError(t, service().Rooms.Sweep(t.Context()))
		assert.Empty(t, newsOfSheet(t, tome.ID, id))
		callOff(t, rui.ID, busy)
		require.NoError(t, service().Rooms.Sweep(t.Context()))
		assert.Equal(t, []string{"Everybody needed is clear now at the time that you waited for"}, newsOfSheet(t, tome.ID, id))
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), id))
	})
	t.Run("another time or room ends the wait, and so does who stops", func(t *testing.T) {
		d := draft(late(inRoom(bay.ID)))
		taken := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
		id, why := wait(tome, d)
		require.Empty(t, why)
		v := view(t, tome.ID, id)
		v.Draft.Title = "Another title"
		_, _, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(tome.ID), id, v.Version, v.Draft, "")
		require.NoError(t, err)
		v = view(t, tome.ID, id)
		require.NotNil(t, v.Waiting, "a title does not")
		v.Draft.RoomID = room(t, "Crate Bench").ID.String()
		_, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(tome.ID), id, v.Version, v.Draft, "")
		require.NoError(t, err)
		require.Nil(t, view(t, tome.ID, id).Waiting)
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), id))

		a, _ := wait(tome, d)
		time.Sleep(1100 * time.Millisecond)
		b, _ := wait(rui, d)
		change(t, ilse.ID, taken, func(d *meeting.Draft) { d.RoomID, d.NoRoom = "", true }) // given back
		require.Len(t, newsOfSheet(t, tome.ID, a), 1)
		require.NoError(t, service().Sheets.StopWaiting(t.Context(), schedule.Self(tome.ID), a))
		require.Len(t, newsOfSheet(t, rui.ID, b), 1, "who leaves it gives it to the next at once")
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), a))
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(rui.ID), b))
	})
}

// TestStillNeeded: a booking to which nobody has said that they come is asked about once,
// kept or given back.
func TestStillNeeded(t *testing.T) {
	ilse, rui, tome := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example"), who(t, "tome.akande@marrowby.example")
	bay := room(t, "Print Cabinet")
	setRules(t, bay.ID, rooms.Rules{})
	book := func() (uuid.UUID, meeting.Draft, time.Duration) {
		d := draft(late(inRoom(bay.ID)))
		d.People = []meeting.DraftPerson{{Email: rui.Email, PersonID: rui.ID.String(), Needed: true}, {Email: "s.onari@kirisame.example", Needed: true}}
		id := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
		return id, d, spanOf(t, d).Start.Time().Add(-3 * time.Hour).Sub(service().Now())
	}
	asked := func(id uuid.UUID) (n int) {
		for _, x := range newsAbout(t, ilse.ID, id) {
			if x.Event.Kind == meeting.EventStillNeeded {
				n++
			}
		}
		return n
	}
	id, d, then := book()
	require.NoError(t, service().Rooms.Sweep(t.Context()))
	assert.Zero(t, asked(id), "there is time to answer")
	require.NoError(t, later(then).Rooms.Sweep(t.Context()))
	require.NoError(t, later(then).Rooms.Sweep(t.Context()))
	assert.Equal(t, 1, asked(id), "once")
	see := func(me uuid.UUID) []when.Day {
		x, err := later(then).Meetings.Meeting(t.Context(), schedule.Self(me), id)
		require.NoError(t, err)
		return x.Room.Unsure
	}
	day := dayOf(t, d.Start)
	assert.Equal(t, []when.Day{day}, see(ilse.ID))
	assert.Empty(t, see(rui.ID), "it is for the organiser")

	// Given back: those invited hear that the room has changed, and who waits has it.
	w, _ := saved(t, tome.ID, func() meeting.Draft { x := draft(inRoom(bay.ID)); x.Start, x.End = d.Start, d.End; return x }())
	require.NoError(t, service().Sheets.Wait(t.Context(), schedule.Self(tome.ID), w.ID))
	assert.ErrorIs(t, service().Sheets.GiveBack(t.Context(), schedule.Self(rui.ID), id, day), schedule.ErrNotFound)
	require.NoError(t, service().Sheets.GiveBack(t.Context(), schedule.Self(ilse.ID), id, day))
	require.NoError(t, service().Sheets.GiveBack(t.Context(), schedule.Self(ilse.ID), id, day), "pressed twice")
	assert.Empty(t, booked(t, bay.ID, id))
	assert.Equal(t, meeting.Update, meeting.Kind(newsAbout(t, rui.ID, id)[0].Kind))
	assert.Len(t, newsOfSheet(t, tome.ID, w.ID), 1)
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(tome.ID), w.ID))

	t.Run("kept", func(t *testing.T) {
		id, d, then := book()
		require.NoError(t, service().Meetings.KeepRoom(t.Context(), schedule.Self(ilse.ID), id, dayOf(t, d.Start)))
		assert.ErrorIs(t, service().Meetings.KeepRoom(t.Context(), schedule.Self(rui.ID), id, dayOf(t, d.Start)), schedule.ErrNotFound)
		require.NoError(t, later(then).Rooms.Sweep(t.Context()))
		assert.Zero(t, asked(id))
	})
	t.Run("somebody comes", func(t *testing.T) {
		id, _, then := book()
		require.NoError(t, service().Meetings.Answer(t.Context(), schedule.Self(rui.ID), id, meetings.Given{Answer: meeting.Maybe}))
		require.NoError(t, later(then).Rooms.Sweep(t.Context()))
		assert.Zero(t, asked(id))
	})
	t.Run("one date of a series", func(t *testing.T) {
		d := draft(repeated("every Tuesday, 4 times", inRoom(bay.ID)))
		d.People = []meeting.DraftPerson{{Email: rui.Email, PersonID: rui.ID.String(), Needed: true}}
		id := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
		dates := written(t, id)
		require.NoError(t, service().Sheets.GiveBack(t.Context(), schedule.Self(ilse.ID), id, dates[1].On))
		assert.Len(t, booked(t, bay.ID, id), len(dates)-1)
		var invalid *schedule.InvalidError
		require.ErrorAs(t, service().Sheets.GiveBack(t.Context(), schedule.Self(ilse.ID), id, dates[0].On+1), &invalid)
	})
}
