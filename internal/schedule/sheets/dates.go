package sheets

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	core "jembro/internal/core/availability"
	"jembro/internal/core/holidays"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/kernel"
)

// datesTx is what is needed here of a transaction.
type datesTx interface {
	availability.LanesTx
	readTx
	settleTx
	Bookings(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) ([]schedule.Booking, error)
	Requests(ctx context.Context, meetingID uuid.UUID) ([]schedule.RoomRequest, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) (map[string]when.Spans, error)
}

func (s *Deeds) datesStore() schedule.Store[datesTx] {
	return schedule.Narrow(s.Store, func(tx Tx) datesTx { return tx })
}

// DatesQuestion asks how the dates of a sheet stand; Equipment and SiteID are
// what its rooms must have.
type DatesQuestion struct {
	SheetID   uuid.UUID
	Equipment []string
	SiteID    uuid.UUID
}

// Repair is one way to mend a date: what the sheet would say of it.
type Repair struct {
	Kind  core.RepairKind
	Words string
	Date  meeting.DraftDate // nothing but On: as the rule has it
}

// SheetDate is one date on a sheet.
type SheetDate struct {
	meeting.Shown
	State   core.State
	Words   string   // in a few: "fits", "Map Room taken", "Tomé Akande on leave"
	Notes   []string // more of it
	Marks   []string // what clocks show elsewhere, where that is not what they show on the first
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
	Words     string // "every 2nd Thursday until 25 February"
	RuleWords string // "every 2nd Thursday", as a field takes it
	RuleSaid  string // the same in the language of its reader
	Rule      string // the rule as RRULE has it
	Count     int    // of dates, 0 for a series without an end
	Open      bool
	More      bool // there are more than are shown
	Dates     []SheetDate
	OnAll     []string // what holds on every date: "S. Onari outside hours"
	Skipped   []series.LeftOut
	Rooms     *RoomsAnswer
	// Countries are those whose holidays count.
	Countries []string
	// Splits tells that the old series ends and a new one begins.
	Splits bool
	Lost   []series.Lost
}

const (
	// mostShown is how many dates a sheet shows.
	mostShown = 120
	// mostMoved is for how many dates in trouble another time is looked for, and
	// moveRooms in how many rooms.
	mostMoved, moveRooms = 30, 6
)

// SheetDates says how every date of a sheet stands for people and rooms, and how
// to mend those that do not fit. It has no dates while the time or the rule is
// not settled.
func (s *Deeds) SheetDates(ctx context.Context, who schedule.Actor, q DatesQuestion) (out Dates, err error) {
	err = s.datesStore().Look(ctx, func(tx datesTx) error {
		sheet, of, err := SheetAndMeeting(ctx, tx, who, q.SheetID)
		if err != nil || sheet.Draft.Repeat == nil && (of == nil || !of.Content.Repeats()) {
			return err
		}
		st, blocked, err := s.settleDates(ctx, tx, sheet, of)
		if err != nil {
			return err
		}
		m := st.Settled()
		if blocked != nil || m.Series == nil {
			return nil
		}
		l := &dateLooker{tx: tx, who: who, q: q, sheet: sheet, st: st, m: m, now: when.At(s.Now())}
		out, err = l.look(ctx)
		return err
	})
	return out, err
}

// settleDates turns a sheet into the meeting it would be as far as its dates go: other
// faults than the first that leaves no dates to look at are passed over.
func (s *Deeds) settleDates(ctx context.Context, tx settleTx, sheet schedule.Sheet, before *schedule.Record) (st kernel.Settled, blocked *meeting.Fault, err error) {
	st, err = s.settle(ctx, tx, sheet, before)
	var invalid *schedule.InvalidError
	if !errors.As(err, &invalid) {
		return st, nil, err
	}
	if at := slices.IndexFunc(invalid.Faults, blocksDates); at >= 0 {
		blocked = &invalid.Faults[at]
	}
	return st, blocked, nil
}

// blocksDates tells whether a fault leaves no dates to look at.
func blocksDates(f meeting.Fault) bool {
	return slices.Contains([]string{"start", "end", "zone", "scope"}, f.Field) || strings.HasPrefix(f.Field, "repeat.") || strings.HasPrefix(f.Field, "dates.")
}

