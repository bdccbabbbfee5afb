package schedule_test

import (
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
	"jembro/internal/standin"
)

// undoFor has what is sent wait for so long, until the test is over.
func undoFor(t *testing.T, d time.Duration) {
	service().Sheets.Undo = d
	t.Cleanup(func() { service().Sheets.Undo = 0 })
}

func TestASheetThatWaitsToGoOut(t *testing.T) {
	undoFor(t, time.Hour)
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Title, d.Start, d.End = "Waits", "2027-01-18T09:30", "2027-01-18T10:30"
		d.RoomID, d.NoRoom = room(t, "Map Room").ID.String(), false
		d.People = []meeting.DraftPerson{{Email: "waits@njoro.example", Needed: true}}
	}))
	v, err := service().Sheets.SendLater(t.Context(), me, s.ID, s.Version, "")
	require.NoError(t, err)
	require.NotNil(t, v.SendAt)
	assert.Equal(t, time.Hour, v.SendAt.Sub(service().Now()).Round(time.Minute))
	view, err := service().Sheets.Sheet(t.Context(), me, s.ID, "")
	require.NoError(t, err)
	assert.True(t, view.HeldUntil.After(*v.SendAt), "the room is held until it has gone out")

	var invalid *schedule.InvalidError
	_, _, err = service().Sheets.SaveSheet(t.Context(), me, s.ID, v.Version, s.Draft, "")
	require.ErrorAs(t, err, &invalid, "it changes no more")
	require.NoError(t, service().Sheets.SendWaiting(t.Context(), s.ID), "before its moment nothing is sent")
	assert.Empty(t, running.World.Post.Box("waits@njoro.example"))
	_, err = service().Sheets.TakeBack(t.Context(), schedule.Self(who(t, "rui.calado@marrowby.example").ID), s.ID)
	require.ErrorIs(t, err, schedule.ErrNotFound)

	back, err := service().Sheets.TakeBack(t.Context(), me, s.ID)
	require.NoError(t, err)
	assert.Nil(t, back.SendAt)
	view, err = service().Sheets.Sheet(t.Context(), me, s.ID, "")
	require.NoError(t, err)
	assert.True(t, view.HeldUntil.Before(service().Now().Add(time.Hour)), "for minutes again")
	back.Draft.Title = "Goes on"
	back, _, err = service().Sheets.SaveSheet(t.Context(), me, s.ID, back.Version, back.Draft, "")
	require.NoError(t, err)

	// Until a moment that its owner gives, by their clocks.
	for text, wrong := range map[string]string{"today 8:00": "over", "18 jan 2027 9:30": "30 days", "28 mar 2027 1:30": "set forward", "friday": "is no time", "whenever": "whenever"} {
		_, err = service().Sheets.SendLater(t.Context(), me, s.ID, back.Version, text)
		require.ErrorAs(t, err, &invalid, text)
		assert.Contains(t, words.English(invalid.Faults[0].What), wrong)
	}
	v, err = service().Sheets.SendLater(t.Context(), me, s.ID, back.Version, "1 dec 7:00")
	require.NoError(t, err)
	assert.Equal(t, "2026-12-01T07:00:00Z", v.SendAt.UTC().Format(time.RFC3339))
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), me, s.ID))
	require.NoError(t, service().Sheets.SendWaiting(t.Context(), s.ID), "thrown away is not sent")
}

// TestALinkThatFollowsComesOntoWhatWaits: it is made once, and goes out with it.
func TestALinkThatFollowsComesOntoWhatWaits(t *testing.T) {
	undoFor(t, time.Hour)
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	t.Cleanup(func() { running.World.Switch("tamberline", standin.Working) })
	running.World.Switch("tamberline", standin.Failing)
	s := open(t, ilse.ID, callDraft(outsiders("link-waits@veerhaven.example")))
	_, err := service().Links.Choose(t.Context(), me, s.ID, tamberline)
	require.ErrorIs(t, err, schedule.ErrUnreachable)
	s, _, err = sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	waits, err := service().Sheets.SendLater(t.Context(), me, s.ID, s.Version, "")
	require.NoError(t, err)
	running.World.Switch("tamberline", standin.Working)
	eventually(t, "the link is on it", func() bool {
		v, err := service().Sheets.Sheet(t.Context(), me, s.ID, "")
		return err == nil && v.Card.Made() && v.SendAt != nil
	})
	_, err = service().Sheets.Send(t.Context(), me, s.ID, waits.Version, sheets.LaterKey(s.ID, waits.Version))
	require.NoError(t, err)
	assert.Contains(t, box(t, "link-waits@veerhaven.example", 1)[0].Text, "By phone: ")
}

