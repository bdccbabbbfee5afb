package schedule

import (
	"context"
	"errors"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

// OpenSheet begins a meeting. Without a time it proposes the next full hour
// within the person's working hours.
func (s *Service) OpenSheet(ctx context.Context, me uuid.UUID, start, end string) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		p, err := person(ctx, tx, me)
		if err != nil {
			return err
		}
		if start == "" || end == "" {
			at := nextHour(p.Hours, when.At(s.Now()))
			start, end = at.String(), at.Add(time.Hour).String()
		}
		sheet = Sheet{ID: uuid.New(), OwnerID: me, Version: 1, UpdatedAt: s.Now(), Draft: meeting.Draft{
			Start: start, End: end, Zone: p.Hours.Zone.String(), RemindBefore: 15, People: []meeting.DraftPerson{}}}
		return tx.AddSheet(ctx, sheet)
	})
	return sheet, err
}

// nextHour is the first full hour after now with an hour worked, or simply the
// next one for somebody who does not work in the two weeks to come.
func nextHour(hours when.Hours, now when.Instant) when.Local {
	local := hours.Zone.LocalAt(now)
	first := when.Local{Day: local.Day, Clock: local.Clock / 60 * 60}.Add(time.Hour)
	worked := hours.Within(when.Span{Start: now, End: now.Add(14 * 24 * time.Hour)})
	for at := first; at.Sub(first) < 14*24*time.Hour; at = at.Add(time.Hour) {
		start, exists := hours.Zone.Resolve(at)
		if exists && worked.Covers(when.Span{Start: start, End: start.Add(time.Hour)}) {
			return at
		}
	}
	return first
}

// SheetView is a sheet with how it stands.
type SheetView struct {
	Sheet
	Of     *Record         // the meeting that it changes
	Faults []meeting.Fault // what keeps it from being sent
	Due    []Due           // whom Send would reach; nobody while there are faults
}

// Due is a message that Send would cause, and what it is about: "4 dates at
// 10:00", "28 January only".
type Due struct {
	meeting.Message
	Words string
}

// Sheet is one sheet of the owner, with how it stands.
func (s *Service) Sheet(ctx context.Context, me, id uuid.UUID) (v SheetView, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		if v.Sheet, v.Of, err = sheetAndMeeting(ctx, tx, me, id); err != nil {
			return err
		}
		st, err := s.settle(ctx, tx, v.Sheet, v.Of)
		var invalid *InvalidError
		if errors.As(err, &invalid) {
			v.Faults = invalid.Faults
			return nil
		}
		v.Due = st.words()
		return err
	})
	return v, err
}

func sheetAndMeeting(ctx context.Context, tx Tx, me, id uuid.UUID) (Sheet, *Record, error) {
	sheet, err := tx.Sheet(ctx, id, me)
	if err != nil || sheet.MeetingID == nil {
		return sheet, nil, err
	}
	record, err := tx.Meeting(ctx, *sheet.MeetingID)
	return sheet, &record, err
}

// words says of each message what it is about.
func (st settled) words() (out []Due) {
	say := func(m meeting.Meeting, due []meeting.Message, next bool) {
		for _, d := range due {
			out = append(out, Due{d, st.dueWords(m, d, next)})
		}
	}
	say(st.meeting, st.due, false)
	if st.next != nil {
		say(*st.next, st.dueNext, true)
	}
	return out
}

func (st settled) dueWords(m meeting.Meeting, d meeting.Message, next bool) string {
	if !m.Repeats() {
		return ""
	}
	switch {
	case len(d.On) > 0 && d.Kind == meeting.CallOff:
		return words.Days(d.On) + " called off"
	case len(d.On) > 0:
		return words.Days(d.On)
	case d.Kind == meeting.CallOff:
		return "no more dates"
	case next:
		return theirDates(m, d.To) + " " + st.nextWords()
	case st.next != nil:
		last, _ := m.Plan().Last()
		return "the old dates end with " + last.Words()
	}
	return theirDates(m, d.To)
}

