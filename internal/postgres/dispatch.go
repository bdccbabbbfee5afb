package postgres

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
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
		Kind: meeting.Kind(d.Kind), Channel: schedule.Channel(d.Channel), Said: schedule.Said{Words: d.Words, Cover: d.Cover, Subject: d.Subject}, State: schedule.State(d.State),
		Detail: d.Detail, QueuedAt: d.QueuedAt, HandedAt: d.HandedAt, Stamp: stamp, IDs: ids, Address: d.Address, Progress: toProgress(d), Mended: schedule.Mending(d.Mended)}, nil
}

func toProgress(d db.Dispatch) reach.Progress {
	p := reach.Progress{Stage: reach.Kind(d.Stage), Trouble: reach.Kind(d.Trouble)}
	for at, from := range map[*time.Time]*time.Time{&p.StageAt: d.StageAt, &p.MendedAt: d.MendedAt} {
		if from != nil {
			*at = *from
		}
	}
	if d.TroubleAt != nil {
		p.Heard = reach.Event{At: *d.TroubleAt, Kind: p.Trouble, Server: d.TroubleServer, Code: reach.FindCode(d.TroubleCode), Said: d.TroubleSaid}
	}
	return p
}

// orNull is a moment that may be none.
func orNull(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
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
		rows.Covers, rows.Subjects = append(rows.Covers, d.Cover), append(rows.Subjects, d.Subject)
		rows.Words, rows.States, rows.QueuedAt = append(rows.Words, d.Words), append(rows.States, string(d.State)), append(rows.QueuedAt, d.QueuedAt)
		rows.Addresses, rows.Stages = append(rows.Addresses, d.Address), append(rows.Stages, string(d.Stage))
		rows.HandedAt, rows.Days = append(rows.HandedAt, orEpoch(d.HandedAt)), append(rows.Days, strings.Join(days, ","))
	}
	if err := t.InsertDispatches(ctx, rows); err != nil {
		return err
	}
	// What is told anew in full, to the end of it, says all that an earlier message did.
	var whole []uuid.UUID
	for _, d := range all {
		if d.Whole() {
			whole = append(whole, d.ParticipantID)
		}
	}
	if len(whole) > 0 {
		if err := t.MendOlder(ctx, whole, rows.Ids, schedule.MendedAgain, all[0].QueuedAt); err != nil {
			return err
		}
	}
	return t.SetMeetingsSent(ctx, db.SetMeetingsSentParams{At: &all[0].QueuedAt, Ids: rows.Meetings})
}

// AddDispatchEvents keeps what was heard of a message.
func (t *Tx) AddDispatchEvents(ctx context.Context, id uuid.UUID, all []reach.Event) error {
	rows := db.InsertDispatchEventsParams{DispatchID: id}
	for _, e := range all {
		rows.At, rows.Kinds, rows.Addresses = append(rows.At, e.At), append(rows.Kinds, string(e.Kind)), append(rows.Addresses, e.Address)
		rows.Servers, rows.Codes, rows.Said = append(rows.Servers, e.Server), append(rows.Codes, e.Code.String()), append(rows.Said, e.Said)
	}
	return t.InsertDispatchEvents(ctx, rows)
}

// DispatchEvents are what was heard of some messages, the newest first.
func (t *Tx) DispatchEvents(ctx context.Context, ids []uuid.UUID) (map[uuid.UUID][]reach.Event, error) {
	rows, err := t.Queries.DispatchEvents(ctx, ids)
	out := map[uuid.UUID][]reach.Event{}
	for _, r := range rows {
		out[r.DispatchID] = append(out[r.DispatchID], reach.Event{At: r.At, Kind: reach.Kind(r.Kind), Address: r.Address, Server: r.Server, Code: reach.FindCode(r.Code), Said: r.Said})
	}
	return out, err
}

// SentMeetings are the meetings about which an organiser sent something, or anybody in the
// house, the newest first.
func (t *Tx) SentMeetings(ctx context.Context, organiser uuid.UUID, s schedule.Search, page schedule.Page) ([]uuid.UUID, error) {
	words := ""
	if s.Words != "" {
		words = "%" + likeWords.Replace(s.Words) + "%"
	}
	if s.House {
		return t.SentInHouse(ctx, db.SentInHouseParams{Troubled: s.Troubled, Words: words, Most: int32(page.Most), Skip: int32(page.Skip)})
	}
	return t.Queries.SentMeetings(ctx, db.SentMeetingsParams{OrganiserID: organiser, Troubled: s.Troubled, Words: words, Most: int32(page.Most), Skip: int32(page.Skip)})
}

var likeWords = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// TroubledOf counts the messages of an organiser that are lost, and those with another trouble,
// about meetings of which something was sent since a moment.
func (t *Tx) TroubledOf(ctx context.Context, organiser uuid.UUID, since time.Time) (lost, other int, err error) {
	row, err := t.Queries.TroubledOf(ctx, db.TroubledOfParams{OrganiserID: organiser, Since: &since})
	return int(row.Lost), int(row.Other), err
}

