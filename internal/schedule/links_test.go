package schedule_test

import (
	"errors"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/links"
	"jembro/internal/schedule/sheets"
	"jembro/internal/standin"
)

// tamberline is a fresh call at the telephone bridge.
var tamberline = links.Choice{Provider: "tamberline"}

var callSlot atomic.Int32

// callDraft is a sheet on a day of its own, where no other test is.
func callDraft(change func(*meeting.Draft)) meeting.Draft {
	day := time.Date(2028, 7, 3, 0, 0, 0, 0, time.UTC).AddDate(0, 0, int(callSlot.Add(1))).Format(time.DateOnly)
	d := meeting.Draft{Title: "Crate sizes", Start: day + "T09:30", End: day + "T10:30", Zone: "Europe/Lisbon",
		People: []meeting.DraftPerson{{Name: "S. Onari", Email: "s.onari@kirisame.example", Needed: true}}, NoRoom: true, NoLink: true}
	if change != nil {
		change(&d)
	}
	return d
}

func choose(t testing.TB, me, sheet uuid.UUID, c links.Choice) schedule.Sheet {
	t.Helper()
	s, err := service().Links.Choose(t.Context(), schedule.Self(me), sheet, c)
	require.NoError(t, err)
	return s
}

func standingOf(t testing.TB, me uuid.UUID, name string) links.Standing {
	t.Helper()
	all, err := service().Links.StandingLinks(t.Context(), schedule.Self(me))
	require.NoError(t, err)
	for _, l := range all {
		if l.Name == name {
			return l
		}
	}
	t.Fatalf("no standing room %s", name)
	return links.Standing{}
}

func bridge(card *join.Card) standin.Bridge {
	b, _ := running.World.Tamberline.Bridge(card.Keep["id"])
	return b
}

// TestOneCallIsLeftOfMany: whatever was chosen before is withdrawn, a standing room and what
// somebody else wrote excepted, and the meeting's own call is there again for its changes.
func TestOneCallIsLeftOfMany(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	s := open(t, ilse.ID, callDraft(nil))
	first := choose(t, ilse.ID, s.ID, tamberline).Card
	assert.False(t, s.Draft.NoLink && first == nil)
	second := choose(t, ilse.ID, s.ID, ostrel).Card
	eventually(t, "the bridge is closed", func() bool { return bridge(first).Closed })
	desk := standingOf(t, ilse.ID, "Loans desk")
	stands := choose(t, ilse.ID, s.ID, links.Choice{Standing: desk.ID}).Card
	assert.Equal(t, join.Standing, stands.Kind)
	given := choose(t, ilse.ID, s.ID, links.Choice{Text: "Join: https://quay.example/meet/7\nPasscode: reed"})
	assert.Equal(t, "https://quay.example/meet/7", given.Card.URL)
	assert.Contains(t, given.Card.Pasted, "Passcode: reed", "the text stays for reference")
	_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, links.Choice{Text: "see you there"})
	refusedWith(t, err, "There is no way into a call in this text")
	kept, _, err := sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	assert.Equal(t, given.Card.URL, kept.Card.URL, "nothing on the sheet changed")
	eventually(t, "the gathering is withdrawn", func() bool {
		g, _ := running.World.Ostrel.Gathering(second.Keep["id"])
		return g.Withdrawn
	})
	third := choose(t, ilse.ID, s.ID, tamberline)
	sent := send(t, ilse.ID, third)

	// On a sheet of changes the meeting's own call is not withdrawn, and comes back.
	change, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	choose(t, ilse.ID, change.ID, links.Choice{Standing: desk.ID})
	back := choose(t, ilse.ID, change.ID, tamberline)
	assert.Equal(t, third.Card.URL, back.Card.URL)
	time.Sleep(300 * time.Millisecond)
	assert.False(t, bridge(third.Card).Closed)
	choose(t, ilse.ID, change.ID, links.Choice{Standing: desk.ID})
	change, _, err = sheetOf(t, ilse.ID, change.ID)
	require.NoError(t, err)
	send(t, ilse.ID, change)
	eventually(t, "what is no longer needed is withdrawn", func() bool { return bridge(third.Card).Closed })
}

