package invitations

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/invited"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// View is an invitation as its reader sees it.
type View struct {
	schedule.Invitation
	invited.Told
	Card  *join.Card // the way into its call, read out of all that it says; nil for none
	Dates []schedule.CalendarEntry
	Zone  when.Zone // the reader's
	// Room is the one that it asks for, nil where it asks its reader to come.
	Room *schedule.Room
	// Doubt is what somebody else than the organiser says, where Waiting is set.
	Doubt struct {
		Off   bool
		Title string
		Dates []schedule.CalendarEntry
	}
}

// datesShown is how many dates to come are shown.
const datesShown = 12

// Invitation shows one to whom it is for; it fails with ErrNotFound for everybody else.
func (s *Deeds) Invitation(ctx context.Context, who schedule.Actor, id uuid.UUID) (v View, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		if v.Invitation, err = own(ctx, tx.Invitation, who, id); err != nil {
			return err
		}
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		v.Zone = p.Hours.Zone
		if v.Room, err = roomOf(ctx, tx, v.Invitation); err != nil {
			return err
		}
		v.Told = s.Format.InvitationWords(v.State, s.addresses(p)...)
		text := v.Told.Place + "\n" + v.Told.Text
		for _, w := range v.Told.Ways {
			text += "\n" + w
		}
		if read, is := join.Read(text); is {
			card := read.Card(text)
			v.Card = &card
		}
		if v.Waiting != nil {
			wanted, _, _ := v.State.After(*v.Waiting, true)
			v.Doubt.Off, v.Doubt.Title = wanted.Off, s.Format.InvitationWords(wanted).Title
			if v.Doubt.Dates, err = s.dates(wanted, p); err != nil {
				return err
			}
		}
		v.Dates, err = s.dates(v.State, p)
		return err
	})
	return v, err
}

// dates are the next dates of what is known, or the last where all are over.
func (s *Deeds) dates(state invited.State, p schedule.Person) (out []schedule.CalendarEntry, err error) {
	state = state.AsItWas()
	zone := p.Hours.Zone
	today := zone.LocalAt(when.At(s.Now())).Day
	for _, window := range []when.Span{when.DaysSpan(today, today+ahead, zone), when.DaysSpan(today-ahead, today, zone)} {
		c, err := s.Format.Read(s.Format.Invitation(state), window)
		if err != nil {
			return nil, err
		}
		if out, err = entries(c, window, zone, mostDates); err != nil || len(out) > 0 {
			return out[:min(len(out), datesShown)], err
		}
	}
	return out, nil
}

func own(ctx context.Context, read func(context.Context, uuid.UUID) (schedule.Invitation, error), who schedule.Actor, id uuid.UUID) (schedule.Invitation, error) {
	i, err := read(ctx, id)
	if err == nil && i.PersonID != who.For {
		err = schedule.ErrNotFound
	}
	return i, err
}

// Answer answers an invitation, at the state that a page showed, and tells who organises it: for one
// date, by when that was meant first, or with 0 for all. It fails with a *VersionError where it
// changed meanwhile, with ErrCalledOff, and with ErrNotFound for a date that there is not.
func (s *Deeds) Answer(ctx context.Context, who schedule.Actor, id uuid.UUID, on when.Instant, answer meeting.Answer, comment string, version int) error {
	comment = meeting.Plain(comment)
	switch {
	case !answer.Known():
		return schedule.Invalid("answer", say.It("answer.which"))
	case utf8.RuneCountInString(comment) > meeting.CommentLimit:
		return schedule.Invalid("comment", say.It("answer.commentLong", meeting.CommentLimit))
	}
	return s.change(ctx, who, id, func(tx Tx, i *schedule.Invitation) error {
		switch {
		case i.State.Off:
			return schedule.ErrCalledOff
		case i.Version != version:
			return &schedule.VersionError{What: say.It("answer.changed")}
		}
		if on != 0 {
			p, err := directory.Person(ctx, tx, who.For)
			if err != nil {
				return err
			}
			dates, err := s.dates(i.State, p)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(dates, func(d schedule.CalendarEntry) bool { return d.On == on }) {
				return schedule.ErrNotFound
			}
		}
		now := s.Now()
		*i = i.Answering(on, answer, comment)
		i.AnsweredAt, i.Reply, i.ReplyDetail = &now, schedule.Queued, ""
		i.Version++
		return tx.QueueReply(ctx, i.ID, i.Version)
	})
}

