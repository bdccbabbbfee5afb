package calendars

import (
	"context"
	"net/url"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// subscribeTx is what is needed here of a transaction.
type subscribeTx interface {
	againTx
	directory.LookupTx
	AddCalendar(ctx context.Context, c schedule.Calendar) error
	Calendar(ctx context.Context, id uuid.UUID) (schedule.Calendar, error)
	CalendarsOf(ctx context.Context, personID uuid.UUID) ([]schedule.Calendar, error)
	DropCalendar(ctx context.Context, c schedule.Calendar) error
	LockCalendar(ctx context.Context, id uuid.UUID) (schedule.Calendar, error)
}

func (s *Deeds) subscribeStore() schedule.Store[subscribeTx] {
	return schedule.Narrow(s.Store, func(tx Tx) subscribeTx { return tx })
}

const (
	// mostCalendars is how many other calendars of one person can count.
	mostCalendars = 30
	// nameLimit and addressLimit are in characters.
	nameLimit, addressLimit = 100, 2000
	// waitFor is how long somebody who adds a calendar waits for it.
	waitFor = 12 * time.Second
)

// NewCalendar is one to be added: an Address or a File.
type NewCalendar struct {
	Address string
	File    []byte
	Name    string // "" for what it calls itself
	Counts  bool
}

// Add has another calendar of somebody count, or be shown. An address is asked at once:
// where it says for certain that there is no calendar nothing is kept, and the answer is an
// *InvalidError at the address; where it does not answer in time it is kept and asked again.
func (s *Deeds) Add(ctx context.Context, who schedule.Actor, n NewCalendar) (id uuid.UUID, err error) {
	c := schedule.Calendar{ID: uuid.New(), PersonID: &who.For, Counts: n.Counts, AddedAt: s.Now()}
	if c.Name, err = limited("name", "name", n.Name, nameLimit); err != nil {
		return id, err
	}
	var p schedule.Person
	err = s.subscribeStore().Look(ctx, func(tx subscribeTx) error {
		all, err := tx.CalendarsOf(ctx, who.For)
		if err != nil {
			return err
		}
		if len(all) >= mostCalendars {
			return schedule.Invalid("address", say.It("calendar.many", mostCalendars))
		}
		p, err = directory.Person(ctx, tx, who.For)
		return err
	})
	if err != nil {
		return id, err
	}
	got := readingOf(p)
	if n.File != nil {
		got.fetched.Body = n.File
		if err := s.read(ctx, &got); err != nil {
			return id, schedule.Invalid("file", faultOf(err).What())
		}
		if c.Name == "" {
			c.Name = "A file"
		}
	} else {
		address, err := s.address(n.Address, &c)
		if err != nil {
			return id, err
		}
		if err := s.firstLook(ctx, address, &got); err != nil {
			return id, err
		}
	}
	if n.Name == "" && got.calendar.Name != "" {
		c.Name = shortened(got.calendar.Name)
	}
	return c.ID, s.subscribeStore().InTx(ctx, func(tx subscribeTx) error {
		if err := tx.AddCalendar(ctx, c); err != nil {
			return err
		}
		return s.keep(ctx, tx, c, got)
	})
}

// address reads an address that somebody typed, and seals it into a calendar.
func (s *Deeds) address(text string, c *schedule.Calendar) (string, error) {
	text = strings.TrimSpace(text)
	if utf8.RuneCountInString(text) > addressLimit {
		return "", schedule.Invalid("address", say.It("calendar.addressLong", addressLimit))
	}
	scheme, rest, found := strings.Cut(text, "://")
	switch strings.ToLower(scheme) {
	case "webcal", "webcals": // common practice
		text = "https://" + rest
	case "http", "https":
	default:
		if found {
			return "", schedule.Invalid("address", say.It("calendar.addressScheme"))
		}
		text = "https://" + text
	}
	u, err := url.Parse(text)
	if err != nil || u.Hostname() == "" || !strings.Contains(u.Hostname(), ".") && u.Hostname() != "localhost" && !strings.Contains(u.Hostname(), ":") {
		return "", schedule.Invalid("address", say.It("calendar.address"))
	}
	c.Address, c.Host = s.Seal.Lock([]byte(u.String())), u.Hostname()
	if c.Name == "" {
		c.Name = shortened(u.Hostname())
	}
	return u.String(), nil
}

// firstLook asks an address while somebody waits.
func (s *Deeds) firstLook(ctx context.Context, address string, got *reading) error {
	within, cancel := context.WithTimeout(ctx, waitFor)
	defer cancel()
	if s.fetch(within, address, "", "", got); got.fault.Definite() {
		return schedule.Invalid("address", got.fault.What())
	}
	return ctx.Err()
}

func shortened(name string) string {
	if r := []rune(name); len(r) > nameLimit {
		return string(r[:nameLimit])
	}
	return name
}

// CalendarChange is what can be changed about one; nil leaves it.
type CalendarChange struct {
	Name, Address *string
	Counts        *bool
	// Empty says that a calendar that came back empty is.
	Empty bool
}

// ChangeCalendar changes one of somebody's calendars. It fails with ErrNotFound, and as Add
// does.
func (s *Deeds) ChangeCalendar(ctx context.Context, who schedule.Actor, id uuid.UUID, change CalendarChange) error {
	var name string
	var err error
	if change.Name != nil {
		if name, err = limited("name", "name", *change.Name, nameLimit); err != nil {
			return err
		}
		if name == "" {
			return schedule.Invalid("name", say.It("calendar.noName"))
		}
	}
	var c schedule.Calendar
	var got reading
	err = s.subscribeStore().Look(ctx, func(tx subscribeTx) error {
		if c, err = tx.Calendar(ctx, id); err != nil {
			return err
		}
		if c.PersonID == nil || *c.PersonID != who.For {
			return schedule.ErrNotFound
		}
		p, err := directory.Person(ctx, tx, who.For)
		got = readingOf(p)
		return err
	})
	if err != nil {
		return err
	}
	fresh := c
	if change.Address != nil {
		address, err := s.address(*change.Address, &fresh)
		if err != nil {
			return err
		}
		if err := s.firstLook(ctx, address, &got); err != nil {
			return err
		}
	}
	return s.subscribeStore().InTx(ctx, func(tx subscribeTx) error {
		c, err := tx.LockCalendar(ctx, id)
		if err != nil {
			return err
		}
		if name != "" {
			c.Name = name
		}
		counted := c.Counts
		if change.Counts != nil {
			c.Counts = *change.Counts
		}
		switch {
		case change.Address != nil:
			c.Address, c.Host, c.ETag, c.Modified, c.Print, c.EmptySince = fresh.Address, fresh.Host, "", "", nil, nil
			return s.keep(ctx, tx, c, got)
		case change.Empty && c.EmptySince != nil:
			c.EmptySince, c.Fault, c.Entries = nil, availability.FaultNone, 0
			return s.keep(ctx, tx, c, reading{person: got.person, zone: got.zone, fetched: Fetched{Body: []byte(nothing)}})
		case c.Counts != counted:
			return s.again(ctx, tx, c, got)
		}
		if err := tx.SetCalendar(ctx, c); err != nil {
			return err
		}
		return s.told(ctx, tx, c)
	})
}

// nothing is a calendar without entries.
const nothing = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR\r\n"

// Remove forgets one of somebody's calendars.
func (s *Deeds) Remove(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.subscribeStore().InTx(ctx, func(tx subscribeTx) error {
		c, err := tx.LockCalendar(ctx, id)
		if err != nil {
			return err
		}
		if c.PersonID == nil || *c.PersonID != who.For {
			return schedule.ErrNotFound
		}
		if err := tx.DropCalendar(ctx, c); err != nil {
			return err
		}
		return s.told(ctx, tx, c)
	})
}

// restBetween is how long another side is left alone between two presses.
const restBetween = 2 * time.Second

// TryNow looks at one of somebody's calendars at once.
func (s *Deeds) TryNow(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	var c schedule.Calendar
	err := s.subscribeStore().Look(ctx, func(tx subscribeTx) (err error) {
		c, err = tx.Calendar(ctx, id)
		if err == nil && (c.PersonID == nil || *c.PersonID != who.For) {
			return schedule.ErrNotFound
		}
		return err
	})
	if err != nil {
		return err
	}
	if c.TriedAt != nil {
		select {
		case <-time.After(restBetween - s.Now().Sub(*c.TriedAt)):
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	within, cancel := context.WithTimeout(ctx, waitFor)
	defer cancel()
	return s.refresh(within, ctx, id)
}

// told says to the windows of whose calendar it is that it changed.
func (s *Deeds) told(ctx context.Context, tx tellTx, c schedule.Calendar) error {
	if c.PersonID == nil {
		return nil
	}
	return s.tell(ctx, tx, *c.PersonID)
}
