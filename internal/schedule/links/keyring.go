package links

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/google/uuid"
	"golang.org/x/oauth2"

	"jembro/internal/core/say"
	"jembro/internal/schedule"
)

// keyringTx is what is needed here of a transaction.
type keyringTx interface {
	Connection(ctx context.Context, personID uuid.UUID, provider string) (sealed []byte, err error)
	LockConnection(ctx context.Context, personID uuid.UUID, provider string) error
	SetConnection(ctx context.Context, personID uuid.UUID, provider string, sealed []byte, now time.Time) error
}

func (s *Deeds) keyringStore() schedule.Store[keyringTx] {
	return schedule.Narrow(s.Store, func(tx Tx) keyringTx { return tx })
}

// keyring is a Keyring that seals what it keeps.
type keyring struct {
	s      *Deeds
	person uuid.UUID
	record schedule.ProviderRecord
}

func (s *Deeds) keyring(person uuid.UUID, record schedule.ProviderRecord) keyring {
	return keyring{s, person, record}
}

// Secrets are those of the house, none where they cannot be read.
func (k keyring) Secrets(context.Context) (map[string]string, error) {
	return k.s.secrets(k.record)
}

func (s *Deeds) secrets(record schedule.ProviderRecord) (map[string]string, error) {
	out := map[string]string{}
	if record.Secrets == nil {
		return out, nil
	}
	plain, err := s.Seal.Unlock(record.Secrets)
	if err != nil {
		return nil, &schedule.ProviderError{Provider: record.Service.Name, Kind: schedule.ErrUnreachable, Cause: err,
			What: say.It("provider.sealedElse")}
	}
	return out, json.Unmarshal(plain, &out)
}

func (k keyring) Token(ctx context.Context) (t *oauth2.Token, err error) {
	err = k.s.keyringStore().Look(ctx, func(tx keyringTx) error {
		t, err = k.read(ctx, tx)
		return err
	})
	return t, err
}

func (k keyring) read(ctx context.Context, tx keyringTx) (*oauth2.Token, error) {
	sealed, err := tx.Connection(ctx, k.person, k.record.Key)
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

// Renew asks the provider while others wait: a refresh token is good once with many
// of them (RFC 6749, 10.4), and two renewals at a time would end the sign-in.
func (k keyring) Renew(ctx context.Context, old *oauth2.Token, renew func(*oauth2.Token) (*oauth2.Token, error)) (t *oauth2.Token, err error) {
	err = k.s.keyringStore().InTx(ctx, func(tx keyringTx) error {
		if err := tx.LockConnection(ctx, k.person, k.record.Key); err != nil {
			return err
		}
		if t, err = k.read(ctx, tx); err != nil {
			return err
		}
		if t.AccessToken != old.AccessToken { // somebody else was faster
			return nil
		}
		if t, err = renew(t); err != nil {
			return err
		}
		return k.keep(ctx, tx, t)
	})
	return t, err
}

func (k keyring) keep(ctx context.Context, tx keyringTx, t *oauth2.Token) error {
	plain, err := json.Marshal(t)
	if err != nil {
		return err
	}
	return tx.SetConnection(ctx, k.person, k.record.Key, k.s.Seal.Lock(plain), k.s.Now())
}