// theirDates says how many dates somebody is invited to.
func theirDates(m meeting.Meeting, p meeting.Participant) string {
	if !p.Finite() && m.Plan().Open() {
		return "all dates, no end"
	}
	dates := m.DatesOf(p, m.Start.Day+10*meeting.Horizon)
	if len(dates) == 1 {
		return dates[0].Start.Day.Words() + " only"
	}
	return words.Count(len(dates), "date")
}

// Sheets are the owner's sheets, the last touched first.
func (s *Service) Sheets(ctx context.Context, me uuid.UUID, page Page) (sheets []Sheet, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		sheets, err = tx.Sheets(ctx, me, page)
		return err
	})
	return sheets, err
}

// SaveSheet keeps a draft as it was typed, right or not. It fails with a
// *VersionError when another window saved after version.
func (s *Service) SaveSheet(ctx context.Context, me, id uuid.UUID, version int, draft meeting.Draft) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		sheet, err = lockSheet(ctx, tx, me, id, version)
		if err != nil {
			return err
		}
		sheet.Draft = keepable(draft)
		return s.storeSheet(ctx, tx, &sheet)
	})
	return sheet, err
}

// lockSheet holds a sheet for a write that is based on version.
func lockSheet(ctx context.Context, tx Tx, me, id uuid.UUID, version int) (Sheet, error) {
	sheet, err := tx.LockSheet(ctx, id, me)
	if err != nil {
		return sheet, err
	}
	if sheet.Version != version {
		return sheet, &VersionError{Sheet: &sheet, Changed: "another window of yours saved this sheet"}
	}
	return sheet, nil
}

func (s *Service) storeSheet(ctx context.Context, tx Tx, sheet *Sheet) error {
	sheet.UpdatedAt = s.Now()
	sheet.Version++
	if err := tx.SetSheet(ctx, *sheet); err != nil {
		return err
	}
	return tx.Tell(ctx, []uuid.UUID{sheet.OwnerID}, uuid.Nil)
}

// keepable drops the one character that no database takes.
func keepable(d meeting.Draft) meeting.Draft {
	clean := func(text *string) { *text = strings.ReplaceAll(*text, "\x00", "") }
	for _, text := range []*string{&d.Title, &d.Text, &d.Start, &d.End, &d.Zone, &d.RoomID} {
		clean(text)
	}
	if d.Repeat != nil {
		repeat := *d.Repeat
		clean(&repeat.Rule)
		clean(&repeat.Until)
		d.Repeat = &repeat
	}
	people := make([]meeting.DraftPerson, len(d.People))
	for i, p := range d.People {
		clean(&p.Name)
		clean(&p.Email)
		people[i] = p
	}
	d.People = people
	return d
}

// DiscardSheet throws a sheet away; a link that was made for it is withdrawn.
func (s *Service) DiscardSheet(ctx context.Context, me, id uuid.UUID) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		sheet, of, err := sheetAndMeeting(ctx, tx, me, id)
		if err != nil {
			return err
		}
		if err := withdrawUnused(ctx, tx, me, sheet.Card, of); err != nil {
			return err
		}
		return tx.DropSheet(ctx, id)
	})
}

// withdrawUnused takes a call back at its provider when no meeting has it.
func withdrawUnused(ctx context.Context, tx Tx, owner uuid.UUID, card *join.Card, of *Record) error {
	if card == nil || of != nil && of.Content.Card != nil && of.Content.Card.URL == card.URL {
		return nil
	}
	return tx.QueueCallChange(ctx, CallChange{PersonID: owner, Card: *card, Withdraw: true})
}

// Opening is how changes to a meeting are begun. At is the date of a series that
// they begin at, by its day in the rule, 0 for the next one; Start is when it is
// moved to, 0 where it stays; One is whether that date alone is meant; Extend lets
// the series go on beyond its end.
type Opening struct {
	At     when.Day
	Start  when.Instant
	One    bool
	Extend bool
}

