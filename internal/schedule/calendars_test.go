package schedule_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	core "jembro/internal/core/availability"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/ical"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	keeping "jembro/internal/schedule/calendars"
	"jembro/internal/standin"
)

// calendarAt publishes a calendar under a name of its own, and says where.
func calendarAt(t testing.TB, text string) (name, address string) {
	t.Helper()
	name = uuid.NewString() + ".ics"
	running.World.Calendars.Publish(name, text)
	t.Cleanup(func() { running.World.Calendars.Publish(name, "") })
	return name, running.WorldURL + "/calendars/" + name
}

func subscribed(t testing.TB, p schedule.Person, n keeping.NewCalendar) schedule.Calendar {
	t.Helper()
	id, err := service().Calendars.Add(t.Context(), schedule.Self(p.ID), n)
	require.NoError(t, err)
	t.Cleanup(func() { service().Calendars.Remove(context.Background(), schedule.Self(p.ID), id) })
	return calendarOf(t, p, id)
}

func calendarOf(t testing.TB, p schedule.Person, id uuid.UUID) schedule.Calendar {
	t.Helper()
	page, err := service().Calendars.Page(t.Context(), schedule.Self(p.ID))
	require.NoError(t, err)
	for _, c := range page.Calendars {
		if c.ID == id {
			return c
		}
	}
	require.Fail(t, "the calendar is not there")
	return schedule.Calendar{}
}

// takenAs is when a colleague is taken on a day, as somebody who settles a meeting sees it:
// "9:00–10:00 busy".
func takenAs(t testing.TB, viewer schedule.Person, email, day string) (out []string) {
	t.Helper()
	d, err := when.ParseDay(day)
	require.NoError(t, err)
	zone := viewer.Hours.Zone
	a, err := service().Availability.Day(t.Context(), schedule.Self(viewer.ID), availability.DayQuestion{Day: d, Zone: zone,
		Chosen: when.Span{Start: when.DaySpan(d, zone).Start, End: when.DaySpan(d, zone).Start + 3600}, People: []meeting.DraftPerson{{Email: email, Needed: true}}})
	require.NoError(t, err)
	for _, l := range a.Lanes {
		if strings.EqualFold(l.Email, email) {
			for _, b := range core.Combine(l.Taken) {
				out = append(out, fmt.Sprintf("%s–%s %s", zone.LocalAt(b.Span.Start).Clock, zone.LocalAt(b.Span.End).Clock, b.Kind))
			}
		}
	}
	return out
}

// ownDay is a sheet that can be sent, on a day that its test has for itself.
func ownDay(change func(*meeting.Draft)) meeting.Draft {
	d := meeting.Draft{Zone: "Europe/Lisbon", NoRoom: true, NoLink: true}
	change(&d)
	return d
}

func at(text string) time.Time {
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		panic(err)
	}
	return t
}