// TestTwoWindowsChooseACall at the same moment: one is on the sheet, all others are withdrawn,
// and nobody is told that something is not there.
func TestTwoWindowsChooseACall(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	for range 5 {
		s := open(t, ilse.ID, callDraft(nil))
		one := func(c links.Choice) func() error {
			return func() error {
				_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, c)
				return err
			}
		}
		for _, err := range atOnce(one(ostrel), one(tamberline), one(ostrel), one(tamberline)) {
			require.NoError(t, err)
		}
		kept, _, err := sheetOf(t, ilse.ID, s.ID)
		require.NoError(t, err)
		require.True(t, kept.Card.Made())
		eventually(t, "the others are withdrawn", func() bool {
			var n int
			require.NoError(t, running.Program.Pool.QueryRow(t.Context(), `SELECT count(*) FROM river_job WHERE kind = 'call_change' AND state NOT IN ('completed', 'cancelled')`).Scan(&n))
			return n == 0
		})
		there, err := service().Links.Calls(t.Context(), schedule.Self(ilse.ID), s.ID)
		require.NoError(t, err)
		on := 0
		for _, o := range there.Options {
			if o.On {
				on++
			}
		}
		assert.Equal(t, 1, on)
	}
}

// TestALinkThatFollows: a meeting that was sent without its link gets it, a sheet on which it is
// being changed goes on, and each guest hears once.
func TestALinkThatFollows(t *testing.T) {
	ilse := who(t, demo.Ilse)
	t.Cleanup(func() { running.World.Switch("tamberline", standin.Working) })
	running.World.Switch("tamberline", standin.Failing)
	s := open(t, ilse.ID, callDraft(outsiders("waits@veerhaven.example")))
	_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, tamberline)
	require.ErrorIs(t, err, schedule.ErrUnreachable)
	s, faults, err := sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	assert.Empty(t, faults, "it can be sent")
	sent := send(t, ilse.ID, s)
	change, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	change.Draft.Title = "Another title meanwhile"
	change, _, err = service().Sheets.SaveSheet(t.Context(), schedule.Self(ilse.ID), change.ID, change.Version, change.Draft, "")
	require.NoError(t, err)
	eventually(t, "she is told that it is late", func() bool {
		for _, h := range look(t, ilse.ID, sent.MeetingID).Happenings {
			if h.Kind == meeting.EventLinkLate {
				assert.Contains(t, words.Event(tongue.Tongue{}, h.Event), "take another provider")
				return true
			}
		}
		return false
	})
	running.World.Switch("tamberline", standin.Working)
	eventually(t, "the link is there", func() bool { return look(t, ilse.ID, sent.MeetingID).Content.Card.Made() })
	change, _, err = sheetOf(t, ilse.ID, change.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, change.BasedOn, "the changes are of the newest version")
	assert.True(t, change.Card.Made())
	assert.Equal(t, "Another title meanwhile", change.Draft.Title)
	mails := box(t, "waits@veerhaven.example", 2)
	assert.Contains(t, mails[1].Text, "By phone: ")
	send(t, ilse.ID, change)
	mails = box(t, "waits@veerhaven.example", 3)
	assert.Contains(t, mails[2].Text, look(t, ilse.ID, sent.MeetingID).Content.Card.URL)
	assert.Equal(t, "Another title meanwhile", look(t, ilse.ID, sent.MeetingID).Content.Title)
}

