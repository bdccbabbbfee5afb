package postgres

import (
	"context"

	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/calendars"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/dispatch"
	"jembro/internal/schedule/invitations"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/links"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/news"
	"jembro/internal/schedule/rooms"
	"jembro/internal/schedule/sheets"
	"jembro/internal/schedule/today"
)

// part is the store as one subject sees it.
type part[T any] struct {
	store *Store
	as    func(*Tx) T
}

func (p part[T]) InTx(ctx context.Context, do func(T) error) error {
	return p.store.InTx(ctx, func(tx *Tx) error { return do(p.as(tx)) })
}

func (p part[T]) Look(ctx context.Context, do func(T) error) error {
	return p.store.Look(ctx, func(tx *Tx) error { return do(p.as(tx)) })
}

// Kernel is the transaction as the kernel that writes meetings sees it.
func (t *Tx) Kernel() kernel.Tx { return kernel.Over(t) }

var _ deeds.Stores = (*Store)(nil)

// Account is the store as the deeds of package account see it.
func (s *Store) Account() schedule.Store[account.Tx] {
	return part[account.Tx]{s, func(tx *Tx) account.Tx { return tx }}
}

// Availability is the store as the deeds of package availability see it.
func (s *Store) Availability() schedule.Store[availability.Tx] {
	return part[availability.Tx]{s, func(tx *Tx) availability.Tx { return tx }}
}

// Directory is the store as the deeds of package directory see it.
func (s *Store) Directory() schedule.Store[directory.Tx] {
	return part[directory.Tx]{s, func(tx *Tx) directory.Tx { return tx }}
}

// Dispatch is the store as the deeds of package dispatch see it.
func (s *Store) Dispatch() schedule.Store[dispatch.Tx] {
	return part[dispatch.Tx]{s, func(tx *Tx) dispatch.Tx { return tx }}
}

// Invitations is the store as the deeds of package invitations see it.
func (s *Store) Invitations() schedule.Store[invitations.Tx] {
	return part[invitations.Tx]{s, func(tx *Tx) invitations.Tx { return tx }}
}

// Links is the store as the deeds of package links see it.
func (s *Store) Links() schedule.Store[links.Tx] {
	return part[links.Tx]{s, func(tx *Tx) links.Tx { return tx }}
}

// Meetings is the store as the deeds of package meetings see it.
func (s *Store) Meetings() schedule.Store[meetings.Tx] {
	return part[meetings.Tx]{s, func(tx *Tx) meetings.Tx { return tx }}
}

// News is the store as the deeds of package news see it.
func (s *Store) News() schedule.Store[news.Tx] {
	return part[news.Tx]{s, func(tx *Tx) news.Tx { return tx }}
}

// Sheets is the store as the deeds of package sheets see it.
func (s *Store) Sheets() schedule.Store[sheets.Tx] {
	return part[sheets.Tx]{s, func(tx *Tx) sheets.Tx { return tx }}
}

// RoomKeeping is the store as the deeds of package rooms see it.
func (s *Store) RoomKeeping() schedule.Store[rooms.Tx] {
	return part[rooms.Tx]{s, func(tx *Tx) rooms.Tx { return tx }}
}

// Today is the store as the deeds of package today see it.
func (s *Store) Today() schedule.Store[today.Tx] {
	return part[today.Tx]{s, func(tx *Tx) today.Tx { return tx }}
}

// Calendars is the store as the deeds of package calendars see it.
func (s *Store) Calendars() schedule.Store[calendars.Tx] {
	return part[calendars.Tx]{s, func(tx *Tx) calendars.Tx { return tx }}
}
