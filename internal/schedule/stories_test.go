package schedule_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

// This tells random stories of series with people on some of their dates, and after every few deeds
// holds what each reader says against a plain record of the deeds: which day has a date and when,
// who is asked on which day, and what they said when. It knows no rule of the core.

// plainSeries is a series as the record has it. Days count from the first day of the story.
type plainSeries struct {
	id     uuid.UUID
	title  string
	at     [plainDays]int // when the date of that day is, in hours from midnight of that day; 0: there is none
	called [plainDays]bool
	moved  [plainDays]int // at which step of the story it moved last
	off    bool
	people map[string]*plainPart
}

type plainPart struct {
	asked  [plainDays]bool
	needed bool
	all    meeting.Answer
	allAt  int
	one    [plainDays]meeting.Answer
	was    bool // on it once, and not now
	off    bool // every date that they had at some time was called off
}

const plainDays = 40

// answer is what somebody said about a day: to it, or to all since it moved.
func (s *plainSeries) answer(p *plainPart, day int) meeting.Answer {
	if p.one[day] != "" {
		return p.one[day]
	}
	if p.all != "" && p.allAt > s.moved[day] {
		return p.all
	}
	return meeting.NoAnswer
}

// theirs are the days on which somebody is asked to a date.
func (s *plainSeries) theirs(email string) (days []int) {
	p := s.people[email]
	if p == nil || s.off {
		return nil
	}
	for day, at := range s.at {
		if at > 0 && p.asked[day] {
			days = append(days, day)
		}
	}
	return days
}

// settle takes those off who have no date left, because dates were called off or they were dropped.
func (s *plainSeries) settle(calledOff bool) {
	for _, p := range s.people {
		left := false
		for day, at := range s.at {
			left = left || at > 0 && p.asked[day]
		}
		if !left && !p.was {
			*p = plainPart{was: true, off: calledOff || p.off}
		}
	}
}

type plainStory struct {
	*rand.Rand
	t         *testing.T
	seed      uint64
	first     when.Day
	organiser schedule.Person
	inside    []schedule.Person
	outside   []string
	all       []*plainSeries
	step      int
	movedAt   time.Time // when something moved last
	told      []string
}

// storyPeople are people of the house who are in no other story.
func storyPeople(t *testing.T, names ...string) (out []schedule.Person) {
	t.Helper()
	for _, name := range names {
		email := fmt.Sprintf("%s.%s@marrowby.example", strings.ToLower(name), uuid.NewString()[:8])
		_, err := running.Program.Pool.Exec(t.Context(), `INSERT INTO person (id, name, email, role, site_id, zone, hours, password_hash, fold)
			SELECT $1, $2, $3, role, site_id, zone, hours, password_hash, $4 FROM person WHERE email = $5`, uuid.New(), name+" Storey", email, strings.ToLower(name)+" storey", demo.Ilse)
		require.NoError(t, err)
		out = append(out, who(t, email))
	}
	return out
}

func newPlainStory(t *testing.T, seed uint64) *plainStory {
	s := &plainStory{Rand: rand.New(rand.NewPCG(seed, 11)), t: t, seed: seed}
	people := storyPeople(t, "Oda", "Abel", "Bela", "Cira")
	s.organiser, s.inside = people[0], people[1:]
	require.NoError(t, service().Today.Nudges(t.Context(), schedule.Self(s.organiser.ID), true))
	s.outside = []string{fmt.Sprintf("page.%d@kirisame.example", seed), fmt.Sprintf("mail.%d@njoro.example", seed)}
	s.first = when.DayOf(service().Now().Date())
	// One of them is taken at ten every day.
	d := s.draft("Standing watch", "FREQ=DAILY", plainDays-2, 1)
	send(t, s.inside[0].ID, open(t, s.inside[0].ID, d))
	return s
}

func (s *plainStory) emails() (out []string) {
	for _, p := range s.inside {
		out = append(out, p.Email)
	}
	return append(out, s.outside...)
}

func (s *plainStory) draft(title, rule string, count, first int) meeting.Draft {
	day := s.first + when.Day(first)
	return meeting.Draft{Title: title, Start: day.String() + "T10:00", End: day.String() + "T11:00", Zone: "Europe/Lisbon", NoRoom: true, NoLink: true,
		Repeat: &meeting.DraftRepeat{Rule: rule, Ends: "after", Count: count}}
}

