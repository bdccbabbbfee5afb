package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// newsFacts is how news are kept: those of an event with its kind beside it.
type newsFacts struct {
	meeting.News
	EventKind meeting.EventKind `json:"eventKind,omitempty"`
}

func toNews(n db.News) (schedule.News, error) {
	var f newsFacts
	out := schedule.News{ID: n.ID, PersonID: n.PersonID, MeetingID: idOr(n.MeetingID), SheetID: idOr(n.SheetID), Kind: schedule.NewsKind(n.Kind), At: n.At, ReadAt: n.ReadAt}
	err := newsShape.read(n.Facts, &f)
	if out.News = f.News; f.Event != nil {
		out.Event.Kind = f.EventKind
	}
	return out, err
}

// AddNews keeps what is new for some people.
func (t *Tx) AddNews(ctx context.Context, all []schedule.News) error {
	if len(all) == 0 {
		return nil
	}
	rows := db.InsertNewsParams{At: all[0].At}
	for _, n := range all {
		f := newsFacts{News: n.News}
		if n.Event != nil {
			f.EventKind = n.Event.Kind
		}
		rows.Ids, rows.People, rows.Meetings = append(rows.Ids, n.ID), append(rows.People, n.PersonID), append(rows.Meetings, n.MeetingID)
		rows.Sheets = append(rows.Sheets, n.SheetID)
		rows.Kinds, rows.Facts = append(rows.Kinds, string(n.Kind)), append(rows.Facts, string(newsShape.write(f)))
	}
	return t.InsertNews(ctx, rows)
}

// NewsOf is what is new for somebody, the newest first.
func (t *Tx) NewsOf(ctx context.Context, person uuid.UUID, page schedule.Page, now time.Time) ([]schedule.NewsItem, error) {
	rows, err := t.News(ctx, db.NewsParams{PersonID: person, Most: int32(page.Most), Skip: int32(page.Skip), Now: now})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.NewsRow) (schedule.NewsItem, error) {
		n, err := toNews(r.News)
		return schedule.NewsItem{News: n, OrganiserID: r.OrganiserID, CalledOff: r.CalledOffAt != nil, ParticipantID: r.ParticipantID,
			Waits: r.Waits, WasOff: r.WasOff, Sequence: int(r.Sequence), Decides: r.Decides}, err
	})
}

// UnreadNews counts what somebody has not read, up to a thousand.
func (t *Tx) UnreadNews(ctx context.Context, person uuid.UUID) (int, error) {
	n, err := t.Queries.UnreadNews(ctx, person)
	return int(n), err
}

// ReadNews marks what is new for somebody as read: some, all of a meeting, and
// everything up to a moment. It tells whether there was any.
func (t *Tx) ReadNews(ctx context.Context, person uuid.UUID, ids []uuid.UUID, meetingID uuid.UUID, upTo, now time.Time) (bool, error) {
	n, err := t.Queries.ReadNews(ctx, db.ReadNewsParams{PersonID: person, Ids: ids, MeetingID: meetingID, UpTo: upTo, Now: now})
	return n > 0, err
}

// NewsToMail are those to whom nobody told by mail what is new between two moments, with
// when the latest of it was.
func (t *Tx) NewsToMail(ctx context.Context, since, before, awaySince time.Time) (map[uuid.UUID]time.Time, error) {
	rows, err := t.Queries.NewsToMail(ctx, db.NewsToMailParams{Since: since, Before: before, AwaySince: awaySince})
	out := map[uuid.UUID]time.Time{}
	for _, r := range rows {
		out[r.PersonID] = r.Latest
	}
	return out, err
}

// UnmailedNews is what somebody was not told by mail, up to a moment, the oldest first.
func (t *Tx) UnmailedNews(ctx context.Context, person uuid.UUID, upTo time.Time) ([]schedule.News, error) {
	rows, err := t.Queries.UnmailedNews(ctx, db.UnmailedNewsParams{PersonID: person, UpTo: upTo})
	if err != nil {
		return nil, err
	}
	return each(rows, toNews)
}

// SetNewsMailed keeps up to when somebody was told by mail what is new.
func (t *Tx) SetNewsMailed(ctx context.Context, person uuid.UUID, upTo, now time.Time) error {
	return t.Queries.SetNewsMailed(ctx, db.SetNewsMailedParams{PersonID: person, UpTo: upTo, Now: &now})
}

// SetNewsMail keeps whether somebody is told by mail.
func (t *Tx) SetNewsMail(ctx context.Context, person uuid.UUID, how schedule.NewsMail) error {
	return t.Queries.SetNewsMail(ctx, db.SetNewsMailParams{ID: person, NewsMail: string(how)})
}

// clashing are the kinds of time that count as a clash, as they are kept.
var clashing = func() (out []string) {
	for _, k := range availability.Clashing {
		out = append(out, string(k))
	}
	return out
}()

// OwnClashes is what somebody has at the dates to come of some meetings.
func (t *Tx) OwnClashes(ctx context.Context, person uuid.UUID, meetings []uuid.UUID, now time.Time) ([]schedule.OwnClash, error) {
	if len(meetings) == 0 {
		return nil, nil
	}
	rows, err := t.Queries.OwnClashes(ctx, db.OwnClashesParams{PersonID: &person, Meetings: meetings, Now: now, Kinds: clashing})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.OwnClashesRow) (schedule.OwnClash, error) {
		return schedule.OwnClash{MeetingID: r.MeetingID, On: toDay(r.OnDay), Title: r.Title, Leave: availability.Kind(r.Kind) == availability.Leave, Start: when.At(r.OtherStarts)}, nil
	})
}
