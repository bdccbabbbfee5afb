// Package outbound bounds what is asked of addresses that people name: never one inside the
// house, and no longer than it may take.
package outbound

import (
	"errors"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strconv"
	"syscall"
	"time"
)

// ErrPrivate is an address that is private, loopback, or else not of the public internet.
var ErrPrivate = errors.New("an address that is not asked for anybody")

// Gate lets connections through to addresses of the public internet, and to those in Allow. A
// connection is looked at when it is made, so that a name cannot mean another address the
// second time.
type Gate struct{ Allow []netip.Prefix }

// Transport makes connections through the gate. Answers are not unpacked by it.
func (g Gate) Transport() *http.Transport {
	dialer := &net.Dialer{Timeout: 10 * time.Second, Control: g.control}
	return &http.Transport{DialContext: dialer.DialContext, TLSHandshakeTimeout: 10 * time.Second, ResponseHeaderTimeout: 30 * time.Second,
		DisableCompression: true, MaxResponseHeaderBytes: 64 << 10, MaxIdleConns: 20, MaxIdleConnsPerHost: 1, IdleConnTimeout: 20 * time.Second, ForceAttemptHTTP2: true}
}

// control looks at the address that is about to be dialled.
func (g Gate) control(_, address string, _ syscall.RawConn) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return err
	}
	allowed := slices.ContainsFunc(g.Allow, func(p netip.Prefix) bool { return p.Contains(at.Addr().Unmap()) })
	if !allowed && (!may(at.Addr()) || !webPort(at.Port())) {
		return ErrPrivate
	}
	return nil
}

// webPort tells whether the web may be asked at a port: not at those of other services, mail
// above all.
func webPort(port uint16) bool { return port == 80 || port == 443 || port >= 1024 }

// special are addresses of no single host of the public internet beyond those that netip
// knows (IANA's special-purpose registries, RFC 6890).
var special = func() (out []netip.Prefix) {
	for _, s := range []string{"0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15", "198.51.100.0/24",
		"203.0.113.0/24", "240.0.0.0/4", "64:ff9b::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16", "fec0::/10"} {
		out = append(out, netip.MustParsePrefix(s))
	}
	return out
}()

// may tells whether an address is one of the public internet.
func may(a netip.Addr) bool {
	a = a.Unmap()
	within := func(p netip.Prefix) bool { return p.Contains(a) }
	return a.IsGlobalUnicast() && !a.IsPrivate() && !a.IsLoopback() && !a.IsLinkLocalUnicast() && !slices.ContainsFunc(special, within)
}

// longestWait is how long the other side can ask to wait.
const longestWait = 24 * time.Hour

// Wait is how long the other side asks to wait (RFC 9110, 10.2.3), 0 where it does not say.
func Wait(res *http.Response) time.Duration {
	text := res.Header.Get("Retry-After")
	if seconds, err := strconv.Atoi(text); err == nil && seconds > 0 {
		return min(time.Duration(min(seconds, 1<<20))*time.Second, longestWait)
	}
	if at, err := http.ParseTime(text); err == nil {
		return min(max(time.Until(at), 0), longestWait)
	}
	return 0
}
