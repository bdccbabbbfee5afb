package ical_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/ical"
	"jembro/internal/ical/icaltest"
	"jembro/internal/schedule"
)

// story is a meeting with its changes, as it is told to some people.
type story struct {
	*rand.Rand
	seed  uint64
	now   meeting.Meeting
	over  []meeting.Meeting // series that ended and went on as another
	off   bool
	stamp time.Time
	boxes map[string]*icaltest.Box
	held  map[string][][]icaltest.Shown // what we say after each step
	told  []string                      // the story in words
}

var readers = []string{"s.onari@kirisame.example", "desk@veerhaven.example", "n.wanjiru@jacaranda.example"}

func newStory(seed uint64) *story {
	s := &story{Rand: rand.New(rand.NewPCG(seed, 5546)), seed: seed, stamp: time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC),
		boxes: map[string]*icaltest.Box{}, held: map[string][][]icaltest.Shown{}}
	for _, r := range readers {
		s.boxes[r] = &icaltest.Box{}
	}
	return s
}

func pick[T any](s *story, all ...T) T { return all[s.IntN(len(all))] }

func (s *story) chance(one int) bool { return s.IntN(one) == 0 }

func (s *story) say(format string, args ...any) {
	s.told = append(s.told, fmt.Sprintf(format, args...))
}

// aStart is a time, by day mostly, or when clocks are changed, or around midnight.
func (s *story) aStart(day when.Day) (start, end when.Local) {
	start = when.Local{Day: day, Clock: pick(s, when.ClockOf(9, 30), when.ClockOf(14, 0), when.ClockOf(10, 0), when.ClockOf(1, 30), when.ClockOf(2, 15), when.ClockOf(23, 30))}
	return start, start.Add(pick(s, 30*time.Minute, time.Hour, 2*time.Hour))
}

func (s *story) begin(t *testing.T) {
	day := when.DayOf(2026, 12, 1) + when.Day(s.IntN(130))
	start, end := s.aStart(day)
	d := meeting.Draft{Title: "Crate sizes", Text: pick(s, "", "Bring the list; please,\n\"all\" of it."), Start: start.String(), End: end.String(),
		RoomID: pick(s, "map", ""), Zone: pick(s, "Europe/Lisbon", "Asia/Tokyo", "America/New_York", "UTC", "Australia/Lord_Howe", "America/Sao_Paulo")}
	for _, r := range readers[:1+s.IntN(3)] {
		d.People = append(d.People, s.person(r, day))
	}
	if s.chance(8) {
		d.Repeat = nil
	} else {
		d.Repeat = &meeting.DraftRepeat{Ends: "on", Until: (day + 100 + when.Day(s.IntN(400))).String(), Rule: s.rule(),
			Weekends: s.chance(4), Holidays: s.chance(4)}
		switch s.IntN(4) {
		case 0:
			d.Repeat.Ends, d.Repeat.Count = "after", 1+s.IntN(12)
		case 1:
			d.Repeat.Ends = "open"
		}
		for range s.IntN(3) {
			d.Repeat.Added = append(d.Repeat.Added, (day + when.Day(s.IntN(150))).String())
		}
	}
	out, faults := d.Change(surroundings(nil), identify)
	if len(faults) > 0 {
		s.say("no meeting: %v", faults)
		return
	}
	s.say("%s %s %s %v people %v", d.Start, d.End, d.Zone, repeatOf(d), d.People)
	m := out.Meeting
	m.UID = fmt.Sprintf("story-%d-0@meet.marrowby.example", s.seed)
	m, due := meeting.Announce(nil, m)
	s.now = m
	s.tell(t, m, nil, due)
	s.step()
}

func repeatOf(d meeting.Draft) string {
	if d.Repeat == nil {
		return "once"
	}
	return fmt.Sprintf("%+v", *d.Repeat)
}

func (s *story) rule() string {
	return pick(s, "every 2nd Thursday", "every Tuesday and Friday", "every 2nd week on Monday and Thursday", "the last working day of the month", "every day",
		"every Sunday", "every working day", "every 2nd day", "the 31st of the month", "the last day of the month", "FREQ=WEEKLY", "FREQ=MONTHLY", "FREQ=YEARLY",
		"FREQ=YEARLY;BYWEEKNO=10,20,30", "FREQ=DAILY;BYMONTHDAY=-1,-2", "FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=1,-1", "FREQ=WEEKLY;BYDAY=MO,WE,FR;BYSETPOS=1,-1", "FREQ=YEARLY;BYMONTH=1,3;BYDAY=SU")
}

