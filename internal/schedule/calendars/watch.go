package calendars

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// watchTx is what is needed here of a transaction.
type watchTx interface {
	directory.LookupTx
	BusyTimes(ctx context.Context, people []uuid.UUID, windows when.Spans, view schedule.View) (map[uuid.UUID][]availability.Time, error)
	LockPerson(ctx context.Context, id uuid.UUID) error
	RoomUses(ctx context.Context, person, room uuid.UUID, window when.Span, now time.Time) ([]schedule.RoomUse, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
	SetWatching(ctx context.Context, personID uuid.UUID, all []schedule.Watched) error
	SharedWith(ctx context.Context, viewer uuid.UUID) (map[uuid.UUID]availability.Level, error)
	Watching(ctx context.Context, personID uuid.UUID) ([]schedule.Watched, error)
	WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error)
}

func (s *Deeds) watchStore() schedule.Store[watchTx] {
	return schedule.Narrow(s.Store, func(tx Tx) watchTx { return tx })
}

// MostWatched is how many people and rooms one can watch beside one's own time.
const MostWatched = 12

// Watch sets whose time somebody watches. It invites nobody and books nothing.
func (s *Deeds) Watch(ctx context.Context, who schedule.Actor, all []schedule.Watched) error {
	if len(all) > MostWatched {
		return schedule.Invalid("items", say.It("watch.many", MostWatched))
	}
	for i, w := range all {
		switch {
		case w.PersonID == who.For:
			return schedule.Invalid(fmt.Sprintf("items.%d", i), say.It("watch.self"))
		case slices.Index(all, w) != i:
			return schedule.Invalid(fmt.Sprintf("items.%d", i), say.It("watch.twice"))
		}
	}
	people, rooms := sorted(all)
	return s.watchStore().InTx(ctx, func(tx watchTx) error {
		if err := tx.LockPerson(ctx, who.For); err != nil {
			return err
		}
		if len(people) > 0 {
			found, err := tx.People(ctx, people)
			if err != nil || len(found) < len(people) {
				return cmp.Or(err, errMissing)
			}
		}
		if len(rooms) > 0 {
			found, err := tx.RoomsByID(ctx, rooms)
			if err != nil || len(found) < len(rooms) {
				return cmp.Or(err, errMissing)
			}
		}
		return tx.SetWatching(ctx, who.For, all)
	})
}

// errMissing: somebody or a room was let go meanwhile.
var errMissing = schedule.Invalid("items", say.It("watch.gone"))

// sorted are the people and the rooms of those watched.
func sorted(all []schedule.Watched) (people, rooms []uuid.UUID) {
	for _, w := range all {
		if w.PersonID != uuid.Nil {
			people = append(people, w.PersonID)
		} else {
			rooms = append(rooms, w.RoomID)
		}
	}
	return people, rooms
}

// WatchedTime is the time of a colleague or a room as the reader may see it.
type WatchedTime struct {
	schedule.Watched
	Name, Email string
	Hidden      bool // they show nothing of it to the reader
	Level       availability.Level
	Times       []availability.Shown
	Uses        []schedule.RoomUse // of a room
}

// Watched is the time of all who somebody watches, on some days where who watches is.
func (s *Deeds) Watched(ctx context.Context, who schedule.Actor, first when.Day, days int) (out []WatchedTime, err error) {
	err = s.watchStore().Look(ctx, func(tx watchTx) error {
		me, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		window := when.DaysSpan(first, first+when.Day(days)-1, me.Hours.Zone)
		all, err := tx.Watching(ctx, who.For)
		if err != nil || len(all) == 0 {
			return err
		}
		out, err = s.watched(ctx, tx, who.For, all, window)
		return err
	})
	return out, err
}

func (s *Deeds) watched(ctx context.Context, tx watchTx, viewer uuid.UUID, all []schedule.Watched, window when.Span) (out []WatchedTime, err error) {
	ids, roomIDs := sorted(all)
	people, err := tx.People(ctx, ids)
	if err != nil {
		return nil, err
	}
	rooms, err := tx.RoomsByID(ctx, roomIDs)
	if err != nil {
		return nil, err
	}
	shared, err := tx.SharedWith(ctx, viewer)
	if err != nil {
		return nil, err
	}
	showing := slices.DeleteFunc(slices.Clone(people), func(p schedule.Person) bool { return !p.ShareWith(shared).Times() })
	busy := map[uuid.UUID][]availability.Time{}
	if len(showing) > 0 {
		ids = ids[:0]
		for _, p := range showing {
			ids = append(ids, p.ID)
		}
		if busy, err = tx.BusyTimes(ctx, ids, when.Spans{window}, schedule.View{For: viewer, Now: s.Now()}); err != nil {
			return nil, err
		}
	}
	for _, w := range all {
		t := WatchedTime{Watched: w}
		if at := slices.IndexFunc(people, func(p schedule.Person) bool { return p.ID == w.PersonID }); at >= 0 {
			p := people[at]
			t.Name, t.Email, t.Level = p.Name, p.Email, p.ShareWith(shared)
			t.Hidden = !t.Level.Times()
			titled, err := s.titled(ctx, tx, p.ID, t.Level, window)
			if err != nil {
				return nil, err
			}
			t.Times = availability.Seen(t.Level, busy[p.ID], titled, window)
		} else if at := slices.IndexFunc(rooms, func(r schedule.Room) bool { return r.ID == w.RoomID }); at >= 0 {
			t.Name, t.Email = rooms[at].Name, rooms[at].Email
			uses, err := tx.RoomUses(ctx, viewer, w.RoomID, window, s.Now())
			if err != nil {
				return nil, err
			}
			for _, u := range uses {
				t.Uses = append(t.Uses, u.Known())
			}
		} else {
			continue
		}
		out = append(out, t)
	}
	return out, nil
}

// titled are the meetings of somebody who shares their titles.
func (s *Deeds) titled(ctx context.Context, tx interface {
	WeekMeetings(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.InWeek, error)
}, person uuid.UUID, level availability.Level, window when.Span) (out []availability.Titled, err error) {
	if !level.Titles() {
		return nil, nil
	}
	found, err := tx.WeekMeetings(ctx, person, window)
	for _, w := range found {
		kind := availability.Busy
		if w.OrganiserID != person {
			kind = availability.Taken(w.Answer)
		}
		if kind == "" || w.Content.Free {
			continue
		}
		title := w.Content.Title
		if d, ok := w.Content.Date(w.On); ok {
			title = d.Title
		}
		out = append(out, availability.Titled{Time: availability.Time{Span: w.Span, Kind: kind}, Title: title, Private: w.Content.Private})
	}
	return out, err
}
