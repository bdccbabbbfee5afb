package rooms

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	core "jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
)

// tableTx is what is needed here of a transaction.
type tableTx interface {
	directory.LookupTx
	kernel.In
	AddHappenings(ctx context.Context, meetingID uuid.UUID, all []schedule.Happening) error
	AddNews(ctx context.Context, all []schedule.News) error
	AddRoom(ctx context.Context, r schedule.Room) error
	AgreeTo(ctx context.Context, meetingID, roomID uuid.UUID) error
	AskStillNeeded(ctx context.Context, meetingID uuid.UUID, on when.Day, now time.Time) (bool, error)
	BookedSoon(ctx context.Context, window when.Span, meetingID uuid.UUID) ([]schedule.BookedDate, error)
	DropSessionsOf(ctx context.Context, personID uuid.UUID, but []byte) error
	DropWaited(ctx context.Context, now time.Time) error
	LockRoomToChange(ctx context.Context, id uuid.UUID) (schedule.Room, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	SetRoom(ctx context.Context, r schedule.Room) error
	Sites(ctx context.Context) ([]schedule.Site, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) tableStore() schedule.Store[tableTx] {
	return schedule.Narrow(s.Store, func(tx Tx) tableTx { return tx })
}

// The rooms of a house as a table of RFC 4180: a line a room, told apart by its address.
// Lists within a field have semicolons between them, lengths are in minutes, hours as
// "Mon 8:00-12:00; Mon 13:00-18:00", people by their addresses.
var columns = []string{"email", "name", "site", "floor", "seats", "equipment", "directions", "link", "keepers",
	"by", "others", "longest", "days ahead", "gap", "open", "public holidays", "closed days", "clear of ten", "agree", "agree above", "agree after", "answer within", "outside"}

const (
	mostTable = 1 << 20 // bytes
	mostLines = 1000
)

// LineError is what is wrong with a line of a table; the line of the heads is 1.
type LineError struct {
	Line   int
	Column string
	What   say.What
}

// Said is what is wrong, with the line.
func (l LineError) Said() say.What {
	if l.Column == "" {
		return say.It("table.line", l.Line, l.What)
	}
	return say.It("table.lineColumn", l.Line, l.Column, l.What)
}

// TableError is a table that cannot be taken, with everything that is wrong with it.
type TableError struct{ Lines []LineError }

func (e *TableError) Error() string {
	return fmt.Sprintf("line %d, %s: %s", e.Lines[0].Line, e.Lines[0].Column, e.Lines[0].What.Error())
}

// Taken is what a table did, or would do.
type Taken struct{ Added, Changed, Same int }

// Table is all rooms of the house as a table, for who keeps all of them.
func (s *Deeds) Table(ctx context.Context, who schedule.Actor) (text string, err error) {
	err = s.tableStore().Look(ctx, func(tx tableTx) error {
		if err := keepsAll(ctx, tx, who); err != nil {
			return err
		}
		house, err := tx.Rooms(ctx, schedule.EveryRoom)
		if err != nil {
			return err
		}
		emails, err := emailsOf(ctx, tx, house)
		if err != nil {
			return err
		}
		var b strings.Builder
		w := csv.NewWriter(&b)
		w.UseCRLF = true // RFC 4180, 2.1
		if err := w.Write(columns); err != nil {
			return err
		}
		for _, r := range house {
			if err := w.Write(fields(r, emails)); err != nil {
				return err
			}
		}
		w.Flush()
		text = b.String()
		return w.Error()
	})
	return text, err
}

func keepsAll(ctx context.Context, tx directory.LookupTx, who schedule.Actor) error {
	me, err := directory.Person(ctx, tx, who.For)
	if err == nil && !me.KeepsRooms {
		err = schedule.ErrNotFound
	}
	return err
}

// emailsOf are the addresses of everybody whom rooms name.
func emailsOf(ctx context.Context, tx directory.LookupTx, house []schedule.Room) (map[string]string, error) {
	var ids []uuid.UUID
	for _, r := range house {
		ids = append(ids, r.Keepers...)
		for _, p := range r.Rules.People {
			if id, err := uuid.Parse(p); err == nil {
				ids = append(ids, id)
			}
		}
	}
	people, err := tx.People(ctx, ids)
	out := map[string]string{}
	for _, p := range people {
		out[p.ID.String()] = p.Email
	}
	return out, err
}

func fields(r schedule.Room, emails map[string]string) []string {
	number := func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	}
	minutes := func(d time.Duration) string { return number(int(d / time.Minute)) }
	list := func(parts []string) string { return strings.Join(parts, "; ") }
	by := r.Rules.By
	var named, keepers, closed []string
	for _, id := range r.Rules.People {
		named = append(named, emails[id])
	}
	for _, id := range r.Keepers {
		keepers = append(keepers, emails[id.String()])
	}
	for _, day := range r.Rules.Closed {
		closed = append(closed, day.String())
	}
	bookers, others, agree, after := "everybody", "ask", "", ""
	switch by {
	case core.BySite:
		bookers = "site"
	case core.ByNamed:
		bookers = list(named)
	}
	if r.Rules.Others == core.OthersRefused {
		others = "refuse"
	}
	if r.Rules.Agree.Always {
		agree = "always"
	}
	if r.Rules.Agree.After > 0 {
		after = r.Rules.Agree.After.String()
	}
	outside := ""
	if r.Rules.Outside {
		outside = "ask"
	}
	holidays := "open"
	if r.Rules.Holidays {
		holidays = "closed"
	}
	return []string{r.Email, r.Name, r.Site, r.Floor, strconv.Itoa(r.Seats), list(r.Equipment), r.Directions, r.Link, list(keepers),
		bookers, others, minutes(r.Rules.Longest), number(r.Rules.Ahead), minutes(r.Rules.Gap), openText(r.Rules.Open), holidays, list(closed),
		number(r.Rules.Share), agree, minutes(r.Rules.Agree.Above), after, number(r.Rules.Agree.Within), outside}
}

func openText(week [7][]when.ClockSpan) string {
	var parts []string
	for _, day := range []time.Weekday{1, 2, 3, 4, 5, 6, 0} {
		for _, s := range week[day] {
			parts = append(parts, fmt.Sprintf("%s %s-%s", day.String()[:3], s.Start, s.End))
		}
	}
	return strings.Join(parts, "; ")
}

// TakeTable brings the rooms of the house to what a table says: those it names are changed
// or added, all others stay. Columns that it does not have stay as they are. With try it
// changes nothing and tells what it would do. It fails with a *TableError that names every
// line at fault; then nothing is changed.
func (s *Deeds) TakeTable(ctx context.Context, who schedule.Actor, text string, try bool) (done Taken, err error) {
	lines, err := readTable(text)
	if err != nil {
		return done, err
	}
	deed := func(tx tableTx) error {
		done = Taken{}
		if err := keepsAll(ctx, tx, who); err != nil {
			return err
		}
		t := taker{tx: tx, try: try}
		if err := t.load(ctx, lines); err != nil {
			return err
		}
		var wrong []LineError
		for i := range lines {
			faults, err := t.take(ctx, lines[i], &done)
			if err != nil {
				return err
			}
			wrong = append(wrong, faults...)
		}
		if len(wrong) > 0 {
			return &TableError{wrong}
		}
		if try || done.Added+done.Changed == 0 {
			return nil
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutRoom})
	}
	if try {
		return done, s.tableStore().Look(ctx, deed)
	}
	return done, s.tableStore().InTx(ctx, deed)
}

