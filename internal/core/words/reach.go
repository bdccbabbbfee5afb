package words

import "jembro/internal/core/reach"

// Unreached says in plain words what stands against a message to an address, and whether trying
// again would help; "" where nothing does. ours is the domain of the house's mails.
func Unreached(e reach.Event, ours string) string {
	switch e.Kind {
	case reach.Delayed:
		return "A server on the way does not take it yet. It goes on trying by itself, for some days."
	case reach.Challenged:
		return "The mailbox lets it in only after its sender has confirmed. Open what it says, or reach them in another way."
	case reach.Complained:
		return "It was reported as unwanted. Ask them before you write again."
	case reach.Discarded:
		return "It was deleted without having been opened."
	case reach.Refused, reach.Returned:
		return cause(reach.CauseOf(e.Code, e.Said), ours)
	}
	return ""
}

func cause(c reach.Cause, ours string) string {
	const useless = " Trying again will not help."
	switch c {
	case reach.NoMailbox:
		return "There is no such mailbox there: look whether the address is right." + useless
	case reach.NoHost:
		return "No mail server takes mail for what stands behind the @: look whether it is right." + useless
	case reach.Moved:
		return "They are not at this address any more." + useless
	case reach.Closed:
		return "This mailbox is closed." + useless
	case reach.Full:
		return "Their mailbox is full. Trying again helps once they have made room."
	case reach.TooBig:
		return "The message is too big for their server." + useless
	case reach.Away:
		return "Their server did not answer for too long. Trying again may help."
	case reach.NotAllowed:
		return "Their server takes no such mail from " + ours + "." + useless
	case reach.NotSigned:
		return "Their server takes mail from " + ours + " only when it is signed: who keeps the house's mail can mend that. Trying again helps after that."
	case reach.Content:
		return "Their server does not take what stands in it." + useless
	case reach.Circles:
		return "Their servers pass it round in a circle. Trying again may help later."
	case reach.OurFault:
		return "The house's own mail server could not hand it over: who keeps it has to look. Trying again may help after that."
	case reach.NotAListing:
		return "It is a list of addresses that does not take it: write to the people themselves." + useless
	}
	return "Their server did not take it, and does not say why. Trying again may help."
}

// Mended says how somebody was reached whom a message did not reach.
func Mended(how string) string {
	switch how {
	case "told":
		return "told by telephone"
	case "again":
		return "sent again"
	case "elsewhere":
		return "sent to another address"
	case "text":
		return "told by a copied text"
	case "answered":
		return "they answered all the same"
	}
	return ""
}

// Heard is a line about what was heard of a message.
func Heard(e reach.Event) string {
	server := ifAny(" by ", e.Server)
	switch e.Kind {
	case reach.Handed:
		return "taken by our mail server" + ifAny(", ", e.Server)
	case reach.Relayed:
		return "passed on" + server + ", which reports no further"
	case reach.Delivered:
		return "put in the mailbox" + server
	case reach.Seen:
		return "opened"
	case reach.NotYet:
		return "not taken yet" + ifAny(": ", e.Said)
	case reach.Delayed:
		return "delayed" + server + ifAny(": ", e.Said)
	case reach.Refused:
		return "refused" + ifAny(": ", e.Said)
	case reach.Returned:
		return "returned" + server + ifAny(": ", e.Said)
	case reach.Discarded:
		return "deleted unread"
	case reach.Challenged:
		return "the mailbox asks its sender to confirm" + ifAny(": ", e.Said)
	case reach.Complained:
		return "reported as unwanted" + ifAny(": ", e.Said)
	case reach.Automatic:
		return "the mailbox answered by itself" + ifAny(": ", e.Said)
	case reach.Mended:
		return e.Said
	}
	return ""
}
