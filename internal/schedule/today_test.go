package schedule_test

import (
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/today"
	"jembro/internal/standin"
)

// endsOf are the loose ends of one meeting, as somebody sees them.
func endsOf(t testing.TB, me, id uuid.UUID) (out []today.End) {
	t.Helper()
	day, err := service().Today.Today(t.Context(), schedule.Self(me))
	require.NoError(t, err)
	for _, e := range day.Ends {
		if e.MeetingID == id.String() {
			out = append(out, e)
		}
	}
	return out
}

func kindsOf(ends []today.End) (out []loose.Kind) {
	for _, e := range ends {
		out = append(out, e.Kind)
	}
	return out
}

// soonDraft is a meeting within the next days, at a time of night that is nobody else's.
func soonDraft(day when.Day, clock string, change func(*meeting.Draft)) meeting.Draft {
	start := day.String() + "T" + clock
	return draft(func(d *meeting.Draft) {
		at, err := when.ParseLocal(start)
		if err != nil {
			panic(err)
		}
		d.Start, d.End = start, at.Add(30*time.Minute).String()
		change(d)
	})
}

// TestLooseEnds: each is found, mended at one press, and gone then.
func TestLooseEnds(t *testing.T) {
	sigrid, rui := who(t, "sigrid.aune@marrowby.example"), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(sigrid.ID)
	day := when.DayOf(service().Now().Date()) + 3

	// Without a room: one that is clear is taken.
	room := room(t, "Print Cabinet")
	noRoom := send(t, sigrid.ID, open(t, sigrid.ID, soonDraft(day, "21:00", func(d *meeting.Draft) {
		d.RoomID, d.NoRoom, d.People = room.ID.String(), false, []meeting.DraftPerson{{Email: rui.Email, Needed: true}}
	}))).MeetingID
	assert.Empty(t, endsOf(t, sigrid.ID, noRoom))
	_, err := running.Program.Pool.Exec(t.Context(), "DELETE FROM booking WHERE meeting_id = $1", noRoom)
	require.NoError(t, err)
	ends := endsOf(t, sigrid.ID, noRoom)
	require.Equal(t, []loose.Kind{loose.NoRoom}, kindsOf(ends))
	require.NotEmpty(t, ends[0].Rooms)
	assert.ErrorIs(t, service().Today.TakeRoom(t.Context(), schedule.Self(rui.ID), noRoom, 0, room.ID), schedule.ErrNotFound)
	other := ends[0].Rooms[0]
	for _, r := range ends[0].Rooms {
		if r.ID != room.ID {
			other = r
		}
	}
	require.NoError(t, service().Today.TakeRoom(t.Context(), me, noRoom, ends[0].On, other.ID))
	assert.Empty(t, endsOf(t, sigrid.ID, noRoom))
	assert.Equal(t, other.Name, look(t, sigrid.ID, noRoom).Content.Room.Name)

	// Not reached, somebody silent the day before, somebody who does not come.
	tomorrow := when.DayOf(service().Now().Date()) + 1
	people := send(t, sigrid.ID, open(t, sigrid.ID, soonDraft(tomorrow, "20:00", func(d *meeting.Draft) {
		outsiders("nobody.morning@veerhaven.example", "silent.today@kirisame.example")(d)
		d.People = append(d.People, meeting.DraftPerson{Email: rui.Email, Needed: true})
	}))).MeetingID
	require.NoError(t, service().Meetings.Answer(t.Context(), schedule.Self(rui.ID), people, given("DECLINED", 0)))
	// Wherever the database keeps them, people stand in the order of their meeting.
	_, err = running.Program.Pool.Exec(t.Context(), "UPDATE participant SET name = name WHERE email = 'nobody.morning@veerhaven.example'")
	require.NoError(t, err)
	eventually(t, "refused", func() bool {
		ends := endsOf(t, sigrid.ID, people)
		return len(ends) == 2 && ends[0].Message.Lost()
	})
	box(t, "silent.today@kirisame.example", 1)
	silent := reachOf(t, sigrid.ID, people, "silent.today@kirisame.example").ParticipantID
	refusedWith(t, service().Meetings.AskAgain(t.Context(), me, silent), "within the last hour")
	_, err = running.Program.Pool.Exec(t.Context(), "UPDATE dispatch SET queued_at = queued_at - interval '2 hours' WHERE participant_id = $1", silent)
	require.NoError(t, err)
	ends = endsOf(t, sigrid.ID, people)
	assert.ElementsMatch(t, []loose.Kind{loose.NotReached, loose.Declined, loose.Silent}, kindsOf(ends))
	for _, e := range ends {
		switch e.Kind {
		case loose.NotReached:
			require.NoError(t, service().Dispatch.Again(t.Context(), me, e.Message.ID, "morning@veerhaven.example"))
		case loose.Declined:
			require.NoError(t, service().Today.LetBe(t.Context(), me, e.Key))
		case loose.Silent:
			require.NoError(t, service().Meetings.AskAgain(t.Context(), me, silent))
			again := box(t, "silent.today@kirisame.example", 2)[1]
			assert.Contains(t, again.Text, "asks you again whether you come")
			require.NoError(t, running.World.Post.Answer(again.Message, "ACCEPTED", ""))
		}
	}
	eventually(t, "all mended", func() bool { return len(endsOf(t, sigrid.ID, people)) == 0 })

	// A series about to end goes on.
	series := send(t, sigrid.ID, open(t, sigrid.ID, soonDraft(day, "22:00", func(d *meeting.Draft) {
		d.People, d.Repeat = nil, &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 3}
	}))).MeetingID
	ends = endsOf(t, sigrid.ID, series)
	require.Equal(t, []loose.Kind{loose.Ends}, kindsOf(ends))
	require.NoError(t, service().Today.Extend(t.Context(), me, series))
	last, _ := look(t, sigrid.ID, series).Content.Plan().Last()
	assert.Equal(t, ends[0].Until, last)
	refusedWith(t, service().Today.Extend(t.Context(), me, people), "no end to go beyond")
	assert.Empty(t, endsOf(t, sigrid.ID, series))

	day2, err := service().Today.Today(t.Context(), schedule.Self(rui.ID))
	require.NoError(t, err)
	assert.True(t, len(day2.Asked) > 0, "what waits for an answer")
	_, err = running.Program.Pool.Exec(t.Context(), "UPDATE meeting SET called_off_at = now() WHERE id = ANY($1)", []uuid.UUID{noRoom, people, series})
	require.NoError(t, err)
}