// person is somebody on a draft: for all dates, from one on, or on some.
func (s *story) person(email string, from when.Day) meeting.DraftPerson {
	p := meeting.DraftPerson{Name: "The \"desk\"; of " + strings.ToUpper(email[:3]), Email: email, Needed: s.chance(2)}
	at := from + when.Day(s.IntN(60))
	switch s.IntN(6) {
	case 0:
		p.Dates = []meeting.DraftRange{{From: at.String()}}
	case 1:
		p.Dates = []meeting.DraftRange{{From: at.String(), To: (at + when.Day(s.IntN(20))).String()}}
	case 2:
		p.Dates = []meeting.DraftRange{{From: at.String(), To: at.String()}, {From: (at + 20).String(), To: (at + 40 + when.Day(s.IntN(40))).String()}}
	}
	return p
}

// days are the first dates of the meeting.
func (s *story) days() (out []when.Day) {
	for d := range s.now.Dates(s.now.Start.Day) {
		if out = append(out, d.On); len(out) == 12 {
			break
		}
	}
	return out
}

// edit changes a draft of the meeting in one way.
func (s *story) edit() (d meeting.Draft, what string) {
	days := s.days()
	at := pick(s, days...)
	d = meeting.DraftOf(s.now, at)
	if d.Scope != nil {
		switch s.IntN(3) {
		case 0:
			d.Scope.To = at.String()
		case 1:
			d.Scope.To = max(d.Scope.From, pick(s, days...).String())
		}
	}
	date := func() *meeting.DraftDate {
		for i := range d.Dates {
			if d.Dates[i].On == at.String() {
				return &d.Dates[i]
			}
		}
		d.Dates = append(d.Dates, meeting.DraftDate{On: at.String()})
		return &d.Dates[len(d.Dates)-1]
	}
	switch s.IntN(19) {
	case 0, 1:
		start, end := s.aStart(mustDay(d.Start[:10]) + when.Day(s.IntN(4)-1))
		d.Start, d.End, what = start.String(), end.String(), "time"
	case 2:
		d.RoomID, what = pick(s, "loft", "map", ""), "room"
		d.NoRoom = d.RoomID == ""
	case 3:
		d.Title, what = pick(s, "Crates, with the courier", "Crates; a, b\\c", "Crate sizes"), "title"
	case 4:
		date().Out, what = true, "a date left out"
	case 5, 6:
		start, end := s.aStart(at + when.Day(s.IntN(5)-2))
		x := date()
		x.Start, x.End, what = start.String(), end.String(), "a date moved"
	case 7:
		if len(d.Dates) > 0 {
			i := s.IntN(len(d.Dates))
			d.Dates, what = slices.Delete(d.Dates, i, i+1), "a date as all"
		}
	case 8:
		r := pick(s, readers...)
		d.People, what = slices.DeleteFunc(d.People, func(p meeting.DraftPerson) bool { return p.Email == r }), "without "+r
	case 9, 10:
		r := pick(s, readers...)
		p := s.person(r, days[0])
		if i := slices.IndexFunc(d.People, func(p meeting.DraftPerson) bool { return p.Email == r }); i >= 0 {
			d.People[i], what = p, "other dates for "+r
		} else {
			d.People, what = append(d.People, p), "with "+r
		}
	case 11:
		if d.Repeat != nil {
			d.Scope.To, d.Repeat.Ends, d.Repeat.Until = "", "on", (at + when.Day(s.IntN(300))).String()
			what = "another end"
		}
	case 12:
		if d.Repeat != nil {
			d.Scope.To, d.Repeat.Ends, what = "", "open", "without an end"
		}
	case 13:
		d.Zone, what = pick(s, "Europe/Lisbon", "Asia/Tokyo", "America/New_York"), "zone"
	case 14:
		d.Text, what = pick(s, "", "Another text."), "text"
	case 15:
		if d.Repeat != nil {
			d.Scope.To, d.Repeat.Added, what = "", append(d.Repeat.Added, (at+when.Day(s.IntN(30))).String()), "a date added"
		}
	case 16:
		if d.Repeat != nil {
			d.Scope.To, d.Repeat.Rule, what = "", s.rule(), "another rule"
		}
	case 17:
		x := date()
		x.RoomID = pick(s, "loft", "map", "")
		x.NoRoom, what = x.RoomID == "", "another room on a date"
	case 18:
		if d.Repeat != nil && s.chance(3) {
			d.Repeat, d.Dates, d.Scope, what = nil, nil, nil, "once only"
		}
	}
	return d, what
}

