package schedule

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/words"
)

// Sent is what a Send did.
type Sent struct {
	MeetingID uuid.UUID
	Told      int // messages that it caused
}

// Send settles a sheet for good: the meeting, everybody's time, the room and
// the messages are kept in one transaction, or nothing is and the sheet stays
// as it was. The same key does it once, however often it is called.
//
// It fails with a *VersionError when sheet or meeting were changed since the
// caller saw them, with an *InvalidError that names the fields, with a
// *TakenError when somebody was faster with the room, and with ErrCalledOff.
func (s *Service) Send(ctx context.Context, me, id uuid.UUID, version int, key string) (sent Sent, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		done, err := tx.SendKey(ctx, me, key)
		if err == nil {
			if done.SheetID != id {
				return invalid("idempotencyKey", "This key was used for another sheet.")
			}
			sent = Sent{done.MeetingID, done.Told}
			return nil
		}
		if !errors.Is(err, ErrNotFound) {
			return err
		}
		sheet, err := lockSheet(ctx, tx, me, id, version)
		if err != nil {
			return err
		}
		before, err := s.changed(ctx, tx, sheet)
		if err != nil {
			return err
		}
		st, err := s.settle(ctx, tx, sheet, before)
		if err != nil {
			return err
		}
		if sent, err = s.store(ctx, tx, sheet, st); err != nil {
			return err
		}
		return tx.AddSendKey(ctx, SendKey{PersonID: me, Key: key, SheetID: id, MeetingID: sent.MeetingID, Told: sent.Told}, s.Now())
	})
	if err != nil {
		return Sent{}, err
	}
	return sent, nil
}

// changed is the meeting that a sheet changes, locked, or nil. It fails with a
// *VersionError when the meeting is no longer the one the changes were made to.
func (s *Service) changed(ctx context.Context, tx Tx, sheet Sheet) (*Record, error) {
	if sheet.MeetingID == nil {
		return nil, nil
	}
	record, err := organised(ctx, tx, sheet.OwnerID, *sheet.MeetingID)
	if err != nil {
		return nil, err
	}
	if record.Version != sheet.BasedOn {
		was, err := tx.MeetingAt(ctx, record.ID, sheet.BasedOn)
		if err != nil {
			return nil, err
		}
		return nil, &VersionError{Meeting: &record, Changed: meeting.Compare(was.Content, record.Content).Words()}
	}
	return &record, nil
}

// store keeps a settled sheet and everything that follows from it.
func (s *Service) store(ctx context.Context, tx Tx, sheet Sheet, st settled) (Sent, error) {
	if st.before != nil && st.next == nil && st.change.Empty() {
		return Sent{MeetingID: st.before.ID}, tx.DropSheet(ctx, sheet.ID)
	}
	record, err := s.storeMeeting(ctx, tx, st)
	if err != nil {
		return Sent{}, err
	}
	if err := s.storeInvited(ctx, tx, record, st); err != nil {
		return Sent{}, err
	}
	if st.before == nil || st.change.MovesTime() {
		if err := s.WriteTimes(ctx, tx, record); err != nil {
			return Sent{}, err
		}
	}
	if err := s.dispatch(ctx, tx, record, st.due, st.changeWords()); err != nil {
		return Sent{}, err
	}
	if err := s.tellProvider(ctx, tx, record, st); err != nil {
		return Sent{}, err
	}
	if err := s.tellStory(ctx, tx, record, st); err != nil {
		return Sent{}, err
	}
	if err := tx.DropSheet(ctx, sheet.ID); err != nil {
		return Sent{}, err
	}
	sent := Sent{MeetingID: record.ID, Told: len(st.due) + len(st.dueNext)}
	if st.next != nil {
		if sent.MeetingID, err = s.storeNext(ctx, tx, st); err != nil {
			return Sent{}, err
		}
	}
	concerned := append(insiders(record.Content.Participants), insiders(st.change.Removed)...)
	return sent, tx.Tell(ctx, append(concerned, record.OrganiserID), record.ID)
}

// changeWords is what an update says that it changed.
func (st settled) changeWords() string {
	if st.next == nil {
		return st.change.Words()
	}
	return "it ends here and goes on " + st.nextWords()
}

// nextWords says how the series goes on: "from 14 January at 10:00".
func (st settled) nextWords() string {
	return fmt.Sprintf("from %s at %s", st.next.Start.Day.Words(), st.next.Start.Clock)
}

