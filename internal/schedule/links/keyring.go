package links

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/google/uuid"
	"golang.org/x/oauth2"

	"jembro/internal/schedule"
)

// keyringTx is what is needed here of a transaction.
type keyringTx interface {
	Connection(ctx context.Context, personID uuid.UUID, provider string) (sealed []byte, err error)
	SetConnection(ctx context.Context, personID uuid.UUID, provider string, sealed []byte, now time.Time) error
}

// keyring is a Keyring that seals what it keeps.
type keyring struct {
	s        *Deeds
	person   uuid.UUID
	provider string
}

func (s *Deeds) keyring(person uuid.UUID, provider string) Keyring {
	return keyring{s, person, provider}
}

func (k keyring) Token(ctx context.Context) (*oauth2.Token, error) {
	var sealed []byte
	err := k.s.Store.Look(ctx, func(tx Tx) (err error) {
		sealed, err = tx.Connection(ctx, k.person, k.provider)
		return err
	})
	if errors.Is(err, schedule.ErrNotFound) {
		return nil, schedule.ErrConnect
	}
	if err != nil {
		return nil, err
	}
	plain, err := k.s.Seal.Unlock(sealed)
	if err != nil {
		return nil, schedule.ErrConnect // sealed with a secret that is gone: sign in again
	}
	var t oauth2.Token
	return &t, json.Unmarshal(plain, &t)
}

func (k keyring) SetToken(ctx context.Context, t *oauth2.Token) error {
	plain, err := json.Marshal(t)
	if err != nil {
		return err
	}
	return k.s.Store.InTx(ctx, func(tx Tx) error {
		return tx.SetConnection(ctx, k.person, k.provider, k.s.Seal.Lock(plain), k.s.Now())
	})
}
