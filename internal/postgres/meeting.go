package postgres

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// oneRecord finishes a query for one version of one meeting.
func oneRecord(m db.Meeting, v db.MeetingVersion, err error) (schedule.Record, error) {
	if err != nil {
		return schedule.Record{}, domain(err)
	}
	r := schedule.Record{ID: m.ID, OrganiserID: m.OrganiserID, Version: int(v.Version), CalledOffAt: m.CalledOffAt, Stamp: v.Stamp}
	return r, json.Unmarshal(v.Content, &r.Content)
}

func (t *Tx) AddMeeting(ctx context.Context, r schedule.Record) error {
	if err := t.InsertMeeting(ctx, db.InsertMeetingParams{ID: r.ID, Uid: r.Content.UID, OrganiserID: r.OrganiserID, Version: int32(r.Version)}); err != nil {
		return err
	}
	return t.addVersion(ctx, r)
}

// SetMeeting stores r as the newest version.
func (t *Tx) SetMeeting(ctx context.Context, r schedule.Record) error {
	if err := t.UpdateMeeting(ctx, db.UpdateMeetingParams{ID: r.ID, Version: int32(r.Version), CalledOffAt: r.CalledOffAt}); err != nil {
		return err
	}
	return t.addVersion(ctx, r)
}

func (t *Tx) addVersion(ctx context.Context, r schedule.Record) error {
	return t.InsertVersion(ctx, db.InsertVersionParams{MeetingID: r.ID, Version: int32(r.Version), Content: must(r.Content), Stamp: r.Stamp})
}

func (t *Tx) Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error) {
	row, err := t.Queries.Meeting(ctx, id)
	return oneRecord(row.Meeting, row.MeetingVersion, err)
}

func (t *Tx) LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error) {
	row, err := t.Queries.LockMeeting(ctx, id)
	return oneRecord(row.Meeting, row.MeetingVersion, err)
}

func (t *Tx) MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error) {
	row, err := t.MeetingAtVersion(ctx, db.MeetingAtVersionParams{ID: id, Version: int32(version)})
	return oneRecord(row.Meeting, row.MeetingVersion, err)
}

func toInvited(p db.Participant) (schedule.Invited, error) {
	return schedule.Invited{ID: p.ID, MeetingID: p.MeetingID, PersonID: p.PersonID, Name: p.Name, Email: p.Email, Zone: p.Zone,
		Needed: p.Needed, Answer: meeting.Answer(p.Answer), Comment: p.Comment, AnsweredAt: p.AnsweredAt,
		AnswerStamp: p.AnswerStamp, SentSequence: int(p.SentSequence), RemovedAt: p.RemovedAt}, nil
}

func oneInvited(p db.Participant, err error) (schedule.Invited, error) {
	if err != nil {
		return schedule.Invited{}, domain(err)
	}
	return toInvited(p)
}

func (t *Tx) AddInvited(ctx context.Context, i schedule.Invited) error {
	return t.InsertParticipant(ctx, db.InsertParticipantParams{ID: i.ID, MeetingID: i.MeetingID, PersonID: i.PersonID, Name: i.Name,
		Email: i.Email, Zone: i.Zone, Needed: i.Needed, Answer: string(i.Answer), SentSequence: int32(i.SentSequence)})
}

func (t *Tx) SetInvited(ctx context.Context, i schedule.Invited) error {
	return t.UpdateParticipant(ctx, db.UpdateParticipantParams{ID: i.ID, Name: i.Name, Needed: i.Needed, Answer: string(i.Answer),
		Comment: i.Comment, AnsweredAt: i.AnsweredAt, AnswerStamp: i.AnswerStamp, SentSequence: int32(i.SentSequence), RemovedAt: i.RemovedAt})
}

func (t *Tx) Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error) {
	return oneInvited(t.Participant(ctx, id))
}

func (t *Tx) LockInvited(ctx context.Context, id uuid.UUID) (schedule.Invited, error) {
	return oneInvited(t.LockParticipant(ctx, id))
}

