package reach_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jembro/internal/core/reach"
)

func TestFindCode(t *testing.T) {
	for said, want := range map[string]string{
		"550 5.7.1 sender not allowed": "5.7.1",
		"5.2.2":                        "5.2.2",
		"452 4.2.2 mailbox full, see http://203.0.113.7/x": "4.2.2",
		"smtp; 550-5.1.1 no such user":                     "5.1.1",
		"delivery to 192.0.2.5 failed":                     "",
		"550 user unknown":                                 "5.0.0",
		"421 try again":                                    "4.0.0",
		"Crate 550":                                        "5.0.0", // nothing tells it from a code
		"version 5.1.1.2":                                  "",
		"Error 5.4.4.":                                     "5.4.4",
		"":                                                 "",
	} {
		assert.Equal(t, want, reach.FindCode(said).String(), said)
	}
}

// TestCauses: the codes of RFC 3463, 3.2 to 3.8, and what servers say where they give none.
func TestCauses(t *testing.T) {
	for _, c := range []struct {
		said  string
		want  reach.Cause
		again bool
	}{
		{"550 5.1.1 no such mailbox", reach.NoMailbox, false},
		{"5.1.2", reach.NoHost, false},
		{"5.1.6", reach.Moved, false},
		{"5.1.8", reach.NotAllowed, false},
		{"5.2.1", reach.Closed, false},
		{"552 5.2.2", reach.Full, true},
		{"5.3.4", reach.TooBig, false},
		{"4.4.1", reach.Away, true},
		{"4.4.7", reach.Away, true},
		{"5.4.4", reach.NoHost, false},
		{"5.4.6", reach.Circles, true},
		{"5.5.1", reach.OurFault, true},
		{"5.6.1", reach.Content, false},
		{"5.7.1", reach.NotAllowed, false},
		{"5.7.26", reach.NotSigned, false},
		{"550 Mailbox quota exceeded", reach.Full, true},
		{"550 User unknown", reach.NoMailbox, false},
		{"550 recipient <x@y.example> not found", reach.NoMailbox, false},
		{"554 rejected: DMARC policy", reach.NotSigned, false},
		{"554 blocked", reach.NotAllowed, false},
		{"5.0.0 something", reach.Unknown, true},
	} {
		got := reach.CauseOf(reach.FindCode(c.said), c.said)
		assert.Equal(t, c.want, got, c.said)
		assert.Equal(t, c.again, got.Again(), c.said)
	}
}

func TestProgress(t *testing.T) {
	at := time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)
	of := func(kinds ...reach.Kind) (p reach.Progress) {
		for i, k := range kinds {
			p = p.After(reach.Event{At: at.Add(time.Duration(i) * time.Minute), Kind: k})
		}
		return p
	}
	for _, c := range []struct {
		name           string
		kinds          []reach.Kind
		stage, trouble reach.Kind
		open, lost     bool
	}{
		{"handed over", []reach.Kind{reach.Handed}, reach.Handed, "", false, false},
		{"tried again and taken", []reach.Kind{reach.NotYet, reach.Handed}, reach.Handed, "", false, false},
		{"delayed", []reach.Kind{reach.Handed, reach.Delayed}, reach.Handed, reach.Delayed, true, false},
		{"delayed, then delivered", []reach.Kind{reach.Handed, reach.Delayed, reach.Delivered}, reach.Delivered, "", false, false},
		{"the delay is told late", []reach.Kind{reach.Handed, reach.Delivered, reach.Delayed}, reach.Delivered, "", false, false},
		{"delayed, then returned", []reach.Kind{reach.Handed, reach.Delayed, reach.Returned}, reach.Handed, reach.Returned, true, true},
		{"returned, and passed on by another", []reach.Kind{reach.Handed, reach.Returned, reach.Delivered}, reach.Delivered, reach.Returned, true, true},
		{"refused, and told by telephone", []reach.Kind{reach.Refused, reach.Mended}, "", reach.Refused, false, false},
		{"an automatic answer", []reach.Kind{reach.Handed, reach.Automatic}, reach.Delivered, "", false, false},
		{"a mailbox that asks first, then is opened", []reach.Kind{reach.Handed, reach.Challenged, reach.Seen}, reach.Seen, "", false, false},
		{"deleted unread", []reach.Kind{reach.Handed, reach.Discarded}, reach.Delivered, reach.Discarded, true, false},
		{"deleted after reading", []reach.Kind{reach.Handed, reach.Seen, reach.Discarded}, reach.Seen, "", false, false},
	} {
		p := of(c.kinds...)
		assert.Equal(t, c.stage, p.Stage, c.name)
		assert.Equal(t, c.trouble, p.Trouble, c.name)
		assert.Equal(t, c.open, p.Open(), c.name)
		assert.Equal(t, c.lost, p.Lost(), c.name)
	}
}

// TestNothingIsTakenBack: whatever is heard, the stage only grows, what is heard twice changes
// nothing, and a lost message stays lost until it is mended.
func TestNothingIsTakenBack(t *testing.T) {
	all := []reach.Kind{reach.Handed, reach.Relayed, reach.Delivered, reach.Seen, reach.NotYet, reach.Delayed, reach.Refused, reach.Returned,
		reach.Discarded, reach.Challenged, reach.Complained, reach.Automatic, reach.Mended}
	order := map[reach.Kind]int{reach.Handed: 1, reach.Relayed: 2, reach.Delivered: 3, reach.Seen: 4}
	rapid.Check(t, func(t *rapid.T) {
		var p reach.Progress
		for _, k := range rapid.SliceOf(rapid.SampledFrom(all)).Draw(t, "kinds") {
			assert.True(t, k.Known())
			e := reach.Event{Kind: k, At: time.Unix(rapid.Int64Range(1, 1000).Draw(t, "at"), 0)}
			next := p.After(e)
			assert.GreaterOrEqual(t, order[next.Stage], order[p.Stage])
			assert.Equal(t, next, next.After(e), "heard twice")
			if p.Lost() && k != reach.Mended {
				assert.True(t, next.Lost())
			}
			p = next
		}
	})
}
