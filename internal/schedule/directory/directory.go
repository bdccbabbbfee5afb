// Package directory knows people, contacts outside and rooms.
package directory

import (
	"context"
	"strings"
	"unicode"

	"github.com/google/uuid"
	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"

	"jembro/internal/schedule"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	Store schedule.Store[Tx]
}

// Tx is what they need of a transaction.
type Tx interface {
	directoryTx
	LookupTx
}

// directoryTx is what is needed here of a transaction.
type directoryTx interface {
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	SearchDirectory(ctx context.Context, without uuid.UUID, folded string, page schedule.Page) ([]schedule.Entry, error)
}

// Fold makes text comparable without regard to accents and case.
func Fold(s string) string {
	stripped, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), s)
	if err != nil {
		stripped = s
	}
	return strings.ToLower(stripped)
}

// FindPeople searches people and contacts by any part of name or address. It
// asks for one more than the page holds; the caller sees so whether more follow.
func (s *Deeds) FindPeople(ctx context.Context, who schedule.Actor, query string, page schedule.Page) (found []schedule.Entry, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		found, err = tx.SearchDirectory(ctx, who.For, Fold(strings.TrimSpace(query)), page)
		return err
	})
	return found, err
}

// Rooms are all rooms of the house, by site and name.
func (s *Deeds) Rooms(ctx context.Context, page schedule.Page) (rooms []schedule.Room, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		rooms, err = tx.Rooms(ctx, page)
		return err
	})
	return rooms, err
}
