package kernel

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
)

// tellTx is what is needed here of a transaction.
type tellTx interface {
	AddDispatches(ctx context.Context, all []schedule.Dispatch) error
	schedule.HappenTx
	NewestOfMeetings(ctx context.Context, ids []uuid.UUID) ([]schedule.Dispatch, error)
	QueueCallChange(ctx context.Context, c schedule.CallChange) error
	QueueDispatches(ctx context.Context, all []schedule.Dispatch) error
}

// ChangeWords is what an update says to its reader that it changed.
func (st Settled) ChangeWords(m meeting.Message) schedule.Said {
	said := schedule.Said{Words: st.changeWords(m)}
	if c := st.Cover; c != nil && (m.Kind == meeting.Invite || m.Kind == meeting.Update) {
		said.Cover, said.Subject = c.For(m.To.Email), meeting.OneLine(c.Subject)
	}
	return said
}

func (st Settled) changeWords(m meeting.Message) string {
	t := tongue.In(m.To.Language)
	switch {
	case m.Kind != meeting.Update:
		return ""
	case st.Next != nil:
		return t.Say("it ends here and goes on from %s", t.Date(st.Next.Start.Day))
	}
	is := func(p meeting.Participant) bool { return p.ID == m.To.ID }
	return words.ToReader(t, st.Change.Facts(), m.On, m.To.Needed, slices.ContainsFunc(st.Change.Role, is), slices.ContainsFunc(st.Change.Invited, is))
}

// GoesOnWords is what those are told who are to follow into the next series.
func (st Settled) GoesOnWords(m meeting.Message) schedule.Said {
	t := tongue.In(m.To.Language)
	return schedule.Said{Words: t.Say("it goes on from %s", t.Date(st.Next.Start.Day))}
}

// Saying is the same words to everybody.
func Saying(words string) func(meeting.Message) schedule.Said {
	return func(meeting.Message) schedule.Said { return schedule.Said{Words: words} }
}

// dispatch keeps the messages that are due and queues those that leave the
// house; colleagues have theirs at once, as something new. Before is the meeting as it
// was, nil for a new one.
func (k Kernel) dispatch(ctx context.Context, tx tellTx, before *meeting.Meeting, record schedule.Record, due []meeting.Message, says func(meeting.Message) schedule.Said) error {
	now := k.Now()
	var all, leaving []schedule.Dispatch
	var news []schedule.News
	messages := map[string]int{} // to each
	for _, m := range due {
		to, err := uuid.Parse(m.To.ID)
		if err != nil {
			return err
		}
		d := schedule.Dispatch{ID: uuid.New(), MeetingID: record.ID, Version: record.Version, ParticipantID: to, Kind: m.Kind, On: m.On, IDs: m.IDs,
			Stamp: record.Stamp.Add(time.Duration(messages[m.To.ID]) * time.Second), Said: says(m), Channel: schedule.Mail, State: schedule.Queued, QueuedAt: now, Domain: meeting.DomainOf(m.To.Email)}
		if !m.To.Outside() {
			d.Channel, d.State, d.HandedAt, d.Stage = schedule.Inside, schedule.Handed, &now, reach.Delivered
			n := meeting.NewsOf(before, record.Content, m, record.CalledOffAt != nil)
			if n.Word = d.Cover; m.Kind == meeting.CallOff {
				n.Word = d.Words
			}
			if news, err = appendNews(news, record.ID, m.To.PersonID, schedule.NewsKind(m.Kind), n, now); err != nil {
				return err
			}
		} else {
			leaving = append(leaving, d)
		}
		messages[m.To.ID]++
		all = append(all, d)
	}
	if err := tx.AddDispatches(ctx, all); err != nil {
		return err
	}
	if err := tx.AddNews(ctx, news); err != nil {
		return err
	}
	return tx.QueueDispatches(ctx, leaving)
}

func appendNews(all []schedule.News, meetingID uuid.UUID, personID string, kind schedule.NewsKind, n meeting.News, at time.Time) ([]schedule.News, error) {
	person, err := uuid.Parse(personID)
	return append(all, schedule.News{ID: schedule.NewsID(), PersonID: person, MeetingID: meetingID, Kind: kind, News: n, At: at}), err
}

// tellProvider has the call follow the meeting.
func (k Kernel) tellProvider(ctx context.Context, tx tellTx, record schedule.Record, st Settled) error {
	card := record.Content.Card
	if st.Before != nil && st.Change.Link {
		if err := withdrawUnused(ctx, tx, record.OrganiserID, st.Before.Content.Card, &record); err != nil {
			return err
		}
	}
	if card.Awaited() {
		return followCard(ctx, tx, record)
	}
	if !card.Made() || st.Before != nil && !st.Change.Time && !st.Change.Title && !st.Change.Link && !st.Change.Door {
		return nil
	}
	return followCard(ctx, tx, record)
}

