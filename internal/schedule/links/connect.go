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
	keyringTx
	AddConnecting(ctx context.Context, stateHash []byte, c schedule.Connecting, until time.Time) error
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	TakeConnecting(ctx context.Context, stateHash []byte, personID uuid.UUID, now time.Time) (schedule.Connecting, error)
}

func (s *Deeds) connectStore() schedule.Store[connectTx] {
	return schedule.Narrow(s.Store, func(tx Tx) connectTx { return tx })
}

// callback is where a provider sends the browser back to.
func (s *Deeds) callback(key string) string {
	return s.House.BaseURL + "/api/connect/" + key + "/callback"
}

// signingIn is a provider at which people sign in themselves: the one in use, or, for who
// keeps providers, what is being written.
func (s *Deeds) signingIn(ctx context.Context, who schedule.Actor, key string) (Provider, schedule.ProviderRecord, error) {
	p, record, err := s.provider(ctx, key)
	if err != nil {
		if record, err = s.kept(ctx, who, key); err != nil {
			return nil, record, err
		}
		var faults []DescriptionFault
		if p, faults = s.Descriptions.Compile(record.Draft); len(faults) > 0 {
			return nil, record, schedule.Invalid("description", faults[0].What)
		}
	}
	if !p.Service().Each {
		return nil, record, schedule.ErrNotFound
	}
	return p, record, nil
}

// StartConnecting begins the sign-in at a provider for the sake of a sheet, or of a trial
// where that is uuid.Nil, and says where the browser has to go.
func (s *Deeds) StartConnecting(ctx context.Context, who schedule.Actor, key string, sheetID uuid.UUID) (string, error) {
	p, record, err := s.signingIn(ctx, who, key)
	if err != nil {
		return "", err
	}
	secrets, err := s.secrets(record)
	if err != nil {
		return "", err
	}
	state, verifier := rand.Text(), oauth2.GenerateVerifier()
	err = s.connectStore().InTx(ctx, func(tx connectTx) error {
		if sheetID != uuid.Nil {
			if _, err := tx.Sheet(ctx, sheetID, who.For); err != nil {
				return err
			}
		}
		return tx.AddConnecting(ctx, schedule.TokenHash(state), schedule.Connecting{PersonID: who.For, Provider: key, Verifier: verifier, SheetID: sheetID},
			s.Now().Add(15*time.Minute))
	})
	return p.SignInURL(secrets, s.callback(key), state, verifier), err
}

// FinishConnecting takes the code that the provider gave the browser, keeps the
// token, and says which sheet it was for. It fails with ErrNotFound when this
// person began no such sign-in, or too long ago.
func (s *Deeds) FinishConnecting(ctx context.Context, who schedule.Actor, key, state, code string) (uuid.UUID, error) {
	var c schedule.Connecting
	err := s.connectStore().InTx(ctx, func(tx connectTx) (err error) {
		c, err = tx.TakeConnecting(ctx, schedule.TokenHash(state), who.For, s.Now())
		return err
	})
	if err != nil {
		return uuid.Nil, err
	}
	if key != c.Provider {
		return uuid.Nil, schedule.ErrNotFound
	}
	p, record, err := s.signingIn(ctx, who, key)
	if err != nil {
		return c.SheetID, err
	}
	if code == "" { // refused there
		return c.SheetID, schedule.ErrConnect
	}
	secrets, err := s.secrets(record)
	if err != nil {
		return c.SheetID, err
	}
	token, err := p.Exchange(ctx, secrets, s.callback(key), code, c.Verifier)
	if err != nil {
		return c.SheetID, err
	}
	return c.SheetID, s.connectStore().InTx(ctx, func(tx connectTx) error { return s.keyring(who.For, record).keep(ctx, tx, token) })
}
