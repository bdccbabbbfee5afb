package meeting_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
)

func TestCoveringWords(t *testing.T) {
	c := meeting.Cover{All: "  The crates are measured.\r\n", One: []meeting.CoverOne{{Email: "S.Onari@kirisame.example", Words: "Your flight\x00 is booked."}, {Email: "freya.holm@marrowby.example", Words: "  "}}}
	assert.Equal(t, "The crates are measured.\n\nYour flight is booked.", c.For("s.onari@kirisame.example"), "what is to everybody, then what is to them")
	assert.Equal(t, "The crates are measured.", c.For("freya.holm@marrowby.example"))
	assert.Empty(t, meeting.Cover{One: c.One}.For("rui.calado@marrowby.example"), "nobody reads what is to somebody else")
}

func TestCoveringWordsThatAreTooLong(t *testing.T) {
	for field, c := range map[string]meeting.Cover{
		"cover.subject": {Subject: strings.Repeat("é", meeting.SubjectLimit+1)},
		"cover.all":     {All: strings.Repeat("é", meeting.CoverLimit+1)},
		"cover.one":     {One: []meeting.CoverOne{{Email: "s.onari@kirisame.example", Words: strings.Repeat("é", meeting.CoverLimit+1)}}},
	} {
		_, faults := draft(func(d *meeting.Draft) { d.Cover = &c }).Settle(around("2026-11-24T10:12"))
		require.Len(t, faults, 1)
		assert.Equal(t, field, faults[0].Field)
	}
	_, faults := draft(func(d *meeting.Draft) {
		d.Cover = &meeting.Cover{Subject: strings.Repeat("é", meeting.SubjectLimit), All: strings.Repeat("é", meeting.CoverLimit)}
	}).Settle(around("2026-11-24T10:12"))
	assert.Empty(t, faults)
}
