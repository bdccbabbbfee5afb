package typed

import (
	"slices"

	"jembro/internal/core/when"
)

// Stretches reads the stretches of a day as people write them: "9 – 12:30, 13:30 to 18",
// "8h30-17h", "" or a dash for none. Whether they overlap is for when.Stretches. It fails
// with an *Error of kind NotATime or NoSuchTime.
func (r Reader) Stretches(text string) (out []when.ClockSpan, err error) {
	all := tokens(text)
	if len(all) == 0 && text != "" && len(text) > Limit {
		return nil, &Error{Kind: NotATime}
	}
	if len(all) == 1 && isSign(all[0], "-") {
		return nil, nil
	}
	for len(all) > 0 {
		end := slices.IndexFunc(all, func(t token) bool { return isSign(t, ",;") || slices.Contains(r.Words.And, t.text) })
		part, rest := all, []token(nil)
		if end >= 0 {
			part, rest = all[:end], all[end+1:]
		}
		all = rest
		if len(part) == 0 {
			continue
		}
		said, wrong := r.times(part)
		switch {
		case wrong != nil:
			return nil, wrong
		case !said.HasEnd:
			return nil, &Error{Kind: NotATime}
		}
		out = append(out, when.ClockSpan{Start: said.Start, End: said.End})
	}
	return out, nil
}