// Believe settles what somebody else than the organiser said about a meeting: it holds, or is
// forgotten.
func (s *Deeds) Believe(ctx context.Context, who schedule.Actor, id uuid.UUID, believe bool) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		i, p, err := lock(ctx, tx, who, id)
		if err != nil {
			return err
		}
		if i.Waiting == nil {
			return schedule.ErrNotFound
		}
		m := *i.Waiting
		if i.Waiting = nil; believe {
			return s.follow(ctx, tx, i, p, m, true)
		}
		i.Version++
		if err := tx.KeepInvitation(ctx, i); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{p.ID}, Topic: schedule.AboutInvitation, ID: i.ID})
	})
}

// lock locks whose an invitation is, and it.
func lock(ctx context.Context, tx Tx, who schedule.Actor, id uuid.UUID) (i schedule.Invitation, p schedule.Person, err error) {
	if err = tx.LockPerson(ctx, who.For); err != nil {
		return i, p, err
	}
	if i, err = own(ctx, tx.LockInvitation, who, id); err != nil {
		return i, p, err
	}
	p, err = directory.Person(ctx, tx, who.For)
	return i, p, err
}

// change changes one's own invitation and the time that it takes.
func (s *Deeds) change(ctx context.Context, who schedule.Actor, id uuid.UUID, do func(Tx, *schedule.Invitation) error) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		i, p, err := lock(ctx, tx, who, id)
		if err != nil {
			return err
		}
		if err := do(tx, &i); err != nil {
			return err
		}
		if err := s.write(ctx, tx, i, p, true); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutInvitation, ID: i.ID})
	})
}

// File is an invitation as a calendar file, for whom it is.
func (s *Deeds) File(ctx context.Context, who schedule.Actor, id uuid.UUID) (raw []byte, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		i, err := own(ctx, tx.Invitation, who, id)
		raw = s.Format.Invitation(i.State)
		return err
	})
	return raw, err
}

// Address is where people outside invite somebody.
func (s *Deeds) Address(who schedule.Actor) string {
	return s.Seal.InvitationAddress(who.For, s.House.MailDomain)
}

// SendReply sends the answer to an invitation that was given at a version, where no newer one was.
// It fails as Post.Send does; what the other side refuses for good is kept with the answer.
func (s *Deeds) SendReply(ctx context.Context, id uuid.UUID, version int) error {
	var r schedule.InvitationReply
	err := s.Store.Look(ctx, func(tx Tx) error {
		i, err := tx.Invitation(ctx, id)
		if err != nil {
			return err
		}
		p, err := directory.Person(ctx, tx, i.PersonID)
		if err != nil {
			return err
		}
		room, err := roomOf(ctx, tx, i)
		r = schedule.InvitationReply{Invitation: i, From: p.Party(), House: s.House, Zone: p.Hours.Zone, MessageID: s.MessageID(uuid.NewSHA1(id, fmt.Append(nil, version)))}
		if room != nil {
			r.From = meeting.Party{Name: room.Name, Email: room.Email}
		}
		return err
	})
	if errors.Is(err, schedule.ErrNotFound) || err == nil && (r.Reply != schedule.Queued || r.Version != version || r.AnsweredAt == nil) {
		return nil
	}
	if err != nil {
		return err
	}
	r.Stamp = *r.AnsweredAt
	err = s.Post.SendReply(ctx, r)
	var refused *schedule.RefusedError
	if err != nil && !errors.As(err, &refused) {
		return err
	}
	keep := context.WithoutCancel(ctx)
	return errors.Join(err, s.Store.InTx(keep, func(tx Tx) error {
		i, err := tx.LockInvitation(keep, id)
		if err != nil || i.Version != version {
			return err
		}
		i.Replying = nil
		if i.Reply = schedule.Handed; refused != nil {
			i.Reply, i.ReplyDetail = schedule.Failed, cut(refused.Reason, 300)
		}
		if err := tx.KeepInvitation(keep, i); err != nil {
			return err
		}
		return tx.Tell(keep, schedule.Notice{People: []uuid.UUID{i.PersonID}, Topic: schedule.AboutInvitation, ID: i.ID})
	}))
}
