package program

import (
	"errors"
	"fmt"
	"net/netip"
	"net/url"
	"strings"

	"jembro/internal/core/tongue"
)

// weakest is how many bytes a secret has at least, and fewest how many different
// ones.
const weakest, fewest = 32, 10

// Check refuses settings under which the program could be taken over, unless they
// are said to be meant.
func (c Config) Check() error {
	if _, err := guestRights(c.GuestsMay); err != nil {
		return err
	}
	if c.Language != "" && !tongue.Known(c.Language) {
		return fmt.Errorf("JEMBRO_LANGUAGE: there are no letters in %q", c.Language)
	}
	if c.InsecureMeant {
		return nil
	}
	var errs []error
	different := map[byte]bool{}
	for i := range len(c.Secret) {
		different[c.Secret[i]] = true
	}
	if len(c.Secret) < weakest || len(different) < fewest {
		errs = append(errs, fmt.Errorf("JEMBRO_SECRET is weak: take at least %d random bytes, as \"openssl rand -base64 32\" prints them", weakest))
	}
	u, err := url.Parse(c.BaseURL)
	switch {
	case err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" || strings.HasSuffix(c.BaseURL, "/"):
		errs = append(errs, fmt.Errorf("JEMBRO_BASE_URL: %q is not an address like https://meet.firm.example", c.BaseURL))
	case u.Scheme == "http" && !loopback(u.Hostname()):
		errs = append(errs, errors.New("JEMBRO_BASE_URL is without TLS: passwords and guests' addresses could be read on the way"))
	}
	if c.RelayPlain && !loopback(c.RelayHost) {
		errs = append(errs, errors.New("JEMBRO_RELAY_PLAIN is for a relay on this machine: mail and its password could be read on the way"))
	}
	if len(errs) == 0 {
		return nil
	}
	return fmt.Errorf("%w\nIf it is meant so, set JEMBRO_INSECURE_MEANT=true", errors.Join(errs...))
}

func loopback(host string) bool {
	a, err := netip.ParseAddr(host)
	return host == "localhost" || err == nil && a.IsLoopback()
}
