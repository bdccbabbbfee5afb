package schedule_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

// TestOpeningsOfASeries: all dates are weighed at once, with the rooms and their rules.
func TestOpeningsOfASeries(t *testing.T) {
	beatriz, gil := who(t, "beatriz.lomba@marrowby.example"), who(t, "gil.tavares@marrowby.example")
	bench := room(t, "Crate Bench")
	first := when.DayOf(2028, 7, 4) // a Tuesday, where nobody else has anything
	at := func(day when.Day, clock string, people ...meeting.DraftPerson) func(*meeting.Draft) {
		return func(d *meeting.Draft) {
			d.Start, d.End, d.People = day.String()+"T"+clock, day.String()+"T"+clock[:2]+":45", people
		}
	}
	// He is busy on the second Tuesday all morning, and on all Wednesdays.
	send(t, gil.ID, open(t, gil.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End, d.People = (first+7).String()+"T08:00", (first+7).String()+"T12:00", nil
	})))
	send(t, gil.ID, open(t, gil.ID, draft(repeated("every Wednesday, 6 times", func(d *meeting.Draft) {
		d.Start, d.End, d.People, d.LongMeant = (first+1).String()+"T08:00", (first+1).String()+"T19:00", nil, 660
	}))))
	needed := meeting.DraftPerson{Email: gil.Email, PersonID: gil.ID.String(), Needed: true}
	s := open(t, beatriz.ID, draft(repeated("every Tuesday, 6 times", func(d *meeting.Draft) {
		at(first, "10:00", needed)(d)
		inRoom(bench.ID)(d)
		d.People = []meeting.DraftPerson{needed}
	})))
	ask := sheets.SeriesQuestion{SheetID: s.ID, From: when.ClockOf(8, 0), To: when.ClockOf(19, 0)}
	a, err := service().Sheets.SeriesOpenings(t.Context(), schedule.Self(beatriz.ID), ask)
	require.NoError(t, err)
	require.Len(t, a.Openings, 3)
	best := a.Openings[0]
	assert.Zero(t, best.Fails)
	assert.Len(t, best.Dates, 6)
	head, lines := words.SeriesOpening(tongue.Tongue{}, best, a.People, a.Rooms[best.One].Name, true, a.Weekday, a.Zone)
	assert.Equal(t, "Mondays, 9:00 – 9:45", head, "the earliest day of the week that suits everybody")
	assert.Equal(t, []string{"all 6 dates", "Crate Bench on all"}, lines)
	for _, o := range a.Openings {
		for _, date := range o.Dates {
			assert.NotEqual(t, time.Wednesday, a.Zone.LocalAt(date.Start).Day.Weekday())
		}
	}
	t.Run("what cannot be asked", func(t *testing.T) {
		ask := ask
		ask.From, ask.To = 600, 600
		_, err := service().Sheets.SeriesOpenings(t.Context(), schedule.Self(beatriz.ID), ask)
		var invalid *schedule.InvalidError
		require.ErrorAs(t, err, &invalid)
		ask.From, ask.To = 600, 615 // shorter than the meeting
		a, err := service().Sheets.SeriesOpenings(t.Context(), schedule.Self(beatriz.ID), ask)
		require.NoError(t, err)
		assert.Empty(t, a.Openings)
		once := open(t, beatriz.ID, draft(nil))
		ask = sheets.SeriesQuestion{SheetID: once.ID, From: 480, To: 1140}
		a, err = service().Sheets.SeriesOpenings(t.Context(), schedule.Self(beatriz.ID), ask)
		require.NoError(t, err)
		assert.Empty(t, a.Openings)
		_, err = service().Sheets.SeriesOpenings(t.Context(), schedule.Self(gil.ID), ask)
		require.ErrorIs(t, err, schedule.ErrNotFound)
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(beatriz.ID), once.ID))
	})
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(beatriz.ID), s.ID))
}
