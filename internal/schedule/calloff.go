package schedule

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
)

// CallOff cancels a meeting and tells everybody, with a word if there is one.
// Room and people become clear, the call is withdrawn, begun changes are
// dropped. It fails with a *VersionError when the meeting was changed since
// version, and does nothing when it is called off already.
func (s *Service) CallOff(ctx context.Context, me, id uuid.UUID, version int, word string) error {
	word = meeting.Plain(word)
	if len([]rune(word)) > CommentLimit {
		return invalid("word", fmt.Sprintf("A word to them has room for %d characters.", CommentLimit))
	}
	return s.Store.InTx(ctx, func(tx Tx) error {
		record, err := organised(ctx, tx, me, id)
		if err == ErrCalledOff {
			return nil
		}
		if err != nil {
			return err
		}
		if record.Version != version {
			was, err := tx.MeetingAt(ctx, id, version)
			if err != nil {
				return err
			}
			return &VersionError{Meeting: &record, Changed: meeting.Compare(was.Content, record.Content).Words()}
		}
		now := s.now()
		off, due := meeting.CalledOff(record.Content)
		record.Version, record.Content, record.Stamp, record.CalledOffAt = record.Version+1, off, now, &now
		if err := tx.SetMeeting(ctx, record); err != nil {
			return err
		}
		if err := tx.DropOccurrences(ctx, id); err != nil {
			return err
		}
		if err := s.dispatch(ctx, tx, record, due, word); err != nil {
			return err
		}
		if err := withdrawUnused(ctx, tx, me, off.Card, nil); err != nil {
			return err
		}
		if err := tx.DropSheetsOf(ctx, id); err != nil {
			return err
		}
		words := fmt.Sprintf("%s called it off and told %s", off.Organiser.Name, people(len(due)))
		if err := tx.AddHappening(ctx, id, Happening{At: now, Words: words}); err != nil {
			return err
		}
		return tx.Tell(ctx, append(insiders(off.Participants), me), id)
	})
}