// TestALinkThatIsNotWantedAnyMore: what a provider made late is withdrawn where another call
// was chosen, or the meeting was called off.
func TestALinkThatIsNotWantedAnyMore(t *testing.T) {
	ilse := who(t, demo.Ilse)
	t.Cleanup(func() { running.World.Switch("tamberline", standin.Working) })
	running.World.Switch("tamberline", standin.Away)
	s := open(t, ilse.ID, callDraft(nil))
	_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, tamberline)
	require.ErrorIs(t, err, schedule.ErrUnreachable)
	s, _, err = sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	sent := send(t, ilse.ID, s)
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, 1, nil, ""))
	running.World.Switch("tamberline", standin.Working)
	eventually(t, "the work is done", func() bool {
		var n int
		require.NoError(t, running.Program.Pool.QueryRow(t.Context(), `SELECT count(*) FROM river_job WHERE kind = 'call_change' AND (args->>'MeetingID')::uuid = $1 AND state NOT IN ('completed', 'cancelled')`, sent.MeetingID).Scan(&n))
		return n == 0
	})
	assert.True(t, look(t, ilse.ID, sent.MeetingID).Content.Card.Awaited(), "nothing was made for a meeting that is off")
}

// TestAPlanWithoutCallsLeft: the sheet stays as it was, and other places are named.
func TestAPlanWithoutCallsLeft(t *testing.T) {
	ilse := who(t, demo.Ilse)
	t.Cleanup(func() { running.World.Switch("tamberline", standin.Working) })
	running.World.Switch("tamberline", standin.Quota)
	s := open(t, ilse.ID, callDraft(nil))
	_, err := service().Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, tamberline)
	var refused *schedule.RefusedError
	require.ErrorAs(t, err, &refused)
	refusedWith(t, err, "The house has no credit left at Tamberline. Take another provider.")
	kept, _, err := sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	assert.Nil(t, kept.Card)
}

// TestTheCallOfARunningSeries is changed from a date on: the dates before keep theirs, each
// person is told, and for single dates it is refused.
func TestTheCallOfARunningSeries(t *testing.T) {
	ilse := who(t, demo.Ilse)
	s := open(t, ilse.ID, callDraft(repeated("every Tuesday, 6 times", func(d *meeting.Draft) {
		outsiders("series-call@veerhaven.example")(d)
		d.Start, d.End = "2028-05-02T09:30", "2028-05-02T10:30" // where nobody else's test is
	})))
	first := choose(t, ilse.ID, s.ID, tamberline)
	sent := send(t, ilse.ID, first)
	m := look(t, ilse.ID, sent.MeetingID).Content
	third := m.Start.Day + 14
	begin := func(o sheets.Opening) schedule.Sheet {
		c, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, o)
		require.NoError(t, err)
		return choose(t, ilse.ID, c.ID, links.Choice{Text: "https://quay.example/meet/48-2190"})
	}
	one := begin(sheets.Opening{At: third, One: true})
	_, faults, err := sheetOf(t, ilse.ID, one.ID)
	require.NoError(t, err)
	require.NotEmpty(t, faults)
	assert.Equal(t, "scope", faults[0].Field)
	assert.Contains(t, words.English(faults[0].What), "a series has one way in")
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), one.ID))

	later := begin(sheets.Opening{At: third})
	next := send(t, ilse.ID, later)
	assert.NotEqual(t, sent.MeetingID, next.MeetingID, "the later dates are a series of their own")
	assert.Equal(t, first.Card.URL, look(t, ilse.ID, sent.MeetingID).Content.Card.URL)
	assert.Equal(t, "https://quay.example/meet/48-2190", look(t, ilse.ID, next.MeetingID).Content.Card.URL)
	assert.False(t, bridge(first.Card).Closed, "the dates before still need it")

	// For all dates that come it is one change, and each hears once.
	before := len(box(t, "series-call@veerhaven.example", 3))
	all, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), next.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	all = choose(t, ilse.ID, all.ID, tamberline)
	again := send(t, ilse.ID, all)
	assert.Equal(t, next.MeetingID, again.MeetingID)
	assert.Equal(t, 1, again.Told)
	box(t, "series-call@veerhaven.example", before+1)
}

