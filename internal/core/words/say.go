package words

import (
	"errors"
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/attachment"
	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// Say is what a code says with its arguments, in the language of its reader; "" for the zero What.
func Say(t tongue.Tongue, w say.What) string {
	if w.Empty() {
		return ""
	}
	sentence, known := says[w.Code]
	if !known {
		sentence = string(w.Code) // a test holds every code against the catalogue
	}
	if w.Code == "listed" { // with commas alone
		var parts []string
		for _, x := range w.Args[0].(say.List) {
			parts = append(parts, argument(t, x))
		}
		return strings.Join(parts, ", ")
	}
	args := make([]any, len(w.Args))
	for i, a := range w.Args {
		args[i] = argument(t, a)
	}
	return t.Say(sentence, args...)
}

// argument is how an argument is written.
func argument(t tongue.Tongue, arg any) string {
	switch a := arg.(type) {
	case int:
		return strconv.Itoa(a)
	case when.Day:
		return t.Date(a)
	case when.Clock:
		return a.String()
	case when.Local:
		return t.Date(a.Day) + ", " + a.Clock.String()
	case say.Days:
		var names []string
		for _, d := range a {
			names = append(names, t.Date(d))
		}
		return t.List(names)
	case say.Person:
		return string(a)
	case say.Room:
		return string(a)
	case say.Title:
		return string(a)
	case say.Address:
		return string(a)
	case say.Zone:
		return string(a)
	case say.Quoted:
		return strconv.Quote(string(a))
	case say.Length:
		return Length(t, time.Duration(a))
	case say.Weekdays:
		return weekdayPlural(t, time.Weekday(a))
	case say.ShortDay:
		return ShortDay(t, when.Day(a))
	case time.Weekday:
		return t.Say(a.String())
	case say.Hours:
		return ClockSpans(t, a)
	case say.Count:
		return Count(t, a.N, a.Of)
	case say.Size:
		return attachment.Size(int(a))
	case say.What:
		return Say(t, a)
	case say.List:
		var parts []string
		for _, x := range a {
			parts = append(parts, argument(t, x))
		}
		return t.List(parts)
	case string:
		return a
	}
	return ""
}

// English is what a code says in English: for logs, and for who has said no language.
func English(w say.What) string { return Say(tongue.Tongue{}, w) }

// Error is what an error says in a language: its sentence, or, of one that is for a log, its text.
func Error(t tongue.Tongue, err error) string {
	if part := (*recur.PartError)(nil); errors.As(err, &part) {
		return part.Part + ": " + Say(t, part.What)
	}
	if w, ok := say.Of(err); ok {
		return strings.TrimSpace(Say(t, w))
	}
	return err.Error()
}

// Codes are all codes that there is a sentence for, with that in English.
func Codes() map[say.Code]string { return says }
