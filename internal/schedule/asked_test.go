package schedule_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/series"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
	"jembro/internal/schedule/today"
)

// Who is asked to which date, and what they answered: what readers said differently of it, each a
// case of its own. stories_test.go tells them at random.

// asking is a series on four days of the next week, at nine, with somebody of the house.
type asking struct {
	t       *testing.T
	me, her schedule.Person
	id      uuid.UUID
	days    []when.Day
}

func newAsking(t *testing.T, change func(*meeting.Draft)) *asking {
	people := storyPeople(t, "Edda", "Fenna")
	a := &asking{t: t, me: people[0], her: people[1]}
	first := when.DayOf(service().Now().Date()) + 7
	d := meeting.Draft{Title: "Rehanging", Start: first.String() + "T09:00", End: first.String() + "T10:00", Zone: "Europe/Lisbon", NoRoom: true, NoLink: true,
		People: []meeting.DraftPerson{{Email: a.her.Email, Needed: true}}, Repeat: &meeting.DraftRepeat{Rule: "FREQ=DAILY", Ends: "after", Count: 4}}
	if change != nil {
		change(&d)
	}
	for n := range when.Day(4) {
		a.days = append(a.days, first+n)
	}
	a.id = send(t, a.me.ID, open(t, a.me.ID, d)).MeetingID
	return a
}

func (a *asking) answer(on when.Day, answer meeting.Answer) {
	a.t.Helper()
	require.NoError(a.t, service().Meetings.Answer(a.t.Context(), schedule.Self(a.her.ID), a.id, meetings.Given{Answer: answer, On: on, Seen: look(a.t, a.me.ID, a.id).Content.Sequence}))
}

func (a *asking) move(on when.Day, clock string) {
	a.t.Helper()
	changeAt(a.t, a.me.ID, a.id, sheets.Opening{At: on, One: true}, func(d *meeting.Draft) {
		d.Start, d.End = d.Start[:11]+clock+":00", d.Start[:11]+clock+":45"
	})
}

// page is what her page says of her answer to a date.
func (a *asking) page(id uuid.UUID, on when.Day) meeting.Answer {
	a.t.Helper()
	for _, d := range service().Meetings.Series(tongue.Tongue{}, look(a.t, a.her.ID, id)).Dates {
		if d.On == on {
			return *d.Mine
		}
	}
	return ""
}

// today is what waits for her on Today; news tells whether what is new about a meeting asks her.
func (a *asking) today() []today.Asked {
	a.t.Helper()
	day, err := service().Today.Today(a.t.Context(), schedule.Self(a.her.ID))
	require.NoError(a.t, err)
	return day.Asked
}

func (a *asking) news() bool {
	a.t.Helper()
	return newFor(a.t, a.her.ID, a.id)[0].Asks()
}

func (a *asking) askAgain() error {
	i := look(a.t, a.me.ID, a.id).Invited[0]
	return service().Meetings.AskAgain(a.t.Context(), schedule.Self(a.me.ID), i.ID)
}

func TestTodayNamesTheirDatesOnly(t *testing.T) {
	a := newAsking(t, nil)
	third := []meeting.DraftRange{{From: a.days[2].String(), To: a.days[2].String()}}
	b := newAsking(t, func(d *meeting.Draft) { d.People[0].Dates = third })
	asked := b.today()
	require.Len(t, asked, 1)
	assert.Equal(t, b.days[2], when.Zone{}.LocalAt(asked[0].Start).Day, "the date that they are invited to")
	assert.False(t, asked[0].Rule, "the rule is not for them to know")
	assert.True(t, a.today()[0].Rule)
}

func TestWhoAnsweredEachDateIsNotAskedAgain(t *testing.T) {
	a := newAsking(t, nil)
	for _, on := range a.days[:3] {
		a.answer(on, meeting.Accepted)
	}
	require.Len(t, a.today(), 1)
	assert.Equal(t, a.days[3], when.Zone{}.LocalAt(a.today()[0].Start).Day, "the one that is left")
	assert.True(t, a.news())
	a.answer(a.days[3], meeting.Declined)
	assert.Empty(t, a.today())
	assert.False(t, a.news())
	var invalid *schedule.InvalidError
	require.ErrorAs(t, a.askAgain(), &invalid)
	assert.Contains(t, words.English(invalid.Faults[0].What), "has answered meanwhile")
}

