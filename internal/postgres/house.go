package postgres

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"jembro/internal/core/holidays"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
	"jembro/internal/schedule/account"
	"jembro/internal/schedule/directory"
	keeping "jembro/internal/schedule/rooms"
)

// House is a house to begin with: sites, people, rooms and known contacts, as
// "jembro import" reads them from a JSON file.
type House struct {
	// Holidays is the country whose public holidays a site keeps, by its ISO
	// 3166-1 code, or empty.
	Sites  []struct{ Name, Zone, Holidays string }
	Rooms  []HouseRoom
	People []struct {
		Name, Email, Role, Site, Password string
		KeepsRooms                        bool // all of them
		KeepsProviders                    bool
		Zone, From, Until                 string // From and Until: working hours, Monday to Friday
	}
	Contacts []struct {
		Name, Firm, Email string
		Zone, From, Until string // no hours: From and Until are empty
	}
}

// HouseRoom is a room of a house to begin with.
type HouseRoom struct {
	Name, Site, Floor, Email string
	Seats                    int
	Equipment                []string
	Directions, Link         string
	Keepers                  []string        // their addresses
	Rules                    json.RawMessage // as they are kept, see storedRules
}

// idFrom makes the same id of the same address or name every time.
func idFrom(kind, name string) uuid.UUID {
	return uuid.NewSHA1(uuid.NameSpaceURL, []byte("jembro:"+kind+":"+name))
}

// Import adds a house to an empty directory, all of it or nothing.
func (s *Store) Import(ctx context.Context, h House) error {
	return pgx.BeginFunc(ctx, s.pool, func(pgxTx pgx.Tx) error {
		q := db.New(pgxTx)
		if n, err := q.CountPeople(ctx); err != nil || n > 0 {
			if err == nil {
				err = fmt.Errorf("there are %d people already; a house is imported into an empty directory", n)
			}
			return err
		}
		for _, v := range h.Sites {
			if _, err := when.LoadZone(v.Zone); err != nil {
				return fmt.Errorf("site %s: %w", v.Name, err)
			}
			if _, known := holidays.Find(v.Holidays); v.Holidays != "" && !known {
				return fmt.Errorf("site %s: the holidays of %q are not known; known are %s", v.Name, v.Holidays, strings.Join(holidays.Codes(), ", "))
			}
			if err := q.InsertSite(ctx, db.InsertSiteParams{ID: idFrom("site", v.Name), Name: v.Name, Zone: v.Zone, Holidays: v.Holidays}); err != nil {
				return err
			}
		}
		here := map[string]bool{}
		for _, v := range h.People {
			here[v.Email] = true
			hours, err := workdays(v.From, v.Until, v.Zone)
			if err != nil {
				return fmt.Errorf("person %s: %w", v.Email, err)
			}
			hash, err := account.HashPassword(v.Password)
			if err != nil {
				return err
			}
			if err := q.InsertPerson(ctx, db.InsertPersonParams{ID: idFrom("person", v.Email), Name: v.Name, Email: v.Email, Role: v.Role,
				SiteID: idFrom("site", v.Site), Zone: v.Zone, Hours: hoursJSON(hours), PasswordHash: hash, KeepsRooms: v.KeepsRooms, KeepsProviders: v.KeepsProviders,
				Fold: directory.Fold(v.Name + " " + v.Email)}); err != nil {
				return fmt.Errorf("person %s: %w", v.Email, err)
			}
		}
		for _, v := range h.Rooms {
			if v.Rules == nil {
				v.Rules = rulesJSON(rooms.Rules{})
			}
			rules, err := toRules(v.Rules)
			if err != nil {
				return fmt.Errorf("room %s: %w", v.Name, err)
			}
			room := schedule.Room{ID: idFrom("room", v.Email), SiteID: idFrom("site", v.Site), Name: v.Name, Floor: v.Floor, Seats: v.Seats, Equipment: v.Equipment,
				Email: v.Email, Directions: v.Directions, Link: v.Link, Rules: rules}
			for _, keeper := range v.Keepers {
				if !here[keeper] {
					return fmt.Errorf("room %s: nobody here has the address %s of its keeper", v.Name, keeper)
				}
				room.Keepers = append(room.Keepers, idFrom("person", keeper))
			}
			if faults := keeping.Faults(room); len(faults) > 0 {
				return fmt.Errorf("room %s: %s: %s", v.Name, faults[0].Field, faults[0].What.Error())
			}
			if err := (&Tx{Queries: q}).AddRoom(ctx, room); err != nil {
				return fmt.Errorf("room %s: %w", v.Name, err)
			}
		}
		for _, v := range h.Contacts {
			row := db.InsertContactParams{ID: idFrom("contact", v.Email), Name: v.Name, Firm: v.Firm, Email: v.Email, Zone: v.Zone,
				Fold: directory.Fold(v.Name + " " + v.Email + " " + v.Firm)}
			if v.From != "" {
				hours, err := workdays(v.From, v.Until, v.Zone)
				if err != nil {
					return fmt.Errorf("contact %s: %w", v.Email, err)
				}
				row.Hours = hoursJSON(hours)
			}
			if err := q.InsertContact(ctx, row); err != nil {
				return fmt.Errorf("contact %s: %w", v.Email, err)
			}
		}
		return nil
	})
}

func workdays(from, until, zone string) (when.Hours, error) {
	z, err := when.LoadZone(zone)
	if err != nil {
		return when.Hours{}, err
	}
	start, err := when.ParseClock(from)
	if err != nil {
		return when.Hours{}, err
	}
	end, err := when.ParseClock(until)
	return when.Workdays(start, end, z), err
}