// line is a line of a table by its columns.
type line struct {
	number int
	cells  map[string]string
}

func readTable(text string) (lines []line, err error) {
	if len(text) > mostTable {
		return nil, &TableError{[]LineError{{1, "", say.It("table.large")}}}
	}
	if strings.ContainsRune(text, 0) || !utf8.ValidString(text) {
		return nil, &TableError{[]LineError{{1, "", say.It("table.utf8")}}}
	}
	text = strings.TrimPrefix(text, "\ufeff") // as spreadsheets write it
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	r.TrimLeadingSpace = true
	if head, _, _ := strings.Cut(text, "\n"); strings.Count(head, ";") > strings.Count(head, ",") {
		r.Comma = ';' // as spreadsheets write it where a comma is in numbers
	}
	var heads []string
	for {
		record, err := r.Read()
		if err == io.EOF {
			break
		}
		var broken *csv.ParseError
		if errors.As(err, &broken) {
			return nil, &TableError{[]LineError{{broken.StartLine, "", say.It("table.unread")}}}
		}
		at, _ := r.FieldPos(0)
		if heads == nil {
			for _, h := range record {
				heads = append(heads, strings.ToLower(strings.TrimSpace(h)))
			}
			if faults := headFaults(heads, at); len(faults) > 0 {
				return nil, &TableError{faults}
			}
			continue
		}
		l := line{number: at, cells: map[string]string{}}
		empty := true
		for i, cell := range record {
			if i < len(heads) {
				l.cells[heads[i]] = strings.TrimSpace(cell)
				empty = empty && l.cells[heads[i]] == ""
			}
		}
		if !empty {
			lines = append(lines, l)
		}
	}
	switch {
	case heads == nil:
		return nil, &TableError{[]LineError{{1, "", say.It("table.empty")}}}
	case len(lines) > mostLines:
		return nil, &TableError{[]LineError{{1, "", say.It("table.rooms", mostLines)}}}
	}
	return lines, nil
}