// begin sends a series of every second day.
func (s *plainStory) begin() {
	x := &plainSeries{title: fmt.Sprintf("Story %d", s.seed), people: map[string]*plainPart{}}
	dates := 3 + s.IntN(5)
	d := s.draft(x.title, "FREQ=DAILY;INTERVAL=2", dates, 1)
	for n := range dates {
		x.at[1+2*n] = 10
	}
	for _, email := range s.emails() {
		part := &plainPart{needed: s.IntN(2) == 0}
		p := meeting.DraftPerson{Email: email, Needed: part.needed}
		switch s.IntN(4) {
		case 0: // one date
			day := 1 + 2*s.IntN(dates)
			part.asked[day] = true
			p.Dates = []meeting.DraftRange{{From: s.day(day).String(), To: s.day(day).String()}}
		case 1: // from a date on
			from := 1 + 2*s.IntN(dates)
			for day := from; day < plainDays; day++ {
				part.asked[day] = true
			}
			p.Dates = []meeting.DraftRange{{From: s.day(from).String()}}
		case 2: // not yet
			continue
		default:
			for day := range part.asked {
				part.asked[day] = true
			}
		}
		x.people[email] = part
		d.People = append(d.People, p)
	}
	x.id = send(s.t, s.organiser.ID, open(s.t, s.organiser.ID, d)).MeetingID
	s.all = append(s.all, x)
	s.tell("begins with %d dates and %d people", dates, len(d.People))
}

func (s *plainStory) day(n int) when.Day { return s.first + when.Day(n) }

func (s *plainStory) tell(format string, args ...any) {
	s.told = append(s.told, fmt.Sprintf(format, args...))
}

// dates are the days on which a series has a date.
func (s *plainSeries) dates() (days []int) {
	for day, at := range s.at {
		if at > 0 && !s.off {
			days = append(days, day)
		}
	}
	return days
}

func pick[T any](r *rand.Rand, all []T) T { return all[r.IntN(len(all))] }

// do is one deed; it tells what it was.
func (s *plainStory) do() {
	s.step++
	var open []*plainSeries
	for _, x := range s.all {
		if len(x.dates()) > 0 {
			open = append(open, x)
		}
	}
	if len(open) == 0 {
		return
	}
	x := pick(s.Rand, open)
	day, email := pick(s.Rand, x.dates()), pick(s.Rand, s.emails())
	answer := pick(s.Rand, []meeting.Answer{meeting.Accepted, meeting.Maybe, meeting.Declined})
	what := s.IntN(13)
	switch what {
	case 0, 1, 2:
		s.answers(x, email, answer, 0)
	case 3, 4, 5:
		s.answers(x, email, answer, day)
	case 6:
		s.moves(x, day)
	case 7:
		s.callsOff(x, day, s.IntN(3) == 0)
	case 8:
		s.splits(x, day)
	case 9:
		s.invites(x, email, day, s.IntN(2) == 0)
	case 10:
		s.drops(x, email, day, s.IntN(2) == 0)
	case 11:
		s.adds(x)
	case 12:
		s.needs(x, email)
	}
	for _, x := range s.all {
		x.settle(what == 7)
	}
}

