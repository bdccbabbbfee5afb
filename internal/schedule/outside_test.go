package schedule_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/standin"
)

// ostrel is a fresh link there.
var ostrel = links.Choice{Provider: "ostrel"}

func TestLinkIsMadeBeforeAnythingIsSentAndStays(t *testing.T) {
	ilse := who(t, demo.Ilse)
	d := draft(func(d *meeting.Draft) { // in winter, when Lisbon is on UTC
		d.NoLink, d.Start, d.End = false, "2027-01-22T09:30", "2027-01-22T10:30"
	})
	s := open(t, ilse.ID, d)
	exec(t, `DELETE FROM connection WHERE person_id = $1`, ilse.ID)
	_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, ostrel)
	require.ErrorIs(t, err, schedule.ErrConnect, "she has not signed in there")
	connect(t, ilse)
	s, err = service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, ostrel)
	require.NoError(t, err)
	require.NotNil(t, s.Card)
	assert.NotEmpty(t, s.Card.Number)
	assert.NotEmpty(t, s.Card.Passcode)
	assert.Equal(t, 45, s.Card.LimitMinutes)
	same, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, ostrel)
	require.NoError(t, err)
	assert.Equal(t, s.Card, same.Card, "a meeting has one link")

	sent := send(t, ilse.ID, same)
	call := func() standin.Gathering {
		g, ok := running.World.Ostrel.Gathering(s.Card.Keep["id"])
		require.True(t, ok)
		return g
	}
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) {
		d.Title, d.Start, d.End = "Crate sizes, moved", d.Start[:11]+"14:00", d.End[:11]+"15:00"
	})
	assert.Equal(t, s.Card, look(t, ilse.ID, sent.MeetingID).Content.Card, "the link stays through every change")
	eventually(t, "the call follows the meeting", func() bool {
		return call().Topic == "Crate sizes, moved" && strings.Contains(call().Opens, "T14:00:00Z")
	})
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, 2, nil, ""))
	eventually(t, "the call is withdrawn", func() bool { return call().Withdrawn })
}

func TestALinkThatNobodyNeedsIsWithdrawn(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	attach := func(s schedule.Sheet) schedule.Sheet {
		s, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, ostrel)
		require.NoError(t, err)
		return s
	}
	withdrawn := func(s schedule.Sheet) func() bool {
		return func() bool { g, _ := running.World.Ostrel.Gathering(s.Card.Keep["id"]); return g.Withdrawn }
	}
	thrown := attach(open(t, ilse.ID, draft(nil)))
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), thrown.ID))
	eventually(t, "a sheet thrown away", withdrawn(thrown))

	dropped := attach(open(t, ilse.ID, draft(nil)))
	_, err := service().Links.DropLink(t.Context(), schedule.Self(ilse.ID), dropped.ID, false)
	require.NoError(t, err)
	eventually(t, "a link taken off", withdrawn(dropped))

	// Changes thrown away leave the link of the meeting alone.
	kept := attach(open(t, ilse.ID, draft(nil)))
	sent := send(t, ilse.ID, kept)
	changes, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), changes.ID))
	time.Sleep(300 * time.Millisecond)
	assert.False(t, withdrawn(kept)())
}

func TestOstrelAwayOrBrokenKeepsTheSheet(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	s := open(t, ilse.ID, draft(nil))
	for _, mode := range []standin.Mode{standin.Away, standin.Failing} {
		running.World.Switch("ostrel", mode)
		fresh := open(t, ilse.ID, callDraft(nil))
		_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), fresh.ID, ostrel)
		assert.ErrorIs(t, err, schedule.ErrUnreachable, mode)
		kept, _, err := sheetOf(t, ilse.ID, fresh.ID)
		require.NoError(t, err)
		assert.Equal(t, fresh.Draft.People, kept.Draft.People)
		assert.True(t, kept.Card.Awaited(), "the sheet waits for its link")
		running.World.Switch("ostrel", standin.Working)
		eventually(t, "the link comes by itself", func() bool {
			kept, _, err = sheetOf(t, ilse.ID, fresh.ID)
			return err == nil && kept.Card.Made()
		})
	}
	_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, ostrel)
	assert.NoError(t, err, "trying again works")

	running.World.Ostrel.Forget()
	fresh := open(t, ilse.ID, draft(nil))
	_, err = service().Links.Choose(t.Context(), schedule.Self(ilse.ID), fresh.ID, ostrel)
	assert.ErrorIs(t, err, schedule.ErrConnect, "signed out there")
	connect(t, ilse)
	_, err = service().Links.Choose(t.Context(), schedule.Self(ilse.ID), fresh.ID, ostrel)
	assert.NoError(t, err)
}