// TestTheMorningMail: who wishes one gets it before the day begins, once; on a day off, or with
// nothing to say, none.
func TestTheMorningMail(t *testing.T) {
	piet, gil := who(t, "piet.roelofs@marrowby.example"), who(t, "gil.tavares@marrowby.example")
	day := when.DayOf(service().Now().Date()) + 20
	id := send(t, piet.ID, open(t, piet.ID, soonDraft(day, "21:30", func(d *meeting.Draft) { d.Title, d.People = "Loom inspection", nil }))).MeetingID
	at := func(clock string) *deeds.Deeds {
		l, err := when.ParseLocal(day.String() + "T" + clock)
		require.NoError(t, err)
		return later(when.Zoned{Local: l, Zone: piet.Hours.Zone}.Instant().Time().Sub(service().Now()))
	}
	mailed := func() (n int) {
		for _, m := range running.World.Post.Box(piet.Email) {
			read, err := standin.ReadMail(m)
			require.NoError(t, err)
			if strings.Contains(read.Text, "Loom inspection") {
				n++
			}
		}
		return n
	}
	require.NoError(t, at("08:30").Today.MailMornings(t.Context()))
	assert.Zero(t, mailed(), "nobody is mailed who does not wish it")
	require.NoError(t, service().Today.MorningMail(t.Context(), schedule.Self(piet.ID), true))
	require.NoError(t, at("05:00").Today.MailMornings(t.Context()))
	assert.Zero(t, mailed(), "in the night")
	require.NoError(t, at("08:30").Today.MailMornings(t.Context()))
	require.NoError(t, at("08:40").Today.MailMornings(t.Context()))
	assert.Equal(t, 1, mailed())
	all := running.World.Post.Box(piet.Email)
	read, err := standin.ReadMail(all[len(all)-1])
	require.NoError(t, err)
	assert.Contains(t, read.Text, "21:30  Loom inspection")
	assert.Contains(t, read.Text, "/today")
	assert.Contains(t, string(read.Raw), "List-Unsubscribe: <"+service().House.BaseURL+"/account>")
	require.NoError(t, service().Today.MorningMail(t.Context(), schedule.Self(piet.ID), false))
	all = running.World.Post.Box(gil.Email)
	for _, m := range all {
		assert.NotContains(t, string(m.Raw), "/today", "he wishes none")
	}
	_, err = running.Program.Pool.Exec(t.Context(), "UPDATE meeting SET called_off_at = now() WHERE id = $1", id)
	require.NoError(t, err)
}

