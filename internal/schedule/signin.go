package schedule

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"
)

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
func (s *Service) SignIn(ctx context.Context, email, password string) (token string, p Person, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err = tx.PersonByEmail(ctx, strings.TrimSpace(email))
		return err
	})
	if err != nil && !errors.Is(err, ErrNotFound) {
		return "", Person{}, err
	}
	hash := p.PasswordHash
	if errors.Is(err, ErrNotFound) {
		if hash, err = nobody(); err != nil {
			return "", Person{}, err
		}
	}
	match, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return "", Person{}, err
	}
	if !match {
		return "", Person{}, ErrSignIn
	}
	token = rand.Text() + rand.Text()
	now := s.Now()
	return token, p, s.Store.InTx(ctx, func(tx Tx) error {
		if err := tx.DropOldSessions(ctx, now); err != nil {
			return err
		}
		return tx.AddSession(ctx, TokenHash(token), p.ID, now, now.Add(SessionLength))
	})
}

// SignOut ends a session; one that is over already is no error.
func (s *Service) SignOut(ctx context.Context, token string) error {
	return s.Store.InTx(ctx, func(tx Tx) error { return tx.DropSession(ctx, TokenHash(token)) })
}

// SignedIn is whose session a token names; it fails with ErrNotFound.
func (s *Service) SignedIn(ctx context.Context, token string) (id uuid.UUID, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		id, err = tx.SessionPerson(ctx, TokenHash(token), s.Now())
		return err
	})
	return id, err
}

// Me is the person signed in.
func (s *Service) Me(ctx context.Context, me uuid.UUID) (p Person, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err = person(ctx, tx, me)
		return err
	})
	return p, err
}

func TokenHash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}
