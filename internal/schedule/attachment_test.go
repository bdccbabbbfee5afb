package schedule_test

import (
	"bytes"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

func addFile(t *testing.T, me schedule.Actor, name string, content []byte) attachment.File {
	t.Helper()
	f, err := service().Sheets.AddFile(t.Context(), me, name, content)
	require.NoError(t, err)
	return f
}

// noise is content that nothing packs.
func noise(octets int) []byte {
	r := rand.New(rand.NewPCG(1, 2))
	out := make([]byte, octets)
	for i := range out {
		out[i] = byte(r.Uint32())
	}
	return out
}

func TestFilesGoWithAMeeting(t *testing.T) {
	ilse, rui, stranger := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example"), who(t, "joana.bras@marrowby.example")
	me := schedule.Self(ilse.ID)
	agenda, drawing := []byte("%PDF-1.7\nagenda"), noise(200_000)
	first := addFile(t, me, `C:\desk\Agenda – März.pdf`, agenda)
	assert.Equal(t, "Agenda – März.pdf", first.Name)
	s := open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.People = []meeting.DraftPerson{{PersonID: rui.ID.String(), Needed: true}, {Email: "files@kirisame.example", Needed: true}}
		d.Files = []attachment.File{{ID: first.ID, Name: "what somebody calls it"}}
	}))
	_, err := service().Meetings.Attachment(t.Context(), schedule.Self(rui.ID), uuid.MustParse(first.ID))
	require.ErrorIs(t, err, schedule.ErrNotFound, "before it is sent it is its owner's alone")
	id := send(t, ilse.ID, s).MeetingID

	m := box(t, "files@kirisame.example", 1)[0]
	assert.Equal(t, []string{"Agenda – März.pdf", "invitation.ics"}, m.Attached)
	assert.Equal(t, agenda, m.Files["Agenda – März.pdf"])
	assert.Contains(t, m.Text, "- Agenda – März.pdf, 15 bytes: ")
	line := linesOf(string(m.Calendar), "ATTACH")[0]
	assert.Contains(t, line, `FILENAME=`)
	assert.Contains(t, line, "FMTTYPE=application/pdf")
	url := line[strings.Index(line, ":http")+1:]
	assert.Contains(t, m.HTML, url)
	token := strings.Split(strings.TrimPrefix(url, service().House.BaseURL+"/api/guest/"), "/")[0]
	got, err := service().Meetings.GuestAttachment(t.Context(), token, uuid.MustParse(first.ID))
	require.NoError(t, err)
	assert.Equal(t, agenda, got.Content)
	got, err = service().Meetings.Attachment(t.Context(), schedule.Self(rui.ID), uuid.MustParse(first.ID))
	require.NoError(t, err)
	assert.Equal(t, "application/pdf", got.Type)
	_, err = service().Meetings.Attachment(t.Context(), schedule.Self(stranger.ID), uuid.MustParse(first.ID))
	require.ErrorIs(t, err, schedule.ErrNotFound)

	// Another one is added: that alone goes in the mail. The one that is taken off opens no more.
	second := addFile(t, me, "Drawing.bin", drawing)
	change(t, ilse.ID, id, func(d *meeting.Draft) { d.Files = append(d.Files, second) })
	m = box(t, "files@kirisame.example", 2)[1]
	assert.Equal(t, []string{"Drawing.bin", "invitation.ics"}, m.Attached)
	assert.Contains(t, m.Text, "Changed: the files that go with it")
	assert.Equal(t, 0, look(t, ilse.ID, id).Content.Sequence, "nobody is asked again for a file")
	change(t, ilse.ID, id, func(d *meeting.Draft) { d.Files = d.Files[1:] })
	m = box(t, "files@kirisame.example", 3)[2]
	assert.Equal(t, []string{"invitation.ics"}, m.Attached, "they have it")
	assert.Contains(t, m.Text, "Drawing.bin")
	assert.NotContains(t, m.Text, "Agenda")
	_, err = service().Meetings.GuestAttachment(t.Context(), token, uuid.MustParse(first.ID))
	require.ErrorIs(t, err, schedule.ErrNotFound)
	_, err = service().Meetings.Attachment(t.Context(), schedule.Self(rui.ID), uuid.MustParse(first.ID))
	require.ErrorIs(t, err, schedule.ErrNotFound)

	// Who was taken off opens nothing any more either.
	change(t, ilse.ID, id, func(d *meeting.Draft) { d.People = d.People[:1] })
	_, err = service().Meetings.GuestAttachment(t.Context(), token, uuid.MustParse(second.ID))
	require.ErrorIs(t, err, schedule.ErrNotFound)
}