func TestTokensAreSealedAtRest(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	var sealed []byte
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT sealed FROM connection WHERE person_id = $1", ilse.ID).Scan(&sealed))
	assert.NotContains(t, string(sealed), "access_token")
	plain, err := service().Seal.Unlock(sealed)
	require.NoError(t, err)
	assert.Contains(t, string(plain), "access_token")
	other, err := schedule.NewSeal([]byte("another secret of the house"))
	require.NoError(t, err)
	_, err = other.Unlock(sealed)
	assert.Error(t, err)
	_, err = schedule.NewSeal([]byte("short"))
	assert.Error(t, err)
}

func TestASignInIsForOnePersonAndOnce(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	s := open(t, ilse.ID, draft(nil))
	to, err := service().Links.StartConnecting(t.Context(), schedule.Self(ilse.ID), "ostrel", s.ID)
	require.NoError(t, err)
	state := to[strings.Index(to, "state=")+6:]
	_, err = service().Links.FinishConnecting(t.Context(), schedule.Self(rui.ID), "ostrel", state, "code")
	assert.ErrorIs(t, err, schedule.ErrNotFound, "somebody else's")
	back, err := service().Links.FinishConnecting(t.Context(), schedule.Self(ilse.ID), "ostrel", state, "")
	assert.ErrorIs(t, err, schedule.ErrConnect, "refused there")
	assert.Equal(t, s.ID, back)
	_, err = service().Links.FinishConnecting(t.Context(), schedule.Self(ilse.ID), "ostrel", state, "code")
	assert.ErrorIs(t, err, schedule.ErrNotFound, "used")
	_, err = service().Links.StartConnecting(t.Context(), schedule.Self(rui.ID), "ostrel", s.ID)
	assert.ErrorIs(t, err, schedule.ErrNotFound, "another's sheet")
}

func TestThePostOfficeAwayDelaysAndLosesNothing(t *testing.T) {
	ilse := who(t, demo.Ilse)
	address := "patient@kirisame.example"
	running.World.Switch("post", standin.Away)
	t.Cleanup(func() { running.World.Switch("post", standin.Working) })
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) { d.People[0].Email = address })))
	state := func() schedule.Dispatch {
		m := look(t, ilse.ID, sent.MeetingID)
		return m.Dispatches[m.Invited[0].ID]
	}
	eventually(t, "tried and not handed over", func() bool { return state().Detail != "" })
	assert.Equal(t, schedule.Queued, state().State)
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Title = "Crate sizes, second try" })
	assert.Empty(t, running.World.Post.Box(address))
	running.World.Switch("post", standin.Failing)
	time.Sleep(1500 * time.Millisecond)
	running.World.Switch("post", standin.Working)
	eventually(t, "handed over", func() bool { return state().State == schedule.Handed })
	mails := box(t, address, 2)
	assert.Contains(t, mails[0].Subject, "Invitation: Crate sizes", "in the order in which they were sent")
	assert.Contains(t, mails[1].Subject, "Changed: Crate sizes, second try")
}

func TestARefusedAddressIsSaid(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) { d.People[0].Email = "nobody@veerhaven.example" })))
	var d schedule.Dispatch
	eventually(t, "refused", func() bool {
		m := look(t, ilse.ID, sent.MeetingID)
		d = m.Dispatches[m.Invited[0].ID]
		return d.State == schedule.Failed
	})
	assert.Contains(t, d.Detail, "550")
	assert.Contains(t, d.Detail, "No such mailbox")
	assert.Contains(t, words.Event(tongue.Tongue{}, look(t, ilse.ID, sent.MeetingID).Happenings[0].Event), "was refused")
}

func TestDeliveringTwiceIsRecognisable(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) { d.People[0].Email = "twice@kirisame.example" })))
	first := box(t, "twice@kirisame.example", 1)[0]
	var d schedule.Dispatch
	eventually(t, "handed over", func() bool { // a moment after it is in the box
		m := look(t, ilse.ID, sent.MeetingID)
		d = m.Dispatches[m.Invited[0].ID]
		return d.State == schedule.Handed
	})
	require.NoError(t, service().Dispatch.Deliver(t.Context(), d.ID), "a message handed over is left alone")
	box(t, "twice@kirisame.example", 1)
	// The news that it was handed over got lost.
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE dispatch SET state = 'queued' WHERE id = $1", d.ID)
	require.NoError(t, err)
	require.NoError(t, service().Dispatch.Deliver(t.Context(), d.ID))
	again := box(t, "twice@kirisame.example", 2)[1]
	assert.Equal(t, header(first.Headers, "Message-ID"), header(again.Headers, "Message-ID"))
	assert.Equal(t, string(first.Calendar), string(again.Calendar))
}

