package schedule_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/today"
	"jembro/internal/standin"
)

// boxOf are the mails for somebody about a meeting.
func boxOf(t *testing.T, address, subject string) (out []standin.Read) {
	t.Helper()
	for _, m := range running.World.Post.Box(address) {
		r, err := standin.ReadMail(m)
		require.NoError(t, err)
		if r.Subject == subject || len(r.Subject) > len(subject) && r.Subject[:len(subject)] == subject {
			out = append(out, r)
		}
	}
	return out
}

// TestRemindedByMail: those who come are, once for each date; who declined, was called off or
// asked at the wrong hour is not.
func TestRemindedByMail(t *testing.T) {
	hanna := who(t, "hanna.tomic@marrowby.example") // the others are not to be busy today
	me := schedule.Self(hanna.ID)
	const comes, declines, silent = "reminded@kirisame.example", "notreminded@kirisame.example", "silentreminded@kirisame.example"
	start := service().Now().Add(90 * time.Minute).Truncate(time.Minute)
	at := func(at time.Time) string { return at.UTC().Format("2006-01-02T15:04") }
	begin := func(title string, reminders ...meeting.Reminder) uuid.UUID {
		return send(t, hanna.ID, open(t, hanna.ID, draft(func(d *meeting.Draft) {
			d.Title, d.Start, d.End, d.Zone, d.Reminders, d.RemindBefore = title, at(start), at(start.Add(time.Hour)), "UTC", reminders, 0
			outsiders(comes, declines, silent)(d)
		}))).MeetingID
	}
	// Its time passed before it was settled, and another one is not here yet.
	begin("Not reminded", meeting.Reminder{Before: 120, Mail: true}, meeting.Reminder{Before: 60, Mail: true})
	// Nor is what was added after its time.
	late := begin("Added late")
	change(t, hanna.ID, late, func(d *meeting.Draft) { d.Reminders = []meeting.Reminder{{Before: 120, Mail: true}} })
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE meeting_version SET stamp = stamp - interval '1 day' WHERE meeting_id = $1 AND version = 1", late)
	require.NoError(t, err)
	id := begin("Reminded", meeting.Reminder{Before: 89, Mail: true}, meeting.Reminder{Before: 88, Mail: true, Own: true})
	require.NoError(t, service().Meetings.GuestAnswer(t.Context(), tokenOf(t, hanna.ID, id, declines), meetings.Given{Answer: meeting.Declined}))
	_, err = running.Program.Pool.Exec(t.Context(), "UPDATE meeting_version SET stamp = stamp - interval '10 minutes' WHERE meeting_id = $1", id)
	require.NoError(t, err)
	ahead := later(3 * time.Minute)
	require.NoError(t, ahead.Today.Remind(t.Context()))
	require.NoError(t, ahead.Today.Remind(t.Context()), "twice is once")
	eventually(t, "they are reminded", func() bool {
		return len(boxOf(t, comes, "Reminder: Reminded")) == 1 && len(boxOf(t, silent, "Reminder: Reminded")) == 1 && len(boxOf(t, hanna.Email, "Reminder: Reminded")) == 2
	})
	m := boxOf(t, comes, "Reminder: Reminded")[0]
	assert.Contains(t, m.Text, ""+hanna.Name+", Marrowby Museums, reminds you of this meeting")
	assert.Contains(t, m.Text, "Answer here")
	assert.Empty(t, m.Calendar, "the entry that they have stays as it is")
	assert.Empty(t, m.Attached)
	mine := boxOf(t, hanna.Email, "Reminder: Reminded")
	assert.NotEqual(t, messageID(mine[0]), messageID(mine[1]), "two reminders are two messages (RFC 5322, 3.6.4)")
	own := mine[0]
	assert.Contains(t, own.Text, "You wanted to be reminded of this meeting")
	assert.NotContains(t, own.Text, "Answer here")
	assert.Empty(t, boxOf(t, declines, "Reminder: Reminded"))
	assert.Empty(t, boxOf(t, comes, "Reminder: Not reminded"))
	assert.Empty(t, boxOf(t, comes, "Reminder: Added late"))

	// What moved or is off meanwhile needs none.
	mail := schedule.ReminderMail{MeetingID: id, On: look(t, hanna.ID, id).Content.Start.Day, Start: when.At(start).Add(time.Hour)}
	require.NoError(t, service().Today.SendReminder(t.Context(), mail))
	require.NoError(t, service().Meetings.CallOff(t.Context(), me, id, 1, nil, ""))
	mail.Start = when.At(start)
	require.NoError(t, service().Today.SendReminder(t.Context(), mail))
	assert.Len(t, boxOf(t, hanna.Email, "Reminder: Reminded"), 2)
}

