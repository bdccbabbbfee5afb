package postgres

import (
	"bytes"
	"encoding/json"
	"fmt"
)

// What is kept as JSON has a shape with a number, beside that of the version of a meeting
// (snapshot.go) and of the rules of a room: sheets, what happened, news, why keepers are asked,
// what calendars of others invite to, and what mails answer. A field is called what its tag says,
// for good; where one is to be called otherwise the number rises, and what has the older number
// is read as it was written. What has no number is from before there were any: its names are
// those of shape 1, in whatever case.

// shape is one kind of what is kept.
type shape struct {
	what   string // for whom it cannot be read
	number int
}

var (
	sheetShape      = shape{"a sheet", 1}
	faultShape      = shape{"why a sheet did not go out", 1}
	happenedShape   = shape{"what happened to a meeting", 1}
	newsShape       = shape{"what is new", 1}
	reasonsShape    = shape{"why a keeper is asked", 1}
	invitationShape = shape{"an invitation from outside", 1}
	heldBackShape   = shape{"what an invitation from outside would become", 1}
	answersShape    = shape{"answers to an invitation from outside", 1}
	letterShape     = shape{"answers of a letter", 1}
	otherDaysShape  = shape{"hours of single days", 1}
)

// numbered is what tells the number of what is kept.
type numbered struct {
	Schema int `json:"schema"`
}

// listed is how a list is kept.
type listed[T any] struct {
	numbered
	All []T `json:"all"`
}

// write is an object as it is kept.
func (s shape) write(v any) []byte {
	raw := must(v)
	begin := fmt.Appendf(nil, `{"schema":%d`, s.number)
	if len(raw) > len("{}") {
		begin = append(begin, ',')
	}
	return append(begin, raw[1:]...)
}

// read is an object as it was kept.
func (s shape) read(raw []byte, into any) error {
	var n numbered
	if err := json.Unmarshal(raw, &n); err != nil {
		return fmt.Errorf("%s: %w", s.what, err)
	}
	if err := s.known(n); err != nil {
		return err
	}
	return json.Unmarshal(raw, into)
}

func (s shape) known(n numbered) error {
	if n.Schema < 0 || n.Schema > s.number {
		return fmt.Errorf("%s is kept in shape %d, which this program does not know", s.what, n.Schema)
	}
	return nil
}

// writeAll is a list as it is kept.
func writeAll[T any](s shape, all []T) []byte {
	if all == nil {
		all = []T{}
	}
	return must(listed[T]{numbered{s.number}, all})
}

// readAll is a list as it was kept: bare, before it had a number.
func readAll[T any](s shape, raw []byte) (all []T, err error) {
	if bytes.HasPrefix(bytes.TrimSpace(raw), []byte("[")) {
		return all, json.Unmarshal(raw, &all)
	}
	var l listed[T]
	if err := json.Unmarshal(raw, &l); err != nil {
		return nil, fmt.Errorf("%s: %w", s.what, err)
	}
	if err := s.known(l.numbered); err != nil {
		return nil, err
	}
	if len(l.All) == 0 {
		return nil, nil
	}
	return l.All, nil
}
