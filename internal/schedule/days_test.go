package schedule_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

// TestWholeDays: a meeting over days takes the days of each who comes, on their own clock,
// and is in their weeks; whether it makes busy is a choice.
func TestWholeDays(t *testing.T) {
	ilse, tomas := who(t, demo.Ilse), who(t, "tomas.furtado@marrowby.example") // Lisbon and the Azores
	require.NotEqual(t, ilse.Hours.Zone, tomas.Hours.Zone)
	lens := room(t, "Lens Room") // in the Azores
	d := draft(func(d *meeting.Draft) {
		inRoom(lens.ID)(d)
		d.Start, d.End, d.AllDay, d.Title = "2029-03-24T00:00", "2029-03-27T00:00", true, "Stocktaking"
		d.People = []meeting.DraftPerson{{Email: tomas.Email, PersonID: tomas.ID.String(), Needed: true}, {Email: "s.onari@kirisame.example", Needed: true}}
	})
	id := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
	first, last := when.DayOf(2029, 3, 24), when.DayOf(2029, 3, 26) // clocks change on the 25th
	in := func(zone when.Zone) when.Span {
		return when.Span{Start: when.DaySpan(first, zone).Start, End: when.DaySpan(last, zone).End}
	}
	busy := func(p schedule.Person) when.Spans {
		var spans []when.Span
		require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
			all, err := tx.BusyTimes(t.Context(), ids(p), when.Spans{{Start: in(p.Hours.Zone).Start.Add(-86400e9), End: in(p.Hours.Zone).End.Add(86400e9)}}, schedule.View{})
			for _, b := range all[p.ID] {
				spans = append(spans, b.Span)
			}
			return err
		}))
		return when.Union(spans...)
	}
	assert.Equal(t, when.Spans{in(ilse.Hours.Zone)}, busy(ilse))
	assert.Equal(t, when.Spans{in(tomas.Hours.Zone)}, busy(tomas))
	assert.Equal(t, []when.Span{in(lens.Zone)}, bookedSpans(t, lens, first-1, 6))
	for _, day := range []when.Day{first, last} {
		w, err := service().Availability.Week(t.Context(), schedule.Self(tomas.ID), day, 1)
		require.NoError(t, err)
		require.Len(t, w.Meetings, 1, day)
		a, b := w.Meetings[0].Content.Days(w.Meetings[0].Span)
		assert.Equal(t, []when.Day{first, last}, []when.Day{a, b})
	}
	n := newsAbout(t, tomas.ID, id)[0]
	assert.Equal(t, "Sat 24 Mar 2029 – Mon 26 Mar 2029, 3 days", words.NewsLines(tongue.Tongue{}, meeting.Kind(n.Kind), n.News.News, tomas.Hours.Zone)[0].Is)

	t.Run("made free it is in the week and makes nobody busy", func(t *testing.T) {
		change(t, ilse.ID, id, func(d *meeting.Draft) { d.Free = true })
		assert.Empty(t, busy(tomas))
		w, err := service().Availability.Week(t.Context(), schedule.Self(tomas.ID), first+1, 1)
		require.NoError(t, err)
		assert.Len(t, w.Meetings, 1)
	})
	t.Run("its sheet says the same again, and a time on the clock when that is wanted", func(t *testing.T) {
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{})
		require.NoError(t, err)
		assert.Equal(t, []any{"2029-03-24T00:00", "2029-03-27T00:00", true, "Europe/Lisbon"}, []any{s.Draft.Start, s.Draft.End, s.Draft.AllDay, s.Draft.Zone})
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), s.ID))
		change(t, ilse.ID, id, func(d *meeting.Draft) {
			d.AllDay, d.Free, d.Start, d.End = false, false, "2029-03-26T09:00", "2029-03-26T10:00"
		})
		assert.Equal(t, when.Spans{spanOf(t, meeting.Draft{Start: "2029-03-26T09:00", End: "2029-03-26T10:00", Zone: "Europe/Lisbon"})}, busy(tomas))
		n := newsAbout(t, tomas.ID, id)[0]
		assert.Equal(t, "Sat 24 Mar 2029 – Mon 26 Mar 2029, 3 days", words.NewsLines(tongue.Tongue{}, meeting.Kind(n.Kind), n.News.News, ilse.Hours.Zone)[0].Was)
	})
	t.Run("a series, one date moved by days", func(t *testing.T) {
		d := draft(repeated("every Friday, 4 times", func(d *meeting.Draft) {
			d.Start, d.End, d.AllDay = "2028-10-20T00:00", "2028-10-21T00:00", true
		}))
		id := send(t, ilse.ID, open(t, ilse.ID, d)).MeetingID
		dates := written(t, id)
		require.Len(t, dates, 4)
		s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{At: dates[1].On, One: true})
		require.NoError(t, err)
		s.Draft.Start, s.Draft.End = "2028-10-30T00:00", "2028-11-01T00:00"
		s, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
		require.NoError(t, err)
		send(t, ilse.ID, s)
		moved := written(t, id)[1]
		day := when.DayOf(2028, 10, 30)
		assert.Equal(t, when.Span{Start: when.DaySpan(day, when.Zone{}).Start, End: when.DaySpan(day+1, when.Zone{}).End}, moved.Span)
		assert.Equal(t, dates[2].Span, written(t, id)[2].Span)
	})
	t.Run("what is wrong is said at its field", func(t *testing.T) {
		for _, c := range []struct{ start, end, field string }{
			{"2026-11-20T00:00", "2026-11-21T00:00", "start"}, {"2027-05-03T00:00", "2027-05-03T00:00", "lastDay"},
			{"2027-05-03T00:00", "2027-06-30T00:00", "lastDay"}, {"soon", "2027-06-30T00:00", "start"},
		} {
			s := open(t, ilse.ID, draft(func(d *meeting.Draft) { d.AllDay, d.Start, d.End = true, c.start, c.end }))
			v := view(t, ilse.ID, s.ID)
			require.NotEmpty(t, v.Faults)
			assert.Equal(t, c.field, v.Faults[0].Field)
			require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), s.ID))
		}
		today := service().Now().Format("2006-01-02")
		s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
			d.AllDay, d.Start, d.End = true, today+"T00:00", when.Local{Day: when.DayOf(service().Now().Date()) + 1}.String()
		}))
		assert.Empty(t, view(t, ilse.ID, s.ID).Faults, "today is no day that has passed")
		require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), s.ID))
	})
}

