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

// SetFound has a version be found by everybody who may open it, and by nobody else.
func (t *Tx) SetFound(ctx context.Context, r schedule.Record) error {
	if err := t.DeleteFound(ctx, r.ID); err != nil {
		return err
	}
	rows := db.InsertFoundParams{MeetingID: r.ID}
	which := map[[2]string]int32{} // which text is whose
	add := func(person uuid.UUID, reader string) {
		title, words := r.Content.Findable(reader)
		text := [2]string{title, words}
		if which[text] == 0 {
			which[text] = int32(len(which) + 1)
			rows.Titles, rows.Words = append(rows.Titles, searched(title)), append(rows.Words, searched(words))
		}
		rows.People, rows.Which = append(rows.People, person), append(rows.Which, which[text])
		rows.Starts = append(rows.Starts, r.Content.SpanFor(reader).Start.Time())
	}
	add(r.OrganiserID, "")
	for _, p := range r.Content.Participants {
		if id, err := uuid.Parse(p.PersonID); err == nil {
			add(id, p.ID)
		}
	}
	return t.InsertFound(ctx, rows)
}

// mostSearched is how many bytes of a text are searched: PostgreSQL takes a mebibyte of
// lexemes at the most.
const mostSearched = 200_000

// searched is a text as its words are searched for.
func searched(text string) string {
	if len(text) > mostSearched {
		text = strings.ToValidUTF8(text[:mostSearched], "")
	}
	return strings.Join(meeting.Words(text), " ")
}

// lexemes is a query for meetings that hold all words, or words that begin with them
// (to_tsquery of PostgreSQL).
func lexemes(words []string) string {
	quoted := make([]string, len(words))
	for i, w := range words {
		quoted[i] = "'" + strings.NewReplacer(`\`, `\\`, `'`, `''`).Replace(w) + "':*"
	}
	return strings.Join(quoted, " & ")
}

// FindMeetings are those that somebody may open and that hold all words, with a date
// within a window.
func (t *Tx) FindMeetings(ctx context.Context, person uuid.UUID, words []string, window when.Span, now time.Time, page schedule.Page) ([]schedule.FoundMeeting, error) {
	rows, err := t.Queries.FindMeetings(ctx, db.FindMeetingsParams{PersonID: &person, Words: lexemes(words), Since: window.Start.Time(), Until: window.End.Time(),
		Now: now, Most: int32(page.Most), Skip: int32(page.Skip)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.FindMeetingsRow) (schedule.FoundMeeting, error) {
		f := schedule.FoundMeeting{ID: r.ID, OrganiserID: r.OrganiserID, CalledOff: r.CalledOffAt != nil, On: toDay(r.OnDay)}
		if r.ParticipantID != nil {
			f.Reader = r.ParticipantID.String()
		}
		return f, readSnapshot(int(r.Schema), r.Content, &f.Content)
	})
}

// MeetingsNotFound are some that nobody can find yet.
func (t *Tx) MeetingsNotFound(ctx context.Context, most int) ([]uuid.UUID, error) {
	return t.Queries.MeetingsNotFound(ctx, int32(most))
}

// DaysWithMeetings are on how many occasions somebody's time is taken on each day.
func (t *Tx) DaysWithMeetings(ctx context.Context, person uuid.UUID, window when.Span, zone when.Zone) (map[when.Day]int, error) {
	rows, err := t.Queries.DaysWithMeetings(ctx, db.DaysWithMeetingsParams{PersonID: person, Starts: window.Start.Time(), Ends: window.End.Time(), Zone: zone.String()})
	out := map[when.Day]int{}
	for _, r := range rows {
		out[toDay(r.Day)] = int(r.Meetings)
	}
	return out, err
}
