package dispatch

import (
	"context"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// listTx is what is needed here of a transaction.
type listTx interface {
	directory.LookupTx
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	NewestOfMeetings(ctx context.Context, ids []uuid.UUID) ([]schedule.Dispatch, error)
	ParticipantsOf(ctx context.Context, meetings []uuid.UUID) ([]schedule.Invited, error)
	SeenInside(ctx context.Context, meetings []uuid.UUID) (map[[2]uuid.UUID]time.Time, error)
	SentMeetings(ctx context.Context, organiser uuid.UUID, s schedule.Search, page schedule.Page) ([]uuid.UUID, error)
	TroubledOf(ctx context.Context, organiser uuid.UUID, since time.Time) (lost, other int, err error)
}

func (s *Deeds) listStore() schedule.Store[listTx] {
	return schedule.Narrow(s.Store, func(tx Tx) listTx { return tx })
}

// linesShown is how many messages of one meeting a list shows: those with something open first.
const linesShown = 40

// Line is the newest message to one person, and what became of it. SeenAt is when somebody
// inside read it here.
type Line struct {
	schedule.Dispatch
	To     schedule.Invited
	SeenAt *time.Time
}

// Answered tells whether its reader has answered since it was sent.
func (l Line) Answered() bool {
	return l.To.Answer != meeting.NoAnswer && l.To.AnsweredAt != nil && !l.To.AnsweredAt.Before(l.QueuedAt.Truncate(time.Second))
}

// Reached tells whether its reader has it, as far as anybody can know.
func (l Line) Reached() bool {
	return !l.Open() && (l.State == schedule.Handed || !l.MendedAt.IsZero()) || l.Answered()
}

// Troubled tells whether somebody should do something about it, or will have to: it may still be
// on its way.
func (l Line) Troubled() bool { return (l.Open() || l.Waits()) && !l.Reached() }

// Waits tells whether it is tried again.
func (l Line) Waits() bool { return l.Trouble == "" && l.State == schedule.Queued && l.Detail != "" }

// NotReached tells whether it was refused or returned, and its reader not reached in another way.
func (l Line) NotReached() bool { return l.Lost() && !l.Reached() }

// Sent is what went out about one meeting. All counts its people, Reached those who were
// reached; Lines are at most so many as are shown.
type Sent struct {
	schedule.Record
	Lines        []Line
	All, Reached int
	Mine         bool
}

// Overview is what went out, the newest first. Lost and Other count one's own messages with
// something open. Zone is the reader's.
type Overview struct {
	Sent        []Sent
	Lost, Other int
	Zone        when.Zone
	Keeper      bool // the reader may see the whole house
}

// openFor is how long after it was last sent a message counts as open in the counts.
const openFor = 400 * 24 * time.Hour

// List shows what went out and how far it came, of the meetings that somebody organises, or of
// the whole house for who keeps it. It fails with ErrNotFound where somebody else asks for the
// house.
func (s *Deeds) List(ctx context.Context, who schedule.Actor, search schedule.Search, page schedule.Page) (o Overview, err error) {
	if search.Words = strings.TrimSpace(search.Words); utf8.RuneCountInString(search.Words) > 100 {
		return o, schedule.Invalid("words", say.It("dispatch.searchLong"))
	}
	err = s.listStore().Look(ctx, func(tx listTx) error {
		me, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		if o.Zone, o.Keeper = me.Hours.Zone, me.KeepsProviders; search.House && !o.Keeper {
			return schedule.ErrNotFound
		}
		if o.Lost, o.Other, err = tx.TroubledOf(ctx, who.For, s.Now().Add(-openFor)); err != nil {
			return err
		}
		ids, err := tx.SentMeetings(ctx, who.For, search, page)
		if err != nil || len(ids) == 0 {
			return err
		}
		o.Sent, err = sentOf(ctx, tx, who, ids)
		return err
	})
	return o, err
}

func sentOf(ctx context.Context, tx listTx, who schedule.Actor, ids []uuid.UUID) ([]Sent, error) {
	newest, err := tx.NewestOfMeetings(ctx, ids)
	if err != nil {
		return nil, err
	}
	people, err := tx.ParticipantsOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	seen, err := tx.SeenInside(ctx, ids)
	if err != nil {
		return nil, err
	}
	byID := map[uuid.UUID]schedule.Invited{}
	for _, p := range people {
		byID[p.ID] = p
	}
	lines := map[uuid.UUID][]Line{}
	for _, d := range newest {
		l := Line{Dispatch: d, To: byID[d.ParticipantID]}
		if p := l.To.PersonID; p != nil {
			if at, is := seen[[2]uuid.UUID{d.MeetingID, *p}]; is && !at.Before(d.QueuedAt) {
				l.SeenAt = &at
			}
		}
		lines[d.MeetingID] = append(lines[d.MeetingID], l)
	}
	var out []Sent
	for _, id := range ids {
		record, err := tx.Meeting(ctx, id)
		if err != nil {
			return nil, err
		}
		x := Sent{Record: record, Lines: lines[id], All: len(lines[id]), Mine: record.OrganiserID == who.For}
		for _, l := range x.Lines {
			if l.Reached() {
				x.Reached++
			}
		}
		slices.SortStableFunc(x.Lines, byConcern)
		x.Lines = x.Lines[:min(len(x.Lines), linesShown)]
		out = append(out, x)
	}
	return out, nil
}

// byConcern has what somebody should look at stand first: lost, otherwise open, not answered,
// and then by name.
func byConcern(a, b Line) int {
	rank := func(l Line) int {
		switch {
		case l.Lost():
			return 0
		case l.Open():
			return 1
		case !l.Answered():
			return 2
		}
		return 3
	}
	if r := rank(a) - rank(b); r != 0 {
		return r
	}
	return strings.Compare(strings.ToLower(a.To.Name), strings.ToLower(b.To.Name))
}
