package words

import (
	"strings"

	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Change says what changed, as the subject of an update and the history of a
// meeting tell it: "time, room".
func Change(in tongue.Tongue, f meeting.ChangeFacts) string { return Say(in, f.What()) }

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
func Scope(t tongue.Tongue, r series.Range) string {
	from := t.Date(r.From)
	switch r.To {
	case 0:
		return t.Say("from %s on", from)
	case r.From:
		return from
	}
	return t.Say("%[1]s to %[2]s", from, t.Date(r.To))
}

var via = map[string]string{"page": " (on the guest page)", "mail": " (by mail)"}

// Answer is an answer as people read it.
func Answer(in tongue.Tongue, a meeting.Answer) string {
	switch a {
	case meeting.Accepted:
		return in.Say("accepted")
	case meeting.Maybe:
		return in.Say("maybe")
	case meeting.Declined:
		return in.Say("declined")
	}
	return in.Say("no answer yet")
}

// Event is a line of a meeting's history.
func Event(in tongue.Tongue, e meeting.Event) string {
	switch e.Kind {
	case meeting.EventSent:
		return in.Say("%[1]s sent %[2]s", e.Who, Count(in, e.Told, "invitation"))
	case meeting.EventChanged:
		what := Change(in, *e.Change)
		if e.Told == 0 {
			return in.Say("%[1]s changed %[2]s; nobody needed to hear", e.Who, what)
		}
		return in.Say("%[1]s changed %[2]s and told %[3]s", e.Who, what, People(in, e.Told))
	case meeting.EventEnded:
		return in.Say("%[1]s ended the series; it goes on %[2]s", e.Who, goesOn(in, e))
	case meeting.EventGoesOn:
		return in.Say("%[1]s let the series go on %[2]s and told %[3]s", e.Who, goesOn(in, e), People(in, e.Told))
	case meeting.EventRoomBooked:
		return in.Say("%s booked", e.Name)
	case meeting.EventRoomBack:
		return in.Say("%s given back", e.Name)
	case meeting.EventRoomLost:
		return in.Say("The room is taken on %s; that date has none", Days(in, e.Days))
	case meeting.EventRoomAsked:
		return in.Say("%s asks its keeper", e.Name)
	case meeting.EventRoomWanted:
		return in.Say("%[1]s asks for %[2]s", e.Who, e.Name)
	case meeting.EventRoomAgreed:
		return in.Say("%[1]s agreed to %[2]s", e.Who, e.Name)
	case meeting.EventRoomRefused:
		return in.Say("%[1]s refused %[2]s", e.Who, e.Name) + ifAny(": ", e.Comment)
	case meeting.EventRoomLapsed:
		return in.Say("Nobody answered for %s in time; take another room", e.Name)
	case meeting.EventTurn:
		if e.Name == "" {
			return in.Say("Everybody needed is clear now at the time that you waited for")
		}
		return in.Say("%[1]s is clear now and held for you for %[2]s", e.Name, Length(in, rooms.TurnFor))
	case meeting.EventStillNeeded:
		return in.Say("Nobody has said that they come. Is %s still needed?", e.Name)
	case meeting.EventLinkMade:
		return in.Say("Link made at %s", e.Name)
	case meeting.EventLinkAwaited:
		return in.Say("The link follows as soon as %s answers", e.Name)
	case meeting.EventLinkTaken:
		if e.Name == "" {
			return in.Say("Link of somebody else taken")
		}
		return in.Say("Link at %s taken", e.Name)
	case meeting.EventLinkLate:
		return strings.TrimSpace(in.Say("%s The link is not there yet; it follows by itself, or take another provider", because(in, e)))
	case meeting.EventLinkGone:
		return in.Say("The call at %s is gone: its link leads nowhere. Take another one", e.Name)
	case meeting.EventLinkReplaced:
		return in.Say("“%s” has another link now; those invited were told", e.Name)
	case meeting.EventLinkStays:
		return in.Say("%s could not be told of the change: the sign-in there is over. Sign in again and it follows by itself; until then the link may open at the old time.", e.Name)
	case meeting.EventCalledOff:
		return in.Say("%[1]s called it off and told %[2]s", e.Who, People(in, e.Told))
	case meeting.EventDatesOff:
		return in.Say("%[1]s called off %[2]s and told %[3]s", e.Who, Scope(in, *e.Scope), People(in, e.Told))
	case meeting.EventHandedOver:
		if e.Told == 0 {
			return in.Say("%[1]s handed it over to %[2]s", e.Who, e.Name)
		}
		return in.Say("%[1]s handed it over to %[2]s and told %[3]s", e.Who, e.Name, People(in, e.Told))
	case meeting.EventAway:
		return in.Say("%[1]s is away %[2]s and declined %[3]s", e.Who, FromTo(in, e.Days[0], e.Days[len(e.Days)-1]), in.List(quoted(e.Titles))) + ifAny(": ", e.Comment)
	case meeting.EventAnswered:
		return answered(in, e)
	case meeting.EventLetter:
		if e.Reason == "" {
			return in.Say("%s wrote to the meeting", e.Name)
		}
		return in.Say("%[1]s wrote to the meeting: “%[2]s”", e.Name, e.Reason)
	case meeting.EventNotAccepted:
		return in.Say("The message to %[1]s was refused: %[2]s", e.Name, e.Reason)
	case meeting.EventPageRenewed:
		return in.Say("%[1]s made a new address for the page of %[2]s; the one before no longer opens", e.Who, e.Name)
	case meeting.EventSentAgain:
		return in.Say("%[1]s sent it to %[2]s again", e.Who, e.Name) + ifAny(in.Say(", to "), e.Reason)
	case meeting.EventAskedAgain:
		return in.Say("%[1]s asked %[2]s again", e.Who, e.Name)
	case meeting.EventProposed:
		if e.On != 0 {
			return in.Say("%[1]s proposes another time for %[2]s%[3]s", e.Name, in.Date(e.On), in.Say(via[e.Via]))
		}
		return in.Say("%[1]s proposes another time%[2]s", e.Name, in.Say(via[e.Via]))
	case meeting.EventKept:
		return in.Say("%[1]s keeps the time that %[2]s wanted to change", e.Who, e.Name) + ifAny(": ", e.Comment)
	case meeting.EventSends:
		return in.Say("%[1]s wants to send somebody else%[2]s", e.Name, ifAny(": ", e.Reason))
	case meeting.EventRefreshed:
		return in.Say("The calendar program of %s asked how it stands, and was told", e.Name)
	case meeting.EventBrought:
		return in.Say("%[1]s brings %[2]s along", e.Who, e.Name)
	case meeting.EventJoined:
		return in.Say("%s asked for an invitation at the short address, and got it", e.Name)
	case meeting.EventTold:
		return in.Say("%[1]s told %[2]s in another way", e.Who, e.Name)
	case meeting.EventReturned:
		return in.Say("The message to %s came back", e.Name) + ifAny(": ", e.Reason)
	case meeting.EventDelayed:
		return in.Say("The message to %s is delayed on its way; it is tried further there", e.Name)
	case meeting.EventChallenged:
		return in.Say("The mailbox of %s lets the message in only after it is confirmed", e.Name) + ifAny(": ", e.Reason)
	case meeting.EventAutomatic:
		return in.Say("The mailbox of %s answered by itself", e.Name) + ifAny(": ", e.Reason)
	case meeting.EventComplained:
		return in.Say("%s reported the message as unwanted", e.Name)
	}
	return e.Words
}

// answered is the line about an answer, and why it does not count where it does not.
func answered(in tongue.Tongue, e meeting.Event) string {
	words := in.Say("%s answered", e.Who)
	switch {
	case len(e.Days) > 0:
		words += in.Say(" for %s", Days(in, e.Days))
	case e.On != 0:
		words += in.Say(" for %s", in.Date(e.On))
		if e.Onward {
			words += in.Say(" and all that follow")
		}
	}
	if e.Answer != "" {
		words += ": " + Answer(in, e.Answer)
	}
	words += in.Say(via[e.Via])
	if e.TooLate && e.Verdict == "" {
		e.Verdict = meeting.Older
	}
	if why := Verdict(in, e.Verdict); why != "" {
		words += "; " + why
	}
	if e.From != "" {
		words += in.Say(". Written by %s", e.From)
	}
	return words
}

// FromTo is "on 21 December", "from 21 December to 31 December".
func FromTo(in tongue.Tongue, first, last when.Day) string {
	if first == last {
		return in.Say("on %s", in.Date(first))
	}
	return in.Say("from %[1]s to %[2]s", in.Date(first), in.Date(last))
}

func quoted(all []string) []string {
	out := make([]string, len(all))
	for i, s := range all {
		out[i] = "“" + s + "”"
	}
	return out
}

// Verdict says why an answer does not count, "" where it does.
func Verdict(in tongue.Tongue, v meeting.Verdict) string {
	switch v {
	case meeting.Older:
		return in.Say("an older answer, it changes nothing")
	case meeting.Same:
		return in.Say("the same answer came twice")
	case meeting.NoDate:
		return in.Say("to no date that there is, it changes nothing")
	case meeting.AfterOff:
		return in.Say("the meeting is called off, it changes nothing")
	case meeting.AfterGone:
		return in.Say("they were taken off, it changes nothing")
	case meeting.NoStatus:
		return in.Say("neither yes, maybe nor no, it changes nothing")
	case meeting.OtherSender:
		return in.Say("somebody else wrote it, it waits to be decided")
	case meeting.Stranger:
		return in.Say("this address is not invited, it waits to be decided")
	case meeting.NoProof:
		return in.Say("it did not come to the meeting’s own address, it waits to be decided")
	case meeting.NoTime:
		return in.Say("it names no time that can be, it changes nothing")
	case meeting.Delegates:
		return in.Say("they send somebody else, it waits to be decided")
	case meeting.Spoken:
		return in.Say("in plain words, it waits to be decided")
	}
	return ""
}

// AnswerTo is an answer with the dates that it is to: "accepted", "declined for 14
// January".
func AnswerTo(in tongue.Tongue, a meeting.Answer, days []when.Day, onward bool) string {
	words := Answer(in, a)
	switch {
	case len(days) > 0 && onward:
		words += in.Say(" for %s and all that follow", in.Date(days[0]))
	case len(days) > 0:
		words += in.Say(" for %s", Days(in, days))
	}
	return words
}

// Waits says why an answer waits for the organiser.
func Waits(in tongue.Tongue, v meeting.Verdict, attendee string) string {
	switch v {
	case meeting.OtherSender:
		return in.Say("It answers for %s, and was written by somebody else.", attendee)
	case meeting.Stranger:
		return in.Say("%s is not invited. It may be another address of somebody who is.", attendee)
	case meeting.NoProof:
		return in.Say("It answers for %s, but did not come to the meeting’s own address.", attendee)
	case meeting.Delegates:
		return in.Say("They do not come themselves.")
	case meeting.Spoken:
		return in.Say("Written in plain words: is it a yes?")
	}
	return ""
}

// because is why something happened, in the words of others or as it is said here.
func because(in tongue.Tongue, e meeting.Event) string {
	if e.Why != nil {
		return Say(in, *e.Why)
	}
	return e.Reason
}

// goesOn is when the series that follows begins: "from 14 January at 10:00".
func goesOn(in tongue.Tongue, e meeting.Event) string {
	if e.Next == nil {
		return e.GoesOn
	}
	return FromAt(in, *e.Next)
}

// FromAt is "from 14 January at 10:00".
func FromAt(in tongue.Tongue, at when.Local) string {
	return in.Say("from %[1]s at %[2]s", in.Date(at.Day), at.Clock.String())
}
