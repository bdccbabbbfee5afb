package schedule_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	dayviews "jembro/internal/schedule/availability"
	"jembro/internal/schedule/invitations"
	"jembro/internal/standin"
)

// invitedOf is what somebody is invited to from outside that is called so.
func invitedOf(t testing.TB, p schedule.Person, title string) (out []schedule.CalendarEntry) {
	t.Helper()
	w, err := service().Availability.Week(t.Context(), schedule.Self(p.ID), when.DayOf(2027, 6, 7), 28)
	require.NoError(t, err)
	for _, e := range w.Entries {
		if strings.HasPrefix(e.Title, title) {
			out = append(out, e)
		}
	}
	return out
}

// TestInvitedFromOutside: an invitation, a change, an answer, single dates, called off; it takes
// time as it is answered, and only its reader sees it.
func TestInvitedFromOutside(t *testing.T) {
	sigrid, rui := who(t, "sigrid.aune@marrowby.example"), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(sigrid.ID)
	post := running.World.Post
	at := time.Date(2027, 6, 9, 13, 0, 0, 0, time.UTC)
	o := standin.Outside{UID: "berth@veerhaven.example", Title: "Berth for the crane", From: "noor@veerhaven.example", Name: "Noor de Waal", To: service().Invitations.Address(me),
		Invited: sigrid.Email, Start: at, Length: time.Hour, Text: "Join: https://calls.veerhaven.example/j/551-204\nMeeting ID: 551 204\nPasscode: tide", Rule: "FREQ=WEEKLY;COUNT=3"}
	require.NoError(t, post.InviteHouse(o))
	eventually(t, "it stands in the week", func() bool { return len(invitedOf(t, sigrid, o.Title)) == 3 })
	e := invitedOf(t, sigrid, o.Title)[0]
	assert.Equal(t, when.Span{Start: when.At(at), End: when.At(at.Add(time.Hour))}, e.Span)
	assert.Equal(t, []any{availability.Maybe, meeting.NoAnswer, "Noor de Waal"}, []any{e.Kind, e.Answer, e.Calendar})
	assert.Empty(t, invitedOf(t, rui, o.Title))
	kinds := func() (out []string) {
		rows, err := running.Program.Pool.Query(t.Context(), "SELECT kind FROM busy WHERE from_id = $1 ORDER BY during", e.Invitation)
		require.NoError(t, err)
		for rows.Next() {
			var kind string
			require.NoError(t, rows.Scan(&kind))
			out = append(out, kind)
		}
		return out
	}
	assert.Equal(t, []string{"maybe", "maybe", "maybe"}, kinds())

	view := func() invitations.View {
		v, err := service().Invitations.Invitation(t.Context(), me, e.Invitation)
		require.NoError(t, err)
		return v
	}
	v := view()
	require.NotNil(t, v.Card)
	assert.Equal(t, []string{"https://calls.veerhaven.example/j/551-204", "tide"}, []string{v.Card.URL, v.Card.Passcode})
	_, err := service().Invitations.Invitation(t.Context(), schedule.Self(rui.ID), e.Invitation)
	assert.ErrorIs(t, err, schedule.ErrNotFound)
	answer := func(a meeting.Answer, version int) error {
		return service().Invitations.Answer(t.Context(), me, e.Invitation, 0, a, "With the new sling", version)
	}
	refusedWith(t, answer("PERHAPS", v.Version), "Answer with accept")
	var moved *schedule.VersionError
	require.ErrorAs(t, answer(meeting.Accepted, v.Version+1), &moved)
	assert.ErrorIs(t, service().Invitations.Answer(t.Context(), schedule.Self(rui.ID), e.Invitation, 0, meeting.Accepted, "", v.Version), schedule.ErrNotFound)

	require.NoError(t, answer(meeting.Accepted, v.Version))
	assert.Equal(t, []string{"busy", "busy", "busy"}, kinds())
	reply := box(t, o.From, 1)[0]
	calendar := strings.ReplaceAll(string(reply.Calendar), "\r\n ", "")
	for _, part := range []string{"METHOD:REPLY", "UID:" + o.UID, "SEQUENCE:0", "PARTSTAT=ACCEPTED", "mailto:" + sigrid.Email, "COMMENT:With the new sling"} {
		assert.Contains(t, calendar, part)
	}
	eventually(t, "the answer is handed over", func() bool { return view().Reply == schedule.Handed })

	// One date is called off, and one moved; then all of it, which asks again.
	off := o
	off.Off, off.Sequence, off.Date, off.Start = true, 1, at.AddDate(0, 0, 7), at.AddDate(0, 0, 7)
	require.NoError(t, post.InviteHouse(off))
	eventually(t, "a date less", func() bool { return len(invitedOf(t, sigrid, o.Title)) == 2 })
	assert.Equal(t, meeting.Accepted, view().Answer)
	later := o
	later.Sequence, later.Start = 2, at.Add(3*time.Hour)
	require.NoError(t, post.InviteHouse(later))
	eventually(t, "moved", func() bool {
		all := invitedOf(t, sigrid, o.Title)
		return len(all) == 3 && all[0].Span.Start == when.At(later.Start)
	})
	assert.Equal(t, meeting.NoAnswer, view().Answer)

	// An older one comes late, somebody else changes it, and the reader is asked.
	require.NoError(t, post.InviteHouse(o))
	thief := later
	thief.Sequence, thief.From, thief.Name, thief.Start = 3, "noor@elsewhere.example", "Noor de Waal", at.Add(5*time.Hour)
	require.NoError(t, post.InviteHouse(thief))
	eventually(t, "it waits to be believed", func() bool { return view().Waiting != nil })
	assert.Equal(t, when.At(later.Start), invitedOf(t, sigrid, o.Title)[0].Span.Start, "not believed silently")
	open, err := service().Today.Today(t.Context(), me)
	require.NoError(t, err)
	found := false
	for _, x := range open.Invited {
		found = found || x.ID == e.Invitation
	}
	assert.True(t, found)
	require.NoError(t, service().Invitations.Believe(t.Context(), me, e.Invitation, false))
	assert.ErrorIs(t, service().Invitations.Believe(t.Context(), me, e.Invitation, true), schedule.ErrNotFound, "decided once")
	thief.Sequence = 4
	require.NoError(t, post.InviteHouse(thief))
	eventually(t, "it waits again", func() bool { return view().Waiting != nil })
	require.NoError(t, service().Invitations.Believe(t.Context(), me, e.Invitation, true))
	assert.Equal(t, when.At(thief.Start), invitedOf(t, sigrid, o.Title)[0].Span.Start)

	gone := thief
	gone.Sequence, gone.Off = 5, true
	require.NoError(t, post.InviteHouse(gone))
	eventually(t, "called off", func() bool { return len(invitedOf(t, sigrid, o.Title)) == 0 })
	assert.Empty(t, kinds())
	v = view()
	assert.True(t, v.State.Off)
	assert.Len(t, v.Dates, 3, "what it was is still shown")
	assert.ErrorIs(t, answer(meeting.Accepted, v.Version), schedule.ErrCalledOff)
}