// followCard has the call of a meeting follow it, or be made where it is awaited.
func followCard(ctx context.Context, tx tellTx, record schedule.Record) error {
	card := record.Content.Card
	if !card.Made() && !card.Awaited() {
		return nil
	}
	return tx.QueueCallChange(ctx, schedule.CallChange{PersonID: schedule.AccountOf(*card, record.OrganiserID), Card: schedule.StoredCard{Card: *card}, MeetingID: record.ID, Make: card.Awaited()})
}

// tellStory writes into the history what a change was.
func (k Kernel) tellStory(ctx context.Context, tx tellTx, record schedule.Record, st Settled) error {
	if st.Story != nil {
		return k.Happened(ctx, tx, record, st.Story.Actor, st.Story.Event)
	}
	who, actor := st.Organiser.Name, st.Organiser.ID
	if st.By != nil {
		who, actor = st.By.Name, st.By.Actor()
	}
	first := meeting.Event{Kind: meeting.EventSent, Who: who, Told: Told(st.Due)}
	switch {
	case st.Next != nil:
		first.Kind, first.Told, first.Next = meeting.EventEnded, 0, &st.Next.Start
	case st.Before != nil:
		facts := st.Change.Facts()
		if added := st.Change.Added; st.By != nil && len(added) == 1 && facts.OnlyAdded() {
			if first.Kind, first.Name = meeting.EventBrought, added[0].Name; st.By.ID == uuid.Nil {
				first.Kind = meeting.EventJoined // they came by themselves
			}
			break
		}
		first.Kind, first.Change = meeting.EventChanged, &facts
	}
	story := []meeting.Event{first}
	name := func(kind meeting.EventKind, what string) {
		story = append(story, meeting.Event{Kind: kind, Name: what})
	}
	if room := record.Content.Room; room != nil && st.Next == nil && (st.Before == nil || st.Change.Room || st.Change.Time) {
		kind := meeting.EventRoomBooked
		if slices.ContainsFunc(st.asked, func(id uuid.UUID) bool { return id.String() == room.ID }) {
			kind = meeting.EventRoomAsked
		}
		name(kind, room.Name)
	}
	if was := st.Before; was != nil && was.Content.Room != nil && st.Change.Room {
		name(meeting.EventRoomBack, was.Content.Room.Name)
	}
	if card := record.Content.Card; card != nil && st.Next == nil && (st.Before == nil || st.Change.Link) {
		switch {
		case card.Awaited():
			name(meeting.EventLinkAwaited, card.Name)
		case card.Made():
			name(meeting.EventLinkMade, card.Name)
		default:
			name(meeting.EventLinkTaken, card.Name)
		}
	}
	return k.Happened(ctx, tx, record, actor, story...)
}

// Told is how many are told by messages: some get two.
func Told(due []meeting.Message) int {
	told := map[string]bool{}
	for _, m := range due {
		told[m.To.ID] = true
	}
	return len(told)
}

// WithdrawUnused takes a call back at its provider when no meeting has it.
func WithdrawUnused(ctx context.Context, in In, owner uuid.UUID, card *join.Card, of *schedule.Record) error {
	return withdrawUnused(ctx, in.Kernel().store, owner, card, of)
}

func withdrawUnused(ctx context.Context, tx tellTx, owner uuid.UUID, card *join.Card, of *schedule.Record) error {
	if !card.Made() || of != nil && of.Content.Card.SameCall(card) {
		return nil
	}
	return tx.QueueCallChange(ctx, schedule.CallChange{PersonID: schedule.AccountOf(*card, owner), Card: schedule.StoredCard{Card: *card}, Withdraw: true})
}

// TellOne sends a message to one participant about the meeting as it is, with a DTSTAMP of its
// own.
func (k Kernel) TellOne(ctx context.Context, in In, record schedule.Record, i schedule.Invited, m meeting.Message, word string) error {
	tx := in.Kernel().store
	newest, err := tx.NewestOfMeetings(ctx, []uuid.UUID{record.ID})
	if err != nil {
		return err
	}
	record.Stamp = k.Now()
	for _, d := range newest {
		if next := d.Stamp.Add(time.Second); d.ParticipantID == i.ID && next.After(record.Stamp) {
			record.Stamp = next
		}
	}
	return k.dispatch(ctx, tx, nil, record, []meeting.Message{m}, Saying(word))
}
