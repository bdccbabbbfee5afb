package web

import (
	"errors"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// page is a part of a list; it asks for one more than it shows, to know whether
// more follow.
func page(limit, offset *int) schedule.Page {
	p := schedule.Page{Most: 20}
	if limit != nil {
		p.Most = min(max(*limit, 1), 200)
	}
	if offset != nil {
		p.Skip = min(max(*offset, 0), 100_000)
	}
	p.Most++
	return p
}

// cut is the part that a page shows.
func cut[T any](found []T, p schedule.Page) (shown []T, more bool) {
	if len(found) < p.Most {
		return found, false
	}
	return found[:p.Most-1], true
}

func field(name string, what say.What) error { return schedule.Invalid(name, what) }

// dayIn reads a day that a field of a request gives.
func dayIn(name, text string) (when.Day, error) {
	day, err := when.ParseDay(text)
	switch {
	case errors.Is(err, when.ErrYears):
		return 0, field(name, say.It("field.dayYears", text, when.FirstYear, when.LastYear))
	case err != nil:
		return 0, field(name, say.It("field.dayUnread", when.FirstYear, when.LastYear))
	}
	return day, nil
}

// daysAsked are the first of some days that are asked for and how many, a week where nobody
// says.
func daysAsked(from string, days *int) (first when.Day, n int, err error) {
	if first, err = dayIn("from", from); err != nil {
		return 0, 0, err
	}
	if days == nil {
		return first, 7, nil
	}
	return first, min(max(*days, 1), 28), nil
}