// TestACalendarElsewhereCounts through its life: it makes somebody busy, changes, breaks,
// comes back empty, comes back.
func TestACalendarElsewhereCounts(t *testing.T) {
	beatriz, ilse := who(t, "beatriz.lomba@marrowby.example"), who(t, "ilse.marrant@marrowby.example")
	one := standin.Event{UID: "1@elsewhere.example", Title: "Choir", Start: at("2027-06-16T09:00:00Z"), Length: time.Hour}
	name, address := calendarAt(t, standin.Calendar("Choir", 0, one))
	c := subscribed(t, beatriz, keeping.NewCalendar{Address: address, Counts: true})
	assert.Equal(t, "Choir", c.Name)
	assert.Equal(t, 1, c.Entries)
	require.NotNil(t, c.ReadAt)
	see := func() []string { return takenAs(t, ilse, beatriz.Email, "2027-06-16") }
	assert.Equal(t, []string{"10:00–11:00 busy"}, see(), "in Lisbon's summer")
	again := func() schedule.Calendar {
		t.Helper()
		require.NoError(t, service().Calendars.Refresh(t.Context(), c.ID))
		return calendarOf(t, beatriz, c.ID)
	}

	one.Start = one.Start.Add(4 * time.Hour)
	running.World.Calendars.Publish(name, standin.Calendar("Choir", 0, one))
	again()
	assert.Equal(t, []string{"14:00–15:00 busy"}, see())

	running.World.Calendars.Publish(name, "")
	broken := again()
	assert.Equal(t, core.FaultGone, broken.Fault)
	require.NotNil(t, broken.FailingSince)
	assert.Equal(t, []string{"14:00–15:00 busy"}, see(), "what was known stays")
	lane := func() availability.Lane {
		day := when.DayOf(2027, 6, 16)
		a, err := service().Availability.Day(t.Context(), schedule.Self(ilse.ID), availability.DayQuestion{Day: day, Zone: ilse.Hours.Zone,
			Chosen: when.Span{Start: when.DaySpan(day, ilse.Hours.Zone).Start, End: when.DaySpan(day, ilse.Hours.Zone).Start + 3600}, People: []meeting.DraftPerson{{Email: beatriz.Email, Needed: true}}})
		require.NoError(t, err)
		return a.Lanes[1]
	}
	require.NotNil(t, lane().StaleSince, "and that it is old is said where it matters")
	own, err := service().Availability.Week(t.Context(), schedule.Self(beatriz.ID), when.DayOf(2027, 6, 14), 7)
	require.NoError(t, err)
	require.Len(t, own.Broken, 1)

	running.World.Calendars.Publish(name, standin.Calendar("Choir", 0))
	empty := again()
	assert.Equal(t, core.FaultEmpty, empty.Fault)
	assert.NotNil(t, empty.EmptySince)
	assert.Equal(t, []string{"14:00–15:00 busy"}, see(), "kept, and asked about")
	require.NoError(t, service().Calendars.ChangeCalendar(t.Context(), schedule.Self(beatriz.ID), c.ID, keeping.CalendarChange{Empty: true}))
	assert.Empty(t, see(), "it is empty")
	assert.Nil(t, calendarOf(t, beatriz, c.ID).FailingSince)
	assert.Nil(t, lane().StaleSince)

	running.World.Calendars.Publish(name, standin.Calendar("Choir", 0, one))
	back := again()
	assert.Equal(t, core.FaultNone, back.Fault)
	assert.Equal(t, []string{"14:00–15:00 busy"}, see())

	no := false
	require.NoError(t, service().Calendars.ChangeCalendar(t.Context(), schedule.Self(beatriz.ID), c.ID, keeping.CalendarChange{Counts: &no}))
	assert.Empty(t, see(), "shown only")
	week, err := service().Availability.Week(t.Context(), schedule.Self(beatriz.ID), when.DayOf(2027, 6, 14), 7)
	require.NoError(t, err)
	require.Len(t, week.Entries, 1)
	assert.Equal(t, "Choir", week.Entries[0].Title)
	assert.False(t, week.Entries[0].Counts)
	yes := true
	require.NoError(t, service().Calendars.ChangeCalendar(t.Context(), schedule.Self(beatriz.ID), c.ID, keeping.CalendarChange{Counts: &yes}))
	assert.NotEmpty(t, see())
	require.NoError(t, service().Calendars.Remove(t.Context(), schedule.Self(beatriz.ID), c.ID))
	assert.Empty(t, see())
	assert.NoError(t, service().Calendars.Refresh(t.Context(), c.ID), "a job that comes late")
}

// TestTheQueueReadsCalendarsAgain when it is time for them.
func TestTheQueueReadsCalendarsAgain(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	one := standin.Event{UID: "1@elsewhere.example", Title: "Rowing", Start: at("2027-06-23T09:00:00Z"), Length: time.Hour}
	name, address := calendarAt(t, standin.Calendar("Rowing", 0, one))
	c := subscribed(t, gil, keeping.NewCalendar{Address: address, Counts: true})
	one.Length = 2 * time.Hour
	running.World.Calendars.Publish(name, standin.Calendar("Rowing", 0, one))
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE calendar SET next_at = $2 WHERE id = $1", c.ID, service().Now().Add(-time.Minute))
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		return len(takenAs(t, gil, gil.Email, "2027-06-23")) == 1 && takenAs(t, gil, gil.Email, "2027-06-23")[0] == "10:00–12:00 busy"
	},
		40*time.Second, 200*time.Millisecond)
	assert.True(t, calendarOf(t, gil, c.ID).NextAt.After(service().Now()))
}

// TestNewEntriesComeIntoSight: a calendar that says it has not changed is looked up again
// for the days that came into sight, and so is a file.
func TestNewEntriesComeIntoSight(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	far := standin.Event{UID: "1@elsewhere.example", Title: "Far", Start: service().Now().Truncate(24*time.Hour).AddDate(0, 0, 402).Add(9 * time.Hour), Length: time.Hour}
	text := standin.Calendar("Far", 0, far)
	_, address := calendarAt(t, text)
	c := subscribed(t, gil, keeping.NewCalendar{Address: address, Counts: true})
	f := subscribed(t, gil, keeping.NewCalendar{File: []byte(text), Counts: true, Name: "A file"})
	rows := func(id uuid.UUID) (n int) {
		require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT count(*) FROM busy WHERE from_id = $1", id).Scan(&n))
		return n
	}
	assert.Zero(t, rows(c.ID)+rows(f.ID))
	soon := later(5 * 24 * time.Hour)
	require.NoError(t, soon.Calendars.Refresh(t.Context(), c.ID))
	require.NoError(t, soon.Calendars.Refresh(t.Context(), f.ID))
	assert.Equal(t, []int{1, 1}, []int{rows(c.ID), rows(f.ID)})
}

