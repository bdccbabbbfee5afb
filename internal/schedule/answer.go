package schedule

import (
	"context"
	"fmt"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
)

// CommentLimit is how many characters an answer can carry.
const CommentLimit = 1000

// Answer takes the answer of a colleague to a meeting at the version they saw.
func (s *Service) Answer(ctx context.Context, me, meetingID uuid.UUID, seen int, answer meeting.Answer, comment string) error {
	d, err := s.Meeting(ctx, me, meetingID)
	if err != nil {
		return err
	}
	if d.Me == nil {
		return invalid("answer", "You organise this meeting; call it off if it is not to be.")
	}
	return s.answerSeen(ctx, d.Me.ID, seen, answer, comment, ViaInside)
}

// answerSeen takes an answer given on a page that showed a version. It fails
// with a *VersionError when the meeting has moved since then.
func (s *Service) answerSeen(ctx context.Context, invited uuid.UUID, seen int, answer meeting.Answer, comment string, via Via) error {
	reply := meeting.Reply{Answer: answer, Comment: comment, Sequence: seen, Stamp: s.now().Unix()}
	counts, err := s.TakeReply(ctx, invited, reply, via)
	if err != nil || counts {
		return err
	}
	return &VersionError{Changed: "The meeting has changed since this page was opened. Look at it again and answer then."}
}

// TakeReply takes an answer however it came. Every answer is kept; counts is
// false when it is older than what it answers and changes nothing (DESIGN.md,
// rule 7). It fails with ErrNotFound for somebody no longer invited, and with
// ErrCalledOff.
func (s *Service) TakeReply(ctx context.Context, invited uuid.UUID, reply meeting.Reply, via Via) (counts bool, err error) {
	if !reply.Answer.Known() {
		return false, invalid("answer", "Answer with accept, maybe or decline.")
	}
	reply.Comment = meeting.Plain(reply.Comment)
	if n := utf8.RuneCountInString(reply.Comment); n > CommentLimit {
		if via != ViaMail {
			return false, invalid("comment", fmt.Sprintf("A comment has room for %d characters, this one has %d.", CommentLimit, n))
		}
		reply.Comment = string([]rune(reply.Comment)[:CommentLimit])
	}
	err = s.Store.InTx(ctx, func(tx Tx) error {
		i, err := tx.LockInvited(ctx, invited)
		if err != nil {
			return err
		}
		record, err := tx.Meeting(ctx, i.MeetingID)
		switch {
		case err != nil:
			return err
		case record.CalledOffAt != nil:
			return ErrCalledOff
		case i.RemovedAt != nil:
			return ErrNotFound
		}
		counts = !reply.Stale(meeting.Standing{SentSequence: i.SentSequence, Stamp: i.AnswerStamp})
		kept := Reply{ParticipantID: invited, Reply: reply, Via: via, Counts: counts, ArrivedAt: s.now()}
		if err := tx.AddReply(ctx, kept); err != nil {
			return err
		}
		words := fmt.Sprintf("%s answered: %s%s", i.Name, reply.Answer.Words(), viaWords[via])
		if !counts {
			words += ", to an earlier state of the meeting; it changes nothing"
		} else if err := s.setAnswer(ctx, tx, i, reply); err != nil {
			return err
		}
		if err := tx.AddHappening(ctx, record.ID, Happening{At: s.now(), Words: words}); err != nil {
			return err
		}
		return tx.Tell(ctx, append(insiders(record.Content.Participants), record.OrganiserID), record.ID)
	})
	return counts, err
}

var viaWords = map[Via]string{ViaPage: " (on the guest page)", ViaMail: " (by mail)"}

func (s *Service) setAnswer(ctx context.Context, tx Tx, i Invited, reply meeting.Reply) error {
	now := s.now()
	i.Answer, i.Comment, i.AnsweredAt, i.AnswerStamp = reply.Answer, reply.Comment, &now, reply.Stamp
	if err := tx.SetInvited(ctx, i); err != nil || i.PersonID == nil {
		return err
	}
	return tx.SetBusy(ctx, i.MeetingID, *i.PersonID, busyFor(reply.Answer))
}