// dateLooker looks at the dates of one sheet: it reads what the core has to know,
// and puts its answers into the words and the terms of the sheet.
type dateLooker struct {
	tx    datesTx
	who   schedule.Actor
	q     DatesQuestion
	sheet schedule.Sheet
	st    kernel.Settled
	m     meeting.Meeting // the series that the sheet settles
	now   when.Instant

	shown    []meeting.Shown
	lanes    []availability.Lane
	rooms    []schedule.Room // that would do, as in series
	bookings map[uuid.UUID][]schedule.Booking
	series   core.Series
}

func (l *dateLooker) before() *meeting.Meeting {
	if l.st.Before == nil {
		return nil
	}
	return &l.st.Before.Content
}

func (l *dateLooker) look(ctx context.Context) (Dates, error) {
	plan := l.m.Plan()
	out := Dates{Rule: l.m.Series.Asked.Rule, Open: plan.Open(), Skipped: l.m.Series.Skipped, Splits: l.st.Next != nil, Words: words.Series(schedule.Tongue(ctx), plan), RuleWords: plan.Rule.Words(plan.Start.Day), RuleSaid: words.Rule(schedule.Tongue(ctx), plan)}
	var others []meeting.Shown
	l.shown, others, out.More = l.st.Dates(l.before(), l.now, mostShown)
	if !out.Open {
		last, _ := plan.Last()
		out.Count = len(plan.Upto(last))
	}
	if err := l.load(ctx); err != nil {
		return out, err
	}
	issues := make([][]core.Issue, len(l.shown))
	for i, slot := range l.series.Slots {
		issues[i] = l.series.Issues(slot)
	}
	onAll := core.OnAll(issues, func(at int) bool { return !l.shown[at].Moved })
	for _, x := range onAll {
		out.OnAll = append(out.OnAll, words.Issue(schedule.Tongue(ctx), x, l.series.People, "", ""))
	}
	if !l.sheet.Draft.NoRoom {
		out.Rooms = l.compareRooms()
	}
	if err := l.loadTakers(ctx, issues); err != nil {
		return out, err
	}
	moving := l.toMove(issues)
	if err := l.loadAround(ctx, moving); err != nil {
		return out, err
	}
	for i := range l.shown {
		own := slices.DeleteFunc(issues[i], func(x core.Issue) bool { return slices.Contains(onAll, x) })
		out.Dates = append(out.Dates, l.date(schedule.Tongue(ctx), i, own, slices.Contains(moving, i)))
	}
	for _, x := range others {
		out.Dates = append(out.Dates, l.other(schedule.Tongue(ctx), x))
	}
	slices.SortStableFunc(out.Dates, func(a, b SheetDate) int { return int(a.Span.Start - b.Span.Start) })
	out.Countries = l.st.Countries
	out.Lost = l.lost()
	return out, nil
}

// load reads everybody's time and the rooms on the dates, all at once.
func (l *dateLooker) load(ctx context.Context) (err error) {
	if len(l.shown) == 0 {
		return nil
	}
	spans := make([]when.Span, len(l.shown))
	for i, d := range l.shown {
		spans[i] = d.Span
	}
	if l.lanes, err = availability.Lanes(ctx, l.tx, l.st.Organiser, l.sheet.Draft.People); err != nil {
		return err
	}
	if err = l.findRooms(ctx); err != nil {
		return err
	}
	l.series = core.Series{Zone: l.m.StartIn().Zone, Now: l.now, Holiday: func(day when.Day) string { return holidays.In(l.st.Countries, day) }}
	for _, d := range l.shown {
		slot := core.Slot{Span: d.Span, Day: d.Start.Day}
		if d.Room != nil {
			slot.Room = d.Room.ID
		}
		for at, lane := range l.lanes {
			if p, is := participantBy(l.m, lane.Email); lane.You || !is || p.On(d.On) {
				slot.People = append(slot.People, at)
			}
		}
		l.series.Slots = append(l.series.Slots, slot)
	}
	for _, r := range l.rooms {
		l.series.Rooms = append(l.series.Rooms, rooms.Room{ID: r.ID.String()})
	}
	if err := l.fill(ctx, when.Union(spans...), nil); err != nil {
		return err
	}
	return l.shut(ctx)
}

