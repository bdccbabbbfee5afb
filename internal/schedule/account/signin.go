package account

import (
	"context"
	"crypto/rand"
	"errors"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// signinTx is what is needed here of a transaction.
type signinTx interface {
	directory.LookupTx
	AddSession(ctx context.Context, tokenHash []byte, personID uuid.UUID, from time.Time, until time.Time) error
	DropOldSessions(ctx context.Context, now time.Time) error
	DropSession(ctx context.Context, tokenHash []byte) error
	PersonByEmail(ctx context.Context, email string) (schedule.Person, error)
	SessionPerson(ctx context.Context, tokenHash []byte, now time.Time) (uuid.UUID, error)
}

// SessionLength is how long somebody stays signed in.
const SessionLength = 14 * 24 * time.Hour

// HashPassword makes what is kept of a password.
func HashPassword(password string) (string, error) {
	return argon2id.CreateHash(password, argon2id.DefaultParams)
}

// nobody is compared with when there is no such person, so that the answer
// takes as long either way.
var nobody = sync.OnceValues(func() (string, error) { return HashPassword(rand.Text()) })

// SignIn opens a session and returns its token; it fails with ErrSignIn.
func (s *Deeds) SignIn(ctx context.Context, email, password string) (token string, p schedule.Person, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err = tx.PersonByEmail(ctx, strings.TrimSpace(email))
		return err
	})
	if err != nil && !errors.Is(err, schedule.ErrNotFound) {
		return "", schedule.Person{}, err
	}
	hash := p.PasswordHash
	if errors.Is(err, schedule.ErrNotFound) {
		if hash, err = nobody(); err != nil {
			return "", schedule.Person{}, err
		}
	}
	match, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return "", schedule.Person{}, err
	}
	if !match {
		return "", schedule.Person{}, schedule.ErrSignIn
	}
	token = rand.Text() + rand.Text()
	now := s.Now()
	return token, p, s.Store.InTx(ctx, func(tx Tx) error {
		if err := tx.DropOldSessions(ctx, now); err != nil {
			return err
		}
		return tx.AddSession(ctx, schedule.TokenHash(token), p.ID, now, now.Add(SessionLength))
	})
}

// SignOut ends a session; one that is over already is no error.
func (s *Deeds) SignOut(ctx context.Context, token string) error {
	return s.Store.InTx(ctx, func(tx Tx) error { return tx.DropSession(ctx, schedule.TokenHash(token)) })
}

// SignedIn is whose session a token names; it fails with ErrNotFound.
func (s *Deeds) SignedIn(ctx context.Context, token string) (id uuid.UUID, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		id, err = tx.SessionPerson(ctx, schedule.TokenHash(token), s.Now())
		return err
	})
	return id, err
}

// Me is the person signed in.
func (s *Deeds) Me(ctx context.Context, me uuid.UUID) (p schedule.Person, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err = directory.Person(ctx, tx, me)
		return err
	})
	return p, err
}