func (s *plainStory) answers(x *plainSeries, email string, answer meeting.Answer, day int) {
	theirs := x.theirs(email)
	if len(theirs) == 0 || day > 0 && !slices.Contains(theirs, day) {
		return
	}
	on := when.Day(0)
	if day > 0 {
		on = s.day(day)
	}
	i, seen := s.invited(x, email)
	part, _ := s.look(x).Roll.Part(i.ID)
	byMail := email == s.outside[1]
	switch {
	case byMail && day == 0 && service().Now().Sub(s.movedAt) < 2*time.Second:
		return // within one second nobody can say which was first
	case byMail:
		r := meetings.MailReply{Method: meetings.Replies, UID: s.look(x).Content.UID, Attendee: email, Status: string(answer)}
		r.Answer, r.Stamp, r.Sequence = answer, service().Now().Unix(), i.SentSequence
		if day > 0 {
			r.Sequence = part.Kept().Standing(on).SentSequence
			r.Date = &meeting.DateID{At: s.look(x).Content.Plan().Regular(on).Span.Start}
		}
		m := meetings.Mail{Digest: []byte(uuid.NewString()), FromEmail: email, Subject: "Re", Replies: []meetings.MailReply{r}}
		require.NoError(s.t, service().Meetings.TakeMail(s.t.Context(), schedule.Mailbox{Meeting: x.id}, m), s.story())
		if v := s.look(x).Happenings[0].Verdict; v != meeting.Counts {
			// A mail within the second of the one before cannot be newer than it.
			require.Contains(s.t, []meeting.Verdict{meeting.Older, meeting.Same}, v, s.story())
			return
		}
	case i.PersonID == nil:
		g := meetings.Given{Answer: answer, On: on, Seen: seen}
		require.NoError(s.t, service().Meetings.GuestAnswer(s.t.Context(), service().Seal.GuestToken(i.ID, 0), g), s.story())
	default:
		g := meetings.Given{Answer: answer, On: on, Seen: seen}
		require.NoError(s.t, service().Meetings.Answer(s.t.Context(), schedule.Self(*i.PersonID), x.id, g), s.story())
	}
	if p := x.people[email]; day > 0 {
		p.one[day] = answer
	} else {
		p.all, p.allAt = answer, s.step
	}
	s.tell("%s answers %s to %d of %s", email, answer, day, x.title)
}

func (s *plainStory) look(x *plainSeries) meetings.Detail { return look(s.t, s.organiser.ID, x.id) }

// invited is who is invited now, and the state of the meeting that their page shows.
func (s *plainStory) invited(x *plainSeries, email string) (schedule.Invited, int) {
	d := s.look(x)
	for _, i := range d.Invited {
		if i.Email == email {
			part, is := d.Roll.Part(i.ID)
			require.True(s.t, is, s.story())
			return i, part.Kept().Seen()
		}
	}
	require.Fail(s.t, email+" is not invited", s.story())
	return schedule.Invited{}, 0
}

// changes sends a change of a series from a date on, or to that one; ok is false where the sheet
// refuses it, which is no matter here.
func (s *plainStory) changes(x *plainSeries, day int, one bool, alter func(*meeting.Draft)) (id uuid.UUID, ok bool) {
	sheet, err := service().Sheets.ChangeMeeting(s.t.Context(), schedule.Self(s.organiser.ID), x.id, sheets.Opening{At: s.day(day), One: one})
	require.NoError(s.t, err, s.story())
	alter(&sheet.Draft)
	sheet, _, err = service().Sheets.SaveSheet(s.t.Context(), schedule.Self(s.organiser.ID), sheet.ID, sheet.Version, sheet.Draft, "")
	require.NoError(s.t, err, s.story())
	sent, err := service().Sheets.Send(s.t.Context(), schedule.Self(s.organiser.ID), sheet.ID, sheet.Version, uuid.NewString())
	var invalid *schedule.InvalidError
	if errors.As(err, &invalid) {
		require.NoError(s.t, service().Sheets.DiscardSheet(s.t.Context(), schedule.Self(s.organiser.ID), sheet.ID))
		s.tell("(refused: %s)", words.English(invalid.Faults[0].What))
		return uuid.Nil, false
	}
	require.NoError(s.t, err, s.story())
	return sent.MeetingID, true
}

func (s *plainStory) moves(x *plainSeries, day int) {
	at := 12 + s.IntN(6)
	if at == x.at[day] {
		return
	}
	if _, ok := s.changes(x, day, true, func(d *meeting.Draft) {
		d.Start, d.End = fmt.Sprintf("%s%02d:00", d.Start[:11], at), fmt.Sprintf("%s%02d:00", d.Start[:11], at+1)
	}); !ok {
		return
	}
	x.at[day], x.moved[day], s.movedAt = at, s.step, service().Now()
	for _, p := range x.people {
		p.one[day] = ""
	}
	s.tell("%d of %s moves to %d:00", day, x.title, at)
}

func (s *plainStory) callsOff(x *plainSeries, day int, onward bool) {
	scope := series.Range{From: s.day(day), To: s.day(day)}
	if onward {
		scope.To = 0
	}
	require.NoError(s.t, service().Meetings.CallOff(s.t.Context(), schedule.Self(s.organiser.ID), x.id, s.look(x).Version, &scope, ""), s.story())
	for d := range x.at {
		if d == day || onward && d > day {
			x.at[d] = 0
		}
	}
	x.off = len(x.dates()) == 0
	s.tell("%d of %s is called off, onward: %v", day, x.title, onward)
}

