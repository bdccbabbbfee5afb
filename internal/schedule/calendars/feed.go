package calendars

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// feedTx is what is needed here of a transaction.
type feedTx interface {
	directory.LookupTx
	tellTx
	AddFeed(ctx context.Context, f schedule.Feed, now time.Time) error
	BusyTimes(ctx context.Context, people []uuid.UUID, windows when.Spans, view schedule.View) (map[uuid.UUID][]availability.Time, error)
	DropFeedOfPerson(ctx context.Context, personID uuid.UUID) error
	DropFeedOfRoom(ctx context.Context, roomID uuid.UUID) error
	Feed(ctx context.Context, id uuid.UUID) (schedule.Feed, error)
	FeedOfPerson(ctx context.Context, personID uuid.UUID) (schedule.Feed, error)
	FeedOfRoom(ctx context.Context, roomID uuid.UUID) (schedule.Feed, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
	SetFeedPrint(ctx context.Context, f schedule.Feed) error
	SetFeedTitles(ctx context.Context, id uuid.UUID, titles bool) error
	Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) (map[string]when.Spans, error)
	WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error)
}

func (s *Deeds) feedStore() schedule.Store[feedTx] {
	return schedule.Narrow(s.Store, func(tx Tx) feedTx { return tx })
}

// givenBehind and givenAhead are the days around the present one that a secret address gives, and
// giveEvery how often its readers are asked to look.
const (
	givenBehind, givenAhead = 7, 92
	giveEvery               = 15 * time.Minute
)

// Give makes the secret address of somebody's busy times, or has the one there is give
// titles or not.
func (s *Deeds) Give(ctx context.Context, who schedule.Actor, titles bool) error {
	return s.feedStore().InTx(ctx, func(tx feedTx) error {
		if err := tx.AddFeed(ctx, schedule.Feed{ID: uuid.New(), PersonID: &who.For, Titles: titles}, s.Now()); err != nil {
			return err
		}
		f, err := tx.FeedOfPerson(ctx, who.For)
		if err != nil {
			return err
		}
		if err := tx.SetFeedTitles(ctx, f.ID, titles); err != nil {
			return err
		}
		return s.tell(ctx, tx, who.For)
	})
}

// Withdraw has the secret address lead nowhere from now on; a later one is another.
func (s *Deeds) Withdraw(ctx context.Context, who schedule.Actor) error {
	return s.feedStore().InTx(ctx, func(tx feedTx) error {
		if err := tx.DropFeedOfPerson(ctx, who.For); err != nil {
			return err
		}
		return s.tell(ctx, tx, who.For)
	})
}

// GiveRoom makes the secret address of a room's busy times; its keepers can. It fails with
// ErrNotFound.
func (s *Deeds) GiveRoom(ctx context.Context, who schedule.Actor, room uuid.UUID) (address string, err error) {
	err = s.feedStore().InTx(ctx, func(tx feedTx) error {
		if err := s.keeps(ctx, tx, who, room); err != nil {
			return err
		}
		if err := tx.AddFeed(ctx, schedule.Feed{ID: uuid.New(), RoomID: &room}, s.Now()); err != nil {
			return err
		}
		f, err := tx.FeedOfRoom(ctx, room)
		address = s.FeedURL(f.ID)
		return err
	})
	return address, err
}

// RoomAddress is the secret address of a room, "" where there is none; only its keepers
// are told.
func (s *Deeds) RoomAddress(ctx context.Context, who schedule.Actor, room uuid.UUID) (address string, err error) {
	err = s.feedStore().Look(ctx, func(tx feedTx) error {
		if err := s.keeps(ctx, tx, who, room); err != nil {
			return err
		}
		f, err := tx.FeedOfRoom(ctx, room)
		if errors.Is(err, schedule.ErrNotFound) {
			return nil
		}
		address = s.FeedURL(f.ID)
		return err
	})
	return address, err
}

// WithdrawRoom has the address of a room lead nowhere.
func (s *Deeds) WithdrawRoom(ctx context.Context, who schedule.Actor, room uuid.UUID) error {
	return s.feedStore().InTx(ctx, func(tx feedTx) error {
		if err := s.keeps(ctx, tx, who, room); err != nil {
			return err
		}
		return tx.DropFeedOfRoom(ctx, room)
	})
}

