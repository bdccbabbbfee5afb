package meeting

import (
	"slices"

	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// Outcome is what a sheet comes to. Next is the series that begins where Meeting
// ends now, when the change makes two of one (DESIGN.md, rule 6).
type Outcome struct {
	Meeting Meeting
	Next    *Meeting
	// Scope is which dates of the series the change was for, zero for a new
	// meeting and one that did not repeat.
	Scope series.Range
	// Shifted is by how many days the dates of the rule lie later than those that
	// the sheet speaks of, because the series followed its first date.
	Shifted int
}

// reach is the scope of a change to a series in its own terms: the date that the
// sheet shows, and the dates it is for.
type reach struct {
	series.Range
	at    Date
	moved bool // the sheet has another time than the date had
	days  int  // by which it lies later
}

// Change settles a sheet and does what it says to the meeting that it was made
// for: to all of it, to a series from one date on, or to single dates. Without a
// meeting before it is Settle. The IDs of participants follow from identify, by
// address.
func (d Draft) Change(s Surroundings, identify func(*Participant)) (Outcome, []Fault) {
	d = d.wholeDays()
	if before := s.Before; before != nil && before.Repeats() && d.Scope != nil && d.Scope.To != "" && d.AllDay != before.AllDay {
		return Outcome{Meeting: *before}, []Fault{{Field: "scope", What: say.It("meeting.scope.wholeDays")}}
	}
	out, faults := d.change(s, identify)
	out.Meeting = markOff(s.Before, markSingle(s.Before, out.Meeting))
	if out.Next != nil {
		next := markOff(s.Before, markSingle(nil, *out.Next))
		out.Next = &next
	}
	return out, faults
}

func (d Draft) change(s Surroundings, identify func(*Participant)) (Outcome, []Fault) {
	settle := func(d Draft) (Meeting, []Fault) {
		m, faults := d.Settle(s)
		for i := range m.Participants {
			identify(&m.Participants[i])
		}
		return m, faults
	}
	before := s.Before
	if before == nil || !before.Repeats() || d.Scope == nil {
		m, faults := settle(d)
		if before != nil {
			m.UID, m.Sequence, m.RelatedTo = before.UID, before.Sequence, before.RelatedTo
		}
		return Outcome{Meeting: m}, faults
	}
	r, faults := d.reach(*before, s.Now)
	if len(faults) > 0 {
		m, more := settle(d)
		return Outcome{Meeting: m}, append(more, faults...)
	}
	if r.To != 0 {
		if fault := d.keepsRule(*before); fault != nil {
			faults = append(faults, *fault)
		}
		single := d
		single.Repeat, single.Dates = nil, nil
		want, more := settle(single)
		if faults = append(faults, more...); len(faults) > 0 {
			return Outcome{Meeting: want}, faults
		}
		return d.changeDates(*before, want, r, s)
	}
	tail, ok := before.Plan().From(r.From)
	if !ok {
		return Outcome{}, []Fault{{Field: "scope", What: say.It("meeting.scope.noDate")}}
	}
	start := when.Local{Day: tail.Start.Day + when.Day(r.days), Clock: tail.Start.Clock}
	length := tail.End.Sub(tail.Start)
	whole := d
	if r.moved {
		from, to := mustLocal(d.Start), mustLocal(d.End)
		start.Clock, length = from.Clock, to.Sub(from)
		whole.Dates = before.inLine(d.Dates, r.at.On)
	}
	whole.Start, whole.End = start.String(), start.Add(length).String()
	// What the sheet shows of the date it was opened at, and was not changed, is
	// not for the others.
	if whole.Title == r.at.Title {
		whole.Title = before.Title
	}
	if whole.Text == r.at.Text {
		whole.Text = before.Text
	}
	if fault := whole.follow(*before, r, tail.Start.Day, start.Day); fault != nil {
		return Outcome{}, []Fault{*fault}
	}
	want, faults := settle(whole)
	if len(faults) > 0 {
		return Outcome{Meeting: want}, faults
	}
	if first, ok := want.Plan().First(); ok && first.Span.Start <= s.Now {
		return Outcome{Meeting: want}, []Fault{{Field: "start", What: say.It("meeting.time.passed")}}
	}
	out := changeTail(*before, keepWords(*before, want, r), tail, r, s.Now)
	if out.Next != nil && slices.Contains(tail.ExDates, tail.Start.Day) {
		return out, []Fault{{Field: "scope", What: say.It("meeting.scope.addedByHand", r.From)}}
	}
	if whole.Repeat != d.Repeat {
		out.Shifted = r.days
	}
	return out, nil
}

// inLine is what single dates have of their own when the one that a sheet was opened at is to come
// at the time of the sheet: not any more at one of its own that it had before.
func (m Meeting) inLine(dates []DraftDate, on when.Day) []DraftDate {
	dates = slices.Clone(dates)
	for i, x := range dates {
		if x.On == on.String() && m.says(x) {
			dates[i].Start, dates[i].End = "", ""
		}
	}
	return dates
}

// follow takes the rule, its end and what single dates have along when a series
// moves by days and the rule was not chosen anew.
func (d *Draft) follow(before Meeting, r reach, from, to when.Day) *Fault {
	if r.days == 0 || d.Repeat == nil || d.Repeat.Rule != before.Series.Asked.Rule {
		return nil
	}
	rule, err := recur.ParseRule(d.Repeat.Rule)
	if err == nil {
		rule, err = rule.Follow(from, to)
	}
	if err != nil {
		return &Fault{Field: "repeat.rule", What: what(err)}
	}
	repeat := *d.Repeat
	repeat.Rule = rule.String()
	if until, err := when.ParseDay(repeat.Until); err == nil && repeat.Until == before.asked().Until {
		repeat.Until = (until + when.Day(r.days)).String()
	}
	d.Repeat, d.Dates = &repeat, moveDates(d.Dates, r.days)
	return nil
}

// moveDates is what single dates have of their own when the days of the rule lie
// later.
func moveDates(dates []DraftDate, days int) []DraftDate {
	out := slices.Clone(dates)
	for i, x := range out {
		if on, err := when.ParseDay(x.On); err == nil {
			out[i].On = (on + when.Day(days)).String()
		}
	}
	return out
}

// Followed is a sheet of a new series after its first day moved: the rule moves
// along, and what single dates have of their own, unless the rule was changed at
// the same time. was is the sheet as it was kept before. A rule that does not move
// by days stays. Changes to a series that was sent are followed when they are
// settled.
func (d Draft) Followed(was Draft) Draft {
	from, errFrom := when.ParseLocal(was.Start)
	to, errTo := when.ParseLocal(d.Start)
	if errFrom != nil || errTo != nil || from.Day == to.Day || d.Scope != nil || d.Repeat == nil || was.Repeat == nil || d.Repeat.Rule != was.Repeat.Rule {
		return d
	}
	rule, err := recur.ParseRule(d.Repeat.Rule)
	if err != nil {
		return d
	}
	if rule, err = rule.Follow(from.Day, to.Day); err != nil {
		return d
	}
	repeat := *d.Repeat
	repeat.Rule = rule.String()
	d.Repeat, d.Dates = &repeat, moveDates(d.Dates, int(to.Day-from.Day))
	return d
}

// keepWords gives dates that stay the title and text of their own that they had.
func keepWords(before, want Meeting, r reach) Meeting {
	if !want.Repeats() {
		return want
	}
	for _, was := range before.Series.Overrides {
		on := was.On + when.Day(r.days)
		if was.On < r.From || !want.Plan().Has(on) {
			continue
		}
		own, _ := want.own(on)
		own.Title, own.Text = was.Title, was.Text
		want = want.setOwn(own)
	}
	return want
}

// mustLocal reads a time that has been read before.
func mustLocal(text string) when.Local {
	l, _ := when.ParseLocal(text)
	return l
}

// reach reads the scope of a change.
func (d Draft) reach(before Meeting, now when.Instant) (r reach, faults []Fault) {
	fault := func(what say.What) (reach, []Fault) { return r, []Fault{{Field: "scope", What: what}} }
	at, err := when.ParseDay(d.Scope.At)
	if err != nil {
		return fault(say.It("meeting.scope.unclear"))
	}
	var ok bool
	if r.at, ok = before.Date(at); !ok {
		return fault(say.It("meeting.scope.noDateOn", at))
	}
	if r.From, err = when.ParseDay(d.Scope.From); err == nil && d.Scope.To != "" {
		r.To, err = when.ParseDay(d.Scope.To)
	}
	if err != nil || r.From > r.End() {
		return fault(say.It("meeting.scope.unclear"))
	}
	begun, any := before.Begun(r.Range, now)
	if begun != 0 {
		return fault(say.It("meeting.scope.begun", begun))
	}
	if !any {
		return fault(say.It("meeting.scope.noDate"))
	}
	start, startErr := when.ParseLocal(d.Start)
	end, endErr := when.ParseLocal(d.End)
	elsewhere := r.To != 0 && d.Zone != before.Zone // the same time there is another one here
	if startErr == nil && endErr == nil && (start != r.at.Start || end != r.at.End || elsewhere) {
		r.moved, r.days = true, int(start.Day-at)
	}
	return r, nil
}

// Begun is the first date of a scope that has begun, 0 for none; any tells
// whether there is a date in it at all.
func (m Meeting) Begun(scope series.Range, now when.Instant) (on when.Day, any bool) {
	// A date may have been moved to before others: every one that was is looked at.
	last := m.StartIn().Zone.LocalAt(now).Day + 1
	for _, x := range m.Series.Moved {
		last = max(last, x.On)
	}
	for date := range m.Dates(scope.From) {
		if date.On > scope.End() || any && date.On > last {
			break
		}
		any = true
		if date.Span.Start <= now {
			return date.On, true
		}
	}
	return 0, any
}

// keepsRule refuses another rule for some dates only.
func (d Draft) keepsRule(before Meeting) *Fault {
	if d.Repeat != nil && sameAsked(*d.Repeat, before.asked()) {
		return nil
	}
	return &Fault{Field: "scope", What: say.It("meeting.scope.rule")}
}

// asked is how a series would be asked for now: a number of dates was counted
// from its first one, so that its end is a day by now; and days that were added to it may
// have been called off with what came after, or belong to the series that goes on from it.
func (m Meeting) asked() DraftRepeat {
	asked, plan := m.Series.Asked, m.Plan()
	asked.Added = slices.DeleteFunc(slices.Clone(asked.Added), func(text string) bool {
		day, err := when.ParseDay(text)
		return err != nil || !plan.InRule(day)
	})
	if end, ends := m.Plan().EndDay(); ends && asked.Ends == "after" {
		asked.Ends, asked.Until, asked.Count = "on", end.String(), 0
	}
	return asked
}

func sameAsked(a, b DraftRepeat) bool {
	return a.Rule == b.Rule && a.Ends == b.Ends && a.Until == b.Until && a.Count == b.Count && a.Weekends == b.Weekends &&
		a.Holidays == b.Holidays && slices.Equal(a.Days, b.Days) && slices.Equal(a.Added, b.Added)
}

// changeDates changes some dates of a series; the rest stays as it is.
func (d Draft) changeDates(before, want Meeting, r reach, s Surroundings) (Outcome, []Fault) {
	if !before.Card.Same(want.Card) {
		return Outcome{Meeting: want}, []Fault{{Field: "scope", What: say.It("meeting.scope.call")}}
	}
	after := before
	after.Private, after.Free, after.Apart, after.RemindBefore, after.Card, after.Organiser, after.Files, after.Bring, after.Move, after.Further = want.Private, want.Free, want.Apart, want.RemindBefore, want.Card, want.Organiser, want.Files, want.Bring, want.Move, want.Further
	plan := before.Plan()
	here := func(l when.Local) when.Local { // times are typed in the zone of the sheet
		if want.Zone == before.Zone {
			return l
		}
		return before.zone().LocalAt(when.Zoned{Local: l, Zone: want.zone()}.Instant())
	}
	for _, date := range before.datesIn(r.Range) {
		if r.moved {
			start := when.Local{Day: date.Start.Day + want.Start.Day - r.at.Start.Day, Clock: want.Start.Clock}
			plan = plan.Put(date.On, here(start), here(start.Add(want.End.Sub(want.Start))))
		}
	}
	after = before.restored(after.put(plan), d, r.Range)
	inScope := d
	inScope.Dates = slices.DeleteFunc(slices.Clone(d.Dates), func(x DraftDate) bool {
		on, err := when.ParseDay(x.On)
		return err == nil && (!r.Holds(on) || before.says(x))
	})
	faults := inScope.settleDates(&after, s)
	faults = append(faults, inScope.checkDates(after)...)
	// What was changed on the sheet itself is for all dates of the scope, and stands
	// above what it says of single ones.
	for _, date := range after.datesIn(r.Range) {
		own, _ := after.own(date.On)
		if want.Title != r.at.Title {
			own.Title = differs(want.Title, before.Title)
		}
		if want.Text != r.at.Text {
			own.Text = differs(want.Text, before.Text)
		}
		if roomOf(want.Room) != roomOf(before.Room) {
			own.Room, own.NoRoom = want.Room, want.Room == nil
		}
		after = after.setOwn(own)
	}
	for _, date := range after.datesIn(r.Range) {
		if date.Span.Start <= s.Now && len(faults) == 0 {
			faults = append(faults, Fault{Field: "start", What: say.It("meeting.time.passed")})
		}
	}
	after.Participants = cutPeople(after, mergePeople(before, want.Participants, r.Range))
	return Outcome{Meeting: after, Scope: r.Range}, faults
}

// restored takes back what dates of a scope had of their own and the sheet does
// not say any more.
func (m Meeting) restored(after Meeting, d Draft, scope series.Range) Meeting {
	for _, was := range m.draftDates(scope) {
		if slices.ContainsFunc(d.Dates, func(x DraftDate) bool { return x.On == was.On }) {
			continue
		}
		on, _ := when.ParseDay(was.On)
		plan := after.Plan()
		switch {
		case was.Out:
			after = after.put(plan.With(on))
		case was.Start != "":
			if date, _ := plan.Date(on); date.Start.String() == was.Start {
				regular := plan.Regular(on)
				after = after.put(plan.Put(on, regular.Start, regular.End))
			}
		}
		own, _ := after.own(on)
		own.Room, own.NoRoom = nil, false
		after = after.setOwn(own)
	}
	return after
}

func differs(want, all string) *string {
	if want == all {
		return nil
	}
	return &want
}

// says tells whether a sheet says of a date what it is already.
func (m Meeting) says(x DraftDate) bool {
	on, err := when.ParseDay(x.On)
	return err == nil && slices.Contains(m.draftDates(series.Range{From: on, To: on}), x)
}

// datesIn are the dates of a scope with an end.
func (m Meeting) datesIn(scope series.Range) (out []Date) {
	for d := range m.Dates(scope.From) {
		if d.On > scope.End() {
			break
		}
		out = append(out, d)
	}
	return out
}

// changeTail changes a series from one date on. What leaves its times, words and
// room as they are, or concerns all its dates, is a change to the series; what
// does not ends the old series and begins a new one. The series keeps its start while its
// times stay, though the date there was called off.
func changeTail(before, want Meeting, tail series.Plan, r reach, now when.Instant) Outcome {
	head, split := before.Plan().Before(r.From)
	out := Outcome{Scope: r.Range}
	// Another call from a later date on is for those dates alone; the one of dates that are
	// over does not matter.
	sameCall := before.Card.Same(want.Card) || before.Next(now) >= r.From
	switch {
	case want.Repeats() && inStep(before, want, tail) && (!split || sameCall && sameHeld(before, want)):
		out.Meeting = graft(before, want, r.From)
		out.Meeting.Participants = cutPeople(out.Meeting, mergePeople(before, want.Participants, r.Range))
	case !split:
		want.UID, want.Sequence, want.RelatedTo = before.UID, before.Sequence, before.RelatedTo
		want.Participants = cutPeople(want, want.Participants)
		out.Meeting = want
	default:
		out.Meeting = before.put(head)
		out.Meeting = out.Meeting.endsWith(head)
		out.Meeting.Participants = cutPeople(out.Meeting, before.Participants)
		next := want
		next.RelatedTo, next.Participants = before.UID, cutPeople(want, want.Participants)
		out.Next = &next
	}
	return out
}

// sameHeld tells whether a series is called and held as it was.
func sameHeld(before, want Meeting) bool {
	return want.Title == before.Title && want.Text == before.Text && roomOf(want.Room) == roomOf(before.Room)
}

// inStep tells whether the dates that a series has from some date on stay when they are, but for
// exceptions and the end.
func inStep(before, want Meeting, tail series.Plan) bool {
	plan := want.Plan()
	return want.Zone == before.Zone && want.AllDay == before.AllDay &&
		plan.Start.Clock == tail.Start.Clock && plan.End.Sub(plan.Start) == tail.End.Sub(tail.Start) &&
		endless(plan.Rule) == endless(tail.Rule) && tail.InRule(plan.Start.Day)
}

// graft puts what a series is to be from a day on onto what it was before.
func graft(before, want Meeting, from when.Day) Meeting {
	after := want
	after.UID, after.Sequence, after.RelatedTo = before.UID, before.Sequence, before.RelatedTo
	after.Start, after.End = before.Start, before.End
	rep := *want.Series
	was := before.Series
	day := func(d when.Day) when.Day { return d }
	rep.RDates = joinAt(from, was.RDates, rep.RDates, day)
	rep.ExDates = joinAt(from, was.ExDates, rep.ExDates, day)
	rep.Dropped = joinAt(from, was.Dropped, rep.Dropped, day)
	rep.Moved = joinAt(from, was.Moved, rep.Moved, func(m series.Moved) when.Day { return m.On })
	rep.Overrides = joinAt(from, was.Overrides, rep.Overrides, func(o Override) when.Day { return o.On })
	// What the new part leaves out before its first date is left out of the whole.
	for _, skipped := range rep.Skipped {
		if skipped.On >= from && skipped.On < want.Start.Day && !slices.Contains(rep.ExDates, skipped.On) {
			rep.ExDates = append(rep.ExDates, skipped.On)
		}
	}
	slices.Sort(rep.ExDates)
	slices.Sort(rep.Dropped)
	after.Series = &rep
	return after
}

// joinAt is what was there before a day, and what is to be from it on.
func joinAt[T any](from when.Day, before, after []T, day func(T) when.Day) (out []T) {
	for _, v := range before {
		if day(v) < from {
			out = append(out, v)
		}
	}
	for _, v := range after {
		if day(v) >= from {
			out = append(out, v)
		}
	}
	return out
}

// mergePeople brings the people of some dates to what the sheet says; on other
// dates they stay as they are. The order is that of the sheet, those who are not
// on it any more last.
func mergePeople(before Meeting, want []Participant, scope series.Range) (out []Participant) {
	for _, p := range want {
		kept := []series.Range{}
		if was, known := before.Participant(p.ID); known {
			kept = series.Outside(was.Dates, scope)
		}
		p.Dates = series.Merge(append(kept, series.Within(p.Dates, scope)...))
		out = append(out, p)
	}
	for _, p := range before.Participants {
		if slices.ContainsFunc(want, func(w Participant) bool { return w.ID == p.ID }) {
			continue
		}
		if p.Dates = series.Merge(series.Outside(p.Dates, scope)); len(p.Dates) > 0 {
			out = append(out, p)
		}
	}
	return out
}

// cutPeople leaves those out who are invited to no date of a series.
func cutPeople(m Meeting, people []Participant) []Participant {
	return slices.DeleteFunc(slices.Clone(people), func(p Participant) bool {
		if len(p.Dates) == 0 {
			return false
		}
		until, ends := m.Plan().Last()
		switch {
		case !ends && !p.Finite():
			return false
		case !ends:
			until = p.Dates[len(p.Dates)-1].To
		}
		return len(m.DatesOf(p, until)) == 0
	})
}

// CalledOffFor tells whether a change leaves somebody none of the dates that they were invited to,
// here or in the series that goes on: then those are called off, and it is not they who are taken
// off.
func (m Meeting) CalledOffFor(p Participant, after Meeting, next *Meeting) bool {
	if len(p.Dates) == 0 || !after.Repeats() || next != nil && next.Invites(p.Email) {
		return false
	}
	return len(cutPeople(after, []Participant{p})) == 0
}

// Without is the meeting with some of its dates called off: all of a scope.
// ok is false when no date is left: then the meeting as a whole is called off.
func (m Meeting) Without(scope series.Range) (after Meeting, ok bool) {
	plan := m.Plan()
	if scope.To == 0 {
		head, any := plan.Before(scope.From)
		if !any {
			return m, false
		}
		after = m.put(head).endsWith(head)
		after.Participants = cutPeople(after, m.Participants)
		return after, true
	}
	var days []when.Day
	for _, d := range m.datesIn(scope) {
		days = append(days, d.On)
	}
	plan = plan.Without(days...)
	if _, any := plan.First(); !any {
		return m, false
	}
	after = m.put(plan)
	after.Series.Dropped = append(after.Series.Dropped, days...)
	slices.Sort(after.Series.Dropped)
	after.Participants = cutPeople(after, m.Participants)
	return markOff(&m, after), true
}

// endsWith is the meeting asked for until the last date of a plan.
func (m Meeting) endsWith(plan series.Plan) Meeting {
	rep := *m.Series
	if end, ends := plan.EndDay(); ends {
		rep.Asked.Ends, rep.Asked.Until, rep.Asked.Count = "on", end.String(), 0
	}
	m.Series = &rep
	return m
}

// draftDates is what single dates of a scope have of their own, as a sheet says
// it.
func (m Meeting) draftDates(scope series.Range) (out []DraftDate) {
	byDay := map[when.Day]*DraftDate{}
	of := func(on when.Day) *DraftDate {
		if byDay[on] == nil {
			byDay[on] = &DraftDate{On: on.String()}
		}
		return byDay[on]
	}
	for _, day := range m.Series.Dropped {
		of(day).Out = true
	}
	for _, x := range m.Series.Moved {
		date := of(x.On)
		date.Start, date.End = x.Start.String(), x.End.String()
	}
	for _, x := range m.Series.Overrides {
		if x.Room != nil || x.NoRoom {
			date := of(x.On)
			date.RoomID, date.NoRoom = roomOf(x.Room), x.NoRoom
		}
	}
	for on, date := range byDay {
		if scope.Holds(on) {
			out = append(out, *date)
		}
	}
	slices.SortFunc(out, func(a, b DraftDate) int {
		if a.On < b.On {
			return -1
		}
		return 1
	})
	return out
}
