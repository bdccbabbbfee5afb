package join

import (
	"slices"
	"time"
)

// Ability is something that a provider can do.
type Ability string

const (
	CanMake     Ability = "fresh"         // make a link for one meeting
	CanStand    Ability = "standing"      // has permanent rooms
	CanMove     Ability = "move"          // the call follows the meeting, its card stays
	CanWithdraw Ability = "withdraw"      // take a call back
	CanPasscode Ability = "passcode"      // its calls have one
	CanPhone    Ability = "phones"        // its calls have phone numbers
	CanShare    Ability = "co_organisers" // others can open the call too
)

// Service is what is known of a provider without asking it.
type Service struct {
	Name    string    `json:"name"`
	About   string    `json:"about,omitempty"`
	Can     []Ability `json:"can"`
	Limits  Limits    `json:"limits"`
	Choices Choices   `json:"choices"`
	// Countries is in how many countries it has phone numbers, 0 where that is not said.
	Countries int `json:"countries,omitempty"`
	// Each tells that people sign in themselves; otherwise the house has one account.
	Each bool `json:"each,omitempty"`
}

// Does tells whether it can do something.
func (s Service) Does(a Ability) bool { return slices.Contains(s.Can, a) }

// Limits are what a provider's plan sets; 0 is no limit.
type Limits struct {
	Minutes  int `json:"minutes,omitempty"`  // of one call
	People   int `json:"people,omitempty"`   // in one call
	Calls    int `json:"calls,omitempty"`    // at a time in one account
	Dates    int `json:"dates,omitempty"`    // of a series on one link
	LinkDays int `json:"linkDays,omitempty"` // that a link is kept
}

// Use is what a meeting needs of its call. Ends is when its last date ends, zero where it has
// no end; Dates is how many there are, 0 without an end.
type Use struct {
	Length  time.Duration
	People  int // who call in, the organiser included
	Dates   int
	Repeats bool
	Ends    time.Time
	// Others is how many other calls of the account there are at the same time, at most.
	Others int
}

// Excess is something for which a provider's plan is too small.
type Excess struct {
	Kind ExcessKind
	// Limit is what the plan allows, Has what the meeting needs.
	Limit, Has int
	Until      time.Time // with LinkEnds
}

// ExcessKind is what is too much.
type ExcessKind string

const (
	TooLong  ExcessKind = "minutes"
	TooMany  ExcessKind = "people"
	TooBusy  ExcessKind = "calls"
	TooOften ExcessKind = "dates"
	LinkEnds ExcessKind = "link"
)

// Over says for what a card's plan is too small.
func (c Card) Over(u Use) (out []Excess) {
	return Limits{Minutes: c.LimitMinutes, People: c.LimitPeople, Calls: c.LimitCalls}.over(u, c.GoodUntil)
}

// Over says for what a plan is too small, for a link that is made now.
func (l Limits) Over(u Use, now time.Time) []Excess {
	var until time.Time
	if l.LinkDays > 0 {
		until = now.AddDate(0, 0, l.LinkDays)
	}
	return l.over(u, until)
}

func (l Limits) over(u Use, until time.Time) (out []Excess) {
	add := func(kind ExcessKind, limit, has int) {
		if limit > 0 && has > limit {
			out = append(out, Excess{Kind: kind, Limit: limit, Has: has})
		}
	}
	add(TooLong, l.Minutes, int((u.Length+time.Minute-1)/time.Minute))
	add(TooMany, l.People, u.People)
	add(TooBusy, l.Calls, u.Others+1)
	if u.Repeats {
		dates := u.Dates
		if dates == 0 {
			dates = l.Dates + 1 // more than any number
		}
		add(TooOften, l.Dates, dates)
	}
	if !until.IsZero() && (u.Repeats && u.Dates == 0 || u.Ends.After(until)) {
		out = append(out, Excess{Kind: LinkEnds, Until: until})
	}
	return out
}