func TestGuestAddressesCannotBeGuessedAndCanBeWithdrawn(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.People = []meeting.DraftPerson{{Email: "g1@njoro.example"}, {Email: "g2@njoro.example"}}
	})))
	m := look(t, ilse.ID, sent.MeetingID)
	token := service().Seal.GuestToken(m.Invited[0].ID, 0)
	v, err := service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, "Crate sizes", v.Content.Title)
	flipped := "a" + token[1:]
	if token[0] == 'a' {
		flipped = "b" + token[1:]
	}
	for name, bad := range map[string]string{"changed": flipped, "cut": token[:len(token)-1], "empty": "", "an id": m.Invited[0].ID.String(),
		"of another purpose": strings.Split(strings.TrimPrefix(service().Seal.ReturnAddress(m.Invited[0].ID, "x"), "reply-"), "@")[0]} {
		_, err := service().Meetings.Guest(t.Context(), bad)
		assert.ErrorIs(t, err, schedule.ErrNotFound, name)
	}
	require.NoError(t, service().Meetings.GuestAnswer(t.Context(), token, meetings.Given{Answer: meeting.Accepted, Seen: 0}))
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Start = d.Start[:11] + "08:00" })
	var version *schedule.VersionError
	assert.ErrorAs(t, service().Meetings.GuestAnswer(t.Context(), token, meetings.Given{Answer: meeting.Accepted, Seen: 0}), &version, "the page showed the old hour")
	second := service().Seal.GuestToken(m.Invited[1].ID, 0)
	message := reachOf(t, ilse.ID, sent.MeetingID, "g2@njoro.example").ID
	require.ErrorIs(t, service().Dispatch.RenewPage(t.Context(), schedule.Self(who(t, "rui.calado@marrowby.example").ID), message), schedule.ErrNotFound)
	require.NoError(t, service().Dispatch.RenewPage(t.Context(), schedule.Self(ilse.ID), message))
	_, err = service().Meetings.Guest(t.Context(), second)
	assert.ErrorIs(t, err, schedule.ErrNotFound, "withdrawn")
	assert.ErrorIs(t, service().Meetings.GuestAnswer(t.Context(), second, meetings.Given{Answer: meeting.Accepted, Seen: 1}), schedule.ErrNotFound)
	ways, err := service().Dispatch.Ways(t.Context(), schedule.Self(ilse.ID), message)
	require.NoError(t, err)
	anew := ways.GuestURL[strings.LastIndex(ways.GuestURL, "/")+1:]
	require.NotEqual(t, second, anew)
	assert.Contains(t, ways.Text, anew, "what is passed on by hand has it as well")
	_, err = service().Meetings.Guest(t.Context(), anew)
	require.NoError(t, err)
	_, err = service().Meetings.Guest(t.Context(), service().Seal.GuestToken(m.Invited[1].ID, 2))
	assert.ErrorIs(t, err, schedule.ErrNotFound, "the one after it does not hold yet")
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.People = d.People[1:] })
	_, err = service().Meetings.Guest(t.Context(), token)
	assert.ErrorIs(t, err, schedule.ErrNotFound, "taken off the list")
	assert.ErrorIs(t, service().Meetings.GuestAnswer(t.Context(), token, meetings.Given{Answer: meeting.Accepted, Seen: 2}), schedule.ErrNotFound)
}

// TestAGuestSeesWhatChangedSinceTheyLooked: only of what concerns them, and until the page has shown it.
func TestAGuestSeesWhatChangedSinceTheyLooked(t *testing.T) {
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = "2027-01-14T15:30", "2027-01-14T16:30"
		d.People = []meeting.DraftPerson{{Email: "looks@njoro.example"}, {Email: "other@njoro.example"}}
	})))
	token := service().Seal.GuestToken(look(t, ilse.ID, sent.MeetingID).Invited[0].ID, 0)
	since := func() *meetings.GuestSince {
		v, err := service().Meetings.Guest(t.Context(), token)
		require.NoError(t, err)
		return v.Since
	}
	saw := func(version int) { require.NoError(t, service().Meetings.GuestSaw(t.Context(), token, version)) }
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Text = "Bring the list." })
	assert.Nil(t, since(), "who has never looked has missed nothing")
	saw(1)
	assert.Equal(t, "the text", since().Words)
	assert.Nil(t, since().Was)
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Start, d.End = "2027-01-14T16:00", "2027-01-14T17:00" })
	assert.Equal(t, "the time and the text", since().Words)
	require.NotNil(t, since().Was)
	assert.Equal(t, "2027-01-14T15:30:00Z", since().Was.Start.Time().UTC().Format(time.RFC3339))
	saw(1000000) // no page has shown a version to come
	assert.Nil(t, since())
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.People = d.People[:1] })
	assert.Nil(t, since(), "who else comes is not told")
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Title = "Crates" })
	assert.Equal(t, "the title", since().Words)
	saw(1)
	assert.Equal(t, "the title", since().Words, "an older page forgets nothing")
	assert.ErrorIs(t, service().Meetings.GuestSaw(t.Context(), token+"a", 1), schedule.ErrNotFound)
}

