package schedule_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/standin"
)

func TestSendSaysEveryFaultAndKeepsTheSheet(t *testing.T) {
	ilse := who(t, demo.Ilse)
	bad := draft(func(d *meeting.Draft) {
		d.Title = "\r\n"
		d.End = d.Start
		d.People = append(d.People, meeting.DraftPerson{Email: "nobody at home"}, meeting.DraftPerson{Email: "S.ONARI@kirisame.example"})
	})
	s := open(t, ilse.ID, bad)
	_, err := service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, uuid.NewString())
	var invalid *schedule.InvalidError
	require.ErrorAs(t, err, &invalid)
	var fields []string
	for _, f := range invalid.Faults {
		fields = append(fields, f.Field)
	}
	assert.Equal(t, []string{"title", "end", "people.1", "people.2"}, fields)
	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), s.ID, "")
	require.NoError(t, err)
	assert.Equal(t, bad, v.Draft, "nothing typed is lost")
	assert.Len(t, v.Faults, 4)
}

func TestSendOnceWhateverHowOftenItIsPressed(t *testing.T) {
	ilse := who(t, demo.Ilse)
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) { d.People[0].Email = "once@kirisame.example" }))
	key := uuid.NewString()
	var wait sync.WaitGroup
	ids := make([]uuid.UUID, 8)
	for i := range ids {
		wait.Go(func() {
			sent, err := service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, key)
			assert.NoError(t, err)
			ids[i] = sent.MeetingID
		})
	}
	wait.Wait()
	for _, id := range ids {
		assert.Equal(t, ids[0], id)
	}
	box(t, "once@kirisame.example", 1)
	other := open(t, ilse.ID, draft(nil))
	_, err := service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), other.ID, other.Version, key)
	assert.Error(t, err, "the key belongs to the first sheet")
}

// TestOneBookingUnderContention: of 64 senders at one slot exactly one gets the
// room, and every other is told who has it and what is clear.
func TestOneBookingUnderContention(t *testing.T) {
	const senders = 64
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	hall := room(t, "Map Room")
	for round := range rounds(5) {
		base := draft(func(d *meeting.Draft) { d.RoomID, d.NoRoom, d.People = hall.ID.String(), false, nil })
		var sheets []schedule.Sheet
		for i := range senders {
			owner := []uuid.UUID{ilse.ID, rui.ID}[i%2]
			sheets = append(sheets, open(t, owner, base))
		}
		var mu sync.Mutex
		var won []schedule.Sheet
		var lost []*schedule.TakenError
		var wait sync.WaitGroup
		for _, s := range sheets {
			wait.Go(func() {
				_, err := service().Sheets.Send(t.Context(), schedule.Self(s.OwnerID), s.ID, s.Version, uuid.NewString())
				mu.Lock()
				defer mu.Unlock()
				var taken *schedule.TakenError
				switch {
				case err == nil:
					won = append(won, s)
				case errors.As(err, &taken):
					lost = append(lost, taken)
				default:
					assert.NoError(t, err)
				}
			})
		}
		wait.Wait()
		require.Len(t, won, 1, "round %d", round)
		require.Len(t, lost, senders-1)
		winner := ilse.Name
		if won[0].OwnerID == rui.ID {
			winner = rui.Name
		}
		for _, l := range lost {
			require.Equal(t, winner, l.Taken[0].By)
			require.NotEmpty(t, l.Clear)
			for _, r := range l.Clear {
				require.NotEqual(t, hall.ID, r.ID)
			}
		}
		// Before the winner had booked it they held it.
		require.Regexp(t, `is held by `+winner+` until|by `+winner+`, for .* from 9:30 until 10:30\.`, words.English(lost[0].What(ilse.Hours.Zone)))
	}
}

func TestAPrivateMeetingTellsNobodyWhoHasTheRoom(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	private := draft(func(d *meeting.Draft) {
		d.RoomID, d.NoRoom, d.Private = room(t, "Lens Room").ID.String(), false, true
	})
	sent := send(t, ilse.ID, open(t, ilse.ID, private))
	private.Private = false
	s := open(t, rui.ID, private)
	_, err := service().Sheets.Send(t.Context(), schedule.Self(rui.ID), s.ID, s.Version, uuid.NewString())
	var taken *schedule.TakenError
	require.ErrorAs(t, err, &taken)
	assert.Empty(t, taken.Taken[0].By)
	assert.NotContains(t, words.English(taken.What(rui.Hours.Zone)), "Ilse")

	_, err = service().Meetings.Meeting(t.Context(), schedule.Self(rui.ID), sent.MeetingID)
	assert.ErrorIs(t, err, schedule.ErrNotFound, "by number")
	a, err := service().Availability.Day(t.Context(), schedule.Self(rui.ID), availability.DayQuestion{Day: dayOf(t, private.Start), Zone: rui.Hours.Zone,
		Chosen: spanOf(t, private), WantRoom: true, People: []meeting.DraftPerson{{PersonID: ilse.ID.String(), Email: ilse.Email, Needed: true}}})
	require.NoError(t, err)
	assert.NotContains(t, fmt.Sprintf("%+v", a), "Crate sizes", "busy times carry no title")
	for _, r := range a.Rooms {
		if r.Name == "Lens Room" {
			require.Len(t, r.Taken, 1)
			assert.Empty(t, r.Taken[0].By)
			assert.False(t, r.Clear)
		}
	}
	require.Len(t, a.Troubles, 1)
	assert.Equal(t, "is busy then", words.Trouble(tongue.Tongue{}, a.Troubles[0], a.People[a.Troubles[0].Person]))
}

