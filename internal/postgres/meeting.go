package postgres

import (
	"context"
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
	r := schedule.Record{ID: m.ID, OrganiserID: m.OrganiserID, Version: int(v.Version), Stamp: v.Stamp}
	if v.Version == m.Version { // an earlier version was not called off
		r.CalledOffAt = m.CalledOffAt
	}
	return r, readSnapshot(int(v.Schema), v.Content, &r.Content)
}

// AddMeeting keeps a new meeting with its first version.
func (t *Tx) AddMeeting(ctx context.Context, r schedule.Record) error {
	m, call := r.Content, callAt(r)
	if err := t.InsertMeeting(ctx, db.InsertMeetingParams{ID: r.ID, Uid: m.UID, OrganiserID: r.OrganiserID, Version: int32(r.Version),
		Zone: m.Zone, Private: m.Private, RelatedTo: m.RelatedTo, Repeats: m.Repeats(), CallProvider: call.provider, CallOwner: call.owner, StandingID: call.standing, MailReminds: minutes(m)}); err != nil {
		return err
	}
	return t.addVersion(ctx, r)
}

func minutes(m meeting.Meeting) []int32 {
	out := []int32{}
	for _, before := range m.MailReminders() {
		out = append(out, int32(before))
	}
	return out
}

// callOf is where the call of a meeting is, as it is asked for: at a provider in somebody's
// account, or in a standing room.
type callOf struct {
	provider        *string
	owner, standing *uuid.UUID
}

func callAt(r schedule.Record) (c callOf) {
	card := r.Content.Card
	if card == nil {
		return c
	}
	if id, err := uuid.Parse(card.StandsAs); err == nil {
		c.standing = &id
	}
	if card.Provider != "" {
		owner := schedule.AccountOf(*card, r.OrganiserID)
		c.provider, c.owner = &card.Provider, &owner
	}
	return c
}

// SetMeeting stores r as the newest version.
func (t *Tx) SetMeeting(ctx context.Context, r schedule.Record) error {
	m, call := r.Content, callAt(r)
	if err := t.UpdateMeeting(ctx, db.UpdateMeetingParams{ID: r.ID, Version: int32(r.Version), CalledOffAt: r.CalledOffAt,
		Zone: m.Zone, Private: m.Private, RelatedTo: m.RelatedTo, Repeats: m.Repeats(), CallProvider: call.provider, CallOwner: call.owner, StandingID: call.standing, MailReminds: minutes(m)}); err != nil {
		return err
	}
	if err := t.SetBookingsPrivate(ctx, db.SetBookingsPrivateParams{MeetingID: r.ID, Private: m.Private}); err != nil {
		return err
	}
	return t.addVersion(ctx, r)
}

// SetOrganiser has somebody else organise a meeting, and its rooms be booked by them.
func (t *Tx) SetOrganiser(ctx context.Context, meetingID, organiser uuid.UUID) error {
	if err := t.SetOrganiserOf(ctx, db.SetOrganiserOfParams{ID: meetingID, OrganiserID: organiser}); err != nil {
		return err
	}
	if err := t.SetBookingsOwner(ctx, db.SetBookingsOwnerParams{MeetingID: meetingID, OwnerID: organiser}); err != nil {
		return err
	}
	r, err := t.Meeting(ctx, meetingID)
	if err != nil {
		return err
	}
	return t.SetFound(ctx, r)
}

// addVersion stores a version, makes sure that it can be read back, and has it found.
func (t *Tx) addVersion(ctx context.Context, r schedule.Record) error {
	content, err := writeSnapshot(r.Content)
	if err != nil {
		return err
	}
	if err := t.InsertVersion(ctx, db.InsertVersionParams{MeetingID: r.ID, Version: int32(r.Version), Schema: snapshotSchema, Content: content, Stamp: r.Stamp}); err != nil {
		return err
	}
	return t.SetFound(ctx, r)
}

// Meeting is a meeting in its newest version; it fails with ErrNotFound.
func (t *Tx) Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error) {
	row, err := t.Queries.Meeting(ctx, id)
	return oneRecord(row.Meeting, row.MeetingVersion, err)
}

