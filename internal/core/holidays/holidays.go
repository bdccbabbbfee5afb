// Package holidays knows the public holidays of countries, from rickar/cal.
package holidays

import (
	"sort"
	"sync"
	"time"

	"github.com/rickar/cal/v2"
	"github.com/rickar/cal/v2/at"
	"github.com/rickar/cal/v2/be"
	"github.com/rickar/cal/v2/br"
	"github.com/rickar/cal/v2/ca"
	"github.com/rickar/cal/v2/ch"
	"github.com/rickar/cal/v2/cz"
	"github.com/rickar/cal/v2/de"
	"github.com/rickar/cal/v2/dk"
	"github.com/rickar/cal/v2/es"
	"github.com/rickar/cal/v2/fr"
	"github.com/rickar/cal/v2/gb"
	"github.com/rickar/cal/v2/ie"
	"github.com/rickar/cal/v2/it"
	"github.com/rickar/cal/v2/jp"
	"github.com/rickar/cal/v2/nl"
	"github.com/rickar/cal/v2/no"
	"github.com/rickar/cal/v2/nz"
	"github.com/rickar/cal/v2/pl"
	"github.com/rickar/cal/v2/se"
	"github.com/rickar/cal/v2/us"
	"github.com/rickar/cal/v2/za"

	"jembro/internal/core/when"
)

// Country is a country whose holidays are known, by its ISO 3166-1 code.
type Country struct{ Code, Name string }

var known = map[string]struct {
	name string
	days []*cal.Holiday
}{
	"AT": {"Austria", at.Holidays}, "BE": {"Belgium", be.Holidays},
	"BR": {"Brazil", br.Holidays}, "CA": {"Canada", ca.Holidays}, "CH": {"Switzerland", ch.Holidays},
	"CZ": {"Czechia", cz.Holidays}, "DE": {"Germany", de.Holidays}, "DK": {"Denmark", dk.Holidays},
	"ES": {"Spain", es.Holidays}, "FR": {"France", fr.Holidays}, "GB": {"the United Kingdom", gb.Holidays},
	"IE": {"Ireland", ie.Holidays}, "IT": {"Italy", it.Holidays}, "JP": {"Japan", jp.Holidays},
	"NL": {"the Netherlands", nl.Holidays}, "NO": {"Norway", no.Holidays}, "NZ": {"New Zealand", nz.Holidays},
	"PL": {"Poland", pl.Holidays}, "PT": {"Portugal", portugal}, "SE": {"Sweden", se.Holidays},
	"US": {"the United States", us.Holidays}, "ZA": {"South Africa", za.Holidays},
}

// Find is the country of a code; ok is false when its holidays are not known.
func Find(code string) (c Country, ok bool) {
	k, ok := known[code]
	return Country{code, k.name}, ok
}

// Has tells whether a day is a holiday in the country.
func (c Country) Has(day when.Day) bool { return Name(c.Code, day) != "" }

// Name is what a day is called as a holiday in a country: the day itself, or the
// working day on which it is made up for. It is "" for any other day and for a
// country that is not known.
func Name(code string, day when.Day) string {
	if _, is := known[code]; !is {
		return ""
	}
	year, _, _ := day.Date()
	at := countryYear{code, year}
	names, found := years.Load(at)
	if !found {
		names, _ = years.LoadOrStore(at, at.names())
	}
	return names.(map[when.Day]string)[day]
}

// countryYear is a year of a country; what was looked up is kept: a year is asked about
// day by day, for everybody.
type countryYear struct {
	code string
	year int
}

var years sync.Map

func (c countryYear) names() map[when.Day]string {
	out := map[when.Day]string{}
	for _, h := range known[c.code].days {
		for year := c.year - 1; year <= c.year+1; year++ { // one may be made up for in the next year, or the one before
			actual, observed := h.Calc(year)
			for _, at := range []time.Time{actual, observed} {
				if day := when.DayOf(at.Date()); !at.IsZero() && at.Year() == c.year && out[day] == "" {
					out[day] = h.Name
				}
			}
		}
	}
	return out
}

// Codes are the countries that are known, ascending.
func Codes() (codes []string) {
	for code := range known {
		codes = append(codes, code)
	}
	sort.Strings(codes)
	return codes
}

// In is what a day is called as a holiday in the first of some countries where it
// is one, or "".
func In(countries []string, day when.Day) string {
	for _, code := range countries {
		if name := Name(code, day); name != "" {
			return name
		}
	}
	return ""
}