func TestWhatIsOverAsksNobody(t *testing.T) {
	people := storyPeople(t, "Edda", "Fenna")
	day := when.DayOf(service().Now().Date()) + 3
	id := send(t, people[0].ID, open(t, people[0].ID, meeting.Draft{Title: "Rehanging", Start: day.String() + "T09:00", End: day.String() + "T10:00", Zone: "Europe/Lisbon",
		NoRoom: true, NoLink: true, People: []meeting.DraftPerson{{Email: people[1].Email}}})).MeetingID
	assert.True(t, newFor(t, people[1].ID, id)[0].Asks())
	_, err := running.Program.Pool.Exec(t.Context(), `UPDATE occurrence SET starts = starts - interval '5 days', ends = ends - interval '5 days' WHERE meeting_id = $1`, id)
	require.NoError(t, err)
	_, err = running.Program.Pool.Exec(t.Context(), `UPDATE participation SET starts = starts - interval '5 days', ends = ends - interval '5 days' WHERE meeting_id = $1`, id)
	require.NoError(t, err)
	assert.False(t, newFor(t, people[1].ID, id)[0].Asks(), "it was two days ago")
}

func TestADateThatMovesAfterAnAnswerToAllIsAskedByEverybody(t *testing.T) {
	a := newAsking(t, nil)
	a.answer(0, meeting.Accepted)
	assert.Empty(t, a.today())
	a.move(a.days[1], "14")
	assert.Equal(t, meeting.NoAnswer, a.page(a.id, a.days[1]))
	require.Len(t, a.today(), 1)
	assert.Equal(t, when.ClockOf(14, 0), when.Zone{}.LocalAt(a.today()[0].Start).Clock)
	assert.True(t, a.news())
	_, err := running.Program.Pool.Exec(t.Context(), `UPDATE dispatch SET queued_at = queued_at - interval '2 hours' WHERE meeting_id = $1`, a.id)
	require.NoError(t, err)
	require.NoError(t, a.askAgain(), "they have not answered")
	fresh := newFor(t, a.her.ID, a.id)[0]
	assert.Equal(t, []when.Day{a.days[1]}, fresh.On, "asked about that date alone")

	a.answer(0, meeting.Maybe)
	assert.Equal(t, meeting.Maybe, a.page(a.id, a.days[1]), "an answer to all counts for a date that moved before")
	assert.Empty(t, a.today())
	assert.False(t, a.news())
}

func TestClashesAreWithTheirDates(t *testing.T) {
	a := newAsking(t, func(d *meeting.Draft) {
		third := when.DayOf(service().Now().Date()) + 9
		d.People[0].Dates = []meeting.DraftRange{{From: third.String(), To: third.String()}}
	})
	own := meeting.Draft{Title: "Standing watch", Start: a.days[0].String() + "T09:00", End: a.days[0].String() + "T10:00", Zone: "Europe/Lisbon", NoRoom: true, NoLink: true,
		Repeat: &meeting.DraftRepeat{Rule: "FREQ=DAILY", Ends: "after", Count: 4}}
	send(t, a.her.ID, open(t, a.her.ID, own))
	for name, clashes := range map[string][]schedule.OwnClash{"page": look(t, a.her.ID, a.id).Clashes, "Today": a.today()[0].Clashes, "news": newFor(t, a.her.ID, a.id)[0].Clashes} {
		require.Len(t, clashes, 1, name)
		assert.Equal(t, a.days[2], clashes[0].On, name)
	}
}

// from are all dates from a day on.
func from(day when.Day) series.Range { return series.Range{From: day} }

// dates are the days of a series as its organiser's page lists them.
func (a *asking) dates(id uuid.UUID) (days []when.Day) {
	for _, d := range service().Meetings.Series(tongue.Tongue{}, look(a.t, a.me.ID, id)).Dates {
		if d.State != meetings.SeriesOff {
			days = append(days, d.On)
		}
	}
	return days
}

