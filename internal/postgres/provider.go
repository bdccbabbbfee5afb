package postgres

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

func toProvider(p db.Provider) (schedule.ProviderRecord, error) {
	out := schedule.ProviderRecord{Key: p.Key, Draft: p.Draft, DraftVersion: int(p.DraftVersion), Version: int(p.Version), InUse: p.InUse, Secrets: p.Secrets, SecretNames: p.SecretNames}
	if p.Service == nil {
		return out, nil
	}
	return out, json.Unmarshal(p.Service, &out.Service)
}

// Providers are all providers, by key: with the beginning of what is being written, and
// without their secrets.
func (t *Tx) Providers(ctx context.Context, most int) ([]schedule.ProviderRecord, error) {
	rows, err := t.Queries.Providers(ctx, int32(most))
	if err != nil {
		return nil, err
	}
	return each(rows, func(p db.ProvidersRow) (schedule.ProviderRecord, error) {
		return toProvider(db.Provider{Key: p.Key, Draft: p.Draft, DraftVersion: p.DraftVersion, Version: p.Version, InUse: p.InUse, Service: p.Service, SecretNames: p.SecretNames})
	})
}

// ProvidersInUse are those that can be chosen: what they are called and can do.
func (t *Tx) ProvidersInUse(ctx context.Context, most int) ([]schedule.ProviderRecord, error) {
	rows, err := t.Queries.ProvidersInUse(ctx, int32(most))
	if err != nil {
		return nil, err
	}
	return each(rows, func(p db.ProvidersInUseRow) (schedule.ProviderRecord, error) {
		return toProvider(db.Provider{Key: p.Key, Version: p.Version, InUse: true, Service: p.Service})
	})
}

func oneProvider(p db.Provider, err error) (schedule.ProviderRecord, error) {
	if err != nil {
		return schedule.ProviderRecord{}, domain(err)
	}
	return toProvider(p)
}

// Provider is a conferencing provider; it fails with ErrNotFound.
func (t *Tx) Provider(ctx context.Context, key string) (schedule.ProviderRecord, error) {
	return oneProvider(t.ProviderByKey(ctx, key))
}

// LockProvider is the same, and makes other transactions wait.
func (t *Tx) LockProvider(ctx context.Context, key string) (schedule.ProviderRecord, error) {
	return oneProvider(t.Queries.LockProvider(ctx, key))
}

// AddProvider tells whether there was none of that key.
func (t *Tx) AddProvider(ctx context.Context, p schedule.ProviderRecord, now time.Time) (bool, error) {
	n, err := t.InsertProvider(ctx, db.InsertProviderParams{Key: p.Key, Draft: p.Draft, AddedAt: now})
	return n > 0, err
}

// SetProvider keeps how a provider stands.
func (t *Tx) SetProvider(ctx context.Context, p schedule.ProviderRecord) error {
	row := db.UpdateProviderParams{Key: p.Key, Draft: p.Draft, DraftVersion: int32(p.DraftVersion), Version: int32(p.Version), InUse: p.InUse,
		Secrets: p.Secrets, SecretNames: filled(p.SecretNames)}
	if p.Version > 0 {
		row.Service = must(p.Service)
	}
	return t.UpdateProvider(ctx, row)
}

// DropProvider forgets a provider that was never used.
func (t *Tx) DropProvider(ctx context.Context, key string) error { return t.DeleteProvider(ctx, key) }

// AddProviderVersion keeps a version of a description.
func (t *Tx) AddProviderVersion(ctx context.Context, key string, version int, text string, by uuid.UUID, at time.Time) error {
	row := db.InsertProviderVersionParams{Provider: key, Version: int32(version), Description: text, MadeAt: at}
	if by != uuid.Nil {
		row.MadeBy = &by
	}
	return t.InsertProviderVersion(ctx, row)
}

// ProviderText is the description of a version.
func (t *Tx) ProviderText(ctx context.Context, key string, version int) (string, error) {
	text, err := t.Queries.ProviderVersion(ctx, db.ProviderVersionParams{Provider: key, Version: int32(version)})
	return text, domain(err)
}