// TestOneDateFromOutsideIsAnswered: the others stay as they are; two at the same moment both arrive.
func TestOneDateFromOutsideIsAnswered(t *testing.T) {
	sigrid := who(t, "sigrid.aune@marrowby.example")
	me := schedule.Self(sigrid.ID)
	at := time.Date(2027, 6, 10, 6, 0, 0, 0, time.UTC)
	o := standin.Outside{UID: "dates@veerhaven.example", Title: "Dredging round", From: "mirthe@veerhaven.example", Name: "Mirthe Kok", To: service().Invitations.Address(me),
		Invited: sigrid.Email, Start: at, Length: time.Hour, Rule: "FREQ=WEEKLY;COUNT=4"}
	require.NoError(t, running.World.Post.InviteHouse(o))
	eventually(t, "it stands in the week", func() bool { return len(invitedOf(t, sigrid, o.Title)) >= 3 })
	id := invitedOf(t, sigrid, o.Title)[0].Invitation
	view := func() invitations.View {
		v, err := service().Invitations.Invitation(t.Context(), me, id)
		require.NoError(t, err)
		return v
	}
	answer := func(on when.Instant, a meeting.Answer) error {
		return service().Invitations.Answer(t.Context(), me, id, on, a, "", view().Version)
	}
	dates := view().Dates
	require.Len(t, dates, 4)
	assert.ErrorIs(t, answer(when.At(at.Add(time.Hour)), meeting.Accepted), schedule.ErrNotFound, "there is no such date")
	require.NoError(t, answer(0, meeting.Accepted))
	require.NoError(t, answer(dates[1].On, meeting.Declined))
	require.NoError(t, answer(dates[2].On, meeting.Maybe))
	kinds := map[availability.Kind]int{}
	for _, e := range invitedOf(t, sigrid, o.Title) {
		kinds[e.Kind]++
	}
	assert.Equal(t, 1, kinds[availability.Maybe])
	assert.Equal(t, 1, kinds[availability.Free], "it takes no time any more")
	eventually(t, "the answers are handed over", func() bool { return view().Reply == schedule.Handed })
	var said []string
	for _, m := range boxOf(t, o.From, "") {
		said = append(said, linesOf(string(m.Calendar), "RECURRENCE-ID")...)
		said = append(said, linesOf(string(m.Calendar), "ATTENDEE")...)
	}
	text := strings.Join(said, "\n")
	assert.Contains(t, text, dates[1].On.Time().Format("20060102T"))
	assert.Contains(t, text, dates[2].On.Time().Format("20060102T"))
	for _, partstat := range []string{"ACCEPTED", "DECLINED", "TENTATIVE"} {
		assert.Contains(t, text, "PARTSTAT="+partstat)
	}
	// To all, also those that had one of their own.
	require.NoError(t, answer(0, meeting.Declined))
	for _, e := range invitedOf(t, sigrid, o.Title) {
		assert.Equal(t, availability.Free, e.Kind)
	}
}