// TestWhatCannotBeAdded says why at the address, and keeps nothing.
func TestWhatCannotBeAdded(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	base := running.WorldURL + "/calendars/"
	for text, want := range map[string]string{
		"": "no address", "not an address": "no address", "ftp://calendars.example/a.ics": "https://", base + "page.ics": "no calendar", base + "nothing.ics": "404",
		base + "locked.ics": "sign-in", base + "away.ics": "inside a network", base + "endless.ics": "10 MB", "http://10.0.0.1/a.ics": "inside a network",
		"https://" + strings.Repeat("x", 3000): "room for", "javascript:alert(1)": "",
	} {
		_, err := service().Calendars.Add(t.Context(), schedule.Self(gil.ID), keeping.NewCalendar{Address: text, Counts: true})
		var invalid *schedule.InvalidError
		if assert.ErrorAs(t, err, &invalid, text) {
			assert.Equal(t, "address", invalid.Faults[0].Field, text)
			assert.Contains(t, words.English(invalid.Faults[0].What), want, text)
		}
	}
	for _, file := range []string{"", "hello", "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n"} {
		_, err := service().Calendars.Add(t.Context(), schedule.Self(gil.ID), keeping.NewCalendar{File: []byte(file), Counts: true})
		var invalid *schedule.InvalidError
		assert.ErrorAs(t, err, &invalid)
	}
	page, err := service().Calendars.Page(t.Context(), schedule.Self(gil.ID))
	require.NoError(t, err)
	assert.Empty(t, page.Calendars)
}

// TestASilentOtherSideHoldsNobodyUp: an address that does not answer in time is kept and
// asked again.
func TestASilentOtherSideHoldsNobodyUp(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	within, cancel := context.WithTimeout(t.Context(), 25*time.Second)
	defer cancel()
	id, err := service().Calendars.Add(within, schedule.Self(gil.ID), keeping.NewCalendar{Address: running.WorldURL + "/calendars/slow.ics", Counts: true})
	require.NoError(t, err)
	c := calendarOf(t, gil, id)
	assert.Equal(t, core.FaultUnreachable, c.Fault)
	assert.Nil(t, c.ReadAt)
	require.NoError(t, service().Calendars.Remove(t.Context(), schedule.Self(gil.ID), id))
}

// TestTwoLookAtOneCalendar in the same moment, while its owner removes it: nothing breaks,
// and nothing of it is left.
func TestTwoLookAtOneCalendar(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	var events []standin.Event
	for i := range 200 {
		events = append(events, standin.Event{UID: fmt.Sprint(i), Title: "x", Start: at("2027-03-01T09:00:00Z").Add(time.Duration(i) * time.Hour), Length: 30 * time.Minute})
	}
	for range 5 {
		_, address := calendarAt(t, standin.Calendar("Two", 0, events...))
		id, err := service().Calendars.Add(t.Context(), schedule.Self(gil.ID), keeping.NewCalendar{Address: address, Counts: true})
		require.NoError(t, err)
		var wait sync.WaitGroup
		for range 4 {
			wait.Go(func() { assert.NoError(t, service().Calendars.Refresh(context.Background(), id)) })
		}
		wait.Go(func() { assert.NoError(t, service().Calendars.Remove(context.Background(), schedule.Self(gil.ID), id)) })
		wait.Wait()
		var left int
		require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT (SELECT count(*) FROM busy WHERE from_id = $1) + (SELECT count(*) FROM calendar_entry WHERE calendar_id = $1)", id).Scan(&left))
		assert.Zero(t, left)
	}
}

// TestOneEntryInTwoCalendarsIsShownOnce, and what comes from here does not come back.
func TestOneEntryInTwoCalendarsIsShownOnce(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	same := standin.Event{UID: "same@elsewhere.example", Title: "Both", Start: at("2027-06-30T09:00:00Z"), Length: time.Hour}
	ours := standin.Event{UID: uuid.NewString() + "@" + service().House.MailDomain, Title: "From here", Start: at("2027-06-30T12:00:00Z"), Length: time.Hour}
	for range 2 {
		_, address := calendarAt(t, standin.Calendar("Both", 0, same, ours))
		subscribed(t, gil, keeping.NewCalendar{Address: address, Counts: true})
	}
	week, err := service().Availability.Week(t.Context(), schedule.Self(gil.ID), when.DayOf(2027, 6, 28), 7)
	require.NoError(t, err)
	require.Len(t, week.Entries, 1)
	assert.Equal(t, []string{"10:00–11:00 busy"}, takenAs(t, gil, gil.Email, "2027-06-30"))
}