// ProviderVersions are the newest versions of a description.
func (t *Tx) ProviderVersions(ctx context.Context, key string, most int) ([]schedule.ProviderVersion, error) {
	rows, err := t.Queries.ProviderVersions(ctx, db.ProviderVersionsParams{Provider: key, Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.ProviderVersionsRow) (schedule.ProviderVersion, error) {
		return schedule.ProviderVersion{Number: int(r.Version), At: r.MadeAt, By: r.ByName}, nil
	})
}

// SignedIn counts how many people have an account at each provider.
func (t *Tx) SignedIn(ctx context.Context) (map[string]int, error) {
	rows, err := t.CountSignedIn(ctx)
	out := map[string]int{}
	for _, r := range rows {
		out[r.Provider] = int(r.People)
	}
	return out, err
}

// CallsAt is how many meetings to come have their call at a provider.
func (t *Tx) CallsAt(ctx context.Context, key string, now time.Time) (int, error) {
	n, err := t.UpcomingCallsAt(ctx, db.UpcomingCallsAtParams{Provider: &key, Now: now})
	return int(n), err
}

func toStanding(r db.StandingLinkRow) (schedule.StandingLink, error) {
	s := r.StandingLink
	out := schedule.StandingLink{ID: s.ID, Kind: schedule.StandingKind(s.Kind), Name: s.Name, SharedWith: r.SharedWith, Version: int(s.Version)}
	if s.OwnerID != nil {
		out.OwnerID = *s.OwnerID
	}
	card, err := readCard(s.Card)
	out.Card = *card
	return out, err
}

// StandingLinks are those that somebody may use, and those of some rooms.
func (t *Tx) StandingLinks(ctx context.Context, person uuid.UUID, rooms []uuid.UUID, most int) ([]schedule.StandingLink, error) {
	rows, err := t.Queries.StandingLinks(ctx, db.StandingLinksParams{PersonID: &person, Rooms: filled(rooms), Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.StandingLinksRow) (schedule.StandingLink, error) { return toStanding(db.StandingLinkRow(r)) })
}

func oneStanding(s db.StandingLinkRow, err error) (schedule.StandingLink, error) {
	if err != nil {
		return schedule.StandingLink{}, domain(err)
	}
	return toStanding(s)
}

// StandingLink is a standing link; it fails with ErrNotFound.
func (t *Tx) StandingLink(ctx context.Context, id uuid.UUID) (schedule.StandingLink, error) {
	return oneStanding(t.Queries.StandingLink(ctx, id))
}

// LockStandingLink is the same, and makes other transactions wait.
func (t *Tx) LockStandingLink(ctx context.Context, id uuid.UUID) (schedule.StandingLink, error) {
	if _, err := t.LockStandingRow(ctx, id); err != nil {
		return schedule.StandingLink{}, domain(err)
	}
	return t.StandingLink(ctx, id) // as it is once the lock is had
}

// SetStandingLink keeps a standing link, a new one too.
func (t *Tx) SetStandingLink(ctx context.Context, s schedule.StandingLink, now time.Time) error {
	row := db.UpsertStandingLinkParams{ID: s.ID, Kind: string(s.Kind), Name: s.Name, Card: cardJSON(&s.Card), MadeAt: now}
	if s.OwnerID != uuid.Nil {
		row.OwnerID = &s.OwnerID
	}
	kept, err := t.UpsertStandingLink(ctx, row)
	if err != nil || kept == 0 { // it is somebody else's
		return err
	}
	if err := t.DropSharesOf(ctx, s.ID); err != nil || len(s.SharedWith) == 0 {
		return err
	}
	return t.InsertShares(ctx, db.InsertSharesParams{Link: s.ID, People: s.SharedWith})
}

// DropStandingLink forgets a standing link.
func (t *Tx) DropStandingLink(ctx context.Context, id uuid.UUID) error {
	return t.DeleteStandingLink(ctx, id)
}

// StandingUses are the dates on which others than the meeting but use a standing link.
func (t *Tx) StandingUses(ctx context.Context, id, but, reader uuid.UUID, within when.Span) ([]schedule.StandingUse, error) {
	rows, err := t.Queries.StandingUses(ctx, db.StandingUsesParams{ID: &id, But: but, Reader: reader, Since: within.Start.Time(), Until: within.End.Time()})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.StandingUsesRow) (schedule.StandingUse, error) {
		return schedule.StandingUse{Span: when.Span{Start: when.At(r.Starts), End: when.At(r.Ends)}, MeetingID: r.MeetingID, Title: r.Title, By: r.ByName,
			Private: r.Private, Mine: r.Mine, Shares: availability.Level(r.Shares)}, nil
	})
}

