package account

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// sessionsTx is what is needed here of a transaction.
type sessionsTx interface {
	directory.LookupTx
	DropSession(ctx context.Context, tokenHash []byte) (uuid.UUID, error)
	DropSessionsOf(ctx context.Context, personID uuid.UUID, but []byte) error
	SessionPerson(ctx context.Context, tokenHash []byte, now, idleSince time.Time) (session schedule.Session, err error)
	TouchSession(ctx context.Context, tokenHash []byte, now time.Time) error
	Tell(ctx context.Context, n schedule.Notice) error
}

const (
	// SessionLength is how long somebody stays signed in at the most, and
	// IdleLength how long without using it.
	SessionLength = 14 * 24 * time.Hour
	IdleLength    = 3 * 24 * time.Hour
	// touched is how old the last use may be before it is written down anew.
	touched = 10 * time.Minute
)

// SignOut ends a session, and the windows that listen in it; one that is over
// already is no error.
func (s *Deeds) SignOut(ctx context.Context, token string) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		person, err := tx.DropSession(ctx, schedule.TokenHash(token))
		if err == schedule.ErrNotFound {
			return nil
		}
		if err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{person}, Topic: schedule.AboutSession, ID: schedule.SessionID(token)})
	})
}

// SignOutOthers ends all sessions of somebody but the one that asks.
func (s *Deeds) SignOutOthers(ctx context.Context, who schedule.Actor, token string) error {
	return s.Store.InTx(ctx, func(tx Tx) error { return endOthers(ctx, tx, who, token) })
}

// endOthers ends the sessions. All windows are let go: those of the session that
// stays come back by themselves.
func endOthers(ctx context.Context, tx sessionsTx, who schedule.Actor, token string) error {
	if err := tx.DropSessionsOf(ctx, who.By, schedule.TokenHash(token)); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.By}, Topic: schedule.AboutSession})
}

// SignedIn is the session that a token names; it fails with ErrNotFound. The session
// lives on by being used.
func (s *Deeds) SignedIn(ctx context.Context, token string) (schedule.Session, error) {
	session, err := s.Peek(ctx, token)
	if err != nil || s.Now().Sub(session.Seen) < touched {
		return session, err
	}
	return session, s.Store.InTx(ctx, func(tx Tx) error { return tx.TouchSession(ctx, schedule.TokenHash(token), s.Now()) })
}

// Peek is the same without keeping the session alive.
func (s *Deeds) Peek(ctx context.Context, token string) (session schedule.Session, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		session, err = tx.SessionPerson(ctx, schedule.TokenHash(token), s.Now(), s.Now().Add(-IdleLength))
		return err
	})
	return session, err
}

// Me is the person signed in.
func (s *Deeds) Me(ctx context.Context, who schedule.Actor) (p schedule.Person, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err = directory.Person(ctx, tx, who.For)
		return err
	})
	return p, err
}
