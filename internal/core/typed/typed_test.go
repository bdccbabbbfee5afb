package typed_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/tongue"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

var today = when.DayOf(2026, 11, 24) // a Tuesday

func reader(order typed.Order) typed.Reader {
	return typed.Reader{Words: words.Typed, Today: today, Order: order}
}

// say writes what was read, so that a table can hold it.
func say(w typed.When, err *typed.Error) string {
	if err != nil {
		return "! " + string(err.Kind)
	}
	var out []string
	if w.HasDay {
		out = append(out, w.Day.String())
	}
	if w.HasStart {
		out = append(out, w.Start.String())
	}
	if w.HasEnd {
		out = append(out, "to "+w.End.String())
	}
	if w.HasLength {
		out = append(out, "for "+words.Length(tongue.Tongue{}, w.Length))
	}
	if w.Shift != 0 {
		out = append(out, fmt.Sprintf("shift %d", int(w.Shift.Minutes())))
	}
	return strings.Join(out, " ")
}

// The tables are common practice: what people type into a field for a day or a time.
// Lines are an input and what it is read as.

const days = `
today | 2026-11-24
Today | 2026-11-24
tomorrow | 2026-11-25
TOMORROW | 2026-11-25
tmrw | 2026-11-25
day after tomorrow | 2026-11-26
the day after tomorrow | 2026-11-26
yesterday | 2026-11-23
fri | 2026-11-27
Friday | 2026-11-27
fr | 2026-11-27
fri. | 2026-11-27
tue | 2026-11-24
tues | 2026-11-24
wednesday | 2026-11-25
mon | 2026-11-30
sunday | 2026-11-29
this friday | 2026-11-27
this tue | 2026-11-24
this mon | 2026-11-23
next tue | 2026-12-01
next Tuesday | 2026-12-01
next fri | 2026-12-04
next mon | 2026-11-30
next week | 2026-12-01
in 2 weeks | 2026-12-08
in two weeks | 2026-12-08
in a week | 2026-12-01
in 3 days | 2026-11-27
in 1 day | 2026-11-25
in a month | 2026-12-24
in 3 months | 2027-02-24
in a year | 2027-11-24
+7 | 2026-12-01
+ 7 | 2026-12-01
+1 | 2026-11-25
+2w | 2026-12-08
+2 weeks | 2026-12-08
+30 days | 2026-12-24
3 dec | 2026-12-03
3 Dec | 2026-12-03
3. Dec | 2026-12-03
3 Dec. | 2026-12-03
03 december | 2026-12-03
3rd december | 2026-12-03
3rd of December | 2026-12-03
the 3rd | ! notADay
December 3rd, 2026 | 2026-12-03
December 3 | 2026-12-03
Dec 3 | 2026-12-03
dec 3, 2026 | 2026-12-03
Dec. 3 | 2026-12-03
3 Dec 2027 | 2027-12-03
3 Dec '27 | 2027-12-03
3 dec 27 | 2027-12-03
3-Dec-2026 | 2026-12-03
3dec | 2026-12-03
dec3 | 2026-12-03
1st jan | 2027-01-01
5 jan | 2027-01-05
sept 2 2027 | 2027-09-02
2 Sep 2027 | 2027-09-02
Thu 3 Dec | 2026-12-03
Thursday 3 December | 2026-12-03
Thursday, 3 December 2026 | 2026-12-03
thu, dec 3 | 2026-12-03
Thu 3 Dec 2026 | 2026-12-03
Mon 5 Jan | 2026-01-05
Tue 5 Jan | 2027-01-05
Fri 3 Dec | 2027-12-03
Fri 3 Dec 2026 | ! otherDay
Sun 3 Dec | ! otherDay
3 nov | 2026-11-03
23 nov | 2026-11-23
24 Nov | 2026-11-24
1 june | 2026-06-01
20 may | 2027-05-20
30 May | 2026-05-30
3/12 | 2026-12-03
12/3 | 2027-03-12
3/12/2026 | 2026-12-03
3/12/26 | 2026-12-03
13/12 | 2026-12-13
12/13 | 2026-12-13
3.12. | 2026-12-03
3.12 | 2026-12-03
03.12. | 2026-12-03
3. 12. | 2026-12-03
3.12.2026 | 2026-12-03
3.12.27 | 2027-12-03
3-12 | 2026-12-03
03-12-2026 | 2026-12-03
2026-12-03 | 2026-12-03
2026-12-3 | 2026-12-03
2026/12/03 | 2026-12-03
2026.12.03 | 2026-12-03
20261203 | 2026-12-03
３／１２ | 2026-12-03
3 | 2026-12-03
3rd | 2026-12-03
24 | 2026-11-24
30 | 2026-11-30
31 | 2026-12-31
fri 13 | 2027-08-13
week 12 | 2027-03-22
w50 | 2026-12-07
W1 2027 | 2027-01-04
2027-W12 | 2027-03-22
week 53 | 2026-12-28
29.2. | 2028-02-29
29 Feb 2028 | 2028-02-29
29 feb 2027 | ! noSuchDay
31.2. | ! noSuchDay
30/2/2028 | ! noSuchDay
31 apr | ! noSuchDay
32 dec | ! noSuchDay
1.13.2026 | ! noSuchDay
3 dec 1815 | 2026-12-03 18:15
3 dec 0800 | 2026-12-03 8:00
3 dec 9999 | ! outOfBounds
+9999999 | ! notADay
 | ! notADay
soon | ! notADay
3 foo | ! notADay
next | ! notADay
dec | ! notADay
3/ | ! notADay
/12 | ! notADay
1/2/3/4 | ! notADay
0 | ! notADay
0.12. | ! notADay
week 60 | ! notADay
next tue 9h30 | 2026-12-01 9:30
3 dec 14:00 | 2026-12-03 14:00
3 dec 9 | 2026-12-03 9:00
3 dec 10 | 2026-12-03 10:00
3 Dec at 2pm | 2026-12-03 14:00
tomorrow at noon | 2026-11-25 12:00
tomorrow, 9-10:30 | 2026-11-25 9:00 to 10:30
next tue 9h30 for 2h | 2026-12-01 9:30 for 2 h
2pm tomorrow | 2026-11-25 14:00
fri 14:00-15:30 | 2026-11-27 14:00 to 15:30
in 2 weeks 9:30 | 2026-12-08 9:30
`

