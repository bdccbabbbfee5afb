package account

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/netip"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"jembro/internal/schedule"
)

// signinTx is what is needed here of a transaction.
type signinTx interface {
	AddSession(ctx context.Context, tokenHash []byte, personID uuid.UUID, from, until time.Time) error
	AddFails(ctx context.Context, keys []string, now time.Time) error
	DropOldSessions(ctx context.Context, now, idleSince time.Time) error
	DropThrottle(ctx context.Context, key string) error
	PersonByEmail(ctx context.Context, email string) (schedule.Person, error)
	Throttles(ctx context.Context, keys []string) (map[string]Throttle, error)
}

// Throttle is how often something failed, and when it last did.
type Throttle struct {
	Fails int
	Last  time.Time
}

// Tries without waiting, and the longest wait after more of them.
const (
	freeTries   = 5
	longestWait = 30 * time.Second
	forgetAfter = time.Hour
)

// wait is how long the next try has to wait: a second after the sixth, then twice
// as long each time. Nobody is locked out.
func (t Throttle) wait(now time.Time) time.Duration {
	if t.Fails < freeTries || now.Sub(t.Last) > forgetAfter {
		return 0
	}
	pause := min(time.Second<<min(t.Fails-freeTries, 10), longestWait)
	return max(t.Last.Add(pause).Sub(now), 0)
}

// WaitError: too many tries failed; the next one is taken after a while.
type WaitError struct{ For time.Duration }

func (e *WaitError) Error() string {
	return fmt.Sprintf("wait %d s before the next try", e.Seconds())
}

// Seconds is how many whole seconds there are to wait, one at least.
func (e *WaitError) Seconds() int { return int((e.For + time.Second - 1) / time.Second) }

// Hasher makes and compares password hashes, a few at a time: each takes 64 MiB
// while it is at work.
type Hasher struct{ slots chan struct{} }

// NewHasher works on so many hashes at a time.
func NewHasher(atATime int) *Hasher { return &Hasher{make(chan struct{}, atATime)} }

func (h *Hasher) matches(ctx context.Context, password, hash string) (bool, error) {
	select {
	case h.slots <- struct{}{}:
		defer func() { <-h.slots }()
		return argon2id.ComparePasswordAndHash(password, hash)
	case <-ctx.Done():
		return false, ctx.Err()
	}
}

func (h *Hasher) hash(ctx context.Context, password string) (string, error) {
	select {
	case h.slots <- struct{}{}:
		defer func() { <-h.slots }()
		return HashPassword(password)
	case <-ctx.Done():
		return "", ctx.Err()
	}
}

// HashPassword makes what is kept of a password.
func HashPassword(password string) (string, error) {
	return argon2id.CreateHash(password, argon2id.DefaultParams)
}

// nobody is compared with when there is no such person, so that the answer
// takes as long either way.
var nobody = sync.OnceValues(func() (string, error) { return HashPassword(rand.Text()) })

// passwordLimit is how many bytes of a password are looked at: more is none.
const passwordLimit = 500

// SignIn opens a session and returns its token; it fails with ErrSignIn, or with a
// *WaitError after several tries for the account or from the network that failed.
func (s *Deeds) SignIn(ctx context.Context, email, password string, from netip.Addr) (token string, p schedule.Person, err error) {
	email = strings.TrimSpace(email)
	account, network := "account "+strings.ToLower(email), "network "+networkOf(from)
	now := s.Now()
	err = s.Store.Look(ctx, func(tx Tx) error {
		tries, err := tx.Throttles(ctx, []string{account, network})
		if err != nil {
			return err
		}
		// A network is many people: it may fail more often before it waits.
		shared := tries[network]
		shared.Fails -= 20
		if wait := max(tries[account].wait(now), shared.wait(now)); wait > 0 {
			return &WaitError{wait}
		}
		p, err = tx.PersonByEmail(ctx, email)
		return err
	})
	if err != nil && !errors.Is(err, schedule.ErrNotFound) {
		return "", schedule.Person{}, err
	}
	if p.Left {
		p = schedule.Person{}
	}
	hash := p.PasswordHash
	if errors.Is(err, schedule.ErrNotFound) {
		if hash, err = nobody(); err != nil {
			return "", schedule.Person{}, err
		}
	}
	match, err := s.Hasher.matches(ctx, password[:min(len(password), passwordLimit+1)], hash)
	if err != nil {
		return "", schedule.Person{}, err
	}
	if !match || len(password) > passwordLimit {
		return "", schedule.Person{}, errors.Join(schedule.ErrSignIn, s.Store.InTx(ctx, func(tx Tx) error {
			return tx.AddFails(ctx, []string{account, network}, now)
		}))
	}
	token = rand.Text() + rand.Text()
	return token, p, s.Store.InTx(ctx, func(tx Tx) error {
		if err := tx.DropOldSessions(ctx, now, now.Add(-IdleLength)); err != nil {
			return err
		}
		if err := tx.DropThrottle(ctx, account); err != nil {
			return err
		}
		return tx.AddSession(ctx, schedule.TokenHash(token), p.ID, now, now.Add(SessionLength))
	})
}

// networkOf is the address, or of IPv6 the network that one customer has (/64).
func networkOf(a netip.Addr) string {
	a = a.Unmap()
	if a.Is6() {
		if p, err := a.Prefix(64); err == nil {
			return p.Masked().String()
		}
	}
	return a.String()
}
