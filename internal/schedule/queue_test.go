package schedule_test

import (
	"context"
	"errors"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/oauth2"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/jobs"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/dispatch"
	"jembro/internal/schedule/links"
	"jembro/internal/standin"
)

// exec does something to the database behind the program's back.
func exec(t testing.TB, sql string, args ...any) {
	t.Helper()
	_, err := running.Program.Pool.Exec(t.Context(), sql, args...)
	require.NoError(t, err)
}

// outsider is a meeting with one guest outside, whose mail does not go out yet.
func outsider(t testing.TB, email string) (meetingID, dispatchID uuid.UUID) {
	running.World.Switch("post", standin.Away)
	ilse := who(t, demo.Ilse)
	sent := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) { d.People = []meeting.DraftPerson{{Email: email}} })))
	for _, d := range look(t, ilse.ID, sent.MeetingID).Dispatches {
		dispatchID = d.ID
	}
	return sent.MeetingID, dispatchID
}

func stateOf(t testing.TB, id uuid.UUID) (d schedule.Dispatch) {
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) (err error) {
		d, err = tx.Dispatch(t.Context(), id)
		return err
	}))
	return d
}

// TestMessagesOfAProgramThatWasKilled are taken up within seconds, and so is what
// waits behind them.
func TestMessagesOfAProgramThatWasKilled(t *testing.T) {
	_, id := outsider(t, "killed@kirisame.example")
	defer running.World.Switch("post", standin.Working)
	exec(t, `UPDATE river_job SET state = 'running', attempted_at = now(), attempted_by = ARRAY['killed-instance'] WHERE args->>'dispatchId' = $1`, id.String())
	running.World.Switch("post", standin.Working)
	eventually(t, "the message goes out", func() bool { return stateOf(t, id).State == schedule.Handed })
	box(t, "killed@kirisame.example", 1)
}

// silent is a post that never ends a conversation by itself.
type silent struct {
	schedule.Post
	began chan bool
}

func (s silent) Send(ctx context.Context, _ schedule.Letter) (string, error) {
	s.began <- true
	<-ctx.Done()
	return "", schedule.ErrUnreachable
}

// another is a second instance of the deeds on the same database.
func another(post schedule.Post, provider *slow) *deeds.Deeds {
	return deeds.New(service().Setting, running.Program.Store, deeds.Outside{Post: post, Descriptions: only{provider}})
}

// only has one provider, whatever its description says.
type only struct{ *slow }

func (o only) Compile(string) (links.Provider, []links.DescriptionFault) { return o.slow, nil }
func (only) Try(context.Context, links.Provider, links.Keyring, links.Call) (t links.Trial) {
	return t
}
func (only) Secrets(links.Provider) []string { return nil }
func (only) Schema() string                  { return "{}" }

// TestStoppingWithASilentMailServer: the program ends in time, and its messages wait
// for the next one instead of for the end of an hour.
func TestStoppingWithASilentMailServer(t *testing.T) {
	_, id := outsider(t, "silent@kirisame.example")
	defer running.World.Switch("post", standin.Working)
	began := make(chan bool, 100)
	second, err := jobs.Start(context.WithoutCancel(t.Context()), running.Program.Pool, another(silent{service().Dispatch.Post, began}, nil))
	require.NoError(t, err)
	// Both instances take it by turns, until the silent one has it.
	eventually(t, "the silent instance has it", func() bool {
		exec(t, `UPDATE river_job SET state = 'available', scheduled_at = now() WHERE args->>'dispatchId' = $1 AND state = 'retryable'`, id.String())
		select {
		case <-began:
			return true
		case <-time.After(200 * time.Millisecond):
			return false
		}
	})
	soon, cancel := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer cancel()
	second.Stop(soon)
	running.World.Switch("post", standin.Working)
	// The more turns there were, the longer it waits for the next: a minute at most.
	require.Eventually(t, func() bool { return stateOf(t, id).State == schedule.Handed }, 75*time.Second, 50*time.Millisecond, "the message goes out")
}