// TestRemindersOfOnesOwn: who is invited sets them for themselves, inside and by mail; nobody else
// gets them, and what is set after its time does not come.
func TestRemindersOfOnesOwn(t *testing.T) {
	hanna, rui := who(t, "hanna.tomic@marrowby.example"), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(rui.ID)
	start := service().Now().Add(95 * time.Minute).Truncate(time.Minute)
	at := func(at time.Time) string { return at.UTC().Format("2006-01-02T15:04") }
	begin := func(title string, reminders ...meeting.Reminder) uuid.UUID {
		return send(t, hanna.ID, open(t, hanna.ID, draft(func(d *meeting.Draft) {
			d.Title, d.Start, d.End, d.Zone, d.RemindBefore, d.Reminders, d.Free = title, at(start), at(start.Add(time.Hour)), "UTC", 15, reminders, true
			outsiders("other.own@kirisame.example")(d)
			d.People = append(d.People, meeting.DraftPerson{PersonID: rui.ID.String(), Name: rui.Name, Email: rui.Email, Needed: true})
		}))).MeetingID
	}
	id := begin("Own reminders")
	set := func(who schedule.Actor, id uuid.UUID, all ...meeting.Reminder) error {
		return service().Meetings.RemindMe(t.Context(), who, id, all)
	}
	require.NoError(t, set(me, id, meeting.Reminder{Before: 20}, meeting.Reminder{Before: 94, Mail: true}, meeting.Reminder{Before: 20}, meeting.Reminder{Before: 300, Mail: true}))
	assert.Equal(t, []meeting.Reminder{{Before: 300, Own: true, Mail: true}, {Before: 94, Own: true, Mail: true}, {Before: 20, Own: true}}, look(t, rui.ID, id).Reminders)
	day, err := service().Today.Today(t.Context(), me)
	require.NoError(t, err)
	here := slices.IndexFunc(day.Items, func(i today.Item) bool { return i.Meeting != nil && i.Meeting.ID == id })
	require.GreaterOrEqual(t, here, 0)
	assert.Equal(t, []when.Instant{when.At(start.Add(-20 * time.Minute)), when.At(start.Add(-15 * time.Minute))}, day.Items[here].Reminders())
	assert.Empty(t, look(t, hanna.ID, id).Reminders)
	file, err := service().Meetings.MeetingFile(t.Context(), me, id)
	require.NoError(t, err)
	assert.Equal(t, []string{"TRIGGER:-PT20M", "TRIGGER:-PT15M"}, linesOf(string(file), "TRIGGER"))

	// One that all get as well is one mail; one that was taken off meanwhile does not come.
	both := begin("Reminded with all", meeting.Reminder{Before: 93, Mail: true})
	require.NoError(t, set(me, both, meeting.Reminder{Before: 93, Mail: true}))
	off := begin("Not wished any more")
	require.NoError(t, set(me, off, meeting.Reminder{Before: 93, Mail: true}))
	_, err = running.Program.Pool.Exec(t.Context(), "UPDATE meeting_version SET stamp = stamp - interval '10 minutes' WHERE meeting_id = $1", both)
	require.NoError(t, err)
	require.NoError(t, set(me, off))
	on := look(t, hanna.ID, off).Content.Start.Day
	require.NoError(t, service().Today.SendReminder(t.Context(), schedule.ReminderMail{MeetingID: off, Participant: look(t, rui.ID, off).Me.ID, On: on, Start: when.At(start), Before: 93, Own: true}))
	ahead := later(3 * time.Minute)
	require.NoError(t, ahead.Today.Remind(t.Context()))
	require.NoError(t, ahead.Today.Remind(t.Context()), "twice is once")
	eventually(t, "reminded", func() bool {
		return len(boxOf(t, rui.Email, "Reminder: Own reminders")) == 1 && len(boxOf(t, rui.Email, "Reminder: Reminded with all")) == 1
	})
	assert.Contains(t, boxOf(t, rui.Email, "Reminder: Own reminders")[0].Text, "You wanted to be reminded of this meeting")
	assert.Empty(t, boxOf(t, "other.own@kirisame.example", "Reminder: Own reminders"))
	assert.Empty(t, boxOf(t, hanna.Email, "Reminder: Own reminders"))
	assert.Empty(t, boxOf(t, rui.Email, "Reminder: Not wished"))

	field, _ := fieldOf(t, set(me, id, make([]meeting.Reminder, 6)...))
	assert.Equal(t, "reminders", field)
	field, _ = fieldOf(t, set(me, id, meeting.Reminder{Before: 50000}))
	assert.Equal(t, "reminders", field)
	field, _ = fieldOf(t, set(schedule.Self(hanna.ID), id))
	assert.Equal(t, "reminders", field)
	assert.ErrorIs(t, set(schedule.Self(who(t, "gil.tavares@marrowby.example").ID), id), schedule.ErrNotFound)
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(hanna.ID), id, 1, nil, ""))
	assert.ErrorIs(t, set(me, id), schedule.ErrCalledOff)
}

