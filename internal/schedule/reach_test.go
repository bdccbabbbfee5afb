package schedule_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/standin"
)

// reachOf is the newest message to somebody invited.
func reachOf(t testing.TB, me, meetingID uuid.UUID, email string) schedule.Dispatch {
	t.Helper()
	d := look(t, me, meetingID)
	for _, i := range d.Invited {
		if i.Email == email {
			return d.Dispatches[i.ID]
		}
	}
	require.Fail(t, "not invited", email)
	return schedule.Dispatch{}
}

// noted counts what the history says of one kind.
func noted(t testing.TB, me, meetingID uuid.UUID, kind meeting.EventKind) (n int) {
	t.Helper()
	for _, h := range look(t, me, meetingID).Happenings {
		if h.Kind == kind {
			n++
		}
	}
	return n
}

// TestWhatBecomesOfMessages: each mailbox behaves in a way of its own, and what it does comes
// back to the message that it is about.
func TestWhatBecomesOfMessages(t *testing.T) {
	ilse := who(t, demo.Ilse)
	people := []string{"reached@veerhaven.example", "nobody.here@veerhaven.example", "full@veerhaven.example", "late@veerhaven.example", "away@veerhaven.example", "asks@veerhaven.example"}
	id := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(people...)))).MeetingID
	of := func(n int) schedule.Dispatch { return reachOf(t, ilse.ID, id, people[n]) }

	eventually(t, "delivered", func() bool { return of(0).Stage == reach.Delivered })
	assert.False(t, of(0).Open())
	eventually(t, "refused", func() bool { return of(1).Trouble == reach.Refused })
	assert.Equal(t, "5.1.1", of(1).Heard.Code.String())
	eventually(t, "returned", func() bool { return of(2).Trouble == reach.Returned })
	assert.Equal(t, schedule.Failed, of(2).State)
	assert.Equal(t, "5.2.2", of(2).Heard.Code.String())
	assert.Equal(t, "mx.veerhaven.example", of(2).Heard.Server)
	assert.True(t, of(2).Lost())
	eventually(t, "delayed", func() bool { return of(3).Trouble == reach.Delayed })
	require.NoError(t, running.World.Post.Report(running.World.Post.Box(people[3])[0], standin.Report{Action: "delivered", Status: "2.1.5"}))
	eventually(t, "then delivered", func() bool { return of(3).Stage == reach.Delivered })
	assert.False(t, of(3).Open())
	assert.Equal(t, 1, noted(t, ilse.ID, id, meeting.EventDelayed))
	eventually(t, "an automatic answer", func() bool { return of(4).Stage == reach.Delivered })
	eventually(t, "asks its sender", func() bool { return of(5).Trouble == reach.Challenged })
	assert.Contains(t, of(5).Heard.Said, "https://asks.example/confirm/31-4400")

	// The same report twice is one, and what comes late takes nothing back.
	m := running.World.Post.Box(people[2])[0]
	require.NoError(t, running.World.Post.Report(m, standin.Report{Action: "failed", Status: "5.2.2", Said: "552 5.2.2 mailbox full"}))
	require.NoError(t, running.World.Post.Report(m, standin.Report{Action: "delivered", Status: "2.0.0"}))
	eventually(t, "delivered to another", func() bool { return of(2).Stage == reach.Delivered })
	assert.True(t, of(2).Lost())
	assert.Equal(t, 1, noted(t, ilse.ID, id, meeting.EventReturned))
	assert.Empty(t, look(t, ilse.ID, id).Letters, "nothing of it is a mail that somebody wrote")
}

// TestAReportSaysThatItWasTaken: where the program dies between the yes of the relay and keeping
// it, a report of the message keeps it from going twice.
func TestAReportSaysThatItWasTaken(t *testing.T) {
	ilse := who(t, demo.Ilse)
	const to = "taken.once@veerhaven.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(to)))).MeetingID
	of := func() schedule.Dispatch { return reachOf(t, ilse.ID, id, to) }
	eventually(t, "delivered", func() bool { return of().Stage == reach.Delivered && of().Detail != "" })
	before := of()
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE dispatch SET state = 'queued', detail = '', handed_at = NULL, stage = '', stage_at = NULL WHERE id = $1", before.ID)
	require.NoError(t, err)
	_, err = running.Program.Pool.Exec(t.Context(), "DELETE FROM dispatch_event WHERE dispatch_id = $1", before.ID)
	require.NoError(t, err)

	require.NoError(t, running.World.Post.Report(running.World.Post.Box(to)[0], standin.Report{Action: "relayed", Status: "2.0.0"}))
	eventually(t, "handed over", func() bool { return of().State == schedule.Handed })
	assert.Equal(t, of().StageAt, *of().HandedAt)
	require.NoError(t, service().Dispatch.Deliver(t.Context(), before.ID), "it is tried again")
	require.NoError(t, service().Dispatch.GiveUp(t.Context(), before.ID, "given up"))
	assert.Equal(t, schedule.Handed, of().State)
	box(t, to, 1)
}

