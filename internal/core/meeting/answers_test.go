package meeting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// TestWhichAnswerIsNewer: SEQUENCE first, DTSTAMP only among equals (RFC 5546, 2.1.5).
func TestWhichAnswerIsNewer(t *testing.T) {
	s := meeting.Standing{SentSequence: 2, Sequence: 2, Stamp: 1000, Answer: meeting.Accepted}
	cases := []struct {
		name  string
		reply meeting.Reply
		want  meeting.Verdict
	}{
		{"to the time before the last move", meeting.Reply{Answer: meeting.Declined, Sequence: 1, Stamp: 2000}, meeting.Older},
		{"overtaken by a newer answer", meeting.Reply{Answer: meeting.Declined, Sequence: 2, Stamp: 999}, meeting.Older},
		{"newer", meeting.Reply{Answer: meeting.Declined, Sequence: 2, Stamp: 1001}, meeting.Counts},
		{"to a later version, by a slow clock", meeting.Reply{Answer: meeting.Declined, Sequence: 3, Stamp: 10}, meeting.Counts},
		{"the same once more", meeting.Reply{Answer: meeting.Accepted, Sequence: 2, Stamp: 1000}, meeting.Same},
		{"another in the same second", meeting.Reply{Answer: meeting.Declined, Sequence: 2, Stamp: 1000}, meeting.Counts},
	}
	for _, c := range cases {
		assert.Equal(t, c.want, c.reply.Against(s), c.name)
	}
	later := meeting.Standing{SentSequence: 1, Sequence: 2, Stamp: 10}
	assert.Equal(t, meeting.Older, meeting.Reply{Sequence: 1, Stamp: 99}.Against(later), "an answer to an older version than that of the one that holds")
}

// TestWhichAnswerByMailIsBelieved: what is worse is said first.
func TestWhichAnswerByMailIsBelieved(t *testing.T) {
	good := meeting.Claim{Attendee: "Pilar@acme.example", From: "pilar@acme.example", Theirs: meeting.Counts, Secret: true}
	cases := []struct {
		name  string
		alter func(c *meeting.Claim)
		want  meeting.Verdict
	}{
		{"to the meeting's own address", func(*meeting.Claim) {}, meeting.Counts},
		{"to no secret address", func(c *meeting.Claim) { c.Secret = false }, meeting.NoProof},
		{"to their own address", func(c *meeting.Claim) { c.Own = true }, meeting.Counts},
		{"to their own address, by somebody else", func(c *meeting.Claim) { c.Own, c.From = true, "x@acme.example" }, meeting.OtherSender},
		{"by an assistant who says so", func(c *meeting.Claim) { c.From, c.SentBy = "desk@acme.example", "DESK@acme.example" }, meeting.Counts},
		{"by an assistant, without proof", func(c *meeting.Claim) { c.From, c.SentBy, c.Secret = "desk@acme.example", "desk@acme.example", false }, meeting.NoProof},
		{"by somebody else", func(c *meeting.Claim) { c.From = "desk@acme.example" }, meeting.OtherSender},
		{"of a stranger", func(c *meeting.Claim) { c.Theirs = meeting.Stranger }, meeting.Stranger},
		{"of one who was taken off, to what is called off", func(c *meeting.Claim) { c.Theirs, c.CalledOff = meeting.AfterGone, true }, meeting.AfterGone},
		{"to what is called off, saying nothing", func(c *meeting.Claim) { c.CalledOff, c.Silent = true, true }, meeting.AfterOff},
		{"to another meeting, of a stranger", func(c *meeting.Claim) { c.Elsewhere, c.Theirs = true, meeting.Stranger }, meeting.NoDate},
		{"saying nothing, by somebody else", func(c *meeting.Claim) { c.Silent, c.From = true, "x@acme.example" }, meeting.NoStatus},
		{"at a time that cannot be", func(c *meeting.Claim) { c.Untimely = true }, meeting.NoTime},
		{"somebody else is sent", func(c *meeting.Claim) { c.Silent, c.Delegates = true, true }, meeting.Delegates},
		{"somebody else is sent, by somebody else", func(c *meeting.Claim) { c.Delegates, c.From = true, "x@acme.example" }, meeting.OtherSender},
	}
	for _, c := range cases {
		claim := good
		c.alter(&claim)
		assert.Equal(t, c.want, claim.Believed(), c.name)
	}
}

// TestWhichDateIsMeant: by the time of the rule or by the one it was moved to, as an
// instant, a local time or a day.
func TestWhichDateIsMeant(t *testing.T) {
	m := aSeries(t, func(d *meeting.Draft) {
		d.Dates = []meeting.DraftDate{{On: "2026-12-31", Start: "2027-01-07T14:00", End: "2027-01-07T15:00"}}
	})
	local := func(text string) *when.Local {
		l, err := when.ParseLocal(text)
		require.NoError(t, err)
		return &l
	}
	at := func(text string) meeting.DateID {
		return meeting.DateID{At: when.Zoned{Local: *local(text)}.Instant()} // Lisbon is on UTC in winter
	}
	cases := []struct {
		name string
		id   meeting.DateID
		want string
	}{
		{"an instant", at("2027-01-14T09:30"), "2027-01-14"},
		{"the old time of one that was moved", at("2026-12-31T09:30"), "2026-12-31"},
		{"its new time", at("2027-01-07T14:00"), "2026-12-31"},
		{"another hour", at("2027-01-14T10:30"), ""},
		{"a day without a date", at("2027-01-15T09:30"), ""},
		{"a local time", meeting.DateID{Local: local("2027-01-14T09:30")}, "2027-01-14"},
		{"a day", meeting.DateID{Local: local("2027-01-14T00:00"), Day: true}, "2027-01-14"},
	}
	for _, c := range cases {
		on, ok := m.DateOf(c.id)
		assert.Equal(t, c.want != "", ok, c.name)
		if ok {
			assert.Equal(t, c.want, on.String(), c.name)
		}
	}
	id := at("2027-01-14T09:30")
	id.Onward = true
	p := m.Participants[0]
	p.Dates = []series.Range{{From: series.Ever, To: when.DayOf(2027, 2, 12)}}
	days, ok := m.DaysOf(p, id, when.DayOf(2029, 1, 1))
	require.True(t, ok)
	assert.Len(t, days, 3, "14 and 28 January, 11 February: 25 February is not theirs")
}
