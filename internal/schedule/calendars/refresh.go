package calendars

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"errors"
	"io"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// refreshTx is what is needed here of a transaction.
type refreshTx interface {
	againTx
	directory.LookupTx
	Calendar(ctx context.Context, id uuid.UUID) (schedule.Calendar, error)
	ContactZone(ctx context.Context, id uuid.UUID) (string, error)
	DueCalendars(ctx context.Context, now, again time.Time, most int) ([]schedule.DueCalendar, error)
	LockCalendar(ctx context.Context, id uuid.UUID) (schedule.Calendar, error)
}

func (s *Deeds) refreshStore() schedule.Store[refreshTx] {
	return schedule.Narrow(s.Store, func(tx Tx) refreshTx { return tx })
}

const (
	// behind and ahead are the days around the present one that other calendars are looked
	// up for.
	behind, ahead = 31, 400
	// mostEntries is how many dates one calendar can have within them.
	mostEntries = 50_000
	// takenFor is how long an instance has to look at a calendar that it took.
	takenFor = 5 * time.Minute
)

// reading is what came of looking at a calendar.
type reading struct {
	person   schedule.Person // whose it is; the zero Person for a contact
	zone     when.Zone       // where its floating times and whole days are meant
	fault    availability.Fault
	wait     time.Duration
	fetched  Fetched
	calendar calendar.Calendar
	busy     []availability.Time
	entries  []schedule.CalendarEntry
	done     bool // it was read
}

func readingOf(p schedule.Person) reading { return reading{person: p, zone: p.Hours.Zone} }

// Due takes calendars that are to be looked at, at most so many: each is given to one
// instance, and comes again if that one is killed.
func (s *Deeds) Due(ctx context.Context, most int) (due []schedule.DueCalendar, err error) {
	now := s.Now()
	err = s.refreshStore().InTx(ctx, func(tx refreshTx) error {
		due, err = tx.DueCalendars(ctx, now, now.Add(takenFor), most)
		return err
	})
	return due, err
}

// Refresh looks at a calendar and keeps what it says; what it said before stays where it
// cannot be read. It does nothing for one that is gone.
func (s *Deeds) Refresh(ctx context.Context, id uuid.UUID) error {
	err := s.refresh(ctx, ctx, id)
	if errors.Is(err, schedule.ErrNotFound) {
		return nil
	}
	return err
}

// refresh asks the other side within one context and keeps what came of it within another.
func (s *Deeds) refresh(asking, keeping context.Context, id uuid.UUID) error {
	var c schedule.Calendar
	var got reading
	err := s.refreshStore().Look(keeping, func(tx refreshTx) (err error) {
		if c, err = tx.Calendar(keeping, id); err != nil {
			return err
		}
		if c.ContactID != nil {
			zone, err := tx.ContactZone(keeping, *c.ContactID)
			got.zone, _ = when.LoadZone(zone) // UTC where nobody knows
			return err
		}
		p, err := directory.Person(keeping, tx, *c.PersonID)
		got = readingOf(p)
		return err
	})
	if err != nil {
		return err
	}
	if !c.File() {
		etag, modified := c.ETag, c.Modified
		if c.ReadAt == nil {
			etag, modified = "", ""
		}
		if address, err := s.Seal.Unlock(c.Address); err != nil { // the program has another secret than before
			got.fault = availability.FaultAddress
		} else {
			s.fetch(asking, string(address), etag, modified, &got)
		}
	}
	err = s.refreshStore().InTx(keeping, func(tx refreshTx) error {
		now, err := tx.LockCalendar(keeping, id)
		if err != nil {
			return err
		}
		if !bytes.Equal(now.Address, c.Address) || !same(now.TriedAt, c.TriedAt) {
			return nil // it has another address, or somebody looked meanwhile
		}
		if c.File() || got.fetched.Same {
			return s.unchanged(keeping, tx, now, got)
		}
		return s.keep(keeping, tx, now, got)
	})
	return err
}

func same(a, b *time.Time) bool { return a == b || a != nil && b != nil && a.Equal(*b) }