// shut adds the dates for which rooms are not to be had though they are clear: too long
// for their rules, or refused by their keepers.
func (l *dateLooker) shut(ctx context.Context) error {
	var requests []schedule.RoomRequest
	if l.st.Before != nil {
		var err error
		if requests, err = l.tx.Requests(ctx, l.st.Before.ID); err != nil {
			return err
		}
	}
	for at, room := range l.rooms {
		var shut []when.Span
		for i, slot := range l.series.Slots {
			o := schedule.Occurrence{On: l.shown[i].On, Span: slot.Span, RoomID: room.ID}
			if room.Rules.TooLong(slot.Span.Length()) || schedule.RefusedDate(requests, o) {
				shut = append(shut, slot.Span)
			}
		}
		if r := &l.series.Rooms[at]; len(shut) > 0 {
			r.Busy = r.Busy.Union(when.Union(shut...))
		}
	}
	return nil
}

// fill adds what people, and the rooms at some places or all, are taken by in some
// windows.
func (l *dateLooker) fill(ctx context.Context, windows when.Spans, places []int) error {
	if err := availability.FillLanes(ctx, l.tx, l.lanes, windows, l.view()); err != nil {
		return err
	}
	l.series.People = availability.People(l.lanes)
	if len(l.rooms) == 0 {
		return nil
	}
	var ids []uuid.UUID
	for _, at := range places {
		ids = append(ids, l.rooms[at].ID)
	}
	taken, err := l.tx.Taken(ctx, ids, schedule.Wide(windows, l.rooms), l.view())
	taken = schedule.Unclear(l.rooms, taken, windows, l.st.Organiser, 0, l.now)
	for at := range l.series.Rooms {
		r := &l.series.Rooms[at]
		if more, is := taken[r.ID]; is {
			r.Busy = r.Busy.Union(more)
		}
	}
	return err
}

// view leaves out the meeting's own time, and what its owner holds.
func (l *dateLooker) view() schedule.View {
	v := schedule.View{For: l.who.For, Now: l.now.Time()}
	if l.st.Before != nil {
		v.But = l.st.Before.ID
	}
	return v
}

// loadTakers reads who has the rooms of the dates that are taken.
func (l *dateLooker) loadTakers(ctx context.Context, issues [][]core.Issue) error {
	var taken []uuid.UUID
	var spans []when.Span
	for i, slot := range l.series.Slots {
		if core.StateOf(issues[i]) != core.StateNoRoom {
			continue
		}
		id, err := uuid.Parse(slot.Room)
		if err != nil {
			return err
		}
		if !slices.Contains(taken, id) {
			taken = append(taken, id)
		}
		spans = append(spans, slot.Span)
	}
	l.bookings = map[uuid.UUID][]schedule.Booking{}
	if len(taken) == 0 {
		return nil
	}
	bookings, err := l.tx.Bookings(ctx, taken, schedule.Wide(when.Union(spans...), l.rooms), l.view())
	for _, b := range bookings {
		l.bookings[b.RoomID] = append(l.bookings[b.RoomID], b)
	}
	return err
}

func (l *dateLooker) findRooms(ctx context.Context) error {
	all, err := l.tx.Rooms(ctx, schedule.EveryRoom)
	if err != nil {
		return err
	}
	wish := rooms.Wish{Seats: len(l.lanes), Equipment: l.q.Equipment, Meant: l.sheet.Draft.RoomID}
	if l.q.SiteID != uuid.Nil {
		wish.SiteID = l.q.SiteID.String()
	}
	for _, at := range wish.Order(schedule.FactsFor(all, l.st.Organiser, 0)) {
		l.rooms = append(l.rooms, all[at])
	}
	// Rooms of single dates count too, whether they would do for all or not.
	for _, d := range l.shown {
		if d.Room == nil || slices.ContainsFunc(l.rooms, func(r schedule.Room) bool { return r.ID.String() == d.Room.ID }) {
			continue
		}
		if at := slices.IndexFunc(all, func(r schedule.Room) bool { return r.ID.String() == d.Room.ID }); at >= 0 {
			l.rooms = append(l.rooms, all[at])
		}
	}
	return nil
}

