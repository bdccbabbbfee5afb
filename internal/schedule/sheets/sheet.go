package sheets

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/core/availability"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/meetings"
)

// viewTx is what is needed here of a transaction.
type viewTx interface {
	LinkTx
	freshTx
	readTx
	settleTx
	typedTx
	Holds(ctx context.Context, sheetID uuid.UUID) ([]schedule.RoomHold, error)
	Waiting(ctx context.Context, sheetID uuid.UUID) (*schedule.Waiting, error)
}

func (s *Deeds) viewStore() schedule.Store[viewTx] {
	return schedule.Narrow(s.Store, func(tx Tx) viewTx { return tx })
}

// beginTx is what is needed of a transaction to begin a sheet.
type beginTx interface {
	freshTx
	AddSheet(ctx context.Context, s schedule.Sheet) error
}

func (s *Deeds) beginStore() schedule.Store[beginTx] {
	return schedule.Narrow(s.Store, func(tx Tx) beginTx { return tx })
}

// OpenSheet begins a meeting. Without a time it proposes the next full hour of the
// person's working hours in which they have nothing.
func (s *Deeds) OpenSheet(ctx context.Context, who schedule.Actor, start, end string) (sheet schedule.Sheet, err error) {
	err = s.beginStore().InTx(ctx, func(tx beginTx) error {
		if sheet, err = s.fresh(ctx, tx, who, start, end); err != nil {
			return err
		}
		sheet.Version = 1
		return tx.AddSheet(ctx, sheet)
	})
	return sheet, err
}

// freshTx is what is needed here of a transaction.
type freshTx interface {
	directory.LookupTx
	BusyTimes(ctx context.Context, people []uuid.UUID, windows when.Spans, view schedule.View) (map[uuid.UUID][]availability.Time, error)
}

func (s *Deeds) fresh(ctx context.Context, tx freshTx, who schedule.Actor, start, end string) (sheet schedule.Sheet, err error) {
	p, err := directory.Person(ctx, tx, who.For)
	if err != nil {
		return sheet, err
	}
	if start == "" || end == "" {
		now := when.At(s.Now())
		ahead := when.Span{Start: now, End: now.Add(aheadFor)}
		taken, err := tx.BusyTimes(ctx, []uuid.UUID{who.For}, when.Spans{ahead}, schedule.View{Now: s.Now()})
		if err != nil {
			return sheet, err
		}
		at := nextHour(p.Hours, availability.Person{}.With(taken[who.For]).Busy, ahead)
		start, end = at.String(), at.Add(time.Hour).String()
	}
	return schedule.Sheet{ID: uuid.New(), OwnerID: who.For, UpdatedAt: s.Now(), Draft: meeting.Draft{
		Start: start, End: end, Zone: p.Hours.Zone.String(), RemindBefore: 15, Apart: s.Guests.Apart, Bring: s.Guests.Bring, Move: s.Guests.Move, People: []meeting.DraftPerson{}}}, nil
}

// aheadFor is how far ahead a new sheet looks for a time.
const aheadFor = 14 * 24 * time.Hour

// nextHour is the first full hour of a stretch that is worked and not busy, or simply
// the next one for somebody who has none.
func nextHour(hours when.Hours, busy when.Spans, ahead when.Span) when.Local {
	local := hours.Zone.LocalAt(ahead.Start)
	first := when.Local{Day: local.Day, Clock: local.Clock / 60 * 60}.Add(time.Hour)
	clear := hours.Within(ahead).Minus(busy)
	for at := first; at.Sub(first) < aheadFor; at = at.Add(time.Hour) {
		start, exists := hours.Zone.Resolve(at)
		if exists && clear.Covers(when.Span{Start: start, End: start.Add(time.Hour)}) {
			return at
		}
	}
	return first
}

// SheetView is a sheet with how it stands.
type SheetView struct {
	schedule.Sheet
	Of     *schedule.Record // the meeting that it changes
	Faults []meeting.Fault  // what keeps it from being sent
	Due    []meetings.Due   // whom Send would reach; nobody while there are faults
	// Readings are of what stands in its fields, Unclear who is to be said.
	Readings []Reading
	Unclear  []Unclear
	// Clocks says how clocks are changed around its time, or nothing.
	Clocks string
	// HeldUntil is until when its rooms are held, zero where they are not.
	HeldUntil time.Time
	// Waiting is what it waits for, nil where it does not; WaitingWords say how that stands.
	Waiting      *schedule.Waiting
	WaitingWords string
	Link         LinkView
	// Settled is the meeting that it comes to, as far as it does.
	Settled meeting.Meeting
	// Reader is its owner as who reads the join card.
	Reader join.Reader
}

