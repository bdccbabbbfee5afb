package links

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
)

type standingTx interface {
	giveTx
	CountOfStanding(ctx context.Context, id uuid.UUID, now time.Time) (int, error)
	DropStandingLink(ctx context.Context, id uuid.UUID) error
	LockStandingLink(ctx context.Context, id uuid.UUID) (schedule.StandingLink, error)
	MeetingsOfStanding(ctx context.Context, id uuid.UUID, now time.Time) ([]uuid.UUID, error)
	People(ctx context.Context, ids []uuid.UUID) ([]schedule.Person, error)
	QueueReplace(ctx context.Context, standing uuid.UUID) error
	SetStandingLink(ctx context.Context, s schedule.StandingLink, now time.Time) error
	StandingLink(ctx context.Context, id uuid.UUID) (schedule.StandingLink, error)
	StandingLinks(ctx context.Context, person uuid.UUID, rooms []uuid.UUID, most int) ([]schedule.StandingLink, error)
}

func (s *Deeds) standingStore() schedule.Store[standingTx] {
	return schedule.Narrow(s.Store, func(tx Tx) standingTx { return tx })
}

const (
	mostStanding = 200
	mostShared   = 50
)

// usable tells whether somebody may use a standing link: their own, one shared with them, and
// that of any room.
func usable(l schedule.StandingLink, person uuid.UUID) bool {
	return l.Kind == schedule.OfRoom || l.OwnerID == person || slices.Contains(l.SharedWith, person)
}

// Standing is a standing link as somebody sees it who may use it.
type Standing struct {
	schedule.StandingLink
	Owner  string
	Shared []schedule.Person
	Uses   int // meetings to come that use it
	Mine   bool
}

// StandingLinks are those that somebody may use, but for those of rooms.
func (s *Deeds) StandingLinks(ctx context.Context, who schedule.Actor) (out []Standing, err error) {
	err = s.standingStore().Look(ctx, func(tx standingTx) error {
		all, err := tx.StandingLinks(ctx, who.For, nil, mostStanding)
		if err != nil {
			return err
		}
		var ids []uuid.UUID
		for _, l := range all {
			ids = append(append(ids, l.OwnerID), l.SharedWith...)
		}
		people, err := tx.People(ctx, ids)
		if err != nil {
			return err
		}
		out = nil
		for _, l := range all {
			v := Standing{StandingLink: l, Mine: l.OwnerID == who.For}
			for _, p := range people {
				if p.ID == l.OwnerID {
					v.Owner = p.Name
				}
				if slices.Contains(l.SharedWith, p.ID) {
					v.Shared = append(v.Shared, p)
				}
			}
			if v.Uses, err = tx.CountOfStanding(ctx, l.ID, s.Now()); err != nil {
				return err
			}
			out = append(out, v)
		}
		return nil
	})
	return out, err
}

// StandingChange is what somebody says of a standing link of theirs. Its call is a room at a
// provider, by its address, or what a text says; with neither it stays.
type StandingChange struct {
	Name           string
	Group          bool
	SharedWith     []uuid.UUID
	Provider, Room string
	Text           string
}

