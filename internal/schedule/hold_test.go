package schedule_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/ical"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/sheets"
)

// later is the program some time later.
func later(d time.Duration) *deeds.Deeds {
	set := service().Setting
	set.Clock = func() time.Time { return service().Now().Add(d) }
	return deeds.New(set, running.Program.Store, deeds.Outside{Post: service().Meetings.Post, Descriptions: service().Links.Descriptions, Fetcher: service().Calendars.Fetcher, Format: ical.Calendars{}})
}

func inRoom(id uuid.UUID) func(*meeting.Draft) {
	return func(d *meeting.Draft) { d.RoomID, d.NoRoom, d.People = id.String(), false, nil }
}

// saved opens a sheet and saves it, and tells how its room is held.
func saved(t testing.TB, me uuid.UUID, d meeting.Draft) (schedule.Sheet, sheets.Hold) {
	t.Helper()
	s, err := service().Sheets.OpenSheet(t.Context(), schedule.Self(me), "", "")
	require.NoError(t, err)
	s, out, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, d, "")
	require.NoError(t, err)
	return s, out.Hold
}

func TestARoomIsHeldForASheet(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	bay := room(t, "Reading Bay")
	d := draft(inRoom(bay.ID))
	day, err := when.ParseLocal(d.Start)
	require.NoError(t, err)
	s, hold := saved(t, ilse.ID, d)
	assert.WithinDuration(t, service().Now().Add(rooms.HoldFor), hold.Until, 2*time.Second)
	assert.True(t, hold.What.Empty())

	// Others see who holds it, their own sheets say so, and Send does not get past it.
	a, err := service().Availability.RoomsDay(t.Context(), schedule.Self(rui.ID), availability.RoomsQuestion{Day: day.Day})
	require.NoError(t, err)
	var uses []schedule.RoomUse
	for _, r := range a.Rooms {
		if r.ID == bay.ID {
			uses = r.Taken
		}
	}
	require.Len(t, uses, 1)
	assert.Equal(t, schedule.KindHold, uses[0].Kind)
	assert.Equal(t, ilse.Name, uses[0].By)
	assert.Equal(t, hold.Until, uses[0].Until.UTC())
	theirs, refused := saved(t, rui.ID, d)
	assert.Zero(t, refused.Until)
	until := ilse.Hours.Zone.LocalAt(when.At(hold.Until)).Clock.String()
	assert.Equal(t, "Reading Bay is held by Ilse Marrant until "+until+": it is clear then, or taken.", words.English(refused.What))
	_, err = service().Sheets.Send(t.Context(), schedule.Self(rui.ID), theirs.ID, theirs.Version, uuid.NewString())
	var taken *schedule.TakenError
	require.ErrorAs(t, err, &taken)
	assert.Contains(t, words.English(taken.What(ilse.Hours.Zone)), "held by Ilse Marrant until "+until)
	for _, r := range taken.Clear {
		assert.NotEqual(t, bay.ID, r.ID)
	}
	fits, err := service().Availability.Day(t.Context(), schedule.Self(ilse.ID), availability.DayQuestion{Day: day.Day, Zone: ilse.Hours.Zone, Chosen: spanOf(t, d), RoomID: bay.ID, WantRoom: true})
	require.NoError(t, err)
	assert.True(t, fits.Rooms[0].Clear, "one's own hold is not in one's way")

	t.Run("it goes along with its time, and goes with the room", func(t *testing.T) {
		d := d
		d.Start, d.End = day.Add(15*time.Minute).String(), day.Add(75*time.Minute).String()
		var err error
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, d, "")
		require.NoError(t, err)
		spans := heldBy(t, s.ID)
		assert.Equal(t, when.Spans{spanOf(t, d)}, spans)
		d.RoomID, d.NoRoom = "", true
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, d, "")
		require.NoError(t, err)
		assert.Empty(t, heldBy(t, s.ID))
	})
	t.Run("it lapses, and who comes then has it", func(t *testing.T) {
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, d, "")
		require.NoError(t, err)
		after := later(rooms.HoldFor)
		earliest := after.Now()
		got, err := after.Sheets.HoldRooms(t.Context(), schedule.Self(rui.ID), theirs.ID)
		require.NoError(t, err)
		assert.WithinRange(t, got.Until, earliest.Add(rooms.HoldFor), after.Now().Add(rooms.HoldFor)) // a second may pass
		assert.Equal(t, when.Spans{spanOf(t, d)}, heldBy(t, theirs.ID))
		lost, err := after.Sheets.HoldRooms(t.Context(), schedule.Self(ilse.ID), s.ID)
		require.NoError(t, err)
		assert.Contains(t, words.English(lost.What), "held by Rui Calado")
	})
	t.Run("Send turns it into the booking", func(t *testing.T) {
		after := later(rooms.HoldFor + time.Minute)
		sent, err := after.Sheets.Send(t.Context(), schedule.Self(rui.ID), theirs.ID, theirs.Version, uuid.NewString())
		require.NoError(t, err)
		assert.Equal(t, []when.Span{spanOf(t, d)}, booked(t, bay.ID, sent.MeetingID))
		assert.Empty(t, heldBy(t, theirs.ID))
		lost, err := after.Sheets.HoldRooms(t.Context(), schedule.Self(ilse.ID), s.ID)
		require.NoError(t, err)
		assert.Contains(t, words.English(lost.What), "was taken", "a hold never outranks a booking")
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), s.ID))
	})
}

