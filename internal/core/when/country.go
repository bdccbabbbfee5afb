package when

import (
	_ "embed"
	"strings"
	"sync"
)

// countryTab names the country of each zone: the columns TZ and country of zone.tab in the tz
// database of IANA, release 2025b, which is in the public domain.
//
//go:embed countries.txt
var countryTab string

var countries = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for line := range strings.Lines(countryTab) {
		zone, country, _ := strings.Cut(strings.TrimSpace(line), " ")
		out[zone] = country
	}
	return out
})

// CountryOf is the country (ISO 3166-1 alpha-2) that an IANA zone is named for, "" for a zone
// of none, and for one that is not known.
func CountryOf(zone string) string { return countries()[zone] }
