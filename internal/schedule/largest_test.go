package schedule_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/demo"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

// largest are the largest sheets that the contract lets through.
var largest = []struct {
	name   string
	change func(*meeting.Draft)
}{
	{"plain", func(*meeting.Draft) {}},
	{"1000AddedDays", func(d *meeting.Draft) {
		for i := range 1000 {
			d.Repeat.Added = append(d.Repeat.Added, daysAfter(d, 2*i+1))
		}
	}},
	{"1000DaysLeftOut", func(d *meeting.Draft) {
		d.Repeat.Rule = "FREQ=DAILY"
		for i := range 1000 {
			d.Repeat.Days = append(d.Repeat.Days, daysAfter(d, i))
		}
	}},
	{"1000DatesOut", func(d *meeting.Draft) {
		d.Repeat.Rule, d.Repeat.Ends = "FREQ=DAILY", "open"
		for i := range 1000 {
			d.Dates = append(d.Dates, meeting.DraftDate{On: daysAfter(d, i), Out: true})
		}
	}},
	{"1000DatesMoved", func(d *meeting.Draft) {
		d.Repeat.Rule, d.Repeat.Ends = "FREQ=DAILY", "open"
		for i := range 1000 {
			day := daysAfter(d, i)
			d.Dates = append(d.Dates, meeting.DraftDate{On: day, Start: day + "T11:00", End: day + "T12:00"})
		}
	}},
	{"300PeopleWith50Ranges", func(d *meeting.Draft) {
		d.People = nil
		for i := range 300 {
			p := meeting.DraftPerson{Email: fmt.Sprintf("p%d@njoro.example", i), Needed: true}
			for n := range 50 {
				p.Dates = append(p.Dates, meeting.DraftRange{From: daysAfter(d, 14*n), To: daysAfter(d, 14*n+6)})
			}
			d.People = append(d.People, p)
		}
	}},
	{"DailyForEver", func(d *meeting.Draft) { d.Repeat.Rule, d.Repeat.Ends = "FREQ=DAILY", "open" }},
	{"WrittenOutRule", func(d *meeting.Draft) {
		d.Repeat.Rule, d.Repeat.Ends = "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR,SA,SU,1MO,-1FR,2TU,-2WE;BYSETPOS=1,2,3,4,5,-1,-2,-3,-4,-5", "open"
	}},
	{"RareRule", func(d *meeting.Draft) {
		d.Repeat.Rule, d.Repeat.Ends = "FREQ=DAILY;INTERVAL=7;BYMONTH=2;BYMONTHDAY=29", "open"
	}},
	{"UntilTheLastYear", func(d *meeting.Draft) {
		d.Repeat.Rule, d.Repeat.Ends, d.Repeat.Until = "FREQ=DAILY", "on", "2199-12-31"
	}},
	{"100000Dates", func(d *meeting.Draft) { d.Repeat.Rule, d.Repeat.Ends, d.Repeat.Count = "FREQ=DAILY", "after", 100000 }},
}

func daysAfter(d *meeting.Draft, n int) string {
	t, err := time.Parse("2006-01-02T15:04", d.Start)
	if err != nil {
		return ""
	}
	return t.AddDate(0, 0, n).Format(time.DateOnly)
}

// forEver has a series without an end; nobody else here asks for her time.
const forEver = "rosa.weidmann@marrowby.example"

// changeOne begins to change one date of a daily series without an end.
func changeOne(t testing.TB) schedule.Sheet {
	rosa := who(t, forEver)
	sent := send(t, rosa.ID, open(t, rosa.ID, draft(func(d *meeting.Draft) {
		d.Start, d.End = "2027-06-01T09:30", "2027-06-01T10:30"
		d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=DAILY", Ends: "open"}
	})))
	at, err := when.ParseDay("2027-06-10")
	require.NoError(t, err)
	s, err := service().Sheets.ChangeMeeting(t.Context(), schedule.Self(rosa.ID), sent.MeetingID, sheets.Opening{At: at, One: true})
	require.NoError(t, err)
	return s
}

func TestTheDatesOfAChangeToOneOfManyForEver(t *testing.T) {
	s := changeOne(t)
	// Looking to the end of days took 35 s: a request is given up after ten.
	ctx, cancel := context.WithTimeout(t.Context(), 10*time.Second)
	defer cancel()
	d, err := service().Sheets.SheetDates(ctx, schedule.Self(who(t, forEver).ID), sheets.DatesQuestion{SheetID: s.ID})
	require.NoError(t, err)
	assert.Len(t, d.Dates, 121)
	assert.False(t, d.More)
}

// BenchmarkOneOfManyForEver: the dates of a change to one date of a daily series
// without an end.
func BenchmarkOneOfManyForEver(b *testing.B) {
	s, rosa := changeOne(b), who(b, forEver)
	for b.Loop() {
		_, err := service().Sheets.SheetDates(b.Context(), schedule.Self(rosa.ID), sheets.DatesQuestion{SheetID: s.ID})
		require.NoError(b, err)
	}
}

// BenchmarkLargestSheets: a look at the dates of the largest sheets that are
// allowed, a fault in them included, beside a plain one.
func BenchmarkLargestSheets(b *testing.B) {
	ilse := who(b, demo.Ilse)
	for _, c := range largest {
		b.Run(c.name, func(b *testing.B) {
			s := open(b, ilse.ID, draft(func(d *meeting.Draft) {
				d.Start, d.End = "2027-01-12T09:30", "2027-01-12T10:30"
				d.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=TU", Ends: "after", Count: 104}
				c.change(d)
			}))
			for b.Loop() {
				_, err := service().Sheets.SheetDates(b.Context(), schedule.Self(ilse.ID), sheets.DatesQuestion{SheetID: s.ID})
				require.NoError(b, err)
			}
		})
	}
}