// TestTheHouseIsInvited: a mail to the address of the house reaches those whom it names; a meeting
// of ours that is passed on, and an address that is none, change nothing.
func TestTheHouseIsInvited(t *testing.T) {
	sigrid := who(t, "sigrid.aune@marrowby.example")
	o := standin.Outside{UID: "house@veerhaven.example", Title: "Quay inspection", From: "noor@veerhaven.example", Name: "Noor de Waal", Invited: strings.ToUpper(sigrid.Email),
		To: service().Seal.InvitationAddress(uuid.Nil, service().House.MailDomain), Start: time.Date(2027, 6, 15, 9, 0, 0, 0, time.UTC), Length: time.Hour}
	require.NoError(t, running.World.Post.InviteHouse(o))
	eventually(t, "it stands in the week", func() bool { return len(invitedOf(t, sigrid, o.Title)) == 1 })
	nobody := o
	nobody.UID, nobody.Invited = "nobody@veerhaven.example", "stranger@elsewhere.example"
	refusedWith(t, running.World.Post.InviteHouse(nobody), "550")
	wrong := o
	wrong.To = "invite-aaaa@" + service().House.MailDomain
	refusedWith(t, running.World.Post.InviteHouse(wrong), "550")
	ours := send(t, sigrid.ID, open(t, sigrid.ID, draft(nil))).MeetingID
	forwarded := o
	forwarded.UID = look(t, sigrid.ID, ours).Content.UID
	require.NoError(t, running.World.Post.InviteHouse(forwarded))
	assert.Len(t, invitedOf(t, sigrid, o.Title), 1)
}

