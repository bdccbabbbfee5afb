package meeting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

func changed(t *testing.T, m meeting.Meeting, at when.Day, to string, change func(*meeting.Draft)) meeting.Meeting {
	t.Helper()
	d := meeting.DraftOf(m, at)
	d.Scope.To = to
	change(&d)
	s := around("2026-11-24T10:12")
	s.Before = &m
	out, faults := d.Change(s, identify)
	require.Empty(t, faults)
	require.Nil(t, out.Next)
	return out.Meeting
}

// TestCallingOffAddsNothing: an added date does not make a series longer.
func TestCallingOffAddsNothing(t *testing.T) {
	m := aSeries(t, func(d *meeting.Draft) {
		d.Repeat.Rule, d.Repeat.Ends, d.Repeat.Count = "every Thursday", "after", 3
		d.Repeat.Added = []string{"2027-01-20", "2027-02-04"}
	})
	require.Equal(t, "3 Dec, 10 Dec, 17 Dec, 20 Jan, 4 Feb", shown(m))
	rest, ok := m.Without(series.Range{From: when.DayOf(2027, 2, 4)})
	require.True(t, ok)
	assert.Equal(t, "3 Dec, 10 Dec, 17 Dec, 20 Jan", shown(rest))
	// Somebody invited up to an added date has as many in their calendar.
	p := m.Participants[0]
	p.Dates = []series.Range{{From: series.Ever, To: when.DayOf(2027, 1, 20)}}
	w, ok := m.Plan().Written(p.On, when.DayOf(2027, 1, 20))
	require.True(t, ok)
	assert.Len(t, w.RDates, 1)
	assert.Equal(t, "20261217T093000Z", w.Rule.Until.String())
}

// TestOneDateMovedInAnotherZone: what is typed in another zone is meant there.
func TestOneDateMovedInAnotherZone(t *testing.T) {
	jan14 := when.DayOf(2027, 1, 14)
	m := aSeries(t, nil)
	after := changed(t, m, jan14, jan14.String(), func(d *meeting.Draft) {
		d.Zone, d.Start, d.End = "America/New_York", "2027-01-14T15:00", "2027-01-14T16:00"
	})
	assert.Equal(t, "Europe/Lisbon", after.Zone)
	assert.Equal(t, "3 Dec, 17 Dec, 31 Dec, 14 Jan 20:00, 28 Jan, 11 Feb, 25 Feb", shown(after))
	after = changed(t, m, jan14, jan14.String(), func(d *meeting.Draft) { d.Zone = "America/New_York" })
	assert.Equal(t, "3 Dec, 17 Dec, 31 Dec, 14 Jan 14:30, 28 Jan, 11 Feb, 25 Feb", shown(after))
	after = changed(t, m, jan14, jan14.String(), func(d *meeting.Draft) { // midnight there is another day here
		d.Zone, d.Start, d.End = "America/New_York", "2027-01-13T22:00", "2027-01-13T23:00"
	})
	assert.Equal(t, "3 Dec, 17 Dec, 31 Dec, 14 Jan 3:00, 28 Jan, 11 Feb, 25 Feb", shown(after))
}

// TestAChangeOfZoneIsToldToWhoKnowsOneDate: sameness is of instants.
func TestAChangeOfZoneIsToldToWhoKnowsOneDate(t *testing.T) {
	m := aSeries(t, func(d *meeting.Draft) {
		d.People[1].Dates = []meeting.DraftRange{{From: "2027-01-14", To: "2027-01-14"}}
	})
	after := changed(t, m, m.Start.Day, "", func(d *meeting.Draft) { d.Zone = "America/New_York" })
	assert.Equal(t, "s.onari update, tome.akande update 14Jan", told(dueTo(&m, after)))
}