// TestAStandingRoomIsSharedAndReplaced: who may use it does, who may not learns nothing, and
// the meetings to come get the new call, once.
func TestAStandingRoomIsSharedAndReplaced(t *testing.T) {
	ilse, tome, joana := who(t, demo.Ilse), who(t, "tome.akande@marrowby.example"), who(t, "joana.bras@marrowby.example")
	id := uuid.New()
	keep := func(me uuid.UUID, c links.StandingChange) error {
		return service().Links.KeepStanding(t.Context(), schedule.Self(me), id, c)
	}
	refusedWith(t, keep(ilse.ID, links.StandingChange{Name: "Conservation"}), "Choose a room at a provider, or paste")
	refusedWith(t, keep(ilse.ID, links.StandingChange{Text: "https://quay.example/meet/1"}), "Say what it is called")
	require.NoError(t, keep(ilse.ID, links.StandingChange{Name: "Conservation", Group: true, SharedWith: []uuid.UUID{tome.ID, ilse.ID, uuid.New()}, Text: "https://quay.example/meet/1"}))
	mine := standingOf(t, ilse.ID, "Conservation")
	assert.Equal(t, []uuid.UUID{tome.ID}, mine.SharedWith, "oneself and who is not here are left out")
	assert.ErrorIs(t, keep(tome.ID, links.StandingChange{Name: "Mine now"}), schedule.ErrNotFound)
	assert.ErrorIs(t, service().Links.DropStanding(t.Context(), schedule.Self(joana.ID), id), schedule.ErrNotFound)
	theirs := open(t, joana.ID, callDraft(nil))
	_, err := service().Links.Choose(t.Context(), schedule.Self(joana.ID), theirs.ID, links.Choice{Standing: id})
	refusedWith(t, err, "not there any more")

	day := func(d *meeting.Draft) { d.Start, d.End, d.Private = "2028-03-14T09:30", "2028-03-14T10:30", true }
	hers := choose(t, ilse.ID, open(t, ilse.ID, callDraft(func(d *meeting.Draft) { outsiders("standing-one@veerhaven.example")(d); day(d) })).ID, links.Choice{Standing: id})
	sent := send(t, ilse.ID, hers)
	his := choose(t, tome.ID, open(t, tome.ID, callDraft(func(d *meeting.Draft) { outsiders("standing-two@veerhaven.example")(d); day(d) })).ID, links.Choice{Standing: id})
	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(tome.ID), his.ID, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"14 Mar, 9:30: in use by another meeting; both would be in one call"}, v.Link.Overlaps, "a private one says neither what nor whose")

	require.NoError(t, keep(ilse.ID, links.StandingChange{Name: "Conservation", Group: true, SharedWith: []uuid.UUID{tome.ID}, Text: "https://quay.example/meet/2"}))
	eventually(t, "the meeting has the new one", func() bool {
		return look(t, ilse.ID, sent.MeetingID).Content.Card.URL == "https://quay.example/meet/2"
	})
	require.NoError(t, service().Links.ReplaceStanding(t.Context(), id), "again without harm")
	mails := box(t, "standing-one@veerhaven.example", 2)
	assert.Contains(t, mails[1].Text, "https://quay.example/meet/2")
	require.NoError(t, service().Links.DropStanding(t.Context(), schedule.Self(ilse.ID), id))
	assert.Equal(t, "https://quay.example/meet/2", look(t, ilse.ID, sent.MeetingID).Content.Card.URL, "what uses it keeps its card")
}