// TestTheSilentAreAskedAgain by themselves, where who organises it wishes that: once, a day
// before, those who are needed and said nothing.
func TestTheSilentAreAskedAgain(t *testing.T) {
	piet := who(t, "piet.roelofs@marrowby.example")
	const silent, answered, optional = "nudged@kirisame.example", "answered.nudge@kirisame.example", "optional.nudge@kirisame.example"
	day := when.DayOf(service().Now().Date()) + 6
	id := send(t, piet.ID, open(t, piet.ID, soonDraft(day, "15:00", func(d *meeting.Draft) {
		outsiders(silent, answered, optional)(d)
		d.People[2].Needed = false
	}))).MeetingID
	box(t, silent, 1)
	box(t, optional, 1)
	require.NoError(t, running.World.Post.Answer(box(t, answered, 1)[0].Message, "ACCEPTED", ""))
	eventually(t, "answered", func() bool { return look(t, piet.ID, id).Invited[1].Answer == meeting.Accepted })
	at := func(clock string, back when.Day) error {
		l, err := when.ParseLocal((day - back).String() + "T" + clock)
		require.NoError(t, err)
		return later(when.Zoned{Local: l, Zone: piet.Hours.Zone}.Instant().Time().Sub(service().Now())).Today.NudgeSilent(t.Context())
	}
	require.NoError(t, at("16:00", 1))
	assert.Len(t, running.World.Post.Box(silent), 1, "nobody is asked whose organiser does not wish it")
	require.NoError(t, service().Today.Nudges(t.Context(), schedule.Self(piet.ID), true))
	require.NoError(t, at("16:00", 3))
	require.NoError(t, at("23:00", 1))
	assert.Len(t, running.World.Post.Box(silent), 1, "too early, and in the night")
	require.NoError(t, at("16:00", 1))
	assert.Contains(t, box(t, silent, 2)[1].Text, "asks you again whether you come")
	require.NoError(t, at("17:00", 1))
	require.NoError(t, at("09:00", 0))
	time.Sleep(300 * time.Millisecond)
	assert.Len(t, running.World.Post.Box(silent), 2, "once")
	assert.Len(t, running.World.Post.Box(answered), 1)
	assert.Len(t, running.World.Post.Box(optional), 1)
	require.NoError(t, service().Today.Nudges(t.Context(), schedule.Self(piet.ID), false))
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE meeting SET called_off_at = now() WHERE id = $1", id)
	require.NoError(t, err)
}

func given(answer string, seen int) (g meetings.Given) {
	g.Answer, g.Seen = meeting.Answer(answer), seen
	return g
}