// LockMeeting makes other transactions wait, and reads what holds then.
func (t *Tx) LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error) {
	if err := t.Queries.LockMeeting(ctx, id); err != nil {
		return schedule.Record{}, err
	}
	return t.Meeting(ctx, id)
}

// OrganiserOf is who organises a meeting.
func (t *Tx) OrganiserOf(ctx context.Context, meetingID uuid.UUID) (uuid.UUID, error) {
	id, err := t.Queries.OrganiserOf(ctx, meetingID)
	return id, domain(err)
}

// MeetingAt is a meeting as one of its versions had it.
func (t *Tx) MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error) {
	row, err := t.MeetingAtVersion(ctx, db.MeetingAtVersionParams{ID: id, Version: int32(version)})
	return oneRecord(row.Meeting, row.MeetingVersion, err)
}

func toInvited(p db.Participant) (schedule.Invited, error) {
	return schedule.Invited{ID: p.ID, MeetingID: p.MeetingID, PersonID: p.PersonID, Name: p.Name, Email: p.Email, Zone: p.Zone,
		Needed: p.Needed, Answer: meeting.Answer(p.Answer), Comment: p.Comment, AnsweredAt: p.AnsweredAt,
		AnswerStamp: p.AnswerStamp, AnswerSequence: int(p.AnswerSequence), SentSequence: int(p.SentSequence), RemovedAt: p.RemovedAt, OffVersion: int(p.OffVersion), ReachAt: p.ReachAt, Page: int(p.Page), PageSeen: int(p.PageSeen)}, nil
}

func oneInvited(p db.Participant, err error) (schedule.Invited, error) {
	if err != nil {
		return schedule.Invited{}, domain(err)
	}
	return toInvited(p)
}

// AddInvited keeps people who are invited.
func (t *Tx) AddInvited(ctx context.Context, all []schedule.Invited) error {
	if len(all) == 0 {
		return nil
	}
	var rows db.InsertParticipantsParams
	for _, i := range all {
		person := uuid.Nil
		if i.PersonID != nil {
			person = *i.PersonID
		}
		rows.Ids, rows.Meetings, rows.People = append(rows.Ids, i.ID), append(rows.Meetings, i.MeetingID), append(rows.People, person)
		rows.Names, rows.Emails, rows.Zones = append(rows.Names, i.Name), append(rows.Emails, i.Email), append(rows.Zones, i.Zone)
		rows.Needed, rows.Answers, rows.Comments = append(rows.Needed, i.Needed), append(rows.Answers, string(i.Answer)), append(rows.Comments, i.Comment)
		rows.AnsweredAt, rows.Stamps, rows.Sent = append(rows.AnsweredAt, orEpoch(i.AnsweredAt)), append(rows.Stamps, i.AnswerStamp), append(rows.Sent, int32(i.SentSequence))
		rows.AnswerSequences = append(rows.AnswerSequences, int32(i.AnswerSequence))
	}
	return t.InsertParticipants(ctx, rows)
}

// orEpoch stands for no moment where a list of moments is handed over.
func orEpoch(at *time.Time) time.Time {
	if at == nil {
		return time.Unix(0, 0).UTC()
	}
	return *at
}

// SetInvited brings those who are there already to what is given.
func (t *Tx) SetInvited(ctx context.Context, all []schedule.Invited) error {
	if len(all) == 0 {
		return nil
	}
	var rows db.UpdateParticipantsParams
	for _, i := range all {
		rows.Ids, rows.Names, rows.Needed = append(rows.Ids, i.ID), append(rows.Names, i.Name), append(rows.Needed, i.Needed)
		rows.Answers, rows.Comments, rows.AnsweredAt = append(rows.Answers, string(i.Answer)), append(rows.Comments, i.Comment), append(rows.AnsweredAt, orEpoch(i.AnsweredAt))
		rows.Stamps, rows.Sent, rows.RemovedAt = append(rows.Stamps, i.AnswerStamp), append(rows.Sent, int32(i.SentSequence)), append(rows.RemovedAt, orEpoch(i.RemovedAt))
		rows.AnswerSequences, rows.OffVersions = append(rows.AnswerSequences, int32(i.AnswerSequence)), append(rows.OffVersions, int32(i.OffVersion))
	}
	return t.UpdateParticipants(ctx, rows)
}

