package dispatch

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
)

// waysTx is what is needed here of a transaction.
type waysTx interface {
	keepTx
	letterTx
	listTx
	schedule.MailsTx
	AddDispatches(ctx context.Context, all []schedule.Dispatch) error
	DispatchEvents(ctx context.Context, ids []uuid.UUID) (map[uuid.UUID][]reach.Event, error)
	KeepAlias(ctx context.Context, person uuid.UUID, email, also string, at time.Time) error
	KnownAddresses(ctx context.Context, organiser uuid.UUID, name, email string) ([]schedule.KnownAddress, error)
	QueueDispatches(ctx context.Context, all []schedule.Dispatch) error
	RenewPage(ctx context.Context, participant uuid.UUID) error
	SetReachAt(ctx context.Context, participant uuid.UUID, email string) error
}

func (s *Deeds) waysStore() schedule.Store[waysTx] {
	return schedule.Narrow(s.Store, func(tx Tx) waysTx { return tx })
}

// Known is another address that somebody may be reached at, and for which meeting they were.
type Known struct {
	schedule.KnownAddress
	Title string // of the meeting, or ""
}

// Ways is one message with all that was heard of it, the newest first, and the other ways to
// its reader.
type Ways struct {
	Line
	Meeting schedule.Record
	Events  []reach.Event
	Known   []Known
	// Text says it all for a chat, a letter or one's own mail, GuestURL is the reader's own
	// page; both are "" where the reader is not invited any more.
	Text, GuestURL string
	// Newest tells that nothing was sent to them since: only that can be sent again.
	Newest bool
}

// Ways shows a message to who organises its meeting.
func (s *Deeds) Ways(ctx context.Context, who schedule.Actor, id uuid.UUID) (w Ways, err error) {
	err = s.waysStore().Look(ctx, func(tx waysTx) error {
		if w.Dispatch, w.Meeting, err = own(ctx, tx, who, id); err != nil {
			return err
		}
		lines, err := sentOf(ctx, tx, who, []uuid.UUID{w.MeetingID})
		if err != nil {
			return err
		}
		if w.To, err = tx.Invited(ctx, w.ParticipantID); err != nil {
			return err
		}
		for _, l := range lines[0].Lines {
			if l.ID == id {
				w.Line, w.Newest = l, true
			}
		}
		events, err := tx.DispatchEvents(ctx, []uuid.UUID{id})
		if err != nil {
			return err
		}
		if w.Events = events[id]; w.Channel != schedule.Mail {
			return nil
		}
		if w.Known, err = s.known(ctx, tx, who, w.Dispatch, w.To); err != nil || w.To.RemovedAt != nil {
			return err
		}
		letter, err := s.write(ctx, tx, w.Dispatch)
		if err != nil && err != ErrEarlier {
			return err
		}
		w.Text, w.GuestURL = s.Post.PassOn(letter), letter.GuestURL
		return nil
	})
	return w, err
}

// own is a message of a meeting that somebody organises, or ErrNotFound.
func own(ctx context.Context, tx waysTx, who schedule.Actor, id uuid.UUID) (d schedule.Dispatch, record schedule.Record, err error) {
	if d, err = tx.Dispatch(ctx, id); err != nil {
		return d, record, err
	}
	record, err = tx.Meeting(ctx, d.MeetingID)
	if err == nil && record.OrganiserID != who.For {
		err = schedule.ErrNotFound
	}
	return d, record, err
}

// known are other addresses of a reader, but for those at which they are reached or invited
// already.
func (s *Deeds) known(ctx context.Context, tx waysTx, who schedule.Actor, d schedule.Dispatch, to schedule.Invited) (out []Known, err error) {
	all, err := tx.KnownAddresses(ctx, who.For, to.Name, to.Email)
	if err != nil {
		return nil, err
	}
	at := addressOf(d, to)
	if !strings.EqualFold(at, to.Email) {
		all = append(all, schedule.KnownAddress{Email: to.Email})
	}
	for _, k := range all {
		if strings.EqualFold(k.Email, at) {
			continue
		}
		x := Known{KnownAddress: k}
		if k.MeetingID != uuid.Nil {
			of, err := tx.Meeting(ctx, k.MeetingID)
			if err != nil {
				return nil, err
			}
			x.Title = of.Content.Title
		}
		out = append(out, x)
	}
	return out, nil
}

