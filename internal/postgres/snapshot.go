package postgres

import (
	"encoding/json"
	"fmt"

	"jembro/internal/core/attachment"
	"jembro/internal/core/meeting"
	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// What is stored of a version of a meeting has a shape of its own, with a number:
// names in the core can change without what is stored, and each number is read
// for ever. It is read only to compare, to show and to send again.

// snapshotSchema is the number of the shape that is written.
const snapshotSchema = 2

type snapshot struct {
	UID          string                `json:"uid"`
	Sequence     int                   `json:"sequence"`
	Title        string                `json:"title"`
	Text         string                `json:"text"`
	Start        when.Local            `json:"start"`
	End          when.Local            `json:"end"`
	Zone         string                `json:"zone"`
	Private      bool                  `json:"private"`
	AllDay       bool                  `json:"allDay,omitempty"`
	Free         bool                  `json:"free,omitempty"`
	Apart        bool                  `json:"apart,omitempty"`
	Bring        bool                  `json:"bring,omitempty"`
	Move         bool                  `json:"move,omitempty"`
	RemindBefore int                   `json:"remindBefore"`
	Further      []snapshotReminder    `json:"further,omitempty"`
	Organiser    snapshotParty         `json:"organiser"`
	Participants []snapshotParticipant `json:"participants"`
	Room         *snapshotRoom         `json:"room,omitempty"`
	Card         *schedule.StoredCard  `json:"card,omitempty"`
	NoWays       []string              `json:"noWays,omitempty"`
	Files        []snapshotFile        `json:"files,omitempty"`
	Series       *snapshotSeries       `json:"series,omitempty"`
	RelatedTo    string                `json:"relatedTo,omitempty"`
	TakenOff     []string              `json:"takenOff,omitempty"`
}

type snapshotReminder struct {
	Before int  `json:"before"`
	Own    bool `json:"own,omitempty"`
	Mail   bool `json:"mail,omitempty"`
}

type snapshotFile struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Type string `json:"type"`
	Size int    `json:"size"`
}

type snapshotParty struct {
	PersonID string `json:"personId,omitempty"`
	Name     string `json:"name"`
	Email    string `json:"email"`
	Zone     string `json:"zone,omitempty"`
}

type snapshotParticipant struct {
	snapshotParty
	ID     string          `json:"id"`
	Needed bool            `json:"needed"`
	Dates  []snapshotRange `json:"dates,omitempty"`
	Single bool            `json:"single,omitempty"`
	// Who sends them in their own place.
	DelegatedFrom string `json:"delegatedFrom,omitempty"`
	BroughtBy     string `json:"broughtBy,omitempty"`
	Language      string `json:"language,omitempty"`
	// Since shape 2: what they answer, and the dates that their calendar may hold by
	// themselves.
	Answer  string           `json:"answer,omitempty"`
	Answers []snapshotAnswer `json:"answers,omitempty"`
	Told    []snapshotTold   `json:"told,omitempty"`
}

type snapshotAnswer struct {
	On     when.Day `json:"on"`
	Answer string   `json:"answer"`
}

type snapshotTold struct {
	ID   int64 `json:"id"` // Unix seconds
	Gone bool  `json:"gone,omitempty"`
}

type snapshotRange struct {
	From snapshotFrom `json:"from"` // empty: from the first
	To   when.Day     `json:"to,omitempty"`
}

type snapshotRoom struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Place string `json:"place"`
	Email string `json:"email"`
	Seats int    `json:"seats"`
}

type snapshotSeries struct {
	Rule    string          `json:"rule"` // RFC 5545, 3.3.10, with UNTIL in UTC
	Added   []when.Day      `json:"added,omitempty"`
	Left    []when.Day      `json:"left,omitempty"`
	Moved   []snapshotMoved `json:"moved,omitempty"`
	Asked   snapshotAsked   `json:"asked"`
	Dropped []when.Day      `json:"dropped,omitempty"`
	Off     []when.Day      `json:"off,omitempty"`
	Own     []snapshotOwn   `json:"own,omitempty"`
}