// fetch asks an address and reads what it gives.
func (s *Deeds) fetch(ctx context.Context, address, etag, modified string, got *reading) {
	fetched, err := s.Fetcher.Fetch(ctx, address, etag, modified)
	var failed *FetchError
	switch {
	case errors.As(err, &failed):
		got.fault, got.wait = failed.Fault, failed.Wait
	case err != nil:
		got.fault = availability.FaultUnreachable
	default:
		got.fetched = fetched
		if !fetched.Same {
			if err := s.read(ctx, got); err != nil {
				got.fault = faultOf(err)
			}
		}
	}
}

// read reads and expands a calendar; a few are read at a time.
func (s *Deeds) read(ctx context.Context, got *reading) (err error) {
	select {
	case s.Reading <- struct{}{}:
		defer func() { <-s.Reading }()
	case <-ctx.Done():
		return ctx.Err()
	}
	window := s.window(got.zone)
	c, err := s.Format.Read(got.fetched.Body, window, got.person.Email)
	if err != nil {
		return err
	}
	c.Events = s.foreign(c.Events)
	if got.busy, err = c.Busy(window, got.zone); err != nil {
		return err
	}
	got.entries = nil
	err = c.Entries(window, got.zone, func(e calendar.Entry) bool {
		got.entries = append(got.entries, schedule.CalendarEntry{UID: e.UID, Title: e.Title, Span: e.Span, Kind: e.Kind, WholeDay: e.Day})
		return len(got.entries) <= mostEntries
	})
	for _, t := range c.Taken { // busy times have no titles
		kind := t.Kind
		if kind == availability.Leave {
			kind = availability.Busy
		}
		got.entries = append(got.entries, schedule.CalendarEntry{Span: t.Span, Kind: kind})
	}
	if err == nil && len(got.entries) > mostEntries {
		err = calendar.ErrTooMany
	}
	got.calendar, got.done = c, err == nil
	return err
}

// foreign are the events that are not from here: what Jembro has made somebody busy with
// counts by itself, and must not come back as another calendar's when it is gone.
func (s *Deeds) foreign(all []calendar.Event) []calendar.Event {
	kept := all[:0]
	for _, e := range all {
		if !strings.HasSuffix(e.UID, "@"+s.House.MailDomain) {
			kept = append(kept, e)
		}
	}
	return kept
}

// window is the time that other calendars are looked up for.
func (s *Deeds) window(zone when.Zone) when.Span {
	today := zone.LocalAt(when.At(s.Now())).Day
	return when.DaysSpan(today-behind, today+ahead, zone)
}

// keepTx is what is needed of a transaction to keep what was read.
type keepTx interface {
	tellTx
	SetBusyFrom(ctx context.Context, personID, from uuid.UUID, source schedule.BusySource, taken []availability.Time) error
	SetCalendar(ctx context.Context, c schedule.Calendar) error
	SetCalendarContent(ctx context.Context, id uuid.UUID, packed []byte) error
	SetContactBusy(ctx context.Context, contactID uuid.UUID, taken []availability.Time) error
	SetEntries(ctx context.Context, id uuid.UUID, all []schedule.CalendarEntry) error
}

// againTx is what is needed of a transaction to read again what is kept.
type againTx interface {
	keepTx
	CalendarContent(ctx context.Context, id uuid.UUID) ([]byte, error)
}

// keep writes what came of looking at a calendar. Where that was nothing, what was known
// stays.
func (s *Deeds) keep(ctx context.Context, tx keepTx, c schedule.Calendar, got reading) error {
	now := s.Now()
	c.TriedAt = &now
	if got.fault == availability.FaultNone && !got.done {
		if err := s.read(ctx, &got); err != nil {
			got.fault = faultOf(err)
		}
	}
	if got.fault == availability.FaultNone && got.calendar.Components == 0 && c.Entries > 0 {
		// Years of entries do not end in one night: it is kept, and asked about.
		got.fault = availability.FaultEmpty
		if c.EmptySince == nil {
			c.EmptySince = &now
		}
	}
	if got.fault != availability.FaultNone {
		c.Fault = got.fault
		if c.FailingSince == nil {
			c.FailingSince = &now
		}
		c.Failures++
		s.nextLook(&c, got.wait)
		if err := tx.SetCalendar(ctx, c); err != nil {
			return err
		}
		return s.told(ctx, tx, c)
	}
	print := sha256.Sum256(got.fetched.Body)
	today := got.zone.LocalAt(when.At(now)).Day
	fresh := !bytes.Equal(print[:], c.Print) || c.ExpandedOn != today || !c.File() && c.Fault != availability.FaultNone
	s.well(&c, now)
	c.ETag, c.Modified, c.Print, c.ExpandedOn = got.fetched.ETag, got.fetched.Modified, print[:], today
	c.Refresh, c.Entries, c.Unread = got.calendar.Refresh, got.calendar.Components, 0
	for _, n := range got.calendar.Unread {
		c.Unread += n
	}
	s.nextLook(&c, 0)
	if fresh {
		packed, err := Pack(got.fetched.Body)
		if err != nil {
			return err
		}
		if err := tx.SetCalendarContent(ctx, c.ID, packed); err != nil {
			return err
		}
		if err := s.write(ctx, tx, c, got); err != nil {
			return err
		}
	}
	if err := tx.SetCalendar(ctx, c); err != nil {
		return err
	}
	return s.told(ctx, tx, c)
}

