package calendars

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// Doing is what is done about a meeting in somebody's leave.
type Doing string

const (
	HandOver Doing = "handOver" // a colleague organises it from now on
	Decline  Doing = "decline"  // its dates in the leave
	CallOff  Doing = "callOff"  // its dates in the leave
)

// Away is what to do about one meeting. To is who it is handed over to.
type Away struct {
	MeetingID uuid.UUID
	Do        Doing
	To        uuid.UUID
}

// SettleLeave does something about meetings that lie in somebody's leave: what they
// organise is handed over or called off, what they are invited to is declined; of that
// every organiser hears once, with a word if there is one. Each is done by itself: what
// cannot be done is an *InvalidError at "items.n" and leaves those before it done, and
// doing all again does the rest.
func (s *Deeds) SettleLeave(ctx context.Context, who schedule.Actor, leave uuid.UUID, all []Away, word string) error {
	a, in, err := s.MeetingsInLeave(ctx, who, leave)
	if err != nil {
		return err
	}
	found := map[uuid.UUID]InLeave{}
	for _, m := range in {
		found[m.MeetingID] = m
	}
	var declined []meetings.Away
	for i, x := range all {
		m, known := found[x.MeetingID]
		field := fmt.Sprintf("items.%d", i)
		switch {
		case !known: // it is settled already
			continue
		case x.Do == Decline && m.Mine:
			return schedule.Invalid(field, say.It("leave.organise", say.Title(m.Title)))
		case x.Do != Decline && !m.Mine:
			return schedule.Invalid(field, say.It("leave.invited", say.Person(m.Organiser), say.Title(m.Title)))
		case x.Do != Decline && x.Do != HandOver && x.Do != CallOff:
			return schedule.Invalid(field, say.It("leave.unclear"))
		case x.Do == HandOver && x.To == uuid.Nil:
			return schedule.Invalid(field, say.It("leave.noHeir", say.Title(m.Title)))
		case x.Do == Decline:
			declined = append(declined, meetings.Away{MeetingID: m.MeetingID, Days: m.days()})
		}
	}
	for i, x := range all {
		m, known := found[x.MeetingID]
		if !known || x.Do == Decline {
			continue
		}
		if err := s.settle(ctx, who, m, x, word); err != nil {
			return at(fmt.Sprintf("items.%d", i), m.Title, err)
		}
	}
	if len(declined) == 0 {
		return nil
	}
	return s.Meetings.DeclineAll(ctx, who, a.First, a.Last, declined, word)
}

// at is an error of one meeting, at its field.
func at(field, title string, err error) error {
	var invalid *schedule.InvalidError
	var version *schedule.VersionError
	switch {
	case errors.As(err, &invalid):
		return &schedule.InvalidError{Faults: []meeting.Fault{{Field: field, What: say.It("leave.ofMeeting", say.Title(title), invalid.Faults[0].What)}}}
	case errors.As(err, &version):
		return schedule.Invalid(field, say.It("leave.meetingChanged", say.Title(title)))
	}
	return err
}

func (x InLeave) days() (out []when.Day) {
	for _, d := range x.Dates {
		out = append(out, d.On)
	}
	return out
}

func (s *Deeds) settle(ctx context.Context, who schedule.Actor, m InLeave, x Away, word string) error {
	if x.Do == HandOver {
		return s.Meetings.HandOver(ctx, who, m.MeetingID, x.To, m.days())
	}
	if m.Whole {
		return ignoreOff(s.Meetings.CallOff(ctx, who, m.MeetingID, m.Version, nil, word))
	}
	version := m.Version
	for _, r := range m.runs() {
		if err := ignoreOff(s.Meetings.CallOff(ctx, who, m.MeetingID, version, &r, word)); err != nil {
			return err
		}
		version++
	}
	return nil
}

func ignoreOff(err error) error {
	if errors.Is(err, schedule.ErrCalledOff) {
		return nil
	}
	return err
}

// runs are the dates in the leave as ranges without any other date of the series.
func (x InLeave) runs() (out []series.Range) {
	in := map[when.Day]bool{}
	for _, d := range x.Dates {
		in[d.On] = true
	}
	open := false
	last := x.Dates[len(x.Dates)-1].On
	for d := range x.Dates[0].Content.Dates(x.Dates[0].On) {
		switch {
		case d.On > last:
			return out
		case !in[d.On]:
			open = false
		case open:
			out[len(out)-1].To = d.On
		default:
			out, open = append(out, series.Range{From: d.On, To: d.On}), true
		}
	}
	return out
}
