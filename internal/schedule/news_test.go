package schedule_test

import (
	"net/netip"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/standin"
)

// newFor is what is new for somebody about one meeting, the newest first.
func newFor(t testing.TB, me, meetingID uuid.UUID) (out []schedule.NewsItem) {
	t.Helper()
	l, err := service().News.News(t.Context(), schedule.Self(me), schedule.Page{Most: 200})
	require.NoError(t, err)
	for _, n := range l.Items {
		if n.MeetingID == meetingID {
			out = append(out, n)
		}
	}
	return out
}

// told is what is new in words.
func told(n schedule.NewsItem) string {
	text := words.News(tongue.Tongue{}, meeting.Kind(n.Kind), n.News.News)
	for _, l := range words.NewsLines(tongue.Tongue{}, meeting.Kind(n.Kind), n.News.News, who0.Hours.Zone) {
		text += "; " + l.What + ": "
		if l.Was != "" {
			text += l.Was + " > "
		}
		text += l.Is
	}
	return text
}

var who0 schedule.Person

func TestColleaguesHearWhatIsNew(t *testing.T) {
	ilse, rui, tome := who(t, "ilse.marrant@marrowby.example"), who(t, "rui.calado@marrowby.example"), who(t, "tome.akande@marrowby.example")
	who0 = ilse
	loft, map_ := room(t, "Loft Studio"), room(t, "Map Room")
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Title, d.Start, d.End = "Seal check", "2026-12-29T09:30", "2026-12-29T10:30"
		d.People = []meeting.DraftPerson{{Email: rui.Email, Needed: true}, {Email: tome.Email}}
		d.RoomID, d.NoRoom = loft.ID.String(), false
	}))
	id := send(t, ilse.ID, s).MeetingID
	asked := newFor(t, rui.ID, id)
	require.Len(t, asked, 1)
	assert.Equal(t, "Ilse Marrant asks you to come; time: Tue 29 Dec 2026, 9:30 – 10:30; room: Loft Studio", told(asked[0]))
	assert.True(t, asked[0].Asks())
	assert.Nil(t, asked[0].ReadAt)
	assert.Empty(t, newFor(t, ilse.ID, id), "one's own deeds are no news")

	require.NoError(t, service().Meetings.Answer(t.Context(), schedule.Self(rui.ID), id, meetings.Given{Answer: meeting.Accepted, Comment: "With the log", Seen: asked[0].Sequence}))
	mine := newFor(t, ilse.ID, id)
	require.Len(t, mine, 1)
	assert.Contains(t, told(mine[0]), "Rui Calado answered: accepted")
	assert.Equal(t, "With the log", mine[0].Event.Comment)
	assert.False(t, newFor(t, rui.ID, id)[0].Asks(), "it is answered")

	change(t, ilse.ID, id, func(d *meeting.Draft) {
		d.Start, d.End, d.RoomID = "2026-12-30T11:00", "2026-12-30T12:00", map_.ID.String()
	})
	changed := newFor(t, rui.ID, id)
	require.Len(t, changed, 2)
	assert.Equal(t, "Ilse Marrant changed it; time: Tue 29 Dec 2026, 9:30 – 10:30 > Wed 30 Dec 2026, 11:00 – 12:00; room: Loft Studio > Map Room", told(changed[0]))
	assert.True(t, changed[0].Asks(), "another time is asked about again")

	change(t, ilse.ID, id, func(d *meeting.Draft) { d.People = d.People[:1] })
	dropped := newFor(t, tome.ID, id)
	assert.Equal(t, "Ilse Marrant took you off the list; time: Wed 30 Dec 2026, 11:00 – 12:00", told(dropped[0]))
	assert.False(t, dropped[0].Open(), "he cannot open it any more")
	assert.False(t, dropped[0].Asks())

	m := look(t, ilse.ID, id)
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), id, m.Version, nil, "The kiln is cold"))
	off := newFor(t, rui.ID, id)
	assert.Equal(t, "Ilse Marrant called it off; time: Wed 30 Dec 2026, 11:00 – 12:00", told(off[0]))
	assert.Equal(t, "The kiln is cold", off[0].Word)
	assert.Len(t, newFor(t, tome.ID, id), 3, "who is off the list hears nothing more")
}

