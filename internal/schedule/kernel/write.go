package kernel

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// writeTx is what is needed here of a transaction.
type writeTx interface {
	tellTx
	datesTx
	AddInvited(ctx context.Context, all []schedule.Invited) error
	AddMeeting(ctx context.Context, r schedule.Record) error
	CarryOwnReminders(ctx context.Context, was, next uuid.UUID) error
	DropAnswersOn(ctx context.Context, meetingID uuid.UUID) error
	SetAnswersOn(ctx context.Context, all []schedule.AnswerOn) error
	SetInvited(ctx context.Context, all []schedule.Invited) error
	SetMeeting(ctx context.Context, r schedule.Record) error
	SetOrganiser(ctx context.Context, meetingID, organiser uuid.UUID) error
}

// Write keeps a meeting as it is settled, with all that follows from it: everybody's time, its
// rooms, booked or asked for, the messages, its call and its history; and the series that goes on
// from it, which is next. It fails with a *TakenError that names every date on which a room is
// taken, and with an *InvalidError where the rules of a room forbid it.
func (k Kernel) Write(ctx context.Context, in In, st Settled) (record schedule.Record, next uuid.UUID, err error) {
	tx := in.Kernel().store
	if st.Next != nil {
		if st.wasDates, err = tx.Occurrences(ctx, st.Before.ID); err != nil {
			return record, next, err
		}
	}
	if record, err = k.storeMeeting(ctx, tx, st); err != nil {
		return record, next, err
	}
	if err := k.storeInvited(ctx, tx, record, st); err != nil {
		return record, next, err
	}
	switch {
	case st.Before == nil || st.Change.MovesTime() || st.Change.Organiser:
		st.asked, err = k.writeTimes(ctx, tx, record)
	case len(st.Change.Role) > 0:
		err = k.writeParts(ctx, tx, record, uuid.Nil)
	}
	if err != nil {
		return record, next, err
	}
	says := st.Says
	if says == nil {
		says = st.ChangeWords
	}
	if err := k.dispatch(ctx, tx, st.Was(), record, st.Due, says); err != nil {
		return record, next, err
	}
	if !st.CallStands {
		if err := k.tellProvider(ctx, tx, record, st); err != nil {
			return record, next, err
		}
	}
	if err := k.tellStory(ctx, tx, record, st); err != nil {
		return record, next, err
	}
	if st.Next != nil {
		if next, err = k.storeNext(ctx, tx, st); err != nil {
			return record, next, err
		}
	}
	return record, next, tx.Tell(ctx, record.Notice(st.Change.Removed...))
}

// storeNext keeps the series that goes on from another one. Where its times are
// the same, what people answered holds, to all and to single dates.
func (k Kernel) storeNext(ctx context.Context, tx writeTx, st Settled) (uuid.UUID, error) {
	id := uuid.New()
	st.Next.UID = id.String() + "@" + k.House.MailDomain
	record := schedule.Record{ID: id, OrganiserID: st.Organiser.ID, Version: 1, Content: *st.Next, Stamp: k.Now()}
	invited, answers, err := k.carried(ctx, tx, st, record)
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
	if _, err := k.writeTimes(ctx, tx, record, st.wasDates...); err != nil {
		return id, err
	}
	if err := k.dispatch(ctx, tx, &st.Before.Content, record, st.DueNext, st.GoesOnWords); err != nil {
		return id, err
	}
	if err := followCard(ctx, tx, record); err != nil {
		return id, err
	}
	goesOn := meeting.Event{Kind: meeting.EventGoesOn, Who: st.Organiser.Name, Next: &st.Next.Start, Told: Told(st.DueNext)}
	if err := k.Happened(ctx, tx, record, st.Organiser.ID, goesOn); err != nil {
		return id, err
	}
	return id, tx.Tell(ctx, record.Notice())
}

// carried are those invited to the series that goes on, with what they answered to the
// one before where that holds.
func (k Kernel) carried(ctx context.Context, tx writeTx, st Settled, next schedule.Record) (invited []schedule.Invited, answers []schedule.AnswerOn, err error) {
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
	roll, now := schedule.RollOf(st.Before.Content, st.Invited, all), k.Now()
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

// storeMeeting keeps a version of a meeting, under who organises it from then on.
func (k Kernel) storeMeeting(ctx context.Context, tx writeTx, st Settled) (schedule.Record, error) {
	if st.Before == nil {
		id := uuid.New()
		st.Meeting.UID = id.String() + "@" + k.House.MailDomain
		record := schedule.Record{ID: id, OrganiserID: st.Organiser.ID, Version: 1, Content: st.Meeting, Stamp: k.Now()}
		return record, tx.AddMeeting(ctx, record)
	}
	record := *st.Before
	record.Version, record.Content, record.Stamp = record.Version+1, st.Meeting, k.stampAfter(*st.Before)
	if err := tx.SetMeeting(ctx, record); err != nil || !st.Change.Organiser {
		return record, err
	}
	record.OrganiserID = st.Organiser.ID
	return record, tx.SetOrganiser(ctx, record.ID, record.OrganiserID)
}

// apart is how far the DTSTAMPs of two versions are from each other: between them
// lie those of the messages of the first.
const apart = 4 * time.Second

// stampAfter is the DTSTAMP of a version after another: later, however soon it
// follows.
func (k Kernel) stampAfter(r schedule.Record) time.Time {
	if now := k.Now(); now.After(r.Stamp.Add(apart)) {
		return now
	}
	return r.Stamp.Add(apart)
}

// storeInvited brings the people invited to what the meeting says. Those who are
// told something are marked with what they were told.
func (k Kernel) storeInvited(ctx context.Context, tx writeTx, record schedule.Record, st Settled) error {
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
	now := k.Now()
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
