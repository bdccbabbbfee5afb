package program_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jembro/internal/program"
)

func TestWhatServeRefuses(t *testing.T) {
	strong := "b64d7a1c0f9e8a7b6c5d4e3f2a1b0c9d8e7f"
	cases := []struct {
		name string
		c    program.Config
		says string
	}{
		{"all is well", program.Config{Secret: strong, BaseURL: "https://meet.firm.example"}, ""},
		{"on this machine", program.Config{Secret: strong, BaseURL: "http://127.0.0.1:8080", RelayHost: "localhost", RelayPlain: true}, ""},
		{"a short secret", program.Config{Secret: "sixteen letters!", BaseURL: "https://meet.firm.example"}, "JEMBRO_SECRET is weak"},
		{"a long secret of one letter", program.Config{Secret: "aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa", BaseURL: "https://meet.firm.example"}, "JEMBRO_SECRET is weak"},
		{"without TLS", program.Config{Secret: strong, BaseURL: "http://meet.firm.example"}, "without TLS"},
		{"no address", program.Config{Secret: strong, BaseURL: "meet.firm.example"}, "is not an address"},
		{"a slash at the end", program.Config{Secret: strong, BaseURL: "https://meet.firm.example/"}, "is not an address"},
		{"mail in the clear", program.Config{Secret: strong, BaseURL: "https://meet.firm.example", RelayHost: "mail.firm.example", RelayPlain: true}, "JEMBRO_RELAY_PLAIN"},
		{"it is meant so", program.Config{Secret: "x", BaseURL: "http://meet.firm.example", InsecureMeant: true}, ""},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			err := c.c.Check()
			if c.says == "" {
				assert.NoError(t, err)
				return
			}
			assert.ErrorContains(t, err, c.says)
			assert.ErrorContains(t, err, "JEMBRO_INSECURE_MEANT")
		})
	}
}

func TestWhatGuestsMayIsSaid(t *testing.T) {
	c := program.Config{InsecureMeant: true, GuestsMay: []string{"see", " bring", "move"}}
	assert.NoError(t, c.Check())
	c.GuestsMay = []string{"everything"}
	assert.ErrorContains(t, c.Check(), `JEMBRO_GUESTS_MAY: "everything" is none of see, bring, move, nothing`)
}