func TestNewsOfSingleDatesAreForThoseOnThem(t *testing.T) {
	ilse, rui, tome := who(t, "ilse.marrant@marrowby.example"), who(t, "rui.calado@marrowby.example"), who(t, "tome.akande@marrowby.example")
	who0 = ilse
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Title, d.Start, d.End = "Lamp oil", "2027-01-05T15:00", "2027-01-05T15:30"
		d.People = []meeting.DraftPerson{{Email: rui.Email, Needed: true}, {Email: tome.Email, Needed: true, Dates: []meeting.DraftRange{{From: "2027-01-12", To: "2027-01-12"}}}}
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=TU", Ends: "after", Count: 4}
	}))
	id := send(t, ilse.ID, s).MeetingID
	assert.Contains(t, told(newFor(t, rui.ID, id)[0]), "time: Tue 5 Jan 2027, 15:00 – 15:30; repeats: every Tuesday")
	assert.Equal(t, "Ilse Marrant asks you to come; time: Tue 12 Jan 2027, 15:00 – 15:30", told(newFor(t, tome.ID, id)[0]))
	change(t, ilse.ID, id, func(d *meeting.Draft) {
		d.Scope = &meeting.DraftScope{At: "2027-01-19", From: "2027-01-19", To: "2027-01-19"}
		d.Start, d.End = "2027-01-20T15:00", "2027-01-20T15:30"
	})
	assert.Equal(t, "Ilse Marrant changed 19 January; time: Tue 19 Jan 2027, 15:00 – 15:30 > Wed 20 Jan 2027, 15:00 – 15:30", told(newFor(t, rui.ID, id)[0]))
	assert.Len(t, newFor(t, tome.ID, id), 1, "it is no date of his")
	change(t, ilse.ID, id, func(d *meeting.Draft) {
		d.Scope = &meeting.DraftScope{At: "2027-01-12", From: "2027-01-12", To: "2027-01-12"}
		d.Title, d.Start, d.End = "Lamp oil, the new one", "2027-01-12T15:00", "2027-01-12T15:30"
	})
	assert.Equal(t, "Ilse Marrant changed 12 January; title: Lamp oil > Lamp oil, the new one", told(newFor(t, rui.ID, id)[0]))
	his := newFor(t, tome.ID, id)[0]
	assert.Equal(t, "Lamp oil, the new one", his.Title)
	found := func(me uuid.UUID, text string) int {
		l, err := service().Meetings.Find(t.Context(), schedule.Self(me), text, schedule.Page{Most: 5})
		require.NoError(t, err)
		return len(l.Items)
	}
	assert.Equal(t, []int{1, 1}, []int{found(tome.ID, "lamp oil new"), found(rui.ID, "lamp oil new")})
}

func TestWhatIsAskedComesWithWhatItClashesWith(t *testing.T) {
	ilse, rui := who(t, "ilse.marrant@marrowby.example"), who(t, "rui.calado@marrowby.example")
	own := open(t, rui.ID, draft(func(d *meeting.Draft) { d.Title = "Frame glue" }))
	send(t, rui.ID, own)
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = strings.Replace(own.Draft.Start, "09:30", "10:00", 1), strings.Replace(own.Draft.End, "10:30", "11:00", 1)
		d.People = []meeting.DraftPerson{{Email: rui.Email, Needed: true}}
	}))
	id := send(t, ilse.ID, s).MeetingID
	asked := newFor(t, rui.ID, id)[0]
	require.Len(t, asked.Clashes, 1)
	assert.Equal(t, "Frame glue", asked.Clashes[0].Title)
	require.Len(t, look(t, rui.ID, id).Clashes, 1, "and on its page")
	assert.Empty(t, look(t, ilse.ID, id).Clashes, "what he has is not the organiser's to see")
}

