package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/queue"
	"jembro/internal/schedule"
)

// InvitationOf is the one of somebody about a meeting outside, locked; it fails with ErrNotFound.
func (t *Tx) InvitationOf(ctx context.Context, person uuid.UUID, uid string) (schedule.Invitation, error) {
	return oneInvitation(t.Queries.InvitationOf(ctx, db.InvitationOfParams{PersonID: person, Uid: uid}))
}

// InvitationOfRoom is the one that asks for a room, locked; it fails with ErrNotFound.
func (t *Tx) InvitationOfRoom(ctx context.Context, room uuid.UUID, uid string) (schedule.Invitation, error) {
	return oneInvitation(t.Queries.InvitationOfRoom(ctx, db.InvitationOfRoomParams{RoomID: room, Uid: uid}))
}

// BookFromOutside replaces what an invitation books of its room, which is locked, and says how much
// of it could be had.
func (t *Tx) BookFromOutside(ctx context.Context, i schedule.Invitation, spans []when.Span, at time.Time) (booked int, err error) {
	if err := t.DropOutsideBookings(ctx, i.ID); err != nil || len(spans) == 0 {
		return 0, err
	}
	p := db.InsertOutsideBookingsParams{RoomID: *i.RoomID, OwnerID: i.PersonID, InvitationID: i.ID, BookedAt: at}
	for _, s := range spans {
		p.Starts, p.Ends = append(p.Starts, s.Start.Time()), append(p.Ends, s.End.Time())
	}
	n, err := t.InsertOutsideBookings(ctx, p)
	return int(n), err
}

// Invitation fails with ErrNotFound.
func (t *Tx) Invitation(ctx context.Context, id uuid.UUID) (schedule.Invitation, error) {
	return oneInvitation(t.Queries.Invitation(ctx, id))
}

// LockInvitation makes other transactions wait.
func (t *Tx) LockInvitation(ctx context.Context, id uuid.UUID) (schedule.Invitation, error) {
	return oneInvitation(t.Queries.LockInvitation(ctx, id))
}

func oneInvitation(r db.Invitation, err error) (schedule.Invitation, error) {
	if err != nil {
		return schedule.Invitation{}, domain(err)
	}
	i := schedule.Invitation{ID: r.ID, RoomID: r.RoomID, PersonID: r.PersonID, UID: r.Uid, OrganiserName: r.OrganiserName, Organiser: r.Organiser, Attendee: r.Attendee, Title: r.Title,
		Answer: meeting.Answer(r.Answer), Comment: r.Comment, AnsweredAt: r.AnsweredAt, Reply: schedule.State(r.Reply), ReplyDetail: r.ReplyDetail, Version: int(r.Version),
		ArrivedAt: r.ArrivedAt, ChangedAt: r.ChangedAt, ExpandedOn: toDay(r.ExpandedOn)}
	if r.Waiting != nil {
		if err := heldBackShape.read(r.Waiting, &i.Waiting); err != nil {
			return i, err
		}
	}
	for _, on := range r.Replying {
		i.Replying = append(i.Replying, when.Instant(on))
	}
	if i.Answers, err = readAll[schedule.InvitationAnswer](answersShape, r.Answers); err != nil {
		return i, err
	}
	return i, invitationShape.read(r.State, &i.State)
}

// KeepInvitation keeps one, with its dates where they are given, and the time that they take.
func (t *Tx) KeepInvitation(ctx context.Context, i schedule.Invitation) error {
	p := db.KeepInvitationParams{ID: i.ID, RoomID: i.RoomID, PersonID: i.PersonID, Uid: i.UID, State: invitationShape.write(i.State), OrganiserName: i.OrganiserName, Organiser: i.Organiser, Attendee: i.Attendee,
		Title: i.Title, Answer: string(i.Answer), Comment: i.Comment, AnsweredAt: i.AnsweredAt, Reply: string(i.Reply), ReplyDetail: i.ReplyDetail, Off: i.State.Off,
		Version: int32(i.Version), ArrivedAt: i.ArrivedAt, ChangedAt: i.ChangedAt, ExpandedOn: dayTime(i.ExpandedOn), Answers: writeAll(answersShape, i.Answers), Replying: []int64{}}
	for _, on := range i.Replying {
		p.Replying = append(p.Replying, int64(on))
	}
	if i.Waiting != nil {
		p.Waiting = heldBackShape.write(i.Waiting)
	}
	return t.Queries.KeepInvitation(ctx, p)
}

// SetInvitationDates replaces the dates of an invitation.
func (t *Tx) SetInvitationDates(ctx context.Context, id uuid.UUID, all []schedule.CalendarEntry) error {
	if err := t.DropInvitationDates(ctx, id); err != nil {
		return err
	}
	p := db.InsertInvitationDatesParams{ID: id}
	for _, e := range all {
		p.Starts, p.Ends = append(p.Starts, e.Span.Start.Time()), append(p.Ends, e.Span.End.Time())
		p.Titles, p.WholeDays, p.Free = append(p.Titles, e.Title), append(p.WholeDays, e.WholeDay), append(p.Free, e.Kind == availability.Free)
		p.Answers = append(p.Answers, string(e.Answer))
	}
	return t.InsertInvitationDates(ctx, p)
}

// InvitationDates are those in a window of what somebody is invited to by people outside.
func (t *Tx) InvitationDates(ctx context.Context, person uuid.UUID, window when.Span) ([]schedule.CalendarEntry, error) {
	rows, err := t.Queries.InvitationDates(ctx, db.InvitationDatesParams{PersonID: person, Begins: window.Start.Time(), Ends: window.End.Time()})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.InvitationDatesRow) (schedule.CalendarEntry, error) {
		e := schedule.CalendarEntry{UID: r.Uid, Title: r.Title, Span: toSpan(r.Starts, r.Ends), Kind: availability.Busy, WholeDay: r.WholeDay, Calendar: r.OrganiserName,
			Counts: true, Invitation: r.ID, Answer: meeting.Answer(r.Answer)}
		if e.Calendar == "" {
			e.Calendar = r.Organiser
		}
		switch {
		case r.Free || e.Answer == meeting.Declined:
			e.Kind = availability.Free
		case e.Answer != meeting.Accepted:
			e.Kind = availability.Maybe
		}
		return e, nil
	})
}

// OpenInvitations are those that wait for somebody, the nearest first.
func (t *Tx) OpenInvitations(ctx context.Context, person uuid.UUID, now time.Time) (out []schedule.OpenInvitation, err error) {
	rows, err := t.Queries.OpenInvitations(ctx, db.OpenInvitationsParams{PersonID: person, Now: now})
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		i, err := t.Invitation(ctx, r.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, schedule.OpenInvitation{Invitation: i, Start: when.At(r.Starts)})
	}
	return out, nil
}

// InvitationsToRoll are those whose dates were last written before a day, by their ID.
func (t *Tx) InvitationsToRoll(ctx context.Context, before when.Day, after uuid.UUID) ([]uuid.UUID, error) {
	return t.Queries.InvitationsToRoll(ctx, db.InvitationsToRollParams{Before: dayTime(before), After: after})
}

// QueueReply has an answer sent when the transaction is kept.
func (t *Tx) QueueReply(ctx context.Context, invitation uuid.UUID, version int) error {
	_, err := t.river.InsertTx(ctx, t.pgx, queue.Reply{InvitationID: invitation, Version: version}, nil)
	return err
}