// TestARoomIsInvitedFromOutside: by its rules it says no at once, or its keeper answers for it; what
// is accepted is booked, moves with the meeting and is given back.
func TestARoomIsInvitedFromOutside(t *testing.T) {
	marta := who(t, "marta.quental@marrowby.example")
	lens, post := room(t, "Lens Room"), running.World.Post
	at := time.Date(2027, 6, 11, 7, 0, 0, 0, time.UTC)
	o := standin.Outside{UID: "room@veerhaven.example", Title: "Crane drawings", From: "berth@veerhaven.example", Name: "Berth Office", To: service().Seal.InvitationAddress(uuid.Nil, service().House.MailDomain),
		Invited: lens.Email, Start: at, Length: time.Hour, Rule: "FREQ=WEEKLY;COUNT=3"}
	require.NoError(t, post.InviteHouse(o))
	m := box(t, o.From, 1)[0]
	assert.Equal(t, []string{"METHOD:REPLY"}, linesOf(string(m.Calendar), "METHOD"))
	assert.Contains(t, linesOf(string(m.Calendar), "ATTENDEE")[0], "PARTSTAT=DECLINED")
	assert.Contains(t, linesOf(string(m.Calendar), "ATTENDEE")[0], ":mailto:"+lens.Email)
	assert.Contains(t, m.Text, "Lens Room is not given to people outside.")
	time.Sleep(1100 * time.Millisecond) // another DTSTAMP: a message of its own, about the same
	require.NoError(t, post.InviteHouse(o), "once more")

	_, err := running.Program.Pool.Exec(t.Context(), `UPDATE room SET rules = rules || '{"outside": true}' WHERE id = $1`, lens.ID)
	require.NoError(t, err)
	t.Cleanup(func() {
		_, err := running.Program.Pool.Exec(context.Background(), `UPDATE room SET rules = rules - 'outside' WHERE id = $1`, lens.ID)
		assert.NoError(t, err)
	})
	o.UID, o.Title, o.From = "room2@veerhaven.example", "Crane models", "models@veerhaven.example"
	require.NoError(t, post.InviteHouse(o))
	keeper := schedule.Person{ID: lens.KeptBy[0]}
	me := schedule.Self(keeper.ID)
	var id uuid.UUID
	eventually(t, "its keeper is asked", func() bool {
		day, err := service().Today.Today(t.Context(), me)
		require.NoError(t, err)
		for _, i := range day.Invited {
			if i.Title == o.Title {
				id = i.ID
			}
		}
		return id != uuid.Nil
	})
	assert.Empty(t, invitedOf(t, keeper, o.Title), "it takes none of the keeper's own time")
	bookings := func() (n int) {
		require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT count(*) FROM booking WHERE invitation_id = $1", id).Scan(&n))
		return n
	}
	view := func() invitations.View {
		v, err := service().Invitations.Invitation(t.Context(), me, id)
		require.NoError(t, err)
		return v
	}
	assert.Equal(t, lens.Name, view().Room.Name)
	assert.Zero(t, bookings())

	// Somebody inside has it on the second date.
	send(t, marta.ID, open(t, marta.ID, draft(func(d *meeting.Draft) {
		second := at.AddDate(0, 0, 7)
		d.Start, d.End, d.Zone = second.Format("2006-01-02T15:04"), second.Add(time.Hour).Format("2006-01-02T15:04"), "UTC"
		outsiders("elsewhere@kirisame.example")(d)
		d.RoomID, d.NoRoom = lens.ID.String(), false
	})))
	answer := func(on when.Instant, a meeting.Answer) error {
		return service().Invitations.Answer(t.Context(), me, id, on, a, "", view().Version)
	}
	field, sentence := fieldOf(t, answer(0, meeting.Accepted))
	assert.Equal(t, "answer", field)
	assert.Contains(t, sentence, "taken on 1 of 3 dates")
	assert.Zero(t, bookings(), "nothing of it stays")
	dates := view().Dates
	require.NoError(t, answer(dates[1].On, meeting.Declined))
	require.NoError(t, answer(dates[0].On, meeting.Accepted))
	require.NoError(t, answer(dates[2].On, meeting.Accepted))
	assert.Equal(t, 2, bookings())
	rui := who(t, "rui.calado@marrowby.example")
	day, err := service().Availability.RoomsDay(t.Context(), schedule.Self(rui.ID), dayviews.RoomsQuestion{Day: when.DayOf(2027, 6, 11)})
	require.NoError(t, err)
	taken := 0
	for _, r := range day.Rooms {
		if r.ID == lens.ID {
			taken = len(r.Taken)
		}
	}
	assert.Equal(t, 1, taken, "everybody sees that it is taken")

	// It is moved: that is another question; then called off.
	o.Sequence, o.Start = 1, at.Add(2*time.Hour)
	require.NoError(t, post.InviteHouse(o))
	eventually(t, "it is given back", func() bool { return bookings() == 0 })
	require.NoError(t, answer(0, meeting.Accepted))
	assert.Equal(t, 3, bookings())
	o.Sequence, o.Off = 2, true
	require.NoError(t, post.InviteHouse(o))
	eventually(t, "it is given back", func() bool { return bookings() == 0 })
	box(t, "berth@veerhaven.example", 1) // once more is answered once
}