func mustDay(text string) when.Day {
	day, err := when.ParseDay(text)
	if err != nil {
		panic(err)
	}
	return day
}

// change goes on with the story.
func (s *story) change(t *testing.T, number int) {
	before := s.now
	for i := range before.Participants { // who answered meanwhile
		if s.chance(3) {
			before.Participants[i].Answer = pick(s, meeting.Accepted, meeting.Declined, meeting.Maybe)
		}
		if s.chance(4) && before.Repeats() {
			before.Participants[i].Answers = []meeting.DateAnswer{{On: pick(s, s.days()...), Answer: meeting.Declined}}
		}
	}
	if s.chance(7) && before.Repeats() {
		s.callOff(t, before)
		return
	}
	d, what := s.edit()
	around := surroundings(&before)
	if s.chance(12) {
		around.Card = &join.Card{Name: "Ostrel", URL: "https://ostrel.example/j/" + strconv.Itoa(number)}
		what += " and link"
	}
	out, faults := d.Change(around, identify)
	if len(faults) > 0 {
		s.say("%s: refused: %s", what, words.English(faults[0].What))
		return
	}
	s.say("%s, scope %+v, dates %+v: start %s zone %s repeat %s people %v", what, d.Scope, d.Dates, d.Start, d.Zone, repeatOf(d), d.People)
	after := out.Meeting
	c := meeting.Compare(before, after)
	after.Sequence = c.Sequence(before.Sequence)
	for i, p := range after.Participants { // what they answered holds, unless everybody is asked again
		if was, known := before.Participant(p.ID); known && !c.AsksAgain() {
			after.Participants[i].Answer, after.Participants[i].Answers = was.Answer, was.Answers
		}
	}
	after, due := meeting.Announce(&before, after)
	s.now = after
	s.tell(t, after, &before, due)
	if out.Next != nil {
		next := *out.Next
		next.UID = fmt.Sprintf("story-%d-%d@meet.marrowby.example", s.seed, number)
		next, due := meeting.Announce(nil, next)
		s.over, s.now = append(s.over, after), next
		s.tell(t, next, nil, due)
	}
	s.step()
}

func (s *story) callOff(t *testing.T, before meeting.Meeting) {
	days := s.days()
	scope := series.Range{From: pick(s, days...)}
	if s.chance(2) {
		scope.To = max(scope.From, pick(s, days...))
	}
	if _, any := before.Begun(scope, 0); !any {
		return
	}
	s.say("called off %v", scope)
	after, left := before.Without(scope)
	if !left {
		after, due := meeting.CalledOff(before)
		s.off = true
		s.tell(t, after, &before, due)
		s.step()
		return
	}
	after.Sequence = meeting.Compare(before, after).Sequence(before.Sequence)
	after, due := meeting.Announce(&before, after)
	s.now = after
	s.tell(t, after, &before, due)
	s.step()
}

// tell writes what is due and lays it into the mailboxes.
func (s *story) tell(t *testing.T, m meeting.Meeting, before *meeting.Meeting, due []meeting.Message) {
	s.stamp = s.stamp.Add(time.Minute)
	nth := map[string]int{}
	for _, d := range due {
		l := schedule.Letter{Kind: d.Kind, On: d.On, IDs: d.IDs, Meeting: m.SeenBy(d.To.ID), OffAll: s.off, To: d.To,
			Stamp: s.stamp.Add(time.Duration(nth[d.To.ID]) * time.Second), Address: "meeting-1@meet.marrowby.example"}
		nth[d.To.ID]++
		if before != nil {
			seen := before.SeenBy(d.To.ID)
			l.Before = &seen
		}
		raw, err := ical.Write(l)
		require.NoError(t, err, "story %d\n%s", s.seed, strings.Join(s.told, "\n"))
		box := s.boxes[d.To.Email]
		if len(*box) == len(s.held[d.To.Email]) {
			*box = append(*box, nil)
		}
		last := len(*box) - 1
		(*box)[last] = append((*box)[last], raw)
	}
}

// step notes what every reader's calendar is to show by now.
func (s *story) step() {
	for r, box := range s.boxes {
		if len(*box) == len(s.held[r]) {
			*box = append(*box, [][]byte{})
		}
		s.held[r] = append(s.held[r], s.shown(r))
	}
}

