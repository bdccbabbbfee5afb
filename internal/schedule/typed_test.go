package schedule_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/typed"
	"jembro/internal/schedule"
)

// typing saves a sheet with something typed into a field, left or still typed in.
func typing(t testing.TB, me uuid.UUID, s schedule.Sheet, field, text, still string) (schedule.Sheet, []string) {
	t.Helper()
	d := s.Draft
	d.Typed = append(d.Typed, meeting.DraftTyped{Field: field, Text: text})
	s, said, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(me), s.ID, s.Version, d, still)
	require.NoError(t, err)
	return s, said.Said
}

func emails(d meeting.Draft) (out []string) {
	for _, p := range d.People {
		out = append(out, p.Email)
	}
	return out
}

func TestAListOfPeopleIsTypedOrPasted(t *testing.T) {
	ilse := who(t, "ilse.marrant@marrowby.example")
	loft := room(t, "Loft Studio")
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) { d.People = nil }))
	list := "Rui Calado, tome; \"Holm, F.\" <freya.holm@marrowby.example>\nmailto:new@kirisame.example?subject=x, " + strings.ToUpper(loft.Email) +
		"\nilse.marrant@marrowby.example, Zz Nobody, rui.calado@marrowby.example"
	while, _ := typing(t, ilse.ID, s, meeting.FieldPeople, list, meeting.FieldPeople)
	assert.Empty(t, while.Draft.People, "while it is typed nothing happens")
	assert.Equal(t, list, while.Draft.Typed[0].Text, "and nothing is lost")

	s, saved, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), while.ID, while.Version, while.Draft, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"rui.calado@marrowby.example", "tome.akande@marrowby.example", "freya.holm@marrowby.example", "new@kirisame.example"}, emails(s.Draft))
	assert.Equal(t, "Freya Holm", s.Draft.People[2].Name, "as the directory calls her")
	assert.NotEmpty(t, s.Draft.People[1].PersonID)
	assert.Equal(t, loft.ID.String(), s.Draft.RoomID)
	assert.Equal(t, []string{"Loft Studio is taken as the room", "You organise it and need no invitation"}, saved.Said)
	assert.Equal(t, []meeting.DraftTyped{{Field: meeting.FieldUnclear, Text: "Zz Nobody"}}, s.Draft.Typed)

	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), s.ID, "")
	require.NoError(t, err)
	require.Len(t, v.Unclear, 1)
	assert.Empty(t, v.Unclear[0].Choices)
	require.Len(t, v.Faults, 1)
	assert.Equal(t, "unclear.0", v.Faults[0].Field)
	_, err = service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, uuid.NewString())
	var invalid *schedule.InvalidError
	require.ErrorAs(t, err, &invalid, "who was typed is not left out silently")

	s.Draft.Typed = nil
	s, _ = typing(t, ilse.ID, s, meeting.FieldPeople, "a", "")
	v, err = service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), s.ID, "")
	require.NoError(t, err)
	require.Len(t, v.Unclear, 1)
	assert.Len(t, v.Unclear[0].Choices, 6)
	assert.True(t, v.Unclear[0].More, "many people have an a")
}

func TestAnotherWindowDoesNotTakeOverWhatIsTyped(t *testing.T) {
	ilse := who(t, "ilse.marrant@marrowby.example")
	s := open(t, ilse.ID, draft(nil))
	start := s.Draft.Start
	save := func(window, typing string, d meeting.Draft) schedule.Sheet {
		t.Helper()
		kept, _, err := service().Sheets.SaveSheet(schedule.FromWindow(t.Context(), window), schedule.Self(ilse.ID), s.ID, s.Version, d, typing)
		require.NoError(t, err)
		return kept
	}
	d := s.Draft
	d.Typed = []meeting.DraftTyped{{Field: "start", Text: "1", Window: "one"}}
	s = save("one", "start", d) // on the way to 14:00
	d = s.Draft
	d.Text = "Written in the other window"
	s = save("other", "", d)
	assert.Equal(t, start, s.Draft.Start)
	require.Len(t, s.Draft.Typed, 1)
	d = s.Draft
	d.Typed = []meeting.DraftTyped{{Field: "start", Text: "14", Window: "one"}}
	s = save("one", "", d)
	assert.Equal(t, start[:10]+"T14:00", s.Draft.Start)
}