// keeps fails with ErrNotFound for somebody who does not keep a room.
func (s *Deeds) keeps(ctx context.Context, tx feedTx, who schedule.Actor, room uuid.UUID) error {
	p, err := directory.Person(ctx, tx, who.For)
	if err != nil {
		return err
	}
	found, err := tx.RoomsByID(ctx, []uuid.UUID{room})
	if err == nil && (len(found) == 0 || !found[0].KeptFor(p)) {
		err = schedule.ErrNotFound
	}
	return err
}

// Given is what a secret address gives.
type Given struct {
	Body    []byte
	ETag    string
	Changed time.Time
}

// Given answers at a secret address, as events or as busy times alone. It fails with
// ErrNotFound for one that was withdrawn or never was.
func (s *Deeds) Given(ctx context.Context, token string, freeBusy bool) (g Given, err error) {
	id, err := s.Seal.Feed(token)
	if err != nil {
		return g, err
	}
	var f schedule.Feed
	var p Published
	err = s.feedStore().Look(ctx, func(tx feedTx) error {
		if f, err = tx.Feed(ctx, id); err != nil {
			return err
		}
		p, err = s.published(ctx, tx, f)
		return err
	})
	if err != nil {
		return g, err
	}
	print := p.print()
	if print != f.Print {
		f.Print, f.ChangedAt = print, s.Now()
		if err := s.feedStore().InTx(ctx, func(tx feedTx) error { return tx.SetFeedPrint(ctx, f) }); err != nil {
			return g, err
		}
	}
	p.Stamp = f.ChangedAt
	g.Changed, g.ETag = f.ChangedAt, `"`+print[:24]+`"`
	if freeBusy {
		g.Body, g.ETag = s.Format.FreeBusy(p), `"`+print[:24]+`-b"`
	} else {
		g.Body = s.Format.Events(p)
	}
	return g, nil
}

// published is what an address gives at this moment.
func (s *Deeds) published(ctx context.Context, tx feedTx, f schedule.Feed) (p Published, err error) {
	p = Published{ID: f.ID.String(), Domain: s.House.MailDomain, Refresh: giveEvery}
	view := schedule.View{Now: s.Now()}
	if f.RoomID != nil {
		found, err := tx.RoomsByID(ctx, []uuid.UUID{*f.RoomID})
		if err != nil || len(found) == 0 {
			return p, cmp.Or(err, schedule.ErrNotFound)
		}
		p.Name, p.Email, p.Window = found[0].Name, found[0].Email, s.givenWindow(found[0].Zone)
		taken, err := tx.Taken(ctx, []uuid.UUID{*f.RoomID}, when.Spans{p.Window}, view)
		for _, span := range taken[f.RoomID.String()] {
			p.Times = append(p.Times, availability.Shown{Time: availability.Time{Span: span.Intersect(p.Window), Kind: availability.Busy}})
		}
		return p, err
	}
	person, err := directory.Person(ctx, tx, *f.PersonID)
	if err != nil {
		return p, err
	}
	if person.Left {
		return p, schedule.ErrNotFound
	}
	p.Name, p.Email, p.Window = person.Name, person.Email, s.givenWindow(person.Hours.Zone)
	busy, err := tx.BusyTimes(ctx, []uuid.UUID{person.ID}, when.Spans{p.Window}, view)
	if err != nil {
		return p, err
	}
	level := availability.SeeBusy
	if f.Titles {
		level = availability.SeeTitles
	}
	titled, err := s.titled(ctx, tx, person.ID, level, p.Window)
	p.Times = availability.Seen(level, busy[person.ID], titled, p.Window)
	return p, err
}

func (s *Deeds) givenWindow(zone when.Zone) when.Span {
	today := zone.LocalAt(when.At(s.Now())).Day
	return when.DaysSpan(today-givenBehind, today+givenAhead, zone)
}

// print tells two states of an address apart.
func (p Published) print() string {
	h := sha256.New()
	put := func(i int64) {
		h.Write([]byte{byte(i), byte(i >> 8), byte(i >> 16), byte(i >> 24), byte(i >> 32), byte(i >> 40)})
	}
	put(int64(p.Window.Start))
	for _, t := range p.Times {
		put(int64(t.Span.Start))
		put(int64(t.Span.End))
		h.Write(slices.Concat([]byte(t.Kind), []byte{0}, []byte(t.Title), []byte{0}))
	}
	h.Write([]byte(p.Name))
	return hex.EncodeToString(h.Sum(nil))
}

// FeedURL is a secret address, for events.
func (s *Deeds) FeedURL(id uuid.UUID) string {
	return s.House.BaseURL + "/busy/" + s.Seal.FeedToken(id) + ".ics"
}
