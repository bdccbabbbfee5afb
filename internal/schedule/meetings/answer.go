package meetings

import (
	"context"
	"fmt"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// answerTx is what is needed here of a transaction.
type answerTx interface {
	TimesTx
	noteTx
	AddReply(ctx context.Context, r schedule.Reply) error
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	LockInvited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	SetAnswersOn(ctx context.Context, all []schedule.AnswerOn) error
	SetInvited(ctx context.Context, all []schedule.Invited) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// CommentLimit is how many characters an answer can carry.
const CommentLimit = 1000

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
		return schedule.Invalid("answer", "You organise this meeting; call it off if it is not to be.")
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
	return &schedule.VersionError{Changed: "The meeting has changed since this page was opened. Look at it again and answer then."}
}

// TakeReply takes an answer however it came: to all dates, or to one of a series.
// An answer to all leaves those to single dates as they are. Every answer is
// kept; counts is false when it is older than what it answers and changes nothing
// (DESIGN.md, rule 7). It fails with ErrNotFound for somebody no longer invited
// and for a date they are not invited to, and with ErrCalledOff.
func (s *Deeds) TakeReply(ctx context.Context, invited uuid.UUID, on when.Day, reply meeting.Reply, via schedule.Via) (counts bool, err error) {
	if !reply.Answer.Known() {
		return false, schedule.Invalid("answer", "Answer with accept, maybe or decline.")
	}
	reply.Comment = meeting.Plain(reply.Comment)
	if n := utf8.RuneCountInString(reply.Comment); n > CommentLimit {
		if via != schedule.ViaMail {
			return false, schedule.Invalid("comment", fmt.Sprintf("A comment has room for %d characters, this one has %d.", CommentLimit, n))
		}
		reply.Comment = string([]rune(reply.Comment)[:CommentLimit])
	}
	err = s.Store.InTx(ctx, func(tx Tx) error {
		// The meeting first, then who is invited: everybody locks in this order.
		of, err := tx.Invited(ctx, invited)
		if err != nil {
			return err
		}
		record, err := tx.LockMeeting(ctx, of.MeetingID)
		if err != nil {
			return err
		}
		i, err := tx.LockInvited(ctx, invited)
		switch {
		case err != nil:
			return err
		case record.CalledOffAt != nil:
			return schedule.ErrCalledOff
		case i.RemovedAt != nil:
			return schedule.ErrNotFound
		}
		own, err := answerOn(ctx, tx, i, record, &on)
		if err != nil {
			return err
		}
		standing := meeting.Standing{SentSequence: i.SentSequence, Stamp: i.AnswerStamp}
		if on != 0 {
			standing = meeting.Standing{SentSequence: max(own.SentSequence, i.SentSequence), Stamp: own.Stamp}
		}
		if via != schedule.ViaMail { // given at this moment, whatever another instance's clock said before
			reply.Stamp = max(reply.Stamp, standing.Stamp)
		}
		counts = !reply.Stale(standing)
		kept := schedule.Reply{ParticipantID: invited, On: on, Reply: reply, Via: via, Counts: counts, ArrivedAt: s.Now()}
		if err := tx.AddReply(ctx, kept); err != nil {
			return err
		}
		if counts {
			if err := s.setAnswer(ctx, tx, record, i, own, reply); err != nil {
				return err
			}
		}
		answered := meeting.Event{Kind: meeting.EventAnswered, Who: i.Name, Answer: reply.Answer, On: on, Via: string(via), TooLate: !counts}
		actor := uuid.Nil
		if i.PersonID != nil {
			actor = *i.PersonID
		}
		if err := s.note(ctx, tx, record.ID, actor, answered); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: append(Insiders(record.Content.Participants), record.OrganiserID), Topic: schedule.AboutMeeting, ID: record.ID})
	})
	return counts, err
}

// answerOn finds what somebody answered to one date so far; for all dates, and
// for a meeting that is once, on becomes 0.
func answerOn(ctx context.Context, tx answerTx, i schedule.Invited, record schedule.Record, on *when.Day) (own schedule.AnswerOn, err error) {
	if *on == 0 || !record.Content.Repeats() {
		*on = 0
		return schedule.AnswerOn{}, nil
	}
	p, invited := record.Content.Participant(i.ID.String())
	if _, is := record.Content.Date(*on); !is || !invited || !p.On(*on) {
		return own, schedule.ErrNotFound
	}
	all, err := tx.AnswersOn(ctx, record.ID)
	if err != nil {
		return own, err
	}
	for _, a := range all {
		if a.ParticipantID == i.ID && a.On == *on {
			return a, nil
		}
	}
	return schedule.AnswerOn{ParticipantID: i.ID, On: *on}, nil
}

func (s *Deeds) setAnswer(ctx context.Context, tx answerTx, record schedule.Record, i schedule.Invited, own schedule.AnswerOn, reply meeting.Reply) error {
	now := s.Now()
	var err error
	if own.On != 0 {
		own.Answer, own.Comment, own.AnsweredAt, own.Stamp = reply.Answer, reply.Comment, &now, reply.Stamp
		err = tx.SetAnswersOn(ctx, []schedule.AnswerOn{own})
	} else {
		i.Answer, i.Comment, i.AnsweredAt, i.AnswerStamp = reply.Answer, reply.Comment, &now, reply.Stamp
		err = tx.SetInvited(ctx, []schedule.Invited{i})
	}
	if err != nil || i.PersonID == nil {
		return err
	}
	return s.storeBusy(ctx, tx, record, *i.PersonID)
}
