package postgres

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/everyfield"
)

// TestEveryContentRoundTrips: whatever a version holds is read back as it was.
func TestEveryContentRoundTrips(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		day := rapid.Custom(func(t *rapid.T) when.Day {
			return when.Day(rapid.IntRange(int(when.DayOf(1900, 1, 1)), int(when.DayOf(2199, 12, 31))).Draw(t, "day"))
		})
		days := rapid.SliceOfN(day, 0, 3)
		text := rapid.StringMatching(`[a-zúß"\\<>;,]{0,8}`)
		local := rapid.Custom(func(t *rapid.T) when.Local {
			return when.Local{Day: day.Draw(t, "on"), Clock: when.Clock(rapid.IntRange(0, 1439).Draw(t, "clock"))}
		})
		ranges := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) series.Range {
			r := series.Range{From: day.Draw(t, "from")}
			if rapid.Bool().Draw(t, "from the first") {
				r.From = series.Ever
			}
			if rapid.Bool().Draw(t, "with an end") {
				r.To = day.Draw(t, "to")
			}
			return r
		}), 0, 3)
		m := meeting.Meeting{UID: "uid", Sequence: rapid.IntRange(0, 9).Draw(t, "sequence"), Title: text.Draw(t, "title"), Text: text.Draw(t, "text"),
			Start: local.Draw(t, "start"), End: local.Draw(t, "end"), Zone: "Europe/Lisbon", TakenOff: rapid.SliceOfN(text, 1, 2).Draw(t, "off")}
		for i := range rapid.IntRange(0, 3).Draw(t, "people") {
			p := meeting.Participant{ID: string(rune('a' + i)), Party: meeting.Party{Name: text.Draw(t, "name")}, Dates: ranges.Draw(t, "dates"), Single: rapid.Bool().Draw(t, "single"),
				Answer: rapid.SampledFrom([]meeting.Answer{"", meeting.Accepted}).Draw(t, "answer")}
			for _, on := range days.Draw(t, "answered") {
				p.Answers = append(p.Answers, meeting.DateAnswer{On: on, Answer: meeting.Declined})
				p.Told = append(p.Told, meeting.Told{ID: when.Instant(int64(on) * 86400), Gone: rapid.Bool().Draw(t, "gone")})
			}
			if len(p.Dates) == 0 {
				p.Dates = nil
			}
			m.Participants = append(m.Participants, p)
		}
		if rapid.Bool().Draw(t, "repeats") {
			rule, err := recur.ParseRule(rapid.SampledFrom([]string{"FREQ=WEEKLY;BYDAY=MO,TU", "FREQ=MONTHLY;BYDAY=-1FR;UNTIL=20280101T093000Z"}).Draw(t, "rule"))
			require.NoError(t, err)
			rep := &meeting.Series{Asked: meeting.DraftRepeat{Rule: rule.String(), Ends: "open"}}
			rep.Rule, rep.RDates, rep.ExDates, rep.Dropped = rule, orNone(days.Draw(t, "added")), orNone(days.Draw(t, "left")), orNone(days.Draw(t, "dropped"))
			for _, on := range days.Draw(t, "own") {
				empty := ""
				rep.Overrides = append(rep.Overrides, meeting.Override{On: on, Text: &empty, NoRoom: rapid.Bool().Draw(t, "no room")})
				rep.Moved = append(rep.Moved, series.Moved{On: on, Start: local.Draw(t, "moved"), End: local.Draw(t, "until")})
			}
			m.Series = rep
		}
		raw, err := writeSnapshot(m)
		require.NoError(t, err)
		var back meeting.Meeting
		require.NoError(t, readSnapshot(snapshotSchema, raw, &back))
		require.Equal(t, m, back)
	})
}

// TestEveryFieldOfAVersionComesBack: none is forgotten in what is stored.
func TestEveryFieldOfAVersionComesBack(t *testing.T) {
	rule, err := recur.ParseRule("FREQ=MONTHLY;BYDAY=-1FR;UNTIL=20280101T093000Z")
	require.NoError(t, err)
	var m meeting.Meeting
	everyfield.Fill(t, &m, everyfield.With{
		reflect.TypeFor[when.Day]():   when.DayOf(2027, 3, 5),
		reflect.TypeFor[when.Local](): when.Local{Day: when.DayOf(2027, 3, 5), Clock: 9 * 60},
		reflect.TypeFor[recur.Rule](): rule,
		reflect.TypeFor[say.What]():   say.It("series.noDate"),
	})
	m.Series.Asked.Weekends = false // what was left out by it stands in the rule
	m.Series.Skipped = nil          // known where it is settled, for its organiser
	raw, err := writeSnapshot(m)
	require.NoError(t, err)
	var back meeting.Meeting
	require.NoError(t, readSnapshot(snapshotSchema, raw, &back))
	require.Equal(t, m, back)
}

func orNone(days []when.Day) []when.Day {
	if len(days) == 0 {
		return nil
	}
	return days
}
