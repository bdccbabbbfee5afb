package meetings

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// KeepTx is what is needed here of a transaction.
type KeepTx interface {
	TellTx
	TimesTx
	AddInvited(ctx context.Context, all []schedule.Invited) error
	AddMeeting(ctx context.Context, r schedule.Record) error
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	CarryOwnReminders(ctx context.Context, was, next uuid.UUID) error
	DropAnswersOn(ctx context.Context, meetingID uuid.UUID) error
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	QueueCallChange(ctx context.Context, c schedule.CallChange) error
	SetAnswersOn(ctx context.Context, all []schedule.AnswerOn) error
	SetInvited(ctx context.Context, all []schedule.Invited) error
	SetMeeting(ctx context.Context, r schedule.Record) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// StoreNext keeps the series that goes on from another one. Where its times are
// the same, what people answered holds, to all and to single dates.
func (s *Deeds) StoreNext(ctx context.Context, tx KeepTx, st Settled) (uuid.UUID, error) {
	id := uuid.New()
	st.Next.UID = id.String() + "@" + s.House.MailDomain
	record := schedule.Record{ID: id, OrganiserID: st.Organiser.ID, Version: 1, Content: *st.Next, Stamp: s.Now()}
	invited, answers, err := s.carried(ctx, tx, st, record)
	if err != nil {
		return id, err
	}
	record.Content = schedule.RollOf(record.Content, invited, answers).WithAnswers()
	if err := tx.AddMeeting(ctx, record); err != nil {
		return id, err
	}
	if err := tx.AddInvited(ctx, invited); err != nil {
		return id, err
	}
	if err := tx.CarryOwnReminders(ctx, st.Before.ID, id); err != nil {
		return id, err
	}
	if err := tx.SetAnswersOn(ctx, answers); err != nil {
		return id, err
	}
	if _, err := s.WriteTimes(ctx, tx, record, st.WasDates...); err != nil {
		return id, err
	}
	if err := s.Dispatch(ctx, tx, &st.Before.Content, record, st.DueNext, st.GoesOnWords); err != nil {
		return id, err
	}
	if err := followCard(ctx, tx, record); err != nil {
		return id, err
	}
	goesOn := meeting.Event{Kind: meeting.EventGoesOn, Who: st.Organiser.Name, Next: &st.Next.Start, Told: people(st.DueNext)}
	if err := s.Happened(ctx, tx, record, st.Organiser.ID, goesOn); err != nil {
		return id, err
	}
	return id, tx.Tell(ctx, schedule.Notice{People: append(Insiders(st.Next.Participants), record.OrganiserID), Topic: schedule.AboutMeeting, ID: id})
}

// carried are those invited to the series that goes on, with what they answered to the
// one before where that holds.
func (s *Deeds) carried(ctx context.Context, tx KeepTx, st Settled, next schedule.Record) (invited []schedule.Invited, answers []schedule.AnswerOn, err error) {
	was := map[string]schedule.Invited{}
	all, err := tx.AnswersOn(ctx, st.Before.ID)
	if err != nil {
		return nil, nil, err
	}
	if tail, ok := st.Before.Content.Plan().From(st.Next.Start.Day); ok && tail.Start == st.Next.Start && tail.End == st.Next.End && tail.Zone == st.Next.Plan().Zone {
		for _, i := range st.Invited {
			was[strings.ToLower(i.Email)] = i
		}
	}
	roll, now := schedule.RollOf(st.Before.Content, st.Invited, all), s.Now()
	for _, p := range st.Next.Participants {
		i, err := newInvited(next, p)
		if err != nil {
			return nil, nil, err
		}
		if before, ok := was[strings.ToLower(p.Email)]; ok {
			i.Answer, i.Comment, i.AnsweredAt, i.AnswerStamp = before.Answer, before.Comment, before.AnsweredAt, before.AnswerStamp
			answers = append(answers, st.carriedOn(roll, before, p, now)...)
		}
		invited = append(invited, i)
	}
	slices.SortFunc(answers, func(a, b schedule.AnswerOn) int { return int(a.On - b.On) })
	return invited, answers, nil
}

// carriedOn is what is kept in the series that goes on of somebody's answers to single dates: what
// they answered to one that stays when it was, and that they are asked again about one that moves.
func (st Settled) carriedOn(roll schedule.Roll, was schedule.Invited, p meeting.Participant, now time.Time) (out []schedule.AnswerOn) {
	id, err := uuid.Parse(p.ID)
	if err != nil {
		return nil
	}
	days := roll.Days(was.ID)
	for _, m := range st.Next.Series.Moved {
		days = append(days, m.On)
	}
	slices.Sort(days)
	for _, on := range slices.Compact(days) {
		date, is := st.Next.Date(on)
		before, had := st.Before.Content.Date(on)
		a := roll.On(was.ID, on)
		switch {
		case !is || !p.On(on):
			continue
		case had && before.Span != date.Span:
			a = was.MovedOn(on, now)
		case a.Answer == "":
			continue
		}
		a.ParticipantID, a.On, a.SentSequence, a.Sequence = id, on, 0, 0
		out = append(out, a)
	}
	return out
}

// Become settles that the meeting before becomes another: what changes by it and who is told
// what. Who is invited to it has been read.
func (st *Settled) Become(ctx context.Context, tx answersTx, after meeting.Meeting, now time.Time) error {
	before := st.Before.Content
	st.Change = meeting.Compare(before, after)
	after.Sequence = st.Change.Sequence(before.Sequence)
	st.Meeting = after
	var answers []schedule.AnswerOn
	if before.Repeats() {
		var err error
		if answers, err = tx.AnswersOn(ctx, st.Before.ID); err != nil {
			return err
		}
	}
	st.keepAnswers(answers, now)
	st.Meeting, st.Due = meeting.Announce(&before, schedule.RollOf(st.Meeting, st.Invited, st.Answers).WithAnswers())
	return nil
}

// keepAnswers settles what is kept of the answers once the change is made: nothing where all of it
// moves, and of dates that change by themselves what people are sent, and that those are asked
// again which move.
func (st *Settled) keepAnswers(answers []schedule.AnswerOn, now time.Time) {
	st.Invited = slices.Clone(st.Invited)
	if st.Change.AsksAgain() {
		for n := range st.Invited {
			i := &st.Invited[n]
			i.Answer, i.Comment, i.AnsweredAt, i.AnswerStamp, i.AnswerSequence = meeting.NoAnswer, "", nil, 0, 0
		}
		st.Answers = nil
		return
	}
	moved := meeting.AsksAgainOn(st.Before.Content, st.Meeting, st.Change)
	roll := schedule.RollOf(st.Meeting, st.Invited, answers)
	type date struct {
		participant uuid.UUID
		on          when.Day
	}
	at := make(map[date]int, len(answers))
	for n, a := range answers {
		at[date{a.ParticipantID, a.On}] = n
	}
	for _, i := range st.Invited {
		part, stays := roll.Part(i.ID)
		for _, day := range st.Change.Days {
			if !stays || !part.On(day) {
				continue
			}
			a := roll.On(i.ID, day)
			if slices.Contains(moved, day) {
				a = i.MovedOn(day, now)
			}
			a.SentSequence = st.Meeting.Sequence
			if n, had := at[date{a.ParticipantID, a.On}]; had {
				answers[n] = a
			} else {
				answers = append(answers, a)
			}
			st.changed = append(st.changed, a)
		}
	}
	st.Answers = answers
}

type answersTx interface {
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
}

func (s *Deeds) StoreMeeting(ctx context.Context, tx KeepTx, st Settled) (schedule.Record, error) {
	if st.Before == nil {
		id := uuid.New()
		st.Meeting.UID = id.String() + "@" + s.House.MailDomain
		record := schedule.Record{ID: id, OrganiserID: st.Organiser.ID, Version: 1, Content: st.Meeting, Stamp: s.Now()}
		return record, tx.AddMeeting(ctx, record)
	}
	record := *st.Before
	record.Version, record.Content, record.Stamp = record.Version+1, st.Meeting, s.stampAfter(*st.Before)
	return record, tx.SetMeeting(ctx, record)
}

// apart is how far the DTSTAMPs of two versions are from each other: between them
// lie those of the messages of the first.
const apart = 4 * time.Second

// stampAfter is the DTSTAMP of a version after another: later, however soon it
// follows.
func (s *Deeds) stampAfter(r schedule.Record) time.Time {
	if now := s.Now(); now.After(r.Stamp.Add(apart)) {
		return now
	}
	return r.Stamp.Add(apart)
}

// StoreInvited brings the people invited to what the meeting says. Those who are
// told something are marked with what they were told.
func (s *Deeds) StoreInvited(ctx context.Context, tx KeepTx, record schedule.Record, st Settled) error {
	whole := map[string]bool{} // told of all that they are invited to
	for _, m := range st.Due {
		if m.Kind != meeting.Clear && (len(m.On) == 0 || m.To.Single) {
			whole[m.To.ID] = true
		}
	}
	var added, kept []schedule.Invited
	for _, p := range record.Content.Participants {
		at := slices.IndexFunc(st.Invited, func(i schedule.Invited) bool { return i.ID.String() == p.ID })
		if at < 0 {
			i, err := newInvited(record, p)
			if err != nil {
				return err
			}
			added = append(added, i)
			continue
		}
		i := st.Invited[at]
		i.Name, i.Needed = p.Name, p.Needed
		if whole[p.ID] {
			i.SentSequence = record.Content.Sequence
		}
		kept = append(kept, i)
	}
	now := s.Now()
	for _, i := range st.Invited {
		if _, stays := record.Content.Participant(i.ID.String()); !stays {
			i.RemovedAt, i.SentSequence = &now, record.Content.Sequence
			if was, is := st.Before.Content.Participant(i.ID.String()); is && st.Before.Content.CalledOffFor(was, record.Content, st.Next) {
				i.OffVersion = record.Version
			}
			kept = append(kept, i)
		}
	}
	// Those who left first: somebody may come back under the same address.
	if err := tx.SetInvited(ctx, kept); err != nil {
		return err
	}
	if err := tx.AddInvited(ctx, added); err != nil {
		return err
	}
	if st.Before == nil {
		return nil
	}
	if st.Change.AsksAgain() {
		return tx.DropAnswersOn(ctx, record.ID)
	}
	return tx.SetAnswersOn(ctx, st.changed)
}

func newInvited(record schedule.Record, p meeting.Participant) (schedule.Invited, error) {
	id, err := uuid.Parse(p.ID)
	if err != nil {
		return schedule.Invited{}, err
	}
	i := schedule.Invited{ID: id, MeetingID: record.ID, Name: p.Name, Email: p.Email, Zone: p.Zone, Needed: p.Needed,
		Answer: meeting.NoAnswer, SentSequence: record.Content.Sequence}
	if p.PersonID != "" {
		personID, err := uuid.Parse(p.PersonID)
		if err != nil {
			return schedule.Invited{}, err
		}
		i.PersonID = &personID
	}
	return i, nil
}

// Settled is a sheet as it would be sent, with what it takes the place of.
type Settled struct {
	meeting.Outcome
	Before       *schedule.Record // nil for a new meeting
	Change       meeting.Change
	Due, DueNext []meeting.Message  // about the meeting, and about the series that goes on from it
	Invited      []schedule.Invited // those invited before
	// Answers are those to single dates as they are kept then; changed are those of them that the
	// change makes.
	Answers, changed []schedule.AnswerOn
	Organiser        schedule.Person
	House            []schedule.Room // the rooms that it names
	Rooms            []RoomDecision  // what its rooms say to dates that they do not have yet
	Asked            []uuid.UUID     // rooms whose keepers were asked
	// WasDates are the dates of the series that Next goes on from, as they were written.
	WasDates  []schedule.Occurrence
	Countries []string // whose holidays count
	// Cover is what its sender wrote before the messages, nil for nothing.
	Cover *meeting.Cover
	// By is who did it where that was not the organiser, nil where it was.
	By *schedule.Invited
}

// Was is the meeting that it takes the place of, nil for a new one.
func (st Settled) Was() *meeting.Meeting {
	if st.Before == nil {
		return nil
	}
	return &st.Before.Content
}

// DueNext is who hears of a series that goes on from another: those who were in
// that one of a change, the others are invited.
func DueNext(before, next meeting.Meeting) (meeting.Meeting, []meeting.Message) {
	next, due := meeting.Announce(nil, next)
	for i := range due {
		if _, was := before.Participant(due[i].To.ID); was {
			due[i].Kind = meeting.Update
		}
	}
	return next, due
}

// Organised locks a meeting that me organises and that is still on.
func Organised(ctx context.Context, tx KeepTx, who schedule.Actor, id uuid.UUID) (schedule.Record, error) {
	record, err := tx.LockMeeting(ctx, id)
	switch {
	case err != nil:
		return record, err
	case record.OrganiserID != who.For:
		return record, schedule.ErrNotFound
	case record.CalledOffAt != nil:
		return record, schedule.ErrCalledOff
	}
	return record, nil
}
