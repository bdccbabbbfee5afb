package meetings

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
)

// handoverTx is what is needed here of a transaction.
type handoverTx interface {
	directory.LookupTx
	kernel.Locking
	takeTx
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	DropSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	LockInvited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LockSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) handoverStore() schedule.Store[handoverTx] {
	return schedule.Narrow(s.Store, func(tx Tx) handoverTx { return tx })
}

// HandOver has a colleague organise a meeting from now on, all of it: everybody invited
// hears who does, and answers stay. Who organised it stays invited, optional, and has
// declined the days absent, or all of a single meeting. Where the link was made it stays,
// in the account that it was made with. It fails with ErrNotFound for somebody else's, with
// ErrCalledOff, and with an *InvalidError at "to".
func (s *Deeds) HandOver(ctx context.Context, who schedule.Actor, id, to uuid.UUID, absent []when.Day) error {
	return s.handoverStore().InTx(ctx, func(tx handoverTx) error {
		if err := tx.LockSheetsOf(ctx, id); err != nil {
			return err
		}
		record, err := kernel.Organised(ctx, tx, who, id)
		if err != nil {
			return err
		}
		next, err := directory.Person(ctx, tx, to)
		switch {
		case err == schedule.ErrNotFound || err == nil && (next.Left || next.ID == who.For):
			return schedule.Invalid("to", say.It("handover.noHeir"))
		case err != nil:
			return err
		}
		return s.handOver(ctx, tx, record, next, absent)
	})
}

func (s *Deeds) handOver(ctx context.Context, tx handoverTx, record schedule.Record, next schedule.Person, absent []when.Day) error {
	before := record.Content
	st := kernel.Settled{Before: &record, Organiser: next, CallStands: true}
	var err error
	if st.Invited, err = tx.AllInvited(ctx, record.ID); err != nil {
		return err
	}
	after, stays := before.HandedTo(next.Party(), uuid.NewString())
	if after.Card = madeBy(before.Card, record.OrganiserID); after.Card != nil && after.Card.Owner == next.ID.String() {
		after.Card.Owner = ""
	}
	if err := st.Become(ctx, tx, after, s.Now()); err != nil {
		return err
	}
	// Neither of the two who hand it over and take it is told as somebody invited.
	st.Due = slices.DeleteFunc(st.Due, func(m meeting.Message) bool {
		return m.To.PersonID == next.ID.String() || m.To.ID == stays.ID
	})
	was := record.OrganiserID
	over := meeting.Event{Kind: meeting.EventHandedOver, Who: before.Organiser.Name, Name: next.Name, Told: kernel.Told(st.Due)}
	st.Story = &kernel.Line{Event: over, Actor: was}
	stored, _, err := s.Kernel.Write(ctx, tx, st)
	if err != nil {
		return err
	}
	if err := s.answerAbsent(ctx, tx, stored, was, absent); err != nil {
		return err
	}
	return tx.DropSheetsOf(ctx, record.ID)
}

// answerAbsent has who organised the meeting come to it but on some days; none are all of
// it.
func (s *Deeds) answerAbsent(ctx context.Context, tx handoverTx, record schedule.Record, was uuid.UUID, absent []when.Day) error {
	all, err := tx.AllInvited(ctx, record.ID)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(all, func(i schedule.Invited) bool { return i.PersonID != nil && *i.PersonID == was })
	if at < 0 {
		return schedule.ErrNotFound
	}
	me, now := all[at], s.Now()
	me.Answer, me.AnsweredAt, me.AnswerStamp, me.AnswerSequence = meeting.Declined, &now, now.Unix(), record.Content.Sequence
	var set []schedule.AnswerOn
	if record.Content.Repeats() && len(absent) > 0 {
		me.Answer = meeting.Accepted
	} else {
		absent = nil
	}
	for _, on := range absent {
		set = append(set, schedule.AnswerOn{ParticipantID: me.ID, On: on, Answer: meeting.Declined, AnsweredAt: &now, Stamp: now.Unix(), Sequence: record.Content.Sequence, SentSequence: record.Content.Sequence})
	}
	if err := tx.SetInvited(ctx, []schedule.Invited{me}); err != nil {
		return err
	}
	if err := tx.SetAnswersOn(ctx, set); err != nil {
		return err
	}
	return s.Kernel.WriteParts(ctx, tx, record, me.ID)
}

