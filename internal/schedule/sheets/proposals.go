package sheets

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/meetings"
)

// proposalsTx is what is needed here of a transaction.
type proposalsTx interface {
	atOnceTx
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LettersIn(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.LetterIn, error)
	LockProposal(ctx context.Context, id uuid.UUID) (schedule.Proposal, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	Proposals(ctx context.Context, meetings []uuid.UUID) ([]schedule.Proposal, error)
	SetProposal(ctx context.Context, id uuid.UUID, state schedule.ProposalState, at time.Time) error
}

func (s *Deeds) proposalsStore() schedule.Store[proposalsTx] {
	return schedule.Narrow(s.Store, func(tx Tx) proposalsTx { return tx })
}

// Proposal is another time that somebody proposes, with how it stands for the others.
type Proposal struct {
	schedule.Proposal
	Of   meeting.Meeting
	By   schedule.Invited
	Zone when.Zone              // of the organiser
	Day  availability.DayAnswer // of the people and rooms then
	// Room is the one of the meeting, nil where it has none, and RoomClear tells that it can be
	// had then as well; Rooms are others that can be had, the best first.
	Room      *meeting.Room
	RoomClear bool
	Rooms     []schedule.Room
}

// How many proposals of a meeting are looked at, and how many rooms are offered with each.
const mostProposals, roomsWithProposal = 12, 3

// Proposals are the other times proposed for a meeting that are to be decided, with who can and
// which rooms are clear then; for its organiser.
func (s *Deeds) Proposals(ctx context.Context, who schedule.Actor, id uuid.UUID) (out []Proposal, err error) {
	var record schedule.Record
	err = s.proposalsStore().Look(ctx, func(tx proposalsTx) error {
		if record, err = organised(ctx, tx, who, id); err != nil {
			return err
		}
		me, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		all, err := tx.Proposals(ctx, []uuid.UUID{id})
		if err != nil {
			return err
		}
		for _, p := range all {
			if !record.Content.Stands(p.Proposal, p.Was, when.At(s.Now())) || len(out) == mostProposals {
				continue
			}
			x := Proposal{Proposal: p, Of: record.Content, Zone: me.Hours.Zone}
			if x.By, err = tx.Invited(ctx, p.ParticipantID); err != nil {
				return err
			}
			if x.By.RemovedAt == nil {
				out = append(out, x)
			}
		}
		return nil
	})
	for i := range out {
		if err == nil {
			err = s.standing(ctx, who, record, &out[i])
		}
	}
	return out, err
}

// organised is a meeting that somebody organises, to look at; it fails with ErrNotFound.
func organised(ctx context.Context, tx proposalsTx, who schedule.Actor, id uuid.UUID) (schedule.Record, error) {
	record, err := tx.Meeting(ctx, id)
	if err == nil && (record.OrganiserID != who.For || record.CalledOffAt != nil) {
		err = schedule.ErrNotFound
	}
	return record, err
}

// standing finds out who can and which rooms are clear at a proposed time.
func (s *Deeds) standing(ctx context.Context, who schedule.Actor, record schedule.Record, p *Proposal) (err error) {
	m := record.Content
	p.Room = m.Room
	if d, is := m.Date(p.On); is && p.On != 0 {
		p.Room = d.Room
	}
	q := availability.DayQuestion{Day: p.Zone.LocalAt(p.Span.Start).Day, Zone: p.Zone, Chosen: p.Span, WantRoom: p.Room != nil, But: record.ID}
	for _, x := range m.Participants {
		if p.On == 0 || x.On(p.On) {
			q.People = append(q.People, meeting.DraftPerson{PersonID: x.PersonID, Name: x.Name, Email: x.Email, Needed: x.Needed})
		}
	}
	if p.Room != nil {
		if q.RoomID, err = uuid.Parse(p.Room.ID); err != nil {
			return err
		}
	}
	if p.Day, err = s.Availability.Day(ctx, who, q); err != nil || p.Room == nil {
		return err
	}
	for _, r := range p.Day.Rooms {
		switch can := r.Clear && r.Says.Verdict == rooms.Booked; {
		case r.ID == q.RoomID:
			p.RoomClear = can
		case can && r.Suits && len(p.Rooms) < roomsWithProposal:
			p.Rooms = append(p.Rooms, r.Room)
		}
	}
	return nil
}

// Clear tells whether nobody needed is known to be busy then, and the room can be had.
func (p Proposal) Clear() bool {
	busy := slices.ContainsFunc(p.Day.Troubles, func(t core.Trouble) bool { return t.Needed && t.Busy })
	return !busy && (p.Room == nil || p.RoomClear)
}

// TakeProposal moves a meeting to a time that somebody proposed, and tells everybody; room is
// another one for it, uuid.Nil for the one it has. It fails as Send does, and with ErrNotFound
// for a proposal that is not to be decided any more.
func (s *Deeds) TakeProposal(ctx context.Context, who schedule.Actor, id, proposal, room uuid.UUID) error {
	return s.take(ctx, who, id, proposal, room, nil)
}

// take is the same for who moves it, nil for the organiser.
func (s *Deeds) take(ctx context.Context, who schedule.Actor, id, proposal, room uuid.UUID, by *schedule.Invited) error {
	return s.proposalsStore().InTx(ctx, func(tx proposalsTx) error {
		if by == nil {
			if err := notBegun(ctx, tx, who, id); err != nil {
				return err
			}
		}
		record, err := kernel.Organised(ctx, tx, who, id)
		if err != nil {
			return err
		}
		p, err := tx.LockProposal(ctx, proposal)
		m := record.Content
		if err == nil && (p.MeetingID != id || p.State != schedule.ProposalOpen || !m.Stands(p.Proposal, p.Was, when.At(s.Now()))) {
			err = schedule.ErrNotFound
		}
		if err != nil {
			return err
		}
		o := Opening{At: p.On, One: p.On != 0 && m.Repeats()}
		err = s.changeNow(ctx, tx, record, o, by, func(d *meeting.Draft) error { return moveTo(d, m, p, room) })
		if err != nil {
			return err
		}
		return tx.SetProposal(ctx, p.ID, schedule.ProposalTaken, s.Now())
	})
}

// moveTo puts a sheet of a meeting at a time that was proposed.
func moveTo(d *meeting.Draft, m meeting.Meeting, p schedule.Proposal, room uuid.UUID) error {
	start, end := m.Moved(p.Proposal)
	if p.On == 0 && m.Repeats() { // all dates move by as much
		first, err := when.ParseLocal(d.Start)
		if err != nil {
			return err
		}
		by := first.Sub(m.Start)
		start, end = start.Add(by), end.Add(by)
	}
	d.Start, d.End, d.LongMeant = start.String(), end.String(), int(p.Span.Length().Minutes())
	if room != uuid.Nil {
		d.RoomID, d.NoRoom = room.String(), false
	}
	return nil
}

// InviteDelegate invites whom somebody sends instead, in their place. It fails with ErrNotFound
// where there is nobody of that kind to decide about.
func (s *Deeds) InviteDelegate(ctx context.Context, who schedule.Actor, id, letterID uuid.UUID) error {
	var from schedule.Invited
	var sent schedule.AnswerIn
	var record schedule.Record
	err := s.proposalsStore().Look(ctx, func(tx proposalsTx) error {
		var err error
		if record, err = organised(ctx, tx, who, id); err != nil {
			return err
		}
		all, err := tx.LettersIn(ctx, id, 500)
		if err != nil {
			return err
		}
		for _, l := range all {
			for _, a := range l.Answers {
				if l.ID == letterID && l.State == schedule.LetterOpen && a.Verdict == meeting.Delegates {
					sent = a
				}
			}
		}
		if sent.Delegate == "" {
			return schedule.ErrNotFound
		}
		from, err = tx.Invited(ctx, sent.Participant)
		return err
	})
	if err != nil {
		return err
	}
	if !record.Content.Invites(sent.Delegate) {
		o := Opening{}
		if len(sent.Days) > 0 && record.Content.Repeats() {
			o = Opening{At: sent.Days[0], One: !sent.Date.Onward}
		}
		err = s.ChangeAtOnce(ctx, who, id, o, func(d *meeting.Draft) error {
			d.People = append(d.People, meeting.DraftPerson{Email: sent.Delegate, Needed: from.Needed, DelegatedFrom: from.Email})
			return nil
		})
		if err != nil {
			return err
		}
	}
	return s.Meetings.Decide(ctx, who, id, letterID, meetings.Decision{As: from.ID})
}
