package schedule_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

// tokenOf is the address of somebody's own page.
func tokenOf(t testing.TB, me, id uuid.UUID, email string) string {
	t.Helper()
	for _, i := range look(t, me, id).Invited {
		if i.Email == email {
			return service().Seal.GuestToken(i.ID, i.Page)
		}
	}
	require.Fail(t, email+" is not invited")
	return ""
}

func fieldOf(t testing.TB, err error) (field, sentence string) {
	t.Helper()
	var invalid *schedule.InvalidError
	require.ErrorAs(t, err, &invalid)
	return invalid.Faults[0].Field, words.English(invalid.Faults[0].What)
}

func TestGuestsBringOthers(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	const guest, friend = "brings@kirisame.example", "brought@kirisame.example"
	begin := func(alter func(*meeting.Draft)) uuid.UUID {
		return send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
			outsiders(guest)(d)
			d.People = append(d.People, meeting.DraftPerson{Email: rui.Email, Needed: true})
			alter(d)
		}))).MeetingID
	}
	bring := func(id uuid.UUID, name, email string) error {
		return service().Sheets.BringAsGuest(t.Context(), tokenOf(t, ilse.ID, id, guest), sheets.Brings{Name: name, Email: email})
	}
	closed := begin(func(*meeting.Draft) {})
	_, sentence := fieldOf(t, bring(closed, "", friend))
	assert.Contains(t, sentence, "Ask Ilse Marrant")
	require.Error(t, service().Sheets.Bring(t.Context(), schedule.Self(rui.ID), closed, sheets.Brings{Email: friend}))

	id := begin(func(d *meeting.Draft) { d.Bring = true })
	// Changes that the organiser has begun are neither lost nor in the way.
	begun, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), id, sheets.Opening{})
	require.NoError(t, err)
	begun.Draft.Title = "Half a title"
	_, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), begun.ID, begun.Version, begun.Draft, "")
	require.NoError(t, err)
	require.NoError(t, bring(id, "E. Mori", friend))
	m := box(t, friend, 1)[0]
	assert.Contains(t, m.Text, "invites you")
	d := look(t, ilse.ID, id)
	last := d.Content.Participants[len(d.Content.Participants)-1]
	assert.Equal(t, []any{"E. Mori", false, guest}, []any{last.Name, last.Needed, last.BroughtBy})
	assert.Equal(t, guest+" brings E. Mori along", words.Event(tongue.Tongue{}, d.Happenings[0].Event))
	assert.Equal(t, 0, d.Content.Sequence, "nobody is asked again for that")
	box(t, guest, 2) // of both meetings
	assert.Equal(t, 1, len(running.World.Post.Box(friend)))
	assert.NotEmpty(t, newFor(t, ilse.ID, id), "the organiser learns of it")

	for email, says := range map[string]string{friend: "invited already", "ILSE.marrant@marrowby.example": "organises this meeting", "nobody": "not an e-mail address"} {
		field, sentence := fieldOf(t, bring(id, "", email))
		assert.Equal(t, "email", field)
		assert.Contains(t, sentence, says)
	}
	// At the same moment, and no more than there are.
	var all sync.WaitGroup
	errs := make([]error, 8)
	for i := range errs {
		all.Go(func() { errs[i] = bring(id, "", fmt.Sprintf("brought%d@kirisame.example", i)) })
	}
	all.Wait()
	brought := 0
	for _, err := range errs {
		if err == nil {
			brought++
		} else {
			_, sentence := fieldOf(t, err)
			assert.Contains(t, sentence, "You have brought 5 people along")
		}
	}
	assert.Equal(t, meeting.BringLimit-1, brought)

	// A colleague may as well; where those invited are kept apart nobody learns who is invited.
	apart := begin(func(d *meeting.Draft) { d.Bring, d.Apart = true, true })
	require.NoError(t, service().Sheets.Bring(t.Context(), schedule.Self(rui.ID), apart, sheets.Brings{Email: guest}))
	assert.Len(t, look(t, ilse.ID, apart).Content.Participants, 2)
	require.NoError(t, service().Sheets.Bring(t.Context(), schedule.Self(rui.ID), apart, sheets.Brings{Email: "apart@kirisame.example"}))
	mine, err := service().Meetings.Meeting(t.Context(), schedule.Self(rui.ID), apart)
	require.NoError(t, err)
	assert.Len(t, mine.Content.Participants, 2, "themselves and whom they bring")
}

// TestWhoBringsIsInvitedToSomeDates: whom they bring is invited to no others.
func TestWhoBringsIsInvitedToSomeDates(t *testing.T) {
	ilse := who(t, demo.Ilse)
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 5}
		d.Bring = true
		outsiders("all@kirisame.example", "twodates@kirisame.example")(d)
		d.People[1].Dates = []meeting.DraftRange{{From: addDays(d.Start, 7), To: addDays(d.Start, 14)}}
	}))).MeetingID
	require.NoError(t, service().Sheets.BringAsGuest(t.Context(), tokenOf(t, ilse.ID, id, "twodates@kirisame.example"), sheets.Brings{Email: "along@kirisame.example"}))
	m := look(t, ilse.ID, id).Content
	assert.Equal(t, m.Participants[1].Dates, m.Participants[2].Dates)
	// Once their dates are over they bring nobody, least of all to the others.
	ahead := later(m.StartIn().Instant().Time().AddDate(0, 0, 18).Sub(service().Now()))
	_, sentence := fieldOf(t, ahead.Sheets.BringAsGuest(t.Context(), tokenOf(t, ilse.ID, id, "twodates@kirisame.example"), sheets.Brings{Email: "toolate@kirisame.example"}))
	assert.Equal(t, "The dates that you are invited to are over.", sentence)
}

