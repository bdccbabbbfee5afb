package meeting

import (
	"cmp"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"golang.org/x/net/idna"

	"jembro/internal/core/attachment"
	"jembro/internal/core/join"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Limits of what a sheet can hold.
const (
	TitleLimit  = 200    // characters
	TextLimit   = 20_000 // characters
	PeopleLimit = 200
	NameLimit   = 200 // characters
	LengthLimit = 31 * 24 * time.Hour
	// LongLength is more than a working day has (common practice): a meeting that
	// lasts longer is asked about, because its end may be on another day by a slip.
	LongLength = 10 * time.Hour
)

// DraftPerson is somebody put on a sheet; PersonID is empty for an address
// outside.
type DraftPerson struct {
	PersonID string `json:"personId"`
	Name     string `json:"name"`
	Email    string `json:"email"`
	Needed   bool   `json:"needed"`
	// Dates are those of a series that they are invited to; empty for all.
	Dates []DraftRange `json:"dates,omitempty"`
	// DelegatedFrom is the address of who sends them in their own place.
	DelegatedFrom string `json:"delegatedFrom,omitempty"`
	// Language is that of the letters to them, as a BCP 47 tag; "" as it is known.
	Language string `json:"language,omitempty"`
	// BroughtBy is the address of who brought them along.
	BroughtBy string `json:"broughtBy,omitempty"`
}

// DraftRange is the dates of a series from one day to another; To is empty for
// all that come.
type DraftRange struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Fault is something that keeps a sheet from being sent, at the field it
// belongs to: "title", "start", "end", "zone", "people.2", "room", "text". Fix,
// where there is one, is a value for that field that would mend it. Long is set, in
// minutes, with a length that has only to be said to be meant.
type Fault struct {
	Field string
	What  say.What
	Fix   string
	Long  int
}

// Surroundings are the facts that settling a draft needs.
type Surroundings struct {
	Now       when.Instant
	Organiser Party
	Rooms     map[string]*Room // by ID, those that the draft names and that are there
	Card      *join.Card
	Files     map[string]attachment.File // by ID, those that the draft names and that are there
	Holiday   func(when.Day) string      // what a day is called as a holiday, or ""
	// Before is the meeting that the draft changes, nil for a new one. A time
	// that stays may have passed.
	Before *Meeting
}

// Settle makes a meeting of a draft, or says everything that keeps it from
// being one. UID, Sequence and the IDs and zones of participants are not the
// draft's to give; the caller fills them in.
func (d Draft) Settle(s Surroundings) (Meeting, []Fault) {
	d = d.wholeDays()
	var faults []Fault
	fault := func(field string, what say.What) { faults = append(faults, Fault{Field: field, What: what}) }
	m := Meeting{Title: OneLine(d.Title), Text: Plain(d.Text), Zone: d.Zone, Private: d.Private, AllDay: d.AllDay, Free: d.Free, Apart: d.Apart, Bring: d.Bring, Move: d.Move,
		RemindBefore: d.RemindBefore, Organiser: s.Organiser, Card: s.Card}

	switch n := utf8.RuneCountInString(m.Title); {
	case n == 0:
		fault("title", say.It("meeting.title.none"))
	case n > TitleLimit:
		fault("title", say.It("meeting.title.long", TitleLimit, n))
	}
	if n := utf8.RuneCountInString(m.Text); n > TextLimit {
		fault("text", say.It("meeting.text.long", TextLimit, n))
	}
	faults = append(faults, d.settleReminders(&m)...)
	faults = append(faults, d.settleFiles(&m, s)...)
	if d.Cover != nil {
		faults = append(faults, d.Cover.faults()...)
	}
	m.NoWays = d.NoWays
	for _, w := range d.OtherWays(s.Card) {
		if s.Card != nil {
			fault(w.Field, say.It("meeting.link.second", say.Address(w.Address)))
		}
	}
	timeFaults := d.settleTime(&m, s)
	faults = append(faults, timeFaults...)
	broken := slices.ContainsFunc(timeFaults, func(f Fault) bool { return f.Long == 0 })
	if d.Repeat != nil && !broken {
		faults = append(faults, d.settleSeries(&m, s)...)
	}
	faults = append(faults, d.settlePeople(&m, s.Before == nil)...)

	switch room := s.Rooms[d.RoomID]; {
	case d.RoomID == "":
	case room == nil:
		fault("room", say.It("meeting.room.gone"))
	default:
		m.Room = room
		if here := len(m.Participants) + 1; here > room.Seats && s.Card == nil {
			fault("room", say.It("meeting.room.small", say.Room(room.Name), room.Seats, here))
		}
	}
	return m, faults
}

// FieldWay is a way into a call in one of the fields that hold words, "title" or "text".
type FieldWay struct {
	Field string
	join.Way
}

// OtherWays are the ways into a call that the words of a sheet hold beside its card
// (DESIGN.md, rule 8), but for those that were said to be none.
func (d Draft) OtherWays(card *join.Card) (out []FieldWay) {
	for field, text := range map[string]string{"title": d.Title, "text": d.Text} {
		for _, w := range join.OtherWays(text, card, d.NoWays) {
			out = append(out, FieldWay{field, w})
		}
	}
	slices.SortFunc(out, func(a, b FieldWay) int { return cmp.Or(-strings.Compare(a.Field, b.Field), a.At-b.At) })
	return out
}

// WithoutWay is a sheet without a way into a call in one of its fields.
func (d Draft) WithoutWay(field, address string, card *join.Card) Draft {
	text := map[string]*string{"title": &d.Title, "text": &d.Text}[field]
	for text != nil {
		ways := join.OtherWays(*text, card, d.NoWays)
		at := slices.IndexFunc(ways, func(w join.Way) bool { return join.SameAddress(w.Address, address) })
		if at < 0 {
			break
		}
		*text = join.Without(*text, ways[at])
	}
	return d
}

func (d Draft) settleTime(m *Meeting, s Surroundings) []Fault {
	var faults []Fault
	zone, err := when.LoadZone(d.Zone)
	if err != nil {
		return []Fault{{Field: "zone", What: say.It("meeting.zone.none", say.Quoted(d.Zone))}}
	}
	start, startErr := when.ParseLocal(d.Start)
	if startErr != nil {
		faults = append(faults, Fault{Field: "start", What: say.It("meeting.time.noStart")})
	}
	end, endErr := when.ParseLocal(d.End)
	if endErr != nil {
		faults = append(faults, Fault{Field: "end", What: say.It("meeting.time.noEnd")})
	}
	if len(faults) > 0 {
		return faults
	}
	if d.AllDay {
		return d.settleDays(m, s, start, end)
	}
	m.Start, m.End = start, end
	span := when.Span{Start: when.Zoned{Local: start, Zone: zone}.Instant(), End: when.Zoned{Local: end, Zone: zone}.Instant()}
	stays := s.Before != nil && (s.Before.Span() == span || d.Scope != nil)
	long := s.Before == nil || s.Before.Span().Length() != span.Length()
	if fault := d.lengthFault(start, end, zone, span); fault != nil && (fault.Long == 0 || long) {
		faults = append(faults, *fault)
	}
	if span.Start <= s.Now && !stays {
		faults = append(faults, passed(start, s.Now, zone))
	}
	return faults
}

// wholeDays is the sheet of a meeting over whole days with nothing of a clock in it, for
// the days are the same everywhere.
func (d Draft) wholeDays() Draft {
	if !d.AllDay {
		return d
	}
	d.Zone = when.Zone{}.String()
	for _, text := range []*string{&d.Start, &d.End} {
		if at, err := when.ParseLocal(*text); err == nil {
			*text = when.Local{Day: at.Day}.String()
		}
	}
	d.Dates = slices.Clone(d.Dates)
	for i := range d.Dates {
		for _, text := range []*string{&d.Dates[i].Start, &d.Dates[i].End} {
			if at, err := when.ParseLocal(*text); err == nil {
				*text = when.Local{Day: at.Day}.String()
			}
		}
	}
	return d
}

// settleDays settles a meeting over whole days.
func (d Draft) settleDays(m *Meeting, s Surroundings, start, end when.Local) []Fault {
	m.Start, m.End = start, end
	days := int(end.Day - start.Day)
	zone, err := when.LoadZone(s.Organiser.Zone)
	if err != nil {
		zone = when.Zone{}
	}
	today := zone.LocalAt(s.Now).Day
	stays := s.Before != nil && (s.Before.Start == start && s.Before.End == end || d.Scope != nil)
	switch {
	case days < 1:
		return []Fault{{Field: "lastDay", What: say.It("meeting.time.endsBefore"), Fix: (start.Day + 1).String() + "T00:00"}}
	case time.Duration(days)*24*time.Hour > LengthLimit:
		return []Fault{{Field: "lastDay", What: say.It("meeting.time.long")}}
	case start.Day < today && !stays:
		return []Fault{passed(when.Local{Day: start.Day}, s.Now, zone)}
	}
	return nil
}

// passed asks about a time that is over: the same day of the next year where the day
// itself is over, as it may have been typed without one.
func passed(start when.Local, now when.Instant, zone when.Zone) Fault {
	fault := Fault{Field: "start", What: say.It("meeting.time.passed")}
	today := zone.LocalAt(now).Day
	y, m, d := start.Day.Date()
	next := when.Local{Day: when.DayOf(y+1, m, d), Clock: start.Clock}
	if _, month, _ := next.Day.Date(); start.Day < today && next.Day > today && month == m {
		fault.What, fault.Fix = say.It("meeting.time.dayPassed"), next.String()
	}
	return fault
}

// lengthFault is what is the matter with how long a meeting lasts, nil where nothing is.
func (d Draft) lengthFault(start, end when.Local, zone when.Zone, span when.Span) *Fault {
	fault := Fault{Field: "end"}
	sameDay := when.Local{Day: start.Day, Clock: end.Clock}
	switch length := span.Length(); {
	case span.Empty() && end.Sub(start) > 0: // the clocks jump over the start
		fault.What = say.It("meeting.time.notOnClock", start.Clock, zone.LocalAt(span.Start).Clock)
		fault.Fix = zone.LocalAt(span.Start.Add(time.Hour)).String()
	case span.Empty():
		fault.What = say.It("meeting.time.endsBefore")
		if end == start {
			fault.What = say.It("meeting.time.endsAtStart")
		}
		if start.Day >= end.Day {
			fault.Fix = when.Local{Day: start.Day + 1, Clock: end.Clock}.String()
		}
	case length > LengthLimit:
		fault.What = say.It("meeting.time.long")
	case length > LongLength && int(length.Minutes()) != d.LongMeant:
		fault.What, fault.Long = say.It("meeting.time.lasts", int(length.Hours()), fmt.Sprintf("%02d", int(length.Minutes())%60)), int(length.Minutes())
		if end.Day > start.Day && sameDay.Sub(start) > 0 {
			fault.Fix = sameDay.String()
		}
	default:
		return nil
	}
	return &fault
}

// settlePeople puts the people on; fresh is true for a meeting that is not a
// change to one: everybody has to be invited to some date then.
func (d Draft) settlePeople(m *Meeting, fresh bool) []Fault {
	var faults []Fault
	if len(d.People) > PeopleLimit {
		faults = append(faults, Fault{Field: "people", What: say.It("meeting.people.many", PeopleLimit, len(d.People))})
	}
	seen := map[string]bool{strings.ToLower(m.Organiser.Email): true}
	for i, p := range d.People {
		field := fmt.Sprintf("people.%d", i)
		email, err := ParseEmail(p.Email)
		if err != nil {
			faults = append(faults, Fault{Field: field, What: what(err)})
			continue
		}
		name := OneLine(p.Name)
		if name == "" {
			name = email
		}
		if n := utf8.RuneCountInString(name); n > NameLimit {
			faults = append(faults, Fault{Field: field, What: say.It("meeting.people.nameLong", NameLimit, n)})
			continue
		}
		key := strings.ToLower(email)
		switch {
		case seen[key] && key == strings.ToLower(m.Organiser.Email):
			faults = append(faults, Fault{Field: field, What: say.It("meeting.people.organiser")})
			continue
		case seen[key]:
			faults = append(faults, Fault{Field: field, What: say.It("meeting.people.twice", say.Person(name))})
			continue
		}
		seen[key] = true
		dates, err := settleRanges(p.Dates)
		if err == nil && fresh && m.Series != nil && len(dates) > 0 && len(m.DatesOf(Participant{Dates: dates}, m.Start.Day+Horizon)) == 0 {
			err = say.It("meeting.people.noDate", say.Person(name))
		}
		if err != nil {
			faults = append(faults, Fault{Field: field, What: what(err)})
			continue
		}
		from, _ := ParseEmail(p.DelegatedFrom)
		by, _ := ParseEmail(p.BroughtBy)
		m.Participants = append(m.Participants, Participant{
			Party: Party{PersonID: p.PersonID, Name: name, Email: email}, Needed: p.Needed, Dates: dates, DelegatedFrom: from, BroughtBy: by})
	}
	return faults
}

// DomainOf is the part of an address after the last @, in lower case.
func DomainOf(email string) string {
	return strings.ToLower(email[strings.LastIndexByte(email, '@')+1:])
}

// ParseEmail checks a bare address (RFC 5321, 4.1.2, without quoted local parts
// and address literals, which no invitation reaches in practice) and gives it
// back without white space around it and with its domain in the letters that every
// mail server takes (RFC 5890, A-labels). The error is a sentence for the user.
func ParseEmail(s string) (string, error) {
	s = strings.TrimSpace(s)
	if at := strings.LastIndexByte(s, '@'); at > 0 && !isASCII(s) {
		domain, err := idna.Lookup.ToASCII(s[at+1:])
		if err != nil {
			return "", say.It("address.noDomain", say.Quoted(s))
		}
		if !isASCII(s[:at]) {
			return "", say.It("address.letters", say.Quoted(s))
		}
		s = s[:at+1] + domain
	}
	refused := say.It("address.none", say.Quoted(s))
	addr, err := mail.ParseAddress(s)
	if err != nil || addr.Address != s || len(s) > 254 {
		return "", refused
	}
	local, domain, _ := strings.Cut(s, "@")
	if len(local) > 64 || !strings.Contains(domain, ".") || strings.ContainsAny(s, "\"[]() \t\r\n") {
		return "", refused
	}
	for _, label := range strings.Split(domain, ".") {
		if label == "" || len(label) > 63 || strings.HasPrefix(label, "-") || strings.HasSuffix(label, "-") {
			return "", refused
		}
	}
	return s, nil
}

func isASCII(s string) bool {
	return strings.IndexFunc(s, func(r rune) bool { return r > unicode.MaxASCII }) < 0
}

// OneLine makes one line of text: white space of any kind, line breaks
// included, becomes one blank, and what cannot be printed is dropped.
func OneLine(s string) string {
	return strings.Join(strings.Fields(Plain(s)), " ")
}

// Plain drops what no text needs and no database takes: control characters but
// for tabs and line breaks, and bytes that are not UTF-8. Lines end with \n.
func Plain(s string) string {
	s = strings.ReplaceAll(strings.ToValidUTF8(s, ""), "\r\n", "\n")
	s = strings.ReplaceAll(s, "\r", "\n")
	return strings.TrimSpace(closeBidi(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) && r != '\n' && r != '\t' {
			return -1
		}
		return r
	}, s)))
}

// Bidirectional formatting characters that open something, and what closes them
// (Unicode Standard Annex 9, 2).
const (
	bidiEmbeddings = "\u202a\u202b\u202d\u202e"
	bidiIsolates   = "\u2066\u2067\u2068"
	popEmbedding   = '\u202c'
	popIsolate     = '\u2069'
)

// closeBidi closes in each line what it opens, so that the direction of a text does
// not turn around what stands beside it.
func closeBidi(s string) string {
	if !strings.ContainsAny(s, bidiEmbeddings+bidiIsolates) {
		return s
	}
	lines := strings.Split(s, "\n")
	for i, line := range lines {
		var open []rune
		for _, r := range line {
			switch {
			case strings.ContainsRune(bidiEmbeddings, r):
				open = append(open, popEmbedding)
			case strings.ContainsRune(bidiIsolates, r):
				open = append(open, popIsolate)
			case len(open) > 0 && r == open[len(open)-1]:
				open = open[:len(open)-1]
			}
		}
		slices.Reverse(open)
		lines[i] = line + string(open)
	}
	return strings.Join(lines, "\n")
}
