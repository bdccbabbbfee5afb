package meetings

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
)

// calloffTx is what is needed here of a transaction.
type calloffTx interface {
	KeepTx
	TellTx
	TimesTx
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	DropOccurrences(ctx context.Context, meetingID uuid.UUID) error
	LockSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	DropSheetsOf(ctx context.Context, meetingID uuid.UUID) error
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error)
	Related(ctx context.Context, uid string, relatedTo string) ([]schedule.Record, error)
	SetMeeting(ctx context.Context, r schedule.Record) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// CallOff cancels a meeting and tells everybody, with a word if there is one: all
// of it, or some dates of a series. Rooms and people become clear; the call is
// withdrawn and begun changes are dropped when nothing is left. Dates that were
// held stay. It fails with a *VersionError when the meeting was changed since
// version, and does nothing when it is called off already.
func (s *Deeds) CallOff(ctx context.Context, who schedule.Actor, id uuid.UUID, version int, scope *meeting.Range, word string) error {
	word = meeting.Plain(word)
	if len([]rune(word)) > CommentLimit {
		return schedule.Invalid("word", fmt.Sprintf("A word to them has room for %d characters.", CommentLimit))
	}
	return s.Store.InTx(ctx, func(tx Tx) error {
		// Sheets, the meeting, who is invited, rooms: everybody locks in this order.
		if err := tx.LockSheetsOf(ctx, id); err != nil {
			return err
		}
		record, err := Organised(ctx, tx, who, id)
		if err == schedule.ErrCalledOff {
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
			return &schedule.VersionError{Meeting: &record, Changed: words.Change(meeting.Compare(was.Content, record.Content).Facts())}
		}
		if scope != nil && record.Content.Repeats() {
			after, left, err := s.withoutDates(record.Content, *scope)
			if err != nil {
				return err
			}
			if left {
				return s.callOffDates(ctx, tx, record, after, *scope, word)
			}
		}
		return s.callOffAll(ctx, tx, record, word)
	})
}

// withoutDates is a series without some dates; left is false when that is none.
// Dates that have begun are not called off any more.
func (s *Deeds) withoutDates(m meeting.Meeting, scope meeting.Range) (after meeting.Meeting, left bool, err error) {
	switch begun, any := m.Begun(scope, when.At(s.Now())); {
	case begun != 0:
		return m, false, schedule.Invalid("scope", "Dates that have begun cannot be called off. Choose later ones.")
	case !any:
		return m, false, schedule.Invalid("scope", "There is no date there any more.")
	}
	after, left = m.Without(scope)
	return after, left, nil
}

func (s *Deeds) callOffDates(ctx context.Context, tx calloffTx, record schedule.Record, after meeting.Meeting, scope meeting.Range, word string) error {
	st := Settled{Before: &record, Outcome: meeting.Outcome{Scope: scope}, Change: meeting.Compare(record.Content, after)}
	after.Sequence = st.Change.Sequence(record.Content.Sequence)
	st.Meeting, st.Due = after, meeting.Due(&record.Content, after)
	var err error
	if st.Invited, err = tx.AllInvited(ctx, record.ID); err != nil {
		return err
	}
	stored, err := s.StoreMeeting(ctx, tx, st)
	if err != nil {
		return err
	}
	if err := s.StoreInvited(ctx, tx, stored, st); err != nil {
		return err
	}
	if err := s.WriteTimes(ctx, tx, stored); err != nil {
		return err
	}
	if word == "" && scope.To == 0 {
		word = "the dates " + words.Scope(scope) + " are called off"
	}
	if err := s.Dispatch(ctx, tx, stored, st.Due, word); err != nil {
		return err
	}
	off := meeting.Event{Kind: meeting.EventDatesOff, Who: after.Organiser.Name, Scope: &scope, Told: len(st.Due)}
	if err := s.note(ctx, tx, record.ID, record.OrganiserID, off); err != nil {
		return err
	}
	concerned := append(Insiders(record.Content.Participants), record.OrganiserID)
	return tx.Tell(ctx, schedule.Notice{People: concerned, Topic: schedule.AboutMeeting, ID: record.ID})
}

func (s *Deeds) callOffAll(ctx context.Context, tx calloffTx, record schedule.Record, word string) error {
	now, id := s.Now(), record.ID
	off, due := meeting.CalledOff(record.Content)
	record.Version, record.Content, record.Stamp, record.CalledOffAt = record.Version+1, off, now, &now
	if err := tx.SetMeeting(ctx, record); err != nil {
		return err
	}
	if err := tx.DropOccurrences(ctx, id); err != nil {
		return err
	}
	if err := s.Dispatch(ctx, tx, record, due, word); err != nil {
		return err
	}
	related, err := tx.Related(ctx, off.UID, off.RelatedTo)
	if err != nil {
		return err
	}
	if len(related) == 0 { // the link of a series that goes on is in use
		if err := WithdrawUnused(ctx, tx, record.OrganiserID, off.Card, nil); err != nil {
			return err
		}
	}
	if err := tx.DropSheetsOf(ctx, id); err != nil {
		return err
	}
	event := meeting.Event{Kind: meeting.EventCalledOff, Who: off.Organiser.Name, Told: len(due)}
	if err := s.note(ctx, tx, id, record.OrganiserID, event); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: append(Insiders(off.Participants), record.OrganiserID), Topic: schedule.AboutMeeting, ID: id})
}
