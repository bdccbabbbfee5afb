package meetings

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
)

// TellTx is what is needed here of a transaction.
type TellTx interface {
	AddDispatch(ctx context.Context, d schedule.Dispatch) error
	AddHappening(ctx context.Context, meetingID uuid.UUID, h schedule.Happening) error
	QueueCallChange(ctx context.Context, c schedule.CallChange) error
	QueueDispatch(ctx context.Context, dispatchID uuid.UUID) error
}

// ChangeWords is what an update says that it changed.
func (st Settled) ChangeWords() string {
	if st.Next == nil {
		return st.Change.Words()
	}
	return "it ends here and goes on " + st.NextWords()
}

// NextWords says how the series goes on: "from 14 January at 10:00".
func (st Settled) NextWords() string {
	return fmt.Sprintf("from %s at %s", st.Next.Start.Day.Words(), st.Next.Start.Clock)
}

// Dispatch keeps the messages that are due and queues those that leave the
// house; colleagues have theirs at once.
func (s *Deeds) Dispatch(ctx context.Context, tx TellTx, record schedule.Record, due []meeting.Message, words string) error {
	for _, m := range due {
		to, err := uuid.Parse(m.To.ID)
		if err != nil {
			return err
		}
		now := s.Now()
		d := schedule.Dispatch{ID: uuid.New(), MeetingID: record.ID, Version: record.Version, ParticipantID: to, Kind: m.Kind, On: m.On,
			Words: words, Channel: schedule.Mail, State: schedule.Queued, QueuedAt: now}
		if !m.To.Outside() {
			d.Channel, d.State, d.HandedAt = schedule.Inside, schedule.Handed, &now
		}
		if err := tx.AddDispatch(ctx, d); err != nil {
			return err
		}
		if d.Channel == schedule.Mail {
			if err := tx.QueueDispatch(ctx, d.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// TellProvider has the call follow the meeting.
func (s *Deeds) TellProvider(ctx context.Context, tx TellTx, record schedule.Record, st Settled) error {
	card := record.Content.Card
	if st.Before != nil && st.Change.Link {
		if err := WithdrawUnused(ctx, tx, record.OrganiserID, st.Before.Content.Card, &record); err != nil {
			return err
		}
	}
	if card == nil || st.Before != nil && !st.Change.Time && !st.Change.Title && !st.Change.Link {
		return nil
	}
	return tx.QueueCallChange(ctx, schedule.CallChange{PersonID: record.OrganiserID, Card: *card, MeetingID: record.ID})
}

func (s *Deeds) TellStory(ctx context.Context, tx TellTx, record schedule.Record, st Settled) error {
	var lines []string
	who := st.Organiser.Name
	switch {
	case st.Before == nil:
		lines = append(lines, fmt.Sprintf("%s sent %s", who, words.Count(len(st.Due), "invitation")))
	case len(st.Due) == 0:
		lines = append(lines, fmt.Sprintf("%s changed %s; nobody needed to hear", who, st.Change.Words()))
	default:
		lines = append(lines, fmt.Sprintf("%s changed %s and told %s", who, st.Change.Words(), words.People(len(st.Due))))
	}
	if st.Next != nil {
		lines = []string{fmt.Sprintf("%s ended the series; it goes on %s", who, st.NextWords())}
	}
	room := record.Content.Room
	if room != nil && st.Next == nil && (st.Before == nil || st.Change.Room || st.Change.Time) {
		lines = append(lines, room.Name+" booked")
	}
	if was := st.Before; was != nil && was.Content.Room != nil && st.Change.Room {
		lines = append(lines, was.Content.Room.Name+" given back")
	}
	if card := record.Content.Card; card != nil && (st.Before == nil || st.Change.Link) {
		lines = append(lines, "Link made at "+card.Name)
	}
	for _, words := range lines {
		if err := tx.AddHappening(ctx, record.ID, schedule.Happening{At: s.Now(), Words: words}); err != nil {
			return err
		}
	}
	return nil
}

// Insiders are those with an account here.
func Insiders(participants []meeting.Participant) []uuid.UUID {
	var out []uuid.UUID
	for _, p := range participants {
		if id, err := uuid.Parse(p.PersonID); err == nil {
			out = append(out, id)
		}
	}
	return out
}

// Due is a message that Send would cause, and what it is about: "4 dates at
// 10:00", "28 January only".
type Due struct {
	meeting.Message
	Words string
}

// Words says of each message what it is about.
func (st Settled) Words() (out []Due) {
	say := func(m meeting.Meeting, due []meeting.Message, next bool) {
		for _, d := range due {
			out = append(out, Due{d, st.dueWords(m, d, next)})
		}
	}
	say(st.Meeting, st.Due, false)
	if st.Next != nil {
		say(*st.Next, st.DueNext, true)
	}
	return out
}

func (st Settled) dueWords(m meeting.Meeting, d meeting.Message, next bool) string {
	if !m.Repeats() {
		return ""
	}
	switch {
	case len(d.On) > 0 && d.Kind == meeting.CallOff:
		return words.Days(d.On) + " called off"
	case len(d.On) > 0:
		return words.Days(d.On)
	case d.Kind == meeting.CallOff:
		return "no more dates"
	case next:
		return theirDates(m, d.To) + " " + st.NextWords()
	case st.Next != nil:
		last, _ := m.Plan().Last()
		return "the old dates end with " + last.Words()
	}
	return theirDates(m, d.To)
}

// theirDates says how many dates somebody is invited to.
func theirDates(m meeting.Meeting, p meeting.Participant) string {
	if !p.Finite() && m.Plan().Open() {
		return "all dates, no end"
	}
	dates := m.DatesOf(p, m.Start.Day+10*meeting.Horizon)
	if len(dates) == 1 {
		return dates[0].Start.Day.Words() + " only"
	}
	return words.Count(len(dates), "date")
}

// WithdrawUnused takes a call back at its provider when no meeting has it.
func WithdrawUnused(ctx context.Context, tx TellTx, owner uuid.UUID, card *join.Card, of *schedule.Record) error {
	if card == nil || of != nil && of.Content.Card != nil && of.Content.Card.URL == card.URL {
		return nil
	}
	return tx.QueueCallChange(ctx, schedule.CallChange{PersonID: owner, Card: *card, Withdraw: true})
}
