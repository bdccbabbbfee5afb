package sheets

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/fits"
	"jembro/internal/core/holidays"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/meetings"
)

// datesTx is what is needed here of a transaction.
type datesTx interface {
	SheetTx
	availability.DayTx
	directory.LookupTx
	settleTx
	Bookings(ctx context.Context, rooms []uuid.UUID, window when.Span, but uuid.UUID) ([]schedule.Booking, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
}

// DatesQuestion asks how the dates of a sheet stand; Equipment and SiteID are
// what its rooms must have.
type DatesQuestion struct {
	SheetID   uuid.UUID
	Equipment []string
	SiteID    uuid.UUID
}

// DateState is how one date stands, the worst first.
type DateState string

const (
	DateNoRoom DateState = "noroom" // a room is wanted, and there is none
	DateBusy   DateState = "busy"   // somebody needed is busy or on leave
	DateSoft   DateState = "soft"   // something to know: a holiday, other hours, somebody optional
	DateFits   DateState = "fits"
	DateOut    DateState = "out"  // left out by hand, or called off
	DateHeld   DateState = "held" // it has begun
)

// RepairKind is what a repair does.
type RepairKind string

const (
	RepairMove    RepairKind = "move"    // to another time
	RepairRoom    RepairKind = "room"    // another room on that date
	RepairNoRoom  RepairKind = "noroom"  // meet without a room
	RepairOut     RepairKind = "out"     // leave the date out
	RepairRegular RepairKind = "regular" // make it like the others again
)

// Repair is one way to mend a date: what the sheet would say of it.
type Repair struct {
	Kind  RepairKind
	Words string
	Date  meeting.DraftDate // nothing but On: as the rule has it
}

// SheetDate is one date on a sheet.
type SheetDate struct {
	meeting.Date
	Key   when.Day // what the sheet calls it: its day in the rule, mostly
	State DateState
	Words string   // in a few: "fits", "Map Room taken", "Tomé Akande on leave"
	Notes []string // more of it
	Marks []string // what clocks show elsewhere, where that is not what they show on the first
	// Scope is the day in the rule of the series that is being changed, 0 for a
	// date that it has not; InScope tells whether the change is for it.
	Scope   when.Day
	InScope bool
	Repairs []Repair
}

// RoomsAnswer compares one room for all dates with a room for each.
type RoomsAnswer struct {
	Dates int
	// Taken are the dates without the room that is on the sheet; One is the single
	// room that is clear on the most dates, and OneClear on how many.
	Taken    int
	One      *schedule.Room
	OneClear int
	// Each gives every date a room where one is clear: RoomID to most, Dates to
	// the others.
	Each        []schedule.Room
	EachMost    uuid.UUID
	EachDates   []meeting.DraftDate
	EachWithout int
}

// Dates is how the dates of a sheet stand.
type Dates struct {
	Words   string // "every 2nd Thursday until 25 February"
	Rule    string // the rule as RRULE has it
	Count   int    // of dates, 0 for a series without an end
	Open    bool
	More    bool // there are more than are shown
	Dates   []SheetDate
	OnAll   []string // what holds on every date: "S. Onari works other hours (30 min outside)"
	Skipped []recur.LeftOut
	Rooms   *RoomsAnswer
	// Countries are those whose holidays count.
	Countries []string
	// Splits tells that the old series ends and a new one begins.
	Splits bool
	// LinkUntil says when the link ends before the series does; zero mostly.
	LinkUntil time.Time
	Lost      []recur.Lost
}

// mostShown is how many dates a sheet shows.
const mostShown = 120

// SheetDates says how every date of a sheet stands for people and rooms, and how
// to mend those that do not fit. It has no dates while the time or the rule is
// not settled.
func (s *Deeds) SheetDates(ctx context.Context, me uuid.UUID, q DatesQuestion) (out Dates, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		sheet, of, err := SheetAndMeeting(ctx, tx, me, q.SheetID)
		if err != nil || sheet.Draft.Repeat == nil && (of == nil || !of.Content.Repeats()) {
			return err
		}
		st, err := s.settle(ctx, tx, sheet, of)
		var invalid *schedule.InvalidError
		if err != nil && !errors.As(err, &invalid) {
			return err
		}
		m := st.Meeting
		if st.Next != nil {
			m = *st.Next
		}
		if invalid != nil && slices.ContainsFunc(invalid.Faults, blocksDates) || m.Series == nil {
			return nil
		}
		l := &dateLooker{s: s, q: q, sheet: sheet, of: of, st: st, m: m}
		out, err = l.look(ctx, tx, me)
		return err
	})
	return out, err
}