// TestACallThatIsGone is noticed before the meeting, once; a provider that is away is none.
func TestACallThatIsGone(t *testing.T) {
	ilse := who(t, demo.Ilse)
	t.Cleanup(func() { running.World.Switch("tamberline", standin.Working) })
	soon := service().Now().Add(40 * time.Hour)
	s := open(t, ilse.ID, callDraft(func(d *meeting.Draft) {
		zone, err := when.LoadZone(d.Zone)
		require.NoError(t, err)
		d.Start, d.End = zone.LocalAt(when.At(soon)).String(), zone.LocalAt(when.At(soon.Add(time.Hour))).String()
	}))
	card := choose(t, ilse.ID, s.ID, tamberline).Card
	s, _, err := sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	sent := send(t, ilse.ID, s)
	gone := func() (n int) {
		for _, h := range look(t, ilse.ID, sent.MeetingID).Happenings {
			if h.Kind == meeting.EventLinkGone {
				n++
			}
		}
		return n
	}
	check := func() {
		exec(t, `UPDATE meeting SET call_seen_at = NULL WHERE id = $1`, sent.MeetingID)
		_, err := service().Links.CheckCalls(t.Context())
		require.NoError(t, err)
	}
	check()
	assert.Zero(t, gone())
	running.World.Tamberline.Close(card.Keep["id"])
	running.World.Switch("tamberline", standin.Failing)
	check()
	assert.Zero(t, gone(), "its provider is away, which says nothing of the call")
	running.World.Switch("tamberline", standin.Working)
	check()
	check()
	assert.Equal(t, 1, gone())
	more, err := service().Links.CheckCalls(t.Context())
	require.NoError(t, err)
	assert.False(t, more, "each is looked at once a day")
}

// TestCallsOfSheetsThatLie for a month are taken back, and the sheets stay.
func TestCallsOfSheetsThatLie(t *testing.T) {
	ilse := who(t, demo.Ilse)
	s := open(t, ilse.ID, callDraft(nil))
	card := choose(t, ilse.ID, s.ID, tamberline).Card
	require.NoError(t, service().Links.SweepSheets(t.Context()))
	assert.False(t, bridge(card).Closed)
	desk := standingOf(t, ilse.ID, "Loans desk")
	stands := choose(t, ilse.ID, open(t, ilse.ID, callDraft(nil)).ID, links.Choice{Standing: desk.ID})
	sent := send(t, ilse.ID, choose(t, ilse.ID, open(t, ilse.ID, callDraft(nil)).ID, tamberline))
	changes, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	exec(t, `UPDATE sheet SET updated_at = $1 WHERE id = ANY($2)`, service().Now().Add(-31*24*time.Hour), []uuid.UUID{s.ID, stands.ID, changes.ID})
	require.NoError(t, service().Links.SweepSheets(t.Context()))
	eventually(t, "the call is taken back", func() bool { return bridge(card).Closed })
	kept, _, err := sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	assert.Nil(t, kept.Card)
	assert.Equal(t, s.Draft.Title, kept.Draft.Title)
	kept, _, err = sheetOf(t, ilse.ID, stands.ID)
	require.NoError(t, err)
	assert.NotNil(t, kept.Card, "a standing room was made for nobody")
	assert.False(t, bridge(look(t, ilse.ID, sent.MeetingID).Content.Card).Closed, "nor is that of a meeting taken back")
}

