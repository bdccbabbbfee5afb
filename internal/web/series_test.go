package web_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
	"jembro/internal/web/api"
)

// repeats makes a draft a series of five Mondays.
func repeats(d *api.Draft) {
	d.Start, d.End = "2027-05-10T09:30", "2027-05-10T10:30"
	d.Repeat = &api.DraftRepeat{Rule: "every Monday", Ends: "after", Count: 5, Days: []string{}, Added: []string{}}
	d.People = []api.DraftPerson{{Name: "Tomé Akande", Email: "tome.akande@marrowby.example", Needed: true, Dates: []api.DraftRange{}}}
}

func TestASeriesOverHTTP(t *testing.T) {
	ilse, tome := signedIn(t, demo.Ilse), signedIn(t, "tome.akande@marrowby.example")
	s := ilse.sheet(repeats)
	status, b := ilse.call("GET", "/api/sheets/"+s.ID.String()+"/dates?equipment=wall+screen", nil, nil)
	require.Equal(t, 200, status, "%s", b)
	dates := as[api.SheetDates](t, b)
	assert.Equal(t, "every Monday until 7 June", dates.Words)
	assert.Equal(t, 5, dates.Count)
	require.Len(t, dates.Dates, 5)
	assert.Equal(t, "2027-05-10", dates.Dates[0].On)
	status, b = tome.call("GET", "/api/sheets/"+s.ID.String()+"/dates", nil, nil)
	assert.Equal(t, 404, status, "another's sheet: %s", b)

	status, b = ilse.send(s)
	require.Equal(t, 200, status, "%s", b)
	path := "/api/meetings/" + as[api.Sent](t, b).MeetingID.String()
	series := func(c client) api.Series {
		t.Helper()
		_, b := c.call("GET", path, nil, nil)
		m := as[api.Meeting](t, b)
		require.NotNil(t, m.Series, "%s", b)
		return *m.Series
	}
	require.Len(t, series(ilse).Dates, 5)

	// One date is answered; the organiser sees to which.
	give := map[string]any{"answer": "declined", "comment": "On leave", "sequence": 0, "on": "2027-05-17"}
	status, b = tome.call("POST", path+"/answer", give, nil)
	require.Equal(t, 204, status, "%s", b)
	assert.Equal(t, api.AnswerDeclined, series(ilse).Dates[1].Answers[0].Answer)
	assert.Equal(t, api.AnswerDeclined, *series(tome).Dates[1].Mine)
	assert.Equal(t, api.AnswerNone, *series(tome).Dates[0].Mine)

	// Changes begin at a date, alone or to the end, moved or not.
	status, b = ilse.call("POST", path+"/sheet", map[string]any{"at": "2027-05-24", "start": "2027-05-24T10:00:00Z", "one": true}, nil)
	require.Equal(t, 200, status, "%s", b)
	change := as[api.Sheet](t, b)
	assert.Equal(t, "2027-05-24T11:00", change.Draft.Start, "the clock of the meeting")
	assert.Equal(t, api.DraftScope{At: "2027-05-24", From: "2027-05-24", To: "2027-05-24"}, *change.Draft.Scope)
	require.Len(t, change.Due, 1)
	assert.Equal(t, "24 May", change.Due[0].Words)
	status, b = ilse.send(change)
	require.Equal(t, 200, status, "%s", b)
	assert.Equal(t, "2027-05-24T10:00:00Z", series(ilse).Dates[2].Start.Format("2006-01-02T15:04:05Z"))

	status, b = ilse.call("POST", path+"/calloff", map[string]any{"word": "", "from": "2027-05-31", "to": "2027-05-31"}, ifMatch(2))
	require.Equal(t, 204, status, "%s", b)
	assert.Equal(t, api.SeriesDateStateOff, series(ilse).Dates[3].State)
	assert.Equal(t, 4, series(ilse).Left)
}

