// Package join holds join cards: everything a person needs to get into a call, what any text
// says of one, and how it is written for people.
package join

import (
	"maps"
	"net/url"
	"slices"
	"time"
)

// Kind is where a card comes from.
type Kind string

const (
	Fresh    Kind = ""         // made for this meeting
	Standing Kind = "standing" // permanent, of a person, a room or a group
	Given    Kind = "given"    // somebody else's, read out of a text
)

// Card is what gets a person into the call. It has a URL, or else phones or a SIP address;
// what the provider does not have is empty.
type Card struct {
	Kind     Kind
	Provider string            // the provider's key; empty with Given
	Name     string            // as people call it, empty with Given
	Keep     map[string]string // what the provider calls the call by, for later requests
	Version  int               // of the provider's description that made it
	StandsAs string            // with Standing: the ID of the standing link
	// Follows tells that the call is to be made at the provider and is not yet: there is no
	// way in, and it comes by itself.
	Follows  bool
	URL      string
	Number   string
	Passcode string
	Phones   []Phone
	SIP      string
	// HostPIN is what the organiser keys in on a telephone; nobody else sees it.
	HostPIN string
	Door    Door
	// DoorWords says who waits, in cards of before there was a Door.
	DoorWords string
	// LimitMinutes is when the provider's plan ends a call, LimitPeople how many it lets in,
	// LimitCalls how many calls one account has at a time; 0 where it does not say.
	LimitMinutes, LimitPeople, LimitCalls int
	// GoodUntil is when the link stops working, zero when it does not.
	GoodUntil time.Time
	// Owner is in whose account it was made, by their ID, where that is not who organises
	// the meeting.
	Owner string
	// Pasted is the text that a Given card was read from.
	Pasted string
}

// Same tells whether two cards lead into the same call in the same way; nil is no call.
func (c *Card) Same(o *Card) bool {
	if c == nil || o == nil {
		return c == o
	}
	return c.Follows == o.Follows && c.URL == o.URL && c.Number == o.Number && c.Passcode == o.Passcode && c.SIP == o.SIP && slices.Equal(c.Phones, o.Phones)
}

// SameCall tells whether two cards are of one call at one provider.
func (c *Card) SameCall(o *Card) bool {
	if c == nil || o == nil {
		return c == o
	}
	return c.Provider == o.Provider && c.Follows == o.Follows && c.URL == o.URL && c.StandsAs == o.StandsAs && maps.Equal(c.Keep, o.Keep)
}

// Made tells whether the call was made for one meeting at a provider, where it can be changed
// and withdrawn.
func (c *Card) Made() bool { return c != nil && c.Kind == Fresh && c.Provider != "" && !c.Follows }

// Awaited tells whether the call is still to be made.
func (c *Card) Awaited() bool { return c != nil && c.Follows }

// AwaitedFrom tells whether that provider is to make it.
func (c *Card) AwaitedFrom(provider string) bool { return c.Awaited() && c.Provider == provider }

// Address is the one address that leads in: the link, or else what a telephone dials.
func (c Card) Address() string {
	switch {
	case c.URL != "":
		return c.URL
	case c.SIP != "":
		return c.SIP
	case len(c.Phones) > 0:
		return c.Phones[0].URI()
	}
	return ""
}

// ShortURL is the link as it is read aloud: without the scheme.
func (c Card) ShortURL() string {
	u, err := url.Parse(c.URL)
	if err != nil || u.Host == "" {
		return c.URL
	}
	return u.Host + u.RequestURI()
}

// Card is the card that a text says, with the text.
func (p Pasted) Card(text string) Card {
	return Card{Kind: Given, URL: p.URL, Number: p.Number, Passcode: p.Passcode, Phones: p.Phones, SIP: p.SIP, Pasted: text}
}
