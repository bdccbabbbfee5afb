package words

import (
	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Near is when something is as somebody says it on a day: "14:30 today", "9:00 tomorrow", "Thu
// 3 Dec, 10:00".
func Near(in tongue.Tongue, at when.Instant, today when.Day, zone when.Zone) string {
	local := zone.LocalAt(at)
	switch local.Day {
	case today:
		return in.Say("%s today", local.Clock.String())
	case today + 1:
		return in.Say("%s tomorrow", local.Clock.String())
	}
	return ShortDay(in, local.Day) + ", " + local.Clock.String()
}

// Loose is a loose end as somebody reads it on a day, in their zone: what is the matter, and
// what more there is to know.
func Loose(in tongue.Tongue, e loose.End, today when.Day, zone when.Zone) (what, more string) {
	at := Near(in, e.Span.Start, today, zone)
	title := "“" + e.Title + "”"
	switch e.Kind {
	case loose.NoRoom:
		return in.Say("%[1]s, %[2]s, has no room", e.Title, at), in.Say("%s is not booked for it", e.Room)
	case loose.Unsent:
		return in.Say("%s did not go out", title), Say(in, e.Why)
	case loose.NotReached:
		return in.Say("%[1]s never got %[2]s", e.Person.Name, title), at
	case loose.Underway:
		return in.Say("%[1]s has not got %[2]s yet", e.Person.Name, title), at
	case loose.Call:
		return in.Say("The call of %s needs you", title), Event(in, *e.Trouble)
	case loose.Declined:
		return in.Say("%[1]s does not come to %[2]s", e.Person.Name, title), in.Say("%s; they are needed", at)
	case loose.Silent:
		return in.Say("%[1]s has not answered about %[2]s", e.Person.Name, title), in.Say("%s; they are needed", at)
	case loose.Clash:
		return in.Say("%[1]s overlaps with “%[2]s”", title, e.Other), in.Say("%[1]s; the other starts %[2]s", at, Near(in, e.Since, today, zone))
	case loose.Unclear:
		switch e.Mail.Verdict {
		case meeting.Delegates:
			return in.Say("%[1]s sends somebody else to %[2]s", e.Mail.Name, title), at
		case meeting.Spoken:
			return in.Say("%[1]s wrote about %[2]s: is it a yes?", e.Mail.Name, title), at
		}
		return in.Say("%[1]s answered to %[2]s", e.Mail.Name, title), in.Say("from an address that is not invited, or to something else: whose answer is it?")
	case loose.Proposed:
		return in.Say("%[1]s proposes another time for %[2]s", e.Mail.Name, title), at
	case loose.Ends:
		return in.Say("%[1]s ends on %[2]s", title, in.Date(e.LastDay)), in.Say("next %s", at)
	}
	return "", ""
}