func TestFilesThatAreTooLargeForAMail(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	for _, c := range []struct {
		case_, to string
		sizes     []int
	}{
		{"more than goes in a mail", "large@kirisame.example", []int{6 << 20, 5 << 20}},
		// The post office takes 10 MB, and base64 makes four octets of three.
		{"more than the relay takes", "largish@kirisame.example", []int{9 << 20}},
	} {
		t.Run(c.case_, func(t *testing.T) {
			var files []attachment.File
			for _, size := range c.sizes {
				files = append(files, addFile(t, me, "Film.bin", noise(size)))
			}
			id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
				d.People = []meeting.DraftPerson{{Email: c.to, Needed: true}}
				d.Files = files
			}))).MeetingID
			m := box(t, c.to, 1)[0]
			assert.Equal(t, []string{"invitation.ics"}, m.Attached)
			assert.Equal(t, len(files), strings.Count(m.Text, "- Film.bin, "), "its links are there")
			eventually(t, "handed over", func() bool {
				for _, d := range look(t, ilse.ID, id).Dispatches {
					return d.State == schedule.Handed
				}
				return false
			})
		})
	}
}

func TestFilesThatCannotGo(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(ilse.ID)
	var invalid *schedule.InvalidError
	_, err := service().Sheets.AddFile(t.Context(), me, "setup.exe", []byte("MZ"))
	require.ErrorAs(t, err, &invalid)
	assert.Equal(t, "files", invalid.Faults[0].Field)

	theirs := addFile(t, schedule.Self(rui.ID), "Theirs.txt", []byte("not hers"))
	large := addFile(t, me, "Large.bin", bytes.Repeat([]byte{7}, attachment.FileLimit))
	for name, files := range map[string][]attachment.File{
		"somebody else's": {theirs},
		"not there":       {{ID: uuid.NewString(), Name: "Gone.txt"}},
		"no id":           {{ID: "../x", Name: "Gone.txt"}},
		"too large in all": {large, addFile(t, me, "Large.bin", bytes.Repeat([]byte{7}, attachment.FileLimit)),
			addFile(t, me, "One more.txt", []byte("x"))},
	} {
		t.Run(name, func(t *testing.T) {
			s := open(t, ilse.ID, draft(func(d *meeting.Draft) { d.Files = files }))
			_, err := service().Sheets.Send(t.Context(), me, s.ID, s.Version, uuid.NewString())
			require.ErrorAs(t, err, &invalid)
			assert.Equal(t, "files", invalid.Faults[0].Field)
		})
	}
}

// A file that no sheet and no meeting names is dropped after a day; one that is named stays.
func TestStrayFilesAreDropped(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	stray, named := addFile(t, me, "Stray.txt", []byte("stray")), addFile(t, me, "Named.txt", []byte("named"))
	open(t, ilse.ID, draft(func(d *meeting.Draft) { d.Files = []attachment.File{named} }))
	_, err := running.Program.Pool.Exec(t.Context(), "UPDATE file SET added_at = added_at - interval '2 days' WHERE id = ANY($1)", []string{stray.ID, named.ID})
	require.NoError(t, err)
	require.NoError(t, service().Sheets.SweepFiles(t.Context()))
	_, err = service().Meetings.Attachment(t.Context(), me, uuid.MustParse(stray.ID))
	require.ErrorIs(t, err, schedule.ErrNotFound)
	_, err = service().Meetings.Attachment(t.Context(), me, uuid.MustParse(named.ID))
	require.NoError(t, err)
}

// A series that goes on as another takes its files along.
func TestFilesOfASeriesGoOn(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	f := addFile(t, me, "Agenda.txt", []byte("each week"))
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		d.People = []meeting.DraftPerson{{Email: "seriesfiles@kirisame.example", Needed: true}}
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 6}
		d.Files = []attachment.File{f}
	}))).MeetingID
	next := changeAt(t, ilse.ID, id, sheets.Opening{At: look(t, ilse.ID, id).Content.Start.Day + 14}, func(d *meeting.Draft) {
		d.Start, d.End = strings.Replace(d.Start, "T09:30", "T11:00", 1), strings.Replace(d.End, "T10:30", "T12:00", 1)
	}).MeetingID
	require.NotEqual(t, id, next)
	for _, of := range []uuid.UUID{id, next} {
		assert.Equal(t, []attachment.File{f}, look(t, ilse.ID, of).Content.Files)
	}
	eventually(t, "they are told", func() bool { return len(running.World.Post.Box("seriesfiles@kirisame.example")) >= 3 })
	token := service().Seal.GuestToken(look(t, ilse.ID, next).Invited[0].ID, 0)
	_, err := service().Meetings.GuestAttachment(t.Context(), token, uuid.MustParse(f.ID))
	require.NoError(t, err)
}
