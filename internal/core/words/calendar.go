package words

import "jembro/internal/core/availability"

// CalendarFault says why a calendar kept elsewhere cannot be read, and what to do.
func CalendarFault(f availability.Fault) string {
	switch f {
	case availability.FaultNone:
		return ""
	case availability.FaultUnreachable:
		return "It does not answer. It is asked again by itself; look whether the address still opens in a browser."
	case availability.FaultGone:
		return "Nothing is there any more (404). Copy the address again from the program that keeps the calendar."
	case availability.FaultForbidden:
		return "It asks for a sign-in. Copy the secret or public address of the calendar, not the one of its page."
	case availability.FaultBroken:
		return "It answered with an error, or broke off. It is asked again by itself."
	case availability.FaultNotCalendar:
		return "There is a page, but no calendar. Copy the address that ends in .ics or .ifb, not the one of its page."
	case availability.FaultTooLarge:
		return "It is larger than 10 MB, or has more entries than can be kept. Publish fewer years of it."
	case availability.FaultTooOften:
		return "One of its entries repeats too often to be looked up, every second perhaps. Shorten it there."
	case availability.FaultPrivate:
		return "It leads to an address inside a network, which is not asked. Use an address that can be reached from everywhere."
	case availability.FaultRedirects:
		return "It leads on and on, or from https to http. Copy the address that it leads to."
	case availability.FaultAddress:
		return "Nobody has this name. Look at the address again."
	case availability.FaultEmpty:
		return "It came back empty. What was known until then counts."
	}
	return "It cannot be read."
}