// heldBy is what a sheet holds, over or not.
func heldBy(t testing.TB, sheet uuid.UUID) (spans when.Spans) {
	t.Helper()
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
		holds, err := tx.Holds(t.Context(), sheet)
		for _, h := range holds {
			spans = append(spans, h.Span)
		}
		return err
	}))
	return when.Union(spans...)
}

func dropHolds(t testing.TB, sheet uuid.UUID) {
	t.Helper()
	require.NoError(t, running.Program.Store.InTx(t.Context(), func(tx *postgres.Tx) error { return tx.DropHolds(t.Context(), sheet) }))
}

func TestHoldsHaveLimits(t *testing.T) {
	me := who(t, "joana.bras@marrowby.example")
	bay := room(t, "Tide Office")
	t.Run("three sheets of a person hold something", func(t *testing.T) {
		var all []uuid.UUID
		for n := range 4 {
			s, hold := saved(t, me.ID, draft(inRoom(bay.ID)))
			all = append(all, s.ID)
			assert.Equal(t, n == 3, hold.Many, n)
			assert.Equal(t, n == 3, hold.Until.IsZero(), n)
			assert.Equal(t, n == 3, strings.Contains(words.English(hold.What), "Three other sheets"), n)
		}
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(me.ID), all[0]))
		hold, err := service().Sheets.HoldRooms(t.Context(), schedule.Self(me.ID), all[3])
		require.NoError(t, err)
		assert.NotZero(t, hold.Until, "one that is thrown away holds nothing")
		require.NoError(t, service().Sheets.DiscardSheets(t.Context(), schedule.Self(me.ID), all))
	})
	t.Run("an hour, then others", func(t *testing.T) {
		s, _ := saved(t, me.ID, draft(inRoom(bay.ID)))
		var last sheets.Hold
		for minute := 5; minute < 60; minute += 5 {
			var err error
			last, err = later(time.Duration(minute)*time.Minute).Sheets.HoldRooms(t.Context(), schedule.Self(me.ID), s.ID)
			require.NoError(t, err)
		}
		assert.WithinDuration(t, service().Now().Add(time.Hour), last.Until, 5*time.Second)
		over, err := later(61*time.Minute).Sheets.HoldRooms(t.Context(), schedule.Self(me.ID), s.ID)
		require.NoError(t, err)
		assert.Zero(t, over.Until)
		assert.Contains(t, words.English(over.What), "You held this room for an hour; until 12:1")
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(me.ID), s.ID))
	})
	t.Run("a series holds its first dates, and what is not taken", func(t *testing.T) {
		d := draft(repeated("every weekday, 100 times", inRoom(bay.ID)))
		start, err := when.ParseLocal(d.Start)
		require.NoError(t, err)
		in := draft(inRoom(bay.ID))
		third := when.Local{Day: start.Day + 7, Clock: start.Clock}
		in.Start, in.End = third.String(), third.Add(time.Hour).String()
		rui := who(t, "rui.calado@marrowby.example")
		send(t, rui.ID, open(t, rui.ID, in))
		s, hold := saved(t, me.ID, d)
		assert.NotZero(t, hold.Until)
		assert.Contains(t, words.English(hold.What), "was taken")
		spans := heldBy(t, s.ID)
		assert.Len(t, spans, rooms.HoldDates-1)
		assert.False(t, spans.Overlaps(spanOf(t, in)))
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(me.ID), s.ID))
	})
	t.Run("changing a meeting holds what it does not have yet", func(t *testing.T) {
		d := draft(inRoom(bay.ID))
		sent := send(t, me.ID, open(t, me.ID, d))
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(me.ID), sent.MeetingID, sheets.Opening{})
		require.NoError(t, err)
		start, _ := when.ParseLocal(d.Start)
		s.Draft.Start, s.Draft.End = start.Add(30*time.Minute).String(), start.Add(90*time.Minute).String()
		s, out, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(me.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		assert.NotZero(t, out.Hold.Until)
		was := spanOf(t, d)
		assert.Equal(t, when.Spans{{Start: was.End, End: was.End.Add(30 * time.Minute)}}, heldBy(t, s.ID))
		send(t, me.ID, s)
	})
}