// splits gives a series another title from a date on: it ends, and another goes on.
func (s *plainStory) splits(x *plainSeries, day int) {
	title := fmt.Sprintf("%s, from %d", x.title, day)
	moves := s.IntN(3) == 0 && s.usual(x) != 8
	id, ok := s.changes(x, day, false, func(d *meeting.Draft) {
		d.Title = title
		if moves {
			d.Start, d.End = d.Start[:11]+"08:00", d.Start[:11]+"09:00"
		}
	})
	if !ok {
		return
	}
	if moves {
		s.movedAt = service().Now()
	}
	y := &plainSeries{id: id, title: title, people: map[string]*plainPart{}}
	if id == x.id { // there was nothing before it
		y = x
	}
	y.title = title
	for d := day; d < plainDays; d++ {
		if at := x.at[d]; at > 0 && moves && (at == 10 || d == day) {
			x.at[d] = 8
		}
		if y != x {
			y.at[d], y.moved[d], x.at[d] = x.at[d], x.moved[d], 0
		}
	}
	for email, p := range x.people {
		if y == x {
			if moves {
				p.all, p.one = "", [plainDays]meeting.Answer{}
			}
			continue
		}
		if p.was {
			continue
		}
		next := *p
		next.off = false
		for d := range next.asked {
			next.asked[d] = p.asked[d] && d >= day
		}
		if moves {
			next.all, next.one = "", [plainDays]meeting.Answer{}
		}
		y.people[email] = &next
	}
	if y != x {
		s.all = append(s.all, y)
	}
	s.tell("it goes on from %d as %q, at another time: %v", day, title, moves)
}

func (s *plainStory) invites(x *plainSeries, email string, day int, one bool) {
	if slices.Contains(x.theirs(email), day) {
		return
	}
	for d := day; d < plainDays && !one; d++ { // one or the other, not some in between
		if p := x.people[email]; p != nil && p.asked[d] {
			return
		}
	}
	needed := s.IntN(2) == 0
	if _, ok := s.changes(x, day, one, func(d *meeting.Draft) {
		d.People = append(slices.Clone(d.People), meeting.DraftPerson{Email: email, Needed: needed})
	}); !ok {
		return
	}
	p := x.people[email]
	if p == nil {
		p = &plainPart{}
		x.people[email] = p
	}
	p.was = false
	p.needed = needed
	for d := day; d < plainDays; d++ {
		if d == day || !one {
			p.asked[d] = true
		}
	}
	s.tell("%s is invited to %d of %s, alone: %v", email, day, x.title, one)
}

func (s *plainStory) drops(x *plainSeries, email string, day int, one bool) {
	if !slices.Contains(x.theirs(email), day) {
		return
	}
	if _, ok := s.changes(x, day, one, func(d *meeting.Draft) {
		d.People = slices.DeleteFunc(slices.Clone(d.People), func(p meeting.DraftPerson) bool { return p.Email == email })
	}); !ok {
		return
	}
	for d := day; d < plainDays; d++ {
		if d == day || !one {
			x.people[email].asked[d] = false
		}
	}
	s.tell("%s is taken off %d of %s, alone: %v", email, day, x.title, one)
}

// adds puts a day in that the rule does not have.
func (s *plainStory) adds(x *plainSeries) {
	dates := x.dates()
	day := dates[0] + 1 + s.IntN(dates[len(dates)-1]-dates[0]+4)
	if day >= plainDays-4 || x.at[day] > 0 || x.called[day] || day%2 == 1 {
		return
	}
	if slices.ContainsFunc(s.all, func(y *plainSeries) bool { return y.at[day] > 0 }) {
		return
	}
	if _, ok := s.changes(x, dates[0], false, func(d *meeting.Draft) {
		repeat := *d.Repeat
		repeat.Added = append(slices.Clone(repeat.Added), s.day(day).String())
		d.Repeat = &repeat
		d.Dates = slices.DeleteFunc(slices.Clone(d.Dates), func(x meeting.DraftDate) bool { return x.On == s.day(day).String() })
	}); !ok {
		return
	}
	x.at[day] = s.usual(x)
	s.tell("%d is added to %s", day, x.title)
}

// usual is when a series is by its rule.
func (s *plainStory) usual(x *plainSeries) int {
	return int(s.look(x).Content.Start.Clock / 60)
}

