package meetings

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// proposeTx is what is needed here of a transaction.
type proposeTx interface {
	InvitedTx
	kernel.In
	proposalTx
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	LockProposal(ctx context.Context, id uuid.UUID) (schedule.Proposal, error)
	SetProposal(ctx context.Context, id uuid.UUID, state schedule.ProposalState, at time.Time) error
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) proposeStore() schedule.Store[proposeTx] {
	return schedule.Narrow(s.Store, func(tx Tx) proposeTx { return tx })
}

// Proposing is another time as a page sends it, a day and times as they are typed, for a date of
// a series or with 0 for the meeting, at the state of the meeting that the page showed. To is a
// time or a length; one before From is on the day after.
type Proposing struct {
	On            when.Day
	Day, From, To string
	Zone          string // IANA name
	Comment       string
	Seen          int
}

// span reads the times.
func (p Proposing) span(ctx context.Context, now time.Time) (s when.Span, err error) {
	zone, err := when.LoadZone(p.Zone)
	if err != nil {
		return s, schedule.Invalid("zone", say.It("zone.chooseOne"))
	}
	reader := typed.Reader{Words: words.Typed, Today: zone.LocalAt(when.At(now)).Day, Order: schedule.DayOrder(ctx)}
	day, fault := reader.Day(p.Day)
	if fault != nil || !day.HasDay {
		return s, schedule.Invalid("day", say.It("propose.day"))
	}
	from, fault := reader.Start(p.From)
	if fault != nil || !from.HasStart || from.HasDay {
		return s, schedule.Invalid("from", say.It("propose.from"))
	}
	start := when.Local{Day: day.Day, Clock: from.Start}
	to, fault := reader.End(p.To, start.Clock)
	end := when.Local{Day: day.Day, Clock: to.End}
	switch {
	case fault != nil || to.HasDay || !to.HasLength && !to.HasEnd:
		return s, schedule.Invalid("to", say.It("propose.to"))
	case to.HasLength:
		end = start.Add(to.Length)
	case to.End == 24*60:
		end = when.Local{Day: day.Day + 1}
	case to.End <= start.Clock:
		end.Day++
	}
	return when.Span{Start: when.Zoned{Local: start, Zone: zone}.Instant(), End: when.Zoned{Local: end, Zone: zone}.Instant()}, nil
}

// Propose takes another time that a colleague proposes.
func (s *Deeds) Propose(ctx context.Context, who schedule.Actor, meetingID uuid.UUID, p Proposing) error {
	d, err := s.Meeting(ctx, who, meetingID)
	if err != nil {
		return err
	}
	if d.Me == nil {
		return schedule.Invalid("from", say.It("propose.organiser"))
	}
	return s.proposeSeen(ctx, d.Me.ID, p, schedule.ViaInside)
}

// GuestPropose takes another time that a guest proposes, and gives them.
func (s *Deeds) GuestPropose(ctx context.Context, token string, p Proposing) (schedule.Invited, error) {
	i, err := s.GuestOf(ctx, token)
	if err != nil {
		return i, err
	}
	return i, s.proposeSeen(ctx, i.ID, p, schedule.ViaPage)
}

func (s *Deeds) proposeSeen(ctx context.Context, invited uuid.UUID, p Proposing, via schedule.Via) error {
	span, err := p.span(ctx, s.Now())
	if err != nil {
		return err
	}
	proposal := meeting.Proposal{On: p.On, Span: span, Comment: meeting.Plain(p.Comment), Sequence: p.Seen, Stamp: s.Now().Unix()}
	return s.proposeStore().InTx(ctx, func(tx proposeTx) error {
		record, i, err := LockInvited(ctx, tx, invited)
		if err != nil {
			return err
		}
		answers, err := tx.AnswersOn(ctx, record.ID)
		if err != nil {
			return err
		}
		part, _ := schedule.RollOf(record.Content, []schedule.Invited{i}, answers).Part(i.ID)
		shown := part.Kept().Shown()
		if p.On != 0 {
			shown = part.Kept().Standing(p.On)
		}
		if p.Seen < shown.SentSequence {
			return &schedule.VersionError{What: say.It("propose.changed")}
		}
		if p.On != 0 && record.Content.Repeats() && !part.On(p.On) {
			return schedule.ErrNotFound
		}
		if fault := record.Content.ProposalFault(proposal, when.At(s.Now())); fault != nil {
			return schedule.Invalid(fault.Field, fault.What)
		}
		if err := s.propose(ctx, tx, record, i, proposal, via); err != nil {
			return err
		}
		return tx.Tell(ctx, record.Notice())
	})
}

// proposalTx is what is needed of a transaction to keep another time.
type proposalTx interface {
	schedule.HappenTx
	AddProposal(ctx context.Context, p schedule.Proposal) error
	ProposalsOf(ctx context.Context, participant uuid.UUID) ([]schedule.Proposal, error)
	ReplaceProposals(ctx context.Context, participant uuid.UUID, on when.Day, at time.Time) error
}

// mostProposals is how many times one person can propose for a meeting.
const mostProposals = 20