func addressOf(d schedule.Dispatch, to schedule.Invited) string {
	if d.Address != "" {
		return d.Address
	}
	return to.Address()
}

// Again sends a message once more: to the same address, or with another one there and from now
// on. It fails with ErrNotFound for a message that is not the newest, and with an *InvalidError
// for an address that cannot be written to or is somebody else's in this meeting.
func (s *Deeds) Again(ctx context.Context, who schedule.Actor, id uuid.UUID, address string) error {
	var at string
	if address = strings.TrimSpace(address); address != "" {
		parsed, err := meeting.ParseEmail(address)
		if err != nil {
			return schedule.Invalid("address", say.It("dispatch.address"))
		}
		at = parsed
	}
	return s.waysStore().InTx(ctx, func(tx waysTx) error {
		d, _, err := own(ctx, tx, who, id)
		if err != nil {
			return err
		}
		record, err := tx.LockMeeting(ctx, d.MeetingID)
		if err != nil {
			return err
		}
		if d, err = tx.LockDispatch(ctx, id); err != nil {
			return err
		}
		to, err := tx.Invited(ctx, d.ParticipantID)
		if err != nil {
			return err
		}
		if !d.Repeatable() {
			return schedule.Invalid("address", say.It("dispatch.underway"))
		}
		if fault, err := s.MailFault(ctx, tx, who.For, 1); err != nil || fault != nil {
			if fault != nil {
				err = schedule.Invalid("address", fault.What)
			}
			return err
		}
		if at != "" {
			if err := s.reachAt(ctx, tx, who, to, at); err != nil {
				return err
			}
		}
		return s.resend(ctx, tx, record, d, to, at)
	})
}

// reachAt has somebody be reached at another address from now on.
func (s *Deeds) reachAt(ctx context.Context, tx waysTx, who schedule.Actor, to schedule.Invited, at string) error {
	all, err := tx.ParticipantsOf(ctx, []uuid.UUID{to.MeetingID})
	if err != nil {
		return err
	}
	if i := slices.IndexFunc(all, func(i schedule.Invited) bool {
		return i.ID != to.ID && i.RemovedAt == nil && (strings.EqualFold(i.Email, at) || strings.EqualFold(i.ReachAt, at))
	}); i >= 0 {
		return schedule.Invalid("address", say.It("dispatch.addressTaken", say.Person(all[i].Name)))
	}
	if strings.EqualFold(at, to.Email) {
		return tx.SetReachAt(ctx, to.ID, "")
	}
	if err := tx.SetReachAt(ctx, to.ID, at); err != nil {
		return err
	}
	return tx.KeepAlias(ctx, who.For, to.Email, at, s.Now())
}