// CallUses are the dates on which others than the meeting but have a call in an account at a
// provider; uuid.Nil is that of the house.
func (t *Tx) CallUses(ctx context.Context, provider string, owner, but uuid.UUID, within when.Span) ([]when.Span, error) {
	rows, err := t.Queries.CallUses(ctx, db.CallUsesParams{Provider: &provider, Owner: owner, But: but, Since: within.Start.Time(), Until: within.End.Time()})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.CallUsesRow) (when.Span, error) {
		return when.Span{Start: when.At(r.Starts), End: when.At(r.Ends)}, nil
	})
}

// MeetingsOfStanding are the meetings to come that use a standing link.
func (t *Tx) MeetingsOfStanding(ctx context.Context, id uuid.UUID, now time.Time) ([]uuid.UUID, error) {
	return t.Queries.MeetingsOfStanding(ctx, db.MeetingsOfStandingParams{ID: &id, Now: now})
}

// CountOfStanding is how many those are.
func (t *Tx) CountOfStanding(ctx context.Context, id uuid.UUID, now time.Time) (int, error) {
	n, err := t.Queries.CountOfStanding(ctx, db.CountOfStandingParams{ID: &id, Now: now})
	return int(n), err
}

// CallsToCheck are meetings that begin between two moments, whose calls have not been looked
// at since seenBefore.
func (t *Tx) CallsToCheck(ctx context.Context, now, until, seenBefore time.Time, most int) ([]uuid.UUID, error) {
	return t.Queries.CallsToCheck(ctx, db.CallsToCheckParams{Now: now, Until: until, SeenBefore: &seenBefore, Most: int32(most)})
}

// SetCallSeen notes that the call of a meeting was looked at.
func (t *Tx) SetCallSeen(ctx context.Context, id uuid.UUID, at time.Time) error {
	return t.Queries.SetCallSeen(ctx, db.SetCallSeenParams{ID: id, At: &at})
}

// LeftSheets locks sheets with a call of their own that nobody has touched since a moment;
// those that others hold are passed over.
func (t *Tx) LeftSheets(ctx context.Context, before time.Time, most int) ([]schedule.Sheet, error) {
	rows, err := t.Queries.LeftSheets(ctx, db.LeftSheetsParams{Before: before, Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, toSheet)
}

// LetKeepProviders lets somebody add providers, or no more. It fails with ErrNotFound.
func (s *Store) LetKeepProviders(ctx context.Context, email string, keeps bool) error {
	return s.InTx(ctx, func(t *Tx) error {
		n, err := t.KeepProviders(ctx, db.KeepProvidersParams{Keeps: keeps, Email: email})
		if err == nil && n == 0 {
			err = schedule.ErrNotFound
		}
		return err
	})
}

// Reseal seals everything at rest anew that reseal gives something else for; it tells how
// much that was.
func (s *Store) Reseal(ctx context.Context, reseal func([]byte) ([]byte, error)) (n int, err error) {
	err = s.InTx(ctx, func(t *Tx) error {
		n = 0
		tokens, err := t.SealedTokens(ctx)
		if err != nil {
			return err
		}
		for _, r := range tokens {
			fresh, err := reseal(r.Sealed)
			if err != nil || fresh == nil {
				continue // sealed with a secret that is gone: who it is of signs in again
			}
			if err := t.ResealConnection(ctx, db.ResealConnectionParams{PersonID: r.PersonID, Provider: r.Provider, Sealed: fresh, Was: r.Sealed}); err != nil {
				return err
			}
			n++
		}
		all, err := t.SealedSecrets(ctx)
		if err != nil {
			return err
		}
		for _, p := range all {
			fresh, err := reseal(p.Secrets)
			if err != nil {
				return fmt.Errorf("the secrets of %s: %w", p.Key, err)
			}
			if fresh == nil {
				continue
			}
			if err := t.ResealProvider(ctx, db.ResealProviderParams{Key: p.Key, Sealed: fresh, Was: p.Secrets}); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}