// blocksDates tells whether a fault leaves no dates to look at.
func blocksDates(f meeting.Fault) bool {
	return slices.Contains([]string{"start", "end", "zone", "scope"}, f.Field) || strings.HasPrefix(f.Field, "repeat.") || strings.HasPrefix(f.Field, "dates.")
}

// dateLooker looks at the dates of one sheet.
type dateLooker struct {
	s         *Deeds
	q         DatesQuestion
	sheet     schedule.Sheet
	of        *schedule.Record
	st        meetings.Settled
	m         meeting.Meeting // the series that the sheet settles
	countries []string
	now       when.Instant
	lanes     []availability.Lane
	rooms     []schedule.Room // that would do, the one on the sheet first
	taken     []fits.Room     // the same, as the core sees them
	bookings  []schedule.Booking
	booked    map[string]when.Spans // when each room is, by ID
	all       []schedule.Room
}

func (l *dateLooker) look(ctx context.Context, tx datesTx, me uuid.UUID) (Dates, error) {
	l.now = when.At(l.s.Now())
	m := l.m
	out := Dates{Rule: m.Series.Asked.Rule, Open: m.Plan().Open(), Skipped: m.Series.Skipped, Splits: l.st.Next != nil}
	out.Words = m.Plan().Words()
	dates, more := l.shown()
	out.More = more
	if !out.Open {
		last, _ := m.Plan().Last()
		out.Count = len(m.Plan().Upto(last))
	}
	if err := l.load(ctx, tx, me, dates); err != nil {
		return out, err
	}
	out.Dates = append(out.Dates, l.before()...)
	issues := make([][]issue, len(dates))
	for i, d := range dates {
		issues[i] = l.issues(d)
	}
	out.OnAll = shared(dates, issues)
	for i, d := range dates {
		out.Dates = append(out.Dates, l.one(d, slices.DeleteFunc(issues[i], func(x issue) bool { return slices.Contains(out.OnAll, x.words) })))
	}
	out.Dates = append(out.Dates, l.dropped()...)
	slices.SortStableFunc(out.Dates, func(a, b SheetDate) int { return int(a.Span.Start - b.Span.Start) })
	if !l.sheet.Draft.NoRoom {
		out.Rooms = l.roomsAnswer(dates)
	}
	out.Countries = l.countries
	if card := m.Card; card != nil && !card.GoodUntil.IsZero() {
		if last, ends := m.Plan().Last(); !ends || m.Plan().Regular(last).Span.End.Time().After(card.GoodUntil) {
			out.LinkUntil = card.GoodUntil
		}
	}
	for _, d := range l.sheet.Draft.Dates {
		if on, err := when.ParseDay(d.On); err == nil && !d.Out && (d.Start != "" || d.RoomID != "" || d.NoRoom) && !m.Plan().InRule(on+when.Day(l.st.Shifted)) && on >= l.key(m.Start.Day) {
			out.Lost = append(out.Lost, recur.Lost{On: on, Why: "the series has no date there"})
		}
	}
	return out, nil
}

// scoped tells whether the sheet changes some dates of a series.
func (l *dateLooker) scoped() bool {
	return l.of != nil && l.of.Content.Repeats() && l.st.Scope.From != 0
}

// shown are the dates that the sheet settles: all of the series, or those from
// the scope on.
func (l *dateLooker) shown() (dates []meeting.Date, more bool) {
	for d := range l.m.Dates(l.m.Start.Day) {
		if len(dates) == mostShown {
			return dates, true
		}
		if l.scoped() && l.st.Next == nil && !l.st.Scope.Holds(d.On) && l.scopeOf(d) != 0 {
			continue
		}
		dates = append(dates, d)
	}
	return dates, false
}

// scopeOf is the day in the rule of the series that is being changed, 0 for a
// date that it has not.
func (l *dateLooker) scopeOf(d meeting.Date) when.Day {
	if l.of == nil || !l.of.Content.Repeats() {
		return 0
	}
	before := l.of.Content.Plan()
	on := d.On
	if l.st.Next != nil { // the days of a new series may lie beside the old ones
		for x := range before.Dates(l.st.Scope.From) {
			on += x.On - l.st.Next.Start.Day
			break
		}
	}
	if before.Has(on) {
		return on
	}
	return 0
}

