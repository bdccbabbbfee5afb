// Package reach is about how far a message came: what its own relay, other mail servers and its
// reader reported of it, what stands against it, and whether trying again would help.
package reach

import (
	"fmt"
	"regexp"
	"strconv"
)

// Code is an enhanced status code (RFC 3463, 2): class 2 is success, 4 not yet, 5 for good. The
// zero value is none.
type Code struct{ Class, Subject, Detail int }

// String is "5.1.1", and "" for none.
func (c Code) String() string {
	if c == (Code{}) {
		return ""
	}
	return fmt.Sprintf("%d.%d.%d", c.Class, c.Subject, c.Detail)
}

// Permanent tells whether trying again will not help of itself (RFC 3463, 3.1).
func (c Code) Permanent() bool { return c.Class == 5 }

var (
	codeForm  = regexp.MustCompile(`(?:^|[^\d.])([245])\.(\d{1,3})\.(\d{1,3})(?:[^\d.]|\.?$|\.\D)`)
	replyForm = regexp.MustCompile(`(?:^|[^\d.])([45])([0-5])(\d)(?:[ -]|$)`)
)

// FindCode finds the first enhanced status code in what a mail server says; without one the
// first reply code of RFC 5321 (4.2) tells the class: "550" is 5.0.0.
func FindCode(said string) Code {
	if m := codeForm.FindStringSubmatch(said); m != nil {
		class, _ := strconv.Atoi(m[1]) // the form holds digits only
		subject, _ := strconv.Atoi(m[2])
		detail, _ := strconv.Atoi(m[3])
		return Code{class, subject, detail}
	}
	if m := replyForm.FindStringSubmatch(said); m != nil {
		class, _ := strconv.Atoi(m[1])
		return Code{Class: class}
	}
	return Code{}
}

// Cause is what stands against a message, as its sender has to understand it.
type Cause string

const (
	Unknown     Cause = "unknown"
	NoMailbox   Cause = "noMailbox"   // there is no such address
	NoHost      Cause = "noHost"      // no mail server takes mail for what is behind the @
	Moved       Cause = "moved"       // somebody is not there any more
	Closed      Cause = "closed"      // the mailbox takes no mail, or nobody looks into it
	Full        Cause = "full"        // the mailbox, or their server, has no room
	TooBig      Cause = "tooBig"      // the message
	Away        Cause = "away"        // their server does not answer, or not now
	NotAllowed  Cause = "notAllowed"  // their server takes nothing from us, or not this
	NotSigned   Cause = "notSigned"   // the house's mail is not signed as they wish
	Content     Cause = "content"     // what stands in it is not taken
	Circles     Cause = "circles"     // it goes round between their servers
	OurFault    Cause = "ourFault"    // the conversation broke at our end: the relay is set up wrongly
	NotAListing Cause = "notAListing" // it is a list of addresses that does not take it
)

// CauseOf reads a status code (RFC 3463, 3.2 to 3.8; 1.10 and 7.20 to 7.27 were registered
// later and are written from memory). What a server says in words counts where its code says
// nothing.
func CauseOf(c Code, said string) Cause {
	switch c.Subject {
	case 1:
		switch c.Detail {
		case 2, 10:
			return NoHost
		case 6:
			return Moved
		case 7, 8:
			return NotAllowed
		case 1, 3, 4, 5, 0:
			return NoMailbox
		}
	case 2:
		switch c.Detail {
		case 1:
			return Closed
		case 2:
			return Full
		case 3:
			return TooBig
		case 4:
			return NotAListing
		}
	case 3:
		switch c.Detail {
		case 1:
			return Full
		case 4:
			return TooBig
		}
		return Away
	case 4:
		switch c.Detail {
		case 3, 4:
			return NoHost
		case 6:
			return Circles
		}
		return Away
	case 5:
		return OurFault
	case 6:
		return Content
	case 7:
		switch c.Detail {
		case 2:
			return NotAListing
		case 20, 21, 22, 23, 24, 25, 26, 27:
			return NotSigned
		}
		return NotAllowed
	}
	return spoken(said)
}

// What servers say where their code says nothing: common practice.
var sayings = []struct {
	form  *regexp.Regexp
	cause Cause
}{
	{regexp.MustCompile(`(?i)mailbox (is )?full|over ?quota|quota exceeded|insufficient storage`), Full},
	{regexp.MustCompile(`(?i)(user|recipient|mailbox|address)( \S+)? (unknown|not found|does not exist|doesn'?t exist|unavailable|rejected)|no such (user|mailbox|recipient|address)|unknown (user|recipient)|invalid recipient`), NoMailbox},
	{regexp.MustCompile(`(?i)(host|domain)( \S+)? (unknown|not found)|no mx|name or service not known|unrouteable`), NoHost},
	{regexp.MustCompile(`(?i)\b(dmarc|dkim|spf)\b`), NotSigned},
	{regexp.MustCompile(`(?i)spam|blocked|blacklist|block ?list|denied|not allowed|policy|reputation|refused to talk`), NotAllowed},
	{regexp.MustCompile(`(?i)too (large|big|long)|exceeds .*size`), TooBig},
	{regexp.MustCompile(`(?i)disabled|inactive|suspended`), Closed},
	{regexp.MustCompile(`(?i)timed? ?out|connection|try again|temporar|greylist`), Away},
}

func spoken(said string) Cause {
	for _, s := range sayings {
		if s.form.MatchString(said) {
			return s.cause
		}
	}
	return Unknown
}

// Again tells whether sending the same to the same address later can help.
func (c Cause) Again() bool {
	switch c {
	case Full, Away, Unknown, Circles, OurFault:
		return true
	}
	return false
}
