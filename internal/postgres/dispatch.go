package postgres

import (
	"context"
	"strings"
	"time"

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
	var ids []when.Instant
	for _, at := range d.RecurrenceIds {
		ids = append(ids, when.At(at))
	}
	stamp := d.QueuedAt
	if d.Stamp != nil {
		stamp = *d.Stamp
	}
	return schedule.Dispatch{On: on, ID: d.ID, MeetingID: d.MeetingID, Version: int(d.Version), ParticipantID: d.ParticipantID,
		Kind: meeting.Kind(d.Kind), Channel: schedule.Channel(d.Channel), Words: d.Words, State: schedule.State(d.State),
		Detail: d.Detail, QueuedAt: d.QueuedAt, HandedAt: d.HandedAt, Stamp: stamp, IDs: ids}, nil
}

func oneDispatch(d db.Dispatch, err error) (schedule.Dispatch, error) {
	if err != nil {
		return schedule.Dispatch{}, domain(err)
	}
	return toDispatch(d)
}

// AddDispatches keeps messages.
func (t *Tx) AddDispatches(ctx context.Context, all []schedule.Dispatch) error {
	if len(all) == 0 {
		return nil
	}
	var rows db.InsertDispatchesParams
	for _, d := range all {
		var days []string
		for _, day := range d.On {
			days = append(days, day.String())
		}
		var ids []string
		for _, id := range d.IDs {
			ids = append(ids, id.Time().Format(time.RFC3339))
		}
		rows.RecurrenceIds, rows.Stamps = append(rows.RecurrenceIds, strings.Join(ids, ",")), append(rows.Stamps, d.Stamp)
		rows.Ids, rows.Meetings, rows.Versions = append(rows.Ids, d.ID), append(rows.Meetings, d.MeetingID), append(rows.Versions, int32(d.Version))
		rows.Participants, rows.Kinds, rows.Channels = append(rows.Participants, d.ParticipantID), append(rows.Kinds, string(d.Kind)), append(rows.Channels, string(d.Channel))
		rows.Words, rows.States, rows.QueuedAt = append(rows.Words, d.Words), append(rows.States, string(d.State)), append(rows.QueuedAt, d.QueuedAt)
		rows.HandedAt, rows.Days = append(rows.HandedAt, orEpoch(d.HandedAt)), append(rows.Days, strings.Join(days, ","))
	}
	return t.InsertDispatches(ctx, rows)
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

// EarlierMails are the mails that one participant was sent before another, the
// oldest first.
func (t *Tx) EarlierMails(ctx context.Context, than schedule.Dispatch) ([]schedule.Dispatch, error) {
	rows, err := t.EarlierDispatches(ctx, db.EarlierDispatchesParams{ParticipantID: than.ParticipantID, Version: int32(than.Version), Stamp: than.Stamp})
	if err != nil {
		return nil, err
	}
	return each(rows, toDispatch)
}

// QueuedBefore are messages that wait since before a moment.
func (t *Tx) QueuedBefore(ctx context.Context, at time.Time) ([]uuid.UUID, error) {
	return t.DispatchesQueuedBefore(ctx, at)
}