// AllInvited are those still invited, in no order.
func (t *Tx) AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error) {
	rows, err := t.Participants(ctx, meetingID)
	if err != nil {
		return nil, err
	}
	return each(rows, toInvited)
}

// AnswersOn are the answers to single dates of a series, by day.
func (t *Tx) AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error) {
	rows, err := t.Queries.AnswersOn(ctx, meetingID)
	if err != nil {
		return nil, err
	}
	return each(rows, func(a db.AnswerOn) (schedule.AnswerOn, error) {
		return schedule.AnswerOn{ParticipantID: a.ParticipantID, On: toDay(a.OnDay), Answer: meeting.Answer(a.Answer), Comment: a.Comment,
			AnsweredAt: a.AnsweredAt, Stamp: a.AnswerStamp, SentSequence: int(a.SentSequence)}, nil
	})
}

func (t *Tx) SetAnswerOn(ctx context.Context, a schedule.AnswerOn) error {
	return t.Queries.SetAnswerOn(ctx, db.SetAnswerOnParams{ParticipantID: a.ParticipantID, OnDay: dayTime(a.On), Answer: string(a.Answer),
		Comment: a.Comment, AnsweredAt: a.AnsweredAt, AnswerStamp: a.Stamp, SentSequence: int32(a.SentSequence)})
}

func (t *Tx) DropAnswersOn(ctx context.Context, meetingID uuid.UUID) error {
	return t.DeleteAnswersOn(ctx, meetingID)
}

// Related are the series that go on from the one with this UID, or that it
// goes on from.
func (t *Tx) Related(ctx context.Context, uid, relatedTo string) ([]schedule.Record, error) {
	rows, err := t.MeetingsRelated(ctx, db.MeetingsRelatedParams{Uid: uid, RelatedTo: relatedTo})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.MeetingsRelatedRow) (schedule.Record, error) {
		out := schedule.Record{ID: r.ID}
		return out, json.Unmarshal(r.Content, &out.Content)
	})
}

func (t *Tx) AddReply(ctx context.Context, r schedule.Reply) error {
	return t.InsertReply(ctx, db.InsertReplyParams{ID: uuid.New(), ParticipantID: r.ParticipantID, OnDay: dayOrNull(r.On), Answer: string(r.Answer),
		Comment: r.Comment, Sequence: int32(r.Sequence), Stamp: r.Stamp, Via: string(r.Via), Counts: r.Counts, ArrivedAt: r.ArrivedAt})
}

func (t *Tx) AddHappening(ctx context.Context, meetingID uuid.UUID, h schedule.Happening) error {
	return t.InsertHappening(ctx, db.InsertHappeningParams{MeetingID: meetingID, At: h.At, Words: h.Words})
}

// Happenings are the newest first.
func (t *Tx) Happenings(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.Happening, error) {
	rows, err := t.Queries.Happenings(ctx, db.HappeningsParams{MeetingID: meetingID, Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.HappeningsRow) (schedule.Happening, error) {
		return schedule.Happening{At: r.At, Words: r.Words}, nil
	})
}

// SendKey waits for another transaction with the same key.
func (t *Tx) SendKey(ctx context.Context, personID uuid.UUID, key string) (schedule.SendKey, error) {
	if err := t.LockSendKey(ctx, personID.String()+key); err != nil {
		return schedule.SendKey{}, err
	}
	k, err := t.Queries.SendKey(ctx, db.SendKeyParams{PersonID: personID, Key: key})
	return schedule.SendKey{PersonID: k.PersonID, Key: k.Key, SheetID: k.SheetID, MeetingID: k.MeetingID, Told: int(k.Told)}, domain(err)
}

func (t *Tx) AddSendKey(ctx context.Context, k schedule.SendKey, now time.Time) error {
	return t.InsertSendKey(ctx, db.InsertSendKeyParams{PersonID: k.PersonID, Key: k.Key, SheetID: k.SheetID,
		MeetingID: k.MeetingID, Told: int32(k.Told), CreatedAt: now})
}