// before are the dates of the series that the change leaves alone.
func (l *dateLooker) before() (out []SheetDate) {
	if !l.scoped() {
		return nil
	}
	for d := range l.of.Content.Dates(l.of.Content.Start.Day) {
		if l.st.Scope.To == 0 && d.On >= l.st.Scope.From || len(out) == mostShown {
			break
		}
		if l.st.Scope.Holds(d.On) {
			continue
		}
		x := SheetDate{Date: d, Key: d.On, Scope: d.On, State: DateFits, Words: "stays"}
		if d.Span.Start <= l.now {
			x.State, x.Words = DateHeld, "held"
		}
		out = append(out, x)
	}
	return out
}

// dropped are the dates left out by hand.
func (l *dateLooker) dropped() (out []SheetDate) {
	var days []when.Day
	days = append(days, l.m.Series.Dropped...)
	if l.st.Next != nil {
		days = append(days, l.st.Meeting.Series.Dropped...)
	}
	for _, day := range days {
		d := meeting.Date{Date: l.m.Plan().Regular(day), Title: l.m.Title}
		x := SheetDate{Date: d, Key: l.key(day), State: DateOut, Words: "left out", InScope: l.inScope(day), Scope: day}
		if l.of != nil && l.of.Content.Series != nil && slices.Contains(l.of.Content.Series.Off, day) {
			x.Words = "called off"
		}
		if x.InScope && d.Span.Start > l.now {
			x.Repairs = []Repair{{RepairRegular, "take it back in", l.bare(day)}}
		}
		out = append(out, x)
	}
	return out
}

func (l *dateLooker) inScope(day when.Day) bool { return !l.scoped() || l.st.Scope.Holds(day) }

// reach is how far around a date a time for it is looked for.
const reach = 7 * 24 * time.Hour

// load reads everybody's time and all rooms over all dates at once.
func (l *dateLooker) load(ctx context.Context, tx datesTx, me uuid.UUID, dates []meeting.Date) error {
	if len(dates) == 0 {
		return nil
	}
	window := dates[0].Span
	for _, d := range dates {
		window.Start, window.End = min(window.Start, d.Span.Start), max(window.End, d.Span.End)
	}
	window.Start, window.End = max(window.Start.Add(-reach), min(l.now, window.Start)), window.End.Add(reach)
	q := availability.DayQuestion{People: l.sheet.Draft.People, Chosen: window, Equipment: l.q.Equipment, SiteID: l.q.SiteID}
	if l.of != nil {
		q.But = l.of.ID
	}
	a := availability.DayAnswer{Window: window}
	if err := l.s.Availability.Lanes(ctx, tx, me, q, &a); err != nil {
		return err
	}
	l.lanes = a.Lanes
	var err error
	if l.all, err = tx.Rooms(ctx, schedule.EveryRoom); err != nil {
		return err
	}
	if l.bookings, err = tx.Bookings(ctx, nil, window, q.But); err != nil {
		return err
	}
	l.booked = bookedByRoom(l.bookings)
	l.suitable(len(a.Lanes))
	return l.findCountries(ctx, tx, me)
}

func (l *dateLooker) suitable(seats int) {
	for _, r := range l.all {
		if r.ID.String() == l.sheet.Draft.RoomID || r.Seats >= seats && (l.q.SiteID == uuid.Nil || l.q.SiteID == r.SiteID) && availability.HasAll(r.Equipment, l.q.Equipment) {
			l.rooms = append(l.rooms, r)
		}
	}
	// The room on the sheet first, then those of its site, the smallest that will do.
	var site uuid.UUID
	for _, r := range l.rooms {
		if r.ID.String() == l.sheet.Draft.RoomID {
			site = r.SiteID
		}
	}
	rank := func(r schedule.Room) int {
		switch {
		case r.ID.String() == l.sheet.Draft.RoomID:
			return -1
		case r.SiteID == site:
			return r.Seats
		}
		return 10_000 + r.Seats
	}
	slices.SortStableFunc(l.rooms, func(a, b schedule.Room) int { return rank(a) - rank(b) })
	for _, r := range l.rooms {
		l.taken = append(l.taken, fits.Room{ID: r.ID.String(), Busy: l.booked[r.ID.String()]})
	}
}