func dayOf(t testing.TB, local string) when.Day {
	l, err := when.ParseLocal(local)
	require.NoError(t, err)
	return l.Day
}

func spanOf(t testing.TB, d meeting.Draft) when.Span {
	zone, err := when.LoadZone(d.Zone)
	require.NoError(t, err)
	at := func(text string) when.Instant {
		l, err := when.ParseLocal(text)
		require.NoError(t, err)
		return when.Zoned{Local: l, Zone: zone}.Instant()
	}
	return when.Span{Start: at(d.Start), End: at(d.End)}
}

func TestTwoWindowsOnOneSheet(t *testing.T) {
	ilse := who(t, demo.Ilse)
	first := open(t, ilse.ID, draft(nil))
	theirs := first.Draft
	theirs.Title = "Theirs"
	second, _, err := service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), first.ID, first.Version, theirs, "")
	require.NoError(t, err)
	mine := first.Draft
	mine.Title = "Mine"
	_, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), first.ID, first.Version, mine, "")
	var version *schedule.VersionError
	require.ErrorAs(t, err, &version)
	assert.Equal(t, "Theirs", version.Sheet.Draft.Title)
	assert.Equal(t, second.Version, version.Sheet.Version)
	_, err = service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), first.ID, first.Version, uuid.NewString())
	assert.ErrorAs(t, err, &version, "a sheet is sent as it was seen")
	_, _, err = sheetOf(t, who(t, "rui.calado@marrowby.example").ID, first.ID)
	assert.ErrorIs(t, err, schedule.ErrNotFound, "sheets are their owner's")
}

func sheetOf(t testing.TB, me, id uuid.UUID) (schedule.Sheet, []meeting.Fault, error) {
	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(me), id, "")
	return v.Sheet, v.Faults, err
}

func TestChangesToAMeetingThatWasChanged(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(nil)))
	stale, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	again, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	assert.Equal(t, stale.ID, again.ID, "changes that were begun go on")

	// Another instance changes the meeting meanwhile.
	require.NoError(t, running.Program.Store.InTx(t.Context(), func(tx *postgres.Tx) error {
		r, err := tx.LockMeeting(t.Context(), sent.MeetingID)
		if err != nil {
			return err
		}
		r.Version++
		r.Content.Title = "Crate sizes, final"
		return tx.SetMeeting(t.Context(), r)
	}))
	_, err = service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), stale.ID, stale.Version, uuid.NewString())
	var version *schedule.VersionError
	require.ErrorAs(t, err, &version)
	assert.Equal(t, "title", words.English(version.Facts.What()))
	assert.Equal(t, "Crate sizes, final", look(t, ilse.ID, sent.MeetingID).Content.Title, "nothing is overwritten")
	fresh, err := service().Sheets.RebaseSheet(t.Context(), schedule.Self(ilse.ID), stale.ID, stale.Version)
	require.NoError(t, err)
	assert.Equal(t, "Crate sizes, final", fresh.Draft.Title)
	send(t, ilse.ID, fresh)
}