// TestAMessageEndsAsFailed: what is tried for two days, or lost its work, is said to
// have failed, and does not hold up what comes after it.
func TestAMessageEndsAsFailed(t *testing.T) {
	ilse := who(t, demo.Ilse)
	id, first := outsider(t, "twodays@kirisame.example")
	defer running.World.Switch("post", standin.Working)
	exec(t, `UPDATE dispatch SET queued_at = queued_at - interval '3 days' WHERE id = $1`, first)
	require.Error(t, service().Dispatch.Deliver(t.Context(), first))
	d := stateOf(t, first)
	assert.Equal(t, schedule.Failed, d.State)
	assert.Contains(t, d.Detail, "given up after 48 hours")
	assert.Contains(t, words.Event(tongue.Tongue{}, look(t, ilse.ID, id).Happenings[0].Event), "twodays@kirisame.example was refused: given up")

	// Its work got lost: the sweep ends it.
	_, lost := outsider(t, "lost@kirisame.example")
	exec(t, `DELETE FROM river_job WHERE args->>'dispatchId' = $1`, lost.String())
	exec(t, `UPDATE dispatch SET queued_at = queued_at - interval '50 hours' WHERE id = $1`, lost)
	require.NoError(t, service().Dispatch.Sweep(t.Context()))
	assert.Equal(t, schedule.Failed, stateOf(t, lost).State)

	// A later message waits for an earlier one, but not for ever.
	third, before := outsider(t, "behind@kirisame.example")
	change(t, ilse.ID, third, func(d *meeting.Draft) { d.Title = "Another title" })
	var after uuid.UUID
	for _, d := range look(t, ilse.ID, third).Dispatches {
		after = d.ID
	}
	require.ErrorIs(t, service().Dispatch.Deliver(t.Context(), after), dispatch.ErrEarlier)
	exec(t, `DELETE FROM river_job WHERE args->>'dispatchId' = $1`, before.String())
	exec(t, `UPDATE dispatch SET queued_at = queued_at - interval '50 hours' WHERE id = $1`, before)
	running.World.Switch("post", standin.Working)
	eventually(t, "the later message goes out", func() bool { return stateOf(t, after).State == schedule.Handed })
}

// slow is a provider as a test wants it.
type slow struct {
	takes     time.Duration
	move      error
	renewed   atomic.Int32
	made      atomic.Int32
	withdrawn chan string
	changing  func() // while it changes a call
}

func (p *slow) Service() join.Service {
	return join.Service{Name: "Slow", Can: []join.Ability{join.CanMake}, Each: true, Choices: join.Choices{OwnPasscode: true}}
}

func (p *slow) Make(ctx context.Context, keys links.Keyring, _ links.Call) (join.Card, error) {
	time.Sleep(p.takes)
	t, err := keys.Token(ctx)
	if err != nil {
		return join.Card{}, err
	}
	if !t.Valid() {
		if _, err := keys.Renew(ctx, t, func(*oauth2.Token) (*oauth2.Token, error) {
			// A refresh token is good once.
			if p.renewed.Add(1) > 1 {
				return nil, schedule.ErrConnect
			}
			time.Sleep(50 * time.Millisecond)
			return &oauth2.Token{AccessToken: "fresh", RefreshToken: "r2", Expiry: time.Now().Add(time.Hour)}, nil
		}); err != nil {
			return join.Card{}, err
		}
	}
	n := p.made.Add(1)
	return join.Card{URL: "https://slow.example/" + uuid.NewString(), Name: "Slow", Keep: map[string]string{"id": string('a' + rune(n))}}, nil
}

func (p *slow) Change(_ context.Context, _ links.Keyring, card join.Card, _ links.Call) (join.Card, error) {
	if p.changing != nil {
		p.changing()
	}
	return card, p.move
}

