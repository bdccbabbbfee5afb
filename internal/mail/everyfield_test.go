package mail_test

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/everyfield"
	"jembro/internal/mail"
)

// TestEveryFieldOfAMeetingReachesItsReader: a meeting that differs in one field alone is another letter, and
// another calendar entry, or it stands here why not.
func TestEveryFieldOfAMeetingReachesItsReader(t *testing.T) {
	const onPage = "is a choice of the guest's page"
	const alone = "is seen to before a letter is written: it names its reader alone"
	inNoLetter := map[string]string{
		"UID":          "is the name that calendars know it by",
		"Sequence":     "is the state that calendars know it by",
		"Private":      "is for calendars that others look into",
		"Free":         "is for the calendar of its reader",
		"Apart":        alone,
		"Bring":        onPage,
		"Move":         onPage,
		"Further":      "come as messages of their own, or in the calendar",
		"NoWays":       "says how the text is read",
		"RelatedTo":    "is said by the letter of the series that goes on",
		"TakenOff":     "is known to the organiser",
		"RemindBefore": "is for calendars",
	}
	inNoEntry := map[string]string{
		"Apart":    alone,
		"Bring":    onPage,
		"Move":     onPage,
		"NoWays":   "says how the text is read",
		"TakenOff": "is known to the organiser",
	}
	write := func(m meeting.Meeting) (body, entry string) {
		l := letter(t)
		l.Meeting = m
		out, err := mail.Render(l)
		require.NoError(t, err)
		return out.Subject + out.Text + out.HTML, string(out.Calendar)
	}
	body, entry := write(letter(t).Meeting)
	kind := reflect.TypeFor[meeting.Meeting]()
	for i := range kind.NumField() {
		name := kind.Field(i).Name
		m := letter(t).Meeting
		switch v := reflect.ValueOf(&m).Elem().Field(i); name {
		case "Start":
			m.Start = local(t, "2026-12-03T09:00")
		case "End":
			m.End = local(t, "2026-12-03T11:30")
		case "Zone":
			m.Zone = "Asia/Tokyo"
		case "AllDay":
			m.AllDay, m.Start, m.End, m.Zone = true, local(t, "2026-12-03T00:00"), local(t, "2026-12-04T00:00"), "UTC"
		case "Series":
			rule, err := recur.ParseRule("FREQ=WEEKLY;COUNT=4")
			require.NoError(t, err)
			m.Series = &meeting.Series{Repeat: series.Repeat{Rule: rule}}
		case "Participants":
			m.Participants = m.Participants[:1]
		case "Further":
			m.Further = []meeting.Reminder{{Before: 60}}
		default:
			everyfield.Fill(t, v.Addr().Interface(), everyfield.With{reflect.TypeFor[when.Day](): when.DayOf(2026, 12, 3), reflect.TypeFor[attachment.File](): attachment.File{ID: "f1", Name: "Crates.pdf", Type: "application/pdf", Size: 1200}})
		}
		otherBody, otherEntry := write(m)
		check := func(what string, same bool, known map[string]string) {
			if _, is := known[name]; is {
				assert.True(t, same, "%s needs no exception: it is in the %s", name, what)
				return
			}
			assert.False(t, same, "%s is forgotten in the %s: write it there, or name it here with the reason", name, what)
		}
		check("letter", body == otherBody, inNoLetter)
		check("calendar entry", entry == otherEntry, inNoEntry)
	}
}
