package rooms

import (
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/meeting"
	core "jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

// TypedRules are rules of a room as people type them: lengths, clocks, hours and days as
// they are read everywhere, "" for none.
type TypedRules struct {
	By                  core.By
	People              []string
	Others              core.Others
	Longest, Ahead, Gap string
	Open                [7]string // "8:00 – 12:00, 13 – 18", for each time.Weekday
	Holidays            bool
	Closed              string // days with commas or lines between them
	Share               int
	AgreeAlways         bool
	AgreeAbove          string
	AgreeAfter          string
	AgreeWithin         int
	Outside             bool
}

// Type is rules as people would type them; Read reads them as the same.
func Type(in tongue.Tongue, r core.Rules) TypedRules {
	length := func(d time.Duration) string {
		if d == 0 {
			return ""
		}
		return words.Length(in, d)
	}
	out := TypedRules{By: r.By, People: r.People, Others: r.Others, Longest: length(r.Longest), Gap: length(r.Gap), Holidays: r.Holidays, Share: r.Share, Outside: r.Outside,
		AgreeAlways: r.Agree.Always, AgreeAbove: length(r.Agree.Above), AgreeWithin: r.Agree.Within}
	if r.Ahead > 0 {
		out.Ahead = strconv.Itoa(r.Ahead)
	}
	if r.Agree.After > 0 {
		out.AgreeAfter = r.Agree.After.String()
	}
	for day, spans := range r.Open {
		var parts []string
		for _, s := range spans {
			parts = append(parts, words.ClockSpans(in, []when.ClockSpan{s}))
		}
		out.Open[day] = strings.Join(parts, ", ")
	}
	var closed []string
	for _, day := range r.Closed {
		closed = append(closed, words.FullDay(in, day))
	}
	out.Closed = strings.Join(closed, ", ")
	return out
}

// Read reads rules that were typed; faults name what cannot be read, by field.
func (t TypedRules) Read(r typed.Reader) (out core.Rules, faults []meeting.Fault) {
	length := func(field, text string) time.Duration {
		if strings.TrimSpace(text) == "" {
			return 0
		}
		d, err := r.Length(text)
		if err != nil {
			faults = append(faults, meeting.Fault{Field: "rules." + field, What: err.What(text)})
		}
		return d
	}
	out = core.Rules{By: t.By, Others: t.Others, Holidays: t.Holidays, Share: t.Share, Outside: t.Outside,
		Longest: length("longest", t.Longest), Gap: length("gap", t.Gap),
		Agree: core.Agree{Always: t.AgreeAlways, Above: length("agreeAbove", t.AgreeAbove), Within: t.AgreeWithin}}
	if out.By == core.ByNamed {
		out.People = t.People
	}
	if text := strings.TrimSpace(t.Ahead); text != "" {
		n, err := strconv.Atoi(text)
		if out.Ahead = n; err != nil || n < 1 {
			faults = append(faults, meeting.Fault{Field: "rules.ahead", What: core.FaultAhead.What()})
		}
	}
	if text := strings.TrimSpace(t.AgreeAfter); text != "" {
		at, err := r.Start(text)
		if err == nil && !at.HasStart {
			err = &typed.Error{Kind: typed.NotATime}
		}
		if out.Agree.After = at.Start; err != nil {
			faults = append(faults, meeting.Fault{Field: "rules.agreeAfter", What: err.What(text)})
		}
	}
	for day, text := range t.Open {
		for part := range strings.SplitSeq(text, ",") {
			if strings.TrimSpace(part) == "" {
				continue
			}
			at, err := r.Start(part)
			if err != nil || !at.HasStart || !at.HasEnd || at.HasDay {
				faults = append(faults, meeting.Fault{Field: "rules.open." + strconv.Itoa(day), What: say.It("room.noHours", strings.TrimSpace(part))})
				break
			}
			out.Open[day] = append(out.Open[day], when.ClockSpan{Start: at.Start, End: at.End})
		}
	}
	for part := range strings.FieldsFuncSeq(t.Closed, func(r rune) bool { return r == ',' || r == '\n' || r == ';' }) {
		if strings.TrimSpace(part) == "" {
			continue
		}
		at, err := r.Day(part)
		if err != nil || !at.HasDay {
			if err == nil {
				err = &typed.Error{Kind: typed.NotADay}
			}
			faults = append(faults, meeting.Fault{Field: "rules.closed", What: err.What(strings.TrimSpace(part))})
			break
		}
		out.Closed = append(out.Closed, at.Day)
	}
	return out, faults
}