const starts = `
9 | 9:00
09 | 9:00
0 | 0:00
14 | 14:00
930 | 9:30
0930 | 9:30
1430 | 14:30
9:30 | 9:30
09:30 | 9:30
9.30 | 9:30
9h30 | 9:30
9h | 9:00
9 h | 9:00
14 h | 14:00
9 h 30 | 9:30
9:30h | 9:30
9:30 h | 9:30
9:30am | 9:30
9:30 am | 9:30
9:30 AM | 9:30
9:30 a.m. | 9:30
9:30pm | 21:30
9.30pm | 21:30
930pm | 21:30
2pm | 14:00
2 pm | 14:00
2p | 14:00
2 p.m. | 14:00
12pm | 12:00
12am | 0:00
12:30am | 0:30
noon | 12:00
midday | 12:00
midnight | 0:00
24:00 | 24:00
24 | 24:00
0:00 | 0:00
00:00 | 0:00
9 o'clock | 9:00
9 o’clock | 9:00
nine | 9:00
half past 9 | 9:30
half past nine | 9:30
quarter past 9 | 9:15
quarter to 10 | 9:45
a quarter to ten | 9:45
at 9 | 9:00
at 9:30 | 9:30
9:30:00 | 9:30
２：３０ | 2:30
 23:59  | 23:59
9-10 | 9:00 to 10:00
9–10:30 | 9:00 to 10:30
9 to 10:30 | 9:00 to 10:30
from 9 to 10 | 9:00 to 10:00
9:30 until 11 | 9:30 to 11:00
2-3pm | 14:00 to 15:00
11-1pm | 11:00 to 13:00
22-24 | 22:00 to 24:00
22:00 - midnight | 22:00 to 24:00
9h30 for 2h | 9:30 for 2 h
9 for 45 min | 9:00 for 45 min
9:30 +45 | 9:30 for 45 min
9:30 for an hour and a half | 9:30 for 1 h 30
+45 | shift 45
-15 | shift -15
−15 | shift -15
+1h | shift 60
+1h30 | shift 90
+90 min | shift 90
next tue 9h30 | 2026-12-01 9:30
3/12 9:30 | 2026-12-03 9:30
9:30 3/12 | 2026-12-03 9:30
25 | ! noSuchTime
24:30 | ! noSuchTime
9:60 | ! noSuchTime
13pm | ! noSuchTime
0am | ! noSuchTime
2599 | ! noSuchTime
half past | ! notATime
9:3 | ! notATime
9: | ! notATime
12345 | ! notATime
-1- | ! notATime
 | ! notATime
whenever | ! notATime
+ | ! notATime
`

