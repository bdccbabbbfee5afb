// Package schedule holds what the subjects of the program share: the people,
// rooms, records and messages that deeds are about, the errors they end with, and
// how they reach what is kept. The deeds themselves are in a package a subject, a
// file a deed: each loads, asks the core, stores, and queues what leaves the
// house. Every file names the few methods of the store that it needs.
package schedule

import "context"

// Store runs deeds in transactions; T is what one subject needs of them. What is
// not there is ErrNotFound.
type Store[T any] interface {
	// InTx runs do in one transaction: all of it is kept or nothing. When the
	// database breaks it for the sake of another one it is run again, so do must
	// not do anything that a transaction cannot take back.
	InTx(ctx context.Context, do func(T) error) error
	// Look runs do on one consistent view that it cannot change.
	Look(ctx context.Context, do func(T) error) error
}

// Narrow is a store of which a deed sees only what it names.
func Narrow[T, N any](s Store[T], as func(T) N) Store[N] { return narrow[T, N]{s, as} }

type narrow[T, N any] struct {
	store Store[T]
	as    func(T) N
}

func (n narrow[T, N]) InTx(ctx context.Context, do func(N) error) error {
	return n.store.InTx(ctx, func(tx T) error { return do(n.as(tx)) })
}

func (n narrow[T, N]) Look(ctx context.Context, do func(N) error) error {
	return n.store.Look(ctx, func(tx T) error { return do(n.as(tx)) })
}