// NewestOfMeetings are the newest messages to each participant of some meetings; one that did
// not get there stands before what was sent since.
func (t *Tx) NewestOfMeetings(ctx context.Context, ids []uuid.UUID) ([]schedule.Dispatch, error) {
	rows, err := t.Queries.NewestOfMeetings(ctx, ids)
	if err != nil {
		return nil, err
	}
	return each(rows, toDispatch)
}

// ParticipantsOf is everybody who was ever invited to some meetings.
func (t *Tx) ParticipantsOf(ctx context.Context, meetings []uuid.UUID) ([]schedule.Invited, error) {
	rows, err := t.Queries.ParticipantsOf(ctx, meetings)
	if err != nil {
		return nil, err
	}
	return each(rows, toInvited)
}

// SeenInside is when people inside last read what is new about some meetings, by meeting and
// person.
func (t *Tx) SeenInside(ctx context.Context, meetings []uuid.UUID) (map[[2]uuid.UUID]time.Time, error) {
	rows, err := t.Queries.SeenInside(ctx, meetings)
	out := map[[2]uuid.UUID]time.Time{}
	for _, r := range rows {
		out[[2]uuid.UUID{idOr(r.MeetingID), r.PersonID}] = r.ReadAt
	}
	return out, err
}

// MendOlder ends what is open of other messages to some participants.
func (t *Tx) MendOlder(ctx context.Context, participants, but []uuid.UUID, how schedule.Mending, at time.Time) error {
	return t.Queries.MendOlder(ctx, db.MendOlderParams{At: &at, Mended: string(how), Participants: participants, But: but})
}

// SawPage keeps which version of the meeting somebody's page has shown.
func (t *Tx) SawPage(ctx context.Context, participant uuid.UUID, version int) error {
	return t.Queries.SawPage(ctx, db.SawPageParams{ID: participant, Version: int32(version)})
}

// SetReachAt says where somebody invited is reached from now on.
func (t *Tx) SetReachAt(ctx context.Context, participant uuid.UUID, email string) error {
	return t.Queries.SetReachAt(ctx, db.SetReachAtParams{ID: participant, ReachAt: email})
}

// KeepAlias keeps that two addresses are those of one person, as somebody knows.
func (t *Tx) KeepAlias(ctx context.Context, person uuid.UUID, email, also string, at time.Time) error {
	return t.Queries.KeepAlias(ctx, db.KeepAliasParams{PersonID: person, Email: email, Also: also, LearntAt: at})
}

// KnownAddresses are other addresses of somebody, as far as an organiser knows, those that they
// learnt first.
func (t *Tx) KnownAddresses(ctx context.Context, organiser uuid.UUID, name, email string) (out []schedule.KnownAddress, err error) {
	learnt, err := t.AliasesOf(ctx, db.AliasesOfParams{PersonID: organiser, Email: email})
	if err != nil {
		return nil, err
	}
	for _, a := range learnt {
		out = append(out, schedule.KnownAddress{Email: a.Address, At: a.LearntAt})
	}
	reached, err := t.OtherAddresses(ctx, db.OtherAddressesParams{OrganiserID: organiser, Name: name, Email: email})
	for _, r := range reached {
		if !slices.ContainsFunc(out, func(k schedule.KnownAddress) bool { return k.Email == r.Address }) {
			out = append(out, schedule.KnownAddress{Email: r.Address, MeetingID: r.MeetingID, At: r.At})
		}
	}
	return out, err
}

// NewestMail is the newest mail to a participant; it fails with ErrNotFound.
func (t *Tx) NewestMail(ctx context.Context, participant uuid.UUID) (uuid.UUID, error) {
	id, err := t.Queries.NewestMail(ctx, participant)
	return id, domain(err)
}

// Dispatch is a message; it fails with ErrNotFound.
func (t *Tx) Dispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error) {
	return oneDispatch(t.Queries.Dispatch(ctx, id))
}

// LockDispatch is the same, and makes other transactions wait.
func (t *Tx) LockDispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error) {
	return oneDispatch(t.Queries.LockDispatch(ctx, id))
}

// SetDispatch keeps what became of a message.
func (t *Tx) SetDispatch(ctx context.Context, d schedule.Dispatch) error {
	return t.UpdateDispatch(ctx, db.UpdateDispatchParams{ID: d.ID, State: string(d.State), Detail: d.Detail, HandedAt: d.HandedAt,
		Stage: string(d.Stage), StageAt: orNull(d.StageAt), Trouble: string(d.Trouble), TroubleAt: orNull(d.Heard.At), TroubleCode: d.Heard.Code.String(),
		TroubleServer: d.Heard.Server, TroubleSaid: d.Heard.Said, MendedAt: orNull(d.MendedAt), Mended: string(d.Mended)})
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
