package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

func toCalendar(r db.Calendar) schedule.Calendar {
	c := schedule.Calendar{ID: r.ID, PersonID: r.PersonID, ContactID: r.ContactID, Name: r.Name, Address: r.Address, Host: r.Host, Counts: r.Counts, AddedAt: r.AddedAt,
		ReadAt: r.ReadAt, TriedAt: r.TriedAt, FailingSince: r.FailingSince, Fault: availability.Fault(r.Fault), EmptySince: r.EmptySince, Failures: int(r.Failures),
		NextAt: r.NextAt, ETag: r.Etag, Modified: r.Modified, Print: r.Print, Refresh: time.Duration(r.Refresh) * time.Second, Entries: int(r.Entries), Unread: int(r.Unread)}
	if r.ExpandedOn != nil {
		c.ExpandedOn = toDay(*r.ExpandedOn)
	}
	return c
}

func toCalendars(rows []db.Calendar, err error) ([]schedule.Calendar, error) {
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.Calendar) (schedule.Calendar, error) { return toCalendar(r), nil })
}

// AddCalendar keeps a calendar that somebody subscribes to.
func (t *Tx) AddCalendar(ctx context.Context, c schedule.Calendar) error {
	return t.InsertCalendar(ctx, db.InsertCalendarParams{ID: c.ID, PersonID: c.PersonID, ContactID: c.ContactID, Name: c.Name, Address: c.Address, Host: c.Host,
		Counts: c.Counts, AddedAt: c.AddedAt, NextAt: c.NextAt})
}

// Calendar is a calendar kept elsewhere; it fails with ErrNotFound.
func (t *Tx) Calendar(ctx context.Context, id uuid.UUID) (schedule.Calendar, error) {
	r, err := t.CalendarByID(ctx, id)
	return toCalendar(r), domain(err)
}

// LockCalendar is the same, and nobody else changes it meanwhile.
func (t *Tx) LockCalendar(ctx context.Context, id uuid.UUID) (schedule.Calendar, error) {
	r, err := t.Queries.LockCalendar(ctx, id)
	return toCalendar(r), domain(err)
}

// CalendarsOf are those that somebody subscribes to.
func (t *Tx) CalendarsOf(ctx context.Context, personID uuid.UUID) ([]schedule.Calendar, error) {
	return toCalendars(t.Queries.CalendarsOf(ctx, &personID))
}

// CalendarsOfContacts are the calendars of some people outside.
func (t *Tx) CalendarsOfContacts(ctx context.Context, contacts []uuid.UUID) ([]schedule.Calendar, error) {
	if len(contacts) == 0 {
		return nil, nil
	}
	return toCalendars(t.Queries.CalendarsOfContacts(ctx, contacts))
}

// SetCalendar keeps how a calendar stands.
func (t *Tx) SetCalendar(ctx context.Context, c schedule.Calendar) error {
	return t.UpdateCalendar(ctx, db.UpdateCalendarParams{ID: c.ID, Name: c.Name, Address: c.Address, Host: c.Host, Counts: c.Counts, ReadAt: c.ReadAt, TriedAt: c.TriedAt,
		FailingSince: c.FailingSince, Fault: string(c.Fault), EmptySince: c.EmptySince, Failures: int32(c.Failures), NextAt: c.NextAt, Etag: c.ETag, Modified: c.Modified,
		Print: c.Print, Refresh: int32(c.Refresh / time.Second), Entries: int32(c.Entries), Unread: int32(c.Unread), ExpandedOn: dayOrNull(c.ExpandedOn)})
}

// DropCalendar forgets a calendar with all that it takes.
func (t *Tx) DropCalendar(ctx context.Context, c schedule.Calendar) error {
	if err := t.DropBusyFrom(ctx, []uuid.UUID{c.ID}); err != nil {
		return err
	}
	if c.ContactID != nil {
		if err := t.DropContactBusy(ctx, *c.ContactID); err != nil {
			return err
		}
	}
	return t.Queries.DropCalendar(ctx, c.ID)
}

