package schedule_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
)

func TestOpeningsForEverybodyAndARoom(t *testing.T) {
	ilse, rui, tome := who(t, "ilse.marrant@marrowby.example"), who(t, "rui.calado@marrowby.example"), who(t, "tome.akande@marrowby.example")
	zone := ilse.Hours.Zone
	first := when.DayOf(2026, 11, 24)
	ask := availability.OpeningsQuestion{First: first, Days: 14, Zone: zone, Length: time.Hour, From: when.ClockOf(8, 0), To: when.ClockOf(19, 0), WantRoom: true,
		People: []meeting.DraftPerson{{Email: rui.Email, Needed: true}, {Email: tome.Email, Needed: true}, {Email: "s.onari@kirisame.example", Needed: true}}}
	find := func(me uuid.UUID, q availability.OpeningsQuestion) availability.OpeningsAnswer {
		t.Helper()
		a, err := service().Availability.Openings(t.Context(), schedule.Self(me), q)
		require.NoError(t, err)
		return a
	}
	a := find(ilse.ID, ask)
	require.Len(t, a.Openings, 5)
	require.Len(t, a.Good, 14)
	for _, o := range a.Openings {
		assert.Greater(t, o.Start, a.Now, "none is in the past")
		start := zone.LocalAt(o.Start)
		assert.True(t, start.Clock >= when.ClockOf(8, 0) && zone.LocalAt(o.End).Clock <= when.ClockOf(19, 0), "within the hours asked for")
		for i, p := range a.People {
			assert.False(t, p.Needed && len(o.Missing) == 0 && p.Busy.Overlaps(o.Span), "%s is busy at %s", p.Name, start)
			_ = i
		}
		day, err := service().Availability.Day(t.Context(), schedule.Self(ilse.ID), availability.DayQuestion{Day: start.Day, Zone: zone, Chosen: o.Span, People: ask.People, WantRoom: true, RoomID: a.Rooms[o.Room].ID})
		require.NoError(t, err)
		assert.True(t, day.Rooms[0].Clear, "the room is clear, as the day says")
	}

	// A meeting at the best time takes it away, but not from the sheet that changes it.
	best := a.Openings[0]
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = zone.LocalAt(best.Start).String(), zone.LocalAt(best.End).String()
		d.People = []meeting.DraftPerson{{Email: rui.Email, Needed: true}}
	}))
	id := send(t, ilse.ID, s).MeetingID
	assert.NotEqual(t, best.Start, find(ilse.ID, ask).Openings[0].Start)
	ask.But = id
	assert.Equal(t, best.Start, find(ilse.ID, ask).Openings[0].Start)
	theirs := ask
	theirs.People = []meeting.DraftPerson{{Email: ilse.Email, Needed: true}, {Email: tome.Email, Needed: true}, {Email: "s.onari@kirisame.example", Needed: true}}
	assert.NotEqual(t, best.Start, find(rui.ID, theirs).Openings[0].Start, "whose meeting it is not cannot leave it out")
	ask.But = uuid.Nil

	for _, c := range []struct {
		name   string
		change func(*availability.OpeningsQuestion)
		field  string
	}{
		{"ten years", func(q *availability.OpeningsQuestion) { q.Days = 3650 }, "days"},
		{"no day", func(q *availability.OpeningsQuestion) { q.Days = 0 }, "days"},
		{"longer than a day", func(q *availability.OpeningsQuestion) { q.Length = 25 * time.Hour }, "minutes"},
		{"no length", func(q *availability.OpeningsQuestion) { q.Length = 0 }, "minutes"},
		{"hours the wrong way round", func(q *availability.OpeningsQuestion) { q.From, q.To = q.To, q.From }, "from"},
	} {
		t.Run(c.name, func(t *testing.T) {
			q := ask
			c.change(&q)
			_, err := service().Availability.Openings(t.Context(), schedule.Self(ilse.ID), q)
			var invalid *schedule.InvalidError
			require.ErrorAs(t, err, &invalid)
			assert.Equal(t, c.field, invalid.Faults[0].Field)
		})
	}
	past := ask
	past.First, past.Days = first-30, 7
	assert.Empty(t, find(ilse.ID, past).Openings, "in the past there is none")
	nobody := ask
	nobody.People, nobody.WantRoom = nil, false
	assert.Len(t, find(ilse.ID, nobody).Openings, 5)
	crowd := ask
	for i := range 300 {
		crowd.People = append(crowd.People, meeting.DraftPerson{Email: fmt.Sprintf("many%d@njoro.example", i), Needed: true})
	}
	many := find(ilse.ID, crowd)
	require.NotEmpty(t, many.Openings)
	assert.True(t, many.Openings[0].NoRoom, "no room holds three hundred")
}
