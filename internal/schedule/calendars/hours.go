package calendars

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/calendar"
	"jembro/internal/core/holidays"
	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// hoursTx is what is needed here of a transaction.
type hoursTx interface {
	directory.LookupTx
	leaveBusyTx
	tellTx
	Absences(ctx context.Context, personID uuid.UUID, since when.Day) ([]schedule.Absence, error)
	CalendarsOf(ctx context.Context, personID uuid.UUID) ([]schedule.Calendar, error)
	LockCalendar(ctx context.Context, id uuid.UUID) (schedule.Calendar, error)
	SetCalendar(ctx context.Context, c schedule.Calendar) error
	SetHours(ctx context.Context, personID uuid.UUID, version int, h when.Hours) (bool, error)
	SetOtherDays(ctx context.Context, personID uuid.UUID, version int, days []schedule.OtherDay) (bool, error)
}

func (s *Deeds) hoursStore() schedule.Store[hoursTx] {
	return schedule.Narrow(s.Store, func(tx Tx) hoursTx { return tx })
}

const (
	// WordLimit is how many characters a note to a day or a leave can have.
	WordLimit = 200
	// mostOther is how many single days with other hours can be kept.
	mostOther = 200
)

// errChanged: another window was first.
var errChanged = &schedule.VersionError{What: say.It("hours.changed")}

// SetWeek takes the working hours of somebody's week, as they are typed for each day from
// Monday on. It fails with an *InvalidError that names the day, and with a *VersionError
// where they were changed since version.
func (s *Deeds) SetWeek(ctx context.Context, who schedule.Actor, version int, typedWeek [7]string, zone string) error {
	z, err := when.LoadZone(zone)
	if err != nil {
		return schedule.Invalid("zone", say.It("zone.choose"))
	}
	var week [7][]when.ClockSpan
	var faults []meeting.Fault
	for i, text := range typedWeek {
		spans, err := stretches(text)
		if err != nil {
			faults = append(faults, meeting.Fault{Field: fmt.Sprintf("week.%d", i), What: unread(err)})
		}
		week[(i+1)%7] = spans
	}
	if len(faults) > 0 {
		return &schedule.InvalidError{Faults: faults}
	}
	return s.hoursStore().InTx(ctx, func(tx hoursTx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		ok, err := tx.SetHours(ctx, who.For, version, when.Hours{Week: week, Zone: z})
		if err == nil && ok && p.Hours.Zone != z {
			err = s.moveTo(ctx, tx, who.For, z)
		}
		return s.set(ctx, tx, who, ok, err)
	})
}

// errHours is what cannot be read as hours.
var errHours = say.It("hours.unread")

// stretches reads the hours of a day as they are typed.
func stretches(text string) ([]when.ClockSpan, error) {
	all, err := (typed.Reader{Words: words.Typed}).Stretches(text)
	if err != nil {
		return nil, errHours
	}
	return when.Stretches(all)
}

// unread is why hours cannot be taken.
func unread(err error) say.What {
	var wrong *when.StretchError
	if !errors.As(err, &wrong) {
		what, _ := say.Of(err)
		return what
	}
	switch (when.ClockSpan{}) {
	case wrong.Wrong:
		return say.It("hours.stretchesMany", when.MostStretches)
	case wrong.With:
		return say.It("hours.endsBefore", say.Hours{wrong.Wrong})
	}
	return say.It("hours.overlap", say.Hours{wrong.Wrong}, say.Hours{wrong.With})
}

// moveTo has leave and whole days of other calendars lie where somebody is now.
func (s *Deeds) moveTo(ctx context.Context, tx hoursTx, person uuid.UUID, zone when.Zone) error {
	all, err := tx.Absences(ctx, person, 0)
	if err != nil {
		return err
	}
	for _, a := range all {
		if err := s.takeLeave(ctx, tx, person, a, zone); err != nil {
			return err
		}
	}
	kept, err := tx.CalendarsOf(ctx, person)
	if err != nil {
		return err
	}
	now := s.Now()
	for _, k := range kept {
		c, err := tx.LockCalendar(ctx, k.ID)
		if errors.Is(err, schedule.ErrNotFound) {
			continue
		}
		if err != nil {
			return err
		}
		c.ExpandedOn, c.NextAt = 0, &now
		if err := tx.SetCalendar(ctx, c); err != nil {
			return err
		}
	}
	return nil
}

type tellTx interface {
	Tell(ctx context.Context, n schedule.Notice) error
}

// tell says to somebody's windows that their hours or calendars changed.
func (s *Deeds) tell(ctx context.Context, tx tellTx, person uuid.UUID) error {
	return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{person}, Topic: schedule.AboutHours, ID: person})
}

// dayTyped reads a day as it is typed where somebody is, on a day.
func dayTyped(ctx context.Context, field, text string, today when.Day) (when.Day, error) {
	said, err := typed.Reader{Words: words.Typed, Today: today, Order: schedule.DayOrder(ctx)}.Day(text)
	if err != nil {
		return 0, schedule.Invalid(field, err.What(text))
	}
	return said.Day, nil
}