// toMove are the dates for which another time is looked for.
func (l *dateLooker) toMove(issues [][]core.Issue) (at []int) {
	if l.m.AllDay { // other days are chosen by hand
		return nil
	}
	for i := range issues {
		if len(at) < mostMoved && core.Troubled(issues[i]) {
			at = append(at, i)
		}
	}
	return at
}

// loadAround reads everybody's time around dates that are to be moved, and that of
// their rooms and the best others.
func (l *dateLooker) loadAround(ctx context.Context, moving []int) error {
	if len(moving) == 0 {
		return nil
	}
	var around []when.Span
	for at := range min(len(l.rooms), moveRooms) {
		l.series.Around = append(l.series.Around, at)
	}
	for _, i := range moving {
		slot := l.series.Slots[i]
		around = append(around, when.Span{Start: slot.Span.Start.Add(-core.Reach), End: slot.Span.End.Add(core.Reach)})
		at := slices.IndexFunc(l.series.Rooms, func(r rooms.Room) bool { return r.ID == slot.Room })
		if at >= 0 && !slices.Contains(l.series.Around, at) {
			l.series.Around = append(l.series.Around, at)
		}
	}
	return l.fill(ctx, when.Union(around...), l.series.Around)
}

func participantBy(m meeting.Meeting, email string) (meeting.Participant, bool) {
	for _, p := range m.Participants {
		if strings.EqualFold(p.Email, email) {
			return p, true
		}
	}
	return meeting.Participant{}, false
}

// date says how one date stands.
func (l *dateLooker) date(in tongue.Tongue, at int, issues []core.Issue, move bool) SheetDate {
	d, slot := l.shown[at], l.series.Slots[at]
	out := SheetDate{Shown: d, State: core.StateOf(issues), Words: in.Say("fits")}
	for i, x := range issues {
		say := words.Issue(in, x, l.series.People, roomName(d.Room), l.by(slot))
		if x.Code == core.RoomTaken {
			say = cmp.Or(l.refusal(in, slot), say)
		}
		if i == 0 {
			out.Words = say
			continue
		}
		out.Notes = append(out.Notes, say)
	}
	if d.Moved {
		out.Notes = append(out.Notes, words.Moved(in, l.m.Plan().Regular(d.On).Start, d.Start, d.End))
	}
	if d.Room != nil && l.m.Room != nil && d.Room.ID != l.m.Room.ID {
		out.Notes = append(out.Notes, in.Say("in %s", d.Room.Name))
	}
	if d.Room == nil && l.m.Room != nil {
		out.Notes = append(out.Notes, in.Say("without a room"))
	}
	out.Marks = l.clocks(in, d)
	said := l.says(d.On)
	for _, r := range l.series.Repairs(slot, issues, said != l.bare(d.On), move) {
		out.Repairs = append(out.Repairs, l.repair(in, r, d, said))
	}
	return out
}

// other is a date that the sheet does not settle.
func (l *dateLooker) other(in tongue.Tongue, d meeting.Shown) SheetDate {
	out := SheetDate{Shown: d}
	switch d.Kind {
	case meeting.ShownHeld:
		out.State, out.Words = core.StateHeld, in.Say("held")
	case meeting.ShownStays:
		out.State, out.Words = core.StateFits, in.Say("stays")
	case meeting.ShownOff:
		out.State, out.Words = core.StateOut, in.Say("called off")
	default:
		out.State, out.Words = core.StateOut, in.Say("left out")
	}
	if out.State == core.StateOut && d.InScope && d.Span.Start > l.now {
		out.Repairs = []Repair{{core.RepairRegular, in.Say("take it back in"), l.bare(d.On)}}
	}
	return out
}

func roomName(r *meeting.Room) string {
	if r == nil {
		return ""
	}
	return r.Name
}

// by is who has the room of a date, "" when that is private.
func (l *dateLooker) by(slot core.Slot) string {
	id, err := uuid.Parse(slot.Room)
	if err != nil {
		return ""
	}
	for _, b := range l.bookings[id] {
		if b.Span.Overlaps(slot.Span) && !b.Private {
			return b.By
		}
	}
	return ""
}