// StaleSince is since when calendars of some people that count could not be read.
func (t *Tx) StaleSince(ctx context.Context, people []uuid.UUID) (map[uuid.UUID]time.Time, error) {
	rows, err := t.StaleCalendars(ctx, people)
	out := make(map[uuid.UUID]time.Time, len(rows))
	for _, r := range rows {
		out[r.PersonID] = r.Since
	}
	return out, err
}

// DueCalendars are those that are to be looked at, each taken by one instance until again.
func (t *Tx) DueCalendars(ctx context.Context, now, again time.Time, most int) ([]schedule.DueCalendar, error) {
	rows, err := t.Queries.DueCalendars(ctx, db.DueCalendarsParams{Now: now, Again: again, Most: int32(most)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.DueCalendarsRow) (schedule.DueCalendar, error) {
		return schedule.DueCalendar{ID: r.ID, Host: r.Host}, nil
	})
}

// SetCalendarContent keeps what was read, packed.
func (t *Tx) SetCalendarContent(ctx context.Context, id uuid.UUID, packed []byte) error {
	return t.Queries.SetCalendarContent(ctx, db.SetCalendarContentParams{CalendarID: id, Packed: packed})
}

// CalendarContent is what was last read well; it fails with ErrNotFound.
func (t *Tx) CalendarContent(ctx context.Context, id uuid.UUID) ([]byte, error) {
	packed, err := t.Queries.CalendarContent(ctx, id)
	return packed, domain(err)
}

// SetEntries replaces the dates of a calendar.
func (t *Tx) SetEntries(ctx context.Context, id uuid.UUID, all []schedule.CalendarEntry) error {
	if err := t.DropEntries(ctx, id); err != nil {
		return err
	}
	rows := db.InsertEntriesParams{CalendarID: id}
	for _, e := range all {
		rows.Uids, rows.Titles, rows.Kinds = append(rows.Uids, e.UID), append(rows.Titles, e.Title), append(rows.Kinds, string(e.Kind))
		rows.Starts, rows.Ends, rows.WholeDays = append(rows.Starts, e.Span.Start.Time()), append(rows.Ends, e.Span.End.Time()), append(rows.WholeDays, e.WholeDay)
	}
	return t.InsertEntries(ctx, rows)
}

// EntriesOf are the dates of somebody's other calendars in a window, each once.
func (t *Tx) EntriesOf(ctx context.Context, personID uuid.UUID, window when.Span) ([]schedule.CalendarEntry, error) {
	rows, err := t.Queries.EntriesOf(ctx, db.EntriesOfParams{PersonID: &personID, Begins: window.Start.Time(), Ends: window.End.Time()})
	if err != nil {
		return nil, err
	}
	out, err := t.InvitationDates(ctx, personID, window)
	if err != nil {
		return nil, err
	}
	known := map[string]bool{} // what somebody is invited to here is not shown once more
	for _, e := range out {
		known[e.UID] = true
	}
	kept, err := each(rows, func(r db.EntriesOfRow) (schedule.CalendarEntry, error) {
		return schedule.CalendarEntry{UID: r.Uid, Title: r.Title, Span: toSpan(r.Starts, r.Ends), Kind: availability.Kind(r.Kind), WholeDay: r.WholeDay, Calendar: r.Name, Counts: r.Counts}, nil
	})
	for _, e := range kept {
		if !known[e.UID] {
			out = append(out, e)
		}
	}
	return out, err
}

// SetContactBusy replaces when somebody outside is busy.
func (t *Tx) SetContactBusy(ctx context.Context, contactID uuid.UUID, taken []availability.Time) error {
	if err := t.DropContactBusy(ctx, contactID); err != nil {
		return err
	}
	starts, ends, kinds := times(taken)
	return t.InsertContactBusy(ctx, db.InsertContactBusyParams{ContactID: contactID, Starts: starts, Ends: ends, Kinds: kinds})
}

// ContactBusy is when people outside are busy in some windows, as BusyTimes.
func (t *Tx) ContactBusy(ctx context.Context, contacts []uuid.UUID, windows when.Spans) (map[uuid.UUID][]availability.Time, error) {
	if len(contacts) == 0 {
		return nil, nil
	}
	ask := db.ContactBusyParams{Contacts: contacts}
	ask.Starts, ask.Ends = edges(windows)
	rows, err := t.Queries.ContactBusy(ctx, ask)
	out := map[uuid.UUID][]availability.Time{}
	for _, r := range rows {
		out[r.ContactID] = append(out[r.ContactID], availability.Time{Span: toSpan(r.Starts, r.Ends), Kind: availability.Kind(r.Kind)})
	}
	return out, err
}