// madeBy is a card that says in whose account it was made, where that is not its
// organiser's any more.
func madeBy(card *join.Card, organiser uuid.UUID) *join.Card {
	if card == nil {
		return nil
	}
	c := *card
	if c.Owner == "" {
		c.Owner = organiser.String()
	}
	return &c
}

// Away is what somebody declines because they are on leave: dates of a meeting, none for
// a single meeting or all of a series.
type Away struct {
	MeetingID uuid.UUID
	Days      []when.Day
}

// DeclineAll declines what lies in somebody's leave from First to Last. Every organiser
// hears of it once, whatever there is of theirs. What was called off meanwhile, or is not
// theirs to answer any more, is passed over.
func (s *Deeds) DeclineAll(ctx context.Context, who schedule.Actor, first, last when.Day, all []Away, comment string) error {
	comment = meeting.Plain(comment)
	if len([]rune(comment)) > meeting.CommentLimit {
		return schedule.Invalid("word", say.It("word.long", meeting.CommentLimit))
	}
	// Everybody locks meetings in one order.
	all = slices.Clone(all)
	slices.SortFunc(all, func(a, b Away) int { return slices.Compare(a.MeetingID[:], b.MeetingID[:]) })
	return s.handoverStore().InTx(ctx, func(tx handoverTx) error {
		var organisers []uuid.UUID
		first1 := map[uuid.UUID]schedule.Record{}
		titles := map[uuid.UUID][]string{}
		name := ""
		for _, a := range all {
			record, me, ok, err := s.declineAway(ctx, tx, who, a, comment)
			if err != nil {
				return err
			}
			if !ok {
				continue
			}
			name = me.Name
			if _, known := first1[record.OrganiserID]; !known {
				organisers = append(organisers, record.OrganiserID)
				first1[record.OrganiserID] = record
			}
			titles[record.OrganiserID] = append(titles[record.OrganiserID], record.Content.Title)
			if err := tx.Tell(ctx, record.Notice()); err != nil {
				return err
			}
		}
		var news []schedule.News
		for _, o := range organisers {
			e := meeting.Event{Kind: meeting.EventAway, Who: name, Days: []when.Day{first, last}, Titles: titles[o], Comment: comment}
			news = append(news, schedule.News{ID: schedule.NewsID(), PersonID: o, MeetingID: first1[o].ID, Kind: schedule.NewsEvent,
				News: meeting.NewsOfEvent(first1[o].Content, e), At: s.Now()})
		}
		return tx.AddNews(ctx, news)
	})
}

// declineAway declines one meeting; ok is false where there is nothing to decline any more.
func (s *Deeds) declineAway(ctx context.Context, tx handoverTx, who schedule.Actor, a Away, comment string) (record schedule.Record, me schedule.Invited, ok bool, err error) {
	if record, err = tx.LockMeeting(ctx, a.MeetingID); err != nil {
		if err == schedule.ErrNotFound {
			err = nil
		}
		return record, me, false, err
	}
	all, err := tx.AllInvited(ctx, record.ID)
	if err != nil || record.CalledOffAt != nil {
		return record, me, false, err
	}
	at := slices.IndexFunc(all, func(i schedule.Invited) bool { return i.PersonID != nil && *i.PersonID == who.For })
	if at < 0 {
		return record, me, false, nil
	}
	if me, err = tx.LockInvited(ctx, all[at].ID); err != nil {
		return record, me, false, err
	}
	g := given{reply: meeting.Reply{Answer: meeting.Declined, Comment: comment, Sequence: record.Content.Sequence, Stamp: s.Now().Unix()}, via: schedule.ViaInside, quiet: true}
	if record.Content.Repeats() {
		p, _ := record.Content.Participant(me.ID.String())
		for _, on := range a.Days {
			if _, is := record.Content.Date(on); is && p.On(on) {
				g.days = append(g.days, on)
			}
		}
		if len(g.days) == 0 {
			return record, me, false, nil
		}
	}
	verdict, err := s.take(ctx, tx, record, me, g)
	return record, me, verdict == meeting.Counts, err
}