// TestAProviderInVersions: what is written is not in use; what is wrong is not put into use;
// out of use, its calls go on.
func TestAProviderInVersions(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	l := service().Links
	as := schedule.Self(ilse.ID)
	_, err := l.AddProvider(t.Context(), schedule.Self(rui.ID), "Perrin")
	require.ErrorIs(t, err, schedule.ErrNotFound, "he does not keep providers")
	key, err := l.AddProvider(t.Context(), as, "Perrin & Söhne")
	require.NoError(t, err)
	assert.Equal(t, "perrin-sohne", key)
	again, err := l.AddProvider(t.Context(), as, "Perrin & Söhne")
	require.NoError(t, err)
	assert.Equal(t, "perrin-sohne-2", again)
	require.NoError(t, l.StopProvider(t.Context(), as, again))
	_, err = l.ProviderKept(t.Context(), as, again)
	assert.ErrorIs(t, err, schedule.ErrNotFound, "what was never in use is forgotten")

	p, err := l.ProviderKept(t.Context(), as, "tamberline")
	require.NoError(t, err)
	text := strings.Replace(p.Draft, "name: Tamberline", "name: Perrin", 1)
	require.NoError(t, l.WriteProvider(t.Context(), as, key, 1, text))
	var written *links.ChangedProviderError
	require.ErrorAs(t, l.WriteProvider(t.Context(), as, key, 1, "name: lost"), &written, "another window wrote it")
	var invalid *schedule.InvalidError
	require.ErrorAs(t, l.UseProvider(t.Context(), as, key, 2), &invalid)
	assert.Equal(t, "secrets.key", invalid.Faults[0].Field)
	require.NoError(t, l.GiveSecrets(t.Context(), as, key, map[string]string{"key": standin.TamberlineKey}))
	var sealed []byte
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT secrets FROM provider WHERE key = $1", key).Scan(&sealed))
	assert.NotContains(t, string(sealed), standin.TamberlineKey)
	require.NoError(t, l.UseProvider(t.Context(), as, key, 2))

	s := open(t, ilse.ID, callDraft(nil))
	card := choose(t, ilse.ID, s.ID, links.Choice{Provider: key}).Card
	s, _, err = sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	sent := send(t, ilse.ID, s)
	require.NoError(t, l.WriteProvider(t.Context(), as, key, 2, "name: ["))
	require.ErrorAs(t, l.UseProvider(t.Context(), as, key, 3), &invalid, "what is not read is not put into use")
	assert.Equal(t, "description.1", invalid.Faults[0].Field)
	// A version whose later calls name what was never kept: the call goes on by its own.
	other := strings.ReplaceAll(strings.ReplaceAll(text, "{id: /conference/@id}", "{number: /conference/@id}"), "/{id}", "/{number}")
	require.NoError(t, l.WriteProvider(t.Context(), as, key, 3, other))
	require.NoError(t, l.UseProvider(t.Context(), as, key, 4))
	p, err = l.ProviderKept(t.Context(), as, key)
	require.NoError(t, err)
	assert.Equal(t, 2, p.Version)
	assert.Equal(t, 1, p.Calls)
	require.NoError(t, l.StopProvider(t.Context(), as, key))
	_, err = l.Choose(t.Context(), as, open(t, ilse.ID, callDraft(nil)).ID, links.Choice{Provider: key})
	refusedWith(t, err, "no such provider", "nobody chooses it any more")
	change(t, ilse.ID, sent.MeetingID, func(d *meeting.Draft) { d.Title = "Goes on" })
	eventually(t, "its call goes on", func() bool { return bridge(card).Subject == "Goes on" })
	require.NoError(t, l.RestoreProvider(t.Context(), as, key, 4, 1))
	p, err = l.ProviderKept(t.Context(), as, key)
	require.NoError(t, err)
	assert.Equal(t, text, p.Draft)
}

// TestSecretsAreSealedAnew: with another secret of the program what is sealed can still be
// read and is sealed anew, and addresses that were given out lead here.
func TestSecretsAreSealedAnew(t *testing.T) {
	old, err := schedule.NewSeal([]byte("the first secret of it"))
	require.NoError(t, err)
	fresh, err := schedule.NewSeal([]byte("the second secret of it"), []byte("the first secret of it"))
	require.NoError(t, err)
	alone, err := schedule.NewSeal([]byte("the second secret of it"))
	require.NoError(t, err)
	sealed := old.Lock([]byte("key"))
	_, err = alone.Unlock(sealed)
	assert.Error(t, err)
	plain, err := fresh.Unlock(sealed)
	require.NoError(t, err)
	assert.Equal(t, "key", string(plain))
	again, err := fresh.Reseal(sealed)
	require.NoError(t, err)
	plain, err = alone.Unlock(again)
	require.NoError(t, err, "the secret of before is not needed any more")
	assert.Equal(t, "key", string(plain))
	same, err := fresh.Reseal(again)
	require.NoError(t, err)
	assert.Nil(t, same)
	id := uuid.New()
	for _, read := range []func() (uuid.UUID, error){
		func() (uuid.UUID, error) {
			got, page, err := fresh.Guest(old.GuestToken(id, 3))
			assert.Equal(t, 3, page)
			return got, err
		},
		func() (uuid.UUID, error) { return fresh.Feed(old.FeedToken(id)) },
		func() (uuid.UUID, error) {
			box, err := fresh.Mailbox(old.MeetingAddress(id, "meet.example"), "meet.example")
			return box.Meeting, err
		},
	} {
		got, err := read()
		require.NoError(t, err)
		assert.Equal(t, id, got)
	}
	_, _, err = alone.Guest(old.GuestToken(id, 0))
	assert.ErrorIs(t, err, schedule.ErrNotFound)
}

