package postgres

import (
	"context"
	"encoding/json"
	"strings"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/holidays"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// week is how working hours are kept: for each weekday from Sunday, stretches
// in minutes since midnight.
type week [7][][2]when.Clock

func weekOf(hours [7][]when.ClockSpan) (w week) {
	for day, spans := range hours {
		for _, s := range spans {
			w[day] = append(w[day], [2]when.Clock{s.Start, s.End})
		}
	}
	return w
}

func (w week) hours() (hours [7][]when.ClockSpan) {
	for day, spans := range w {
		for _, s := range spans {
			hours[day] = append(hours[day], when.ClockSpan{Start: s[0], End: s[1]})
		}
	}
	return hours
}

func hoursJSON(h when.Hours) []byte { return must(weekOf(h.Week)) }

func toHours(b []byte, zone string) (when.Hours, error) {
	var w week
	if err := json.Unmarshal(b, &w); err != nil {
		return when.Hours{}, err
	}
	z, err := when.LoadZone(zone)
	if err != nil {
		return when.Hours{}, err
	}
	return when.Hours{Week: w.hours(), Zone: z}, nil
}

func toPerson(p db.Person, site, country string) (schedule.Person, error) {
	out := schedule.Person{ID: p.ID, Name: p.Name, Email: p.Email, Role: p.Role, Site: site, SiteID: p.SiteID, KeepsRooms: p.KeepsRooms, KeepsProviders: p.KeepsProviders, Left: p.LeftAt != nil,
		Holidays: country, PasswordHash: p.PasswordHash, NewsMail: schedule.NewsMail(p.NewsMail), Shares: availability.Level(p.Shares), HoursVersion: int(p.HoursVersion), MorningMail: p.MorningMail, Nudges: p.Nudges, Language: p.Language}
	if p.MorningMailed != nil {
		out.MorningMailed = toDay(*p.MorningMailed)
	}
	var err error
	if out.Hours, err = toHours(p.Hours, p.Zone); err != nil {
		return out, err
	}
	if c, known := holidays.Find(country); known {
		out.Hours.Closed = c
	}
	if len(p.OtherHours) > 2 { // not []
		if out.OtherDays, err = toOtherDays(p.OtherHours); err != nil {
			return out, err
		}
		out.Hours.Other = make(map[when.Day][]when.ClockSpan, len(out.OtherDays))
		for _, d := range out.OtherDays {
			out.Hours.Other[d.Day] = d.Hours
		}
	}
	return out, nil
}

// PersonByEmail finds somebody by address; it fails with ErrNotFound.
func (t *Tx) PersonByEmail(ctx context.Context, email string) (schedule.Person, error) {
	row, err := t.Queries.PersonByEmail(ctx, email)
	if err != nil {
		return schedule.Person{}, domain(err)
	}
	return toPerson(row.Person, row.Site, row.Holidays)
}

// People are those of some ids who are there, in no order.
func (t *Tx) People(ctx context.Context, ids []uuid.UUID) ([]schedule.Person, error) {
	rows, err := t.PeopleByID(ctx, ids)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.PeopleByIDRow) (schedule.Person, error) { return toPerson(r.Person, r.Site, r.Holidays) })
}

// PeopleByEmail are those with some addresses, whatever their case.
func (t *Tx) PeopleByEmail(ctx context.Context, emails []string) ([]schedule.Person, error) {
	rows, err := t.Queries.PeopleByEmail(ctx, lower(emails))
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.PeopleByEmailRow) (schedule.Person, error) { return toPerson(r.Person, r.Site, r.Holidays) })
}

// Contacts are the people outside with some addresses.
func (t *Tx) Contacts(ctx context.Context, emails []string) ([]schedule.Contact, error) {
	rows, err := t.ContactsByEmail(ctx, lower(emails))
	if err != nil {
		return nil, err
	}
	return each(rows, func(c db.Contact) (schedule.Contact, error) {
		out := schedule.Contact{ID: c.ID, Name: c.Name, Firm: c.Firm, Email: c.Email, Zone: c.Zone}
		if c.Hours == nil {
			return out, nil
		}
		hours, err := toHours(c.Hours, c.Zone)
		out.Hours = &hours
		return out, err
	})
}

// like escapes what LIKE would read as a pattern.
var like = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// SearchDirectory are those whose name or address holds a text, people here first.
func (t *Tx) SearchDirectory(ctx context.Context, without uuid.UUID, folded string, page schedule.Page) ([]schedule.Entry, error) {
	rows, err := t.Queries.SearchDirectory(ctx, db.SearchDirectoryParams{Without: without, Pattern: like.Replace(folded),
		Most: int32(page.Most), Skip: int32(page.Skip)})
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.SearchDirectoryRow) (schedule.Entry, error) {
		return schedule.Entry{ID: r.ID, Name: r.Name, Email: r.Email, About: r.About, Outside: r.Outside}, nil
	})
}

// DirectoryByNames finds for each name, folded, at most so many who could be meant.
func (t *Tx) DirectoryByNames(ctx context.Context, folded []string, most int) ([][]schedule.Entry, error) {
	out := make([][]schedule.Entry, len(folded))
	if len(folded) == 0 {
		return out, nil
	}
	patterns := make([]string, len(folded))
	for i, name := range folded {
		patterns[i] = like.Replace(name)
	}
	rows, err := t.Queries.DirectoryByNames(ctx, db.DirectoryByNamesParams{Patterns: patterns, Most: int32(most)})
	for _, r := range rows {
		out[r.Number-1] = append(out[r.Number-1], schedule.Entry{ID: r.ID, Name: r.Name, Email: r.Email, About: r.About, Outside: r.Outside})
	}
	return out, err
}

// RoomsByEmail are the rooms that have one of the addresses.
func (t *Tx) RoomsByEmail(ctx context.Context, emails []string) ([]schedule.Room, error) {
	if len(emails) == 0 {
		return nil, nil
	}
	rows, err := t.Queries.RoomsByEmail(ctx, lower(emails))
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.RoomsByEmailRow) (schedule.Room, error) { return toRoom(db.RoomsRow(r)) })
}

// Rooms are the rooms of the house, by site and name.
func (t *Tx) Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error) {
	rows, err := t.Queries.Rooms(ctx, db.RoomsParams{Most: int32(page.Most), Skip: int32(page.Skip)})
	if err != nil {
		return nil, err
	}
	return each(rows, toRoom)
}

// RoomsByID are those of the rooms that are there.
func (t *Tx) RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	rows, err := t.Queries.RoomsByID(ctx, ids)
	if err != nil {
		return nil, err
	}
	return each(rows, func(r db.RoomsByIDRow) (schedule.Room, error) { return toRoom(db.RoomsRow(r)) })
}

func lower(all []string) []string {
	out := make([]string, len(all))
	for i, s := range all {
		out[i] = strings.ToLower(s)
	}
	return out
}

// each turns rows into what the domain calls them, and stops at the first that
// cannot be.
func each[From, To any](rows []From, turn func(From) (To, error)) ([]To, error) {
	out := make([]To, 0, len(rows))
	for _, r := range rows {
		v, err := turn(r)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}