// TestWhatWaitsGoesOutOnce: by its window, by the queue, and by both at once.
func TestWhatWaitsGoesOutOnce(t *testing.T) {
	undoFor(t, time.Second)
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	waits := func(email string) schedule.Sheet {
		s := open(t, ilse.ID, draft(outsiders(email)))
		s, err := service().Sheets.SendLater(t.Context(), me, s.ID, s.Version, "")
		require.NoError(t, err)
		return s
	}
	waits("byqueue@njoro.example")
	s := waits("both@njoro.example")
	time.Sleep(1100 * time.Millisecond)
	var all sync.WaitGroup
	var sent [2]sheets.Sent
	var errs [4]error
	for i := range 4 {
		all.Go(func() {
			if i < 2 {
				sent[i], errs[i] = service().Sheets.Send(t.Context(), me, s.ID, s.Version, sheets.LaterKey(s.ID, s.Version))
				return
			}
			errs[i] = service().Sheets.SendWaiting(t.Context(), s.ID)
		})
	}
	all.Wait()
	for _, err := range errs {
		require.NoError(t, err)
	}
	assert.Equal(t, sent[0].MeetingID, sent[1].MeetingID)
	box(t, "both@njoro.example", 1)
	box(t, "byqueue@njoro.example", 1) // nobody's window was open
	time.Sleep(500 * time.Millisecond)
	assert.Len(t, running.World.Post.Box("both@njoro.example"), 1)
}

// TestWhatCannotGoOutIsALooseEnd: and one no more when its owner goes on with it.
func TestWhatCannotGoOutIsALooseEnd(t *testing.T) {
	undoFor(t, time.Second)
	rui := who(t, "rui.calado@marrowby.example")
	me := schedule.Self(rui.ID)
	in := func(d *meeting.Draft) {
		d.Start, d.End = "2027-01-19T09:30", "2027-01-19T10:30"
		d.RoomID, d.NoRoom = room(t, "Lens Room").ID.String(), false
	}
	s := open(t, rui.ID, draft(in))
	s, err := service().Sheets.SendLater(t.Context(), me, s.ID, s.Version, "")
	require.NoError(t, err)
	var taken *schedule.TakenError
	theirs := open(t, who(t, demo.Ilse).ID, draft(in))
	_, err = service().Sheets.SendLater(t.Context(), schedule.Self(theirs.OwnerID), theirs.ID, theirs.Version, "")
	require.ErrorAs(t, err, &taken, "what will fail does not wait")
	// Its hold is lost, and somebody else takes the room.
	_, err = running.Program.Pool.Exec(t.Context(), "DELETE FROM booking WHERE sheet_id = $1", s.ID)
	require.NoError(t, err)
	ilse := who(t, demo.Ilse)
	send(t, ilse.ID, open(t, ilse.ID, draft(in)))
	time.Sleep(1100 * time.Millisecond)
	require.NoError(t, service().Sheets.SendWaiting(t.Context(), s.ID))
	found := func() []loose.End {
		today, err := service().Today.Today(t.Context(), me)
		require.NoError(t, err)
		var out []loose.End
		for _, e := range today.Ends {
			if e.Sheet == s.ID.String() {
				out = append(out, e.End)
			}
		}
		return out
	}
	ends := found()
	require.Len(t, ends, 1)
	assert.Equal(t, loose.Unsent, ends[0].Kind)
	assert.Contains(t, words.English(ends[0].Why), "Lens Room")
	all, err := service().Sheets.Sheets(t.Context(), me, schedule.Page{Most: 50})
	require.NoError(t, err)
	at := slices.IndexFunc(all, func(x schedule.Sheet) bool { return x.ID == s.ID })
	require.GreaterOrEqual(t, at, 0)
	assert.Nil(t, all[at].SendAt)
	assert.False(t, all[at].SendFault.Empty())
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), me, s.ID))
	assert.Empty(t, found())
}
