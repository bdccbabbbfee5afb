package rooms

import (
	"cmp"
	"slices"

	"jembro/internal/core/when"
)

// Facts are what a room is like.
type Facts struct {
	ID, SiteID string
	Floor      string
	Seats      int
	Equipment  []string
	Asks       bool // its keeper has to agree to who asks
}

// Wish is what a room must have, and the one that is meant already. The zero Wish
// is content with any room.
type Wish struct {
	Seats     int
	Equipment []string
	SiteID    string // "" for any
	Floor     string // its name, "" for any
	Meant     string // the ID of the room on the sheet, "" for none
}

// Suits tells whether a room has enough seats, what is asked for, and lies where
// it should.
func (w Wish) Suits(r Facts) bool {
	return r.Seats >= w.Seats && (w.SiteID == "" || w.SiteID == r.SiteID) && (w.Floor == "" || w.Floor == r.Floor) &&
		!slices.ContainsFunc(w.Equipment, func(e string) bool { return !slices.Contains(r.Equipment, e) })
}

// Order gives the places of the rooms that would do, the best first: the one that
// is meant, whether it suits or not, then those that ask nobody, then those at its site,
// each by seats: the smallest that does is the best. Equal rooms keep their order.
func (w Wish) Order(all []Facts) []int {
	var places []int
	site := ""
	for i, r := range all {
		if r.ID == w.Meant && w.Meant != "" {
			site = r.SiteID
		} else if !w.Suits(r) {
			continue
		}
		places = append(places, i)
	}
	slices.SortStableFunc(places, func(a, b int) int {
		x, y := all[a], all[b]
		return cmp.Or(falseFirst(x.ID != w.Meant, y.ID != w.Meant), falseFirst(x.Asks, y.Asks), falseFirst(x.SiteID != site, y.SiteID != site), x.Seats-y.Seats)
	})
	return places
}

// ByClear puts the room that is meant first, then those that are clear, those that ask
// nobody before the others, each by seats.
func (w Wish) ByClear(all []Facts, places []int, clear func(place int) bool) {
	slices.SortStableFunc(places, func(a, b int) int {
		return cmp.Or(falseFirst(all[a].ID != w.Meant, all[b].ID != w.Meant), falseFirst(!clear(a), !clear(b)), falseFirst(all[a].Asks, all[b].Asks), all[a].Seats-all[b].Seats)
	})
}

// Instead gives the places of rooms that would do instead of one that is taken:
// clear on all the dates, with enough seats, those at the site first; five at the
// most.
func Instead(all []Facts, booked map[string]when.Spans, dates []when.Span, seats int, site string) []int {
	var places []int
	for i, r := range all {
		if r.Seats >= seats && !slices.ContainsFunc(dates, booked[r.ID].Overlaps) {
			places = append(places, i)
		}
	}
	slices.SortStableFunc(places, func(a, b int) int {
		return cmp.Or(falseFirst(all[a].SiteID != site, all[b].SiteID != site), all[a].Seats-all[b].Seats)
	})
	return places[:min(len(places), 5)]
}

func falseFirst(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return 1
	}
	return -1
}