// The meeting starts at 9:30.
const ends = `
10:30 | to 10:30
1030 | to 10:30
11 | to 11:00
10h30 | to 10:30
12h | to 12:00
noon | to 12:00
midnight | to 24:00
24:00 | to 24:00
0:00 | to 24:00
0:30 | to 0:30
3pm | to 15:00
+45 | for 45 min
+ 45 | for 45 min
45 min | for 45 min
45min | for 45 min
45 minutes | for 45 min
45m | for 45 min
45' | for 45 min
90 min | for 1 h 30
1h30 | for 1 h 30
1h | for 1 h
1 h | for 1 h
1 h 30 | for 1 h 30
12 h | for 12 h
1h30m | for 1 h 30
1 hour | for 1 h
2 hours | for 2 h
2 hrs | for 2 h
1 hour 30 minutes | for 1 h 30
1 hour and 30 minutes | for 1 h 30
1.5h | for 1 h 30
1,5 h | for 1 h 30
1.5 hours | for 1 h 30
1½ h | for 1 h 30
½ h | for 30 min
half an hour | for 30 min
an hour | for 1 h
an hour and a half | for 1 h 30
two hours | for 2 h
for 2 h | for 2 h
for 45 min | for 45 min
for an hour | for 1 h
2 days | for 48 h
1 week | for 168 h
a day | for 24 h
+1h | for 1 h
-15 | ! notATime
0 min | ! notATime
3 dec 10:30 | 2026-12-03 10:30
h | ! notATime
1h75 | ! noSuchTime
99999999 h | ! notATime
`

func lines(t *testing.T, table string) (out [][2]string) {
	for line := range strings.SplitSeq(strings.Trim(table, "\n"), "\n") {
		text, want, ok := strings.Cut(line, " | ")
		require.True(t, ok, line)
		out = append(out, [2]string{text, want})
	}
	return out
}

func TestWhatPeopleType(t *testing.T) {
	r := reader(typed.DayFirst)
	inputs := 0
	for _, field := range []struct {
		name, table string
		read        func(string) (typed.When, *typed.Error)
	}{
		{"day", days, r.Day}, {"start", starts, r.Start},
		{"end", ends, func(text string) (typed.When, *typed.Error) { return r.End(text, when.ClockOf(9, 30)) }},
	} {
		for _, line := range lines(t, field.table) {
			inputs++
			t.Run(field.name+" "+line[0], func(t *testing.T) { assert.Equal(t, line[1], say(field.read(line[0]))) })
		}
	}
	assert.GreaterOrEqual(t, inputs, 200)
}

func TestDaysInNumbersFollowTheRegion(t *testing.T) {
	for _, c := range []struct {
		order      typed.Order
		text, want string
	}{
		{typed.DayFirst, "3/12", "2026-12-03"}, {typed.MonthFirst, "3/12", "2027-03-12"}, {typed.MonthFirst, "12/3", "2026-12-03"},
		{typed.MonthFirst, "12/03/2026", "2026-12-03"}, {typed.MonthFirst, "13/12", "2026-12-13"}, {typed.MonthFirst, "3.12.", "2026-12-03"},
		{typed.MonthFirst, "12-3", "2026-12-03"}, {typed.YearFirst, "12/3", "2026-12-03"}, {typed.YearFirst, "26/12/3", "2026-12-03"},
		{typed.YearFirst, "2026/12/3", "2026-12-03"}, {"", "3/12", "2026-12-03"},
	} {
		assert.Equal(t, c.want, say(reader(c.order).Day(c.text)), "%s %s", c.order, c.text)
	}
}

func TestMonthsToJumpTo(t *testing.T) {
	for text, want := range map[string]string{"mar 2027": "2027-03-01", "march": "2027-03-01", "nov": "2026-11-01", "2027": "2027-01-01",
		"week 12": "2027-03-22", "3 dec": "2026-12-03", "sep": "2026-09-01", "9999": "! outOfBounds", "mar 9999": "! outOfBounds", "x": "! notADay"} {
		day, err := reader(typed.DayFirst).Month(text)
		assert.Equal(t, want, say(typed.When{Day: day, HasDay: true}, err), text)
	}
}

