package meeting

import (
	"fmt"
	"strings"
	"unicode/utf8"
)

// Cover is what goes before the messages of one sending: it is no part of the meeting. Subject
// takes the place of theirs, "" for none; All is to everybody, One to single people.
type Cover struct {
	Subject string     `json:"subject,omitempty"`
	All     string     `json:"all,omitempty"`
	One     []CoverOne `json:"one,omitempty"`
}

// CoverOne are words to one person alone.
type CoverOne struct {
	Email string `json:"email"`
	Words string `json:"words"`
}

// How long they can be, in characters.
const (
	CoverLimit   = 2000
	SubjectLimit = 150
)

// For is what goes before the message to an address: what is to everybody, and what is to them.
func (c Cover) For(email string) string {
	parts := []string{Plain(c.All)}
	for _, o := range c.One {
		if strings.EqualFold(o.Email, email) {
			parts = append(parts, Plain(o.Words))
		}
	}
	return strings.TrimSpace(strings.Join(parts, "\n\n"))
}

// faults is what is the matter with it.
func (c Cover) faults() (out []Fault) {
	if n := utf8.RuneCountInString(OneLine(c.Subject)); n > SubjectLimit {
		out = append(out, Fault{Field: "cover.subject", Sentence: fmt.Sprintf("A subject has room for %d characters, this one has %d.", SubjectLimit, n)})
	}
	long := func(words string) bool { return utf8.RuneCountInString(words) > CoverLimit }
	for _, o := range c.One {
		if long(o.Words) {
			out = append(out, Fault{Field: "cover.one", Sentence: fmt.Sprintf("The words to %s have room for %d characters.", o.Email, CoverLimit)})
		}
	}
	if long(c.All) {
		out = append(out, Fault{Field: "cover.all", Sentence: fmt.Sprintf("The words to everybody have room for %d characters.", CoverLimit)})
	}
	return out
}