// TestOneHoldOf64: at the same moment 64 people choose one room; one holds it, all others
// are told who.
func TestOneHoldOf64(t *testing.T) {
	const people = 64
	var all []schedule.Person
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
		found, err := tx.SearchDirectory(t.Context(), uuid.Nil, "marrowby", schedule.Page{Most: people})
		for _, e := range found {
			if !e.Outside {
				all = append(all, schedule.Person{ID: e.ID, Name: e.Name})
			}
		}
		return err
	}))
	bay := room(t, "Lens Room")
	for round := range rounds(4) {
		d := draft(inRoom(bay.ID))
		start := when.Local{Day: when.DayOf(2028, 6, 1) + when.Day(round/8), Clock: when.ClockOf(8+round%8, 0)}
		d.Start, d.End = start.String(), start.Add(time.Hour).String()
		var ids []uuid.UUID
		var owners []schedule.Person
		for i := range people {
			p := all[i%len(all)]
			s, err := service().Sheets.OpenSheet(t.Context(), schedule.Self(p.ID), "", "")
			require.NoError(t, err)
			ids, owners = append(ids, s.ID), append(owners, p)
		}
		holds := make([]sheets.Hold, people)
		var deeds []func() error
		for i := range people {
			deeds = append(deeds, func() error {
				_, out, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(owners[i].ID), ids[i], 1, d, "")
				holds[i] = out.Hold
				return err
			})
		}
		for _, err := range atOnce(deeds...) {
			require.NoError(t, err)
		}
		holder := ""
		for i, h := range holds {
			if !h.Until.IsZero() && len(heldBy(t, ids[i])) > 0 {
				require.Empty(t, holder, "one holds it")
				holder = owners[i].Name
			}
		}
		require.NotEmpty(t, holder)
		for i, h := range holds {
			if owners[i].Name != holder {
				require.Contains(t, words.English(h.What), "held by "+holder, fmt.Sprint(round, i))
			}
		}
		for i := range people {
			require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(owners[i].ID), ids[i]))
		}
	}
}