// TestEverythingAtRestIsResealed, and what cannot be read stops it for providers.
func TestEverythingAtRestIsResealed(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	seen := 0
	n, err := running.Program.Store.Reseal(t.Context(), func(sealed []byte) ([]byte, error) {
		seen++
		_, err := service().Seal.Unlock(sealed)
		return nil, err
	})
	require.NoError(t, err)
	assert.Zero(t, n)
	assert.GreaterOrEqual(t, seen, 4, "three providers, and somebody's sign-in")
	n, err = running.Program.Store.Reseal(t.Context(), func(sealed []byte) ([]byte, error) {
		plain, err := service().Seal.Unlock(sealed)
		return service().Seal.Lock(plain), err
	})
	require.NoError(t, err)
	assert.Equal(t, seen, n)
	assert.True(t, choose(t, ilse.ID, open(t, ilse.ID, callDraft(nil)).ID, ostrel).Card.Made(), "what was sealed anew is read")
	_, err = running.Program.Store.Reseal(t.Context(), func([]byte) ([]byte, error) { return nil, errors.New("gone") })
	refusedWith(t, err, "the secrets of")
}

// TestCallsAtOnceInOneAccount are counted over its meetings.
func TestCallsAtOnceInOneAccount(t *testing.T) {
	ilse := who(t, demo.Ilse)
	send1 := choose(t, ilse.ID, open(t, ilse.ID, callDraft(func(d *meeting.Draft) { d.Start, d.End = "2027-12-14T09:30", "2027-12-14T10:30" })).ID, tamberline)
	send(t, ilse.ID, send1)
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) error {
		at := func(text string) when.Instant {
			return when.At(func() time.Time { v, _ := time.Parse(time.RFC3339, text); return v }())
		}
		window := when.Span{Start: at("2027-12-14T08:00:00Z"), End: at("2027-12-14T12:00:00Z")}
		uses, err := tx.CallUses(t.Context(), "tamberline", uuid.Nil, uuid.Nil, window)
		require.NoError(t, err)
		assert.Len(t, uses, 1, "of the house")
		uses, err = tx.CallUses(t.Context(), "tamberline", uuid.New(), uuid.Nil, window)
		assert.Empty(t, uses, "of somebody else")
		return err
	}))
	second := open(t, ilse.ID, callDraft(func(d *meeting.Draft) { d.Start, d.End = "2027-12-14T10:00", "2027-12-14T10:45" }))
	second = choose(t, ilse.ID, second.ID, tamberline)
	exec(t, `UPDATE sheet SET card = jsonb_set(card, '{limitCalls}', '1') WHERE id = $1`, second.ID)
	v, err := service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), second.ID, "")
	require.NoError(t, err)
	require.Len(t, v.Link.Over, 1)
	assert.Equal(t, "The account at Tamberline has 1 call at a time; 1 other is at the same time as this.", v.Link.Over[0].Words)
	assert.Equal(t, "Use Ostrel", v.Link.Over[0].Mends[0].Words)
}

