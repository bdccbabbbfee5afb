package meeting

import (
	"slices"
	"strings"

	"jembro/internal/core/attachment"
	"jembro/internal/core/join"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// What a meeting is made of, as it is typed, as it is settled, and what differs between two versions: one
// more field begins here, and goes on in Settle.

// Draft is a sheet as it was typed: nothing in it has to be right yet.
type Draft struct {
	Title        string        `json:"title"`
	Text         string        `json:"text"`
	Start        string        `json:"start"` // 2026-11-24T09:30, in Zone
	End          string        `json:"end"`
	Zone         string        `json:"zone"`
	Private      bool          `json:"private"`
	AllDay       bool          `json:"allDay,omitempty"` // the clocks of Start and End are 0, End is the day after the last
	Free         bool          `json:"free,omitempty"`   // it leaves people's time clear
	Apart        bool          `json:"apart,omitempty"`  // those invited do not see each other
	Bring        bool          `json:"bring,omitempty"`  // those invited may bring others
	Move         bool          `json:"move,omitempty"`   // and move it
	RemindBefore int           `json:"remindBefore"`
	Reminders    []Reminder    `json:"reminders,omitempty"` // beside that one
	People       []DraftPerson `json:"people"`
	RoomID       string        `json:"roomId"`
	NoRoom       bool          `json:"noRoom"` // no room is wanted
	NoLink       bool          `json:"noLink"` // no link is wanted
	// NoWays are links in its words that look like ways into a call and are none.
	NoWays []string `json:"noWays,omitempty"`
	// Files go with it. What they are called, hold and weigh is known by their ID alone.
	Files []attachment.File `json:"files,omitempty"`
	// LongMeant is the length in minutes of a meeting over more than a working day that
	// is meant to be as long as that.
	LongMeant int `json:"longMeant,omitempty"`
	// Cover goes before the messages of the next sending.
	Cover *Cover `json:"cover,omitempty"`
	// Typed is what stands in the fields and is not part of the sheet yet.
	Typed []DraftTyped `json:"typed,omitempty"`
	// Repeat makes it a series; Dates is what single dates have of their own;
	// Scope is set when the sheet changes some dates of a series.
	Repeat *DraftRepeat `json:"repeat,omitempty"`
	Dates  []DraftDate  `json:"dates,omitempty"`
	Scope  *DraftScope  `json:"scope,omitempty"`
}

// Meeting is one meeting as it was settled. It is what is kept of every
// version, and what messages are written from.
type Meeting struct {
	UID      string
	Sequence int
	Title    string
	Text     string
	Start    when.Local
	End      when.Local
	Zone     string // IANA name
	Private  bool
	// AllDay tells that it takes whole days, wherever its readers are: Start and End are
	// dates, with the clock at 0 and End the day after the last; Zone is UTC then, for
	// the order of things alone.
	AllDay bool
	// Free tells that it leaves people's time clear.
	Free bool
	// Apart tells that those invited do not see each other.
	Apart bool
	// Bring tells that those invited may bring others, Move that they may move it to a time at
	// which nobody needed is busy: neither is asked of the organiser then.
	Bring, Move  bool
	RemindBefore int // minutes, 0 for none
	// Further are reminders beside that one, the nearest to the start first.
	Further      []Reminder
	Organiser    Party
	Participants []Participant
	Room         *Room
	Card         *join.Card
	// NoWays are links in its words that look like ways into a call and are none.
	NoWays []string
	// Files go with it, with all of its dates.
	Files []attachment.File
	// Series is how it repeats, nil for a meeting that is once; Start and End
	// are those of its first date then.
	Series *Series
	// RelatedTo is the UID of the series that this one goes on from.
	RelatedTo string
	// TakenOff are the addresses, in lower case, of those who were taken off.
	TakenOff []string
}

// DraftOf is the sheet of a meeting as it is, for changes; of a series, from a
// date on: at is its day in the rule. Times and words are those of that date, the
// room is that of the series: what single dates have of their own stands among
// its dates.
func DraftOf(m Meeting, at when.Day) Draft {
	d := Draft{Title: m.Title, Text: m.Text, Start: m.Start.String(), End: m.End.String(), Zone: m.Zone, Private: m.Private, AllDay: m.AllDay, Free: m.Free, Apart: m.Apart, Bring: m.Bring, Move: m.Move,
		RemindBefore: m.RemindBefore, Reminders: m.Further, People: []DraftPerson{}, NoRoom: m.Room == nil, NoLink: m.Card == nil, RoomID: roomOf(m.Room), NoWays: m.NoWays, Files: m.Files}
	if m.AllDay && m.Organiser.Zone != "" { // the zone of the sheet again, for what is not all day
		d.Zone = m.Organiser.Zone
	}
	scope := series.Range{From: -series.Forever}
	if m.Repeats() {
		scope = series.Range{From: at}
		asked := m.asked()
		d.Repeat = &asked
		d.Scope = &DraftScope{At: at.String(), From: at.String()}
		if date, ok := m.Date(at); ok {
			d.Start, d.End, d.Title, d.Text = date.Start.String(), date.End.String(), date.Title, date.Text
		}
		d.Dates = m.draftDates(series.Range{From: -series.Forever})
	}
	for _, p := range m.Participants {
		dates := series.Within(p.Dates, scope)
		if len(dates) == 0 {
			continue
		}
		person := DraftPerson{PersonID: p.PersonID, Name: p.Name, Email: p.Email, Needed: p.Needed, DelegatedFrom: p.DelegatedFrom, BroughtBy: p.BroughtBy}
		if len(dates) > 1 || dates[0].From > scope.From || dates[0].To != 0 {
			for _, r := range dates {
				text := DraftRange{}
				if r.From != series.Ever {
					text.From = r.From.String()
				}
				if r.To != 0 {
					text.To = r.To.String()
				}
				person.Dates = append(person.Dates, text)
			}
		}
		d.People = append(d.People, person)
	}
	return d
}

// Change is what differs between two versions of a meeting. Time is the time of
// a meeting or of all dates of a series, End where a series ends, and Days are
// its dates that differ by themselves.
type Change struct {
	Title, Text, Files, Time, End, Room, Link, Private, Reminder bool
	// Door tells that the call lets people in otherwise than before; nobody has to hear.
	Door bool
	// Free tells that it takes people's time otherwise than before.
	Free bool
	// Apart tells that those invited see each other, or do not, otherwise than before; nobody
	// has to hear.
	Apart bool
	// Rights tells that those invited may do otherwise than before; nobody has to hear.
	Rights bool
	// Organiser tells that somebody else organises it.
	Organiser      bool
	Days           []when.Day
	Added, Removed []Participant
	// Role are people kept who became needed or optional, Invited those kept who
	// are invited to other dates than before.
	Role, Invited []Participant
	// Back tells that somebody added was taken off before.
	Back bool
}

// Compare says what differs. Participants are the same when their IDs are.
func Compare(before, after Meeting) Change {
	a, b := before.Plan(), after.Plan()
	c := Change{
		Title: before.Title != after.Title,
		Text:  before.Text != after.Text,
		Files: !attachment.Same(before.Files, after.Files),
		Time: a.Start != b.Start || a.End != b.End || a.Zone != b.Zone || endless(a.Rule) != endless(b.Rule) ||
			before.Repeats() != after.Repeats() || before.AllDay != after.AllDay,
		Free:      before.Free != after.Free,
		Organiser: !strings.EqualFold(before.Organiser.Email, after.Organiser.Email),
		End:       ends(a) != ends(b),
		Room:      roomOf(before.Room) != roomOf(after.Room),
		Link:      !before.Card.Same(after.Card), Private: before.Private != after.Private, Apart: before.Apart != after.Apart,
		Rights:   before.Bring != after.Bring || before.Move != after.Move,
		Door:     doorOf(before) != doorOf(after),
		Reminder: before.RemindBefore != after.RemindBefore || !slices.Equal(before.Further, after.Further),
	}
	if before.Repeats() && after.Repeats() && !c.Time {
		c.Days = differentDays(before, after)
	}
	for _, p := range after.Participants {
		was, ok := before.Participant(p.ID)
		switch {
		case !ok:
			c.Added = append(c.Added, p)
			c.Back = c.Back || slices.Contains(before.TakenOff, strings.ToLower(p.Email))
			continue
		case was.Needed != p.Needed:
			c.Role = append(c.Role, p)
		}
		if !slices.Equal(was.Dates, p.Dates) {
			c.Invited = append(c.Invited, p)
		}
	}
	for _, p := range before.Participants {
		if _, ok := after.Participant(p.ID); !ok {
			c.Removed = append(c.Removed, p)
		}
	}
	return c
}
