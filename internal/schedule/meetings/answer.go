package meetings

import (
	"context"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// answerTx is what is needed here of a transaction.
type answerTx interface {
	InvitedTx
	takeTx
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) answerStore() schedule.Store[answerTx] {
	return schedule.Narrow(s.Store, func(tx Tx) answerTx { return tx })
}

// Given is an answer as a page sends it: to all dates, or to one of a series, at
// the state of the meeting that the page showed.
type Given struct {
	Answer  meeting.Answer
	Comment string
	On      when.Day // 0: all dates
	Seen    int
}

// Answer takes the answer of a colleague.
func (s *Deeds) Answer(ctx context.Context, who schedule.Actor, meetingID uuid.UUID, g Given) error {
	d, err := s.Meeting(ctx, who, meetingID)
	if err != nil {
		return err
	}
	if d.Me == nil {
		return schedule.Invalid("answer", say.It("answer.organiser"))
	}
	return s.answerSeen(ctx, d.Me.ID, g, schedule.ViaInside)
}

// answerSeen takes an answer given on a page that showed a version. It fails
// with a *VersionError when the meeting has moved since then.
func (s *Deeds) answerSeen(ctx context.Context, invited uuid.UUID, g Given, via schedule.Via) error {
	reply := meeting.Reply{Answer: g.Answer, Comment: g.Comment, Sequence: g.Seen, Stamp: s.Now().Unix()}
	counts, err := s.TakeReply(ctx, invited, g.On, reply, via)
	if err != nil || counts {
		return err
	}
	return &schedule.VersionError{What: say.It("answer.changed")}
}

// TakeReply takes an answer given here or on a page: to all dates, or to one of a
// series. An answer to all leaves those to single dates as they are. Every answer is
// kept; counts is false when it is older than what it answers and changes nothing
// (DESIGN.md, rule 7). It fails with ErrNotFound for somebody no longer invited
// and for a date they are not invited to, and with ErrCalledOff.
func (s *Deeds) TakeReply(ctx context.Context, invited uuid.UUID, on when.Day, reply meeting.Reply, via schedule.Via) (counts bool, err error) {
	if !reply.Answer.Known() {
		return false, schedule.Invalid("answer", say.It("answer.which"))
	}
	reply.Comment = meeting.Plain(reply.Comment)
	if n := utf8.RuneCountInString(reply.Comment); n > meeting.CommentLimit {
		return false, schedule.Invalid("comment", say.It("meeting.comment.long", meeting.CommentLimit, n))
	}
	err = s.answerStore().InTx(ctx, func(tx answerTx) error {
		record, i, err := LockInvited(ctx, tx, invited)
		if err != nil {
			return err
		}
		g := given{reply: reply, via: via}
		if on != 0 && record.Content.Repeats() {
			p, _ := record.Content.Participant(i.ID.String())
			if _, is := record.Content.Date(on); !is || !p.On(on) {
				return schedule.ErrNotFound
			}
			g.days = []when.Day{on}
		}
		verdict, err := s.take(ctx, tx, record, i, g)
		if err != nil {
			return err
		}
		counts = verdict != meeting.Older
		return tx.Tell(ctx, record.Notice())
	})
	return counts, err
}

// InvitedTx is what is needed of a transaction to hold somebody invited.
type InvitedTx interface {
	kernel.Locking
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LockInvited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
}

// LockInvited locks the meeting of somebody invited, and then them: everybody locks in this order.
// It fails with ErrCalledOff, and with ErrNotFound for somebody no longer invited.
func LockInvited(ctx context.Context, tx InvitedTx, invited uuid.UUID) (record schedule.Record, i schedule.Invited, err error) {
	of, err := tx.Invited(ctx, invited)
	if err != nil {
		return record, i, err
	}
	if record, err = tx.LockMeeting(ctx, of.MeetingID); err != nil {
		return record, i, err
	}
	i, err = tx.LockInvited(ctx, invited)
	switch {
	case err != nil:
	case record.CalledOffAt != nil:
		err = schedule.ErrCalledOff
	case i.RemovedAt != nil:
		err = schedule.ErrNotFound
	}
	return record, i, err
}

// given is an answer that is to be kept.
type given struct {
	days    []when.Day // of a series; none for all
	onward  bool       // the days are one and all that follow
	reply   meeting.Reply
	via     schedule.Via
	from    string // the address that a mail came from
	decided bool   // by the organiser
	quiet   bool   // the organiser hears of it in another way
}

// event is the line of history about an answer.
func (g given) event(name string) meeting.Event {
	e := meeting.Event{Kind: meeting.EventAnswered, Who: name, Answer: g.reply.Answer, Via: string(g.via), Onward: g.onward, From: g.from}
	if len(g.days) > 0 {
		e.On = g.days[0]
	}
	if len(g.days) > 1 && !g.onward {
		e.Days = g.days
	}
	return e
}

// takeTx is what is needed of a transaction to keep an answer.
type takeTx interface {
	kernel.In
	schedule.HappenTx
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	MendOlder(ctx context.Context, participants, but []uuid.UUID, how schedule.Mending, at time.Time) error
	SetAnswersOn(ctx context.Context, all []schedule.AnswerOn) error
	SetInvited(ctx context.Context, all []schedule.Invited) error
}

// take keeps an answer of somebody invited, and has it count when it is the newer
// one; meeting and participant are locked.
func (s *Deeds) take(ctx context.Context, tx takeTx, record schedule.Record, i schedule.Invited, g given) (meeting.Verdict, error) {
	now := s.Now()
	all, err := tx.AnswersOn(ctx, record.ID)
	if err != nil {
		return "", err
	}
	roll := schedule.RollOf(record.Content, []schedule.Invited{i}, all)
	part, is := roll.Part(i.ID)
	if !is {
		return "", schedule.ErrNotFound
	}
	verdict := meeting.Older
	var set []schedule.AnswerOn
	for _, on := range g.days {
		reply, v := g.against(part.Kept().Standing(on))
		if v != meeting.Counts {
			if verdict == meeting.Older {
				verdict = v
			}
			continue
		}
		verdict = meeting.Counts
		a := roll.On(i.ID, on)
		a.Answer, a.Comment, a.AnsweredAt, a.Stamp, a.Sequence = reply.Answer, reply.Comment, &now, reply.Stamp, reply.Sequence
		set = append(set, a)
	}
	if len(g.days) == 0 {
		standing := i.Standing()
		if g.here() {
			standing = part.Kept().Shown()
		}
		var reply meeting.Reply
		if reply, verdict = g.against(standing); verdict == meeting.Counts {
			if g.here() { // a program that was sent single dates alone still knows the whole as it was sent
				reply.Sequence = max(i.SentSequence, i.AnswerSequence)
			}
			for _, on := range part.Kept().Known(reply) {
				a := roll.On(i.ID, on)
				a.Moved = 0
				set = append(set, a)
			}
			i.Answer, i.Comment, i.AnsweredAt, i.AnswerStamp, i.AnswerSequence = reply.Answer, reply.Comment, &now, reply.Stamp, reply.Sequence
			if err := tx.SetInvited(ctx, []schedule.Invited{i}); err != nil {
				return "", err
			}
		}
	}
	if err := tx.SetAnswersOn(ctx, set); err != nil {
		return "", err
	}
	e := g.event(i.Name)
	e.Verdict = verdict
	if e.From != "" && strings.EqualFold(e.From, i.Email) {
		e.From = ""
	}
	actor := uuid.Nil
	switch {
	case g.decided:
		actor = record.OrganiserID
	case i.PersonID != nil:
		actor = *i.PersonID
	}
	e.Comment = g.reply.Comment
	if g.quiet {
		err := tx.AddHappenings(ctx, record.ID, []schedule.Happening{{At: now, Actor: actor, Event: e}})
		if err != nil {
			return "", err
		}
	} else if err := s.Happened(ctx, tx, record, actor, e); err != nil {
		return "", err
	}
	if verdict != meeting.Counts {
		return verdict, nil
	}
	if i.PersonID == nil { // whoever answers was reached
		if err := tx.MendOlder(ctx, []uuid.UUID{i.ID}, []uuid.UUID{}, schedule.MendedAnswered, now); err != nil {
			return "", err
		}
	}
	return verdict, s.Kernel.WriteParts(ctx, tx, record, i.ID)
}

// here tells whether an answer was given on a page, which shows everything as it is, or decided.
func (g given) here() bool { return g.via != schedule.ViaMail || g.decided }

// against is the reply as it stands against what is known, and what becomes of it: one that was
// not sent by mail was given at this moment, whatever another instance's clock said before.
func (g given) against(standing meeting.Standing) (meeting.Reply, meeting.Verdict) {
	r := g.reply
	if g.here() {
		r.Stamp = max(r.Stamp, standing.Stamp+1)
	}
	return r, r.Against(standing)
}