// resend queues a message once more; meeting and message are locked. Only the newest can be:
// what an older one says holds no more.
func (s *Deeds) resend(ctx context.Context, tx waysTx, record schedule.Record, d schedule.Dispatch, to schedule.Invited, at string) error {
	newest, err := tx.NewestOfMeetings(ctx, []uuid.UUID{record.ID})
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(newest, func(n schedule.Dispatch) bool { return n.ID == d.ID }) {
		return schedule.ErrNotFound
	}
	now := s.Now()
	fresh := schedule.Dispatch{ID: uuid.New(), MeetingID: d.MeetingID, Version: d.Version, ParticipantID: d.ParticipantID, Kind: d.Kind, On: d.On, IDs: d.IDs,
		Channel: schedule.Mail, Said: d.Said, State: schedule.Queued, QueuedAt: now, Stamp: later(d.Stamp.Add(time.Second), now), Address: at}
	how := schedule.MendedAgain
	if at != "" {
		how = schedule.MendedElsewhere
	} else {
		fresh.Address = d.Address
	}
	address := addressOf(fresh, to)
	fresh.Domain = meeting.DomainOf(address)
	if err := s.mend(ctx, tx, d, how); err != nil {
		return err
	}
	if err := tx.AddDispatches(ctx, []schedule.Dispatch{fresh}); err != nil {
		return err
	}
	if err := tx.QueueDispatches(ctx, []schedule.Dispatch{fresh}); err != nil {
		return err
	}
	if err := s.CountMails(ctx, tx, record.OrganiserID, 1); err != nil {
		return err
	}
	e := meeting.Event{Kind: meeting.EventSentAgain, Who: record.Content.Organiser.Name, Name: to.Name, Reason: at}
	if err := s.Happened(ctx, tx, record, record.OrganiserID, e); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: record.ID})
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// mend keeps that the reader of a message was reached in another way.
func (s *Deeds) mend(ctx context.Context, tx waysTx, d schedule.Dispatch, how schedule.Mending) error {
	e := reach.Event{At: s.Now(), Kind: reach.Mended, Said: string(how)}
	d.Progress, d.Mended = d.After(e), how
	if err := tx.SetDispatch(ctx, d); err != nil {
		return err
	}
	return tx.AddDispatchEvents(ctx, d.ID, []reach.Event{e})
}

// Told keeps that the organiser reached somebody themselves.
func (s *Deeds) Told(ctx context.Context, who schedule.Actor, id uuid.UUID, how schedule.Mending) error {
	if how != schedule.MendedTold && how != schedule.MendedText {
		return schedule.Invalid("how", say.It("dispatch.how"))
	}
	return s.waysStore().InTx(ctx, func(tx waysTx) error {
		d, _, err := own(ctx, tx, who, id)
		if err != nil {
			return err
		}
		record, err := tx.LockMeeting(ctx, d.MeetingID)
		if err != nil {
			return err
		}
		if d, err = tx.LockDispatch(ctx, id); err != nil || !d.MendedAt.IsZero() {
			return err
		}
		to, err := tx.Invited(ctx, d.ParticipantID)
		if err != nil {
			return err
		}
		if err := s.mend(ctx, tx, d, how); err != nil {
			return err
		}
		e := meeting.Event{Kind: meeting.EventTold, Who: record.Content.Organiser.Name, Name: to.Name}
		if err := s.Happened(ctx, tx, record, record.OrganiserID, e); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: record.ID})
	})
}

// RenewPage makes the address of the reader's own page anew: the one in the mails that they were
// sent no longer opens, neither does what they subscribed to with it.
func (s *Deeds) RenewPage(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.waysStore().InTx(ctx, func(tx waysTx) error {
		d, _, err := own(ctx, tx, who, id)
		if err != nil {
			return err
		}
		record, err := tx.LockMeeting(ctx, d.MeetingID)
		if err != nil {
			return err
		}
		to, err := tx.Invited(ctx, d.ParticipantID)
		if err != nil {
			return err
		}
		if d.Channel != schedule.Mail || to.RemovedAt != nil {
			return schedule.ErrNotFound
		}
		if err := tx.RenewPage(ctx, to.ID); err != nil {
			return err
		}
		e := meeting.Event{Kind: meeting.EventPageRenewed, Who: record.Content.Organiser.Name, Name: to.Name}
		if err := s.Happened(ctx, tx, record, record.OrganiserID, e); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: record.ID})
	})
}

// AsSent is a message as it went out.
func (s *Deeds) AsSent(ctx context.Context, who schedule.Actor, id uuid.UUID) (r schedule.Rendered, err error) {
	var letter schedule.Letter
	err = s.waysStore().Look(ctx, func(tx waysTx) error {
		d, _, err := own(ctx, tx, who, id)
		if err != nil {
			return err
		}
		if letter, err = s.write(ctx, tx, d); err == ErrEarlier {
			return nil
		}
		return err
	})
	if err != nil {
		return r, err
	}
	return s.Post.Render(letter)
}