// BenchmarkProviders gives the providers of a house, as every start of a window does, with
// three of them and with a thousand more; their descriptions are not read by that, which the
// third line does for one.
func BenchmarkProviders(b *testing.B) {
	list := func(b *testing.B) {
		for b.Loop() {
			_, err := service().Links.Usable(b.Context())
			require.NoError(b, err)
		}
	}
	b.Run("of three", list)
	_, err := running.Program.Pool.Exec(b.Context(), `INSERT INTO provider (key, draft, version, in_use, service, added_at)
		SELECT 'many-' || n, repeat(p.draft, 10), 1, true, p.service, now() FROM provider p, generate_series(1, 1000) n WHERE p.key = 'ostrel'`)
	require.NoError(b, err)
	b.Run("of a thousand more", list)
	_, err = running.Program.Pool.Exec(b.Context(), `DELETE FROM provider WHERE key LIKE 'many-%'`)
	require.NoError(b, err)
	var text string
	require.NoError(b, running.Program.Pool.QueryRow(b.Context(), "SELECT draft FROM provider WHERE key = 'ostrel'").Scan(&text))
	b.Run("one read", func(b *testing.B) {
		for b.Loop() {
			_, faults := service().Links.Descriptions.Compile(text)
			require.Empty(b, faults)
		}
	})
}

// TestTheDoor: who waits, who speaks and the passcode are as they were chosen, as far as the
// provider can; a passcode that was sent stays.
func TestTheDoor(t *testing.T) {
	ilse := who(t, demo.Ilse)
	connect(t, ilse)
	s := open(t, ilse.ID, callDraft(outsiders("door@veerhaven.example")))
	set := func(door join.Door, passcode string) error {
		_, err := service().Links.SetDoor(t.Context(), schedule.Self(ilse.ID), s.ID, door, passcode)
		return err
	}
	refusedWith(t, set(join.Door{}, ""), "a call that is made for this meeting", "there is none yet")
	card := choose(t, ilse.ID, s.ID, ostrel).Card
	gathering := func() standin.Gathering {
		g, _ := running.World.Ostrel.Gathering(card.Keep["id"])
		return g
	}
	assert.Equal(t, "guests", gathering().Door)
	require.NoError(t, set(join.Door{Waits: join.AllWait, Speaks: "shout", Starts: join.OrganiserStarts}, ""))
	refusedWith(t, set(join.Door{}, "two words"), "A passcode is one word")
	var invalid *schedule.InvalidError
	require.ErrorAs(t, set(join.Door{}, strings.Repeat("x", 30)), &invalid, "what the provider does not take")
	assert.Equal(t, "passcode", invalid.Faults[0].Field)
	assert.Contains(t, words.English(invalid.Faults[0].What), "a word has 20 letters at most")
	require.NoError(t, set(join.Door{Waits: join.AllWait, Starts: join.OrganiserStarts}, "quay-31"))
	assert.Equal(t, "quay-31", gathering().Word, "asked for at once: it is told to people")
	kept, _, err := sheetOf(t, ilse.ID, s.ID)
	require.NoError(t, err)
	assert.Equal(t, join.Door{Waits: join.AllWait, Speaks: join.AllSpeak, Starts: join.OrganiserStarts}, kept.Card.Door)
	sent := send(t, ilse.ID, kept)
	eventually(t, "the provider knows", func() bool { return gathering().Door == "locked" && gathering().Begins == "host" })
	mail := box(t, "door@veerhaven.example", 1)[0]
	assert.Contains(t, mail.Text, "Passcode: quay-31")
	assert.Contains(t, mail.Text, "Door: You wait until the organiser lets you in\r\nDoor: It opens when the organiser is there")

	change, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(ilse.ID), sent.MeetingID, sheets.Opening{})
	require.NoError(t, err)
	s = change
	refusedWith(t, set(join.Door{}, "another-1"), "has been sent already and stays")
	require.NoError(t, set(join.Door{Waits: join.NobodyWaits, Speaks: join.OrganisersSpeak, Starts: join.AnybodyStarts}, ""))
	change, _, err = sheetOf(t, ilse.ID, change.ID)
	require.NoError(t, err)
	assert.Zero(t, send(t, ilse.ID, change).Told, "nobody has to hear of it")
	eventually(t, "the provider knows of the change", func() bool { return gathering().Door == "open" && gathering().Floor == "hosts" })
	assert.Equal(t, "quay-31", gathering().Word)
}