func TestWhoHearsOfAChange(t *testing.T) {
	ilse, tome := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example")
	a, b, c := "a1@veerhaven.example", "b1@veerhaven.example", "c1@veerhaven.example"
	d := draft(func(d *meeting.Draft) {
		d.People = []meeting.DraftPerson{{Email: a, Needed: true}, {Email: b, Needed: true}, {Email: tome.Email, Needed: true}}
	})
	sent := send(t, ilse.ID, open(t, ilse.ID, d))
	require.Equal(t, 3, sent.Told)
	first := box(t, a, 1)[0]
	box(t, b, 1)
	m := look(t, ilse.ID, sent.MeetingID)
	require.Len(t, m.Invited, 3)
	assert.Equal(t, tome.ID, *m.Invited[2].PersonID, "a colleague put on by address is a colleague")
	assert.Equal(t, schedule.Inside, m.Dispatches[m.Invited[2].ID].Channel)
	require.NoError(t, service().Meetings.Answer(t.Context(), schedule.Self(tome.ID), sent.MeetingID, meetings.Given{Answer: meeting.Accepted, Comment: "", Seen: 0}))

	t.Run("one more person sends one message", func(t *testing.T) {
		assert.Equal(t, 1, change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) {
			d.People = append(d.People, meeting.DraftPerson{Email: c, Needed: true})
		}).Told)
		box(t, c, 1)
		assert.Equal(t, meeting.Accepted, look(t, ilse.ID, sent.MeetingID).Invited[2].Answer, "answers stay")
	})
	t.Run("a new hour tells all and asks again", func(t *testing.T) {
		assert.Equal(t, 4, change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Start = d.Start[:11] + "09:00" }).Told)
		update := box(t, a, 2)[1]
		assert.Equal(t, header(first.Headers, "Message-ID"), strings.TrimSpace(header(update.Headers, "In-Reply-To")), "it stands in the thread")
		assert.Equal(t, meeting.NoAnswer, look(t, ilse.ID, sent.MeetingID).Invited[2].Answer)
	})
	t.Run("one person less", func(t *testing.T) {
		assert.Equal(t, 1, change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.People = d.People[1:] }).Told)
		dropped := box(t, a, 3)[2]
		assert.Equal(t, "CANCEL", dropped.Method)
		assert.Contains(t, dropped.Subject, "No longer needed")
		box(t, b, 2)
	})
	t.Run("nothing changed", func(t *testing.T) {
		assert.Equal(t, 0, change(t, ilse.ID, sent.MeetingID, func(*meeting.Draft) {}).Told)
	})
	t.Run("called off", func(t *testing.T) {
		version := look(t, ilse.ID, sent.MeetingID).Version
		require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, version, nil, "The truck is late."))
		require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, version, nil, ""), "twice is once")
		assert.Contains(t, box(t, b, 3)[2].Text, "The truck is late.")
		box(t, a, 3)
		assert.ErrorIs(t, service().Meetings.Answer(t.Context(), schedule.Self(tome.ID), sent.MeetingID, meetings.Given{Answer: meeting.Accepted, Comment: "", Seen: 9}), schedule.ErrCalledOff)
		_, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
		assert.ErrorIs(t, err, schedule.ErrCalledOff)
	})
}

func TestBusyFollowsTheAnswer(t *testing.T) {
	ilse, tome := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example")
	d := draft(func(d *meeting.Draft) { d.People[0] = meeting.DraftPerson{PersonID: tome.ID.String(), Needed: true} })
	sent := send(t, ilse.ID, open(t, ilse.ID, d))
	kinds := func() (out []core.Kind) {
		require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
			busy, err := tx.BusyTimes(t.Context(), []uuid.UUID{tome.ID}, when.Spans{spanOf(t, d)}, schedule.View{})
			for _, b := range busy[tome.ID] {
				out = append(out, b.Kind)
			}
			return err
		}))
		return out
	}
	assert.Equal(t, []core.Kind{core.Busy}, kinds(), "not declined is busy")
	for _, c := range []struct {
		answer meeting.Answer
		want   []core.Kind
	}{{meeting.Maybe, []core.Kind{core.Maybe}}, {meeting.Declined, nil}, {meeting.Accepted, []core.Kind{core.Busy}}} {
		require.NoError(t, service().Meetings.Answer(t.Context(), schedule.Self(tome.ID), sent.MeetingID, meetings.Given{Answer: c.answer}))
		assert.Equal(t, c.want, kinds(), c.answer)
	}
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, 1, nil, ""))
	assert.Nil(t, kinds())
}

func TestTheRoomIsClearAgainAfterwards(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	in := func(name string) func(*meeting.Draft) {
		return func(d *meeting.Draft) { d.RoomID, d.NoRoom = room(t, name).ID.String(), false }
	}
	d := draft(in("Tide Office"))
	sent := send(t, ilse.ID, open(t, ilse.ID, d))
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Title = "Still there" })
	change(t, ilse.ID, sent.MeetingID, in("Rope Loft"))
	other := send(t, rui.ID, open(t, rui.ID, d)) // takes the Tide Office
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(rui.ID), other.MeetingID, 1, nil, ""))
	change(t, ilse.ID, sent.MeetingID, in("Tide Office"))
	m := look(t, ilse.ID, sent.MeetingID)
	assert.Equal(t, "Tide Office", m.Content.Room.Name)
	var story []string
	for _, h := range m.Happenings {
		story = append(story, words.Event(tongue.Tongue{}, h.Event))
	}
	assert.Contains(t, story, "Rope Loft given back")
}

func header(all []standin.Header, name string) string {
	for _, h := range all {
		if h.Name == name {
			return h.Value
		}
	}
	return ""
}
