package recur_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/recur"
)

var newYork = "America/New_York"

func ask(t testing.TB, rule, start string, zone *string, limit int) recur.Answer {
	t.Helper()
	a, err := recur.Occurrences(recur.Question{RRule: rule, DTStart: start, TZID: zone, Limit: limit})
	require.NoError(t, err, rule)
	return a
}

// TestExamplesOfTheRFC: RFC 5545, 3.8.5.3, all with DTSTART in
// America/New_York; the dates are from memory of the text. The example "every
// three hours from 9 to 5" is left out: its UNTIL does not agree with its dates
// (a known erratum).
func TestExamplesOfTheRFC(t *testing.T) {
	cases := []struct{ name, rule, start, dates string }{
		{"daily for 10", "FREQ=DAILY;COUNT=10", "19970902", "0902 0903 0904 0905 0906 0907 0908 0909 0910 0911"},
		{"every other day", "FREQ=DAILY;INTERVAL=2", "19970902", "0902 0904 0906 0908 0910 …"},
		{"every 10 days, 5 times", "FREQ=DAILY;INTERVAL=10;COUNT=5", "19970902", "0902 0912 0922 1002 1012"},
		{"weekly for 10", "FREQ=WEEKLY;COUNT=10", "19970902", "0902 0909 0916 0923 0930 1007 1014 1021 1028 1104"},
		{"every other week", "FREQ=WEEKLY;INTERVAL=2;WKST=SU", "19970902", "0902 0916 0930 1014 1028 1111 1125 1209 1223 19980106 0120 0203 0217 …"},
		{"Tuesday and Thursday for five weeks", "FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", "19970902", "0902 0904 0909 0911 0916 0918 0923 0925 0930 1002"},
		{"the same by number", "FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH", "19970902", "0902 0904 0909 0911 0916 0918 0923 0925 0930 1002"},
		{"Monday, Wednesday, Friday of every other week", "FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR", "19970901",
			"0901 0903 0905 0915 0917 0919 0929 1001 1003 1013 1015 1017 1027 1029 1031 1110 1112 1114 1124 1126 1128 1208 1210 1212 1222"},
		{"Tuesday and Thursday of every other week, 8 times", "FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", "19970902", "0902 0904 0916 0918 0930 1002 1014 1016"},
		{"the first Friday", "FREQ=MONTHLY;COUNT=10;BYDAY=1FR", "19970905", "0905 1003 1107 1205 19980102 0206 0306 0403 0501 0605"},
		{"the first Friday until Christmas", "FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR", "19970905", "0905 1003 1107 1205"},
		{"first and last Sunday of every other month", "FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU", "19970907", "0907 0928 1102 1130 19980104 0125 0301 0329 0503 0531"},
		{"the Monday before the last", "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", "19970922", "0922 1020 1117 1222 19980119 0216"},
		{"the third day from the end", "FREQ=MONTHLY;BYMONTHDAY=-3", "19970928", "0928 1029 1128 1229 19980129 0226 …"},
		{"the 2nd and 15th", "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", "19970902", "0902 0915 1002 1015 1102 1115 1202 1215 19980102 0115"},
		{"the first and last day", "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1", "19970930", "0930 1001 1031 1101 1130 1201 1231 19980101 0131 0201"},
		{"the 10th to 15th every 18 months", "FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15", "19970910", "0910 0911 0912 0913 0914 0915 19990310 0311 0312 0313"},
		{"every Tuesday of every other month", "FREQ=MONTHLY;INTERVAL=2;BYDAY=TU", "19970902", "0902 0909 0916 0923 0930 1104 1111 1118 1125 19980106 0113 0120 0127 0303 0310 0317 0324 0331 …"},
		{"June and July", "FREQ=YEARLY;COUNT=10;BYMONTH=6,7", "19970610", "0610 0710 19980610 0710 19990610 0710 20000610 0710 20010610 0710"},
		{"January to March of every other year", "FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3", "19970310", "0310 19990110 0210 0310 20010110 0210 0310 20030110 0210 0310"},
		{"the 1st, 100th and 200th day of every third year", "FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200", "19970101", "0101 0410 0719 20000101 0409 0718 20030101 0410 0719 20060101"},
		{"the 20th Monday of the year", "FREQ=YEARLY;BYDAY=20MO", "19970519", "0519 19980518 19990517 …"},
		{"Monday of week 20", "FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "19970512", "0512 19980511 19990517 …"},
		{"Thursdays in March", "FREQ=YEARLY;BYMONTH=3;BYDAY=TH", "19970313", "0313 0320 0327 19980305 0312 0319 0326 19990304 0311 0318 0325 …"},
		{"Thursdays in summer", "FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8", "19970605", "0605 0612 0619 0626 0703 0710 0717 0724 0731 0807 0814 0821 0828 19980604 …"},
		{"Friday the 13th", "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "19970902", "19980213 0313 1113 19990813 20001013 …"},
		{"the Saturday after the first Sunday", "FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13", "19970913", "0913 1011 1108 1213 19980110 0207 0307 0411 0509 0613 …"},
		{"election day", "FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8", "19961105", "1105 20001107 20041102 …"},
		{"the third of Tuesday, Wednesday, Thursday", "FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "19970904", "0904 1007 1106"},
		{"the weekday before the last", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2", "19970929", "0929 1030 1127 1230 19980129 0226 0330 …"},
		{"weeks from Monday", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", "19970805", "0805 0810 0819 0824"},
		{"weeks from Sunday", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", "19970805", "0805 0817 0819 0831"},
		{"a day that February lacks", "FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", "20070115", "0115 0130 0215 0315 0330"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			want := strings.Fields(c.dates)
			endless := want[len(want)-1] == "…"
			if endless {
				want = want[:len(want)-1]
			}
			year := c.start[:4]
			for i, d := range want {
				if len(d) == 8 {
					year = d[:4]
					d = d[4:]
				}
				want[i] = year + d + "T090000"
			}
			limit := len(want)
			if !endless {
				limit += 5
			}
			a := ask(t, c.rule, c.start+"T090000", &newYork, limit)
			assert.Equal(t, want, a.Instances)
			assert.Equal(t, !endless, a.Complete)
		})
	}
}

func TestLongerExamplesOfTheRFC(t *testing.T) {
	assert.Len(t, ask(t, "FREQ=DAILY;UNTIL=19971224T000000Z", "19970902T090000", &newYork, 999).Instances, 113)
	assert.Len(t, ask(t, "FREQ=WEEKLY;UNTIL=19971224T000000Z", "19970902T090000", &newYork, 999).Instances, 17)
	january := ask(t, "FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA", "19980101T090000", &newYork, 999)
	assert.Len(t, january.Instances, 93)
	assert.Equal(t, january, ask(t, "FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1", "19980101T090000", &newYork, 999))
	assert.Equal(t, strings.Fields("19970902T090000 19970902T091500 19970902T093000 19970902T094500 19970902T100000 19970902T101500"),
		ask(t, "FREQ=MINUTELY;INTERVAL=15;COUNT=6", "19970902T090000", &newYork, 999).Instances)
	assert.Equal(t, strings.Fields("19970902T090000 19970902T103000 19970902T120000 19970902T133000"),
		ask(t, "FREQ=MINUTELY;INTERVAL=90;COUNT=4", "19970902T090000", &newYork, 999).Instances)
	byHours := ask(t, "FREQ=DAILY;BYHOUR=9,10,11,12,13,14,15,16;BYMINUTE=0,20,40", "19970902T090000", &newYork, 100)
	assert.Equal(t, byHours, ask(t, "FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10,11,12,13,14,15,16", "19970902T090000", &newYork, 100))
	assert.Equal(t, "19970902T164000", byHours.Instances[23])
	assert.Equal(t, "19970903T090000", byHours.Instances[24])
}

// TestWhereLibrariesPartFromTheRFC: the dates follow from the text of 3.3.10.
func TestWhereLibrariesPartFromTheRFC(t *testing.T) {
	cases := []struct {
		name, rule, start string
		limit             int
		dates             string
	}{
		{"YEARLY with BYMONTHDAY alone is every month", "FREQ=YEARLY;BYMONTHDAY=5", "20260105", 4, "20260105 20260205 20260305 20260405"},
		{"BYWEEKNO without a day is the weekday of the start", "FREQ=YEARLY;BYWEEKNO=20", "20260513", 3, "20260513 20270519 20280517"},
		{"week 1 begins in the year before", "FREQ=YEARLY;BYWEEKNO=1;BYDAY=MO", "20180101", 4, "20180101 20181231 20191230 20210104"},
		{"week 53 ends in the year after", "FREQ=YEARLY;BYWEEKNO=53;BYDAY=SU", "20200101", 2, "20210103 20270103"},
		{"the last week, counted from the end", "FREQ=YEARLY;BYWEEKNO=-1;BYDAY=FR", "20200101", 3, "20210101 20211231 20221230"},
		{"every other year of weeks", "FREQ=YEARLY;INTERVAL=2;BYWEEKNO=1;BYDAY=MO", "20180101", 3, "20180101 20191230 20220103"},
		{"the last day of the month under DAILY", "FREQ=DAILY;BYMONTHDAY=-1", "20260101", 3, "20260131 20260228 20260331"},
		{"the last day of the year under HOURLY", "FREQ=HOURLY;INTERVAL=24;BYYEARDAY=-1", "20260101T100000", 2, "20261231T100000 20271231T100000"},
		{"BYYEARDAY with BYMONTH is both", "FREQ=YEARLY;BYYEARDAY=1,40,60;BYMONTH=2", "20260101", 2, "20260209 20270209"},
		{"BYYEARDAY with BYMONTHDAY is both", "FREQ=YEARLY;BYYEARDAY=32,60;BYMONTHDAY=1", "20260101", 3, "20260201 20260301 20270201"},
		{"BYSETPOS counts the whole first week", "FREQ=WEEKLY;BYDAY=MO,WE,FR;BYSETPOS=1", "20260107", 2, "20260112 20260119"},
		{"BYSETPOS with several times a day", "FREQ=MONTHLY;BYDAY=MO;BYHOUR=9,15;BYSETPOS=2,-1", "20260101T090000", 4, "20260105T150000 20260126T150000 20260202T150000 20260223T150000"},
		{"hours in any order", "FREQ=DAILY;BYHOUR=15,9;BYMINUTE=30,0", "20260101T090000", 5, "20260101T090000 20260101T093000 20260101T150000 20260101T153000 20260102T090000"},
		{"a leap day every year there is one", "FREQ=YEARLY", "20240229", 2, "20240229 20280229"},
		{"the 31st skips short months", "FREQ=MONTHLY", "20260131", 3, "20260131 20260331 20260531"},
		{"the start does not count when it is no date of the rule", "FREQ=WEEKLY;BYDAY=FR;COUNT=2", "20260105", 9, "20260109 20260116"},
		{"the 53rd weekday from the end", "FREQ=YEARLY;BYDAY=-53TH", "20260101", 1, "20260101"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, strings.Fields(c.dates), ask(t, c.rule, c.start, nil, c.limit).Instances)
		})
	}
}

// TestClocksThatChange: DESIGN.md, rule 1, and RFC 5545, 3.3.10.
func TestClocksThatChange(t *testing.T) {
	lisbon := "Europe/Lisbon"
	gap := ask(t, "FREQ=DAILY;COUNT=3", "20260328T013000", &lisbon, 9)
	assert.Equal(t, strings.Fields("20260328T013000 20260330T013000 20260331T013000"), gap.Instances, "29 March has no 1:30; it is left out and not counted")
	assert.Equal(t, "20260330T003000Z", gap.UTC[1])
	twice := ask(t, "FREQ=DAILY;COUNT=2", "20261024T013000", &lisbon, 9)
	assert.Equal(t, strings.Fields("20261024T003000Z 20261025T003000Z"), twice.UTC, "25 October has 1:30 twice: the first")
	until := ask(t, "FREQ=DAILY;UNTIL=20260701T083000Z", "20260629T093000", &lisbon, 9)
	assert.Len(t, until.Instances, 3, "an end in UTC is an instant, inclusive")
	assert.Nil(t, ask(t, "FREQ=DAILY;COUNT=1", "20260328T013000", nil, 9).UTC, "floating")
	utc := ask(t, "FREQ=DAILY;COUNT=2;BYHOUR=1", "20260328T013000Z", nil, 9)
	assert.Equal(t, strings.Fields("20260328T013000Z 20260329T013000Z"), utc.Instances)
	assert.Equal(t, utc.Instances, utc.UTC)
}

func TestDatesAddedAndLeftOut(t *testing.T) {
	a, err := recur.Occurrences(recur.Question{RRule: "FREQ=WEEKLY;COUNT=4", DTStart: "20260105", Limit: 9,
		EXDates: []string{"20260112", "20260601"}, RDates: []string{"20260114", "20260119", "20260301"}})
	require.NoError(t, err)
	assert.Equal(t, strings.Fields("20260105 20260114 20260119 20260126 20260301"), a.Instances, "dates left out have been counted")
}

func TestForbiddenRulesNameThePart(t *testing.T) {
	cases := []struct{ rule, start, part string }{
		{"FREQ=DAILY;UNTIL=20260201;COUNT=3", "20260105", "COUNT"},
		{"FREQ=MONTHLY;BYWEEKNO=20", "20260105", "BYWEEKNO"},
		{"FREQ=WEEKLY;BYDAY=1MO", "20260105", "BYDAY"},
		{"FREQ=YEARLY;BYWEEKNO=3;BYDAY=1MO", "20260105", "BYDAY"},
		{"FREQ=DAILY;INTERVAL=0", "20260105", "INTERVAL"},
		{"FREQ=DAILY;COUNT=0", "20260105", "COUNT"},
		{"FREQ=DAILY;COUNT=-1", "20260105", "COUNT"},
		{"FREQ=MONTHLY;BYMONTHDAY=32", "20260105", "BYMONTHDAY"},
		{"FREQ=MONTHLY;BYMONTHDAY=0", "20260105", "BYMONTHDAY"},
		{"FREQ=YEARLY;BYYEARDAY=367", "20260105", "BYYEARDAY"},
		{"FREQ=YEARLY;BYMONTH=13", "20260105", "BYMONTH"},
		{"FREQ=YEARLY;BYMONTH=-1", "20260105", "BYMONTH"},
		{"FREQ=DAILY;BYHOUR=24", "20260105T090000", "BYHOUR"},
		{"FREQ=DAILY;BYSETPOS=0", "20260105", "BYSETPOS"},
		{"FREQ=DAILY;BYSETPOS=1", "20260105", "BYSETPOS"},
		{"FREQ=MONTHLY;BYDAY=54MO", "20260105", "BYDAY"},
		{"FREQ=MONTHLY;BYDAY=XX", "20260105", "BYDAY"},
		{"FREQ=WEEKLY;BYMONTHDAY=3", "20260105", "BYMONTHDAY"},
		{"FREQ=DAILY;BYYEARDAY=3", "20260105", "BYYEARDAY"},
		{"FREQ=DAILY;UNTIL=20260201T000000Z", "20260105", "UNTIL"},
		{"FREQ=DAILY;UNTIL=20260201", "20260105T090000", "UNTIL"},
		{"FREQ=DAILY;UNTIL=20260201T000000Z", "20260105T090000", "UNTIL"},
		{"FREQ=DAILY;UNTIL=soon", "20260105", "UNTIL"},
		{"FREQ=HOURLY", "20260105", "FREQ"},
		{"FREQ=NEVER", "20260105", "FREQ"},
		{"COUNT=3", "20260105", "FREQ"},
		{"FREQ=DAILY;FREQ=DAILY", "20260105", "FREQ"},
		{"FREQ=DAILY;BYEASTER=1", "20260105", "BYEASTER"},
		{"FREQ=DAILY;WKST=XX", "20260105", "WKST"},
		{"FREQ=DAILY;COUNT", "20260105", "COUNT"},
		{"FREQ=DAILY;COUNT=+3", "20260105", "COUNT"},
		{"FREQ=DAILY;INTERVAL=+2", "20260105", "INTERVAL"},
		{"FREQ=MONTHLY;BYMONTHDAY=-0", "20260105", "BYMONTHDAY"},
		{"FREQ=MONTHLY;BYMONTHDAY=001", "20260105", "BYMONTHDAY"},
		{"FREQ=MONTHLY;BYMONTHDAY=+-1", "20260105", "BYMONTHDAY"},
		{"FREQ=YEARLY;BYMONTH=+1", "20260105", "BYMONTH"},
		{"FREQ=YEARLY;BYMONTH=001", "20260105", "BYMONTH"},
		{"FREQ=YEARLY;BYYEARDAY=0001", "20260105", "BYYEARDAY"},
		{"FREQ=MONTHLY;BYDAY=+-1MO", "20260105", "BYDAY"},
		{"FREQ=MONTHLY;BYDAY=0MO", "20260105", "BYDAY"},
		{"FREQ=MONTHLY;BYDAY=001MO", "20260105", "BYDAY"},
		{"FREQ=DAILY;BYDAY=MO, TU", "20260105", "BYDAY"},
		{"FREQ=DAILY ;COUNT=3", "20260105", "FREQ"},
		{" FREQ=DAILY", "20260105", "FREQ"},
		{"RRULE:FREQ=DAILY", "20260105", "RRULE:FREQ"},
		{"FREQ=DAILY;", "20260105", ""},
		{"FREQ=DAILY;UNTIL=20260201T000000.5", "20260105T090000", "UNTIL"},
		{"FREQ=DAILY;UNTIL=20260201T246000", "20260105T090000", "UNTIL"},
	}
	for _, c := range cases {
		t.Run(c.rule, func(t *testing.T) {
			_, err := recur.Occurrences(recur.Question{RRule: c.rule, DTStart: c.start, Limit: 3})
			var part *recur.PartError
			require.ErrorAs(t, err, &part)
			assert.Equal(t, c.part, part.Part)
		})
	}
	_, err := recur.Occurrences(recur.Question{RRule: "FREQ=DAILY;UNTIL=20260201T000000", DTStart: "20260105T090000", TZID: &newYork, Limit: 3})
	assert.ErrorContains(t, err, "UNTIL")
}

// TestWhatTheGrammarAllowsIsRead: RFC 5545, 3.3.10 and 3.3.5.
func TestWhatTheGrammarAllowsIsRead(t *testing.T) {
	plus := ask(t, "freq=monthly;bymonthday=+01,-01;byday=+1mo,fr;count=02", "20260101T090000", nil, 9)
	assert.Equal(t, strings.Fields("20260501T090000 20260601T090000"), plus.Instances)
	assert.Equal(t, strings.Fields("20260105 20260106"), ask(t, "FREQ=DAILY;COUNT=2;BYHOUR=9,10;BYMINUTE=30", "20260105", nil, 9).Instances, "ignored with a DATE")
	leap := ask(t, "FREQ=DAILY;UNTIL=20260106T235960Z", "20260105T235959Z", nil, 9)
	assert.Equal(t, strings.Fields("20260105T235959Z 20260106T235959Z"), leap.Instances, "second 60 is second 59")
}

func TestNoRuleHangs(t *testing.T) {
	for _, rule := range []string{"FREQ=SECONDLY;INTERVAL=2;BYSECOND=1", "FREQ=MINUTELY;INTERVAL=2;BYMINUTE=1", "FREQ=SECONDLY;BYSECOND=60"} {
		_, err := recur.Occurrences(recur.Question{RRule: rule, DTStart: "20260101T000000", Limit: 3})
		assert.ErrorIs(t, err, recur.ErrTooMuch, rule)
	}
	for _, rule := range []string{"FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", "FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30", "FREQ=DAILY;BYMONTH=4;BYMONTHDAY=31"} {
		a := ask(t, rule, "20260101T000000", nil, 3)
		assert.Empty(t, a.Instances, rule)
		assert.True(t, a.Complete)
	}
}