// refusal is what the rules of the room of a date have against it, "" where nothing.
func (l *dateLooker) refusal(in tongue.Tongue, slot core.Slot) string {
	at := slices.IndexFunc(l.rooms, func(r schedule.Room) bool { return r.ID.String() == slot.Room })
	if at < 0 {
		return ""
	}
	room := l.rooms[at]
	d := room.Place().Decide([]when.Span{slot.Span}, 1, 1, room.Asker(l.st.Organiser), l.now)
	if d.Verdict != rooms.Refused {
		return ""
	}
	return strings.TrimSuffix(words.RoomReasons(in, room.Name, room.Site, d.Reasons), ".")
}

// clocks says where clocks show another time on this date than on the first: a
// zone changed its clocks in between, and another did not.
func (l *dateLooker) clocks(in tongue.Tongue, d meeting.Shown) (notes []string) {
	first, ok := l.m.Plan().First()
	if l.m.AllDay || !ok || d.Moved {
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
			notes = append(notes, words.ClockElsewhere(in, now, then, lane.Zone))
		}
	}
	return notes
}

// repair is what the sheet would say of a date after a repair.
func (l *dateLooker) repair(in tongue.Tongue, r core.Repair, d meeting.Shown, own meeting.DraftDate) Repair {
	room := ""
	if r.Room != rooms.NoRoom {
		room = l.rooms[r.Room].Name
		own.RoomID, own.NoRoom = l.rooms[r.Room].ID.String(), false
	}
	out := Repair{Kind: r.Kind, Words: words.Repair(in, r.Kind, room)}
	switch r.Kind {
	case core.RepairMove:
		zone := l.series.Zone
		start, end := zone.LocalAt(r.Span.Start), zone.LocalAt(r.Span.End)
		own.Start, own.End = start.String(), end.String()
		out.Words = words.Move(in, d.Start, start, room)
	case core.RepairOut:
		own = l.bare(d.On)
		own.Out = true
	case core.RepairNoRoom:
		own.RoomID, own.NoRoom = "", true
	case core.RepairRegular:
		own = l.bare(d.On)
	}
	out.Date = own
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

// bare is nothing said of a date.
func (l *dateLooker) bare(on when.Day) meeting.DraftDate {
	return meeting.DraftDate{On: l.st.Key(on).String()}
}

// compareRooms compares one room for all dates with a room for each (DESIGN.md,
// rule 5).
func (l *dateLooker) compareRooms() *RoomsAnswer {
	spans, meant := make([]when.Span, len(l.series.Slots)), make([]string, len(l.series.Slots))
	for i, slot := range l.series.Slots {
		spans[i], meant[i] = slot.Span, slot.Room
	}
	c := rooms.Compare(spans, meant, l.series.Rooms)
	if c == nil {
		return nil
	}
	out := &RoomsAnswer{Dates: len(spans), Taken: c.Taken, OneClear: c.OneClear, EachWithout: c.Each.Without()}
	if c.One != rooms.NoRoom {
		out.One = &l.rooms[c.One]
	}
	for _, r := range c.Used {
		out.Each = append(out.Each, l.rooms[r])
	}
	if c.Most == rooms.NoRoom {
		return out
	}
	out.EachMost = l.rooms[c.Most].ID
	for i, d := range l.shown {
		x := l.says(d.On)
		x.RoomID, x.NoRoom = "", false
		if r := c.Each[i]; r != c.Most && r != rooms.NoRoom {
			x.RoomID = l.rooms[r].ID.String()
		}
		if x != l.bare(d.On) {
			out.EachDates = append(out.EachDates, x)
		}
	}
	return out
}

// lost is what the sheet says of days on which there is no date.
func (l *dateLooker) lost() (out []series.Lost) {
	for _, d := range l.sheet.Draft.Dates {
		on, err := when.ParseDay(d.On)
		if err == nil && !d.Out && (d.Start != "" || d.RoomID != "" || d.NoRoom) &&
			!l.m.Plan().InRule(on+when.Day(l.st.Shifted)) && on >= l.st.Key(l.m.Start.Day) {
			out = append(out, series.Lost{On: on, Why: say.It("series.noDate")})
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
