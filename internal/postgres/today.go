package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// LostMeetings are meetings of an organiser with a message that did not get to its reader, or is
// held up: with a date to come, or called off since a moment.
func (t *Tx) LostMeetings(ctx context.Context, organiser uuid.UUID, since, now time.Time) ([]uuid.UUID, error) {
	return t.Queries.LostMeetings(ctx, db.LostMeetingsParams{OrganiserID: organiser, Since: since, Now: now})
}

// OpenLetters are the answers by mail that an organiser has to decide about, by meeting.
func (t *Tx) OpenLetters(ctx context.Context, organiser uuid.UUID, now time.Time) (map[uuid.UUID][]loose.Mail, error) {
	rows, err := t.Queries.OpenLetters(ctx, db.OpenLettersParams{OrganiserID: organiser, Now: now})
	out := map[uuid.UUID][]loose.Mail{}
	for _, r := range rows {
		name := r.FromName
		if name == "" {
			name = r.FromEmail
		}
		m := loose.Mail{ID: r.ID.String(), Name: name}
		answers, err := readAll[schedule.AnswerIn](letterShape, r.Answers)
		if err != nil {
			return nil, err
		}
		for _, a := range answers {
			if a.Verdict.Open() {
				m.Verdict = a.Verdict
			}
		}
		out[r.MeetingID] = append(out[r.MeetingID], m)
	}
	return out, err
}

// AnswersOnOf are the answers to single dates of some meetings.
func (t *Tx) AnswersOnOf(ctx context.Context, meetings []uuid.UUID) ([]schedule.AnswerOn, error) {
	rows, err := t.Queries.AnswersOnOf(ctx, meetings)
	if err != nil {
		return nil, err
	}
	return each(rows, toAnswerOn)
}

// BookedDates are the dates of some meetings in a window that have a room, or have asked for one.
func (t *Tx) BookedDates(ctx context.Context, meetings []uuid.UUID, window when.Span) (map[uuid.UUID]map[when.Day]bool, error) {
	rows, err := t.Queries.BookedDates(ctx, db.BookedDatesParams{Meetings: meetings, Starts: window.Start.Time(), Ends: window.End.Time()})
	out := map[uuid.UUID]map[when.Day]bool{}
	for _, r := range rows {
		if out[r.MeetingID] == nil {
			out[r.MeetingID] = map[when.Day]bool{}
		}
		out[r.MeetingID][toDay(r.OnDay)] = true
	}
	return out, err
}

// CallEvents are what happened to the calls of some meetings, the newest first of each.
func (t *Tx) CallEvents(ctx context.Context, meetings []uuid.UUID) (map[uuid.UUID][]meeting.Event, error) {
	rows, err := t.Queries.CallEvents(ctx, meetings)
	out := map[uuid.UUID][]meeting.Event{}
	for _, r := range rows {
		e := meeting.Event{}
		if err := happenedShape.read(r.Facts, &e); err != nil {
			return nil, err
		}
		e.Kind = meeting.EventKind(r.Kind)
		out[r.MeetingID] = append(out[r.MeetingID], e)
	}
	return out, err
}

// AskedOf are meetings that wait for somebody's answer, the nearest first.
func (t *Tx) AskedOf(ctx context.Context, person uuid.UUID, now time.Time) ([]schedule.AskedTo, error) {
	rows, err := t.Queries.AskedOf(ctx, db.AskedOfParams{PersonID: &person, Now: now})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.AskedOfRow) (schedule.AskedTo, error) {
		return schedule.AskedTo{MeetingID: r.MeetingID, Participant: r.ParticipantID, Sequence: int(r.Sequence), Start: when.At(r.Starts)}, nil
	})
}

// LetBe are the loose ends that somebody lets be, by their keys.
func (t *Tx) LetBe(ctx context.Context, person uuid.UUID) (map[string]bool, error) {
	keys, err := t.Queries.LetBe(ctx, person)
	out := map[string]bool{}
	for _, k := range keys {
		out[k] = true
	}
	return out, err
}

// KeepLetBe keeps that somebody lets a loose end be.
func (t *Tx) KeepLetBe(ctx context.Context, person uuid.UUID, key string, at time.Time) error {
	return t.Queries.KeepLetBe(ctx, db.KeepLetBeParams{PersonID: person, Key: key, At: at})
}

// MorningsDue are those who wish a mail about the day.
func (t *Tx) MorningsDue(ctx context.Context, today when.Day) ([]uuid.UUID, error) {
	return t.Queries.MorningsDue(ctx, dayOrNull(today+1))
}

// SetMorningMail keeps whether somebody has a mail about the day.
func (t *Tx) SetMorningMail(ctx context.Context, person uuid.UUID, on bool) error {
	return t.Queries.SetMorningMail(ctx, db.SetMorningMailParams{ID: person, MorningMail: on})
}

