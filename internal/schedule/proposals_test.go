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
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

func proposals(t testing.TB, me, id uuid.UUID) []sheets.Proposal {
	t.Helper()
	all, err := service().Sheets.Proposals(t.Context(), schedule.Self(me), id)
	require.NoError(t, err)
	return all
}

// TestAnotherTimeByMail: a mail program proposes another time, the organiser sees who can and
// which rooms are clear, and moves there; everybody is told, and what was proposed meanwhile for
// the old time is over.
func TestAnotherTimeByMail(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(ilse.ID)
	day := when.DayOf(service().Now().Date()) + 4
	const onari, other = "counter@kirisame.example", "counter2@kirisame.example"
	id := send(t, ilse.ID, open(t, ilse.ID, soonDraft(day, "20:00", func(d *meeting.Draft) {
		outsiders(onari, other)(d)
		d.People = append(d.People, meeting.DraftPerson{Email: rui.Email, Needed: true})
		d.RoomID, d.NoRoom = room(t, "Reading Bay").ID.String(), false
	}))).MeetingID
	was := look(t, ilse.ID, id).Content.Span()
	// Rui cannot an hour later, and the room is taken two hours later.
	busy := send(t, rui.ID, open(t, rui.ID, soonDraft(day, "21:00", func(d *meeting.Draft) { d.People = nil }))).MeetingID
	taken := send(t, rui.ID, open(t, rui.ID, soonDraft(day, "22:00", func(d *meeting.Draft) {
		d.People, d.RoomID, d.NoRoom = nil, room(t, "Reading Bay").ID.String(), false
	}))).MeetingID

	m := box(t, onari, 1)[0]
	require.NoError(t, running.World.Post.Counter(m.Message, was.Start.Add(time.Hour).Time(), "After the courier has been"))
	require.NoError(t, running.World.Post.Counter(box(t, other, 1)[0].Message, was.Start.Add(2*time.Hour).Time(), ""))
	eventually(t, "both proposed", func() bool { return len(proposals(t, ilse.ID, id)) == 2 })
	all := proposals(t, ilse.ID, id)
	by := map[string]sheets.Proposal{all[0].By.Email: all[0], all[1].By.Email: all[1]}
	first, second := by[onari], by[other]
	assert.Equal(t, was.Start.Add(time.Hour), first.Span.Start)
	assert.Equal(t, was.Length(), first.Span.Length())
	assert.Contains(t, first.Comment, "After the courier has been")
	require.True(t, first.RoomClear)
	busyThen := func(p sheets.Proposal) (out []string) {
		for _, x := range p.Day.Troubles {
			if x.Busy {
				out = append(out, p.Day.Lanes[x.Person].Name)
			}
		}
		return out
	}
	assert.Equal(t, []string{rui.Name}, busyThen(first))
	assert.False(t, second.RoomClear)
	require.NotEmpty(t, second.Rooms)
	assert.Equal(t, []loose.Kind{loose.Proposed, loose.Proposed}, kindsOf(endsOf(t, ilse.ID, id)))
	assert.NotContains(t, string(look(t, ilse.ID, id).Happenings[0].Kind), "letter", "it is no letter")

	// Nobody else decides, and what is not there cannot be taken.
	assert.ErrorIs(t, service().Sheets.TakeProposal(t.Context(), schedule.Self(rui.ID), id, first.ID, uuid.Nil), schedule.ErrNotFound)
	assert.ErrorIs(t, service().Sheets.TakeProposal(t.Context(), me, id, uuid.New(), uuid.Nil), schedule.ErrNotFound)

	// The room that is taken then keeps it from moving; another one does not.
	assert.Error(t, service().Sheets.TakeProposal(t.Context(), me, id, second.ID, uuid.Nil))
	assert.Equal(t, was, look(t, ilse.ID, id).Content.Span(), "nothing of it stays")
	require.NoError(t, service().Sheets.TakeProposal(t.Context(), me, id, second.ID, second.Rooms[0].ID))
	now := look(t, ilse.ID, id).Content
	assert.Equal(t, second.Span, now.Span())
	assert.Equal(t, second.Rooms[0].Name, now.Room.Name)
	assert.Empty(t, proposals(t, ilse.ID, id), "what was proposed for the old time is over")
	assert.Empty(t, endsOf(t, ilse.ID, id))
	moved := box(t, onari, 2)[1]
	assert.Contains(t, string(moved.Calendar), "METHOD:REQUEST")
	assert.Contains(t, string(moved.Calendar), "SEQUENCE:1")

	// To what they had before nothing can be proposed any more.
	require.NoError(t, running.World.Post.Counter(m.Message, was.Start.Add(3*time.Hour).Time(), ""))
	eventually(t, "an older one is noted", func() bool {
		h := look(t, ilse.ID, id).Happenings[0].Event
		return h.Kind == meeting.EventProposed && h.Verdict == meeting.Older
	})
	assert.Empty(t, proposals(t, ilse.ID, id))
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE meeting SET called_off_at = now() WHERE id = ANY($1)", []uuid.UUID{id, busy, taken})
	require.NoError(t, err)
}