func (s *plainStory) needs(x *plainSeries, email string) {
	theirs := x.theirs(email)
	if len(theirs) == 0 || theirs[0] != x.dates()[0] {
		return
	}
	if _, ok := s.changes(x, theirs[0], false, func(d *meeting.Draft) {
		d.People = slices.Clone(d.People)
		for i := range d.People {
			if d.People[i].Email == email {
				d.People[i].Needed = !d.People[i].Needed
			}
		}
	}); !ok {
		return
	}
	x.people[email].needed = !x.people[email].needed
	s.tell("%s is needed: %v", email, x.people[email].needed)
}

func (s *plainStory) story() string {
	return fmt.Sprintf("story %d:\n%s", s.seed, strings.Join(s.told, "\n"))
}

// stated is one thing that a reader says: of whom, of which day, what.
type stated map[string]string

func (s *plainStory) same(reader string, want, got stated) {
	s.t.Helper()
	require.Equal(s.t, want, got, "%s\n%s", reader, s.story())
}

func (s *plainStory) number(on when.Day) int { return int(on - s.first) }

// waits are the days of somebody that wait for their answer.
func (x *plainSeries) waits(email string) (days []int) {
	for _, day := range x.theirs(email) {
		if x.answer(x.people[email], day) == meeting.NoAnswer {
			days = append(days, day)
		}
	}
	return days
}

func (s *plainStory) start(x *plainSeries, day int) when.Instant {
	zone, err := when.LoadZone("Europe/Lisbon")
	require.NoError(s.t, err)
	return when.Zoned{Local: when.Local{Day: s.day(day), Clock: when.ClockOf(x.at[day], 0)}, Zone: zone}.Instant()
}

// compare holds every reader against the record.
func (s *plainStory) compare() {
	for _, x := range s.all {
		s.ofOrganiser(x)
		for _, email := range s.emails() {
			s.ofInvited(x, email)
		}
	}
	for _, p := range s.inside {
		s.ofWeek(p)
		s.ofToday(p)
		s.ofNews(p)
		s.ofSearch(p)
	}
	s.ofEnds()
	s.ofTurns()
}

// ofOrganiser: the page of who organises it, each date with how many answered what, and the answers
// to single dates that stand beside each name.
func (s *plainStory) ofOrganiser(x *plainSeries) {
	d := s.look(x)
	want, got := stated{}, stated{}
	for _, day := range x.dates() {
		counts := map[meeting.Answer]int{}
		for _, email := range s.emails() {
			if slices.Contains(x.theirs(email), day) {
				counts[x.answer(x.people[email], day)]++
			}
		}
		want[fmt.Sprint(day)] = fmt.Sprint(counts, s.start(x, day))
	}
	if d.CalledOffAt == nil {
		for _, date := range service().Meetings.Series(tongue.Tongue{}, d).Dates {
			if date.State != meetings.SeriesOff {
				got[fmt.Sprint(s.number(date.On))] = fmt.Sprint(date.Answers, date.Span.Start)
			}
		}
		for _, i := range d.Invited {
			for _, a := range d.AnswersOn(i.ID) {
				day := s.number(a.On)
				require.Contains(s.t, x.theirs(i.Email), day, "%s lists an answer to a date that is not theirs\n%s", i.Email, s.story())
				require.Equal(s.t, x.answer(x.people[i.Email], day), a.Answer, s.story())
			}
		}
	}
	s.same("the organiser's page", want, got)
}