// SetMorningMailed keeps on which day somebody last had theirs.
func (t *Tx) SetMorningMailed(ctx context.Context, person uuid.UUID, on when.Day) error {
	return t.Queries.SetMorningMailed(ctx, db.SetMorningMailedParams{ID: person, MorningMailed: dayOrNull(on)})
}

// SetNudges keeps whether who says nothing is asked again for somebody.
func (t *Tx) SetNudges(ctx context.Context, person uuid.UUID, on bool) error {
	return t.Queries.SetNudges(ctx, db.SetNudgesParams{ID: person, Nudges: on})
}

// SilentSoon are those who need to answer about a date that starts between two moments, did not,
// and had nothing since a third; of organisers who have them asked again. It is a page of them,
// from after the last one on.
func (t *Tx) SilentSoon(ctx context.Context, window when.Span, askedSince time.Time, last schedule.Silent, most int) ([]schedule.Silent, error) {
	ask := db.SilentSoonParams{After: window.Start.Time(), Before: window.End.Time(), AskedSince: askedSince, Last: last.Participant, Most: int32(most)}
	if last.Participant != uuid.Nil {
		ask.After = last.Start.Time()
	}
	rows, err := t.Queries.SilentSoon(ctx, ask)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.SilentSoonRow) (schedule.Silent, error) {
		zone, err := when.LoadZone(r.Zone)
		if err != nil {
			zone, err = when.LoadZone(r.MeetingZone)
		}
		return schedule.Silent{Participant: r.ParticipantID, Organiser: r.OrganiserID, Start: when.At(r.Starts), Zone: zone}, err
	})
}

// MailRemindersDue are the dates whose moment to remind by mail has come.
func (t *Tx) MailRemindersDue(ctx context.Context, now time.Time) ([]schedule.DueReminder, error) {
	since, last := now.Add(-loose.RemindLate), now.Add((meeting.ReminderLimit+1)*time.Minute)
	rows, err := t.Queries.MailRemindersDue(ctx, db.MailRemindersDueParams{Now: now, Since: since, Last: last})
	var out []schedule.DueReminder
	for _, r := range rows {
		out = append(out, schedule.DueReminder{MeetingID: r.ID, On: toDay(r.OnDay), Start: when.At(r.Starts), Before: int(r.Before), Settled: when.At(r.Settled)})
	}
	if err != nil {
		return nil, err
	}
	own, err := t.Queries.OwnMailRemindersDue(ctx, db.OwnMailRemindersDueParams{Now: now, Since: since, Last: last})
	for _, r := range own {
		out = append(out, schedule.DueReminder{MeetingID: r.MeetingID, Participant: r.ParticipantID, On: toDay(r.OnDay), Start: when.At(r.Starts), Before: int(r.Before), Settled: when.At(r.Settled)})
	}
	return out, err
}

// OwnReminders are those that somebody invited set for themselves.
func (t *Tx) OwnReminders(ctx context.Context, participant uuid.UUID) ([]meeting.Reminder, error) {
	rows, err := t.Queries.OwnReminders(ctx, participant)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.OwnRemindersRow) (meeting.Reminder, error) {
		return meeting.Reminder{Before: int(r.Before), Own: true, Mail: r.Mail}, nil
	})
}

// SetOwnReminders keeps them.
func (t *Tx) SetOwnReminders(ctx context.Context, participant uuid.UUID, all []meeting.Reminder, at time.Time) error {
	before, mail := []int32{}, []bool{}
	for _, r := range all {
		before, mail = append(before, int32(r.Before)), append(mail, r.Mail)
	}
	if err := t.Queries.DropOwnReminders(ctx, db.DropOwnRemindersParams{ParticipantID: participant, Before: before, Mail: mail}); err != nil {
		return err
	}
	return t.Queries.InsertOwnReminders(ctx, db.InsertOwnRemindersParams{ParticipantID: participant, Before: before, Mail: mail, SetAt: at})
}

// CarryOwnReminders has those of a series hold for the one that it goes on in.
func (t *Tx) CarryOwnReminders(ctx context.Context, was, next uuid.UUID) error {
	return t.Queries.CarryOwnReminders(ctx, db.CarryOwnRemindersParams{Was: was, Next: next})
}

// KeepReminded keeps that it was reminded of a date; first is false where it was before.
func (t *Tx) KeepReminded(ctx context.Context, d schedule.DueReminder) (first bool, err error) {
	n, err := t.InsertReminded(ctx, db.InsertRemindedParams{MeetingID: d.MeetingID, OnDay: dayTime(d.On), Before: int32(d.Before), Starts: d.Start.Time(), ParticipantID: idOrNull(d.Participant)})
	return n == 1, err
}

// SweepReminded drops what is over.
func (t *Tx) SweepReminded(ctx context.Context, before time.Time) error {
	return t.Queries.SweepReminded(ctx, before)
}