func (p *slow) Holds(context.Context, links.Keyring, join.Card) (bool, error) { return true, nil }
func (p *slow) List(context.Context, links.Keyring) ([]links.Room, error)     { return nil, nil }
func (p *slow) Knows(join.Card) bool                                          { return true }
func (p *slow) SignInURL(map[string]string, string, string, string) string    { return "" }
func (p *slow) Exchange(context.Context, map[string]string, string, string, string) (*oauth2.Token, error) {
	return nil, schedule.ErrConnect
}

func (p *slow) Withdraw(_ context.Context, _ links.Keyring, card join.Card) error {
	p.withdrawn <- card.URL
	return nil
}

// signedInAt gives somebody a token at a provider.
func signedInAt(t testing.TB, d *deeds.Deeds, person uuid.UUID, token oauth2.Token) {
	sealed := d.Seal.Lock([]byte(`{"access_token":"` + token.AccessToken + `","refresh_token":"r","expiry":"` + token.Expiry.Format(time.RFC3339) + `"}`))
	require.NoError(t, running.Program.Store.InTx(t.Context(), func(tx *postgres.Tx) error {
		added, err := tx.AddProvider(t.Context(), schedule.ProviderRecord{Key: "slow"}, time.Now())
		if err == nil && added {
			err = errors.Join(tx.AddProviderVersion(t.Context(), "slow", 1, "as a test wants it", uuid.Nil, time.Now()),
				tx.SetProvider(t.Context(), schedule.ProviderRecord{Key: "slow", DraftVersion: 1, Version: 1, InUse: true, Service: join.Service{Name: "Slow"}}))
		}
		if err != nil {
			return err
		}
		return tx.SetConnection(t.Context(), person, "slow", sealed, time.Now())
	}))
}

// TestTwoRenewalsAtOnce: the sign-in at a provider is renewed once, and everybody who
// waited goes on with that.
func TestTwoRenewalsAtOnce(t *testing.T) {
	ilse := who(t, demo.Ilse)
	p := &slow{}
	d := another(nil, p)
	signedInAt(t, d, ilse.ID, oauth2.Token{AccessToken: "old", Expiry: time.Now().Add(-time.Hour)})
	var all []func() error
	for range 18 {
		s := open(t, ilse.ID, draft(nil))
		all = append(all, func() error {
			_, err := d.Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, links.Choice{Provider: "slow"})
			return err
		})
	}
	for _, err := range atOnce(all...) {
		require.NoError(t, err)
	}
	assert.EqualValues(t, 1, p.renewed.Load())
}

// TestAProviderThatAnswersLate: its link comes onto the sheet when nobody waits any
// more, or is withdrawn where the sheet is gone.
func TestAProviderThatAnswersLate(t *testing.T) {
	ilse := who(t, demo.Ilse)
	p := &slow{takes: 500 * time.Millisecond, withdrawn: make(chan string, 5)}
	d := another(nil, p)
	signedInAt(t, d, ilse.ID, oauth2.Token{AccessToken: "good", Expiry: time.Now().Add(time.Hour)})
	d.Links.WaitFor = 50 * time.Millisecond
	before := withdrawn(t)
	stays, goes := open(t, ilse.ID, draft(nil)), open(t, ilse.ID, draft(nil))
	for _, s := range []schedule.Sheet{stays, goes} {
		_, err := d.Links.Choose(t.Context(), schedule.Self(ilse.ID), s.ID, links.Choice{Provider: "slow"})
		require.ErrorIs(t, err, schedule.ErrUnreachable)
	}
	require.NoError(t, service().Sheets.DiscardSheet(t.Context(), schedule.Self(ilse.ID), goes.ID))
	eventually(t, "the link is on the sheet", func() bool {
		v, err := service().Sheets.Sheet(t.Context(), schedule.Self(ilse.ID), stays.ID, "")
		return err == nil && v.Card.Made()
	})
	eventually(t, "the other is to be withdrawn", func() bool { return withdrawn(t) == before+1 })
}

// withdrawn is how many calls are to be withdrawn at the provider that is slow.
func withdrawn(t testing.TB) (n int) {
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), `SELECT count(*) FROM river_job WHERE kind = 'call_change' AND args->'Card'->>'provider' = 'slow' AND (args->>'Withdraw')::boolean`).Scan(&n))
	return n
}