// TestHoursAndDaysMoveWhatIsOff: a morning blocked, a day with hours of its own, a public
// holiday, leave.
func TestHoursAndDaysMoveWhatIsOff(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	me := schedule.Self(gil.ID)
	do := service().Calendars
	defer func() {
		var week [7]string
		for i := range week {
			for _, s := range gil.Hours.Week[(i+1)%7] {
				week[i] += fmt.Sprintf("%s-%s,", s.Start, s.End)
			}
		}
		require.NoError(t, do.SetWeek(t.Context(), me, who(t, gil.Email).HoursVersion, week, gil.Hours.Zone.String()))
	}()
	week := [7]string{"9-17", "13:00 – 18:00", "9 to 12:30, 13:30 to 18", "9-17", "9-15", "", "–"}
	require.NoError(t, do.SetWeek(t.Context(), me, gil.HoursVersion, week, "Europe/Lisbon"))
	var version *schedule.VersionError
	assert.ErrorAs(t, do.SetWeek(t.Context(), me, gil.HoursVersion, week, "Europe/Lisbon"), &version, "another window was first")
	var invalid *schedule.InvalidError
	require.ErrorAs(t, do.SetWeek(t.Context(), me, gil.HoursVersion+1, [7]string{"9-17", "17-9", "sometimes", "9-12, 11-14"}, "Europe/Lisbon"), &invalid)
	assert.Equal(t, []string{"week.1", "week.2", "week.3"}, []string{invalid.Faults[0].Field, invalid.Faults[1].Field, invalid.Faults[2].Field})

	p := who(t, gil.Email)
	off := func(day string) when.Spans {
		d, err := when.ParseDay(day)
		require.NoError(t, err)
		return who(t, gil.Email).Hours.Within(when.DaySpan(d, p.Hours.Zone))
	}
	assert.Equal(t, 5*time.Hour, off("2027-06-15").Total(), "no mornings on Tuesdays")
	assert.Equal(t, 8*time.Hour, off("2027-06-16").Total(), "a break on Wednesdays")
	assert.Zero(t, off("2027-06-10").Total(), "Dia de Portugal, a Thursday")
	require.NoError(t, do.SetDay(t.Context(), me, p.HoursVersion, "10 Jun 2027", "10-12", "on call"))
	assert.Equal(t, 2*time.Hour, off("2027-06-10").Total(), "other hours count on a holiday too")
	require.NoError(t, do.DropDay(t.Context(), me, p.HoursVersion+1, when.DayOf(2027, 6, 10)))
	assert.Zero(t, off("2027-06-10").Total())
	require.ErrorAs(t, do.SetDay(t.Context(), me, p.HoursVersion+2, "1 Jan 2020", "10-12", ""), &invalid)
	assert.Equal(t, "day", invalid.Faults[0].Field)

	id, err := do.EnterLeave(t.Context(), me, "2027-06-21", "2027-06-22", "")
	require.NoError(t, err)
	assert.Equal(t, []string{"0:00–0:00 leave"}, takenAs(t, gil, gil.Email, "2027-06-21"))
	_, err = do.EnterLeave(t.Context(), me, "22 Jun 2027", "25 Jun 2027", "")
	require.ErrorAs(t, err, &invalid)
	assert.Contains(t, words.English(invalid.Faults[0].What), "already")
	require.NoError(t, do.SetWeek(t.Context(), me, who(t, gil.Email).HoursVersion, week, "Asia/Tokyo"))
	assert.NotEqual(t, []string{"0:00–0:00 leave"}, takenAs(t, who(t, "ilse.marrant@marrowby.example"), gil.Email, "2027-06-21"), "leave lies where he is")
	require.NoError(t, do.TakeLeaveBack(t.Context(), me, id))
	assert.ErrorIs(t, do.TakeLeaveBack(t.Context(), me, id), schedule.ErrNotFound)
	assert.ErrorIs(t, do.TakeLeaveBack(t.Context(), schedule.Self(who(t, "ilse.marrant@marrowby.example").ID), id), schedule.ErrNotFound)
}

// TestHoursGoOutAndComeIn as VAVAILABILITY (RFC 7953): what is written is read back the
// same.
func TestHoursGoOutAndComeIn(t *testing.T) {
	beatriz := who(t, "beatriz.lomba@marrowby.example")
	me, do := schedule.Self(beatriz.ID), service().Calendars
	require.NoError(t, do.SetDay(t.Context(), me, beatriz.HoursVersion, "2026-12-03", "14-18", "dentist"))
	require.NoError(t, do.SetDay(t.Context(), me, beatriz.HoursVersion+1, "2026-12-04", "", ""))
	leave, err := do.EnterLeave(t.Context(), me, "2027-01-11", "2027-01-15", "")
	require.NoError(t, err)
	file, err := do.HoursFile(t.Context(), me)
	require.NoError(t, err)
	was := who(t, beatriz.Email)
	require.NoError(t, do.SetWeek(t.Context(), me, was.HoursVersion, [7]string{"1-2"}, was.Hours.Zone.String()))
	require.NoError(t, do.DropDay(t.Context(), me, was.HoursVersion+1, when.DayOf(2026, 12, 3)))
	require.NoError(t, do.TakeHoursFile(t.Context(), me, was.HoursVersion+2, file))
	now := who(t, beatriz.Email)
	assert.Equal(t, was.Hours.Week, now.Hours.Week)
	assert.Equal(t, was.Hours.Other, now.Hours.Other, "holidays and leave are no days of their own")
	require.NoError(t, do.TakeLeaveBack(t.Context(), me, leave))
	for _, raw := range []string{"", "x", standin.Calendar("No hours", 0)} {
		var invalid *schedule.InvalidError
		require.ErrorAs(t, do.TakeHoursFile(t.Context(), me, now.HoursVersion, []byte(raw)), &invalid)
		assert.Equal(t, "file", invalid.Faults[0].Field)
	}
	// As others read it: the leave is all of its days, the dentist's day is open from 14.
	window := when.Span{Start: when.At(at("2026-11-30T00:00:00Z")), End: when.At(at("2027-01-18T00:00:00Z"))}
	c, err := ical.ReadCalendar(file, window)
	require.NoError(t, err)
	busy, err := c.Busy(window, was.Hours.Zone)
	require.NoError(t, err)
	taken := core.Person{}.With(busy).Leave
	assert.True(t, taken.Covers(when.Span{Start: when.At(at("2027-01-11T00:00:00Z")), End: when.At(at("2027-01-16T00:00:00Z"))}))
	assert.False(t, taken.Overlaps(when.Span{Start: when.At(at("2026-12-03T14:00:00Z")), End: when.At(at("2026-12-03T18:00:00Z"))}))
	assert.True(t, taken.Covers(when.Span{Start: when.At(at("2026-12-03T09:00:00Z")), End: when.At(at("2026-12-03T14:00:00Z"))}))
}