func headFaults(heads []string, at int) (out []LineError) {
	if !slices.Contains(heads, "email") {
		out = append(out, LineError{at, "email", say.It("table.noEmail")})
	}
	for i, h := range heads {
		if !slices.Contains(columns, h) {
			out = append(out, LineError{at, h, say.It("table.noColumn", strings.Join(columns, ", "))})
		} else if slices.Contains(heads[:i], h) {
			out = append(out, LineError{at, h, say.It("table.columnTwice")})
		}
	}
	return out
}

// taker takes the lines of a table over.
type taker struct {
	tx      tableTx
	try     bool
	house   map[string]schedule.Room // by address
	sites   []schedule.Site
	people  map[string]uuid.UUID // by address
	already map[string]int       // the line that an address was on
}

func (t *taker) load(ctx context.Context, lines []line) error {
	house, err := t.tx.Rooms(ctx, schedule.EveryRoom)
	if err != nil {
		return err
	}
	t.house, t.already = map[string]schedule.Room{}, map[string]int{}
	for _, r := range house {
		t.house[strings.ToLower(r.Email)] = r
	}
	if t.sites, err = t.tx.Sites(ctx); err != nil {
		return err
	}
	var emails []string
	for _, l := range lines {
		emails = append(emails, listed(l.cells["keepers"])...)
		emails = append(emails, listed(l.cells["by"])...)
	}
	people, err := t.tx.PeopleByEmail(ctx, emails)
	t.people = map[string]uuid.UUID{}
	for _, p := range people {
		if !p.Left {
			t.people[strings.ToLower(p.Email)] = p.ID
		}
	}
	return err
}

func listed(cell string) (parts []string) {
	for part := range strings.SplitSeq(cell, ";") {
		if part = strings.TrimSpace(part); part != "" {
			parts = append(parts, part)
		}
	}
	return parts
}

// take takes one line over; faults are what is wrong with it.
func (t *taker) take(ctx context.Context, l line, done *Taken) (faults []LineError, err error) {
	key := strings.ToLower(l.cells["email"])
	if before, is := t.already[key]; is {
		return []LineError{{l.number, "email", say.It("table.twice", before)}}, nil
	}
	t.already[key] = l.number
	room, known := t.house[key]
	if known && !t.try {
		if room, err = t.tx.LockRoomToChange(ctx, room.ID); err != nil {
			return nil, err
		}
	}
	before := fmt.Sprint(room)
	if !known {
		room.ID, room.Email = uuid.New(), l.cells["email"]
	}
	c := cells{line: l}
	t.read(&c, &room)
	if len(c.faults) == 0 {
		for _, f := range Faults(room) {
			c.faults = append(c.faults, LineError{l.number, columnOf(f.Field), f.What})
		}
	}
	switch {
	case len(c.faults) > 0:
		return c.faults, nil
	case known && fmt.Sprint(room) == before:
		done.Same++
		return nil, nil
	case known:
		done.Changed++
	default:
		done.Added++
	}
	if t.try {
		return nil, nil
	}
	if known {
		return nil, t.tx.SetRoom(ctx, room)
	}
	return nil, t.tx.AddRoom(ctx, room)
}

// columnOf is the column that a field of a room stands in.
func columnOf(field string) string {
	names := map[string]string{"rules.by": "by", "rules.people": "by", "rules.longest": "longest", "rules.ahead": "days ahead", "rules.gap": "gap", "rules.open": "open",
		"rules.closed": "closed days", "rules.share": "clear of ten", "rules.agree": "agree", "rules.within": "answer within"}
	if name, is := names[field]; is {
		return name
	}
	return field
}

// cells are those of one line, with what is wrong with them.
type cells struct {
	line
	faults []LineError
}

func (c *cells) wrong(column string, what say.What) {
	c.faults = append(c.faults, LineError{c.number, column, what})
}

// text takes a cell over where the table has its column.
func (c *cells) text(column string, into func(string)) {
	if v, is := c.cells[column]; is {
		into(v)
	}
}

func (c *cells) count(column string, into *int) {
	c.text(column, func(v string) {
		n, err := strconv.Atoi(v)
		if v != "" && err != nil {
			c.wrong(column, say.It("table.number"))
		}
		*into = n
	})
}

func (c *cells) minutes(column string, into *time.Duration) {
	n := int(*into / time.Minute)
	c.count(column, &n)
	*into = time.Duration(min(max(n, -1), 10_000_000)) * time.Minute
}

