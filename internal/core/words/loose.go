package words

import (
	"fmt"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Near is when something is as somebody says it on a day: "14:30 today", "9:00 tomorrow", "Thu
// 3 Dec, 10:00".
func Near(at when.Instant, today when.Day, zone when.Zone) string {
	local := zone.LocalAt(at)
	switch local.Day {
	case today:
		return local.Clock.String() + " today"
	case today + 1:
		return local.Clock.String() + " tomorrow"
	}
	return ShortDay(local.Day) + ", " + local.Clock.String()
}

// Loose is a loose end as somebody reads it on a day, in their zone: what is the matter, and
// what more there is to know.
func Loose(e loose.End, today when.Day, zone when.Zone) (what, more string) {
	at := Near(e.Span.Start, today, zone)
	title := "“" + e.Title + "”"
	switch e.Kind {
	case loose.NoRoom:
		return fmt.Sprintf("%s, %s, has no room", e.Title, at), e.Room + " is not booked for it"
	case loose.Unsent:
		return title + " did not go out", English(e.Why)
	case loose.NotReached:
		return fmt.Sprintf("%s never got %s", e.Person.Name, title), at
	case loose.Underway:
		return fmt.Sprintf("%s has not got %s yet", e.Person.Name, title), at
	case loose.Call:
		return fmt.Sprintf("The call of %s needs you", title), Event(*e.Trouble)
	case loose.Declined:
		return fmt.Sprintf("%s does not come to %s", e.Person.Name, title), at + "; they are needed"
	case loose.Silent:
		return fmt.Sprintf("%s has not answered about %s", e.Person.Name, title), at + "; they are needed"
	case loose.Clash:
		return fmt.Sprintf("%s overlaps with “%s”", title, e.Other), fmt.Sprintf("%s; the other starts %s", at, Near(e.Since, today, zone))
	case loose.Unclear:
		switch e.Mail.Verdict {
		case meeting.Delegates:
			return fmt.Sprintf("%s sends somebody else to %s", e.Mail.Name, title), at
		case meeting.Spoken:
			return fmt.Sprintf("%s wrote about %s: is it a yes?", e.Mail.Name, title), at
		}
		return fmt.Sprintf("%s answered to %s", e.Mail.Name, title), "from an address that is not invited, or to something else: whose answer is it?"
	case loose.Proposed:
		return fmt.Sprintf("%s proposes another time for %s", e.Mail.Name, title), at
	case loose.Ends:
		return fmt.Sprintf("%s ends on %s", title, e.LastDay.Words()), "next " + at
	}
	return "", ""
}

// Standing is how somebody stands to a meeting that they are asked to.
func Standing(a meeting.Answer) string {
	switch a {
	case meeting.Accepted:
		return "accepted"
	case meeting.Maybe:
		return "maybe"
	case meeting.Declined:
		return "declined"
	}
	return "unanswered"
}
