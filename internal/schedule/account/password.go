package account

import (
	"context"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/nbutton23/zxcvbn-go"

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
	if len(current) > passwordLimit {
		return schedule.Invalid("current", "This is not the password that holds now.")
	}
	match, err := s.Hasher.matches(ctx, current, p.PasswordHash)
	if err != nil {
		return err
	}
	switch n := utf8.RuneCountInString(fresh); {
	case !match:
		return schedule.Invalid("current", "This is not the password that holds now.")
	case n < shortestPassword:
		return schedule.Invalid("fresh", "A password has at least 12 characters. A sentence of four words is easy to keep.")
	case len(fresh) > passwordLimit:
		return schedule.Invalid("fresh", "A password has at most 500 characters.")
	case zxcvbn.PasswordStrength(fresh[:min(len(fresh), 100)], []string{p.Name, p.Email, s.House.Name}).Score < strength:
		return schedule.Invalid("fresh", "This password is easy to guess. Take words that do not belong together.")
	}
	hash, err := s.Hasher.hash(ctx, fresh)
	if err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(tx Tx) error {
		if err := tx.SetPassword(ctx, who.By, hash); err != nil {
			return err
		}
		return endOthers(ctx, tx, who, token)
	})
}
