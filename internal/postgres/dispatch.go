package postgres

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

func toDispatch(d db.Dispatch) (schedule.Dispatch, error) {
	var on []when.Day
	for _, day := range d.OnDays {
		on = append(on, toDay(day))
	}
	return schedule.Dispatch{On: on, ID: d.ID, MeetingID: d.MeetingID, Version: int(d.Version), ParticipantID: d.ParticipantID,
		Kind: meeting.Kind(d.Kind), Channel: schedule.Channel(d.Channel), Words: d.Words, State: schedule.State(d.State),
		Detail: d.Detail, QueuedAt: d.QueuedAt, HandedAt: d.HandedAt}, nil
}

func oneDispatch(d db.Dispatch, err error) (schedule.Dispatch, error) {
	if err != nil {
		return schedule.Dispatch{}, domain(err)
	}
	return toDispatch(d)
}

func (t *Tx) AddDispatch(ctx context.Context, d schedule.Dispatch) error {
	return t.InsertDispatch(ctx, db.InsertDispatchParams{ID: d.ID, MeetingID: d.MeetingID, Version: int32(d.Version),
		ParticipantID: d.ParticipantID, Kind: string(d.Kind), Channel: string(d.Channel), Words: d.Words,
		State: string(d.State), QueuedAt: d.QueuedAt, HandedAt: d.HandedAt, OnDays: dayTimes(d.On)})
}

func (t *Tx) Dispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error) {
	return oneDispatch(t.Queries.Dispatch(ctx, id))
}

func (t *Tx) LockDispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error) {
	return oneDispatch(t.Queries.LockDispatch(ctx, id))
}

func (t *Tx) SetDispatch(ctx context.Context, d schedule.Dispatch) error {
	return t.UpdateDispatch(ctx, db.UpdateDispatchParams{ID: d.ID, State: string(d.State), Detail: d.Detail, HandedAt: d.HandedAt})
}

func (t *Tx) LatestDispatches(ctx context.Context, meetingID uuid.UUID) ([]schedule.Dispatch, error) {
	rows, err := t.Queries.LatestDispatches(ctx, meetingID)
	if err != nil {
		return nil, err
	}
	return each(rows, toDispatch)
}

// EarlierMails are the mails one participant was sent before a version.
func (t *Tx) EarlierMails(ctx context.Context, participantID uuid.UUID, version int) ([]uuid.UUID, error) {
	return t.EarlierDispatches(ctx, db.EarlierDispatchesParams{ParticipantID: participantID, Version: int32(version)})
}
