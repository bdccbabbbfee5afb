package reach

import "time"

// Kind is what was heard of a message.
type Kind string

const (
	Handed     Kind = "handed"     // our relay took it
	Relayed    Kind = "relayed"    // a server took it that reports no further (RFC 3464, 2.3.3)
	Delivered  Kind = "delivered"  // it was put into the mailbox, or taken to a list (delivered, expanded)
	Seen       Kind = "seen"       // it was displayed (RFC 8098), or its page was opened
	NotYet     Kind = "notYet"     // our relay did not take it; it is tried again by itself
	Delayed    Kind = "delayed"    // a server did not take it yet, and goes on trying
	Refused    Kind = "refused"    // at hand-over, for good
	Returned   Kind = "returned"   // after hand-over, for good
	Discarded  Kind = "discarded"  // deleted without having been displayed (RFC 8098)
	Challenged Kind = "challenged" // the mailbox wants its sender to confirm first
	Complained Kind = "complained" // its reader reported it as unwanted (RFC 5965)
	Automatic  Kind = "automatic"  // the mailbox answered by itself (RFC 3834): it got there
	Mended     Kind = "mended"     // the reader was reached in another way
)

// Known tells whether it is one of them.
func (k Kind) Known() bool {
	_, is := rank[k]
	return is || k.trouble() || k == NotYet || k == Mended
}

// rank says how far each of them came.
var rank = map[Kind]int{Handed: 1, Relayed: 2, Delivered: 3, Automatic: 3, Discarded: 3, Seen: 4}

func (k Kind) trouble() bool {
	switch k {
	case Delayed, Refused, Returned, Challenged, Complained, Discarded:
		return true
	}
	return false
}

// Fatal tells whether the message will not arrive by itself any more.
func (k Kind) Fatal() bool { return k == Refused || k == Returned }

// Event is one thing that was heard of a message.
type Event struct {
	At      time.Time
	Kind    Kind
	Address string // that it is about, where it is not the one the message went to
	Server  string // who says so, ""
	Code    Code
	Said    string // in the words of the other side
}

// Progress is how far a message came. The zero value is one that waits to be handed over.
type Progress struct {
	Stage    Kind // Handed, Relayed, Delivered, Seen; "" before
	StageAt  time.Time
	Trouble  Kind  // the newest that nothing has cleared, or ""
	Heard    Event // of the trouble
	MendedAt time.Time
}

// After is the progress with one thing more that was heard. What comes late or twice does not
// take anything back: a delay that is reported after the delivery is over already, and a
// mailbox that was seen stays seen. A message that was returned stays so, also where another
// server passed it on; only being mended ends that.
func (p Progress) After(e Event) Progress {
	if r, is := rank[e.Kind]; is && r > rank[p.Stage] {
		p.Stage, p.StageAt = e.Kind, e.At
		if e.Kind == Automatic || e.Kind == Discarded {
			p.Stage = Delivered
		}
	}
	switch {
	case e.Kind == Mended:
		p.MendedAt = e.At
	case e.Kind == Delayed && rank[p.Stage] >= rank[Delivered], e.Kind == Discarded && p.Stage == Seen:
	case e.Kind.trouble() && !p.Trouble.Fatal():
		p.Trouble, p.Heard = e.Kind, e
	case rank[e.Kind] >= rank[Relayed] && p.Trouble == Delayed, e.Kind == Seen && p.Trouble == Discarded,
		rank[e.Kind] >= rank[Delivered] && p.Trouble == Challenged:
		p.Trouble, p.Heard = "", Event{}
	}
	return p
}

// Open tells whether somebody should do something about it.
func (p Progress) Open() bool { return p.Trouble != "" && p.MendedAt.IsZero() }

// AgainHelps tells whether sending the same to the same address can help.
func (p Progress) AgainHelps() bool {
	return !p.Trouble.Fatal() || CauseOf(p.Heard.Code, p.Heard.Said).Again()
}

// Lost tells whether its reader was not reached by it, nor in another way.
func (p Progress) Lost() bool { return p.Trouble.Fatal() && p.MendedAt.IsZero() }
