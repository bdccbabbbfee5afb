// Package say carries what is to be said before it has words: a code, and arguments that each
// language writes in its own way. Codes are sent and stored, and decided by; package words makes
// the sentences, last.
package say

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"jembro/internal/core/when"
)

// Code names what went wrong, what happened, or why. It is named for good: another meaning gets
// another code.
type Code string

// What is a code with its arguments: int for a number, when.Day, when.Clock, when.Local and
// when.Span, Days, one of the kinds of names below, string for text as somebody wrote it, List, and
// What for a part that is said by itself. The zero What says nothing.
type What struct {
	Code Code
	Args []any
}

// Kinds of names, which stand in a sentence as they are.
type (
	Person  string // a name, or an address where no name is known
	Room    string
	Title   string // of a meeting
	Address string // a mail address, or that of a page
	Quoted  string // as it was typed, to be told from the words around it
	Zone    string // IANA name
)

// Count is so many of something that languages count: "mail", "date", "person", "loose end" ...
type Count struct {
	N  int    `json:"n"`
	Of string `json:"of"`
}

// Size is how much a file holds, in bytes.
type Size int

// Length is how long something takes.
type Length time.Duration

// Weekdays are all days of the week of one name: "Mondays".
type Weekdays time.Weekday

// ShortDay is a day in few letters: "7 Jan".
type ShortDay when.Day

// Hours are stretches of a day.
type Hours []when.ClockSpan

// Days are several days, in their order.
type Days []when.Day

// List is several things that are named one after the other.
type List []any

// It is what a code says with its arguments.
func It(code Code, args ...any) What { return What{Code: code, Args: args} }

// Empty tells whether nothing is said.
func (w What) Empty() bool { return w.Code == "" }

// Error is the code with its arguments, for logs: a What can be returned as an error where the
// caller has a place to say it.
func (w What) Error() string {
	parts := []string{string(w.Code)}
	for _, a := range w.Args {
		parts = append(parts, fmt.Sprint(a))
	}
	return strings.Join(parts, " ")
}

// Is tells whether an error is the same code.
func (w What) Is(target error) bool {
	t, ok := target.(What)
	return ok && t.Code == w.Code
}

// Of is what an error says; ok is false where it is for a log alone.
func Of(err error) (w What, ok bool) {
	ok = errors.As(err, &w)
	return w, ok
}

// Kept is an argument as it is stored and sent.
type Kept struct {
	Kind  string          `json:"kind"`
	Value json.RawMessage `json:"value"`
}

// kinds are the names of the kinds of arguments, for good.
var kinds = map[string]func(json.RawMessage) (any, error){
	"number":  read[int],
	"text":    read[string],
	"day":     read[when.Day],
	"clock":   read[when.Clock],
	"time":    read[when.Local],
	"span":    read[when.Span],
	"days":    read[Days],
	"person":  read[Person],
	"room":    read[Room],
	"title":   read[Title],
	"address": read[Address],
	"quoted":  read[Quoted],
	"zone":    read[Zone],
	"size":    read[Size],
	"count":   read[Count],
	"length":  read[Length],
	"weekday": read[Weekdays],
	"hours":   read[Hours],
	"short":   read[ShortDay],
	"ofWeek":  read[time.Weekday],
	"said":    read[What],
	"list":    read[List],
}

func read[T any](raw json.RawMessage) (any, error) {
	var v T
	err := json.Unmarshal(raw, &v)
	return v, err
}

func kindOf(arg any) (string, error) {
	switch arg.(type) {
	case int:
		return "number", nil
	case string:
		return "text", nil
	case when.Day:
		return "day", nil
	case when.Clock:
		return "clock", nil
	case when.Local:
		return "time", nil
	case when.Span:
		return "span", nil
	case Days:
		return "days", nil
	case Person:
		return "person", nil
	case Room:
		return "room", nil
	case Title:
		return "title", nil
	case Address:
		return "address", nil
	case Quoted:
		return "quoted", nil
	case Zone:
		return "zone", nil
	case Size:
		return "size", nil
	case Count:
		return "count", nil
	case Length:
		return "length", nil
	case Weekdays:
		return "weekday", nil
	case Hours:
		return "hours", nil
	case ShortDay:
		return "short", nil
	case time.Weekday:
		return "ofWeek", nil
	case What:
		return "said", nil
	case List:
		return "list", nil
	}
	return "", fmt.Errorf("%T is no argument of what is said", arg)
}

func keep(args []any) (out []Kept, err error) {
	for _, a := range args {
		kind, err := kindOf(a)
		if err != nil {
			return nil, err
		}
		raw, err := json.Marshal(a)
		if err != nil {
			return nil, err
		}
		out = append(out, Kept{kind, raw})
	}
	return out, nil
}

func take(all []Kept) (args []any, err error) {
	for _, k := range all {
		read, known := kinds[k.Kind]
		if !known {
			return nil, fmt.Errorf("%q is no kind of argument", k.Kind)
		}
		v, err := read(k.Value)
		if err != nil {
			return nil, err
		}
		args = append(args, v)
	}
	return args, nil
}

// Kept are the arguments as they are stored and sent.
func (w What) Kept() []Kept {
	all, _ := keep(w.Args) // a test holds every argument against the kinds
	return all
}

// MarshalJSON is how it is stored and sent: the code, and each argument with its kind.
func (w What) MarshalJSON() ([]byte, error) {
	args, err := keep(w.Args)
	if err != nil {
		return nil, err
	}
	return json.Marshal(struct {
		Code Code   `json:"code"`
		Args []Kept `json:"args,omitempty"`
	}{w.Code, args})
}

func (w *What) UnmarshalJSON(raw []byte) error {
	var in struct {
		Code Code   `json:"code"`
		Args []Kept `json:"args"`
	}
	err := json.Unmarshal(raw, &in)
	if err == nil {
		w.Code = in.Code
		w.Args, err = take(in.Args)
	}
	return err
}

func (l List) MarshalJSON() ([]byte, error) {
	args, err := keep(l)
	if err != nil {
		return nil, err
	}
	return json.Marshal(args)
}

func (l *List) UnmarshalJSON(raw []byte) error {
	var in []Kept
	err := json.Unmarshal(raw, &in)
	if err == nil {
		*l, err = take(in)
	}
	return err
}