func bookedByRoom(bookings []schedule.Booking) map[string]when.Spans {
	spans := map[string][]when.Span{}
	for _, b := range bookings {
		spans[b.RoomID.String()] = append(spans[b.RoomID.String()], b.Span)
	}
	booked := make(map[string]when.Spans, len(spans))
	for room, times := range spans {
		booked[room] = when.Union(times...)
	}
	return booked
}

func (l *dateLooker) findCountries(ctx context.Context, tx datesTx, me uuid.UUID) error {
	organiser, err := directory.Person(ctx, tx, me)
	if err != nil {
		return err
	}
	known, err := directory.LookUp(ctx, tx, l.sheet.Draft.People)
	if err != nil {
		return err
	}
	_, l.countries, err = l.s.surroundings(ctx, tx, l.sheet.Draft, l.of, organiser, known)
	return err
}

// people are those invited to a date, as the core sees them.
func (l *dateLooker) people(on when.Day) (people []fits.Person, lanes []availability.Lane) {
	for _, lane := range l.lanes {
		p, is := participantBy(l.m, lane.Email)
		if lane.You || !is || p.On(on) {
			people, lanes = append(people, lane.Fit()), append(lanes, lane)
		}
	}
	return people, lanes
}

func participantBy(m meeting.Meeting, email string) (meeting.Participant, bool) {
	for _, p := range m.Participants {
		if strings.EqualFold(p.Email, email) {
			return p, true
		}
	}
	return meeting.Participant{}, false
}

// issue is something about one date, in a few words.
type issue struct {
	state DateState
	words string
}

// severity orders states, the worst first.
var severity = []DateState{DateNoRoom, DateBusy, DateSoft}

// issues are what stands against a date, and what there is to know about it, the
// worst first.
func (l *dateLooker) issues(d meeting.Date) (out []issue) {
	people, lanes := l.people(d.On)
	if d.Room != nil && l.booked[d.Room.ID].Overlaps(d.Span) {
		out = append(out, issue{DateNoRoom, d.Room.Name + " taken" + l.by(d)})
	}
	for _, t := range fits.Check(d.Span, people) {
		out = append(out, issue{troubleState(t), l.troubleWords(t, people, lanes, d.Span)})
	}
	if name := holidays.In(l.countries, d.Start.Day); name != "" {
		out = append(out, issue{DateSoft, "holiday: " + name})
	}
	slices.SortStableFunc(out, func(a, b issue) int { return slices.Index(severity, a.state) - slices.Index(severity, b.state) })
	return out
}

// shared are the softer issues that every date has at its usual time, when there
// are several: they are said once.
func shared(dates []meeting.Date, issues [][]issue) (words []string) {
	var usual [][]issue
	for i, d := range dates {
		if !d.Moved {
			usual = append(usual, issues[i])
		}
	}
	if len(usual) < 2 {
		return nil
	}
	for _, x := range usual[0] {
		everywhere := !slices.ContainsFunc(usual, func(others []issue) bool { return !slices.Contains(others, x) })
		if x.state == DateSoft && everywhere {
			words = append(words, x.words)
		}
	}
	return words
}

// one says how one date stands.
func (l *dateLooker) one(d meeting.Date, issues []issue) SheetDate {
	out := SheetDate{Date: d, Key: l.key(d.On), State: DateFits, Words: "fits", Scope: l.scopeOf(d), InScope: true}
	for i, x := range issues {
		if i == 0 {
			out.State, out.Words = x.state, x.words
			continue
		}
		out.Notes = append(out.Notes, x.words)
	}
	if d.Moved {
		out.Notes = append(out.Notes, meetings.MovedWords(l.m, d))
	}
	if d.Room != nil && l.m.Room != nil && d.Room.ID != l.m.Room.ID {
		out.Notes = append(out.Notes, "in "+d.Room.Name)
	}
	if d.Room == nil && l.m.Room != nil {
		out.Notes = append(out.Notes, "without a room")
	}
	out.Marks = l.clocks(d)
	people, _ := l.people(d.On)
	out.Repairs = l.repairs(d, out.State, people)
	return out
}

func (l *dateLooker) by(d meeting.Date) string {
	for _, b := range l.bookings {
		if b.RoomID.String() == d.Room.ID && b.Span.Overlaps(d.Span) && !b.Private && b.By != "" {
			return " by " + b.By
		}
	}
	return ""
}