// ofInvited: the page of one of those invited, with or without an account.
func (s *plainStory) ofInvited(x *plainSeries, email string) {
	part := x.people[email]
	if part == nil {
		return
	}
	want, got := stated{}, stated{}
	for _, day := range x.theirs(email) {
		want[fmt.Sprint(day)] = fmt.Sprint(x.answer(part, day), s.start(x, day))
	}
	var view *meetings.SeriesView
	at := slices.IndexFunc(s.inside, func(p schedule.Person) bool { return p.Email == email })
	if at >= 0 {
		d, err := service().Meetings.Meeting(s.t.Context(), schedule.Self(s.inside[at].ID), x.id)
		if part.was && !part.off {
			require.ErrorIs(s.t, err, schedule.ErrNotFound, "%s was taken off %s\n%s", email, x.title, s.story())
			return
		}
		require.NoError(s.t, err, "%s cannot open %s\n%s", email, x.title, s.story())
		require.Equal(s.t, x.off || part.was, d.CalledOffAt != nil, s.story())
		view = service().Meetings.Series(tongue.Tongue{}, d)
		clash, clashes := stated{}, stated{}
		for _, c := range d.Clashes {
			clashes[fmt.Sprint(s.number(c.On))] = "clash"
		}
		for _, day := range x.theirs(email) {
			if at == 0 && x.at[day] == 10 {
				clash[fmt.Sprint(day)] = "clash"
			}
		}
		s.same("clashes on the page of "+email, clash, clashes)
		if x.off || part.was {
			return
		}
	} else {
		if x.off || part.was {
			return
		}
		i, _ := s.invited(x, email)
		v, err := service().Meetings.Guest(s.t.Context(), service().Seal.GuestToken(i.ID, 0))
		require.NoError(s.t, err, s.story())
		view = service().Meetings.GuestSeries(v)
	}
	for _, date := range view.Dates {
		if date.State != meetings.SeriesOff {
			require.NotNil(s.t, date.Mine, s.story())
			got[fmt.Sprint(s.number(date.On))] = fmt.Sprint(*date.Mine, date.Span.Start)
		}
	}
	s.same("the page of "+email, want, got)
}

func (s *plainStory) ofWeek(p schedule.Person) {
	want, got := stated{}, stated{}
	for _, x := range s.all {
		for _, day := range x.theirs(p.Email) {
			want[fmt.Sprint(x.title, day)] = fmt.Sprint(x.answer(x.people[p.Email], day), s.start(x, day))
		}
	}
	week, err := service().Availability.Week(s.t.Context(), schedule.Self(p.ID), s.first, plainDays)
	require.NoError(s.t, err)
	for _, m := range week.Meetings {
		if x := s.named(m.ID); x != nil {
			got[fmt.Sprint(x.title, s.number(m.On))] = fmt.Sprint(m.Answer, m.Span.Start)
		}
	}
	s.same("the weeks of "+p.Name, want, got)
}

func (s *plainStory) named(id uuid.UUID) *plainSeries {
	for _, x := range s.all {
		if x.id == id {
			return x
		}
	}
	return nil
}

func (s *plainStory) ofToday(p schedule.Person) {
	want, got := stated{}, stated{}
	for _, x := range s.all {
		days := x.waits(p.Email)
		if len(days) == 0 {
			continue
		}
		next := when.Instant(1 << 62)
		for _, day := range days {
			next = min(next, s.start(x, day))
		}
		rule := true
		for day, asked := range x.people[p.Email].asked {
			rule = rule && (asked || day == 0)
		}
		want[x.title] = fmt.Sprint(next)
	}
	today, err := service().Today.Today(s.t.Context(), schedule.Self(p.ID))
	require.NoError(s.t, err)
	for _, a := range today.Asked {
		if x := s.named(a.ID); x != nil {
			got[x.title] = fmt.Sprint(a.Start)
			me := slices.IndexFunc(a.Content.Participants, func(i meeting.Participant) bool { return i.Email == p.Email })
			require.Equal(s.t, len(a.Content.Participants[me].Dates) == 0, a.Rule, "the rule is for who has all dates\n%s", s.story())
		}
	}
	s.same("Today of "+p.Name, want, got)
}

func (s *plainStory) ofNews(p schedule.Person) {
	news, err := service().News.News(s.t.Context(), schedule.Self(p.ID), schedule.Page{Most: 100})
	require.NoError(s.t, err)
	for _, n := range news.Items {
		x := s.named(n.MeetingID)
		if x == nil || n.Kind == schedule.NewsKind(meeting.CallOff) {
			continue
		}
		require.Equal(s.t, len(x.waits(p.Email)) > 0, n.Asks(), "news of %s about %s\n%s", p.Name, x.title, s.story())
		if days := n.On; len(days) > 0 && n.Kind == schedule.NewsKind(meeting.Invite) {
			continue
		}
		for _, c := range n.Clashes {
			require.Contains(s.t, x.theirs(p.Email), s.number(c.On), "a clash with a date that is not theirs\n%s", s.story())
		}
	}
}