func TestSeriesAreRefusedAtTheField(t *testing.T) {
	ilse := signedIn(t, demo.Ilse)
	_, b := ilse.send(ilse.sheet(func(d *api.Draft) { repeats(d); d.People = nil }))
	path := "/api/meetings/" + as[api.Sent](t, b).MeetingID.String()
	cases := []struct {
		name, field string
		do          func() (int, []byte)
	}{
		{"words that are no rule", "repeat.rule", func() (int, []byte) {
			return ilse.send(ilse.sheet(func(d *api.Draft) { repeats(d); d.Repeat.Rule = "now and then" }))
		}},
		{"no number of dates", "repeat.end", func() (int, []byte) {
			return ilse.send(ilse.sheet(func(d *api.Draft) { repeats(d); d.Repeat.Count = 0 }))
		}},
		{"a day that is none", "repeat.days", func() (int, []byte) {
			return ilse.send(ilse.sheet(func(d *api.Draft) { repeats(d); d.Repeat.Days = []string{"soon"} }))
		}},
		{"a date that ends before it starts", "dates.2027-05-17", func() (int, []byte) {
			return ilse.send(ilse.sheet(func(d *api.Draft) {
				repeats(d)
				d.Dates = []api.DraftDate{{On: "2027-05-17", Start: "2027-05-18T10:00", End: "2027-05-18T09:00"}}
			}))
		}},
		{"somebody for a range that is none", "people.0", func() (int, []byte) {
			return ilse.send(ilse.sheet(func(d *api.Draft) { repeats(d); d.People[0].Dates = []api.DraftRange{{From: "x", To: "y"}} }))
		}},
		{"a change that begins nowhere", "at", func() (int, []byte) {
			return ilse.call("POST", path+"/sheet", map[string]string{"at": "the third"}, nil)
		}},
		{"an answer to no day", "on", func() (int, []byte) {
			return ilse.call("POST", path+"/answer", map[string]any{"answer": "accepted", "comment": "", "sequence": 0, "on": "x"}, nil)
		}},
		{"calling off from no day", "from", func() (int, []byte) {
			return ilse.call("POST", path+"/calloff", map[string]string{"word": "", "from": "x"}, ifMatch(1))
		}},
		{"calling off where there is no date", "scope", func() (int, []byte) {
			return ilse.call("POST", path+"/calloff", map[string]string{"word": "", "from": "2028-05-10"}, ifMatch(1))
		}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			status, b := c.do()
			assert.Equal(t, 422, status, "%s", b)
			var p api.Problem
			require.NoError(t, json.Unmarshal(b, &p))
			require.NotNil(t, p.Errors, "%s", b)
			assert.Equal(t, c.field, (*p.Errors)[0].Field)
			assert.NotEmpty(t, (*p.Errors)[0].Detail)
		})
	}
}

func TestATakenRoomNamesEveryDateOfASeries(t *testing.T) {
	ilse, rui := signedIn(t, demo.Ilse), signedIn(t, "rui.calado@marrowby.example")
	at := func(d *api.Draft) {
		repeats(d)
		d.Start, d.End = "2027-05-10T13:00", "2027-05-10T14:00"
		d.NoRoom, d.RoomID, d.People = false, aRoom(t, ilse), []api.DraftPerson{}
	}
	status, b := rui.send(rui.sheet(func(d *api.Draft) { at(d); d.Repeat.Rule = "every 2nd Monday"; d.Repeat.Count = 2 }))
	require.Equal(t, 200, status, "%s", b)
	status, b = ilse.send(ilse.sheet(at))
	require.Equal(t, 409, status)
	p := as[api.Problem](t, b)
	require.Len(t, *p.TakenDates, 2)
	assert.Equal(t, "2027-05-10", (*p.TakenDates)[0].On)
	assert.Equal(t, "2027-05-24", (*p.TakenDates)[1].On)
	assert.Contains(t, *p.Detail, "is taken on 10 May by Rui Calado and ")
}
