package account

import (
	"context"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/nbutton23/zxcvbn-go"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
)

// passwordTx is what is needed here of a transaction.
type passwordTx interface {
	sessionsTx
	SetPassword(ctx context.Context, id uuid.UUID, hash string) error
}

// shortestPassword is how many characters a new password has at least; strength is
// the least score of zxcvbn, which knows the common ones: 3 is for some ten to the
// eighth guesses and more.
const shortestPassword, strength = 12, 3

// ChangePassword takes a new password in place of the one that holds, and ends all
// other sessions.
func (s *Deeds) ChangePassword(ctx context.Context, who schedule.Actor, token, current, fresh string) error {
	p, err := s.Me(ctx, who)
	if err != nil {
		return err
	}
	// A window left open is no place for guessing either.
	key, now := "password "+p.ID.String(), s.Now()
	err = s.Store.Look(ctx, func(tx Tx) error {
		tries, err := tx.Throttles(ctx, []string{key})
		if err != nil {
			return err
		}
		if wait := tries[key].wait(now); wait > 0 {
			return &WaitError{wait}
		}
		return nil
	})
	if err != nil {
		return err
	}
	match, err := s.Hasher.matches(ctx, current[:min(len(current), passwordLimit+1)], p.PasswordHash)
	if err != nil {
		return err
	}
	var faults []meeting.Fault
	if !match {
		faults = append(faults, meeting.Fault{Field: "current", What: say.It("password.wrong")})
		if err := s.Store.InTx(ctx, func(tx Tx) error { return tx.AddFails(ctx, []string{key}, now) }); err != nil {
			return err
		}
	}
	if weak := s.weakness(fresh, p); !weak.Empty() {
		faults = append(faults, meeting.Fault{Field: "fresh", What: weak})
	}
	if len(faults) > 0 {
		return &schedule.InvalidError{Faults: faults}
	}
	hash, err := s.Hasher.hash(ctx, fresh)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(tx Tx) error {
		if err := tx.SetPassword(ctx, who.By, hash); err != nil {
			return err
		}
		if err := tx.DropThrottle(ctx, key); err != nil {
			return err
		}
		return endOthers(ctx, tx, who, token)
	})
}

// weakness says why somebody must not take a password; empty when they may.
func (s *Deeds) weakness(fresh string, p schedule.Person) say.What {
	switch {
	case utf8.RuneCountInString(fresh) < shortestPassword:
		return say.It("password.short")
	case len(fresh) > passwordLimit:
		return say.It("password.long")
	case zxcvbn.PasswordStrength(fresh[:min(len(fresh), 100)], []string{p.Name, p.Email, s.House.Name}).Score < strength:
		return say.It("password.easy")
	}
	return say.What{}
}
