package rooms

import (
	"context"
	"net/mail"
	"net/url"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// changeTx is what is needed here of a transaction.
type changeTx interface {
	directory.LookupTx
	LockRoomToChange(ctx context.Context, id uuid.UUID) (schedule.Room, error)
	QueueReplace(ctx context.Context, standing uuid.UUID) error
	SetRoom(ctx context.Context, r schedule.Room) error
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) changeStore() schedule.Store[changeTx] {
	return schedule.Narrow(s.Store, func(tx Tx) changeTx { return tx })
}

// Limits of what a room is like.
const (
	mostSeats      = 100_000
	mostEquipment  = 40
	longName       = 200
	longDirections = 4000
	mostKeepers    = 20
)

// Change is what its keeper changes of a room. Bookings that are there stay as they are.
type Change struct {
	Name, Floor      string
	Seats            int
	Equipment        []string
	Directions, Link string
	Keepers          []uuid.UUID
	Rules            TypedRules
}

// ChangeRoom keeps what a room is like and by which rules it is booked. It is for who
// keeps the room; it fails with ErrNotFound for everybody else, with a *ChangedError when
// it was changed since version, and with an *InvalidError that names every field at fault.
func (s *Deeds) ChangeRoom(ctx context.Context, who schedule.Actor, id uuid.UUID, version int, c Change) error {
	return s.changeStore().InTx(ctx, func(tx changeTx) error {
		room, err := tx.LockRoomToChange(ctx, id)
		if err != nil {
			return err
		}
		me, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		switch {
		case !room.KeptFor(me):
			return schedule.ErrNotFound
		case room.Version != version:
			return &ChangedError{}
		}
		was := room.Link
		room.Name, room.Floor, room.Seats, room.Equipment = strings.TrimSpace(c.Name), strings.TrimSpace(c.Floor), c.Seats, equipment(c.Equipment)
		room.Directions, room.Link, room.Keepers = strings.TrimSpace(c.Directions), strings.TrimSpace(c.Link), c.Keepers
		reader := typed.Reader{Words: words.Typed, Today: me.Hours.Zone.LocalAt(when.At(s.Now())).Day, Order: schedule.DayOrder(ctx)}
		rules, faults := c.Rules.Read(reader)
		room.Rules = rules
		if len(faults) == 0 {
			faults = Faults(room)
		}
		if unknown, err := unknownPeople(ctx, tx, room); err != nil {
			return err
		} else if unknown {
			faults = append(faults, meeting.Fault{Field: "keepers", What: say.It("room.keepers")})
		}
		if len(faults) > 0 {
			return &schedule.InvalidError{Faults: faults}
		}
		if err := tx.SetRoom(ctx, room); err != nil {
			return err
		}
		if was != "" && room.Link != "" && room.Link != was { // meetings to come that use it follow
			if err := tx.QueueReplace(ctx, id); err != nil {
				return err
			}
		}
		return tx.Tell(ctx, schedule.Notice{People: append(slices.Clone(room.KeptBy), who.For), Topic: schedule.AboutRoom, ID: id})
	})
}

// ChangedError: somebody else changed the room meanwhile.
type ChangedError struct{}

func (*ChangedError) Error() string { return "the room was changed in the meantime" }

// unknownPeople tells whether a keeper, or somebody named by the rules, does not work here.
func unknownPeople(ctx context.Context, tx changeTx, room schedule.Room) (bool, error) {
	ids := slices.Clone(room.Keepers)
	for _, text := range room.Rules.People {
		id, err := uuid.Parse(text)
		if err != nil {
			return true, nil
		}
		ids = append(ids, id)
	}
	slices.SortFunc(ids, func(a, b uuid.UUID) int { return slices.Compare(a[:], b[:]) })
	ids = slices.Compact(ids)
	found, err := tx.People(ctx, ids)
	found = slices.DeleteFunc(found, func(p schedule.Person) bool { return p.Left })
	return len(found) < len(ids), err
}

// equipment is what is in a room, each once, without what is empty.
func equipment(all []string) (out []string) {
	for _, e := range all {
		if e = strings.TrimSpace(e); e != "" && !slices.Contains(out, e) {
			out = append(out, e)
		}
	}
	return out
}

// Faults are what is wrong with what a room is like, by field.
func Faults(r schedule.Room) (faults []meeting.Fault) {
	add := func(bad bool, field string, what say.What) {
		if bad {
			faults = append(faults, meeting.Fault{Field: field, What: what})
		}
	}
	add(r.Name == "", "name", say.It("room.noName"))
	add(utf8.RuneCountInString(r.Name) > longName, "name", say.It("room.nameLong"))
	add(utf8.RuneCountInString(r.Floor) > longName, "floor", say.It("room.floorLong"))
	add(r.Seats < 1 || r.Seats > mostSeats, "seats", say.It("room.seats"))
	add(len(r.Equipment) > mostEquipment, "equipment", say.It("room.thingsMany", mostEquipment))
	add(slices.ContainsFunc(r.Equipment, func(e string) bool { return utf8.RuneCountInString(e) > longName }), "equipment", say.It("room.thingLong"))
	add(utf8.RuneCountInString(r.Directions) > longDirections, "directions", say.It("room.wayLong"))
	add(len(r.Keepers) > mostKeepers, "keepers", say.It("room.keepersMany", mostKeepers))
	if _, err := mail.ParseAddress(r.Email); err != nil {
		add(true, "email", say.It("room.address"))
	}
	if u, err := url.Parse(r.Link); r.Link != "" && (err != nil || u.Scheme != "https" && !here(u) || u.Host == "" || len(r.Link) > 2000) {
		add(true, "link", say.It("room.page"))
	}
	for _, f := range r.Rules.Faults() {
		add(true, "rules."+string(f), f.What())
	}
	return faults
}

// here tells whether an address is of this machine, where nobody listens on the way (RFC 6761,
// 6.3).
func here(u *url.URL) bool {
	return u.Scheme == "http" && strings.HasSuffix(u.Hostname(), ".localhost")
}