func TestAnAddedDateIsWhereItBelongs(t *testing.T) {
	a := newAsking(t, nil)
	add := func(id uuid.UUID, at, day when.Day) {
		changeAt(t, a.me.ID, id, sheets.Opening{At: at}, func(d *meeting.Draft) {
			repeat := *d.Repeat
			repeat.Added = append(append([]string{}, repeat.Added...), day.String())
			d.Repeat = &repeat
		})
	}
	late := a.days[3] + 4
	add(a.id, a.days[0], late)
	assert.Equal(t, append(append([]when.Day{}, a.days...), late), a.dates(a.id))
	scope := from(a.days[3])
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(a.me.ID), a.id, look(t, a.me.ID, a.id).Version, &scope, ""))
	change := func(id uuid.UUID, at when.Day, title string) uuid.UUID {
		return changeAt(t, a.me.ID, id, sheets.Opening{At: at}, func(d *meeting.Draft) { d.Title = title }).MeetingID
	}
	change(a.id, a.days[0], "Rehanging the loft")
	assert.Equal(t, a.days[:3], a.dates(a.id), "what was called off does not come back")

	b := newAsking(t, nil)
	a.me, late = b.me, b.days[3]+4
	add(b.id, b.days[0], late)
	next := change(b.id, b.days[2], "Rehanging, second part")
	assert.Equal(t, []when.Day{b.days[2], b.days[3], late}, b.dates(next))
	further := b.days[3] + 6
	add(b.id, b.days[0], further)
	assert.Equal(t, []when.Day{b.days[0], b.days[1], further}, b.dates(b.id), "the day that was added before went with the series that goes on")
	assert.Equal(t, []when.Day{b.days[2], b.days[3], late}, b.dates(next))
}

func TestASplitKeepsAnswersToMovedDates(t *testing.T) {
	a := newAsking(t, nil)
	a.answer(0, meeting.Accepted)
	a.move(a.days[2], "14")
	a.move(a.days[3], "15")
	a.answer(a.days[3], meeting.Declined)
	next := changeAt(t, a.me.ID, a.id, sheets.Opening{At: a.days[1]}, func(d *meeting.Draft) { d.Title = "Rehanging, second part" }).MeetingID
	require.NotEqual(t, a.id, next)
	assert.Equal(t, meeting.Accepted, a.page(next, a.days[1]))
	assert.Equal(t, meeting.NoAnswer, a.page(next, a.days[2]), "unanswered stays unanswered")
	assert.Equal(t, meeting.Declined, a.page(next, a.days[3]), "declined stays declined")
}

func TestAnotherTitleAsksNobodyAgain(t *testing.T) {
	a := newAsking(t, nil)
	a.answer(0, meeting.Maybe)
	scope := from(a.days[0])
	scope.To = a.days[0]
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(a.me.ID), a.id, look(t, a.me.ID, a.id).Version, &scope, ""))
	id := changeAt(t, a.me.ID, a.id, sheets.Opening{At: a.days[1]}, func(d *meeting.Draft) { d.Title = "Rehanging the loft" }).MeetingID
	assert.Equal(t, a.id, id, "there is no date before it")
	assert.Equal(t, meeting.Maybe, a.page(a.id, a.days[2]), "the first date was called off, and the others are when they were")
}

// unwritten has its rows be due, as those of a house from before there were any.
func (a *asking) unwritten() {
	_, err := running.Program.Pool.Exec(a.t.Context(), `DELETE FROM participation WHERE meeting_id = $1`, a.id)
	require.NoError(a.t, err)
	_, err = running.Program.Pool.Exec(a.t.Context(), `INSERT INTO participation_due SELECT $1::uuid`, a.id)
	require.NoError(a.t, err)
}

func TestTheRowsOfAnOlderHouseAreWritten(t *testing.T) {
	a := newAsking(t, nil)
	a.answer(a.days[1], meeting.Declined)
	rows := func() (n int) {
		require.NoError(t, running.Program.Pool.QueryRow(t.Context(), `SELECT count(*) FROM participation WHERE meeting_id = $1 AND (waits OR answer = 'DECLINED' AND on_day = $2)`, a.id, a.days[1].String()).Scan(&n))
		return n
	}
	require.Equal(t, 4, rows())
	a.unwritten()
	require.NoError(t, service().Meetings.FillParts(t.Context()))
	assert.Equal(t, 4, rows())
	require.NoError(t, service().Meetings.FillParts(t.Context()), "and it is over")
}

