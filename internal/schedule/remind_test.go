package schedule_test

import (
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
	id := begin("Reminded", meeting.Reminder{Before: 89, Mail: true}, meeting.Reminder{Before: 88, Mail: true, Own: true})
	require.NoError(t, service().Meetings.GuestAnswer(t.Context(), tokenOf(t, hanna.ID, id, declines), meetings.Given{Answer: meeting.Declined}))
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE meeting_version SET stamp = stamp - interval '10 minutes' WHERE meeting_id = $1", id)
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

	// What moved or is off meanwhile needs none.
	mail := schedule.ReminderMail{MeetingID: id, On: look(t, hanna.ID, id).Content.Start.Day, Start: when.At(start).Add(time.Hour)}
	require.NoError(t, service().Today.SendReminder(t.Context(), mail))
	require.NoError(t, service().Meetings.CallOff(t.Context(), me, id, 1, nil, ""))
	mail.Start = when.At(start)
	require.NoError(t, service().Today.SendReminder(t.Context(), mail))
	assert.Len(t, boxOf(t, hanna.Email, "Reminder: Reminded"), 2)
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