// KeepStanding makes a standing link, or changes one of one's own. Meetings to come that use it
// get the new call, and those invited are told, each once a meeting.
func (s *Deeds) KeepStanding(ctx context.Context, who schedule.Actor, id uuid.UUID, c StandingChange) error {
	card, err := s.standingCard(ctx, who, c)
	if err != nil {
		return err
	}
	c.Name = meeting.OneLine(c.Name)
	switch {
	case c.Name == "":
		return schedule.Invalid("name", say.It("standing.noName"))
	case utf8.RuneCountInString(c.Name) > 100:
		return schedule.Invalid("name", say.It("standing.nameLong"))
	case len(c.SharedWith) > mostShared:
		return schedule.Invalid("sharedWith", say.It("standing.shared"))
	}
	return s.standingStore().InTx(ctx, func(tx standingTx) error {
		l, err := tx.LockStandingLink(ctx, id)
		switch {
		case errors.Is(err, schedule.ErrNotFound):
			if card == nil {
				return schedule.Invalid("call", say.It("standing.noCall"))
			}
			l = schedule.StandingLink{ID: id, OwnerID: who.For}
		case err != nil:
			return err
		case l.OwnerID != who.For:
			return schedule.ErrNotFound
		}
		people, err := tx.People(ctx, c.SharedWith)
		if err != nil {
			return err
		}
		l.SharedWith = nil
		for _, p := range people {
			if !p.Left && p.ID != who.For {
				l.SharedWith = append(l.SharedWith, p.ID)
			}
		}
		l.Name, l.Kind = c.Name, schedule.OfPerson
		if c.Group {
			l.Kind = schedule.OfGroup
		}
		if card != nil {
			replaced := l.Card.Address() != "" && !l.Card.Same(card)
			l.Card = *card
			l.Card.Kind, l.Card.StandsAs = join.Standing, id.String()
			if replaced {
				if err := tx.QueueReplace(ctx, id); err != nil {
					return err
				}
			}
		}
		return tx.SetStandingLink(ctx, l, s.Now())
	})
}

// standingCard is the call that is asked for, nil where the one that is there stays.
func (s *Deeds) standingCard(ctx context.Context, who schedule.Actor, c StandingChange) (*join.Card, error) {
	switch {
	case c.Provider != "":
		rooms, err := s.RoomsAt(ctx, who, c.Provider)
		if errors.Is(err, schedule.ErrNotFound) {
			return nil, schedule.Invalid("call", say.It("link.noProvider"))
		}
		if err != nil {
			return nil, err
		}
		at := slices.IndexFunc(rooms, func(r Room) bool { return r.Card.URL == c.Room })
		if at < 0 {
			return nil, schedule.Invalid("call", say.It("standing.roomGone"))
		}
		return &rooms[at].Card, nil
	case strings.TrimSpace(c.Text) != "":
		text := meeting.Plain(c.Text)
		p, found := join.Read(text)
		if !found {
			return nil, schedule.Invalid("text", say.It("link.noWay"))
		}
		card := p.Card(strings.ToValidUTF8(text[:min(len(text), join.MostPasted)], ""))
		return &card, nil
	}
	return nil, nil
}

// DropStanding forgets a standing link of one's own; meetings that use it keep its card.
func (s *Deeds) DropStanding(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.standingStore().InTx(ctx, func(tx standingTx) error {
		l, err := tx.LockStandingLink(ctx, id)
		if err == nil && l.OwnerID != who.For {
			err = schedule.ErrNotFound
		}
		if err != nil {
			return err
		}
		return tx.DropStandingLink(ctx, id)
	})
}

// ReplaceStanding gives all meetings to come that use a standing link the call that it has
// now, one by one. It can run again without harm.
func (s *Deeds) ReplaceStanding(ctx context.Context, id uuid.UUID) error {
	var link schedule.StandingLink
	var ids []uuid.UUID
	err := s.standingStore().Look(ctx, func(tx standingTx) (err error) {
		if link, err = tx.StandingLink(ctx, id); err != nil {
			return err
		}
		ids, err = tx.MeetingsOfStanding(ctx, id, s.Now())
		return err
	})
	if err != nil {
		return err
	}
	for _, meetingID := range ids {
		err := s.standingStore().InTx(ctx, func(tx standingTx) error {
			record, err := s.lockWithSheets(ctx, tx, meetingID)
			if err != nil {
				return err
			}
			card := record.Content.Card
			if record.CalledOffAt != nil || card == nil || card.StandsAs != id.String() || card.Same(&link.Card) {
				return nil
			}
			return s.giveCard(ctx, tx, record, link.Card, meeting.Event{Kind: meeting.EventLinkReplaced, Name: link.Name})
		})
		if err != nil {
			return err
		}
	}
	return nil
}