func TestNewsAreReadOneByOneOrTogether(t *testing.T) {
	ilse, ana := who(t, "ilse.marrant@marrowby.example"), who(t, "ines.cordeiro@marrowby.example")
	unread := func() int {
		l, err := service().News.News(t.Context(), schedule.Self(ana.ID), schedule.Page{Most: 1})
		require.NoError(t, err)
		return l.Unread
	}
	invite := func() uuid.UUID {
		s := open(t, ilse.ID, draft(func(d *meeting.Draft) { d.People = []meeting.DraftPerson{{Email: ana.Email, Needed: true}} }))
		return send(t, ilse.ID, s).MeetingID
	}
	first, before := invite(), unread()
	second := invite()
	third := invite()
	assert.Equal(t, before+2, unread())
	read := func(ids []uuid.UUID, meetingID uuid.UUID, upTo time.Time) {
		require.NoError(t, service().News.Read(t.Context(), schedule.Self(ana.ID), ids, meetingID, upTo))
	}
	read(nil, second, time.Time{})
	assert.Equal(t, before+1, unread())
	assert.NotNil(t, newFor(t, ana.ID, second)[0].ReadAt)
	read([]uuid.UUID{newFor(t, ana.ID, third)[0].ID}, uuid.Nil, time.Time{})
	assert.Equal(t, before, unread())
	read(nil, uuid.Nil, service().Now())
	assert.Zero(t, unread())
	assert.NotNil(t, newFor(t, ana.ID, first)[0].ReadAt)
	require.NoError(t, service().News.Read(t.Context(), schedule.Self(ilse.ID), []uuid.UUID{newFor(t, ana.ID, first)[0].ID}, uuid.Nil, time.Time{}), "of somebody else: nothing happens")
}

func TestWhoIsAwayHearsByMail(t *testing.T) {
	ilse, zofia := who(t, "ilse.marrant@marrowby.example"), who(t, "akua.danso@marrowby.example")
	ours := func() (mine []standin.Read) {
		for _, m := range running.World.Post.Box(zofia.Email) {
			r, err := standin.ReadMail(m)
			require.NoError(t, err)
			if strings.Contains(r.Text, "/new") {
				mine = append(mine, r)
			}
		}
		return mine
	}
	invite := func(title string) {
		s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
			d.Title, d.People = title, []meeting.DraftPerson{{Email: zofia.Email, Needed: true}}
		}))
		send(t, ilse.ID, s)
	}
	later := *service()
	at := func(after time.Duration) {
		news := *later.News
		clock := news.Clock
		news.Clock = func() time.Time { return clock().Add(after) }
		require.NoError(t, news.MailNews(t.Context()))
	}
	invite("Wax seals")
	at(time.Minute)
	assert.Empty(t, ours(), "they wait for others")
	invite("Wax stamps")
	at(6 * time.Minute)
	mails := ours()
	require.Len(t, mails, 1, "one mail for both")
	assert.Equal(t, "2 things new for you", mails[0].Subject)
	assert.Contains(t, mails[0].Text, "Wax seals\r\nIlse Marrant asks you to come\r\n")
	assert.Contains(t, mails[0].Text, "Wax stamps")
	at(20 * time.Minute)
	assert.Len(t, ours(), 1, "once")

	require.NoError(t, service().News.SetMail(t.Context(), schedule.Self(zofia.ID), schedule.MailNever))
	invite("Wax knives")
	at(6 * time.Minute)
	assert.Len(t, ours(), 1, "who wants none gets none")
	require.Error(t, service().News.SetMail(t.Context(), schedule.Self(zofia.ID), "sometimes"))

	require.NoError(t, service().News.SetMail(t.Context(), schedule.Self(zofia.ID), schedule.MailAway))
	_, _, err := service().Account.SignIn(t.Context(), zofia.Email, "lantern-quay", netip.MustParseAddr("192.0.2.7"))
	require.NoError(t, err)
	at(6 * time.Minute)
	assert.Len(t, ours(), 1, "who was here sees it here")
}