// well notes that a calendar was read.
func (s *Deeds) well(c *schedule.Calendar, now time.Time) {
	c.ReadAt, c.FailingSince, c.Fault, c.EmptySince, c.Failures = &now, nil, availability.FaultNone, nil, 0
}

// nextLook sets when a calendar is looked at again, not all at the same moment. A file is
// looked at daily, for the days that come into sight.
func (s *Deeds) nextLook(c *schedule.Calendar, wait time.Duration) {
	in := availability.NextLook(c.Refresh, c.Failures, wait)
	if c.File() {
		in = availability.NextLook(24*time.Hour, 0, 0)
	}
	next := s.Now().Add(in + rand.N(in/10))
	c.NextAt = &next
}

// write replaces what a calendar takes.
func (s *Deeds) write(ctx context.Context, tx keepTx, c schedule.Calendar, got reading) error {
	if c.ContactID != nil {
		return tx.SetContactBusy(ctx, *c.ContactID, got.busy)
	}
	if err := tx.SetEntries(ctx, c.ID, got.entries); err != nil {
		return err
	}
	busy := got.busy
	if !c.Counts {
		busy = nil
	}
	return tx.SetBusyFrom(ctx, *c.PersonID, c.ID, schedule.FromCalendar, busy)
}

// unchanged notes that a calendar is as it was; once a day it is looked up again for the
// days that came into sight.
func (s *Deeds) unchanged(ctx context.Context, tx againTx, c schedule.Calendar, got reading) error {
	if c.ExpandedOn != got.zone.LocalAt(when.At(s.Now())).Day {
		return s.again(ctx, tx, c, got)
	}
	now := s.Now()
	c.TriedAt = &now
	s.well(&c, now)
	s.nextLook(&c, 0)
	if err := tx.SetCalendar(ctx, c); err != nil {
		return err
	}
	return s.told(ctx, tx, c)
}

// again looks up once more what a calendar said when it was last read.
func (s *Deeds) again(ctx context.Context, tx againTx, c schedule.Calendar, of reading) error {
	packed, err := tx.CalendarContent(ctx, c.ID)
	if errors.Is(err, schedule.ErrNotFound) {
		return tx.SetCalendar(ctx, c) // it was never read
	}
	if err != nil {
		return err
	}
	body, err := unpack(packed)
	if err != nil {
		return err
	}
	c.ExpandedOn = 0
	return s.keep(ctx, tx, c, reading{person: of.person, zone: of.zone, fetched: Fetched{Body: body, ETag: c.ETag, Modified: c.Modified}})
}

// Pack is a calendar packed by gzip, quickly.
func Pack(body []byte) ([]byte, error) {
	var out bytes.Buffer
	w, err := gzip.NewWriterLevel(&out, gzip.BestSpeed)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(body); err != nil {
		return nil, err
	}
	err = w.Close() // before what it wrote is looked at
	return out.Bytes(), err
}

func unpack(packed []byte) ([]byte, error) {
	r, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(io.LimitReader(r, calendar.MostBytes+1))
}

// faultOf is what an error of reading is.
func faultOf(err error) availability.Fault {
	switch {
	case errors.Is(err, calendar.ErrNotCalendar):
		return availability.FaultNotCalendar
	case errors.Is(err, calendar.ErrTooLarge), errors.Is(err, calendar.ErrTooMany):
		return availability.FaultTooLarge
	case errors.Is(err, calendar.ErrTooOften):
		return availability.FaultTooOften
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		return availability.FaultUnreachable
	}
	return availability.FaultBroken
}
