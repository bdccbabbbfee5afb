package meeting

import (
	"slices"
	"strings"

	"jembro/internal/core/say"
)

// BringLimit is how many people one of those invited can bring along.
const BringLimit = 5

// BringFault says why one of those invited cannot bring somebody along, nil where they can. Where
// those invited are kept apart it does not tell who is invited already.
func (m Meeting) BringFault(by, email string) *Fault {
	me, _ := m.Participant(by)
	fault := func(what say.What) *Fault { return &Fault{Field: "email", What: what} }
	brought := 0
	for _, p := range m.Participants {
		switch {
		case strings.EqualFold(p.Email, email) && (!m.Apart || p.ID == by || p.comesBy(me)):
			return fault(say.It("meeting.people.already", say.Address(email)))
		case p.BroughtBy != "" && strings.EqualFold(p.BroughtBy, me.Email):
			brought++
		}
	}
	switch {
	case !m.Bring:
		return fault(say.It("meeting.bring.not", say.Person(m.Organiser.Name)))
	case strings.EqualFold(m.Organiser.Email, email):
		return fault(say.It("meeting.bring.organiser", say.Person(m.Organiser.Name)))
	case brought >= BringLimit:
		return fault(say.It("meeting.bring.many", BringLimit, say.Person(m.Organiser.Name)))
	case len(m.Participants) >= PeopleLimit:
		return fault(say.It("meeting.bring.full", say.Person(m.Organiser.Name)))
	}
	return nil
}

// Invites tells whether somebody is invited at an address.
func (m Meeting) Invites(email string) bool {
	return slices.ContainsFunc(m.Participants, func(p Participant) bool { return strings.EqualFold(p.Email, email) })
}

// BringerOf is what who brought somebody along is called, "" for nobody.
func (m Meeting) BringerOf(p Participant) string {
	for _, x := range m.Participants {
		if p.BroughtBy != "" && strings.EqualFold(x.Email, p.BroughtBy) {
			return x.Name
		}
	}
	return p.BroughtBy
}
