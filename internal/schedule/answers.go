package schedule

import (
	"maps"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Standing is what is kept of somebody's answer to all dates.
func (i Invited) Standing() meeting.Standing {
	return meeting.Standing{SentSequence: i.SentSequence, Sequence: i.AnswerSequence, Stamp: i.AnswerStamp, Answer: i.Answer}
}

// MovedOn is what is kept of somebody's answer to a date that moves at a moment: none, and what
// they answered to all until then was no answer to it.
func (i Invited) MovedOn(on when.Day, at time.Time) AnswerOn {
	return AnswerOn{ParticipantID: i.ID, On: on, Answer: meeting.NoAnswer, Moved: max(at.Unix(), i.AnswerStamp)}
}

// Standing is what is kept of somebody's answer to one date.
func (a AnswerOn) Standing() meeting.Standing {
	return meeting.Standing{SentSequence: a.SentSequence, Sequence: a.Sequence, Stamp: a.Stamp, Answer: a.Answer, Moved: a.Moved}
}

// Roll is who is invited to a meeting, with what is kept of their answers.
type Roll struct {
	meeting meeting.Meeting
	parts   map[uuid.UUID]meeting.Part
	on      map[uuid.UUID]map[when.Day]AnswerOn
}

// RollOf is the roll of a meeting: of those invited who are in it, with their answers to single
// dates.
func RollOf(m meeting.Meeting, invited []Invited, answers []AnswerOn) Roll {
	r := Roll{meeting: m, parts: map[uuid.UUID]meeting.Part{}, on: map[uuid.UUID]map[when.Day]AnswerOn{}}
	for _, a := range answers {
		if r.on[a.ParticipantID] == nil {
			r.on[a.ParticipantID] = map[when.Day]AnswerOn{}
		}
		r.on[a.ParticipantID][a.On] = a
	}
	byID := map[string]meeting.Participant{}
	for _, p := range m.Participants {
		byID[p.ID] = p
	}
	for _, i := range invited {
		if p, is := byID[i.ID.String()]; is && i.RemovedAt == nil {
			kept := meeting.Answers{All: i.Standing(), On: map[when.Day]meeting.Standing{}}
			for on, a := range r.on[i.ID] {
				kept.On[on] = a.Standing()
			}
			r.parts[i.ID] = m.PartOf(p, kept)
		}
	}
	return r
}

// Part is the part of somebody invited; ok is false for who is not.
func (r Roll) Part(id uuid.UUID) (meeting.Part, bool) {
	p, ok := r.parts[id]
	return p, ok
}

// At is somebody's participation in one date.
func (r Roll) At(id uuid.UUID, on when.Day) meeting.Participation {
	p, ok := r.parts[id]
	if !ok {
		return meeting.Participation{On: on, Answer: meeting.NoAnswer}
	}
	return p.At(on)
}

// On is what is kept of somebody's answer to one date, with its comment.
func (r Roll) On(id uuid.UUID, on when.Day) AnswerOn {
	a := r.on[id][on]
	a.ParticipantID, a.On = id, on
	return a
}

// Days are those of the dates of which something is kept of somebody's answers, in their order.
func (r Roll) Days(id uuid.UUID) []when.Day { return slices.Sorted(maps.Keys(r.on[id])) }

// In is the roll with the meeting as it is to be shown.
func (r Roll) In(m meeting.Meeting) Roll {
	r.meeting = m
	return r
}

// Only is the roll of one of those invited.
func (r Roll) Only(id uuid.UUID) Roll {
	part, is := r.parts[id]
	if r.parts = map[uuid.UUID]meeting.Part{}; is {
		r.parts[id] = part
	}
	return r
}

// WithAnswers is the meeting with what those on the roll are known to answer, as letters say it; of
// the others what it says already stays.
func (r Roll) WithAnswers() meeting.Meeting {
	m := r.meeting
	m.Participants = slices.Clone(m.Participants)
	for at := range m.Participants {
		p := &m.Participants[at]
		id, err := uuid.Parse(p.ID)
		if part, is := r.parts[id]; err == nil && is {
			p.Answer, p.Answers = part.Kept().ToAll(), nil
			if m.Repeats() {
				p.Answers = part.Kept().Single()
			}
		}
	}
	return m
}