// ContactZone is where somebody outside is, "" where nobody knows.
func (t *Tx) ContactZone(ctx context.Context, id uuid.UUID) (string, error) {
	zone, err := t.Queries.ContactZone(ctx, id)
	return zone, domain(err)
}

// KnownContact is the contact of an address; one that is not there yet is made.
func (t *Tx) KnownContact(ctx context.Context, c schedule.Contact, fold string) (uuid.UUID, error) {
	return t.UpsertContact(ctx, db.UpsertContactParams{ID: uuid.New(), Name: c.Name, Email: c.Email, Fold: fold})
}

// Watching is whose time somebody has beside their own, in its order.
func (t *Tx) Watching(ctx context.Context, personID uuid.UUID) ([]schedule.Watched, error) {
	rows, err := t.Queries.Watching(ctx, personID)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.WatchingRow) (schedule.Watched, error) {
		return schedule.Watched{PersonID: r.WatchedID, RoomID: r.RoomID}, nil
	})
}

// SetWatching keeps that.
func (t *Tx) SetWatching(ctx context.Context, personID uuid.UUID, all []schedule.Watched) error {
	if err := t.DropWatching(ctx, personID); err != nil {
		return err
	}
	add := db.AddWatchingParams{PersonID: personID}
	for _, w := range all {
		add.Watched, add.Rooms = append(add.Watched, w.PersonID), append(add.Rooms, w.RoomID)
	}
	return t.AddWatching(ctx, add)
}

func toFeed(r db.Feed, err error) (schedule.Feed, error) {
	return schedule.Feed{ID: r.ID, PersonID: r.PersonID, RoomID: r.RoomID, Titles: r.Titles, Print: r.Print, ChangedAt: r.ChangedAt}, domain(err)
}

// Feed, FeedOfPerson and FeedOfRoom fail with ErrNotFound where there is none.
func (t *Tx) Feed(ctx context.Context, id uuid.UUID) (schedule.Feed, error) {
	return toFeed(t.FeedByID(ctx, id))
}

// FeedOfPerson is the address at which somebody gives their times; it fails with ErrNotFound.
func (t *Tx) FeedOfPerson(ctx context.Context, personID uuid.UUID) (schedule.Feed, error) {
	return toFeed(t.Queries.FeedOfPerson(ctx, &personID))
}

// FeedOfRoom is the same of a room.
func (t *Tx) FeedOfRoom(ctx context.Context, roomID uuid.UUID) (schedule.Feed, error) {
	return toFeed(t.Queries.FeedOfRoom(ctx, &roomID))
}

// AddFeed keeps an address.
func (t *Tx) AddFeed(ctx context.Context, f schedule.Feed, now time.Time) error {
	return t.InsertFeed(ctx, db.InsertFeedParams{ID: f.ID, PersonID: f.PersonID, RoomID: f.RoomID, Titles: f.Titles, MadeAt: now})
}

// SetFeedTitles keeps whether an address gives titles.
func (t *Tx) SetFeedTitles(ctx context.Context, id uuid.UUID, titles bool) error {
	return t.Queries.SetFeedTitles(ctx, db.SetFeedTitlesParams{ID: id, Titles: titles})
}

// SetFeedPrint keeps what an address gave last.
func (t *Tx) SetFeedPrint(ctx context.Context, f schedule.Feed) error {
	return t.Queries.SetFeedPrint(ctx, db.SetFeedPrintParams{ID: f.ID, Print: f.Print, ChangedAt: f.ChangedAt})
}

// DropFeedOfPerson withdraws the address of somebody.
func (t *Tx) DropFeedOfPerson(ctx context.Context, personID uuid.UUID) error {
	return t.Queries.DropFeedOfPerson(ctx, &personID)
}

// DropFeedOfRoom withdraws that of a room.
func (t *Tx) DropFeedOfRoom(ctx context.Context, roomID uuid.UUID) error {
	return t.Queries.DropFeedOfRoom(ctx, &roomID)
}