// TestWhatWasChosenLastCounts: a link that is made for an earlier choice is withdrawn, whether the
// call was taken off or another one was taken meanwhile, while somebody waited or not.
func TestWhatWasChosenLastCounts(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	p := &slow{takes: 400 * time.Millisecond}
	d := another(nil, p)
	signedInAt(t, d, ilse.ID, oauth2.Token{AccessToken: "good", Expiry: time.Now().Add(time.Hour)})
	takeOff := func(id uuid.UUID) (schedule.Sheet, error) { return d.Links.DropLink(t.Context(), me, id, false) }
	other := func(id uuid.UUID) (schedule.Sheet, error) {
		return d.Links.Choose(t.Context(), me, id, links.Choice{Text: "https://quay.example/meet/last"})
	}
	none := func(id uuid.UUID) (schedule.Sheet, error) {
		kept, _, err := sheetOf(t, ilse.ID, id)
		require.NoError(t, err)
		kept.Draft.NoLink = true
		kept, _, err = d.Sheets.SaveSheet(t.Context(), me, id, kept.Version, kept.Draft, "")
		return kept, err
	}
	for name, c := range map[string]struct {
		waits time.Duration
		then  func(uuid.UUID) (schedule.Sheet, error)
		url   string
	}{
		"taken off at once":              {10 * time.Second, takeOff, ""},
		"taken off after it took long":   {50 * time.Millisecond, takeOff, ""},
		"none needed":                    {10 * time.Second, none, ""},
		"another at once":                {10 * time.Second, other, "https://quay.example/meet/last"},
		"another after it took too long": {50 * time.Millisecond, other, "https://quay.example/meet/last"},
	} {
		t.Run(name, func(t *testing.T) {
			d.Links.WaitFor = c.waits
			s, before := open(t, ilse.ID, draft(func(d *meeting.Draft) { d.NoLink = false })), withdrawn(t)
			said := make(chan error, 1)
			go func() {
				_, err := d.Links.Choose(t.Context(), me, s.ID, links.Choice{Provider: "slow"})
				said <- err
			}()
			time.Sleep(150 * time.Millisecond)
			_, err := c.then(s.ID)
			require.NoError(t, err)
			if err := <-said; err != nil {
				require.ErrorIs(t, err, schedule.ErrUnreachable)
			}
			eventually(t, "what was made too late is withdrawn", func() bool { return withdrawn(t) == before+1 })
			kept, _, err := sheetOf(t, ilse.ID, s.ID)
			require.NoError(t, err)
			if c.url == "" {
				assert.Nil(t, kept.Card)
			} else {
				assert.Equal(t, c.url, kept.Card.URL)
			}
		})
	}
}

// TestTheDoorOfACallThatIsLeft: what is set at the door of a call takes back neither the one that was
// chosen meanwhile, nor that of a sheet that goes out.
func TestTheDoorOfACallThatIsLeft(t *testing.T) {
	undoFor(t, time.Hour)
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	p := &slow{}
	d := another(nil, p)
	signedInAt(t, d, ilse.ID, oauth2.Token{AccessToken: "good", Expiry: time.Now().Add(time.Hour)})
	onSheet := func() schedule.Sheet {
		s := open(t, ilse.ID, draft(outsiders("door@veerhaven.example")))
		s, err := d.Links.Choose(t.Context(), me, s.ID, links.Choice{Provider: "slow"})
		require.NoError(t, err)
		return s
	}
	s, before := onSheet(), withdrawn(t)
	p.changing = func() {
		_, err := d.Links.Choose(t.Context(), me, s.ID, links.Choice{Text: "https://quay.example/meet/last"})
		assert.NoError(t, err)
	}
	now, err := d.Links.SetDoor(t.Context(), me, s.ID, join.Door{}, "reed-31")
	require.NoError(t, err)
	assert.Equal(t, "https://quay.example/meet/last", now.Card.URL)
	assert.Equal(t, before+1, withdrawn(t), "by who chose another")

	s, before, p.changing = onSheet(), withdrawn(t), nil
	_, err = service().Sheets.SendLater(t.Context(), me, s.ID, s.Version, "")
	require.NoError(t, err)
	var invalid *schedule.InvalidError
	_, err = d.Links.SetDoor(t.Context(), me, s.ID, join.Door{}, "")
	require.ErrorAs(t, err, &invalid)
	assert.Equal(t, before, withdrawn(t))
	kept, err := service().Sheets.Sheet(t.Context(), me, s.ID, "")
	require.NoError(t, err)
	assert.True(t, kept.Card.Made())
}