// Sheet is one sheet of the owner, with how it stands; typing is the field that they
// type in, "" for none.
func (s *Deeds) Sheet(ctx context.Context, who schedule.Actor, id uuid.UUID, typing string) (v SheetView, err error) {
	err = s.viewStore().Look(ctx, func(tx viewTx) error {
		if v.Sheet, v.Of, err = SheetAndMeeting(ctx, tx, who, id); err != nil {
			return err
		}
		v, err = s.view(ctx, tx, v, typing)
		return err
	})
	return v, err
}

func (s *Deeds) view(ctx context.Context, tx viewTx, v SheetView, typing string) (_ SheetView, err error) {
	if v.Readings, v.Unclear, err = s.waiting(ctx, tx, v.OwnerID, v.Draft); err != nil {
		return v, err
	}
	if change, ok := v.Draft.ClockChange(); ok {
		zone, _ := when.LoadZone(v.Draft.Zone)
		v.Clocks = words.ClockChange(schedule.Tongue(ctx), change, zone)
	}
	if v.HeldUntil, err = s.heldUntil(ctx, tx, v.ID); err != nil {
		return v, err
	}
	if v.Waiting, err = tx.Waiting(ctx, v.ID); err != nil {
		return v, err
	}
	v.Faults = typedFaults(v.Readings, v.Unclear, typing)
	st, err := s.settle(ctx, tx, v.Sheet, v.Of)
	var invalid *schedule.InvalidError
	switch {
	case errors.As(err, &invalid):
		v.Faults, err = append(v.Faults, invalid.Faults...), nil
	case len(v.Faults) == 0:
		v.Due = meetings.DueWords(schedule.Tongue(ctx), st)
	}
	v.WaitingWords = waitingWords(schedule.Tongue(ctx), v.Waiting, st.Organiser.Hours.Zone)
	if err == nil {
		v.Settled = st.Settled()
		v.Reader = join.Reader{Country: when.CountryOf(st.Organiser.Hours.Zone.String()), Organiser: true, Tongue: schedule.Tongue(ctx)}
		v.Link, err = s.linkView(ctx, tx, v.Sheet, v.Of, v.Settled, st.Organiser)
	}
	return v, err
}

// FreshSheet is a sheet as it begins, which is not kept: it is once something is written
// on it. It proposes the next full hour of the person's working hours in which they
// have nothing.
func (s *Deeds) FreshSheet(ctx context.Context, who schedule.Actor) (v SheetView, err error) {
	err = s.viewStore().Look(ctx, func(tx viewTx) error {
		if v.Sheet, err = s.fresh(ctx, tx, who, "", ""); err != nil {
			return err
		}
		v, err = s.view(ctx, tx, v, "")
		return err
	})
	return v, err
}

func (s *Deeds) heldUntil(ctx context.Context, tx viewTx, id uuid.UUID) (until time.Time, err error) {
	holds, err := tx.Holds(ctx, id)
	if len(holds) > 0 && holds[0].Until.After(s.Now()) {
		until = holds[0].Until
	}
	return until, err
}

// readTx is what is needed of a transaction to read a sheet with the meeting that it changes.
type readTx interface {
	ofTx
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
}

func SheetAndMeeting(ctx context.Context, tx readTx, who schedule.Actor, id uuid.UUID) (schedule.Sheet, *schedule.Record, error) {
	sheet, err := tx.Sheet(ctx, id, who.For)
	if err != nil {
		return sheet, nil, err
	}
	of, err := MeetingOf(ctx, tx, sheet)
	return sheet, of, err
}

// ofTx is what is needed of a transaction to read that meeting.
type ofTx interface {
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
}