func troubleState(t fits.Trouble) DateState {
	if t.Busy && t.Needed {
		return DateBusy
	}
	return DateSoft
}

// troubleWords are short: "Tomé Akande on leave", "you are busy".
func (l *dateLooker) troubleWords(t fits.Trouble, people []fits.Person, lanes []availability.Lane, at when.Span) string {
	switch {
	case !t.Busy && t.Off > 0 && t.Name == availability.You:
		return "outside your hours"
	case !t.Busy && t.Off > 0:
		return t.Name + " outside hours"
	case !t.Busy:
		return strings.TrimSuffix(availability.Sentence(t), " then")
	}
	for i, p := range people {
		if p.Name != t.Name {
			continue
		}
		for _, b := range lanes[i].Busy {
			if b.Kind == schedule.Leave && b.Span.Overlaps(at) {
				return t.Name + " on leave"
			}
		}
	}
	return strings.TrimSuffix(availability.Sentence(t), " then")
}

// clocks says where clocks show another time on this date than on the first: a
// zone changed its clocks in between, and another did not.
func (l *dateLooker) clocks(d meeting.Date) (notes []string) {
	first, ok := l.m.Plan().First()
	if !ok || d.Moved {
		return nil
	}
	said := map[string]bool{}
	for _, lane := range l.lanes {
		if !lane.ZoneKnown || said[lane.Zone.String()] {
			continue
		}
		said[lane.Zone.String()] = true
		now, then := lane.Zone.LocalAt(d.Span.Start).Clock, lane.Zone.LocalAt(first.Span.Start).Clock
		if now != then {
			notes = append(notes, fmt.Sprintf("%s in %s, not %s", now, lane.Zone.City(), then))
		}
	}
	return notes
}

// repairs are the ways to mend a date, and to take back what it has of its own.
func (l *dateLooker) repairs(d meeting.Date, state DateState, people []fits.Person) (out []Repair) {
	own := l.says(d.On)
	trouble := state == DateNoRoom || state == DateBusy || holidays.In(l.countries, d.Start.Day) != ""
	if state == DateNoRoom {
		if r := l.otherRoom(d); r != nil {
			x := own
			x.RoomID, x.NoRoom = r.ID.String(), false
			out = append(out, Repair{RepairRoom, "use " + r.Name, x})
		}
	}
	if trouble {
		if x, words, ok := l.nearest(d, own, people); ok {
			out = append(out, Repair{RepairMove, words, x})
		}
		x := l.bare(d.On)
		x.Out = true
		out = append(out, Repair{RepairOut, "leave it out", x})
	}
	if state == DateNoRoom {
		x := own
		x.RoomID, x.NoRoom = "", true
		out = append(out, Repair{RepairNoRoom, "meet without a room", x})
	}
	if own != l.bare(d.On) {
		out = append(out, Repair{RepairRegular, "like the others", l.bare(d.On)})
	}
	return out
}

// says is what the sheet says of a date so far.
func (l *dateLooker) says(on when.Day) meeting.DraftDate {
	bare := l.bare(on)
	for _, x := range l.sheet.Draft.Dates {
		if x.On == bare.On {
			return x
		}
	}
	return bare
}

// key is what the sheet calls a day of the rule, and bare is nothing said of it.
func (l *dateLooker) key(on when.Day) when.Day { return on - when.Day(l.st.Shifted) }

func (l *dateLooker) bare(on when.Day) meeting.DraftDate {
	return meeting.DraftDate{On: l.key(on).String()}
}

func (l *dateLooker) otherRoom(d meeting.Date) *schedule.Room {
	for i, r := range l.taken {
		if !r.Busy.Overlaps(d.Span) {
			return &l.rooms[i]
		}
	}
	return nil
}

