package meeting

import (
	"strings"
	"unicode/utf8"

	"jembro/internal/core/say"
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
		out = append(out, Fault{Field: "cover.subject", What: say.It("meeting.cover.subjectLong", SubjectLimit, n)})
	}
	long := func(words string) bool { return utf8.RuneCountInString(words) > CoverLimit }
	for _, o := range c.One {
		if long(o.Words) {
			out = append(out, Fault{Field: "cover.one", What: say.It("meeting.cover.oneLong", say.Address(o.Email), CoverLimit)})
		}
	}
	if long(c.All) {
		out = append(out, Fault{Field: "cover.all", What: say.It("meeting.cover.allLong", CoverLimit)})
	}
	return out
}
