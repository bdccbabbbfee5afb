package schedule

import (
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
)

// WithAnswers is a meeting with what those given are known to answer; of the others
// what it says already stays.
func WithAnswers(m meeting.Meeting, invited []Invited, answers []AnswerOn) meeting.Meeting {
	known := map[uuid.UUID]meeting.Answer{}
	for _, i := range invited {
		known[i.ID] = i.Answer
	}
	m.Participants = slices.Clone(m.Participants)
	for at := range m.Participants {
		p := &m.Participants[at]
		id, err := uuid.Parse(p.ID)
		if answer, is := known[id]; err == nil && is {
			p.Answer, p.Answers = answer, nil
			for _, a := range answers {
				if a.ParticipantID == id && a.Answer != "" && a.Answer != answer {
					p.Answers = append(p.Answers, meeting.DateAnswer{On: a.On, Answer: a.Answer})
				}
			}
		}
	}
	return m
}