// TestTheTimeIsKept: who proposed another one on the guest's page hears of it in the form that a
// calendar program understands, and can propose again; colleagues hear of it inside.
func TestTheTimeIsKept(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(ilse.ID)
	const guest = "kept@kirisame.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		outsiders(guest)(d)
		d.People = append(d.People, meeting.DraftPerson{Email: rui.Email, Needed: true})
	}))).MeetingID
	d := look(t, ilse.ID, id)
	var token string
	for _, i := range d.Invited {
		if i.Email == guest {
			token = service().Seal.GuestToken(i.ID, 0)
		}
	}
	start := d.Content.Start.Add(2 * time.Hour)
	at := func(l when.Local) (day, from, to string) { return l.Day.String(), l.Clock.String(), "1 h" }
	p := meetings.Proposing{Zone: "Asia/Tokyo", Comment: "Evening here"}
	p.Day, p.From, p.To = at(start)
	propose := func(p meetings.Proposing) error { return service().Sheets.ProposeAsGuest(t.Context(), token, p) }

	for field, change := range map[string]func(*meetings.Proposing){
		"zone":    func(p *meetings.Proposing) { p.Zone = "Mars/Base" },
		"day":     func(p *meetings.Proposing) { p.Day = "someday" },
		"from":    func(p *meetings.Proposing) { p.From = "soon" },
		"to":      func(p *meetings.Proposing) { p.To = "late" },
		"comment": func(p *meetings.Proposing) { p.Comment = strings.Repeat("x", 1001) },
	} {
		wrong := p
		change(&wrong)
		var invalid *schedule.InvalidError
		require.ErrorAs(t, propose(wrong), &invalid, field)
		assert.Equal(t, field, invalid.Faults[0].Field)
	}
	same := meetings.Proposing{Day: d.Content.Start.Day.String(), From: d.Content.Start.Clock.String(), To: d.Content.End.Clock.String(), Zone: d.Content.Zone}
	refusedWith(t, propose(same), "when it is already")
	past := meetings.Proposing{Day: "2026-11-23", From: "10:00", To: "11:00", Zone: d.Content.Zone}
	refusedWith(t, propose(past), "has passed")
	far := meetings.Proposing{Day: "2199-12-31", From: "10:00", To: "11:00", Zone: d.Content.Zone}
	refusedWith(t, propose(far), "before the year 2199")

	require.NoError(t, propose(p))
	require.NoError(t, propose(p), "the same twice is one")
	require.Len(t, proposals(t, ilse.ID, id), 1)
	p.Day, p.From, p.To = at(start.Add(time.Hour))
	require.NoError(t, propose(p))
	all := proposals(t, ilse.ID, id)
	require.Len(t, all, 1, "a newer one takes the place of the older")
	v, err := service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, schedule.ProposalOpen, v.Proposed.State)

	require.NoError(t, service().Sheets.Propose(t.Context(), schedule.Self(rui.ID), id, p))
	refusedWith(t, service().Sheets.Propose(t.Context(), me, id, p), "You organise this meeting")
	all = proposals(t, ilse.ID, id)
	require.Len(t, all, 2, "several side by side")
	for _, x := range all {
		require.NoError(t, service().Meetings.KeepTime(t.Context(), me, id, x.ID, "Sorry, the courier comes at that hour."))
		assert.ErrorIs(t, service().Meetings.KeepTime(t.Context(), me, id, x.ID, ""), schedule.ErrNotFound, "decided once")
	}
	mail := box(t, guest, 2)[1]
	assert.Contains(t, mail.Subject, "Stays as it is: ")
	assert.Contains(t, mail.Text, "Sorry, the courier comes at that hour.")
	calendar := string(mail.Calendar)
	for _, line := range []string{"METHOD:DECLINECOUNTER", "UID:" + d.Content.UID, "SEQUENCE:0", "COMMENT:Sorry\\, the courier comes at that hour."} {
		assert.Contains(t, calendar, line)
	}
	assert.NotContains(t, calendar, "VALARM", "RFC 5546, 3.2.8")
	news, err := service().News.News(t.Context(), schedule.Self(rui.ID), schedule.Page{Most: 5})
	require.NoError(t, err)
	assert.Equal(t, meeting.EventKept, news.Items[0].Event.Kind)
	v, err = service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, schedule.ProposalKept, v.Proposed.State)
	assert.Equal(t, meeting.NoAnswer, v.Guest.Answer, "proposing is no answer")
}