func (s *plainStory) ofSearch(p schedule.Person) {
	for _, x := range s.all {
		theirs := x.theirs(p.Email)
		if len(theirs) == 0 {
			continue
		}
		found, err := service().Meetings.Find(s.t.Context(), schedule.Self(p.ID), x.title, schedule.Page{Most: 50})
		require.NoError(s.t, err)
		for _, f := range found.Items {
			if f.ID == x.id {
				require.Contains(s.t, theirs, s.number(f.Date.On), "search names a date that is not theirs\n%s", s.story())
			}
		}
	}
}

// ofEnds: who needed declined, on the organiser's Today.
func (s *plainStory) ofEnds() {
	want, got := stated{}, stated{}
	soon := when.At(service().Now()).Add(loose.Ahead)
	for _, x := range s.all {
		for _, email := range s.emails() {
			for _, day := range x.theirs(email) {
				if p := x.people[email]; p.needed && x.answer(p, day) == meeting.Declined && s.start(x, day) < soon {
					want[fmt.Sprint(x.title, email, day)] = "declined"
				}
			}
		}
	}
	today, err := service().Today.Today(s.t.Context(), schedule.Self(s.organiser.ID))
	require.NoError(s.t, err)
	for _, e := range today.Ends {
		if e.Kind == loose.Declined {
			id := uuid.MustParse(e.MeetingID)
			email := ""
			for _, i := range look(s.t, s.organiser.ID, id).Invited {
				if i.ID.String() == e.Person.ID {
					email = i.Email
				}
			}
			got[fmt.Sprint(s.named(id).title, email, s.number(e.On))] = "declined"
		}
	}
	if len(want) < 40 { // Today shows fifty loose ends
		s.same("loose ends", want, got)
	}
}

// ofTurns: what the program looks for by itself: the silent who are needed, and who comes to what has
// a room.
func (s *plainStory) ofTurns() {
	want, got := stated{}, stated{}
	soon := when.Span{Start: when.At(service().Now()), End: when.At(service().Now().AddDate(0, 0, 10))}
	ids := map[uuid.UUID]string{}
	for _, x := range s.all {
		if x.off {
			continue
		}
		for _, i := range s.look(x).Invited {
			ids[i.ID] = x.title + i.Email
		}
		for _, email := range s.emails() {
			for _, day := range x.waits(email) {
				if at := s.start(x, day); x.people[email].needed && at < soon.End {
					want[fmt.Sprint(x.title+email, at)] = "silent"
				}
			}
		}
	}
	require.NoError(s.t, running.Program.Store.Look(s.t.Context(), func(tx *postgres.Tx) error {
		var last schedule.Silent
		for {
			silent, err := tx.SilentSoon(s.t.Context(), soon, service().Now().Add(time.Hour), last, 7)
			if err != nil || len(silent) == 0 {
				return err
			}
			for _, x := range silent {
				if name, is := ids[x.Participant]; is {
					got[fmt.Sprint(name, x.Start)] = "silent"
				}
				last = x
			}
		}
	}))
	s.same("the silent", want, got)
}

// end calls off what is left, so that it is in nobody's way.
func (s *plainStory) end() {
	for _, x := range s.all {
		if !x.off {
			require.NoError(s.t, service().Meetings.CallOff(s.t.Context(), schedule.Self(s.organiser.ID), x.id, s.look(x).Version, nil, ""))
		}
	}
}

// TestEveryReaderSaysTheSame: 60 stories, or as many as JEMBRO_SOAK says; JEMBRO_STORY tells one.
func TestEveryReaderSaysTheSame(t *testing.T) {
	count, first := 60, uint64(1)
	if n, err := strconv.Atoi(os.Getenv("JEMBRO_SOAK")); err == nil && n > 0 {
		count, first = n, uint64(time.Now().UnixNano()%1_000_000_000)
	}
	if n, err := strconv.ParseUint(os.Getenv("JEMBRO_STORY"), 10, 64); err == nil {
		count, first = 1, n
	}
	const atOnce = 3
	for group := range uint64(atOnce) {
		t.Run(fmt.Sprint("group ", group), func(t *testing.T) {
			t.Parallel()
			for n := group; n < uint64(count); n += atOnce {
				s := newPlainStory(t, first+n)
				s.begin()
				for range 4 + s.IntN(10) {
					s.do()
					if s.IntN(4) == 0 {
						s.compare()
					}
				}
				s.compare()
				s.end()
			}
		})
	}
}