func TestLengthsAreTyped(t *testing.T) {
	ilse := who(t, demo.Ilse)
	s := open(t, ilse.ID, draft(nil))
	start, _ := when.ParseLocal(s.Draft.Start)
	for text, minutes := range map[string]int{"90": 90, "1h30": 90, "45 min": 45, "2": 120, "26 h": 26 * 60} {
		s, _ = typing(t, ilse.ID, s, "length", text, "")
		end, _ := when.ParseLocal(s.Draft.End)
		assert.Equal(t, minutes, int(end.Sub(start).Minutes()), text)
		assert.Empty(t, s.Draft.Typed)
		assert.Empty(t, view(t, ilse.ID, s.ID).Faults, "a length that was typed is meant")
	}
	s, _ = typing(t, ilse.ID, s, "length", "a while", "")
	v := view(t, ilse.ID, s.ID)
	require.NotEmpty(t, v.Faults)
	assert.Equal(t, "length: “a while” is no length. Type it like 45 min, 1h30 or 2 days.", v.Faults[0].Field+": "+words.English(v.Faults[0].What))
	s.Draft.Typed, s.Draft.AllDay = nil, true
	s.Draft.Start, s.Draft.End = "2027-05-03T00:00", "2027-05-04T00:00"
	s, _, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, s.Draft, "")
	require.NoError(t, err)
	s, _ = typing(t, ilse.ID, s, "length", "3 days", "")
	assert.Equal(t, "2027-05-06T00:00", s.Draft.End)
	s, _ = typing(t, ilse.ID, s, "day", "10 may", "")
	assert.Equal(t, []string{"2027-05-10T00:00", "2027-05-13T00:00"}, []string{s.Draft.Start, s.Draft.End}, "another day keeps the length")
	s, _ = typing(t, ilse.ID, s, "lastDay", "11 may", "")
	assert.Equal(t, "2027-05-12T00:00", s.Draft.End)
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), s.ID))
}

func ids(p schedule.Person) []uuid.UUID { return []uuid.UUID{p.ID} }

// bookedSpans is when a room is taken on some days.
func bookedSpans(t testing.TB, r schedule.Room, first when.Day, days int) (spans []when.Span) {
	t.Helper()
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
		window := when.Span{Start: when.DaySpan(first, r.Zone).Start, End: when.DaySpan(first+when.Day(days), r.Zone).End}
		all, err := tx.Bookings(t.Context(), []uuid.UUID{r.ID}, when.Spans{window}, schedule.View{Now: service().Now()})
		for _, b := range all {
			spans = append(spans, b.Span)
		}
		return err
	}))
	return spans
}