// TestOneDateIsProposedElsewhere moves a date of a series, the others stay.
func TestOneDateIsProposedElsewhere(t *testing.T) {
	ilse := who(t, demo.Ilse)
	const guest = "date@kirisame.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		outsiders(guest)(d)
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 4}
	}))).MeetingID
	d := look(t, ilse.ID, id)
	token := service().Seal.GuestToken(d.Invited[0].ID, 0)
	second := d.Content.Start.Day + 7
	at := when.Local{Day: second + 1, Clock: d.Content.Start.Clock}
	p := meetings.Proposing{On: second, Day: at.Day.String(), From: at.Clock.String(), To: at.Add(time.Hour).Clock.String(), Zone: d.Content.Zone}
	require.NoError(t, service().Sheets.ProposeAsGuest(t.Context(), token, p))
	all := proposals(t, ilse.ID, id)
	require.Len(t, all, 1)
	require.NoError(t, service().Sheets.TakeProposal(t.Context(), schedule.Self(ilse.ID), id, all[0].ID, uuid.Nil))
	m := look(t, ilse.ID, id).Content
	moved, _ := m.Date(second)
	assert.Equal(t, at, moved.Start)
	third, _ := m.Date(second + 7)
	assert.Equal(t, second+7, third.Start.Day)
	p.On = second + 3
	refusedWith(t, service().Sheets.ProposeAsGuest(t.Context(), token, p), "no such date")

	// All dates move by as much.
	first := m.Start.Add(30 * time.Minute)
	all4 := meetings.Proposing{Day: first.Day.String(), From: first.Clock.String(), To: "60 min", Zone: m.Zone, Seen: m.Sequence}
	require.NoError(t, service().Sheets.ProposeAsGuest(t.Context(), token, all4))
	all = proposals(t, ilse.ID, id)
	require.Len(t, all, 1)
	require.NoError(t, service().Sheets.TakeProposal(t.Context(), schedule.Self(ilse.ID), id, all[0].ID, uuid.Nil))
	m = look(t, ilse.ID, id).Content
	assert.Equal(t, first, m.Start)
}

// TestWhoAsksHowItStands gets it alone, with what they answered, and two programs that ask each
// other come to an end.
func TestWhoAsksHowItStands(t *testing.T) {
	ilse := who(t, demo.Ilse)
	const asks, other = "refresh@kirisame.example", "refresh2@kirisame.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(asks, other)))).MeetingID
	m := box(t, asks, 1)[0]
	require.NoError(t, running.World.Post.Answer(m.Message, "ACCEPTED", ""))
	eventually(t, "accepted", func() bool { return look(t, ilse.ID, id).Invited[0].Answer == meeting.Accepted })
	require.NoError(t, running.World.Post.Refresh(m.Message))
	again := box(t, asks, 2)[1]
	assert.Contains(t, again.Text, "sends you this meeting as it stands")
	assert.Contains(t, strings.ReplaceAll(string(again.Calendar), "\r\n ", ""), "PARTSTAT=ACCEPTED")
	for range 6 {
		require.NoError(t, running.World.Post.Refresh(again.Message))
	}
	time.Sleep(500 * time.Millisecond)
	assert.LessOrEqual(t, len(running.World.Post.Box(asks)), 3)
	assert.Len(t, running.World.Post.Box(other), 1, "nobody else hears of it")
}