func TestPreviewsAreWhatIsSent(t *testing.T) {
	ilse := who(t, demo.Ilse)
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = "2027-01-13T09:30", "2027-01-13T10:30"
		d.Text = "<script>alert(1)</script>\nBEGIN:VEVENT"
		d.People = []meeting.DraftPerson{{Email: "s.onari@kirisame.example", Needed: true}, {Email: "rui.calado@marrowby.example"}}
	}))
	previews, err := service().Sheets.Previews(t.Context(), schedule.Self(ilse.ID), s.ID)
	require.NoError(t, err)
	require.Len(t, previews, 2)
	assert.Equal(t, schedule.Mail, previews[0].Channel)
	assert.Equal(t, schedule.Inside, previews[1].Channel)
	letter, err := service().Sheets.PreviewLetter(t.Context(), schedule.Self(ilse.ID), s.ID, 0)
	require.NoError(t, err)
	assert.Contains(t, letter.Text, "18:30 – 19:30, Tokyo time", "the recipient's own clock")
	assert.Contains(t, letter.Text, "9:30 – 10:30 in Lisbon")
	assert.NotContains(t, letter.HTML, "<script>")
	_, err = service().Sheets.PreviewLetter(t.Context(), schedule.Self(ilse.ID), s.ID, 2)
	require.ErrorIs(t, err, schedule.ErrNotFound)
	before := len(running.World.Post.Box("s.onari@kirisame.example"))
	send(t, ilse.ID, s)
	mails := box(t, "s.onari@kirisame.example", before+1)
	assert.Equal(t, letter.Subject, mails[before].Subject)
}

// TestCoveringWordsAreForWhomTheyAreFor: in the preview, in the mail, in what is new inside, and
// once: the next change goes without them.
func TestCoveringWordsAreForWhomTheyAreFor(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.Title, d.Start, d.End = "With covering words", "2027-01-13T15:30", "2027-01-13T16:30"
		d.People = []meeting.DraftPerson{{Email: "cover@kirisame.example", Needed: true}, {Email: rui.Email}}
		d.Cover = &meeting.Cover{Subject: "Lacquer,\r\nplease read", All: "To all of you.", One: []meeting.CoverOne{{Email: rui.Email, Words: "Rui, bring the key."}}}
	}))
	letter, err := service().Sheets.PreviewLetter(t.Context(), schedule.Self(ilse.ID), s.ID, 0)
	require.NoError(t, err)
	sent := send(t, ilse.ID, s)
	got := box(t, "cover@kirisame.example", 1)[0]
	assert.Equal(t, "Lacquer, please read", got.Subject)
	assert.Equal(t, letter.Subject, got.Subject)
	assert.Contains(t, got.Text, "To all of you.")
	assert.Contains(t, letter.Text, "To all of you.")
	assert.NotContains(t, got.Text, "bring the key")
	news, err := service().News.News(t.Context(), schedule.Self(rui.ID), schedule.Page{Most: 5})
	require.NoError(t, err)
	require.NotEmpty(t, news.Items)
	assert.Equal(t, "To all of you.\n\nRui, bring the key.", news.Items[0].Word)

	change, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	assert.Nil(t, change.Draft.Cover)
}

func TestFindPeople(t *testing.T) {
	ilse := who(t, demo.Ilse)
	names := func(q string) (out []string) {
		found, err := service().Directory.FindPeople(t.Context(), schedule.Self(ilse.ID), q, schedule.Page{Most: 10})
		require.NoError(t, err)
		for _, e := range found {
			out = append(out, e.Name)
		}
		return out
	}
	assert.Equal(t, []string{"Tomé Akande", "Hanna Tomic", "Tomás Furtado"}[0], names("tome")[0])
	assert.Equal(t, []string{"Tomás Furtado", "Tomé Akande", "Hanna Tomic"}, names("tom"), "beginnings first")
	assert.Equal(t, []string{"Tomé Akande"}, names("AKANDE"))
	assert.Equal(t, []string{"Inês Cordeiro"}, names("ines"))
	assert.Equal(t, []string{"Lázaro Pinho"}, names("lazaro.p"), "by address")
	assert.Equal(t, []string{"M. Hayase", "S. Onari"}, names("kirisame"), "by firm")
	assert.Empty(t, names("ilse"), "oneself")
	assert.Empty(t, names("%"), "no pattern")
	assert.Empty(t, names("_om"), "no pattern")
}
