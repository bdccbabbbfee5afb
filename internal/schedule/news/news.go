// Package news shows people what is new for them, and tells them by mail where they
// wish or are away.
package news

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store schedule.Store[Tx]
	Post  schedule.Post
}

// Tx is what they need of a transaction.
type Tx interface {
	mailTx
	newsTx
}

// newsTx is what is needed here of a transaction.
type newsTx interface {
	directory.LookupTx
	NewsOf(ctx context.Context, person uuid.UUID, page schedule.Page, now time.Time) ([]schedule.NewsItem, error)
	OwnClashes(ctx context.Context, person uuid.UUID, meetings []uuid.UUID, now time.Time) ([]schedule.OwnClash, error)
	ReadNews(ctx context.Context, person uuid.UUID, ids []uuid.UUID, meetingID uuid.UUID, upTo, now time.Time) (bool, error)
	SetNewsMail(ctx context.Context, person uuid.UUID, how schedule.NewsMail) error
	Tell(ctx context.Context, n schedule.Notice) error
	UnreadNews(ctx context.Context, person uuid.UUID) (int, error)
}

// List is what is new for somebody, the newest first, in their zone.
type List struct {
	Items  []schedule.NewsItem
	Unread int
	Zone   when.Zone
}

// News lists what is new for somebody. What waits for their answer comes with what they
// have themselves at that time.
func (s *Deeds) News(ctx context.Context, who schedule.Actor, page schedule.Page) (l List, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		l.Zone = p.Hours.Zone
		if l.Items, err = tx.NewsOf(ctx, who.For, page, s.Now()); err != nil {
			return err
		}
		if l.Unread, err = tx.UnreadNews(ctx, who.For); err != nil {
			return err
		}
		var asked []uuid.UUID
		for _, n := range l.Items {
			if n.Asks() {
				asked = append(asked, n.MeetingID)
			}
		}
		clashes, err := tx.OwnClashes(ctx, who.For, asked, s.Now())
		for i, n := range l.Items {
			for _, c := range clashes {
				if n.Asks() && c.MeetingID == n.MeetingID {
					l.Items[i].Clashes = append(l.Items[i].Clashes, c)
				}
			}
		}
		return err
	})
	return l, err
}

// Read marks what is new as read: some things, all of one meeting, or everything up to a
// moment.
func (s *Deeds) Read(ctx context.Context, who schedule.Actor, ids []uuid.UUID, meetingID uuid.UUID, upTo time.Time) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		any, err := tx.ReadNews(ctx, who.For, ids, meetingID, upTo, s.Now())
		if err != nil || !any {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutNews, ID: who.For})
	})
}

// SetMail says whether what is new comes by mail as well.
func (s *Deeds) SetMail(ctx context.Context, who schedule.Actor, how schedule.NewsMail) error {
	switch how {
	case schedule.MailNever, schedule.MailAway, schedule.MailAlways:
	default:
		return schedule.Invalid("newsMail", say.It("news.how"))
	}
	return s.Store.InTx(ctx, func(tx Tx) error { return tx.SetNewsMail(ctx, who.For, how) })
}