// TestTitlesForOneColleagueOnly: what is shared with one is seen by one.
func TestTitlesForOneColleagueOnly(t *testing.T) {
	beatriz, gil, ilse := who(t, "beatriz.lomba@marrowby.example"), who(t, "gil.tavares@marrowby.example"), who(t, "ilse.marrant@marrowby.example")
	do := service().Calendars
	open1 := send(t, beatriz.ID, open(t, beatriz.ID, ownDay(func(d *meeting.Draft) {
		d.Title, d.Start, d.End, d.People = "Kiln firing", "2028-03-07T09:00", "2028-03-07T10:00", nil
	})))
	send(t, beatriz.ID, open(t, beatriz.ID, ownDay(func(d *meeting.Draft) {
		d.Title, d.Start, d.End, d.People, d.Private = "Salary talk", "2028-03-07T11:00", "2028-03-07T12:00", nil, true
	})))
	require.NotEqual(t, uuid.Nil, open1.MeetingID)
	see := func(viewer schedule.Person) (out []string) {
		require.NoError(t, do.Watch(t.Context(), schedule.Self(viewer.ID), []schedule.Watched{{PersonID: beatriz.ID}}))
		all, err := do.Watched(t.Context(), schedule.Self(viewer.ID), when.DayOf(2028, 3, 7), 1)
		require.NoError(t, err)
		require.Len(t, all, 1)
		if all[0].Hidden {
			return []string{"hidden"}
		}
		for _, s := range all[0].Times {
			out = append(out, fmt.Sprintf("%s %s", s.Kind, s.Title))
		}
		return out
	}
	busy, titled := []string{"busy ", "busy "}, []string{"busy Kiln firing", "busy "}
	assert.Equal(t, busy, see(gil))
	require.NoError(t, do.Share(t.Context(), schedule.Self(beatriz.ID), core.SeeBusy, []schedule.Sharing{{PersonID: gil.ID, Level: core.SeeTitles}}))
	assert.Equal(t, titled, see(gil))
	assert.Equal(t, busy, see(ilse))
	require.NoError(t, do.Share(t.Context(), schedule.Self(beatriz.ID), core.SeeNothing, []schedule.Sharing{{PersonID: gil.ID, Level: core.SeeBusy}}))
	assert.Equal(t, busy, see(gil))
	assert.Equal(t, []string{"hidden"}, see(ilse))
	assert.Empty(t, takenAs(t, ilse, beatriz.Email, "2028-03-07"))
	assert.Len(t, takenAs(t, gil, beatriz.Email, "2028-03-07"), 2)
	require.NoError(t, do.Share(t.Context(), schedule.Self(beatriz.ID), core.SeeTitles, nil))
	assert.Equal(t, titled, see(ilse))
	require.NoError(t, do.Share(t.Context(), schedule.Self(beatriz.ID), core.SeeBusy, nil))
	for _, with := range [][]schedule.Sharing{{{PersonID: beatriz.ID, Level: core.SeeBusy}}, {{PersonID: gil.ID, Level: "all"}}, {{PersonID: uuid.New(), Level: core.SeeBusy}}, {{PersonID: gil.ID, Level: core.SeeBusy}, {PersonID: gil.ID, Level: core.SeeBusy}}} {
		var invalid *schedule.InvalidError
		assert.ErrorAs(t, do.Share(t.Context(), schedule.Self(beatriz.ID), core.SeeBusy, with), &invalid)
	}
	require.NoError(t, do.Watch(t.Context(), schedule.Self(gil.ID), nil))
}