// Invited is somebody invited, or who once was; it fails with ErrNotFound.
func (t *Tx) Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error) {
	return oneInvited(t.Participant(ctx, id))
}

// LockInvited is the same, and makes other transactions wait.
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
	return each(rows, toAnswerOn)
}

func toAnswerOn(a db.AnswerOn) (schedule.AnswerOn, error) {
	return schedule.AnswerOn{ParticipantID: a.ParticipantID, On: toDay(a.OnDay), Answer: meeting.Answer(a.Answer), Comment: a.Comment,
		AnsweredAt: a.AnsweredAt, Stamp: a.AnswerStamp, Sequence: int(a.AnswerSequence), SentSequence: int(a.SentSequence), Moved: a.Moved}, nil
}

// SetAnswersOn keeps answers to single dates in place of earlier ones.
func (t *Tx) SetAnswersOn(ctx context.Context, all []schedule.AnswerOn) error {
	if len(all) == 0 {
		return nil
	}
	var rows db.SetAnswersOnParams
	for _, a := range all {
		rows.Participants, rows.Days = append(rows.Participants, a.ParticipantID), append(rows.Days, dayTime(a.On))
		rows.Answers, rows.Comments, rows.AnsweredAt = append(rows.Answers, string(a.Answer)), append(rows.Comments, a.Comment), append(rows.AnsweredAt, orEpoch(a.AnsweredAt))
		rows.Stamps, rows.Sent = append(rows.Stamps, a.Stamp), append(rows.Sent, int32(a.SentSequence))
		rows.AnswerSequences, rows.Moved = append(rows.AnswerSequences, int32(a.Sequence)), append(rows.Moved, a.Moved)
	}
	return t.Queries.SetAnswersOn(ctx, rows)
}

// DropAnswersOn forgets the answers to single dates.
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
		out := schedule.Record{ID: r.ID, OrganiserID: r.OrganiserID}
		return out, readSnapshot(int(r.Schema), r.Content, &out.Content)
	})
}

// AddHappenings adds to the history of a meeting.
func (t *Tx) AddHappenings(ctx context.Context, meetingID uuid.UUID, all []schedule.Happening) error {
	if len(all) == 0 {
		return nil
	}
	rows := db.InsertHappeningsParams{MeetingID: meetingID, At: all[0].At}
	for _, h := range all {
		rows.Actors, rows.Kinds, rows.Facts = append(rows.Actors, h.Actor), append(rows.Kinds, string(h.Kind)), append(rows.Facts, string(happenedShape.write(h.Event)))
	}
	return t.InsertHappenings(ctx, rows)
}

// Happenings are the newest first.
func (t *Tx) Happenings(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.Happening, error) {
	rows, err := t.Queries.Happenings(ctx, db.HappeningsParams{MeetingID: meetingID, Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.HappeningsRow) (schedule.Happening, error) {
		h := schedule.Happening{At: r.At}
		err := happenedShape.read(r.Facts, &h.Event)
		h.Kind = meeting.EventKind(r.Kind)
		return h, err
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

// AddSendKey keeps what a Send with an idempotency key did.
func (t *Tx) AddSendKey(ctx context.Context, k schedule.SendKey, now time.Time) error {
	return t.InsertSendKey(ctx, db.InsertSendKeyParams{PersonID: k.PersonID, Key: k.Key, SheetID: k.SheetID,
		MeetingID: k.MeetingID, Told: int32(k.Told), CreatedAt: now})
}

// MeetingByUID finds a meeting by its UID.
func (t *Tx) MeetingByUID(ctx context.Context, uid string) (uuid.UUID, error) {
	id, err := t.Queries.MeetingByUID(ctx, uid)
	return id, domain(err)
}

// InvitedEver is everybody who was ever invited, those who still are first.
func (t *Tx) InvitedEver(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error) {
	rows, err := t.Queries.InvitedEver(ctx, meetingID)
	if err != nil {
		return nil, err
	}
	return each(rows, toInvited)
}
