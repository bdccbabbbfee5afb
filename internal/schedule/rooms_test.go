package schedule_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
)

// TestRoomsOfADay: who has a room and what for, said to whom it may be said.
func TestRoomsOfADay(t *testing.T) {
	ilse, rui, tome := who(t, "ilse.marrant@marrowby.example"), who(t, "rui.calado@marrowby.example"), who(t, "tome.akande@marrowby.example")
	bay := room(t, "Crate Bench")
	book := func(start, end string, private bool) {
		s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
			d.Title, d.Start, d.End = "Crates of loan 55", "2027-03-02T"+start, "2027-03-02T"+end
			d.RoomID, d.NoRoom, d.Private = bay.ID.String(), false, private
			d.People = []meeting.DraftPerson{{Email: rui.Email, Needed: true}}
		}))
		send(t, ilse.ID, s)
	}
	book("08:00", "09:15", false)
	book("10:00", "11:30", true)
	ask := availability.RoomsQuestion{Day: dayOf(t, "2027-03-02T00:00")}
	find := func(me schedule.Person, q availability.RoomsQuestion) (availability.RoomsAnswer, *availability.RoomToday) {
		t.Helper()
		a, err := service().Availability.RoomsDay(t.Context(), schedule.Self(me.ID), q)
		require.NoError(t, err)
		for i := range a.Rooms {
			if a.Rooms[i].ID == bay.ID {
				return a, &a.Rooms[i]
			}
		}
		return a, nil
	}

	all, stranger := find(tome, ask)
	require.Equal(t, all.All, len(all.Rooms))
	require.Len(t, stranger.Taken, 2)
	told, hidden := stranger.Taken[0], stranger.Taken[1]
	assert.Equal(t, "Crates of loan 55", told.Title)
	assert.Equal(t, ilse.Name, told.By)
	assert.False(t, told.Mine)
	assert.True(t, hidden.Private)
	assert.Empty(t, hidden.Title+hidden.By, "what is private is not said")
	assert.Equal(t, uuid.Nil, hidden.MeetingID)
	assert.False(t, all.Today)
	assert.Equal(t, "2027-03-02T11:30", ilse.Hours.Zone.LocalAt(stranger.Next.Start).String(), "the first whole hour in which it is clear")
	for _, me := range []schedule.Person{ilse, rui} {
		_, theirs := find(me, ask)
		assert.True(t, theirs.Taken[1].Mine, me.Name)
		assert.Equal(t, "Crates of loan 55", theirs.Taken[1].Title)
	}

	// Wishes: what does not fit is left out, what it is counted among is not.
	short := ask
	short.ClearFor = 30 * time.Minute
	_, r := find(tome, short)
	require.NotNil(t, r)
	long := ask
	long.ClearFor = 7 * time.Hour
	_, r = find(tome, long)
	assert.Nil(t, r, "11:30 to 18:00 is shorter")
	crowd := ask
	crowd.Seats = bay.Seats + 1
	few, r := find(tome, crowd)
	assert.Nil(t, r)
	assert.Equal(t, all.All, few.All)
	odd := ask
	odd.Equipment = []string{"a thing that no room has"}
	none, _ := find(tome, odd)
	assert.Empty(t, none.Rooms)
	elsewhere := ask
	elsewhere.SiteID = uuid.New()
	none, _ = find(tome, elsewhere)
	assert.Empty(t, none.Rooms)
}