// TestBusyTimesAloneAreShown: a calendar of busy times without titles is in its owner's
// week, and a floating time of somebody outside is meant where they are.
func TestBusyTimesAloneAreShown(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	_, address := calendarAt(t, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nNAME:Shifts\r\nBEGIN:VFREEBUSY\r\nUID:1@shifts.example\r\nDTSTAMP:20261124T000000Z\r\nFREEBUSY;FBTYPE=BUSY-UNAVAILABLE:20270714T080000Z/PT2H\r\nEND:VFREEBUSY\r\nEND:VCALENDAR\r\n")
	subscribed(t, gil, keeping.NewCalendar{Address: address, Counts: true})
	week, err := service().Availability.Week(t.Context(), schedule.Self(gil.ID), when.DayOf(2027, 7, 12), 7)
	require.NoError(t, err)
	require.Len(t, week.Entries, 1)
	assert.Equal(t, "Shifts", week.Entries[0].Calendar)
	assert.Equal(t, []string{"9:00–11:00 leave"}, takenAs(t, gil, gil.Email, "2027-07-14"))

	_, theirs := calendarAt(t, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART:20270714T170000\r\nDURATION:PT1H\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	do, me := service().Calendars, schedule.Self(gil.ID)
	require.NoError(t, do.KeepTheirAddress(t.Context(), me, "m.hayase@kirisame.example", "", theirs))
	assert.Equal(t, []string{"9:00–10:00 busy"}, takenAs(t, gil, "m.hayase@kirisame.example", "2027-07-14"), "five in the afternoon in Kyoto")
	require.NoError(t, do.ForgetTheirAddress(t.Context(), me, "m.hayase@kirisame.example"))
}

// TestSomebodyOutsidePublishesTheirTime: kept with them, seen by everybody, forgotten.
func TestSomebodyOutsidePublishesTheirTime(t *testing.T) {
	ilse, gil := who(t, "ilse.marrant@marrowby.example"), who(t, "gil.tavares@marrowby.example")
	_, address := calendarAt(t, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VFREEBUSY\r\nUID:1@njoro.example\r\nDTSTAMP:20261124T000000Z\r\nFREEBUSY:20270707T080000Z/PT2H\r\nEND:VFREEBUSY\r\nEND:VCALENDAR\r\n")
	email := "new.courier@njoro.example"
	assert.Empty(t, takenAs(t, ilse, email, "2027-07-07"))
	do := service().Calendars
	require.NoError(t, do.KeepTheirAddress(t.Context(), schedule.Self(ilse.ID), email, "New Courier", address))
	assert.Equal(t, []string{"9:00–11:00 busy"}, takenAs(t, ilse, email, "2027-07-07"))
	assert.Equal(t, []string{"9:00–11:00 busy"}, takenAs(t, gil, email, "2027-07-07"), "kept with the contact")
	require.NoError(t, do.KeepTheirAddress(t.Context(), schedule.Self(ilse.ID), email, "New Courier", address), "another address takes its place")
	require.NoError(t, do.ForgetTheirAddress(t.Context(), schedule.Self(gil.ID), email))
	assert.Empty(t, takenAs(t, ilse, email, "2027-07-07"))
	var invalid *schedule.InvalidError
	assert.ErrorAs(t, do.KeepTheirAddress(t.Context(), schedule.Self(ilse.ID), gil.Email, "", address), &invalid, "a colleague")
	assert.ErrorAs(t, do.KeepTheirAddress(t.Context(), schedule.Self(ilse.ID), "nobody", "", address), &invalid)
}

// TestLeaveAndWhatLiesInIt: one meeting handed over, one declined, one called off; every
// organiser hears once.
func TestLeaveAndWhatLiesInIt(t *testing.T) {
	beatriz, gil, ilse := who(t, "beatriz.lomba@marrowby.example"), who(t, "gil.tavares@marrowby.example"), who(t, "ilse.marrant@marrowby.example")
	on := func(title, day string, people ...string) func(*meeting.Draft) {
		return func(d *meeting.Draft) {
			d.Title, d.Start, d.End, d.People = title, day+"T09:30", day+"T10:30", nil
			for _, p := range people {
				d.People = append(d.People, meeting.DraftPerson{Email: p, Needed: true})
			}
		}
	}
	mine := send(t, beatriz.ID, open(t, beatriz.ID, ownDay(on("Glaze tests", "2028-05-08", gil.Email, "glaze@kirisame.example"))))
	off := send(t, beatriz.ID, open(t, beatriz.ID, ownDay(on("Stand-down", "2028-05-09", gil.Email))))
	theirs := send(t, ilse.ID, open(t, ilse.ID, ownDay(repeated("every day until 16 May 2028", on("Morning round", "2028-05-08", beatriz.Email)))))
	other := send(t, ilse.ID, open(t, ilse.ID, ownDay(on("Second of hers", "2028-05-10", beatriz.Email))))
	me, do := schedule.Self(beatriz.ID), service().Calendars
	leave, err := do.EnterLeave(t.Context(), me, "2028-05-08", "2028-05-12", "")
	require.NoError(t, err)
	_, in, err := do.MeetingsInLeave(t.Context(), me, leave)
	require.NoError(t, err)
	require.Len(t, in, 4)
	page, err := do.Page(t.Context(), me)
	require.NoError(t, err)
	assert.Equal(t, 4, page.Leave[len(page.Leave)-1].Meetings)

	var invalid *schedule.InvalidError
	for _, wrong := range []keeping.Away{{MeetingID: mine.MeetingID, Do: keeping.Decline}, {MeetingID: other.MeetingID, Do: keeping.CallOff},
		{MeetingID: mine.MeetingID, Do: keeping.HandOver}, {MeetingID: mine.MeetingID, Do: keeping.HandOver, To: uuid.New()}, {MeetingID: mine.MeetingID, Do: "forget"}} {
		require.ErrorAs(t, do.SettleLeave(t.Context(), me, leave, []keeping.Away{wrong}, ""), &invalid, wrong.Do)
		assert.Equal(t, "items.0", invalid.Faults[0].Field)
	}
	newsOf := func(p schedule.Person) (all []schedule.NewsItem) {
		got, err := service().News.News(t.Context(), schedule.Self(p.ID), schedule.Page{Most: 50})
		require.NoError(t, err)
		return got.Items
	}
	before := len(newsOf(ilse))
	settle := []keeping.Away{{MeetingID: mine.MeetingID, Do: keeping.HandOver, To: gil.ID}, {MeetingID: off.MeetingID, Do: keeping.CallOff},
		{MeetingID: theirs.MeetingID, Do: keeping.Decline}, {MeetingID: other.MeetingID, Do: keeping.Decline}}
	require.NoError(t, do.SettleLeave(t.Context(), me, leave, settle, "Back on the 15th"))
	require.NoError(t, do.SettleLeave(t.Context(), me, leave, settle, "Back on the 15th"), "pressed twice")
	_, in, err = do.MeetingsInLeave(t.Context(), me, leave)
	require.NoError(t, err)
	assert.Empty(t, in)

	d := look(t, gil.ID, mine.MeetingID)
	assert.Equal(t, gil.ID, d.OrganiserID)
	assert.Equal(t, gil.Email, d.Content.Organiser.Email)
	assert.Nil(t, d.Me, "who organises it is not invited to it")
	was := look(t, beatriz.ID, mine.MeetingID)
	require.NotNil(t, was.Me)
	assert.Equal(t, meeting.Declined, was.Me.Answer)
	assert.Empty(t, busyAlone(t, beatriz, "2028-05-08"))
	assert.Contains(t, takenAs(t, gil, gil.Email, "2028-05-08"), "9:30–10:30 busy")
	letters := box(t, "glaze@kirisame.example", 2)
	assert.Contains(t, letters[1].Text, "who organises it")
	assert.Contains(t, string(letters[1].Calendar), "SEQUENCE:1", "RFC 5546, 3.2.2.6")

	assert.NotNil(t, look(t, gil.ID, off.MeetingID).CalledOffAt)
	round := look(t, ilse.ID, theirs.MeetingID)
	declined := 0
	for _, i := range round.Invited {
		part, _ := round.Roll.Part(i.ID)
		for _, a := range part.Kept().Single() {
			if a.Answer == meeting.Declined {
				declined++
			}
		}
	}
	assert.Equal(t, 5, declined, "the dates in the leave, and no others")
	fresh := newsOf(ilse)[:len(newsOf(ilse))-before]
	require.Len(t, fresh, 1, "two meetings, six dates, one word of it")
	assert.Equal(t, meeting.EventAway, fresh[0].Event.Kind)
	assert.Len(t, fresh[0].Event.Titles, 2)
}

// busyAlone is what takes somebody's time on a day beside leave.
func busyAlone(t testing.TB, p schedule.Person, day string) (out []string) {
	for _, b := range takenAs(t, p, p.Email, day) {
		if !strings.HasSuffix(b, "leave") {
			out = append(out, b)
		}
	}
	return out
}

// TestASecretAddress gives busy times, follows changes, and ends when it is withdrawn.
func TestASecretAddress(t *testing.T) {
	gil := who(t, "gil.tavares@marrowby.example")
	me, do := schedule.Self(gil.ID), service().Calendars
	send(t, gil.ID, open(t, gil.ID, ownDay(func(d *meeting.Draft) {
		d.Title, d.Start, d.End, d.People = "Tide tables", "2026-12-16T18:30", "2026-12-16T19:30", nil
	})))
	send(t, gil.ID, open(t, gil.ID, ownDay(func(d *meeting.Draft) {
		d.Title, d.Start, d.End, d.People, d.Private = "Appraisal", "2026-12-16T20:30", "2026-12-16T21:30", nil, true
	})))
	require.NoError(t, do.Give(t.Context(), me, false))
	page, err := do.Page(t.Context(), me)
	require.NoError(t, err)
	token := strings.TrimSuffix(page.FeedURL[strings.LastIndex(page.FeedURL, "/")+1:], ".ics")
	get := func(freeBusy bool) keeping.Given {
		g, err := do.Given(t.Context(), token, freeBusy)
		require.NoError(t, err)
		return g
	}
	events, times := get(false), get(true)
	for _, body := range [][]byte{events.Body, times.Body} {
		text := string(body)
		assert.NotContains(t, text, "Tide")
		assert.NotContains(t, text, "Appraisal")
		assert.Contains(t, text, "20261216T183000Z")
	}
	assert.Equal(t, events.ETag, get(false).ETag, "as long as nothing changes")
	require.NoError(t, do.Give(t.Context(), me, true))
	titled := get(false)
	assert.NotEqual(t, events.ETag, titled.ETag)
	assert.Contains(t, string(titled.Body), "Tide tables")
	assert.NotContains(t, string(titled.Body), "Appraisal")
	assert.NotContains(t, string(get(true).Body), "Tide", "busy times have no titles")

	// Subscribed to one's own, nothing goes in circles.
	name := uuid.NewString() + ".ics"
	running.World.Calendars.Publish(name, string(titled.Body))
	c := subscribed(t, gil, keeping.NewCalendar{Address: running.WorldURL + "/calendars/" + name, Counts: true})
	var rows int
	require.NoError(t, running.Program.Pool.QueryRow(t.Context(), "SELECT count(*) FROM busy WHERE from_id = $1", c.ID).Scan(&rows))
	assert.Zero(t, rows)

	require.NoError(t, do.Withdraw(t.Context(), me))
	_, err = do.Given(t.Context(), token, false)
	assert.ErrorIs(t, err, schedule.ErrNotFound)
	require.NoError(t, do.Give(t.Context(), me, false))
	again, err := do.Page(t.Context(), me)
	require.NoError(t, err)
	assert.NotEqual(t, page.FeedURL, again.FeedURL, "a withdrawn address never leads anywhere again")
	_, err = do.Given(t.Context(), "nonsense", false)
	assert.ErrorIs(t, err, schedule.ErrNotFound)
	require.NoError(t, do.Withdraw(t.Context(), me))

	// A room's, for its keepers.
	rui := who(t, "rui.calado@marrowby.example")
	url, err := do.GiveRoom(t.Context(), schedule.Self(rui.ID), room(t, "Rope Loft").ID)
	require.NoError(t, err)
	_, err = do.GiveRoom(t.Context(), me, room(t, "Rope Loft").ID)
	assert.ErrorIs(t, err, schedule.ErrNotFound)
	g, err := do.Given(t.Context(), strings.TrimSuffix(url[strings.LastIndex(url, "/")+1:], ".ics"), true)
	require.NoError(t, err)
	assert.Contains(t, string(g.Body), "BEGIN:VFREEBUSY")
	require.NoError(t, do.WithdrawRoom(t.Context(), schedule.Self(rui.ID), room(t, "Rope Loft").ID))
}

// TestTheSameTwiceAtOnce: leave entered, somebody watched, an address kept, each by two
// windows in the same moment.
func TestTheSameTwiceAtOnce(t *testing.T) {
	gil, beatriz := who(t, "gil.tavares@marrowby.example"), who(t, "beatriz.lomba@marrowby.example")
	do, me := service().Calendars, schedule.Self(gil.ID)
	both := func(deed func() error) (worked int) {
		var wait sync.WaitGroup
		var mu sync.Mutex
		for range 6 {
			wait.Go(func() {
				err := deed()
				mu.Lock()
				defer mu.Unlock()
				var invalid *schedule.InvalidError
				if err == nil {
					worked++
				} else {
					assert.ErrorAs(t, err, &invalid)
				}
			})
		}
		wait.Wait()
		return worked
	}
	for range 5 {
		var id uuid.UUID
		var mu sync.Mutex
		assert.Equal(t, 1, both(func() error {
			entered, err := do.EnterLeave(context.Background(), me, "2028-06-05", "2028-06-09", "")
			if err == nil {
				mu.Lock()
				id = entered
				mu.Unlock()
			}
			return err
		}), "one leave")
		require.NoError(t, do.TakeLeaveBack(t.Context(), me, id))
		assert.Equal(t, 6, both(func() error {
			return do.Watch(context.Background(), me, []schedule.Watched{{PersonID: beatriz.ID}})
		}))
		assert.Equal(t, 6, both(func() error {
			return do.Share(context.Background(), me, core.SeeBusy, []schedule.Sharing{{PersonID: beatriz.ID, Level: core.SeeTitles}})
		}))
		assert.Equal(t, 6, both(func() error { return do.Give(context.Background(), me, true) }))
	}
	_, address := calendarAt(t, standin.Calendar("Theirs", 0, standin.Event{UID: "1", Title: "x", Start: at("2027-07-07T08:00:00Z"), Length: time.Hour}))
	assert.Equal(t, 6, both(func() error {
		return do.KeepTheirAddress(context.Background(), me, "twice@njoro.example", "Twice", address)
	}))
	assert.Len(t, takenAs(t, gil, "twice@njoro.example", "2027-07-07"), 1)
	require.NoError(t, do.ForgetTheirAddress(t.Context(), me, "twice@njoro.example"))
	require.NoError(t, do.Watch(t.Context(), me, nil))
	require.NoError(t, do.Share(t.Context(), me, core.SeeBusy, nil))
	require.NoError(t, do.Withdraw(t.Context(), me))
}