// TestAllDatesOfASeriesAreTheOrganisersToMove: one of them is moved by right, all are proposed.
func TestAllDatesOfASeriesAreTheOrganisersToMove(t *testing.T) {
	ilse := who(t, demo.Ilse)
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 4}
		d.Move = true
		outsiders("movesone@kirisame.example")(d)
	}))).MeetingID
	m := look(t, ilse.ID, id).Content
	propose := func(on when.Day, day when.Day) {
		t.Helper()
		require.NoError(t, service().Sheets.ProposeAsGuest(t.Context(), tokenOf(t, ilse.ID, id, "movesone@kirisame.example"),
			meetings.Proposing{On: on, Zone: m.Zone, Day: day.String(), From: "15:00", To: "1 h", Seen: look(t, ilse.ID, id).Content.Sequence}))
	}
	propose(0, m.Start.Day)
	assert.Equal(t, "9:30", look(t, ilse.ID, id).Content.Start.Clock.String())
	require.Len(t, proposals(t, ilse.ID, id), 1)
	second := m.Start.Day + 7
	propose(second, second)
	d, ok := look(t, ilse.ID, id).Content.Date(second)
	require.True(t, ok)
	assert.Equal(t, "15:00", d.Start.Clock.String())
	first, _ := look(t, ilse.ID, id).Content.Date(m.Start.Day)
	assert.Equal(t, "9:30", first.Start.Clock.String())
}

func addDays(local string, days int) string {
	at, err := time.Parse("2006-01-02T15:04", local)
	if err != nil {
		panic(err)
	}
	return at.AddDate(0, 0, days).Format(time.DateOnly)
}

func TestGuestsMoveIt(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	const guest = "moves@kirisame.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		outsiders(guest)(d)
		d.People = append(d.People, meeting.DraftPerson{Email: rui.Email, Needed: true})
		d.RoomID, d.NoRoom, d.Move = room(t, "Map Room").ID.String(), false, true
	}))).MeetingID
	was := look(t, ilse.ID, id).Content
	token := tokenOf(t, ilse.ID, id, guest)
	propose := func(from string) {
		t.Helper()
		require.NoError(t, service().Sheets.ProposeAsGuest(t.Context(), token, meetings.Proposing{Zone: was.Zone, Day: was.Start.Day.String(), From: from, To: "1 h", Seen: look(t, ilse.ID, id).Content.Sequence}))
	}
	propose("14:00")
	d := look(t, ilse.ID, id)
	assert.Equal(t, "14:00", d.Content.Start.Clock.String())
	var story []string
	for _, h := range d.Happenings {
		story = append(story, words.Event(tongue.Tongue{}, h.Event))
	}
	assert.Contains(t, story, guest+" changed time and told 2 people")
	v, err := service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, schedule.ProposalTaken, v.Proposed.State)
	assert.Equal(t, 1, len(booked(t, room(t, "Map Room").ID, id)))
	box(t, guest, 2)

	// Somebody needed is busy then, or the room is taken: the organiser decides.
	day := was.Start.Day.String()
	send(t, rui.ID, open(t, rui.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = day+"T16:00", day+"T17:00"
		outsiders("elsewhere@kirisame.example")(d)
	})))
	tome := who(t, "tome.akande@marrowby.example")
	send(t, tome.ID, open(t, tome.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = day+"T11:00", day+"T12:00"
		outsiders("elsewhere@kirisame.example")(d)
		d.RoomID, d.NoRoom = room(t, "Map Room").ID.String(), false
	})))
	for _, from := range []string{"16:30", "11:30"} {
		propose(from)
		assert.Equal(t, "14:00", look(t, ilse.ID, id).Content.Start.Clock.String())
		require.Len(t, proposals(t, ilse.ID, id), 1)
	}
	// By mail as well.
	m := box(t, guest, 2)[1]
	require.NoError(t, running.World.Post.Counter(m.Message, was.StartIn().Instant().Time().Add(8*time.Hour+30*time.Minute), "After the courier"))
	eventually(t, "it is moved", func() bool { return look(t, ilse.ID, id).Content.Start.Clock.String() == "18:00" })
	box(t, guest, 3)
	// Without the right it is proposed as ever.
	change(t, ilse.ID, id, func(d *meeting.Draft) { d.Move = false })
	propose("15:00")
	assert.Equal(t, "18:00", look(t, ilse.ID, id).Content.Start.Clock.String())
}

// TestADelegateComesByRight: where those invited may bring others, whom they send is invited at once.
func TestADelegateComesByRight(t *testing.T) {
	ilse := who(t, demo.Ilse)
	const sender, delegate = "sends.byright@kirisame.example", "comes.byright@kirisame.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		outsiders(sender)(d)
		d.Bring = true
	}))).MeetingID
	require.NoError(t, running.World.Post.Delegate(box(t, sender, 1)[0].Message, delegate, "On leave"))
	m := box(t, delegate, 1)[0]
	assert.Contains(t, m.Subject, "Invitation")
	content := look(t, ilse.ID, id).Content
	_, sends := content.DelegateOf(content.Participants[0])
	assert.True(t, sends)
	eventually(t, "nothing is left to decide", func() bool {
		for _, l := range look(t, ilse.ID, id).Letters {
			if l.State == schedule.LetterOpen {
				return false
			}
		}
		return true
	})
}