// choice takes a cell over that has to be one of some words.
func (c *cells) choice(column string, words map[string]func()) {
	c.text(column, func(v string) {
		if set, is := words[strings.ToLower(v)]; is {
			set()
			return
		}
		var known []string
		for w := range words {
			if w != "" {
				known = append(known, "“"+w+"”")
			}
		}
		slices.Sort(known)
		c.wrong(column, say.It("table.oneOf", strings.Join(known, ", ")))
	})
}

func (t *taker) read(c *cells, r *schedule.Room) {
	c.text("name", func(v string) { r.Name = v })
	c.text("floor", func(v string) { r.Floor = v })
	c.text("directions", func(v string) { r.Directions = v })
	c.text("link", func(v string) { r.Link = v })
	c.text("equipment", func(v string) { r.Equipment = equipment(listed(v)) })
	c.count("seats", &r.Seats)
	c.text("site", func(v string) {
		at := slices.IndexFunc(t.sites, func(s schedule.Site) bool { return strings.EqualFold(s.Name, v) })
		if at < 0 {
			var names []string
			for _, s := range t.sites {
				names = append(names, s.Name)
			}
			c.wrong("site", say.It("table.noSite", strings.Join(names, ", ")))
			return
		}
		r.SiteID, r.Site = t.sites[at].ID, t.sites[at].Name
	})
	if r.SiteID == uuid.Nil && !slices.ContainsFunc(c.faults, func(f LineError) bool { return f.Column == "site" }) {
		c.wrong("site", say.It("table.needsSite"))
	}
	c.text("keepers", func(v string) { r.Keepers = t.persons(c, "keepers", listed(v)) })
	t.readRules(c, &r.Rules)
}

func (t *taker) readRules(c *cells, r *core.Rules) {
	c.text("by", func(v string) {
		r.People = nil
		switch strings.ToLower(v) {
		case "", "everybody":
			r.By = core.ByEverybody
		case "site":
			r.By = core.BySite
		default:
			r.By = core.ByNamed
			for _, id := range t.persons(c, "by", listed(v)) {
				r.People = append(r.People, id.String())
			}
		}
	})
	c.choice("others", map[string]func(){"": func() { r.Others = core.OthersAsk }, "ask": func() { r.Others = core.OthersAsk }, "refuse": func() { r.Others = core.OthersRefused }})
	c.minutes("longest", &r.Longest)
	c.count("days ahead", &r.Ahead)
	c.minutes("gap", &r.Gap)
	c.text("open", func(v string) { r.Open = readOpen(c, v) })
	c.choice("public holidays", map[string]func(){"": func() { r.Holidays = false }, "open": func() { r.Holidays = false }, "closed": func() { r.Holidays = true }})
	c.text("closed days", func(v string) {
		r.Closed = nil
		for _, text := range listed(v) {
			day, err := when.ParseDay(text)
			if err != nil {
				c.wrong("closed days", say.It("table.days"))
				return
			}
			r.Closed = append(r.Closed, day)
		}
	})
	c.count("clear of ten", &r.Share)
	c.choice("agree", map[string]func(){"": func() { r.Agree.Always = false }, "always": func() { r.Agree.Always = true }})
	c.minutes("agree above", &r.Agree.Above)
	c.text("agree after", func(v string) {
		clock, err := when.ParseClock(v)
		if v != "" && err != nil {
			c.wrong("agree after", say.It("table.time"))
		}
		r.Agree.After = clock
	})
	c.count("answer within", &r.Agree.Within)
	c.choice("outside", map[string]func(){"": func() { r.Outside = false }, "ask": func() { r.Outside = true }})
}

// persons are the people of some addresses.
func (t *taker) persons(c *cells, column string, emails []string) (ids []uuid.UUID) {
	for _, email := range emails {
		id, is := t.people[strings.ToLower(email)]
		if !is {
			c.wrong(column, say.It("table.nobody", say.Address(email)))
			continue
		}
		ids = append(ids, id)
	}
	return ids
}

func readOpen(c *cells, text string) (week [7][]when.ClockSpan) {
	for _, part := range listed(text) {
		name, hours, _ := strings.Cut(part, " ")
		from, until, is := strings.Cut(hours, "-")
		start, wrongStart := when.ParseClock(strings.TrimSpace(from))
		end, wrongEnd := when.ParseClock(strings.TrimSpace(until))
		if strings.TrimSpace(until) == "24:00" { // the end of the day, as this table writes it
			end, wrongEnd = 24*60, nil
		}
		day := slices.IndexFunc(weekdays, func(d string) bool { return strings.EqualFold(d, name) })
		if !is || wrongStart != nil || wrongEnd != nil || day < 0 {
			c.wrong("open", say.It("table.hours"))
			return week
		}
		week[day] = append(week[day], when.ClockSpan{Start: start, End: end})
	}
	return week
}

var weekdays = []string{"Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"}
