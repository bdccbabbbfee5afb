package words

import (
	"jembro/internal/core/reach"
	"jembro/internal/core/tongue"
)

// Unreached says in plain words what stands against a message to an address, and whether trying
// again would help; "" where nothing does. ours is the domain of the house's mails.
func Unreached(in tongue.Tongue, e reach.Event, ours string) string {
	switch e.Kind {
	case reach.Delayed:
		return in.Say("A server on the way does not take it yet. It goes on trying by itself, for some days.")
	case reach.Challenged:
		return in.Say("The mailbox lets it in only after its sender has confirmed. Open what it says, or reach them in another way.")
	case reach.Complained:
		return in.Say("It was reported as unwanted. Ask them before you write again.")
	case reach.Discarded:
		return in.Say("It was deleted without having been opened.")
	case reach.Refused, reach.Returned:
		return cause(in, reach.CauseOf(e.Code, e.Said), ours)
	}
	return ""
}

func cause(in tongue.Tongue, c reach.Cause, ours string) string {
	useless := in.Say(" Trying again will not help.")
	switch c {
	case reach.NoMailbox:
		return in.Say("There is no such mailbox there: look whether the address is right.%s", useless)
	case reach.NoHost:
		return in.Say("No mail server takes mail for what stands behind the @: look whether it is right.%s", useless)
	case reach.Moved:
		return in.Say("They are not at this address any more.%s", useless)
	case reach.Closed:
		return in.Say("This mailbox is closed.%s", useless)
	case reach.Full:
		return in.Say("Their mailbox is full. Trying again helps once they have made room.")
	case reach.TooBig:
		return in.Say("The message is too big for their server.%s", useless)
	case reach.Away:
		return in.Say("Their server did not answer for too long. Trying again may help.")
	case reach.NotAllowed:
		return in.Say("Their server takes no such mail from %[1]s.%[2]s", ours, useless)
	case reach.NotSigned:
		return in.Say("Their server takes mail from %s only when it is signed: who keeps the house's mail can mend that. Trying again helps after that.", ours)
	case reach.Content:
		return in.Say("Their server does not take what stands in it.%s", useless)
	case reach.Circles:
		return in.Say("Their servers pass it round in a circle. Trying again may help later.")
	case reach.OurFault:
		return in.Say("The house's own mail server could not hand it over: who keeps it has to look. Trying again may help after that.")
	case reach.NotAListing:
		return in.Say("It is a list of addresses that does not take it: write to the people themselves.%s", useless)
	}
	return in.Say("Their server did not take it, and does not say why. Trying again may help.")
}

// Mended says how somebody was reached whom a message did not reach.
func Mended(in tongue.Tongue, how string) string {
	switch how {
	case "told":
		return in.Say("told by telephone")
	case "again":
		return in.Say("sent again")
	case "elsewhere":
		return in.Say("sent to another address")
	case "text":
		return in.Say("told by a copied text")
	case "answered":
		return in.Say("they answered all the same")
	}
	return ""
}

// Heard is a line about what was heard of a message.
func Heard(in tongue.Tongue, e reach.Event) string {
	server := ifAny(in.Say(" by "), e.Server)
	switch e.Kind {
	case reach.Handed:
		return in.Say("taken by our mail server%s", ifAny(", ", e.Server))
	case reach.Relayed:
		return in.Say("passed on%s, which reports no further", server)
	case reach.Delivered:
		return in.Say("put in the mailbox%s", server)
	case reach.Seen:
		return in.Say("opened")
	case reach.NotYet:
		return in.Say("not taken yet%s", ifAny(": ", e.Said))
	case reach.Delayed:
		return in.Say("delayed%[1]s%[2]s", server, ifAny(": ", e.Said))
	case reach.Refused:
		return in.Say("refused%s", ifAny(": ", e.Said))
	case reach.Returned:
		return in.Say("returned%[1]s%[2]s", server, ifAny(": ", e.Said))
	case reach.Discarded:
		return in.Say("deleted unread")
	case reach.Challenged:
		return in.Say("the mailbox asks its sender to confirm%s", ifAny(": ", e.Said))
	case reach.Complained:
		return in.Say("reported as unwanted%s", ifAny(": ", e.Said))
	case reach.Automatic:
		return in.Say("the mailbox answered by itself%s", ifAny(": ", e.Said))
	case reach.Mended:
		if words := Mended(in, e.Said); words != "" {
			return words
		}
		return e.Said // as it was kept once
	}
	return ""
}
