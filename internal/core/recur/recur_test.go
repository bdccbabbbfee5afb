package recur_test

import (
	"fmt"
	"iter"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	rrule "github.com/teambition/rrule-go"
	"pgregory.net/rapid"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// anySeries draws a rule and a start in a zone where clocks change.
func anySeries(t *rapid.T) recur.Series {
	seed := rapid.Uint64().Draw(t, "seed")
	r := made{rand.New(rand.NewPCG(seed, 1))}
	rule, err := recur.ParseRule(r.rule())
	if err != nil {
		t.Skip("the rule is none")
	}
	zone, err := when.LoadZone(rapid.SampledFrom([]string{"Europe/Lisbon", "Australia/Lord_Howe", "Asia/Tokyo"}).Draw(t, "zone"))
	require.NoError(t, err)
	if rule.Until.Set {
		rule.Until.UTC = true
	}
	start := recur.Moment{Day: when.DayOf(2026, 1, 1) + when.Day(rapid.IntRange(0, 800).Draw(t, "day")), Second: int32(60 * rapid.IntRange(0, 1439).Draw(t, "minute"))}
	return recur.Series{Start: start, Kind: recur.Zoned, Zone: zone, Rule: rule}
}

// madeRules are made-up rules that the standard allows.
func madeRules(n int) iter.Seq[recur.Rule] {
	return func(yield func(recur.Rule) bool) {
		r := made{rand.New(rand.NewPCG(5, 1))}
		for n > 0 {
			rule, err := recur.ParseRule(r.rule())
			if err != nil {
				continue
			}
			if n--; !yield(rule) {
				return
			}
		}
	}
}

func first(s recur.Series, from recur.Moment, n int) (out []recur.Moment) {
	for m := range s.From(from, &recur.Budget{Left: 300_000}) {
		out = append(out, m)
		if len(out) == n {
			break
		}
	}
	return out
}

func TestDatesAscendAreDistinctAndExist(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := anySeries(t)
		dates := first(s, s.Start, 60)
		for i, m := range dates {
			require.GreaterOrEqual(t, m.Compare(s.Start), 0)
			if i > 0 {
				require.Less(t, dates[i-1].Compare(m), 0)
			}
			_, exists := s.Zone.Resolve(when.Local{Day: m.Day, Clock: when.Clock(m.Second / 60)})
			require.True(t, exists, "%s is on the clock", m)
		}
	})
}

func TestBeginningInTheMiddleIsBeginningAtTheBeginning(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := anySeries(t)
		dates := first(s, s.Start, 40)
		if len(dates) < 2 {
			t.Skip("a thin rule")
		}
		at := rapid.IntRange(0, len(dates)-1).Draw(t, "at")
		from := dates[at]
		if rapid.Bool().Draw(t, "just after the one before") && at > 0 {
			from = recur.Moment{Day: dates[at-1].Day, Second: dates[at-1].Second + 1}
		}
		got := first(s, from, len(dates)-at)
		require.Equal(t, dates[at:], got)
	})
}

func TestRulesThatSayTheSameAreEqual(t *testing.T) {
	a, err := recur.ParseRule("FREQ=DAILY;BYHOUR=15,9;INTERVAL=1")
	require.NoError(t, err)
	b, err := recur.ParseRule("BYHOUR=9,15;FREQ=DAILY;WKST=MO")
	require.NoError(t, err)
	require.True(t, a == b)
}

func ExampleSeries_All() {
	rule, _ := recur.ParseRule("FREQ=MONTHLY;BYDAY=-1FR;COUNT=3")
	series := recur.Series{Start: recur.Moment{Day: when.DayOf(2026, 1, 30)}, Kind: recur.AllDay, Rule: rule}
	for m := range series.All() {
		fmt.Println(m.Date())
	}
	// Output:
	// 20260130
	// 20260227
	// 20260327
}

func FuzzParseRule(f *testing.F) {
	for _, s := range []string{"FREQ=DAILY", "FREQ=MONTHLY;BYDAY=-1FR,2MO;BYSETPOS=-1", "FREQ=YEARLY;BYWEEKNO=-53;BYDAY=SU;WKST=TH", "FREQ=WEEKLY;UNTIL=20260101T000000Z"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		a, err := recur.Occurrences(recur.Question{RRule: text, DTStart: "20260105T093000", Limit: 5})
		if err == nil && !slices.IsSorted(a.Instances) {
			t.Fatalf("%q descends: %v", text, a.Instances)
		}
	})
}

// The measures of DESIGN.md, 6: compare the pairs in one run (make bench).

func BenchmarkWeekly260(b *testing.B) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(b, err)
	rule, err := recur.ParseRule("FREQ=WEEKLY;COUNT=260")
	require.NoError(b, err)
	s := recur.Series{Start: recur.Moment{Day: when.DayOf(2026, 1, 5), Second: 34200}, Kind: recur.Zoned, Zone: lisbon, Rule: rule}
	var ours time.Duration // both give instants
	b.Run("ours", func(b *testing.B) {
		for b.Loop() {
			n, last := 0, when.Instant(0)
			for _, at := range s.Times(s.Start, &recur.Budget{Left: 1000}) {
				if at <= last {
					b.Fatal(at)
				}
				n, last = n+1, at
			}
			if n != 260 {
				b.Fatal(n)
			}
		}
		ours = b.Elapsed() / time.Duration(b.N)
		b.ReportMetric(1, "×ours")
	})
	b.Run("rrule-go", func(b *testing.B) {
		for b.Loop() {
			r, err := rrule.NewRRule(rrule.ROption{Freq: rrule.WEEKLY, Count: 260, Dtstart: time.Date(2026, 1, 5, 9, 30, 0, 0, lisbon.Location())})
			if err != nil {
				b.Fatal(err)
			}
			if n := len(r.All()); n != 260 {
				b.Fatal(n)
			}
		}
		b.ReportMetric(float64(b.Elapsed())/float64(b.N)/float64(ours), "×ours")
	})
}

func BenchmarkAWindowOfADailyRule(b *testing.B) {
	rule, err := recur.ParseRule("FREQ=DAILY")
	require.NoError(b, err)
	s := recur.Series{Start: recur.Moment{Day: when.DayOf(2006, 1, 2), Second: 34200}, Kind: recur.Floating, Rule: rule}
	var atStart float64
	for _, c := range []struct {
		name string
		from when.Day
	}{{"at its start", s.Start.Day}, {"20 years on", s.Start.Day + 7305}} {
		b.Run(c.name, func(b *testing.B) {
			for b.Loop() {
				if n := len(first(s, recur.Moment{Day: c.from}, 7)); n != 7 {
					b.Fatal(n)
				}
			}
			each := float64(b.Elapsed()) / float64(b.N)
			if c.from == s.Start.Day {
				atStart = each
			}
			b.ReportMetric(each/atStart, "×start")
		})
	}
}
