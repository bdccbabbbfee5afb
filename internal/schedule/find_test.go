package schedule_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
)

func TestMeetingsAreFoundByWhoMayOpenThem(t *testing.T) {
	ilse, rui, tome := who(t, "ilse.marrant@marrowby.example"), who(t, "rui.calado@marrowby.example"), who(t, "tome.akande@marrowby.example")
	find := func(me uuid.UUID, text string) (ids []uuid.UUID) {
		t.Helper()
		l, err := service().Meetings.Find(t.Context(), schedule.Self(me), text, schedule.Page{Most: 21})
		require.NoError(t, err)
		for _, f := range l.Items {
			ids = append(ids, f.ID)
		}
		return ids
	}
	loft := room(t, "Loft Studio")
	once := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Title, d.Text, d.Start, d.End = "Überprüfung der Ziergläser", "Bring the quenelle tongs", "2027-04-13T09:30", "2027-04-13T10:30"
		d.People = []meeting.DraftPerson{{Email: rui.Email, Needed: true}, {Name: "Hanae Quist", Email: "h.quist@kirisame.example", Needed: true}}
		d.RoomID, d.NoRoom = loft.ID.String(), false
	}))).MeetingID
	series := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Title, d.Start, d.End = "Quixotic glass", "2027-04-06T16:00", "2027-04-06T16:30"
		d.People = []meeting.DraftPerson{{Email: rui.Email, Needed: true}, {Email: tome.Email, Needed: true, Dates: []meeting.DraftRange{{From: "2027-04-20", To: "2027-04-20"}}},
			{Name: "Vilja Quist", Email: "v.quist@kirisame.example", Needed: true, Dates: []meeting.DraftRange{{From: "2027-04-27", To: "2027-04-27"}}}}
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=TU", Ends: "after", Count: 8}
	}))).MeetingID

	for _, c := range []struct {
		name string
		me   uuid.UUID
		text string
		want []uuid.UUID
	}{
		{"by the beginning of a word", ilse.ID, "ziergl", []uuid.UUID{once}},
		{"without accents", rui.ID, "uberpruf", []uuid.UUID{once}},
		{"by the text", rui.ID, "quenelle tongs", []uuid.UUID{once}},
		{"by a person", ilse.ID, "hanae", []uuid.UUID{once}},
		{"by an address", ilse.ID, "h.quist@kirisame.example", []uuid.UUID{once}},
		{"by word and room", ilse.ID, "ziergl loft", []uuid.UUID{once}},
		{"the one whose date is sooner first", ilse.ID, "quist", []uuid.UUID{series, once}},
		{"in a month", ilse.ID, "quist may 2027", []uuid.UUID{series}},
		{"on a day", ilse.ID, "13 apr 2027 quist", []uuid.UUID{once, series}},
		{"not on another day", ilse.ID, "14 apr 2027 quist", nil},
		{"all words count", ilse.ID, "quixotic ziergl", nil},
		{"somebody not invited", tome.ID, "ziergl", nil},
		{"who is on one date finds it", tome.ID, "quixotic", []uuid.UUID{series}},
		{"but not by who is on another", tome.ID, "vilja", nil},
		{"signs of the query language", ilse.ID, `'quixotic' & !ziergl:* \`, nil},
		{"nothing but signs", ilse.ID, "&|!():*", nil},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, find(c.me, c.text)) })
	}
	l, err := service().Meetings.Find(t.Context(), schedule.Self(tome.ID), "quixotic", schedule.Page{Most: 5})
	require.NoError(t, err)
	assert.Equal(t, when.DayOf(2027, 4, 20), l.Items[0].Date.On, "the date that is his")
	l, err = service().Meetings.Find(t.Context(), schedule.Self(ilse.ID), "mar 2027", schedule.Page{Most: 5})
	require.NoError(t, err)
	assert.Equal(t, when.DayOf(2027, 3, 1), l.Day)
	assert.Empty(t, l.Items)

	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), once, look(t, ilse.ID, once).Version, nil, ""))
	l, err = service().Meetings.Find(t.Context(), schedule.Self(rui.ID), "ziergl apr 2027", schedule.Page{Most: 5})
	require.NoError(t, err)
	require.Len(t, l.Items, 1, "called off, it is still found")
	assert.True(t, l.Items[0].CalledOff)
	change(t, ilse.ID, series, func(d *meeting.Draft) {
		d.Scope, d.People = &meeting.DraftScope{At: "2027-04-06", From: "2027-04-06"}, d.People[1:]
	})
	assert.Empty(t, find(rui.ID, "quixotic"), "who was taken off")

	require.NoError(t, running.Program.Store.InTx(t.Context(), func(tx *postgres.Tx) error { return tx.DeleteFound(t.Context(), series) }))
	assert.Empty(t, find(ilse.ID, "quixotic"))
	require.NoError(t, service().Meetings.FillFound(t.Context()), "from before there was a search")
	assert.NotEmpty(t, find(ilse.ID, "quixotic"))

	counts, err := service().Availability.Month(t.Context(), schedule.Self(ilse.ID), when.DayOf(2027, 4, 1), 30)
	require.NoError(t, err)
	assert.Equal(t, 1, counts[when.DayOf(2027, 4, 20)])
	assert.Zero(t, counts[when.DayOf(2027, 4, 18)])
}