// TestALinkThatIsMadeTooLateForWhatWaits: the sheet goes out with the call that it had, and nothing
// stays at the provider.
func TestALinkThatIsMadeTooLateForWhatWaits(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	p := &slow{takes: 400 * time.Millisecond}
	d := another(nil, p)
	d.Sheets.Undo, d.Links.WaitFor = time.Hour, 10*time.Second
	signedInAt(t, d, ilse.ID, oauth2.Token{AccessToken: "good", Expiry: time.Now().Add(time.Hour)})
	s := choose(t, ilse.ID, open(t, ilse.ID, draft(outsiders("too-late@veerhaven.example"))).ID, links.Choice{Text: "https://quay.example/meet/first"})
	before, said := withdrawn(t), make(chan error, 1)
	go func() {
		_, err := d.Links.Choose(t.Context(), me, s.ID, links.Choice{Provider: "slow"})
		said <- err
	}()
	time.Sleep(150 * time.Millisecond)
	_, err := d.Sheets.SendLater(t.Context(), me, s.ID, s.Version, "")
	require.NoError(t, err)
	require.NoError(t, <-said)
	kept, err := service().Sheets.Sheet(t.Context(), me, s.ID, "")
	require.NoError(t, err)
	assert.Equal(t, "https://quay.example/meet/first", kept.Card.URL)
	assert.NotNil(t, kept.SendAt)
	assert.Equal(t, before+1, withdrawn(t))

	var invalid *schedule.InvalidError
	_, err = d.Links.Choose(t.Context(), me, s.ID, links.Choice{Provider: "slow"})
	require.ErrorAs(t, err, &invalid, "none is made for what changes no more")
	assert.Equal(t, before+1, withdrawn(t))
}

// TestACallThatCannotFollow: the organiser is told that the sign-in at the provider is
// over, once, and signing in again mends it.
func TestACallThatCannotFollow(t *testing.T) {
	ilse := who(t, demo.Ilse)
	p := &slow{move: schedule.ErrConnect}
	d := another(nil, p)
	signedInAt(t, d, ilse.ID, oauth2.Token{AccessToken: "good", Expiry: time.Now().Add(time.Hour)})
	id, _ := crowd(t, nil)
	exec(t, `UPDATE meeting_version SET content = jsonb_set(content, '{card}', '{"provider":"slow","name":"Slow","url":"https://slow.example/1"}') WHERE meeting_id = $1`, id)
	c := schedule.CallChange{PersonID: ilse.ID, Card: schedule.StoredCard{Card: join.Card{Provider: "slow", Name: "Slow", URL: "https://slow.example/1"}}, MeetingID: id}
	for range 3 {
		require.ErrorIs(t, d.Links.ChangeCall(t.Context(), c), schedule.ErrUnreachable, "it is tried again")
	}
	said := 0
	for _, h := range look(t, ilse.ID, id).Happenings {
		if h.Kind == meeting.EventLinkStays {
			said++
			assert.Contains(t, words.Event(tongue.Tongue{}, h.Event), "Sign in again and it follows")
		}
	}
	assert.Equal(t, 1, said)
	p.move = nil
	require.NoError(t, d.Links.ChangeCall(t.Context(), c))
	p.move = errors.New("something else")
	require.Error(t, d.Links.ChangeCall(t.Context(), c))
}
