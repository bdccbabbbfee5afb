package postgres

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// AddLetterIn keeps a mail; fresh is false when it is there already.
func (t *Tx) AddLetterIn(ctx context.Context, l schedule.LetterIn) (fresh bool, err error) {
	n, err := t.InsertLetterIn(ctx, db.InsertLetterInParams{ID: l.ID, MeetingID: l.MeetingID, Digest: l.Digest, FromName: l.FromName, FromEmail: l.FromEmail,
		SignedBy: l.SignedBy, Subject: l.Subject, Words: l.Words, Answers: writeAll(letterShape, l.Answers), Why: l.Why, State: string(l.State), ArrivedAt: l.ArrivedAt, Raw: l.Raw})
	return n == 1, err
}

// SetLetterIn keeps how a mail stands.
func (t *Tx) SetLetterIn(ctx context.Context, l schedule.LetterIn) error {
	return t.UpdateLetterIn(ctx, db.UpdateLetterInParams{ID: l.ID, State: string(l.State), Why: l.Why})
}

// LockLetterIn makes other transactions wait.
func (t *Tx) LockLetterIn(ctx context.Context, id uuid.UUID) (schedule.LetterIn, error) {
	row, err := t.Queries.LockLetterIn(ctx, id)
	if err != nil {
		return schedule.LetterIn{}, domain(err)
	}
	return toLetterIn(db.LettersInRow(row))
}

// LettersIn are the mails to a meeting, those to be decided first, then the newest.
func (t *Tx) LettersIn(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.LetterIn, error) {
	rows, err := t.Queries.LettersIn(ctx, db.LettersInParams{MeetingID: meetingID, Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, toLetterIn)
}

func toLetterIn(r db.LettersInRow) (schedule.LetterIn, error) {
	l := schedule.LetterIn{ID: r.ID, MeetingID: r.MeetingID, FromName: r.FromName, FromEmail: r.FromEmail, SignedBy: r.SignedBy, Subject: r.Subject,
		Words: r.Words, Why: r.Why, State: schedule.LetterState(r.State), ArrivedAt: r.ArrivedAt}
	var err error
	l.Answers, err = readAll[schedule.AnswerIn](letterShape, r.Answers)
	return l, err
}

// LetterRaw is a mail with what came.
func (t *Tx) LetterRaw(ctx context.Context, id uuid.UUID) (schedule.LetterIn, error) {
	row, err := t.LetterInRaw(ctx, id)
	if err != nil {
		return schedule.LetterIn{}, domain(err)
	}
	l, err := toLetterIn(db.LettersInRow{ID: row.ID, MeetingID: row.MeetingID, FromName: row.FromName, FromEmail: row.FromEmail, SignedBy: row.SignedBy,
		Subject: row.Subject, Words: row.Words, Answers: row.Answers, Why: row.Why, State: row.State, ArrivedAt: row.ArrivedAt})
	l.Raw = row.Raw
	return l, err
}

// DropLetterRaw forgets a mail as it came, once it is handed on.
func (t *Tx) DropLetterRaw(ctx context.Context, id uuid.UUID) error {
	return t.Queries.DropLetterRaw(ctx, id)
}
