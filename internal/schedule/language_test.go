package schedule_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
	"jembro/internal/schedule"
)

// TestLettersInTheReadersLanguage: as the sheet says, as it was before, and above all as they say
// themselves.
func TestLettersInTheReadersLanguage(t *testing.T) {
	ilse := who(t, demo.Ilse)
	const reader = "leitora@kirisame.example"
	begin := func(language string) schedule.Sheet {
		return open(t, ilse.ID, draft(func(d *meeting.Draft) {
			outsiders(reader)(d)
			d.People[0].Language = language
		}))
	}
	id := send(t, ilse.ID, begin("pt")).MeetingID
	m := box(t, reader, 1)[0]
	assert.Contains(t, m.Subject, "Convite: ")
	assert.Contains(t, m.Text, "convida-o(a)")
	assert.Contains(t, m.HTML, `lang="pt"`)
	change(t, ilse.ID, id, func(d *meeting.Draft) { d.Text = "Tragam luvas." })
	assert.Contains(t, box(t, reader, 2)[1].Text, "Alterou-se: o texto")

	send(t, ilse.ID, begin(""))
	assert.Contains(t, box(t, reader, 3)[2].Subject, "Convite: ", "it is remembered")
	send(t, ilse.ID, begin("xx"))
	assert.Contains(t, box(t, reader, 4)[3].Subject, "Convite: ", "there is no such language")

	token := tokenOf(t, ilse.ID, id, reader)
	v, err := service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, "pt", v.Tongue.Code())
	field, _ := fieldOf(t, service().Meetings.GuestReads(t.Context(), token, "xx"))
	assert.Equal(t, "language", field)
	require.NoError(t, service().Meetings.GuestReads(t.Context(), token, "en"))
	v, err = service().Meetings.Guest(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, "en", v.Tongue.Code())
	send(t, ilse.ID, begin("pt"))
	assert.Contains(t, box(t, reader, 5)[4].Subject, "Invitation: ", "what they say themselves stands above what others say")
	require.NoError(t, service().Meetings.CallOff(t.Context(), schedule.Self(ilse.ID), id, 2, nil, ""))
	assert.Contains(t, box(t, reader, 6)[5].Subject, "Called off: ", "also of what was settled before")
}

func TestTheLanguageOfTheHouse(t *testing.T) {
	service().Sheets.Language = "pt"
	t.Cleanup(func() { service().Sheets.Language = "" })
	ilse := who(t, demo.Ilse)
	send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("casa@kirisame.example"))))
	assert.Contains(t, box(t, "casa@kirisame.example", 1)[0].Subject, "Convite: ")
}
