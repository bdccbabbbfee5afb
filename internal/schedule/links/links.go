// Package links makes, moves and withdraws calls at conferencing providers, keeps people's
// accounts there, the descriptions of providers, and standing links.
package links

import (
	"context"
	"fmt"
	"sync"
	"time"

	"jembro/internal/core/join"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/sheets"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	kernel.Kernel
	Store        schedule.Store[Tx]
	Descriptions Descriptions
	Sheets       *sheets.Deeds
	// WaitFor is how long somebody waits for a provider.
	WaitFor time.Duration

	// ready are descriptions that have been read, by key and version: versions never change.
	ready sync.Map
}

// Tx is what they need of a transaction.
type Tx interface {
	attachTx
	callsTx
	changeTx
	checkTx
	connectTx
	describeTx
	keyringTx
	providerTx
	standingTx
}

type providerTx interface {
	Provider(ctx context.Context, key string) (schedule.ProviderRecord, error)
	ProviderText(ctx context.Context, key string, version int) (string, error)
}

func (s *Deeds) providerStore() schedule.Store[providerTx] {
	return schedule.Narrow(s.Store, func(tx Tx) providerTx { return tx })
}

// version is one version of a provider's description, made ready. It is read the first time
// that somebody needs it.
func (s *Deeds) version(ctx context.Context, key string, number int) (Provider, error) {
	id := fmt.Sprintf("%s@%d", key, number)
	if p, is := s.ready.Load(id); is {
		return p.(Provider), nil
	}
	var text string
	err := s.providerStore().Look(ctx, func(tx providerTx) (err error) {
		text, err = tx.ProviderText(ctx, key, number)
		return err
	})
	if err != nil {
		return nil, err
	}
	p, faults := s.Descriptions.Compile(text)
	if len(faults) > 0 { // it was put into use by a program that read it otherwise
		return nil, &schedule.ProviderError{Provider: key, Kind: schedule.ErrUnreachable, What: say.It("provider.unread", key, faults[0].What)}
	}
	s.ready.Store(id, p)
	return p, nil
}

// provider is a provider that is in use. It fails with ErrNotFound.
func (s *Deeds) provider(ctx context.Context, key string) (Provider, schedule.ProviderRecord, error) {
	record, err := s.record(ctx, key)
	if err == nil && !record.InUse {
		err = schedule.ErrNotFound
	}
	if err != nil {
		return nil, record, err
	}
	p, err := s.version(ctx, key, record.Version)
	return p, record, err
}

func (s *Deeds) record(ctx context.Context, key string) (record schedule.ProviderRecord, err error) {
	err = s.providerStore().Look(ctx, func(tx providerTx) error {
		record, err = tx.Provider(ctx, key)
		return err
	})
	return record, err
}

// providerOf is the provider of a call that was made: by the newest description where that
// knows what to do with it, else by the one that made it. It is there after the provider was
// taken out of use.
func (s *Deeds) providerOf(ctx context.Context, card join.Card) (Provider, schedule.ProviderRecord, error) {
	record, err := s.record(ctx, card.Provider)
	if err != nil {
		return nil, record, err
	}
	p, err := s.version(ctx, card.Provider, record.Version)
	if err == nil && card.Version != 0 && card.Version != record.Version && !p.Knows(card) {
		p, err = s.version(ctx, card.Provider, card.Version)
	}
	return p, record, err
}
