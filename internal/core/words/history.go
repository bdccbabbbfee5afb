package words

import (
	"fmt"
	"strings"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Change says what changed, as the subject of an update and the history of a
// meeting tell it: "time, room".
func Change(f meeting.ChangeFacts) string { return English(f.What()) }

// ToReader says what changed to somebody who is told of it: "the time and the room".
// What concerns other people only is left out; role says that they became needed or
// optional, invited that they are invited to other dates, and on are the dates that
// the message is about.
func ToReader(t tongue.Tongue, f meeting.ChangeFacts, on []when.Day, needed, role, invited bool) string {
	names := map[string]string{"organiser": "who organises it", "time": "the time", "end": "where the series ends", "room": "the room", "link": "the link to join by", "free": "whether it takes your time", "title": "the title", "text": "the text", "files": "the files that go with it"}
	var parts []string
	for _, name := range f.Fields {
		if say, known := names[name]; known {
			parts = append(parts, t.Say(say))
		}
	}
	if len(on) == 0 {
		on = f.Days
	}
	switch {
	case len(on) == 1:
		parts = append(parts, t.Say("the date of %s", t.Date(on[0])))
	case len(on) > 1 && len(f.Days) > 0:
		parts = append(parts, t.Say("%d dates", len(on)))
	}
	if invited {
		parts = append(parts, t.Say("which dates you are invited to"))
	}
	switch {
	case role && needed:
		parts = append(parts, t.Say("you are needed now, no longer optional"))
	case role:
		parts = append(parts, t.Say("you are optional now, no longer needed"))
	}
	return t.List(parts)
}

// Scope is "31 December", "14 January to 11 February", "from 14 January on".
func Scope(r series.Range) string {
	from := r.From.Words()
	switch r.To {
	case 0:
		return "from " + from + " on"
	case r.From:
		return from
	}
	return from + " to " + r.To.Words()
}

var via = map[string]string{"page": " (on the guest page)", "mail": " (by mail)"}

// Answer is an answer as people read it.
func Answer(a meeting.Answer) string {
	switch a {
	case meeting.Accepted:
		return "accepted"
	case meeting.Maybe:
		return "maybe"
	case meeting.Declined:
		return "declined"
	}
	return "no answer yet"
}

// Event is a line of a meeting's history.
func Event(e meeting.Event) string {
	switch e.Kind {
	case meeting.EventSent:
		return fmt.Sprintf("%s sent %s", e.Who, Count(e.Told, "invitation"))
	case meeting.EventChanged:
		what := Change(*e.Change)
		if e.Told == 0 {
			return fmt.Sprintf("%s changed %s; nobody needed to hear", e.Who, what)
		}
		return fmt.Sprintf("%s changed %s and told %s", e.Who, what, People(e.Told))
	case meeting.EventEnded:
		return fmt.Sprintf("%s ended the series; it goes on %s", e.Who, e.GoesOn)
	case meeting.EventGoesOn:
		return fmt.Sprintf("%s let the series go on %s and told %s", e.Who, e.GoesOn, People(e.Told))
	case meeting.EventRoomBooked:
		return e.Name + " booked"
	case meeting.EventRoomBack:
		return e.Name + " given back"
	case meeting.EventRoomLost:
		return fmt.Sprintf("The room is taken on %s; that date has none", Days(e.Days))
	case meeting.EventRoomAsked:
		return e.Name + " asks its keeper"
	case meeting.EventRoomWanted:
		return e.Who + " asks for " + e.Name
	case meeting.EventRoomAgreed:
		return e.Who + " agreed to " + e.Name
	case meeting.EventRoomRefused:
		return fmt.Sprintf("%s refused %s", e.Who, e.Name) + ifAny(": ", e.Comment)
	case meeting.EventRoomLapsed:
		return "Nobody answered for " + e.Name + " in time; take another room"
	case meeting.EventTurn:
		if e.Name == "" {
			return "Everybody needed is clear now at the time that you waited for"
		}
		return fmt.Sprintf("%s is clear now and held for you for %s", e.Name, Length(rooms.TurnFor))
	case meeting.EventStillNeeded:
		return "Nobody has said that they come. Is " + e.Name + " still needed?"
	case meeting.EventLinkMade:
		return "Link made at " + e.Name
	case meeting.EventLinkAwaited:
		return "The link follows as soon as " + e.Name + " answers"
	case meeting.EventLinkTaken:
		if e.Name == "" {
			return "Link of somebody else taken"
		}
		return "Link at " + e.Name + " taken"
	case meeting.EventLinkLate:
		return strings.TrimSpace(because(e) + " The link is not there yet; it follows by itself, or take another provider")
	case meeting.EventLinkGone:
		return "The call at " + e.Name + " is gone: its link leads nowhere. Take another one"
	case meeting.EventLinkReplaced:
		return "“" + e.Name + "” has another link now; those invited were told"
	case meeting.EventLinkStays:
		return fmt.Sprintf("%s could not be told of the change: the sign-in there is over. Sign in again and it follows by itself; until then the link may open at the old time.", e.Name)
	case meeting.EventCalledOff:
		return fmt.Sprintf("%s called it off and told %s", e.Who, People(e.Told))
	case meeting.EventDatesOff:
		return fmt.Sprintf("%s called off %s and told %s", e.Who, Scope(*e.Scope), People(e.Told))
	case meeting.EventHandedOver:
		if e.Told == 0 {
			return fmt.Sprintf("%s handed it over to %s", e.Who, e.Name)
		}
		return fmt.Sprintf("%s handed it over to %s and told %s", e.Who, e.Name, People(e.Told))
	case meeting.EventAway:
		return fmt.Sprintf("%s is away %s and declined %s", e.Who, FromTo(e.Days[0], e.Days[len(e.Days)-1]), List(quoted(e.Titles))) + ifAny(": ", e.Comment)
	case meeting.EventAnswered:
		return answered(e)
	case meeting.EventLetter:
		if e.Reason == "" {
			return e.Name + " wrote to the meeting"
		}
		return fmt.Sprintf("%s wrote to the meeting: “%s”", e.Name, e.Reason)
	case meeting.EventNotAccepted:
		return fmt.Sprintf("The message to %s was refused: %s", e.Name, e.Reason)
	case meeting.EventPageRenewed:
		return e.Who + " made a new address for the page of " + e.Name + "; the one before no longer opens"
	case meeting.EventSentAgain:
		return fmt.Sprintf("%s sent it to %s again", e.Who, e.Name) + ifAny(", to ", e.Reason)
	case meeting.EventAskedAgain:
		return fmt.Sprintf("%s asked %s again", e.Who, e.Name)
	case meeting.EventProposed:
		if e.On != 0 {
			return e.Name + " proposes another time for " + e.On.Words() + via[e.Via]
		}
		return e.Name + " proposes another time" + via[e.Via]
	case meeting.EventKept:
		return fmt.Sprintf("%s keeps the time that %s wanted to change", e.Who, e.Name) + ifAny(": ", e.Comment)
	case meeting.EventSends:
		return e.Name + " wants to send somebody else" + ifAny(": ", e.Reason)
	case meeting.EventRefreshed:
		return fmt.Sprintf("The calendar program of %s asked how it stands, and was told", e.Name)
	case meeting.EventBrought:
		return fmt.Sprintf("%s brings %s along", e.Who, e.Name)
	case meeting.EventJoined:
		return e.Name + " asked for an invitation at the short address, and got it"
	case meeting.EventTold:
		return fmt.Sprintf("%s told %s in another way", e.Who, e.Name)
	case meeting.EventReturned:
		return fmt.Sprintf("The message to %s came back", e.Name) + ifAny(": ", e.Reason)
	case meeting.EventDelayed:
		return fmt.Sprintf("The message to %s is delayed on its way; it is tried further there", e.Name)
	case meeting.EventChallenged:
		return fmt.Sprintf("The mailbox of %s lets the message in only after it is confirmed", e.Name) + ifAny(": ", e.Reason)
	case meeting.EventAutomatic:
		return fmt.Sprintf("The mailbox of %s answered by itself", e.Name) + ifAny(": ", e.Reason)
	case meeting.EventComplained:
		return e.Name + " reported the message as unwanted"
	}
	return e.Words
}

// answered is the line about an answer, and why it does not count where it does not.
func answered(e meeting.Event) string {
	words := e.Who + " answered"
	switch {
	case len(e.Days) > 0:
		words += " for " + Days(e.Days)
	case e.On != 0:
		words += " for " + e.On.Words()
		if e.Onward {
			words += " and all that follow"
		}
	}
	if e.Answer != "" {
		words += ": " + Answer(e.Answer)
	}
	words += via[e.Via]
	if e.TooLate && e.Verdict == "" {
		e.Verdict = meeting.Older
	}
	if why := Verdict(e.Verdict); why != "" {
		words += "; " + why
	}
	if e.From != "" {
		words += ". Written by " + e.From
	}
	return words
}

// FromTo is "on 21 December", "from 21 December to 31 December".
func FromTo(first, last when.Day) string {
	if first == last {
		return "on " + first.Words()
	}
	return "from " + first.Words() + " to " + last.Words()
}

func quoted(all []string) []string {
	out := make([]string, len(all))
	for i, s := range all {
		out[i] = "“" + s + "”"
	}
	return out
}

// Verdict says why an answer does not count, "" where it does.
func Verdict(v meeting.Verdict) string {
	switch v {
	case meeting.Older:
		return "an older answer, it changes nothing"
	case meeting.Same:
		return "the same answer came twice"
	case meeting.NoDate:
		return "to no date that there is, it changes nothing"
	case meeting.AfterOff:
		return "the meeting is called off, it changes nothing"
	case meeting.AfterGone:
		return "they were taken off, it changes nothing"
	case meeting.NoStatus:
		return "neither yes, maybe nor no, it changes nothing"
	case meeting.OtherSender:
		return "somebody else wrote it, it waits to be decided"
	case meeting.Stranger:
		return "this address is not invited, it waits to be decided"
	case meeting.NoProof:
		return "it did not come to the meeting’s own address, it waits to be decided"
	case meeting.NoTime:
		return "it names no time that can be, it changes nothing"
	case meeting.Delegates:
		return "they send somebody else, it waits to be decided"
	case meeting.Spoken:
		return "in plain words, it waits to be decided"
	}
	return ""
}

// AnswerTo is an answer with the dates that it is to: "accepted", "declined for 14
// January".
func AnswerTo(a meeting.Answer, days []when.Day, onward bool) string {
	words := Answer(a)
	switch {
	case len(days) > 0 && onward:
		words += " for " + days[0].Words() + " and all that follow"
	case len(days) > 0:
		words += " for " + Days(days)
	}
	return words
}

// Waits says why an answer waits for the organiser.
func Waits(v meeting.Verdict, attendee string) string {
	switch v {
	case meeting.OtherSender:
		return "It answers for " + attendee + ", and was written by somebody else."
	case meeting.Stranger:
		return attendee + " is not invited. It may be another address of somebody who is."
	case meeting.NoProof:
		return "It answers for " + attendee + ", but did not come to the meeting’s own address."
	case meeting.Delegates:
		return "They do not come themselves."
	case meeting.Spoken:
		return "Written in plain words: is it a yes?"
	}
	return ""
}

// because is why something happened, in the words of others or as it is said here.
func because(e meeting.Event) string {
	if e.Why != nil {
		return English(*e.Why)
	}
	return e.Reason
}
