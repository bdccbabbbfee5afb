package availability

import (
	"cmp"
	"slices"

	"jembro/internal/core/when"
)

// Level is how much of somebody's time another person may see.
type Level string

const (
	SeeNothing Level = "nothing"
	SeeBusy    Level = "busy" // when they are busy and clear: what holds unless they say otherwise
	SeeTitles  Level = "titles"
)

// Levels are all of them, the least first.
var Levels = []Level{SeeNothing, SeeBusy, SeeTitles}

// Known tells whether it is one of the levels.
func (l Level) Known() bool { return slices.Contains(Levels, l) }

// Times tells whether it shows when somebody is busy; that they have a room at some time
// says so as well.
func (l Level) Times() bool { return l != SeeNothing }

// Titles tells whether it shows what they are busy with.
func (l Level) Titles() bool { return l == SeeTitles }

// Titled is a meeting of somebody, at a time that it takes.
type Titled struct {
	Time
	Title   string
	Private bool
}

// Shown is a stretch of somebody's time as another person sees it. Title is "" for busy
// alone.
type Shown struct {
	Time
	Title string
}

// Seen is somebody's time within a window as a level lets another person see it (DESIGN.md,
// rule 2): nothing; or each instant as busy, leave or maybe; or that and beside it the
// meetings with their titles, but for private ones, which are busy time as any other.
func Seen(level Level, taken []Time, meetings []Titled, window when.Span) (out []Shown) {
	if !level.Times() {
		return nil
	}
	var named []when.Span
	if level.Titles() {
		for _, m := range meetings {
			if m.Kind == Free || m.Private {
				continue
			}
			if m.Span = m.Span.Intersect(window); !m.Span.Empty() {
				out = append(out, Shown{m.Time, m.Title})
				named = append(named, m.Span)
			}
		}
	}
	known := when.Union(named...)
	for _, t := range Combine(taken) {
		if t.Span = t.Span.Intersect(window); t.Span.Empty() {
			continue
		}
		if !known.Overlaps(t.Span) {
			out = append(out, Shown{Time: t})
			continue
		}
		for _, s := range (when.Spans{t.Span}).Minus(known) {
			out = append(out, Shown{Time: Time{s, t.Kind}})
		}
	}
	if len(named) == 0 {
		return out
	}
	slices.SortStableFunc(out, func(a, b Shown) int { return cmp.Compare(a.Span.Start, b.Span.Start) })
	return out
}