type snapshotMoved struct {
	On    when.Day   `json:"on"`
	Start when.Local `json:"start"`
	End   when.Local `json:"end"`
}

type snapshotAsked struct {
	Rule     string   `json:"rule"`
	Ends     string   `json:"ends"`
	Until    string   `json:"until"`
	Count    int      `json:"count"`
	Weekends bool     `json:"weekends"`
	Holidays bool     `json:"holidays"`
	Days     []string `json:"days"`
	Added    []string `json:"added"`
}

type snapshotOwn struct {
	On     when.Day      `json:"on"`
	Title  *string       `json:"title,omitempty"`
	Text   *string       `json:"text,omitempty"`
	Room   *snapshotRoom `json:"room,omitempty"`
	NoRoom bool          `json:"noRoom,omitempty"`
}

// snapshotFrom is the first day of a range; empty where there is none.
type snapshotFrom when.Day

func (f snapshotFrom) MarshalText() ([]byte, error) {
	if when.Day(f) == series.Ever {
		return nil, nil
	}
	return when.Day(f).MarshalText()
}

// UnmarshalText also reads the least day as it was once written, in a year that no
// calendar has.
func (f *snapshotFrom) UnmarshalText(b []byte) error {
	if len(b) == 0 || b[0] == '-' {
		*f = snapshotFrom(series.Ever)
		return nil
	}
	return (*when.Day)(f).UnmarshalText(b)
}

// writeSnapshot is what is stored of a version. It fails when the same could not
// be read back.
func writeSnapshot(m meeting.Meeting) ([]byte, error) {
	raw, err := json.Marshal(toSnapshot(m))
	if err != nil {
		return nil, err
	}
	var back meeting.Meeting
	if err := readSnapshot(snapshotSchema, raw, &back); err != nil {
		return nil, fmt.Errorf("what would be stored of %q cannot be read back: %w", m.Title, err)
	}
	again, err := json.Marshal(toSnapshot(back))
	if err == nil && string(again) != string(raw) {
		err = fmt.Errorf("what would be stored of %q reads back as something else", m.Title)
	}
	return raw, err
}

// readSnapshot reads what is stored of a version in any shape there ever was.
func readSnapshot(schema int, raw []byte, m *meeting.Meeting) error {
	if schema < 1 || schema > snapshotSchema {
		return fmt.Errorf("a version is stored in shape %d, which this program does not know", schema)
	}
	var s snapshot
	if err := json.Unmarshal(raw, &s); err != nil {
		return err
	}
	var err error
	if *m, err = s.meeting(); err == nil && schema == 1 {
		*m = m.KnowingTold()
	}
	return err
}

func toSnapshot(m meeting.Meeting) snapshot {
	s := snapshot{UID: m.UID, Sequence: m.Sequence, Title: m.Title, Text: m.Text, Start: m.Start, End: m.End, Zone: m.Zone, Private: m.Private, AllDay: m.AllDay, Free: m.Free, Apart: m.Apart, Bring: m.Bring, Move: m.Move,
		RemindBefore: m.RemindBefore, Organiser: snapshotParty(m.Organiser), Room: (*snapshotRoom)(m.Room), Card: schedule.KeptCard(m.Card), NoWays: m.NoWays, RelatedTo: m.RelatedTo, TakenOff: m.TakenOff}
	for _, r := range m.Further {
		s.Further = append(s.Further, snapshotReminder(r))
	}
	for _, f := range m.Files {
		s.Files = append(s.Files, snapshotFile(f))
	}
	for _, p := range m.Participants {
		x := snapshotParticipant{snapshotParty: snapshotParty(p.Party), ID: p.ID, Needed: p.Needed, Single: p.Single, DelegatedFrom: p.DelegatedFrom, BroughtBy: p.BroughtBy, Language: p.Language, Answer: string(p.Answer)}
		for _, a := range p.Answers {
			x.Answers = append(x.Answers, snapshotAnswer{a.On, string(a.Answer)})
		}
		for _, t := range p.Told {
			x.Told = append(x.Told, snapshotTold{int64(t.ID), t.Gone})
		}
		for _, r := range p.Dates {
			x.Dates = append(x.Dates, snapshotRange{From: snapshotFrom(r.From), To: r.To})
		}
		s.Participants = append(s.Participants, x)
	}
	if m.Series == nil {
		return s
	}
	series := &snapshotSeries{Rule: m.Series.Rule.String(), Added: m.Series.RDates, Left: m.Series.ExDates, Asked: snapshotAsked(m.Series.Asked),
		Dropped: m.Series.Dropped, Off: m.Series.Off}
	for _, x := range m.Series.Moved {
		series.Moved = append(series.Moved, snapshotMoved(x))
	}
	for _, o := range m.Series.Overrides {
		series.Own = append(series.Own, snapshotOwn{On: o.On, Title: o.Title, Text: o.Text, Room: (*snapshotRoom)(o.Room), NoRoom: o.NoRoom})
	}
	s.Series = series
	return s
}

