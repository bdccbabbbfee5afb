package meeting

import (
	"slices"
	"strings"
)

// HandedTo is the meeting as somebody else organises it: they are no participant any more,
// and who organised it is one, optional, under the ID given, which stays has.
func (m Meeting) HandedTo(next Party, id string) (after Meeting, stays Participant) {
	stays = Participant{ID: id, Party: m.Organiser}
	after = m
	after.Participants = slices.DeleteFunc(slices.Clone(m.Participants), func(p Participant) bool { return strings.EqualFold(p.Email, next.Email) })
	after.Participants = append(after.Participants, stays)
	after.Organiser = next
	return after, stays
}