// propose keeps another time of somebody invited; meeting and participant are locked, and the
// time was looked at. One that is older than what they were sent changes nothing (DESIGN.md,
// rule 7), nor does the same twice.
func (s *Deeds) propose(ctx context.Context, tx proposalTx, record schedule.Record, i schedule.Invited, p meeting.Proposal, via schedule.Via) error {
	earlier, err := tx.ProposalsOf(ctx, i.ID)
	if err != nil {
		return err
	}
	e := meeting.Event{Kind: meeting.EventProposed, Name: i.Name, On: p.On, Via: string(via), Comment: p.Comment}
	actor := uuid.Nil
	if i.PersonID != nil {
		actor = *i.PersonID
	}
	if p.Sequence < i.SentSequence {
		e.Verdict = meeting.Older
		return s.Happened(ctx, tx, record, actor, e)
	}
	for _, x := range earlier {
		switch {
		case x.On == p.On && x.State == schedule.ProposalOpen && x.Span == p.Span && x.Comment == p.Comment:
			return nil
		case x.On == p.On && x.Stamp > p.Stamp:
			e.Verdict = meeting.Older
			return s.Happened(ctx, tx, record, actor, e)
		}
	}
	if len(earlier) >= mostProposals {
		if via == schedule.ViaMail {
			return nil
		}
		return schedule.Invalid("from", say.It("propose.many"))
	}
	was, _ := record.Content.At(p.On)
	if err := tx.ReplaceProposals(ctx, i.ID, p.On, s.Now()); err != nil {
		return err
	}
	if err := tx.AddProposal(ctx, schedule.Proposal{ID: uuid.New(), MeetingID: record.ID, ParticipantID: i.ID, Proposal: p, Was: was, Via: via, ArrivedAt: s.Now()}); err != nil {
		return err
	}
	return s.Happened(ctx, tx, record, actor, e)
}

// proposalOf is what an answer by mail proposes.
func proposalOf(a schedule.AnswerIn) meeting.Proposal {
	p := meeting.Proposal{Comment: a.Comment, Sequence: a.Sequence, Stamp: a.Stamp}
	if a.Proposed != nil {
		p.Span = *a.Proposed
	}
	if len(a.Days) > 0 {
		p.On = a.Days[0]
	}
	return p
}

// proposable tells whether an answer by mail proposes a time that can be.
func proposable(record schedule.Record, a schedule.AnswerIn, now time.Time) bool {
	return a.Proposed != nil && record.Content.ProposalFault(proposalOf(a), when.At(now)) == nil
}

// KeepTime has the organiser keep the time of a meeting that somebody proposed to change; who
// proposed it is told, with a word (DECLINECOUNTER: RFC 5546, 3.2.8). It fails with ErrNotFound
// for a proposal that is decided already.
func (s *Deeds) KeepTime(ctx context.Context, who schedule.Actor, meetingID, proposal uuid.UUID, word string) error {
	word = meeting.Plain(word)
	if len([]rune(word)) > meeting.CommentLimit {
		return schedule.Invalid("word", say.It("word.long", meeting.CommentLimit))
	}
	return s.proposeStore().InTx(ctx, func(tx proposeTx) error {
		record, err := kernel.Organised(ctx, tx, who, meetingID)
		if err != nil {
			return err
		}
		i, p, err := lockProposal(ctx, tx, record, proposal)
		if err != nil {
			return err
		}
		if err := tx.SetProposal(ctx, p.ID, schedule.ProposalKept, s.Now()); err != nil {
			return err
		}
		to, is := record.Content.Participant(i.ID.String())
		if is && i.PersonID == nil {
			var on []when.Day
			if p.On != 0 && record.Content.Repeats() {
				on = []when.Day{p.On}
			}
			if err := s.Kernel.TellOne(ctx, tx, record, i, meeting.Message{To: to, Kind: meeting.Keep, On: on}, word); err != nil {
				return err
			}
		}
		e := meeting.Event{Kind: meeting.EventKept, Who: record.Content.Organiser.Name, Name: i.Name, On: p.On, Comment: word}
		if err := s.Happened(ctx, tx, record, record.OrganiserID, e); err != nil {
			return err
		}
		told := []uuid.UUID{record.OrganiserID}
		if i.PersonID != nil {
			told = append(told, *i.PersonID)
			news := schedule.News{ID: schedule.NewsID(), PersonID: *i.PersonID, MeetingID: record.ID, Kind: schedule.NewsEvent, News: meeting.NewsOfEvent(record.Content.SeenBy(to.ID), e), At: s.Now()}
			if err := tx.AddNews(ctx, []schedule.News{news}); err != nil {
				return err
			}
		}
		return tx.Tell(ctx, schedule.Notice{People: told, Topic: schedule.AboutMeeting, ID: record.ID})
	})
}

// lockProposal is a proposal for a meeting that is locked, with who made it.
func lockProposal(ctx context.Context, tx proposeTx, record schedule.Record, id uuid.UUID) (i schedule.Invited, p schedule.Proposal, err error) {
	if p, err = tx.LockProposal(ctx, id); err != nil {
		return i, p, err
	}
	if p.MeetingID != record.ID || p.State != schedule.ProposalOpen {
		return i, p, schedule.ErrNotFound
	}
	i, err = tx.Invited(ctx, p.ParticipantID)
	return i, p, err
}

// proposed is the newest other time that somebody proposed, nil for none.
func proposed(ctx context.Context, tx interface {
	ProposalsOf(ctx context.Context, participant uuid.UUID) ([]schedule.Proposal, error)
}, participant uuid.UUID) (*schedule.Proposal, error) {
	all, err := tx.ProposalsOf(ctx, participant)
	for i := range all {
		if all[i].State != schedule.ProposalReplaced {
			return &all[i], err
		}
	}
	return nil, err
}
