package invited_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jembro/internal/core/invited"
)

const org = "kiln@veerhaven.example"

func part(key string, sequence int, stamp int64) invited.Part {
	return invited.Part{Key: key, Sequence: sequence, Stamp: stamp, Times: fmt.Sprint(sequence), Raw: fmt.Sprintf("%s %d %d", key, sequence, stamp)}
}

func message(method invited.Method, parts ...invited.Part) invited.Message {
	return invited.Message{Method: method, UID: "u", Organiser: org, From: org, Parts: parts}
}

func after(s invited.State, all ...invited.Message) (out invited.State, verdicts []string) {
	for _, m := range all {
		next, v, moved := s.After(m, false)
		text := string(v)
		if moved {
			text += " moved"
		}
		s, verdicts = next, append(verdicts, text)
	}
	return s, verdicts
}

func TestAfter(t *testing.T) {
	other := message(invited.Request, part("", 5, 9))
	other.From = "somebody@else.example"
	thief := other
	thief.Organiser = "somebody@else.example"
	desk := message(invited.Request, part("", 2, 9))
	desk.From, desk.SentBy = "desk@veerhaven.example", "desk@veerhaven.example"
	for _, c := range []struct {
		name string
		all  []invited.Message
		want []string
		off  bool
		keys string
	}{
		{"new", []invited.Message{message(invited.Request, part("", 0, 1))}, []string{"taken"}, false, ":0"},
		{"changed", []invited.Message{message(invited.Request, part("", 0, 1)), message(invited.Request, part("", 1, 2))}, []string{"taken", "taken moved"}, false, ":1"},
		{"the same SEQUENCE, a newer DTSTAMP (RFC 5546, 2.1.5)", []invited.Message{message(invited.Request, part("", 0, 1)), message(invited.Request, part("", 0, 2))}, []string{"taken", "taken"}, false, ":0"},
		{"twice", []invited.Message{message(invited.Request, part("", 0, 1)), message(invited.Request, part("", 0, 1))}, []string{"taken", "same"}, false, ":0"},
		{"an older one comes late", []invited.Message{message(invited.Request, part("", 2, 3)), message(invited.Request, part("", 1, 4))}, []string{"taken", "older"}, false, ":2"},
		{"called off", []invited.Message{message(invited.Request, part("", 0, 1)), message(invited.Cancel, part("", 1, 2))}, []string{"taken", "taken"}, true, ":1"},
		{"called off, and back", []invited.Message{message(invited.Request, part("", 0, 1)), message(invited.Cancel, part("", 1, 2)), message(invited.Request, part("", 2, 3))}, []string{"taken", "taken", "taken moved"}, false, ":2"},
		{"called off before it was known", []invited.Message{message(invited.Cancel, part("", 1, 2))}, []string{"unknown"}, false, ""},
		{"one date changed", []invited.Message{message(invited.Request, part("", 0, 1)), message(invited.Request, part("20270107T100000Z", 0, 2))}, []string{"taken", "taken"}, false, ":0 20270107T100000Z:0"},
		{"one date called off", []invited.Message{message(invited.Request, part("", 0, 1)), message(invited.Cancel, part("20270107T100000Z", 1, 2))}, []string{"taken", "taken"}, false, ":0 20270107T100000Z:1"},
		{"a new whole ends what was said of dates", []invited.Message{message(invited.Request, part("", 0, 1), part("20270107T100000Z", 0, 1)), message(invited.Request, part("", 1, 2))}, []string{"taken", "taken moved"}, false, ":1"},
		{"only a date of a series", []invited.Message{message(invited.Request, part("20270107T100000Z", 3, 1))}, []string{"taken"}, false, "20270107T100000Z:3"},
		{"somebody else changes it", []invited.Message{message(invited.Request, part("", 0, 1)), other}, []string{"taken", "notTheirs"}, false, ":0"},
		{"somebody else says they organise it", []invited.Message{message(invited.Request, part("", 0, 1)), thief}, []string{"taken", "notTheirs"}, false, ":0"},
		{"somebody writes for the organiser (SENT-BY)", []invited.Message{message(invited.Request, part("", 0, 1)), desk}, []string{"taken", "taken moved"}, false, ":2"},
		{"more than anybody has", []invited.Message{message(invited.Request, invited.Part{Raw: strings.Repeat("x", 600<<10)})}, []string{"tooMuch"}, false, ""},
	} {
		s, verdicts := after(invited.State{}, c.all...)
		assert.Equal(t, c.want, verdicts, c.name)
		assert.Equal(t, c.off, s.Off, c.name)
		var keys []string
		for _, p := range s.Parts {
			keys = append(keys, fmt.Sprintf("%s:%d", p.Key, p.Sequence))
		}
		assert.Equal(t, c.keys, strings.Join(keys, " "), c.name)
	}
	s, _ := after(invited.State{}, message(invited.Request, part("", 0, 1)))
	s, v, _ := s.After(thief, true)
	assert.Equal(t, invited.Taken, v, "the reader believes it")
	assert.Equal(t, "somebody@else.example", s.Organiser)
}

// TestTheNewestHolds: whatever the order in which the changes of a whole arrive, the newest holds,
// and nothing arrives twice.
func TestTheNewestHolds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 8).Draw(t, "messages")
		var all []invited.Message
		for i := range n {
			method := invited.Request
			if i > 0 && rapid.Bool().Draw(t, "off") {
				method = invited.Cancel
			}
			all = append(all, message(method, part("", i, int64(100+i))))
		}
		last := all[n-1]
		first, rest := all[0], rapid.Permutation(all[1:]).Draw(t, "order")
		s, _ := after(invited.State{}, append([]invited.Message{first}, rest...)...)
		whole, ok := s.Whole()
		assert.True(t, ok)
		assert.Equal(t, n-1, whole.Sequence)
		assert.Equal(t, last.Method == invited.Cancel, s.Off)
		again, verdicts := after(s, all...)
		assert.Equal(t, s, again)
		for _, v := range verdicts {
			assert.Contains(t, []string{"older", "same"}, v)
		}
	})
}
