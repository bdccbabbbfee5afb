package dispatch

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/schedule"
)

// reportTx is what is needed here of a transaction.
type reportTx interface {
	keepTx
	DispatchEvents(ctx context.Context, ids []uuid.UUID) (map[uuid.UUID][]reach.Event, error)
	NewestMail(ctx context.Context, participant uuid.UUID) (uuid.UUID, error)
}

func (s *Deeds) reportStore() schedule.Store[reportTx] {
	return schedule.Narrow(s.Store, func(tx Tx) reportTx { return tx })
}

// reportsKept is how many things are kept of one message: a server that reports without an
// end fills nothing.
const reportsKept = 40

// TakeReports keeps what was reported of a message, to an address that was given out for that
// alone, and tells the organiser where it will not arrive. The same report twice is one. It
// returns to whom the message went, and fails with ErrNotFound where there is no such message.
func (s *Deeds) TakeReports(ctx context.Context, box schedule.Mailbox, reports []reach.Event) (to uuid.UUID, err error) {
	err = s.reportStore().InTx(ctx, func(tx reportTx) error {
		id := box.Dispatch
		if id == uuid.Nil {
			if id, err = tx.NewestMail(ctx, box.Participant); err != nil {
				return err
			}
		}
		of, err := tx.Dispatch(ctx, id)
		if err != nil {
			return err
		}
		to = of.ParticipantID
		if len(reports) == 0 {
			return nil
		}
		record, err := tx.LockMeeting(ctx, of.MeetingID)
		if err != nil {
			return err
		}
		d, err := tx.LockDispatch(ctx, id)
		if err != nil {
			return err
		}
		return s.hear(ctx, tx, record, d, reports)
	})
	return to, err
}

// hear keeps what was reported of a message; meeting and message are locked.
func (s *Deeds) hear(ctx context.Context, tx reportTx, record schedule.Record, d schedule.Dispatch, reports []reach.Event) error {
	known, err := tx.DispatchEvents(ctx, []uuid.UUID{d.ID})
	if err != nil {
		return err
	}
	heard := map[reach.Event]bool{}
	for _, e := range known[d.ID] {
		heard[again(e)] = true
	}
	var fresh []reach.Event
	for _, e := range reports {
		if e.At = s.Now(); heard[again(e)] || len(heard) >= reportsKept {
			continue
		}
		heard[again(e)] = true
		was := d.Progress
		d.Progress = was.After(e)
		fresh = append(fresh, e)
		if err := s.tellReport(ctx, tx, record, d, was, e); err != nil {
			return err
		}
	}
	if len(fresh) == 0 {
		return nil
	}
	switch {
	case d.Lost():
		d.State, d.Detail = schedule.Failed, d.Heard.Said
	case d.State == schedule.Queued && d.Stage != "": // it was taken, and the news of that is late or got lost: it does not go twice
		d.State, d.Detail, d.HandedAt = schedule.Handed, "", &d.StageAt
	}
	if err := errors.Join(tx.SetDispatch(ctx, d), tx.AddDispatchEvents(ctx, d.ID, fresh)); err != nil {
		return err
	}
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{record.OrganiserID}, Topic: schedule.AboutMeeting, ID: d.MeetingID})
}

// again is an event as it comes twice.
func again(e reach.Event) reach.Event {
	return reach.Event{Kind: e.Kind, Address: e.Address, Server: e.Server, Code: e.Code, Said: e.Said}
}

// tellReport writes into the history what a report says, where the organiser has to know it.
func (s *Deeds) tellReport(ctx context.Context, tx reportTx, record schedule.Record, d schedule.Dispatch, was reach.Progress, e reach.Event) error {
	kinds := map[reach.Kind]meeting.EventKind{reach.Returned: meeting.EventReturned, reach.Delayed: meeting.EventDelayed, reach.Challenged: meeting.EventChallenged,
		reach.Automatic: meeting.EventAutomatic, reach.Complained: meeting.EventComplained}
	kind, told := kinds[e.Kind]
	if !told || e.Kind != reach.Automatic && (was.Trouble == e.Kind || d.Trouble != e.Kind) {
		return nil
	}
	to, err := tx.Invited(ctx, d.ParticipantID)
	if err != nil {
		return err
	}
	return s.Happened(ctx, tx, record, uuid.Nil, meeting.Event{Kind: kind, Name: to.Name, Reason: e.Said})
}