// TestOneAnswerDoesNotEndTheWritingOfAnOlderHouse: it writes the rows of one person; those of the
// others are still due.
func TestOneAnswerDoesNotEndTheWritingOfAnOlderHouse(t *testing.T) {
	other := storyPeople(t, "Gerta")[0]
	a := newAsking(t, func(d *meeting.Draft) { d.People = append(d.People, meeting.DraftPerson{Email: other.Email}) })
	rows := func() (n int) {
		require.NoError(t, running.Program.Pool.QueryRow(t.Context(), `SELECT count(*) FROM participation WHERE meeting_id = $1`, a.id).Scan(&n))
		return n
	}
	require.Equal(t, 8, rows())
	a.unwritten()
	a.answer(a.days[1], meeting.Declined)
	assert.Equal(t, 4, rows())
	require.NoError(t, service().Meetings.FillParts(t.Context()))
	assert.Equal(t, 8, rows())
}

func TestARoomIsAskedAboutDateByDate(t *testing.T) {
	loft := room(t, "Print Cabinet")
	people := storyPeople(t, "Edda", "Fenna")
	day := when.DayOf(service().Now().Date()) + 1
	zone, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	start := zone.LocalAt(when.At(service().Now()).Add(2 * time.Hour))
	id := send(t, people[0].ID, open(t, people[0].ID, meeting.Draft{Title: "Rehanging", Start: start.String(), End: start.Add(30 * time.Minute).String(), Zone: "Europe/Lisbon", NoLink: true,
		RoomID: loft.ID.String(), People: []meeting.DraftPerson{{Email: people[1].Email}}, Repeat: &meeting.DraftRepeat{Rule: "FREQ=DAILY", Ends: "after", Count: 3}})).MeetingID
	her := schedule.Self(people[1].ID)
	require.NoError(t, service().Meetings.Answer(t.Context(), her, id, meetings.Given{Answer: meeting.Accepted, On: day}))
	require.NoError(t, service().Rooms.Sweep(t.Context()))
	asked := 0
	for _, n := range newFor(t, people[0].ID, id) {
		if n.Event != nil && n.Event.Kind == meeting.EventStillNeeded {
			asked++
		}
	}
	assert.Equal(t, 1, asked, "today's, of which an acceptance of tomorrow's says nothing")
	assert.Equal(t, []when.Day{start.Day}, look(t, people[0].ID, id).Room.Unsure)
	_, err = running.Program.Pool.Exec(t.Context(), `DELETE FROM booking b USING occurrence o WHERE o.id = b.occurrence_id AND o.meeting_id = $1`, id)
	require.NoError(t, err)
	assert.Empty(t, look(t, people[0].ID, id).Room.Unsure, "there is no room to give back")
}

func TestAnswersOfDatesThatAreNotTheirs(t *testing.T) {
	a := newAsking(t, nil)
	a.answer(a.days[1], meeting.Declined)
	changeAt(t, a.me.ID, a.id, sheets.Opening{At: a.days[1], One: true}, func(d *meeting.Draft) { d.People = nil })
	d := look(t, a.me.ID, a.id)
	assert.Empty(t, d.AnswersOn(d.Invited[0].ID), "she was taken off that date")
}

func TestAPageWhoseDatesAreAllCalledOffOpens(t *testing.T) {
	outside := "alloff@kirisame.example"
	a := newAsking(t, func(d *meeting.Draft) {
		second := when.DayOf(service().Now().Date()) + 8
		d.People[0].Dates = []meeting.DraftRange{{From: second.String(), To: second.String()}}
		d.People = append(d.People, meeting.DraftPerson{Email: outside, Dates: d.People[0].Dates}, meeting.DraftPerson{Email: "rests@kirisame.example"})
	})
	token := service().Seal.GuestToken(look(t, a.me.ID, a.id).Invited[1].ID, 0)
	scope := from(a.days[1])
	scope.To = a.days[1]
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(a.me.ID), a.id, look(t, a.me.ID, a.id).Version, &scope, ""))
	assert.NotNil(t, look(t, a.her.ID, a.id).CalledOffAt, "all that she knows of it is called off")
	v, err := service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.NotNil(t, v.CalledOffAt)
	assert.ErrorIs(t, service().Meetings.GuestAnswer(t.Context(), token, meetings.Given{Answer: meeting.Accepted}), schedule.ErrCalledOff)
	assert.True(t, newFor(t, a.her.ID, a.id)[0].Open())

	// Who is taken off learns nothing any more.
	_, err = service().Meetings.Meeting(t.Context(), schedule.Self(who(t, demo.Ilse).ID), a.id)
	assert.ErrorIs(t, err, schedule.ErrNotFound)
}