// SetDay gives a day hours of its own, both as they are typed; none is a day off that is
// no leave. It fails as SetWeek does, at "day" and "hours".
func (s *Deeds) SetDay(ctx context.Context, who schedule.Actor, version int, day, hours, word string) error {
	var d schedule.OtherDay
	var err error
	if d.Hours, err = stretches(hours); err != nil {
		return schedule.Invalid("hours", unread(err))
	}
	if d.Word, err = limited("word", "note", word, WordLimit); err != nil {
		return err
	}
	return s.changeDays(ctx, who, version, func(days []schedule.OtherDay, today when.Day) ([]schedule.OtherDay, error) {
		if d.Day, err = dayTyped(ctx, "day", day, today); err != nil {
			return nil, err
		}
		if d.Day < today {
			return nil, schedule.Invalid("day", say.It("hours.dayOver"))
		}
		days = slices.DeleteFunc(days, func(o schedule.OtherDay) bool { return o.Day == d.Day })
		if len(days) >= mostOther {
			return nil, schedule.Invalid("day", say.It("hours.daysMany", mostOther))
		}
		return append(days, d), nil
	})
}

// limited is a text of one line, as it is kept; it fails where it is longer than so many
// characters. What says what it is.
func limited(field, what, text string, limit int) (string, error) {
	text = meeting.Plain(text)
	if n := utf8.RuneCountInString(text); n > limit {
		return "", schedule.Invalid(field, say.It("text.long", what, limit, n))
	}
	return text, nil
}

// DropDay gives a day the hours of its weekday back.
func (s *Deeds) DropDay(ctx context.Context, who schedule.Actor, version int, day when.Day) error {
	return s.changeDays(ctx, who, version, func(days []schedule.OtherDay, _ when.Day) ([]schedule.OtherDay, error) {
		return slices.DeleteFunc(days, func(o schedule.OtherDay) bool { return o.Day == day }), nil
	})
}

// changeDays changes the single days; those that are over are let go.
func (s *Deeds) changeDays(ctx context.Context, who schedule.Actor, version int, change func([]schedule.OtherDay, when.Day) ([]schedule.OtherDay, error)) error {
	return s.hoursStore().InTx(ctx, func(tx hoursTx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		today := s.today(p)
		days := slices.DeleteFunc(slices.Clone(p.OtherDays), func(o schedule.OtherDay) bool { return o.Day < today })
		if days, err = change(days, today); err != nil {
			return err
		}
		slices.SortFunc(days, func(a, b schedule.OtherDay) int { return int(a.Day - b.Day) })
		ok, err := tx.SetOtherDays(ctx, who.For, version, days)
		return s.set(ctx, tx, who, ok, err)
	})
}

// today is the day where somebody is.
func (s *Deeds) today(p schedule.Person) when.Day { return p.Hours.Zone.LocalAt(when.At(s.Now())).Day }

// HoursFile are somebody's hours as VAVAILABILITY (RFC 7953): the week, public holidays and
// other days over it, and leave above all.
func (s *Deeds) HoursFile(ctx context.Context, who schedule.Actor) (file []byte, err error) {
	err = s.hoursStore().Look(ctx, func(tx hoursTx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		today := s.today(p)
		h := Hours{Name: p.Name, Email: p.Email, Domain: s.House.MailDomain, Hours: p.Hours, From: today - when.Day((int(today.Weekday())+6)%7), Stamp: s.Now()}
		for _, x := range p.HolidaysIn(today, today+365) {
			if _, other := p.Hours.Other[x.Day]; !other && len(p.Hours.Week[x.Day.Weekday()]) > 0 {
				h.Holidays = append(h.Holidays, x.Day)
			}
		}
		for _, o := range p.OtherDays {
			if o.Day >= today {
				h.Other = append(h.Other, o)
			}
		}
		if h.Leave, err = tx.Absences(ctx, who.For, today); err != nil {
			return err
		}
		file = s.Format.Availability(h)
		return nil
	})
	return file, err
}

// TakeHoursFile takes the week and single days from a file with VAVAILABILITY; leave stays
// as it is.
func (s *Deeds) TakeHoursFile(ctx context.Context, who schedule.Actor, version int, raw []byte) error {
	return s.hoursStore().InTx(ctx, func(tx hoursTx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		today := s.today(p)
		window := when.DaysSpan(today, today+calendar.HoursDays, p.Hours.Zone)
		read, err := s.Format.Read(raw, window)
		if err != nil {
			return schedule.Invalid("file", faultOf(err).What())
		}
		w, err := read.Hours(p.Hours.Zone, today)
		if err != nil {
			if errors.Is(err, calendar.ErrTooOften) || errors.Is(err, calendar.ErrTooMany) {
				return schedule.Invalid("file", faultOf(err).What())
			}
			return schedule.Invalid("file", unread(err))
		}
		leave, err := tx.Absences(ctx, who.For, today)
		if err != nil {
			return err
		}
		var other []schedule.OtherDay
		for day, hours := range w.Other {
			onLeave := slices.ContainsFunc(leave, func(a schedule.Absence) bool { return a.First <= day && day <= a.Last })
			if holiday := holidays.Name(p.Holidays, day) != ""; !onLeave && !(holiday && len(hours) == 0) {
				other = append(other, schedule.OtherDay{Day: day, Hours: hours})
			}
		}
		slices.SortFunc(other, func(a, b schedule.OtherDay) int { return int(a.Day - b.Day) })
		ok, err := tx.SetHours(ctx, who.For, version, when.Hours{Week: w.Week, Zone: p.Hours.Zone})
		if err == nil && ok {
			ok, err = tx.SetOtherDays(ctx, who.For, version+1, other)
		}
		return s.set(ctx, tx, who, ok, err)
	})
}

// set ends a change of hours: where they were another's meanwhile, with errChanged.
func (s *Deeds) set(ctx context.Context, tx hoursTx, who schedule.Actor, ok bool, err error) error {
	switch {
	case err != nil:
		return err
	case !ok:
		return errChanged
	}
	return s.tell(ctx, tx, who.For)
}
