package demo

import (
	"fmt"
	"slices"
	"time"

	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// curated are the meetings that make the week of Ilse Marrant worth a look:
// hers and those she is asked to, with clashes, silence, refusals and a private
// one.
func (b *builder) curated() []plan {
	mon, tue, wed, thu, fri := b.monday, b.monday+1, b.monday+2, b.monday+3, b.monday+4
	next := b.monday + 7
	on := func(days int) string { return (b.monday + when.Day(days)).String() }
	return []plan{
		{title: "Weekly plan", organiser: "Ilse", day: mon - 21, start: "9:00", minutes: 30, with: []string{"Tomé", "Rui"}, answers: "AA", link: true,
			repeat: fmt.Sprintf("every Monday, Wednesday and Friday until %s", on(25))},
		{title: "Lacquer loan: packing, courier", text: "Final crate list and the courier’s flight. Bring the humidity log.", organiser: "Ilse", day: thu - 28, start: "9:00", minutes: 45,
			with: []string{"Tomé", "Rui", "Freya?", "S. Onari"}, answers: "AAMA", room: "Map Room", link: true, repeat: "every 2nd Thursday, 7 times",
			own: []meeting.DraftDate{{On: on(17), RoomID: "Loft Studio"}, {On: on(31), Start: on(29) + "T14:00", End: on(29) + "T14:45"}}},
		{title: "Docents, winter", organiser: "Freya", day: b.monday + 52, start: "9:00", minutes: 120, with: []string{"Bruno", "Rosa"}, answers: "AA", room: "Map Room"},
		{title: "Lacquer loan, condition notes", organiser: "Hanna", day: mon, start: "11:00", minutes: 90, with: []string{"Ilse", "Tomé", "Sigrid?"}, answers: "AAM", room: "Map Room"},
		{title: "Hall plan", organiser: "Ilse", day: mon, start: "15:00", minutes: 60, with: []string{"Lázaro", "Rui"}, answers: "AM", room: "Loft Studio"},
		{title: "Courier slots", organiser: "Ilse", day: tue, start: "9:15", minutes: 45, with: []string{"Duarte", "line@tessera.example"}, answers: "A-", link: true},
		{title: "Crate sizes, loan 14", text: "Final crate list and the courier’s flight. Bring the humidity log.", organiser: "Ilse", day: tue, start: "10:30", minutes: 60,
			with: []string{"Tomé", "Rui", "Freya?", "S. Onari", "desk@veerhaven.example"}, answers: "AMA--", room: "Map Room", link: true,
			failed: "desk@veerhaven.example: 550 5.7.1 sender not allowed",
			letter: &schedule.LetterIn{FromName: "Setsu Onari", FromEmail: "setsu@onari-home.example", Subject: "Accepted: Crate sizes, loan 14", Words: "I call in from the train, until 11:15.",
				Answers: []schedule.AnswerIn{{Attendee: "setsu@onari-home.example", Answer: meeting.Accepted, Comment: "I call in from the train, until 11:15.", Verdict: meeting.Stranger}}}},
		{title: "Insurance values", organiser: "Freya", day: tue, start: "14:00", minutes: 60, with: []string{"Ilse", "Nadia", "h.brackwater@brackwater.example"}, answers: "-A-", link: true},
		{title: "Mount trial", organiser: "Lázaro", day: tue, start: "14:30", minutes: 90, with: []string{"Ilse?", "Piet", "Inês"}, answers: "DAA", room: "Crate Bench"},
		{title: "Night opening", organiser: "Beatriz", day: tue, start: "16:30", minutes: 60, with: []string{"Ilse", "Akua", "Bruno"}, answers: "AAA", room: "Loft Studio"},
		{title: "Light levels survey", organiser: "Sigrid", day: wed, start: "13:00", minutes: 60, with: []string{"Ilse", "Hanna"}, answers: "-A", room: "Print Cabinet", was: "9:30"},
		{title: "Kiln visit, Rotterdam", organiser: "Hanna", day: b.monday + 50, start: "14:00", minutes: 90, with: []string{"Ilse", "Piet"}, answers: "--"},
		{title: "Label workshop, spring", organiser: "Rui", day: b.monday + 57, start: "10:00", minutes: 120, with: []string{"Ilse", "Joana"}, answers: "AA", off: "The printer is away; I ask again in January."},
		{title: "Nairobi call", organiser: "Nadia", day: thu, start: "10:00", minutes: 45, with: []string{"Ilse", "a.wekesa@matumba.example"}, answers: "-A", link: true, by: "tamberline"},
		{title: "Pay review", organiser: "Ilse", day: thu, start: "15:00", minutes: 30, with: []string{"Nadia"}, answers: "A", private: true},
		{title: "Label texts, second reading", organiser: "Ilse", day: fri, start: "11:00", minutes: 90, with: []string{"Joana", "Émile", "Beatriz?"}, answers: "AA-", room: "Map Room"},
		{title: "Loan agreement, São Paulo", organiser: "Ilse", day: fri, start: "14:00", minutes: 45, with: []string{"Yara", "c.ipanaque@casaipe.example", "lending@jacaranda.example"}, answers: "A--", link: true, by: "tamberline",
			heard: map[string]reach.Event{"c.ipanaque@casaipe.example": {Kind: reach.Relayed},
				"lending@jacaranda.example": {Kind: reach.Delayed, Code: reach.Code{Class: 4, Subject: 4, Detail: 1}, Said: "421 4.4.1 no answer from host"}}},
		{title: "Docents", organiser: "Freya", day: next + 1, start: "8:30", minutes: 60, with: []string{"Bruno", "Rosa"}, answers: "AA", room: "Map Room"},
		{title: "Kyoto handover", organiser: "Ilse", day: next + 2, start: "9:30", minutes: 60, with: []string{"Hanna", "S. Onari", "m.hayase@kirisame.example"}, answers: "AA-", room: "Lens Room", link: true},
		{title: "Trustees, preparation", organiser: "Nadia", day: next + 3, start: "11:00", minutes: 90, with: []string{"Beatriz", "Lázaro"}, answers: "AA", room: "Map Room", private: true},
		{title: "Unpacking loan 9", organiser: "Marta", day: next + 3, start: "8:00", minutes: 240, with: []string{"Piet", "Inês", "Gil"}, answers: "AAA", room: "Crate Bench"},
	}
}

// kept are meetings in rooms that ask their keepers.
func (b *builder) kept() []plan {
	mon := b.monday
	on := func(days int) string { return (mon + when.Day(days)).String() }
	return []plan{
		{title: "Docents", organiser: "Freya", day: mon, start: "10:00", minutes: 120, with: []string{"Rosa", "Bruno"}, answers: "AA", room: "Courtyard Hall"},
		{title: "School visit", organiser: "Rui", day: mon + 1, start: "14:00", minutes: 120, with: []string{"Akua"}, answers: "A", room: "Courtyard Hall"},
		{title: "Night opening, rehearsal", organiser: "Freya", day: mon + 3, start: "17:00", minutes: 120, with: []string{"Bruno", "Akua"}, answers: "A-", room: "Courtyard Hall"},
		{title: "Winter fair, set-up", organiser: "Freya", day: mon + 28, start: "17:00", minutes: 240, with: []string{"Rosa"}, answers: "A", room: "Courtyard Hall", private: true},
		{title: "Choir", organiser: "Tomé", day: mon + 14, start: "18:30", minutes: 90, with: []string{"Akua", "Rosa"}, answers: "A-", room: "Courtyard Hall", repeat: "every Monday, 12 times",
			own: []meeting.DraftDate{{On: on(28), NoRoom: true}}},
	}
}

var topics = []string{
	"Crate inspection", "Humidity readings", "Loan register, open items", "Mount making", "Frame repairs", "Storage move, bay 3", "Courier briefing",
	"Condition report", "Label proofs", "Catalogue pages", "Light plan", "School programme", "Lamp service", "Lens cleaning", "Pest traps", "Fire drill review",
	"Facade scaffolding", "Ticket desk rota", "Photography, textiles", "Object labels", "Insurance renewal", "Lender letters", "Packing list", "Truck bookings",
	"Handling training", "Key audit", "Archive boxes", "Oral history call", "Poster choice", "Press visit", "Budget, spring", "Floor loads", "Wall colours", "Audio guide",
}

// invent makes up a meeting that collides with no room, and rarely with people;
// ok is false when the draw did not come out.
func (b *builder) invent() (plan, bool) {
	organiser := b.people[1+b.random.IntN(len(b.people)-1)]
	p := plan{title: topics[b.random.IntN(len(topics))], organiser: organiser.Name, day: b.monday - 7 + when.Day(b.random.IntN(35)),
		minutes: []int{30, 30, 45, 60, 60, 90, 120}[b.random.IntN(7)]}
	if p.day.Weekday() == time.Saturday || p.day.Weekday() == time.Sunday {
		return p, false
	}
	hour := 8 + b.random.IntN(9)
	p.start = fmt.Sprintf("%d:%02d", hour, []int{0, 15, 30, 30}[b.random.IntN(4)])
	clock, err := when.ParseClock(p.start)
	if err != nil {
		return p, false
	}
	start := when.Zoned{Local: when.Local{Day: p.day, Clock: clock}, Zone: organiser.Hours.Zone}.Instant()
	span := when.Span{Start: start, End: start.Add(time.Duration(p.minutes) * time.Minute)}
	free := func(x schedule.Person) bool { return b.random.IntN(12) == 0 || !b.busy[x.ID].Overlaps(span) }
	if !free(organiser) {
		return p, false
	}
	for range 1 + b.random.IntN(4) {
		x := b.people[1+b.random.IntN(len(b.people)-1)]
		if x.ID == organiser.ID || slices.Contains(p.with, x.Name) || !free(x) {
			continue
		}
		p.with = append(p.with, x.Name)
		p.answers += string("AAAAMD--"[b.random.IntN(8)])
	}
	if b.random.IntN(4) == 0 {
		p.with = append(p.with, b.contacts[b.random.IntN(len(b.contacts))].Email)
		p.answers += string("AA-"[b.random.IntN(3)])
		p.link = true
	}
	if len(p.with) == 0 {
		return p, false
	}
	if r := b.rooms[b.random.IntN(len(b.rooms))]; b.random.IntN(3) > 0 && len(r.Keepers) == 0 && r.Seats > len(p.with) && !b.taken[r.ID].Overlaps(span) {
		p.room = r.Name
	}
	p.private = b.random.IntN(12) == 0
	return p, true
}