// MeetingOf is the meeting that a sheet changes, nil for a new one.
func MeetingOf(ctx context.Context, tx ofTx, sheet schedule.Sheet) (*schedule.Record, error) {
	if sheet.MeetingID == nil {
		return nil, nil
	}
	record, err := tx.Meeting(ctx, *sheet.MeetingID)
	return &record, err
}

// listTx is what is needed of a transaction to list sheets.
type listTx interface {
	Sheets(ctx context.Context, owner uuid.UUID, page schedule.Page) ([]schedule.Sheet, error)
}

func (s *Deeds) listStore() schedule.Store[listTx] {
	return schedule.Narrow(s.Store, func(tx Tx) listTx { return tx })
}

// Sheets are the owner's sheets, the last touched first.
func (s *Deeds) Sheets(ctx context.Context, who schedule.Actor, page schedule.Page) (sheets []schedule.Sheet, err error) {
	err = s.listStore().Look(ctx, func(tx listTx) error {
		sheets, err = tx.Sheets(ctx, who.For, page)
		return err
	})
	return sheets, err
}

// Saved is what the writer of a sheet has to be told of a save: what was made of what they
// typed, and how rooms are held for it.
type Saved struct {
	Said []string
	Hold Hold
}

// saveTx is what is needed of a transaction to save a sheet.
type saveTx interface {
	holdTx
	storeTx
	typedTx
	AddSheet(ctx context.Context, s schedule.Sheet) error
	ChooseCall(ctx context.Context, sheetID uuid.UUID) (int, error)
	KeepSheetFiles(ctx context.Context, sheetID, owner uuid.UUID, all []attachment.File) error
	StopWaiting(ctx context.Context, sheetID uuid.UUID) (bool, error)
}

func (s *Deeds) saveStore() schedule.Store[saveTx] {
	return schedule.Narrow(s.Store, func(tx Tx) saveTx { return tx })
}

// SaveSheet keeps a draft as it was typed, right or not; what is typed into its fields
// becomes part of it once it can be read, but for the field typing. Version 0 is that of a sheet that is not kept yet. It
// fails with a *VersionError when another window saved after version. Its rooms are held
// from then on.
func (s *Deeds) SaveSheet(ctx context.Context, who schedule.Actor, id uuid.UUID, version int, draft meeting.Draft, typing string) (sheet schedule.Sheet, saved Saved, err error) {
	err = s.saveStore().InTx(ctx, func(tx saveTx) error {
		sheet, err = lockSheet(ctx, tx, who, id, version)
		if version == 0 && errors.Is(err, schedule.ErrNotFound) {
			sheet = schedule.Sheet{ID: id, OwnerID: who.For, UpdatedAt: s.Now()}
			if err = tx.AddSheet(ctx, sheet); err == nil {
				sheet, err = lockSheet(ctx, tx, who, id, 1)
			}
		}
		if err != nil {
			return err
		}
		kept := keepable(draft)
		if kept, saved.Said, err = s.taken(ctx, tx, who.For, kept, typingIn(ctx, typing)); err != nil {
			return err
		}
		was := sheet.Draft
		sheet.Draft = kept.Followed(sheet.Draft)
		if sheet.Draft.NoLink && !was.NoLink { // one that is being made is not wanted any more
			if _, err = tx.ChooseCall(ctx, sheet.ID); err != nil {
				return err
			}
		}
		if len(sheet.Draft.Files) > 0 {
			if err = tx.KeepSheetFiles(ctx, sheet.ID, sheet.OwnerID, sheet.Draft.Files); err != nil {
				return err
			}
		}
		if err = s.StoreSheet(ctx, tx, &sheet); err != nil || !holdsChange(was, sheet.Draft) {
			return err
		}
		if _, err = tx.StopWaiting(ctx, sheet.ID); err != nil { // it was for another time or room
			return err
		}
		saved.Hold, err = s.hold(ctx, tx, sheet)
		return err
	})
	return sheet, saved, err
}

// lockTx is what is needed of a transaction to hold a sheet.
type lockTx interface {
	LockSheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
}

// lockSheet holds a sheet for a write that is based on version.
func lockSheet(ctx context.Context, tx lockTx, who schedule.Actor, id uuid.UUID, version int) (schedule.Sheet, error) {
	sheet, err := tx.LockSheet(ctx, id, who.For)
	if err != nil {
		return sheet, err
	}
	if sheet.Version != version {
		return sheet, &schedule.VersionError{Sheet: &sheet, What: say.It("sheet.otherWindow")}
	}
	return sheet, nil
}