// TestSomebodyElseIsSent: the organiser invites whom somebody sends; both know of each other in
// the form of RFC 5545, 3.2.4 and 3.2.5.
func TestSomebodyElseIsSent(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	const sender, delegate = "c.delegates@kirisame.example", "e.comes@kirisame.example"
	day := when.DayOf(service().Now().Date()) + 1
	id := send(t, ilse.ID, open(t, ilse.ID, soonDraft(day, "23:00", outsiders(sender)))).MeetingID
	require.NoError(t, running.World.Post.Delegate(box(t, sender, 1)[0].Message, delegate, "On leave"))
	var letter schedule.LetterIn
	eventually(t, "it waits to be decided", func() bool {
		for _, l := range look(t, ilse.ID, id).Letters {
			letter = l
		}
		return letter.State == schedule.LetterOpen
	})
	assert.Equal(t, meeting.Delegates, letter.Answers[0].Verdict)
	assert.Equal(t, delegate, letter.Answers[0].Delegate)
	require.Equal(t, []loose.Kind{loose.Unclear}, kindsOf(endsOf(t, ilse.ID, id)))
	require.NoError(t, service().Sheets.InviteDelegate(t.Context(), me, id, letter.ID))
	assert.ErrorIs(t, service().Sheets.InviteDelegate(t.Context(), me, id, letter.ID), schedule.ErrNotFound, "decided once")
	assert.Empty(t, endsOf(t, ilse.ID, id))
	mail := box(t, delegate, 1)[0]
	calendar := strings.ReplaceAll(string(mail.Calendar), "\r\n ", "")
	assert.Contains(t, calendar, `DELEGATED-FROM="mailto:`+sender+`"`)
	assert.Contains(t, calendar, `DELEGATED-TO="mailto:`+delegate+`"`)
	assert.Contains(t, calendar, "PARTSTAT=DELEGATED")
	require.NoError(t, running.World.Post.Answer(mail.Message, "ACCEPTED", ""))
	eventually(t, "they come", func() bool {
		for _, i := range look(t, ilse.ID, id).Invited {
			if i.Email == delegate {
				return i.Answer == meeting.Accepted
			}
		}
		return false
	})
	// What was sent in between keeps who stands for whom when the sheet changes it.
	_, ok := look(t, ilse.ID, id).Content.DelegateOf(look(t, ilse.ID, id).Content.Participants[0])
	assert.True(t, ok)
}

// TestAnAliasIsRemembered: who was once matched is known the next time, to this organiser alone.
func TestAnAliasIsRemembered(t *testing.T) {
	ilse := who(t, demo.Ilse)
	const invited, alias = "office@setsu.example", "setsu@home.example"
	first := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(invited)))).MeetingID
	p := writesTo(t, ilse, first)
	p.mail(alias, yes(1, 0))
	letters := look(t, ilse.ID, first).Letters
	require.Len(t, letters, 1)
	require.NoError(t, service().Meetings.Decide(t.Context(), schedule.Self(ilse.ID), first, letters[0].ID, meetings.Decision{As: look(t, ilse.ID, first).Invited[0].ID}))
	assert.Equal(t, meeting.Accepted, p.answer(invited))

	second := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(invited)))).MeetingID
	p = writesTo(t, ilse, second)
	p.mail(alias, no(1, 0))
	assert.Equal(t, meeting.Declined, p.answer(invited), "it counts by itself")
	assert.Equal(t, invited+" answered: declined (by mail). Written by "+alias, p.line())

	tome := who(t, "tome.akande@marrowby.example")
	third := send(t, tome.ID, open(t, tome.ID, draft(outsiders(invited)))).MeetingID
	p = writesTo(t, tome, third)
	p.mail(alias, yes(1, 0))
	assert.Equal(t, meeting.NoAnswer, p.answer(invited), "what one organiser learnt is not another's")
}

// TestPlainWords: what somebody invited writes without a program's answer is asked about: is it a
// yes?
func TestPlainWords(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	const guest = "plain@kirisame.example"
	day := when.DayOf(service().Now().Date()) + 2
	id := send(t, ilse.ID, open(t, ilse.ID, soonDraft(day, "23:00", outsiders(guest)))).MeetingID
	require.NoError(t, running.World.Post.Write(box(t, guest, 1)[0].Message, "Of course I will be there, with the samples."))
	eventually(t, "asked about", func() bool { return len(endsOf(t, ilse.ID, id)) == 1 })
	e := endsOf(t, ilse.ID, id)[0]
	assert.Equal(t, meeting.Spoken, e.Mail.Verdict)
	require.NotNil(t, e.Suggested)
	decide := func(how meetings.Decision) error {
		return service().Meetings.Decide(t.Context(), me, id, e.Letter.ID, how)
	}
	refusedWith(t, decide(meetings.Decision{As: e.Suggested.ID}), "Say whether it is a yes")
	require.NoError(t, decide(meetings.Decision{As: e.Suggested.ID, Answer: meeting.Accepted}))
	d := look(t, ilse.ID, id)
	assert.Equal(t, meeting.Accepted, d.Invited[0].Answer)
	assert.Contains(t, d.Invited[0].Comment, "with the samples")
	assert.Empty(t, endsOf(t, ilse.ID, id))
}
