package schedule_test

import (
	"net/netip"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/program"
	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
)

func TestSessionsEndByThemselvesAndAtOnce(t *testing.T) {
	from := netip.MustParseAddr("192.0.2.7")
	signIn := func() string {
		token, _, err := service().Account.SignIn(t.Context(), "duarte.sa@marrowby.example", demo.Password, from)
		require.NoError(t, err)
		return token
	}
	token, other := signIn(), signIn()
	session, err := service().Account.SignedIn(t.Context(), token)
	require.NoError(t, err)

	later := *service().Account
	later.Clock = func() time.Time { return service().Now().Add(account.IdleLength + time.Minute) }
	_, err = later.SignedIn(t.Context(), token)
	require.ErrorIs(t, err, schedule.ErrNotFound, "not used for three days")
	between := *service().Account
	between.Clock = func() time.Time { return service().Now().Add(account.IdleLength - time.Hour) }
	_, err = between.SignedIn(t.Context(), token)
	require.NoError(t, err)
	_, err = later.SignedIn(t.Context(), token)
	require.NoError(t, err, "it lives on by being used")
	_, err = later.Peek(t.Context(), other)
	require.ErrorIs(t, err, schedule.ErrNotFound)

	other = signIn()
	require.NoError(t, service().Account.SignOutOthers(t.Context(), schedule.Self(session.Person), token))
	_, err = service().Account.SignedIn(t.Context(), other)
	require.ErrorIs(t, err, schedule.ErrNotFound)
	_, err = service().Account.SignedIn(t.Context(), token)
	require.NoError(t, err)
}

func TestANewPassword(t *testing.T) {
	from := netip.MustParseAddr("192.0.2.8")
	email := "celia.arruda@marrowby.example"
	p := who(t, email)
	token, _, err := service().Account.SignIn(t.Context(), p.Email, demo.Password, from)
	require.NoError(t, err)
	cases := []struct{ name, current, fresh, field string }{
		{"the one that holds is another", "wrong", "kiln lantern otter brisk", "current"},
		{"too short", demo.Password, "kiln lan", "fresh"},
		{"common", demo.Password, "password12345", "fresh"},
		{"of the house", demo.Password, "marrowbymuseums", "fresh"},
		{"of the person", demo.Password, p.Email, "fresh"},
	}
	var invalid *schedule.InvalidError
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			err := service().Account.ChangePassword(t.Context(), schedule.Self(p.ID), token, c.current, c.fresh)
			require.ErrorAs(t, err, &invalid)
			assert.Equal(t, c.field, invalid.Faults[0].Field)
		})
	}
	fresh := "kiln lantern otter brisk"
	require.NoError(t, service().Account.ChangePassword(t.Context(), schedule.Self(p.ID), token, demo.Password, fresh))
	_, _, err = service().Account.SignIn(t.Context(), p.Email, demo.Password, from)
	require.ErrorIs(t, err, schedule.ErrSignIn)
	_, _, err = service().Account.SignIn(t.Context(), p.Email, fresh, from)
	require.NoError(t, err)

	// Whoever finds a window open does not guess in it for long; both faults are said
	// at once.
	now, frozen := service().Now(), *service().Account
	frozen.Clock = func() time.Time { return now }
	for range 5 {
		require.ErrorAs(t, frozen.ChangePassword(t.Context(), schedule.Self(p.ID), token, "guessed", "short"), &invalid)
		require.Len(t, invalid.Faults, 2)
	}
	var wait *account.WaitError
	require.ErrorAs(t, frozen.ChangePassword(t.Context(), schedule.Self(p.ID), token, fresh, "kiln lantern otter brisk two"), &wait)
}

// TestSlowingTriesByAccountAndNetwork: guessing gets slower, also from many addresses
// of one network; nobody is locked out.
func TestSlowingTriesByAccountAndNetwork(t *testing.T) {
	try := func(d *account.Deeds, email, from string) error {
		_, _, err := d.SignIn(t.Context(), email, "wrong", netip.MustParseAddr(from))
		return err
	}
	var wait *account.WaitError
	// The clock stands still: how long hashing takes is nothing to this.
	now, frozen := service().Now(), *service().Account
	frozen.Clock = func() time.Time { return now }
	deeds := &frozen
	guessed := "guessed" + uuid.NewString() + "@marrowby.example"
	for range 5 {
		require.ErrorIs(t, try(deeds, guessed, "192.0.2.20"), schedule.ErrSignIn)
	}
	require.ErrorAs(t, try(deeds, guessed, "192.0.2.21"), &wait, "from another address too")
	first := wait.For
	soon := *deeds
	soon.Clock = func() time.Time { return now.Add(first + time.Second) }
	require.ErrorIs(t, try(&soon, guessed, "192.0.2.22"), schedule.ErrSignIn, "after the wait it is taken")
	require.ErrorAs(t, try(&soon, guessed, "192.0.2.22"), &wait)
	assert.Greater(t, wait.For, first, "and the next wait is longer")

	// One network of IPv6 is one neighbour, however many addresses it uses.
	for i := range 25 {
		email := uuid.NewString() + "@marrowby.example"
		require.ErrorIs(t, try(deeds, email, netip.AddrFrom16([16]byte{0x20, 1, 0xd, 0xb8, 0, 0, 0, 7, 0, 0, 0, 0, 0, 0, 0, byte(i)}).String()), schedule.ErrSignIn)
	}
	require.ErrorAs(t, try(deeds, "x@marrowby.example", "2001:db8:0:7::ffff"), &wait)
	require.ErrorIs(t, try(deeds, "y@marrowby.example", "2001:db8:0:8::1"), schedule.ErrSignIn, "the next network")
}

// TestAClockThatIsSetBack: a program that begins at the same JEMBRO_NOW as before goes on
// after what is stored.
func TestAClockThatIsSetBack(t *testing.T) {
	send(t, who(t, demo.Ilse).ID, open(t, who(t, demo.Ilse).ID, draft(nil)))
	var last time.Time
	require.NoError(t, running.Program.Store.Look(t.Context(), func(tx *postgres.Tx) (err error) {
		last, err = tx.LastStamp(t.Context())
		return err
	}))
	now, err := program.Clock(t.Context(), "2026-11-24T10:12:00Z", running.Program.Store)
	require.NoError(t, err)
	assert.True(t, now().After(last), "%s is after %s", now(), last)
	future := last.Add(48 * time.Hour).Truncate(time.Second)
	now, err = program.Clock(t.Context(), future.Format(time.RFC3339), running.Program.Store)
	require.NoError(t, err)
	assert.WithinDuration(t, future, now(), time.Minute, "a later moment is taken as it is")
	now, err = program.Clock(t.Context(), "", running.Program.Store)
	require.NoError(t, err)
	assert.WithinDuration(t, time.Now(), now(), 5*time.Second, "the database's clock, here that of this machine")
	_, err = program.Clock(t.Context(), "yesterday", running.Program.Store)
	refusedWith(t, err, "JEMBRO_NOW")
}