// storeTx is what is needed of a transaction to keep a sheet.
type storeTx interface {
	SetSheet(ctx context.Context, s schedule.Sheet) error
	Tell(ctx context.Context, n schedule.Notice) error
}

// StoreSheet keeps a sheet that is locked; one that waits to go out changes no more.
func (s *Deeds) StoreSheet(ctx context.Context, tx storeTx, sheet *schedule.Sheet) error {
	if sheet.SendAt != nil {
		return schedule.Invalid("sendAt", say.It("sheet.waits"))
	}
	sheet.UpdatedAt = s.Now()
	sheet.Version++
	if err := tx.SetSheet(ctx, *sheet); err != nil {
		return err
	}
	return tx.Tell(ctx, sheet.Notice())
}

// cardTx is what is needed of a transaction to keep the link of a sheet.
type cardTx interface {
	storeTx
	SetCard(ctx context.Context, s schedule.Sheet) error
}

// StoreCard keeps the link that a locked sheet waited for. One that waits to go out itself goes
// out with it, as the version that it is.
func (s *Deeds) StoreCard(ctx context.Context, tx cardTx, sheet *schedule.Sheet) error {
	if sheet.SendAt == nil {
		return s.StoreSheet(ctx, tx, sheet)
	}
	if err := tx.SetCard(ctx, *sheet); err != nil {
		return err
	}
	return tx.Tell(ctx, sheet.Notice())
}

// keepable drops the one character that no database takes.
func keepable(d meeting.Draft) meeting.Draft {
	clean := func(text *string) { *text = strings.ReplaceAll(*text, "\x00", "") }
	for _, text := range []*string{&d.Title, &d.Text, &d.Start, &d.End, &d.Zone, &d.RoomID} {
		clean(text)
	}
	d.NoWays = slices.Clone(d.NoWays)
	for i := range d.NoWays {
		clean(&d.NoWays[i])
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
	var waiting []meeting.DraftTyped
	for _, t := range d.Typed {
		clean(&t.Field)
		clean(&t.Text)
		waiting = append(waiting, t)
	}
	d.Typed = waiting
	return d
}

// discardTx is what is needed of a transaction to throw sheets away.
type discardTx interface {
	kernel.In
	ofTx
	DropSheet(ctx context.Context, id uuid.UUID) error
	Sheet(ctx context.Context, id uuid.UUID, owner uuid.UUID) (schedule.Sheet, error)
	SheetsByID(ctx context.Context, owner uuid.UUID, ids []uuid.UUID) ([]schedule.Sheet, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) discardStore() schedule.Store[discardTx] {
	return schedule.Narrow(s.Store, func(tx Tx) discardTx { return tx })
}

// DiscardSheet throws a sheet away; a link that was made for it is withdrawn.
func (s *Deeds) DiscardSheet(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.discardStore().InTx(ctx, func(tx discardTx) error {
		if _, err := tx.Sheet(ctx, id, who.For); err != nil {
			return err
		}
		return s.discard(ctx, tx, who, []uuid.UUID{id})
	})
}

// DiscardSheets throws some sheets away; those that are gone already do not matter.
func (s *Deeds) DiscardSheets(ctx context.Context, who schedule.Actor, ids []uuid.UUID) error {
	return s.discardStore().InTx(ctx, func(tx discardTx) error { return s.discard(ctx, tx, who, ids) })
}

func (s *Deeds) discard(ctx context.Context, tx discardTx, who schedule.Actor, ids []uuid.UUID) error {
	sheets, err := tx.SheetsByID(ctx, who.For, ids)
	if err != nil {
		return err
	}
	for _, sheet := range sheets {
		of, err := MeetingOf(ctx, tx, sheet)
		if err != nil {
			return err
		}
		if err := kernel.WithdrawUnused(ctx, tx, who.For, sheet.Card, of); err != nil {
			return err
		}
		if err := tx.DropSheet(ctx, sheet.ID); err != nil {
			return err
		}
		if err := tx.Tell(ctx, sheet.Notice()); err != nil {
			return err
		}
	}
	return nil
}
