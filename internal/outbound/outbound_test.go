package outbound

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPublicAddresses(t *testing.T) {
	for text, public := range map[string]bool{"8.8.8.8": true, "2606:4700:4700::1111": true, "172.20.1.1": false, "fe80::1": false, "224.0.0.1": false, "255.255.255.255": false, "::": false, "192.0.2.7": false, "64:ff9b::7f00:1": false, "2002:7f00:1::": false} {
		assert.Equal(t, public, may(netip.MustParseAddr(text)), text)
	}
}

// TestOtherServicesAreNotAsked: what is asked at is the web.
func TestOtherServicesAreNotAsked(t *testing.T) {
	gate := Gate{}
	assert.ErrorIs(t, gate.control("tcp", "8.8.8.8:25", nil), ErrPrivate)
	assert.ErrorIs(t, gate.control("tcp", "10.0.0.1:443", nil), ErrPrivate)
	for _, address := range []string{"8.8.8.8:80", "8.8.8.8:443", "8.8.8.8:8443"} {
		assert.NoError(t, gate.control("tcp", address, nil))
	}
	assert.NoError(t, Gate{Allow: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}}.control("tcp", "127.0.0.1:25", nil), "what is allowed is")
}
