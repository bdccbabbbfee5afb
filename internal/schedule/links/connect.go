package links

import (
	"context"
	"crypto/rand"
	"time"

	"github.com/google/uuid"
	"golang.org/x/oauth2"

	"jembro/internal/schedule"
)

// connectTx is what is needed here of a transaction.
type connectTx interface {
	AddConnecting(ctx context.Context, stateHash []byte, c schedule.Connecting, until time.Time) error
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	TakeConnecting(ctx context.Context, stateHash []byte, personID uuid.UUID, now time.Time) (schedule.Connecting, error)
}

// StartConnecting begins the sign-in at a provider for the sake of a sheet, and
// says where the browser has to go.
func (s *Deeds) StartConnecting(ctx context.Context, who schedule.Actor, provider string, sheetID uuid.UUID) (string, error) {
	p, can := s.Providers[provider].(OAuthProvider)
	if !can {
		return "", schedule.ErrNotFound
	}
	state, verifier := rand.Text(), oauth2.GenerateVerifier()
	err := s.Store.InTx(ctx, func(tx Tx) error {
		if _, err := tx.Sheet(ctx, sheetID, who.For); err != nil {
			return err
		}
		return tx.AddConnecting(ctx, schedule.TokenHash(state), schedule.Connecting{PersonID: who.For, Provider: provider, Verifier: verifier, SheetID: sheetID},
			s.Now().Add(15*time.Minute))
	})
	return p.SignInURL(state, verifier), err
}

// FinishConnecting takes the code that the provider gave the browser, keeps the
// token, and says which sheet it was for. It fails with ErrNotFound when this
// person began no such sign-in, or too long ago.
func (s *Deeds) FinishConnecting(ctx context.Context, who schedule.Actor, provider, state, code string) (uuid.UUID, error) {
	var c schedule.Connecting
	err := s.Store.InTx(ctx, func(tx Tx) (err error) {
		c, err = tx.TakeConnecting(ctx, schedule.TokenHash(state), who.For, s.Now())
		return err
	})
	if err != nil {
		return uuid.Nil, err
	}
	p, can := s.Providers[provider].(OAuthProvider)
	if !can || provider != c.Provider {
		return uuid.Nil, schedule.ErrNotFound
	}
	if code == "" { // refused there
		return c.SheetID, schedule.ErrConnect
	}
	token, err := p.Exchange(ctx, code, c.Verifier)
	if err != nil {
		return c.SheetID, err
	}
	return c.SheetID, s.Store.InTx(ctx, func(tx Tx) error { return s.keyring(who.For, provider).keep(ctx, tx, token) })
}
