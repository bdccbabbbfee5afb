package schedule

import (
	"cmp"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/holidays"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// Person is somebody with an account.
type Person struct {
	ID             uuid.UUID
	Name, Email    string
	Role, Site     string
	SiteID         uuid.UUID
	KeepsRooms     bool       // all rooms of the house
	KeepsProviders bool       // adds conferencing providers
	Left           bool       // they work here no more
	Holidays       string     // the country whose holidays their site keeps, or ""
	Hours          when.Hours // in their zone, with those of OtherDays
	OtherDays      []OtherDay
	HoursVersion   int                // of Hours and OtherDays
	Shares         availability.Level // what everybody in the house may see of their time
	PasswordHash   string
	NewsMail       NewsMail
	Language       string   // of what is said to them, as tongue.In reads it
	Nudges         bool     // who says nothing is asked again by itself
	MorningMail    bool     // a short mail about the day
	MorningMailed  when.Day // when it last came, 0 for never
}

// Party is the person as invitations name them.
func (p Person) Party() meeting.Party {
	return meeting.Party{PersonID: p.ID.String(), Name: p.Name, Email: p.Email, Zone: p.Hours.Zone.String()}
}

// Holiday is a public holiday.
type Holiday struct {
	Day  when.Day
	Name string
}

// HolidaysIn are the public holidays of the person's site on some days.
func (p Person) HolidaysIn(first, last when.Day) (out []Holiday) {
	for day := first; day <= last; day++ {
		if name := holidays.Name(p.Holidays, day); name != "" {
			out = append(out, Holiday{day, name})
		}
	}
	return out
}

// ShareWith is how much of the person's time somebody may see, by what single people share
// with them.
func (p Person) ShareWith(shared map[uuid.UUID]availability.Level) availability.Level {
	if level, own := shared[p.ID]; own {
		return level
	}
	return cmp.Or(p.Shares, availability.SeeBusy)
}

// Contact is somebody outside who is known by name. Hours is nil when nobody
// knows them.
type Contact struct {
	ID                      uuid.UUID
	Name, Firm, Email, Zone string
	Hours                   *when.Hours
}

// Entry is a line of the directory.
type Entry struct {
	ID          uuid.UUID
	Name, Email string
	About       string // role and site, or the firm
	Outside     bool
}

// Room is a room of the house.
type Room struct {
	ID        uuid.UUID
	SiteID    uuid.UUID
	Name      string
	Site      string
	Holidays  string
	Floor     string
	Seats     int
	Equipment []string
	Email     string
	// Directions say how to get there, Link is the room's own standing link, or "".
	Directions, Link string
	Zone             when.Zone // of its site
	Rules            rooms.Rules
	// Keepers are those named; KeptBy is who decides: they, or else who keeps all rooms.
	Keepers, KeptBy []uuid.UUID
	Version         int
}

// Place is the room as its rules see it.
func (r Room) Place() rooms.Place {
	return rooms.Place{Rules: r.Rules, SiteID: r.SiteID.String(), Zone: r.Zone,
		Holiday: func(day when.Day) bool { return holidays.Name(r.Holidays, day) != "" }}
}

// Asker is somebody who wants the room. Where nobody keeps it nobody has to agree.
func (r Room) Asker(p Person) rooms.Asker {
	return rooms.Asker{PersonID: p.ID.String(), SiteID: p.SiteID.String(), Keeps: r.KeptFor(p) || len(r.KeptBy) == 0}
}

// KeptFor tells whether somebody decides about the room.
func (r Room) KeptFor(p Person) bool { return p.KeepsRooms || slices.Contains(r.KeptBy, p.ID) }

// Named is the room as invitations name it.
func (r Room) Named() *meeting.Room {
	return &meeting.Room{ID: r.ID.String(), Name: r.Name, Place: r.Site + ", " + r.Floor, Email: r.Email, Seats: r.Seats}
}

// Page is a part of a list: the first Skip are left out, at most Most come.
type Page struct{ Most, Skip int }

// EveryRoom is the page that holds all rooms of a house.
var EveryRoom = Page{Most: 1000}

// Facts are what the core needs to know of the room.
func (r Room) Facts() rooms.Facts {
	return rooms.Facts{ID: r.ID.String(), SiteID: r.SiteID.String(), Floor: r.Floor, Seats: r.Seats, Equipment: r.Equipment}
}

// FactsFor are those of some rooms for somebody who wants one for some length.
func FactsFor(all []Room, by Person, length time.Duration) []rooms.Facts {
	out := RoomFacts(all)
	for i, r := range all {
		out[i].Asks = r.Place().Asks(r.Asker(by), length)
	}
	return out
}

// RoomFacts are those of some rooms.
func RoomFacts(all []Room) []rooms.Facts {
	out := make([]rooms.Facts, len(all))
	for i, r := range all {
		out[i] = r.Facts()
	}
	return out
}

// Booked is when each room is taken, by its ID.
func Booked(bookings []Booking) map[string]when.Spans {
	spans := map[uuid.UUID][]when.Span{}
	for _, b := range bookings {
		spans[b.RoomID] = append(spans[b.RoomID], b.Span)
	}
	booked := make(map[string]when.Spans, len(spans))
	for room, times := range spans {
		booked[room.String()] = when.Union(times...)
	}
	return booked
}

// Session is who is signed in, the language that they read ("" for English), and when they were here
// last.
type Session struct {
	Person   uuid.UUID
	Language string
	Seen     time.Time
}
