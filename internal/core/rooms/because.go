package rooms

import (
	"jembro/internal/core/say"
)

// Because is why a room, at a site, refuses a booking, or asks its keeper.
func Because(room, site string, all []Reason) say.What {
	var parts say.List
	asks := false
	for _, r := range all {
		parts = append(parts, r.what(site))
		asks = asks || r.Code == AskOthers || r.Code == AskLong || r.Code == AskLate
	}
	if asks && all[0].Code != AskAlways {
		return say.It("room.asksFor", say.Room(room), parts)
	}
	return say.It("room.because", say.Room(room), parts)
}

// what is one of the reasons, to stand behind the name of the room.
func (r Reason) what(site string) say.What {
	switch r.Code {
	case NotForThem:
		return say.It("room.forOnly", ForWhom(r.By, site))
	case TooLong:
		return say.It("room.longest", say.Length(r.Limit))
	case TooFar:
		return say.It("room.soFar", r.Day)
	case ClosedDay:
		return say.It("room.closedDay", r.Day)
	case OutOfHours:
		if len(r.Open) == 0 {
			return say.It("room.closedOn", say.Weekdays(r.Day.Weekday()))
		}
		return say.It("room.openOn", say.Hours(r.Open), say.Weekdays(r.Day.Weekday()))
	case TooFew:
		return say.It("room.share", r.Share, r.Clear, r.Dates)
	case AskAlways:
		return say.It("room.askAlways")
	case AskOthers:
		return say.It("room.askOthers", ForWhom(r.By, site))
	case AskLong:
		return say.It("room.askLong", say.Length(r.Limit))
	case AskLate:
		return say.It("room.askLate", r.Clock)
	}
	return say.It("room.rule")
}

// ForWhom is who may book a room of a site.
func ForWhom(by By, site string) say.What {
	switch by {
	case BySite:
		return say.It("room.bySite", site)
	case ByNamed:
		return say.It("room.byNamed")
	}
	return say.It("room.byEverybody")
}

// What is what to do about rules that cannot be kept.
func (f Fault) What() say.What {
	if code, known := faultCodes[f]; known {
		return say.It(code)
	}
	return say.It("room.ruleChoose")
}

var faultCodes = map[Fault]say.Code{FaultPeople: "room.rulePeople", FaultLongest: "room.ruleLongest", FaultAhead: "room.ruleAhead",
	FaultGap: "room.ruleGap", FaultOpen: "room.ruleOpen", FaultClosed: "room.ruleClosed", FaultShare: "room.ruleShare", FaultWithin: "room.ruleWithin"}