// nearest is the stretch nearest to a date that fits, between the dates around
// it: in the room of the date, or else in another.
func (l *dateLooker) nearest(d meeting.Date, own meeting.DraftDate, people []fits.Person) (meeting.DraftDate, string, bool) {
	window := when.Span{Start: max(d.Span.Start.Add(-reach), l.now), End: d.Span.End.Add(reach)}
	for x := range l.m.Dates(max(l.m.Start.Day, d.On-40)) {
		switch {
		case x.On == d.On:
		case x.Span.End <= d.Span.Start:
			window.Start = max(window.Start, x.Span.End)
		case x.Span.Start >= d.Span.End:
			window.End = min(window.End, x.Span.Start)
		}
		if x.On > d.On+40 {
			break
		}
	}
	for _, day := range daysOf(window, l.m.StartIn().Zone) {
		if holidays.In(l.countries, day) != "" {
			people = append(people, fits.Person{Needed: true, Busy: when.Union(when.DaySpan(day, l.m.StartIn().Zone))})
		}
	}
	ask := fits.Ask{Window: window, Length: d.Span.Length(), People: people, WantRoom: d.Room != nil}
	for _, r := range l.taken {
		if d.Room != nil && r.ID == d.Room.ID {
			ask.Rooms = []fits.Room{r}
		}
	}
	found, room, ok := l.search(ask, d)
	if !ok { // then outside the hours of those for whom the date is that anyway
		for i, p := range ask.People {
			if p.Off.Overlaps(d.Span) {
				ask.People[i].Off = nil
			}
		}
		found, room, ok = l.search(ask, d)
	}
	if !ok {
		return own, "", false
	}
	zone := l.m.StartIn().Zone
	start, end := zone.LocalAt(found.Start), zone.LocalAt(found.End)
	own.Start, own.End = start.String(), end.String()
	words := "move to " + words.ShortDay(start.Day)
	if start.Day == d.Start.Day {
		words = "move to " + start.Clock.String()
	} else if start.Clock != d.Start.Clock {
		words += " " + start.Clock.String()
	}
	if room != nil {
		own.RoomID, own.NoRoom = room.ID.String(), false
		words += ", " + room.Name
	}
	return own, words, true
}

// search looks for the nearest stretch in the room that was asked for, then in
// any; room is nil for the former.
func (l *dateLooker) search(ask fits.Ask, d meeting.Date) (found when.Span, room *schedule.Room, ok bool) {
	found, _, ok = fits.Nearest(ask, d.Span.Start, 15*time.Minute)
	if ok || d.Room == nil {
		return found, nil, ok
	}
	ask.Rooms = l.taken
	found, at, ok := fits.Nearest(ask, d.Span.Start, 15*time.Minute)
	if ok {
		room = &l.rooms[at]
	}
	return found, room, ok
}

func daysOf(window when.Span, zone when.Zone) (days []when.Day) {
	for day := zone.LocalAt(window.Start).Day; day <= zone.LocalAt(window.End).Day; day++ {
		days = append(days, day)
	}
	return days
}

// roomsAnswer compares one room for all dates with a room for each (DESIGN.md,
// rule 5).
func (l *dateLooker) roomsAnswer(dates []meeting.Date) *RoomsAnswer {
	var spans []when.Span
	for _, d := range dates {
		spans = append(spans, d.Span)
	}
	one, each := fits.RoomsOver(spans, l.taken)
	if one == nil {
		return nil
	}
	out := &RoomsAnswer{Dates: len(dates), EachWithout: each.Without()}
	for _, d := range dates {
		if d.Room != nil && l.booked[d.Room.ID].Overlaps(d.Span) {
			out.Taken++
		}
	}
	most := map[int]int{}
	for i := range dates {
		if one[i] != fits.NoRoom {
			out.One, out.OneClear = &l.rooms[one[i]], out.OneClear+1
		}
		if r := each[i]; r != fits.NoRoom {
			if most[r]++; most[r] == 1 {
				out.Each = append(out.Each, l.rooms[r])
			}
		}
	}
	if len(out.Each) == 0 {
		return out
	}
	main := -1
	for r := range l.rooms {
		if most[r] > 0 && (main < 0 || most[r] > most[main]) {
			main = r
		}
	}
	out.EachMost = l.rooms[main].ID
	for i, d := range dates {
		x := l.says(d.On)
		x.RoomID, x.NoRoom = "", false
		if r := each[i]; r != main && r != fits.NoRoom {
			x.RoomID = l.rooms[r].ID.String()
		}
		if x != l.bare(d.On) {
			out.EachDates = append(out.EachDates, x)
		}
	}
	return out
}

// CountryNames are countries as people call them.
func CountryNames(codes []string) (names []string) {
	for _, code := range codes {
		if c, ok := holidays.Find(code); ok {
			names = append(names, c.Name)
		}
	}
	return names
}
