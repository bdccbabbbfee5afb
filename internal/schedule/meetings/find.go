package meetings

import (
	"context"
	"strings"
	"time"
	"unicode"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// findTx is what is needed here of a transaction.
type findTx interface {
	directory.LookupTx
	FindMeetings(ctx context.Context, person uuid.UUID, words []string, window when.Span, now time.Time, page schedule.Page) ([]schedule.FoundMeeting, error)
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	MeetingsNotFound(ctx context.Context, most int) ([]uuid.UUID, error)
	SetFound(ctx context.Context, r schedule.Record) error
}

func (s *Deeds) findStore() schedule.Store[findTx] {
	return schedule.Narrow(s.Store, func(tx Tx) findTx { return tx })
}

// Found is a meeting that was searched for, as its reader may see it: with the date
// nearest to now, of a series.
type Found struct {
	schedule.FoundMeeting
	Date meeting.Date
}

// FoundList is what a search came to: meetings, and the day that what was typed is.
type FoundList struct {
	Items []Found
	Day   when.Day // to jump to, 0 for none
	Zone  when.Zone
}

// mostWords is how many words a search looks for.
const mostWords = 8

// Find searches the meetings that somebody may open, past, to come and called off, by
// words and what begins with them: of title, text, people and rooms. A month or a day
// among the words, at the beginning or the end, narrows it to dates in that month or on
// that day; alone it is where to jump to. It asks for one more than the page holds.
func (s *Deeds) Find(ctx context.Context, who schedule.Actor, text string, page schedule.Page) (l FoundList, err error) {
	err = s.findStore().Look(ctx, func(tx findTx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		l.Zone = p.Hours.Zone
		r := typed.Reader{Words: words.Typed, Today: l.Zone.LocalAt(when.At(s.Now())).Day, Order: schedule.DayOrder(ctx)}
		if day, noDay := r.Month(text); noDay == nil {
			l.Day = day
		}
		searched, window := narrowed(r, text, l.Zone)
		if len(searched) == 0 {
			return nil
		}
		found, err := tx.FindMeetings(ctx, who.For, searched, window, s.Now(), page)
		for _, f := range found {
			l.Items = append(l.Items, s.seen(f))
		}
		return err
	})
	return l, err
}

// always is a window that everything lies in.
var always = when.Span{Start: when.At(time.Date(when.FirstYear-1, 1, 1, 0, 0, 0, 0, time.UTC)), End: when.At(time.Date(when.LastYear+2, 1, 1, 0, 0, 0, 0, time.UTC))}

// narrowed takes a month or a day off the words of a search, and gives the window that
// it is.
func narrowed(r typed.Reader, text string, zone when.Zone) (found []string, window when.Span) {
	all := strings.Fields(text)
	for cut := min(3, len(all)-1); cut > 0; cut-- {
		for _, x := range [][2][]string{{all[:cut], all[cut:]}, {all[len(all)-cut:], all[:len(all)-cut]}} {
			said := strings.Join(x[0], " ")
			day, err := r.Month(said)
			if err != nil || !strings.ContainsFunc(said, unicode.IsLetter) && len(x[0]) == 1 && !strings.ContainsAny(said, "./-") {
				continue // a number alone may be anything
			}
			window := when.DaySpan(day, zone)
			if _, noDay := r.Day(said); noDay != nil {
				y, m, d := day.Date()
				window.End = when.DaySpan(when.DayOf(y, m+1, d), zone).Start
			}
			return searchable(x[1]), window
		}
	}
	return searchable(all), always
}

// searchable are words as they are searched for: those of letters and figures.
func searchable(all []string) (out []string) {
	for _, w := range all {
		for _, part := range meeting.Words(w) {
			if len(out) < mostWords {
				out = append(out, directory.Fold(part))
			}
		}
	}
	return out
}

// seen is a found meeting as its reader may see it.
func (s *Deeds) seen(f schedule.FoundMeeting) Found {
	out := Found{FoundMeeting: f}
	out.Content = f.Content.SeenBy(f.Reader)
	me, invited := f.Content.Participant(f.Reader)
	if f.On == 0 || invited && !me.On(f.On) {
		out.On = f.Content.Start.Day
		if invited {
			out.On = f.Content.NextOf(me, when.At(s.Now()))
		}
	}
	var ok bool
	if out.Date, ok = f.Content.Date(out.On); !ok {
		out.Date = meeting.Date{Title: f.Content.Title, Room: f.Content.Room}
		out.Date.On, out.Date.Span = out.On, f.Content.SpanFor(f.Reader)
	}
	return out
}

// FillFound has meetings be found that nobody can find yet: those from before there was
// a search.
func (s *Deeds) FillFound(ctx context.Context) error {
	const most = 200
	for {
		var missing []uuid.UUID
		err := s.findStore().Look(ctx, func(tx findTx) (err error) {
			missing, err = tx.MeetingsNotFound(ctx, most)
			return err
		})
		if err != nil || len(missing) == 0 {
			return err
		}
		for _, id := range missing {
			err := s.findStore().InTx(ctx, func(tx findTx) error {
				record, err := tx.LockMeeting(ctx, id)
				if err != nil {
					return err
				}
				return tx.SetFound(ctx, record)
			})
			if err != nil {
				return err
			}
		}
	}
}