func (s snapshot) meeting() (meeting.Meeting, error) {
	m := meeting.Meeting{UID: s.UID, Sequence: s.Sequence, Title: s.Title, Text: s.Text, Start: s.Start, End: s.End, Zone: s.Zone, Private: s.Private, AllDay: s.AllDay, Free: s.Free, Apart: s.Apart, Bring: s.Bring, Move: s.Move,
		RemindBefore: s.RemindBefore, Organiser: meeting.Party(s.Organiser), Room: (*meeting.Room)(s.Room), Card: s.Card.Read(), NoWays: s.NoWays, RelatedTo: s.RelatedTo, TakenOff: s.TakenOff}
	for _, r := range s.Further {
		m.Further = append(m.Further, meeting.Reminder(r))
	}
	for _, f := range s.Files {
		m.Files = append(m.Files, attachment.File(f))
	}
	for _, p := range s.Participants {
		x := meeting.Participant{Party: meeting.Party(p.snapshotParty), ID: p.ID, Needed: p.Needed, Single: p.Single, DelegatedFrom: p.DelegatedFrom, BroughtBy: p.BroughtBy, Language: p.Language, Answer: meeting.Answer(p.Answer)}
		for _, a := range p.Answers {
			x.Answers = append(x.Answers, meeting.DateAnswer{On: a.On, Answer: meeting.Answer(a.Answer)})
		}
		for _, t := range p.Told {
			x.Told = append(x.Told, meeting.Told{ID: when.Instant(t.ID), Gone: t.Gone})
		}
		for _, r := range p.Dates {
			x.Dates = append(x.Dates, series.Range{From: when.Day(r.From), To: r.To})
		}
		m.Participants = append(m.Participants, x)
	}
	if s.Series == nil {
		return m, nil
	}
	in := s.Series
	rep := &meeting.Series{Asked: meeting.DraftRepeat(in.Asked), Dropped: in.Dropped, Off: in.Off}
	rep.RDates, rep.ExDates = in.Added, in.Left
	if in.Rule != "" {
		rule, err := recur.ParseRule(in.Rule)
		if err != nil {
			return m, fmt.Errorf("rule %q: %w", in.Rule, err)
		}
		rep.Rule = rule
	}
	for _, x := range in.Moved {
		rep.Moved = append(rep.Moved, series.Moved(x))
	}
	for _, o := range in.Own {
		rep.Overrides = append(rep.Overrides, meeting.Override{On: o.On, Title: o.Title, Text: o.Text, Room: (*meeting.Room)(o.Room), NoRoom: o.NoRoom})
	}
	m.Series = rep
	if in.Asked.Weekends { // once they were left out one by one
		rep.Repeat = m.Plan().WithoutWeekends().Repeat
	}
	return m, nil
}