// storeNext keeps the series that goes on from another one. Where its times are
// the same, what people answered holds.
func (s *Service) storeNext(ctx context.Context, tx Tx, st settled) (uuid.UUID, error) {
	id := uuid.New()
	st.next.UID = id.String() + "@" + s.House.MailDomain
	record := Record{ID: id, OrganiserID: st.organiser.ID, Version: 1, Content: *st.next, Stamp: s.Now()}
	if err := tx.AddMeeting(ctx, record); err != nil {
		return id, err
	}
	answers := map[string]Invited{}
	if tail, ok := st.before.Content.Plan().From(st.next.Start.Day); ok && tail.Start == st.next.Start && tail.End == st.next.End {
		for _, i := range st.invited {
			answers[strings.ToLower(i.Email)] = i
		}
	}
	for _, p := range st.next.Participants {
		i, err := newInvited(record, p)
		if err != nil {
			return id, err
		}
		if err := tx.AddInvited(ctx, i); err != nil {
			return id, err
		}
		if was, ok := answers[strings.ToLower(p.Email)]; ok {
			i.Answer, i.Comment, i.AnsweredAt, i.AnswerStamp = was.Answer, was.Comment, was.AnsweredAt, was.AnswerStamp
			if err := tx.SetInvited(ctx, i); err != nil {
				return id, err
			}
		}
	}
	if err := s.WriteTimes(ctx, tx, record); err != nil {
		return id, err
	}
	if err := s.dispatch(ctx, tx, record, st.dueNext, "it goes on "+st.nextWords()); err != nil {
		return id, err
	}
	if st.next.Card != nil {
		if err := tx.QueueCallChange(ctx, CallChange{PersonID: record.OrganiserID, Card: *st.next.Card, MeetingID: id}); err != nil {
			return id, err
		}
	}
	words := fmt.Sprintf("%s let the series go on %s and told %s", st.organiser.Name, st.nextWords(), words.People(len(st.dueNext)))
	if err := tx.AddHappening(ctx, id, Happening{At: s.Now(), Words: words}); err != nil {
		return id, err
	}
	return id, tx.Tell(ctx, append(insiders(st.next.Participants), record.OrganiserID), id)
}

func (s *Service) storeMeeting(ctx context.Context, tx Tx, st settled) (Record, error) {
	if st.before == nil {
		id := uuid.New()
		st.meeting.UID = id.String() + "@" + s.House.MailDomain
		record := Record{ID: id, OrganiserID: st.organiser.ID, Version: 1, Content: st.meeting, Stamp: s.Now()}
		return record, tx.AddMeeting(ctx, record)
	}
	record := *st.before
	record.Version, record.Content, record.Stamp = record.Version+1, st.meeting, s.Now()
	return record, tx.SetMeeting(ctx, record)
}

// storeInvited brings the people invited to what the meeting says. Those who are
// told something are marked with what they were told.
func (s *Service) storeInvited(ctx context.Context, tx Tx, record Record, st settled) error {
	whole := map[string]bool{} // told of the whole meeting
	for _, m := range st.due {
		if len(m.On) == 0 {
			whole[m.To.ID] = true
		}
	}
	for _, p := range record.Content.Participants {
		at := slices.IndexFunc(st.invited, func(i Invited) bool { return i.ID.String() == p.ID })
		if at < 0 {
			i, err := newInvited(record, p)
			if err != nil {
				return err
			}
			if err := tx.AddInvited(ctx, i); err != nil {
				return err
			}
			continue
		}
		i := st.invited[at]
		i.Name, i.Needed = p.Name, p.Needed
		if st.change.AsksAgain() {
			i.Answer, i.Comment, i.AnsweredAt = meeting.NoAnswer, "", nil
		}
		if whole[p.ID] {
			i.SentSequence = record.Content.Sequence
		}
		if err := tx.SetInvited(ctx, i); err != nil {
			return err
		}
	}
	for _, i := range st.invited {
		if _, stays := record.Content.Participant(i.ID.String()); stays {
			continue
		}
		now := s.Now()
		i.RemovedAt, i.SentSequence = &now, record.Content.Sequence
		if err := tx.SetInvited(ctx, i); err != nil {
			return err
		}
	}
	if st.before == nil {
		return nil
	}
	if st.change.AsksAgain() {
		return tx.DropAnswersOn(ctx, record.ID)
	}
	return s.storeAnswersOn(ctx, tx, record, st)
}