// TestRemindedOfWhatIsOnALaterDay: a day before, and before midnight; not of what nobody is to be
// reminded of yet, nor of what was declined.
func TestRemindedOfWhatIsOnALaterDay(t *testing.T) {
	marta := who(t, "marta.quental@marrowby.example")
	me := schedule.Self(marta.ID)
	zone, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	today := zone.LocalAt(when.At(service().Now())).Day
	begin := func(title string, day when.Day, start, end string, before ...meeting.Reminder) {
		send(t, marta.ID, open(t, marta.ID, draft(func(d *meeting.Draft) {
			d.Title, d.Start, d.End, d.RemindBefore, d.Reminders, d.Free = title, day.String()+"T"+start, day.String()+"T"+end, 15, before, true
			outsiders("ahead@kirisame.example")(d)
		})))
	}
	begin("Just after midnight", today+1, "00:05", "00:20")
	begin("The day after", today+1, "09:00", "09:30", meeting.Reminder{Before: 1440})
	begin("Next week", today+8, "09:00", "09:30", meeting.Reminder{Before: 10080, Own: true})
	begin("Nobody is reminded yet", today+8, "09:00", "09:30", meeting.Reminder{Before: 2880})
	mine := []string{"Just after midnight", "The day after", "Next week", "Nobody is reminded yet"}
	reminded := func(on when.Day, clock string) (out []string) {
		l, err := when.ParseLocal(on.String() + "T" + clock)
		require.NoError(t, err)
		at := later(when.Zoned{Local: l, Zone: zone}.Instant().Time().Sub(service().Now()))
		all, err := at.Today.Today(t.Context(), me)
		require.NoError(t, err)
		for _, i := range all.Reminded {
			if i.Meeting != nil && slices.Contains(mine, i.Meeting.Content.Title) {
				out = append(out, i.Meeting.Content.Title)
			}
		}
		return out
	}
	assert.Equal(t, mine[1:2], reminded(today, "11:00"))
	assert.Equal(t, mine[:2], reminded(today, "23:55"))
	assert.Equal(t, mine[2:3], reminded(today+1, "08:30"), "the next hour is known already; what is on this day stands among its items")
	assert.Equal(t, mine[2:3], reminded(today+3, "12:00"))
	assert.Empty(t, reminded(today+5, "12:00"), "what came long ago is not shown any more")
	assert.Equal(t, mine[3:], reminded(today+6, "12:00"))
}

func TestRemindersOfASheet(t *testing.T) {
	ilse := who(t, demo.Ilse)
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		outsiders("alarms@kirisame.example")(d)
		d.RemindBefore = 15
		d.Reminders = []meeting.Reminder{{Before: 1440}, {Before: 1440}, {Before: 60, Own: true}, {Before: 30, Mail: true}}
	}))).MeetingID
	calendar := string(box(t, "alarms@kirisame.example", 1)[0].Calendar)
	assert.Equal(t, []string{"TRIGGER:-PT1440M", "TRIGGER:-PT15M"}, linesOf(calendar, "TRIGGER"))
	own, err := service().Meetings.MeetingFile(t.Context(), schedule.Self(ilse.ID), id)
	require.NoError(t, err)
	assert.Equal(t, []string{"TRIGGER:-PT1440M", "TRIGGER:-PT60M", "TRIGGER:-PT15M"}, linesOf(string(own), "TRIGGER"))
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) { d.Reminders = []meeting.Reminder{{Before: 50000}} }))
	_, err = service().Sheets.Send(t.Context(), schedule.Self(ilse.ID), s.ID, s.Version, uuid.NewString())
	field, _ := fieldOf(t, err)
	assert.Equal(t, "remindBefore", field)
}

// linesOf are the lines of a calendar with a property.
func linesOf(calendar, property string) (out []string) {
	for line := range strings.SplitSeq(strings.ReplaceAll(calendar, "\r\n ", ""), "\r\n") {
		if strings.HasPrefix(line, property) {
			out = append(out, line)
		}
	}
	return out
}

func messageID(m standin.Read) string {
	for _, h := range m.Headers {
		if h.Name == "Message-ID" {
			return h.Value
		}
	}
	return ""
}
