package kernel

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

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
	asked            []uuid.UUID     // rooms whose keepers were asked
	// wasDates are the dates of the series that Next goes on from, as they were written.
	wasDates  []schedule.Occurrence
	Countries []string // whose holidays count
	// Cover is what its sender wrote before the messages, nil for nothing.
	Cover *meeting.Cover
	// Says is what a message says besides, nil for what the change is.
	Says func(meeting.Message) schedule.Said
	// Story is the line of its history, nil for what the change is.
	Story *Line
	// CallStands tells that the provider knows the call as the meeting has it.
	CallStands bool
	// By is who did it where that was not the organiser, nil where it was.
	By *schedule.Invited
}

// Line is a line of history, and who did it: uuid.Nil for what nobody here did.
type Line struct {
	meeting.Event
	Actor uuid.UUID
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

// Become settles that the meeting before becomes another: what changes by it and who is told
// what. Who is invited to it has been read.
func (st *Settled) Become(ctx context.Context, in In, after meeting.Meeting, now time.Time) error {
	before := st.Before.Content
	st.Change = meeting.Compare(before, after)
	after.Sequence = st.Change.Sequence(before.Sequence)
	st.Meeting = after
	var answers []schedule.AnswerOn
	if before.Repeats() {
		var err error
		if answers, err = in.Kernel().store.AnswersOn(ctx, st.Before.ID); err != nil {
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