// storeAnswersOn marks single dates of a series: what people were sent about
// them, and that those who answered are asked again where the time changed.
func (s *Service) storeAnswersOn(ctx context.Context, tx Tx, record Record, st settled) error {
	if len(st.change.Days) == 0 {
		return nil
	}
	all, err := tx.AnswersOn(ctx, record.ID)
	if err != nil {
		return err
	}
	moved := meeting.AsksAgainOn(st.before.Content, record.Content, st.change)
	for _, p := range record.Content.Participants {
		id, err := uuid.Parse(p.ID)
		if err != nil {
			return err
		}
		for _, day := range st.change.Days {
			if !p.On(day) {
				continue
			}
			a := AnswerOn{ParticipantID: id, On: day}
			if at := slices.IndexFunc(all, func(a AnswerOn) bool { return a.ParticipantID == id && a.On == day }); at >= 0 {
				a = all[at]
			}
			a.SentSequence = record.Content.Sequence
			if slices.Contains(moved, day) {
				a.Answer, a.Comment, a.AnsweredAt = meeting.NoAnswer, "", nil
			}
			if err := tx.SetAnswerOn(ctx, a); err != nil {
				return err
			}
		}
	}
	return nil
}

func newInvited(record Record, p meeting.Participant) (Invited, error) {
	id, err := uuid.Parse(p.ID)
	if err != nil {
		return Invited{}, err
	}
	i := Invited{ID: id, MeetingID: record.ID, Name: p.Name, Email: p.Email, Zone: p.Zone, Needed: p.Needed,
		Answer: meeting.NoAnswer, SentSequence: record.Content.Sequence}
	if p.PersonID != "" {
		personID, err := uuid.Parse(p.PersonID)
		if err != nil {
			return Invited{}, err
		}
		i.PersonID = &personID
	}
	return i, nil
}

// dispatch keeps the messages that are due and queues those that leave the
// house; colleagues have theirs at once.
func (s *Service) dispatch(ctx context.Context, tx Tx, record Record, due []meeting.Message, words string) error {
	for _, m := range due {
		to, err := uuid.Parse(m.To.ID)
		if err != nil {
			return err
		}
		now := s.Now()
		d := Dispatch{ID: uuid.New(), MeetingID: record.ID, Version: record.Version, ParticipantID: to, Kind: m.Kind, On: m.On,
			Words: words, Channel: Mail, State: Queued, QueuedAt: now}
		if !m.To.Outside() {
			d.Channel, d.State, d.HandedAt = Inside, Handed, &now
		}
		if err := tx.AddDispatch(ctx, d); err != nil {
			return err
		}
		if d.Channel == Mail {
			if err := tx.QueueDispatch(ctx, d.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// tellProvider has the call follow the meeting.
func (s *Service) tellProvider(ctx context.Context, tx Tx, record Record, st settled) error {
	card := record.Content.Card
	if st.before != nil && st.change.Link {
		if err := withdrawUnused(ctx, tx, record.OrganiserID, st.before.Content.Card, &record); err != nil {
			return err
		}
	}
	if card == nil || st.before != nil && !st.change.Time && !st.change.Title && !st.change.Link {
		return nil
	}
	return tx.QueueCallChange(ctx, CallChange{PersonID: record.OrganiserID, Card: *card, MeetingID: record.ID})
}

func (s *Service) tellStory(ctx context.Context, tx Tx, record Record, st settled) error {
	var lines []string
	who := st.organiser.Name
	switch {
	case st.before == nil:
		lines = append(lines, fmt.Sprintf("%s sent %s", who, words.Count(len(st.due), "invitation")))
	case len(st.due) == 0:
		lines = append(lines, fmt.Sprintf("%s changed %s; nobody needed to hear", who, st.change.Words()))
	default:
		lines = append(lines, fmt.Sprintf("%s changed %s and told %s", who, st.change.Words(), words.People(len(st.due))))
	}
	if st.next != nil {
		lines = []string{fmt.Sprintf("%s ended the series; it goes on %s", who, st.nextWords())}
	}
	room := record.Content.Room
	if room != nil && st.next == nil && (st.before == nil || st.change.Room || st.change.Time) {
		lines = append(lines, room.Name+" booked")
	}
	if was := st.before; was != nil && was.Content.Room != nil && st.change.Room {
		lines = append(lines, was.Content.Room.Name+" given back")
	}
	if card := record.Content.Card; card != nil && (st.before == nil || st.change.Link) {
		lines = append(lines, "Link made at "+card.Name)
	}
	for _, words := range lines {
		if err := tx.AddHappening(ctx, record.ID, Happening{At: s.Now(), Words: words}); err != nil {
			return err
		}
	}
	return nil
}

// insiders are those with an account here.
func insiders(participants []meeting.Participant) []uuid.UUID {
	var out []uuid.UUID
	for _, p := range participants {
		if id, err := uuid.Parse(p.PersonID); err == nil {
			out = append(out, id)
		}
	}
	return out
}