// ChangeMeeting opens the sheet of a meeting: the one begun already, or a new
// one that holds the meeting as it is, but for what the opening says. Only the
// organiser can.
func (s *Service) ChangeMeeting(ctx context.Context, me, id uuid.UUID, o Opening) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		record, err := organised(ctx, tx, me, id)
		if err != nil {
			return err
		}
		sheet, err = tx.SheetForMeeting(ctx, id, me)
		sheetID := uuid.New()
		switch {
		case err == nil && sheet.Version > 1:
			return nil // changes begun already are not lost
		case err == nil:
			sheetID = sheet.ID
			if err := tx.DropSheet(ctx, sheet.ID); err != nil {
				return err
			}
		case !errors.Is(err, ErrNotFound):
			return err
		}
		sheet = Sheet{ID: sheetID, OwnerID: me, MeetingID: &id, BasedOn: record.Version,
			Draft: o.draft(record.Content, record.Content.Next(when.At(s.Now()))), Card: record.Content.Card, Version: 1, UpdatedAt: s.Now()}
		return tx.AddSheet(ctx, sheet)
	})
	return sheet, err
}

func (o Opening) draft(m meeting.Meeting, next when.Day) meeting.Draft {
	at := o.At
	if date, is := m.Date(at); !is || date.On < next {
		at = next
	}
	d := meeting.DraftOf(m, at)
	if o.Start != 0 {
		date, _ := m.Date(at)
		start := m.StartIn().Zone.LocalAt(o.Start)
		d.Start, d.End = start.String(), start.Add(date.End.Sub(date.Start)).String()
	}
	if d.Scope == nil {
		return d
	}
	if o.One {
		d.Scope.To = d.Scope.From
	}
	if last, ends := m.Plan().Last(); o.Extend && ends {
		d.Repeat.Ends, d.Repeat.Until, d.Repeat.Count = "on", extended(m, last).String(), 0
	}
	return d
}

// extended is the day up to which a series goes on for as many dates as it has,
// twelve at the most.
func extended(m meeting.Meeting, last when.Day) when.Day {
	plan := m.Plan()
	had := len(plan.Upto(last))
	plan.Rule.Until = recur.Until{}
	more := 0
	for d := range plan.Dates(last + 1) {
		if last, more = d.On, more+1; more == min(max(had, 1), 12) {
			break
		}
	}
	return last
}

// RebaseSheet starts a sheet of changes again from the meeting as it is now.
func (s *Service) RebaseSheet(ctx context.Context, me, id uuid.UUID, version int) (sheet Sheet, err error) {
	err = s.Store.InTx(ctx, func(tx Tx) error {
		if sheet, err = lockSheet(ctx, tx, me, id, version); err != nil {
			return err
		}
		if sheet.MeetingID == nil {
			return ErrNotFound
		}
		record, err := organised(ctx, tx, me, *sheet.MeetingID)
		if err != nil {
			return err
		}
		if err := withdrawUnused(ctx, tx, me, sheet.Card, &record); err != nil {
			return err
		}
		o := Opening{}
		if scope := sheet.Draft.Scope; scope != nil {
			o.At, _ = when.ParseDay(scope.At)
		}
		sheet.BasedOn, sheet.Card = record.Version, record.Content.Card
		sheet.Draft = o.draft(record.Content, record.Content.Next(when.At(s.Now())))
		return s.storeSheet(ctx, tx, &sheet)
	})
	return sheet, err
}

// organised locks a meeting that me organises and that is still on.
func organised(ctx context.Context, tx Tx, me, id uuid.UUID) (Record, error) {
	record, err := tx.LockMeeting(ctx, id)
	switch {
	case err != nil:
		return record, err
	case record.OrganiserID != me:
		return record, ErrNotFound
	case record.CalledOffAt != nil:
		return record, ErrCalledOff
	}
	return record, nil
}