// shown is what we say that a recipient's calendar shows.
func (s *story) shown(email string) (out []icaltest.Shown) {
	all := s.over
	if !s.off {
		all = append(slices.Clone(s.over), s.now)
	}
	for _, m := range all {
		id, _, _ := strings.Cut(email, "@")
		p, invited := m.Participant(id)
		if !invited {
			continue
		}
		for d := range m.Dates(m.Start.Day) {
			if d.On > when.DayOf(2028, 12, 9) {
				break
			}
			if !p.On(d.On) || d.Span.Start.Time().Format(time.DateOnly) >= icaltest.Until {
				continue
			}
			x := icaltest.Shown{UID: m.UID, Start: d.Span.Start.Time().Format(time.RFC3339), End: d.Span.End.Time().Format(time.RFC3339), Summary: d.Title,
				Conference: m.Card.URL, Location: m.Card.URL, Text: strings.TrimSpace(d.Text + "\n\n" + strings.TrimSpace(m.Card.Text(join.Reader{})))}
			if d.Room != nil {
				x.Location = d.Room.Name + " (" + d.Room.Place + ")"
			}
			out = append(out, x)
		}
	}
	slices.SortFunc(out, func(a, b icaltest.Shown) int { return strings.Compare(a.Start+a.UID, b.Start+b.UID) })
	return out
}

// TestACalendarOfMessagesAlone tells random stories of meetings and their changes.
// After every step calendars that were built from nothing but what one person was
// sent, in python3-icalendar with dateutil, in libical and in ical.js, those that
// keep what they know of single dates as well as those that take each new whole as
// all there is, show what we say: the dates that the person is invited to, at the
// instants we hold, each with its room, title, text and the one link.
func TestACalendarOfMessagesAlone(t *testing.T) {
	count, first := 60, uint64(1)
	if text := os.Getenv("JEMBRO_SOAK"); text != "" {
		var err error
		count, err = strconv.Atoi(text)
		require.NoError(t, err)
		first = uint64(time.Now().UnixNano())
	}
	if text := os.Getenv("JEMBRO_STORY"); text != "" {
		var err error
		first, err = strconv.ParseUint(text, 10, 64)
		require.NoError(t, err)
		count = 1
	}
	messages := 0
	const batch = 50
	for from := 0; from < count; from += batch {
		var stories []*story
		var boxes []icaltest.Box
		for n := from; n < min(count, from+batch); n++ {
			s := newStory(first + uint64(n))
			s.begin(t)
			for i := range s.IntN(7) {
				if s.now.UID != "" && !s.off {
					s.change(t, i+1)
				}
			}
			stories = append(stories, s)
			for _, r := range readers {
				boxes = append(boxes, *s.boxes[r])
				for _, step := range *s.boxes[r] {
					messages += len(step)
				}
			}
		}
		for _, library := range icaltest.Libraries {
			for i, steps := range icaltest.Steps(t, library, boxes...) {
				s, r := stories[i/len(readers)], readers[i%len(readers)]
				for n, step := range steps {
					s.compare(t, library+", keeping single dates", r, n, step.Keep)
					s.compare(t, library+", taking each whole", r, n, step.Whole)
				}
			}
		}
	}
	t.Logf("%d stories, %d messages", count, messages)
}

func (s *story) compare(t *testing.T, reader, email string, step int, got []icaltest.Shown) {
	t.Helper()
	for i := range got {
		got[i].Answers = ""
	}
	want := s.held[email][step]
	missing, extra := apart(want, got), apart(got, want)
	if len(missing)+len(extra) == 0 {
		return
	}
	var read []string
	for _, step := range (*s.boxes[email])[:step+1] {
		read = append(read, string(bytes.Join(step, []byte("\n"))))
	}
	t.Fatalf("story %d, %s, %s, step %d\n%s\nmissing %v\nextra %v\n%s", s.seed, email, reader, step+1, strings.Join(s.told, "\n"),
		missing[:min(3, len(missing))], extra[:min(3, len(extra))], strings.Join(read, "\n----\n"))
}

// apart is what one list has and the other has not.
func apart(a, b []icaltest.Shown) (out []icaltest.Shown) {
	for _, x := range a {
		if !slices.Contains(b, x) {
			out = append(out, x)
		}
	}
	return out
}