func TestSendTakesWhatStandsInTheFields(t *testing.T) {
	ilse := who(t, "ilse.marrant@marrowby.example")
	s := open(t, ilse.ID, draft(nil))
	day := s.Draft.Start[:10]
	s, _ = typing(t, ilse.ID, s, "start", "14h15 for 45 min", "start")
	assert.Equal(t, day+"T09:30", s.Draft.Start)
	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), s.ID, "start")
	require.NoError(t, err)
	require.Len(t, v.Readings, 1)
	assert.Contains(t, v.Readings[0].Words, "14:15 – 15:00, 45 min")
	s, _ = typing(t, ilse.ID, s, meeting.FieldPeople, "typed.last@kirisame.example", meeting.FieldPeople)
	assert.Equal(t, day+"T14:15", s.Draft.Start, "that field was left")
	sent := send(t, ilse.ID, s)
	m := look(t, ilse.ID, sent.MeetingID)
	assert.Equal(t, day+"T14:15", m.Content.Start.String())
	assert.Len(t, m.Content.Participants, 2)
	box(t, "typed.last@kirisame.example", 1)

	s = open(t, ilse.ID, draft(nil))
	s, _ = typing(t, ilse.ID, s, "end", "whenever", "")
	v, err = service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), s.ID, "end")
	require.NoError(t, err)
	assert.Empty(t, v.Faults, "nobody is told off while they type")
	v, err = service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), s.ID, "")
	require.NoError(t, err)
	require.Len(t, v.Faults, 1)
	assert.Equal(t, "end", v.Faults[0].Field)
	assert.Equal(t, "whenever", v.Draft.Typed[0].Text, "it stands there after a reload")
	_, err = service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, uuid.NewString())
	var invalid *schedule.InvalidError
	require.True(t, errors.As(err, &invalid))
}

func TestDaysAreReadInTheOrderOfTheRegion(t *testing.T) {
	ilse := who(t, "ilse.marrant@marrowby.example")
	for order, want := range map[typed.Order]string{typed.DayFirst: "2027-04-03", typed.MonthFirst: "2027-03-04"} {
		s := open(t, ilse.ID, draft(nil))
		d := s.Draft
		d.Typed = []meeting.DraftTyped{{Field: "day", Text: "3/4/2027"}}
		s, _, err := service().Sheets.SaveSheet(schedule.WritingDays(t.Context(), order), schedule.Self(ilse.ID), s.ID, s.Version, d, "")
		require.NoError(t, err)
		assert.Equal(t, want, s.Draft.Start[:10])
	}
}

func TestASheetIsKeptFromTheFirstThingWritten(t *testing.T) {
	ilse, rui := who(t, "ilse.marrant@marrowby.example"), who(t, "rui.calado@marrowby.example")
	count := func() int {
		all, err := service().Sheets.Sheets(t.Context(), schedule.Self(ilse.ID), schedule.Page{Most: 1000})
		require.NoError(t, err)
		return len(all)
	}
	before := count()
	fresh, err := service().Sheets.FreshSheet(t.Context(), schedule.Self(ilse.ID))
	require.NoError(t, err)
	assert.Equal(t, "2026-11-24T12:00", fresh.Draft.Start, "the next full hour that she works and has nothing")
	assert.Equal(t, before, count(), "a look leaves nothing")

	id := uuid.New()
	save := func(me uuid.UUID, version int, title string) (schedule.Sheet, error) {
		d := fresh.Draft
		d.Title = title
		s, _, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(me), id, version, d, "")
		return s, err
	}
	first, err := save(ilse.ID, 0, "C")
	require.NoError(t, err)
	var version *schedule.VersionError
	_, err = save(ilse.ID, 0, "Other")
	require.ErrorAs(t, err, &version, "another window has begun it")
	assert.Equal(t, "C", version.Sheet.Draft.Title)
	_, err = save(rui.ID, 0, "Rui's")
	require.ErrorIs(t, err, schedule.ErrNotFound, "an id of somebody else")
	_, err = save(ilse.ID, first.Version, "Crates")
	require.NoError(t, err)

	require.NoError(t, service().Sheets.DiscardSheets(t.Context(), schedule.Self(rui.ID), []uuid.UUID{id}), "somebody else's are not there for him")
	assert.Equal(t, before+1, count())
	require.NoError(t, service().Sheets.DiscardSheets(t.Context(), schedule.Self(ilse.ID), []uuid.UUID{id, uuid.New()}))
	assert.Equal(t, before, count())
}

// Two windows that begin one sheet at the same moment: one of them is told.
func TestASheetBegunTwiceAtOnce(t *testing.T) {
	ilse := who(t, "ilse.marrant@marrowby.example")
	fresh, err := service().Sheets.FreshSheet(t.Context(), schedule.Self(ilse.ID))
	require.NoError(t, err)
	for range 10 {
		id := uuid.New()
		results := make(chan error, 2)
		for _, title := range []string{"One", "Other"} {
			go func() {
				d := fresh.Draft
				d.Title = title
				_, _, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), id, 0, d, "")
				results <- err
			}()
		}
		var version *schedule.VersionError
		a, b := <-results, <-results
		assert.True(t, a == nil && errors.As(b, &version) || b == nil && errors.As(a, &version), "%v, %v", a, b)
	}
}