// TestNobodyElseReports: a report counts only at the address that was given out for its message.
func TestNobodyElseReports(t *testing.T) {
	ilse := who(t, demo.Ilse)
	id := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("safe@veerhaven.example")))).MeetingID
	eventually(t, "delivered", func() bool { return reachOf(t, ilse.ID, id, "safe@veerhaven.example").Stage == reach.Delivered })
	m := running.World.Post.Box("safe@veerhaven.example")[0]
	forged := m
	local, domain, _ := strings.Cut(m.From, "@")
	forged.From = "back-" + strings.Repeat("a", len(local)-5) + "@" + domain
	refusedWith(t, running.World.Post.Report(forged, standin.Report{Action: "failed", Status: "5.1.1", Said: "550 5.1.1 gone"}), "550")
	assert.False(t, reachOf(t, ilse.ID, id, "safe@veerhaven.example").Open())
}

// TestOtherWays: a message that came back goes to another address, from which the answer counts,
// and which is known the next time; or its reader is told, or answers all the same.
func TestOtherWays(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(ilse.ID)
	const gone, other, guest = "full.freight@veerhaven.example", "ops.freight@veerhaven.example", "full.guest@veerhaven.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(gone, guest, "by.phone@veerhaven.example")))).MeetingID
	eventually(t, "returned", func() bool { return reachOf(t, ilse.ID, id, gone).Lost() && reachOf(t, ilse.ID, id, guest).Lost() })
	d := reachOf(t, ilse.ID, id, gone)

	list, err := service().Dispatch.List(t.Context(), me, schedule.Search{Troubled: true, Words: "full.freight"}, schedule.Page{Most: 5})
	require.NoError(t, err)
	require.Len(t, list.Sent, 1)
	assert.Equal(t, gone, list.Sent[0].Lines[0].To.Email, "what is lost stands first")
	assert.Equal(t, 3, list.Sent[0].All)
	assert.GreaterOrEqual(t, list.Lost, 2)

	w, err := service().Dispatch.Ways(t.Context(), me, d.ID)
	require.NoError(t, err)
	assert.True(t, w.Newest)
	assert.Contains(t, w.Text, "Crate sizes")
	assert.Contains(t, w.Text, w.GuestURL)
	assert.Empty(t, w.Known)
	assert.Equal(t, []reach.Kind{reach.Returned, reach.Handed}, []reach.Kind{w.Events[0].Kind, w.Events[1].Kind})
	_, err = service().Dispatch.Ways(t.Context(), schedule.Self(rui.ID), d.ID)
	assert.ErrorIs(t, err, schedule.ErrNotFound)

	again := func(id uuid.UUID, address string) error {
		return service().Dispatch.Again(t.Context(), me, id, address)
	}
	refusedWith(t, again(d.ID, "nobody at home"), "Write an address")
	refusedWith(t, again(d.ID, "By.Phone@veerhaven.example"), "is invited at this address already")
	require.NoError(t, again(d.ID, other))
	assert.ErrorIs(t, again(d.ID, ""), schedule.ErrNotFound, "it is not the newest any more")
	mail := box(t, other, 1)[0]
	calendar := strings.ReplaceAll(string(mail.Calendar), "\r\n ", "")
	assert.Contains(t, calendar, "mailto:"+other, "their program looks for the address that it came to")
	assert.NotContains(t, calendar, gone)
	eventually(t, "delivered", func() bool { return reachOf(t, ilse.ID, id, gone).Stage == reach.Delivered })
	require.NoError(t, running.World.Post.Answer(mail.Message, "ACCEPTED", ""))
	eventually(t, "it counts", func() bool { return look(t, ilse.ID, id).Invited[0].Answer == meeting.Accepted })

	// A change goes there as well, and another meeting knows the address.
	change(t, ilse.ID, id, func(d *meeting.Draft) { d.Title = "Crate sizes, again" })
	box(t, other, 2)
	next := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(gone)))).MeetingID
	eventually(t, "returned", func() bool { return reachOf(t, ilse.ID, next, gone).Lost() })
	w, err = service().Dispatch.Ways(t.Context(), me, reachOf(t, ilse.ID, next, gone).ID)
	require.NoError(t, err)
	require.Len(t, w.Known, 1)
	assert.Equal(t, other, w.Known[0].Email)

	require.NoError(t, service().Dispatch.Told(t.Context(), me, w.ID, schedule.MendedTold))
	assert.False(t, reachOf(t, ilse.ID, next, gone).Open())
	assert.Equal(t, 1, noted(t, ilse.ID, next, meeting.EventTold))
	require.NoError(t, service().Dispatch.Told(t.Context(), me, w.ID, schedule.MendedTold), "twice is once")
	assert.Equal(t, 1, noted(t, ilse.ID, next, meeting.EventTold))

	// Who answers was reached, whatever came back.
	eventually(t, "returned again", func() bool { return reachOf(t, ilse.ID, id, guest).Lost() })
	token := service().Seal.GuestToken(reachOf(t, ilse.ID, id, guest).ParticipantID, 0)
	require.NoError(t, service().Meetings.GuestAnswer(t.Context(), token, meetings.Given{Answer: meeting.Maybe, Seen: look(t, ilse.ID, id).Content.Sequence}))
	assert.False(t, reachOf(t, ilse.ID, id, guest).Open())
	assert.Equal(t, schedule.MendedAnswered, reachOf(t, ilse.ID, id, guest).Mended)
}