// TestAsAllAndNoneAreDifferent: on one date no room, the room of all, and an empty
// text are each what they say, and can be undone.
func TestAsAllAndNoneAreDifferent(t *testing.T) {
	jan14 := when.DayOf(2027, 1, 14)
	on := func(m meeting.Meeting) meeting.Date {
		d, is := m.Date(jan14)
		require.True(t, is)
		return d
	}
	one := func(m meeting.Meeting, change func(*meeting.Draft)) meeting.Meeting {
		after := changed(t, m, jan14, jan14.String(), change)
		assert.NotEmpty(t, dueTo(&m, after), "they hear of it")
		return after
	}
	onDate := func(id string, none bool) func(*meeting.Draft) {
		return func(d *meeting.Draft) {
			d.Dates = []meeting.DraftDate{{On: jan14.String(), RoomID: id, NoRoom: none}}
		}
	}
	room := func(id string) func(*meeting.Draft) {
		return func(d *meeting.Draft) { d.RoomID, d.NoRoom = id, id == "" }
	}
	inRoom := aSeries(t, func(d *meeting.Draft) { d.Text = "Bring the list." })
	none := one(inRoom, room(""))
	assert.Nil(t, on(none).Room)
	assert.Equal(t, "r1", on(one(none, onDate("", false))).Room.ID, "undone")
	loft := one(inRoom, room("r2"))
	assert.Nil(t, on(one(loft, room(""))).Room, "none in place of another one")
	assert.Nil(t, on(one(loft, onDate("", true))).Room, "none in place of another one, said of the date")
	roomless := aSeries(t, room(""))
	loft = one(roomless, room("r2"))
	assert.Nil(t, on(one(loft, onDate("", false))).Room, "as all, which is none")
	quiet := one(inRoom, func(d *meeting.Draft) { d.Text = "" })
	assert.Empty(t, on(quiet).Text)
	assert.Equal(t, "Bring the list.", on(one(quiet, func(d *meeting.Draft) { d.Text = "Bring the list." })).Text)
	// A change to all that come leaves what the sheet only shows of one date.
	all := changed(t, none, jan14, "", func(d *meeting.Draft) { d.RemindBefore = 30 })
	assert.Equal(t, "3 Dec, 17 Dec, 31 Dec, 14 Jan no room, 28 Jan, 11 Feb, 25 Feb", shown(all))
}

// TestWhoLosesTheirOnlyDate hears of that date.
func TestWhoLosesTheirOnlyDate(t *testing.T) {
	jan14 := when.DayOf(2027, 1, 14)
	m := aSeries(t, func(d *meeting.Draft) {
		d.People[1].Dates = []meeting.DraftRange{{From: "2027-01-14", To: "2027-01-14"}}
	})
	after := changed(t, m, m.Start.Day, "", func(d *meeting.Draft) { d.Dates = []meeting.DraftDate{{On: jan14.String(), Out: true}} })
	due := dueTo(&m, after)
	assert.Equal(t, "s.onari calloff 14Jan, tome.akande calloff 14Jan", told(due))
	assert.Equal(t, []when.Instant{m.Plan().Regular(jan14).Span.Start}, due[1].IDs)
}

// TestWhoComesBackRisesAboveTheCancellation: RFC 5546, 2.1.5: an older SEQUENCE would be
// ignored.
func TestWhoComesBackRisesAboveTheCancellation(t *testing.T) {
	m := aSeries(t, nil)
	step := func(before meeting.Meeting, change func(*meeting.Draft)) meeting.Meeting {
		after := changed(t, before, before.Start.Day, "", change)
		after.Sequence = meeting.Compare(before, after).Sequence(before.Sequence)
		after, _ = meeting.Announce(&before, after)
		return after
	}
	without := step(m, func(d *meeting.Draft) { d.People = d.People[1:] })
	back := step(without, func(d *meeting.Draft) { d.People = append(d.People, fortnightly(nil).People[0]) })
	assert.Greater(t, back.Sequence, without.Sequence)
	assert.Empty(t, back.TakenOff)
}
