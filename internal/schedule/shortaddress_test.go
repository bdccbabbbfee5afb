package schedule_test

import (
	"fmt"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

func TestAShortAddress(t *testing.T) {
	ilse, rui := who(t, demo.Ilse), who(t, "rui.calado@marrowby.example")
	me := schedule.Self(ilse.ID)
	const guest = "short@kirisame.example"
	id := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders(guest)))).MeetingID
	_, err := service().Meetings.GiveAddress(t.Context(), schedule.Self(rui.ID), id, true)
	require.ErrorIs(t, err, schedule.ErrNotFound, "the organiser alone")
	a, err := service().Meetings.GiveAddress(t.Context(), me, id, false)
	require.NoError(t, err)
	assert.Regexp(t, "^[a-z0-9]{10}$", a.Code)
	v, err := service().Meetings.ByAddress(t.Context(), a.Code)
	require.NoError(t, err)
	assert.Equal(t, id, v.ID)
	join := func(name, email string) error {
		return service().Sheets.Join(t.Context(), a.Code, sheets.Brings{Name: name, Email: email})
	}
	require.ErrorIs(t, join("", "comes@kirisame.example"), schedule.ErrNotFound, "nobody is to ask")

	again, err := service().Meetings.GiveAddress(t.Context(), me, id, true)
	require.NoError(t, err)
	assert.Equal(t, a.Code, again.Code, "it stays the same")
	require.NoError(t, join("Comes Along", "comes@kirisame.example"))
	require.NoError(t, join("Twice", "Comes@kirisame.example"))
	require.NoError(t, join("", guest), "nobody learns who is invited")
	require.NoError(t, join("", demo.Ilse))
	field, _ := fieldOf(t, join("", "nobody"))
	assert.Equal(t, "email", field)
	box(t, "comes@kirisame.example", 1)
	box(t, guest, 1)
	d := look(t, ilse.ID, id)
	require.Len(t, d.Content.Participants, 2)
	assert.False(t, d.Content.Participants[1].Needed)
	assert.Equal(t, "Comes Along asked for an invitation at the short address, and got it", words.Event(tongue.Tongue{}, d.Happenings[0].Event))
	assert.Equal(t, meeting.NoAnswer, d.Invited[1].Answer, "they answer in the mail that comes to them")
	assert.NotEmpty(t, newFor(t, ilse.ID, id))

	for n := 1; n < 30; n++ {
		require.NoError(t, join("", fmt.Sprintf("comes%d@kirisame.example", n)))
	}
	_, sentence := fieldOf(t, join("", "onemore@kirisame.example"))
	assert.Contains(t, sentence, "Try again in an hour")
	d = look(t, ilse.ID, id)

	require.NoError(t, service().Meetings.WithdrawAddress(t.Context(), me, id))
	_, err = service().Meetings.ByAddress(t.Context(), a.Code)
	require.ErrorIs(t, err, schedule.ErrNotFound)
	fresh, err := service().Meetings.GiveAddress(t.Context(), me, id, false)
	require.NoError(t, err)
	assert.NotEqual(t, a.Code, fresh.Code, "made anew it is another one")
	require.NoError(t, service().Meetings.CallOff(t.Context(), me, id, d.Version, nil, ""))
	v, err = service().Meetings.ByAddress(t.Context(), fresh.Code)
	require.NoError(t, err)
	assert.NotNil(t, v.CalledOffAt, "it says that it is off")
}

// TestTheShortAddressOfASeries leads to the series that goes on, at its next date.
func TestTheShortAddressOfASeries(t *testing.T) {
	ilse := who(t, demo.Ilse)
	me := schedule.Self(ilse.ID)
	id := send(t, ilse.ID, open(t, ilse.ID, draft(func(d *meeting.Draft) {
		outsiders("shortseries@kirisame.example")(d)
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY", Ends: "after", Count: 6}
	}))).MeetingID
	a, err := service().Meetings.GiveAddress(t.Context(), me, id, true)
	require.NoError(t, err)
	first := look(t, ilse.ID, id).Content.Start.Day
	next := changeAt(t, ilse.ID, id, sheets.Opening{At: first + 7}, func(d *meeting.Draft) {
		d.Start, d.End = d.Start[:11]+"16:00", d.End[:11]+"17:00"
	}).MeetingID
	require.NotEqual(t, id, next)
	v, err := service().Meetings.ByAddress(t.Context(), a.Code)
	require.NoError(t, err)
	assert.Equal(t, next, v.ID)
	assert.Equal(t, first+7, v.Next.On)
	require.NoError(t, service().Sheets.Join(t.Context(), a.Code, sheets.Brings{Email: "joins@kirisame.example"}))
	assert.Contains(t, box(t, "joins@kirisame.example", 1)[0].Text, "5 dates")
}

// TestManyJoinAtOnce: each gets one invitation, however often they press; the language that they
// seem to read is taken where nobody knows another one.
func TestManyJoinAtOnce(t *testing.T) {
	ilse := who(t, demo.Ilse)
	id := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("first.atonce@kirisame.example")))).MeetingID
	a, err := service().Meetings.GiveAddress(t.Context(), schedule.Self(ilse.ID), id, true)
	require.NoError(t, err)
	var all sync.WaitGroup
	errs := make([]error, 12)
	for i := range errs {
		all.Go(func() {
			errs[i] = service().Sheets.Join(t.Context(), a.Code, sheets.Brings{Email: fmt.Sprintf("atonce%d@kirisame.example", i%4), Language: "pt"})
		})
	}
	all.Wait()
	for _, err := range errs {
		require.NoError(t, err)
	}
	require.Len(t, look(t, ilse.ID, id).Content.Participants, 5)
	for i := range 4 {
		assert.Contains(t, box(t, fmt.Sprintf("atonce%d@kirisame.example", i), 1)[0].Subject, "Convite: ")
	}
	box(t, "first.atonce@kirisame.example", 1)

	other := send(t, ilse.ID, open(t, ilse.ID, draft(outsiders("second.atonce@kirisame.example")))).MeetingID
	b, err := service().Meetings.GiveAddress(t.Context(), schedule.Self(ilse.ID), other, true)
	require.NoError(t, err)
	require.NoError(t, service().Sheets.Join(t.Context(), b.Code, sheets.Brings{Email: "atonce0@kirisame.example", Language: "en"}))
	assert.Contains(t, box(t, "atonce0@kirisame.example", 2)[1].Subject, "Convite: ", "who asks in somebody's name changes nothing about it")
}