// What is written out anywhere reads back as what it was.
func TestWhatIsWrittenOutReadsBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := reader(rapid.SampledFrom([]typed.Order{typed.DayFirst, typed.MonthFirst, typed.YearFirst}).Draw(t, "order"))
		r.Today = when.Day(rapid.IntRange(int(when.DayOf(2020, 1, 1)), int(when.DayOf(2100, 1, 1))).Draw(t, "today"))
		day := when.Day(rapid.IntRange(int(when.DayOf(when.FirstYear, 1, 1)), int(when.DayOf(when.LastYear, 12, 31))).Draw(t, "day"))
		for _, text := range []string{day.String(), words.FullDay(tongue.Tongue{}, day)} {
			w, err := r.Day(text)
			require.Nil(t, err, text)
			require.Equal(t, day, w.Day, text)
		}
		// without a year, where the screen leaves it out
		year, _, _ := r.Today.Date()
		own := when.DayOf(year, 1, 1) + when.Day(rapid.IntRange(0, 364).Draw(t, "own"))
		w, err := r.Day(own.Weekday().String()[:3] + " " + words.ShortDay(tongue.Tongue{}, own))
		require.Nil(t, err)
		require.Equal(t, own, w.Day)

		clock := when.Clock(rapid.IntRange(0, 1440).Draw(t, "clock"))
		w, err = r.Start(clock.String())
		require.Nil(t, err)
		require.Equal(t, clock, w.Start)
		start := when.Clock(rapid.IntRange(0, 1439).Draw(t, "start"))
		length := time.Duration(rapid.IntRange(1, 31*24*60).Draw(t, "length")) * time.Minute
		w, err = r.End(words.Length(tongue.Tongue{}, length), start)
		require.Nil(t, err, words.Length(tongue.Tongue{}, length))
		require.Equal(t, length, w.Length, words.Length(tongue.Tongue{}, length))
	})
}

// Whatever is typed is read as something that there is, or not at all, and its case and
// the white space around it do not matter.
func FuzzRead(f *testing.F) {
	for _, table := range []string{days, starts, ends} {
		for line := range strings.SplitSeq(strings.Trim(table, "\n"), "\n") {
			text, _, _ := strings.Cut(line, " | ")
			f.Add(text, "dmy")
		}
	}
	f.Add(strings.Repeat("9", 99), "mdy")
	f.Add(strings.Repeat("3 dec ", 16), "ymd")
	f.Add("\x00\xff+1/2/3", "")
	f.Fuzz(func(t *testing.T, text, order string) {
		r := reader(typed.Order(order))
		for _, read := range []func(string) (typed.When, *typed.Error){r.Day, r.Start,
			func(s string) (typed.When, *typed.Error) { return r.End(s, when.ClockOf(9, 30)) },
			func(s string) (typed.When, *typed.Error) {
				d, err := r.Month(s)
				return typed.When{Day: d, HasDay: true}, err
			}} {
			w, err := read(text)
			if err != nil {
				assert.NotEmpty(t, words.English(err.What(text)))
				continue
			}
			if w.HasDay {
				_, outside := when.ParseDay(w.Day.String())
				assert.NoError(t, outside)
			}
			assert.True(t, w.Start >= 0 && w.Start <= 1440 && w.End >= 0 && w.End <= 1440)
			assert.True(t, w.Length >= 0 && w.HasLength == (w.Length > 0))
			if len(text) < typed.Limit-2 {
				again, err := read(" " + text + " ")
				assert.Nil(t, err)
				assert.Equal(t, w, again)
			}
		}
	})
}

func ExampleReader_Start() {
	r := typed.Reader{Words: words.Typed, Today: when.DayOf(2026, 11, 24), Order: typed.DayFirst}
	w, _ := r.Start("next tue 9h30 for 2 h")
	fmt.Println(w.Day, w.Start, w.Length)
	// Output: 2026-12-01 9:30 2h0m0s
}

func TestLengths(t *testing.T) {
	r := typed.Reader{Words: words.Typed, Today: when.DayOf(2026, 11, 24), Order: typed.DayFirst}
	for text, want := range map[string]time.Duration{
		"45 min": 45 * time.Minute, "45": 45 * time.Minute, "90": 90 * time.Minute, "1h30": 90 * time.Minute, "1 h 30": 90 * time.Minute, "1:30": 90 * time.Minute,
		"2 h": 2 * time.Hour, "2": 2 * time.Hour, "2 hours": 2 * time.Hour, "9": 9 * time.Hour, "10": 10 * time.Minute, "2 days": 48 * time.Hour, "an hour": time.Hour,
		"": 0, "soon": 0, "0": 0, "-5": 0, "2pm": 0, "fri": 0, "99999999999999999999": 0, "9:75": 0,
	} {
		got, err := r.Length(text)
		assert.Equal(t, want, got, text)
		assert.Equal(t, want == 0, err != nil, text)
	}
}
