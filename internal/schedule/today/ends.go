package today

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// endsTx is what is needed here of a transaction.
type endsTx interface {
	AnswersOnOf(ctx context.Context, meetings []uuid.UUID) ([]schedule.AnswerOn, error)
	AskedOf(ctx context.Context, person uuid.UUID, now time.Time) ([]schedule.AskedTo, error)
	BookedDates(ctx context.Context, meetings []uuid.UUID, window when.Span) (map[uuid.UUID]map[when.Day]bool, error)
	CallEvents(ctx context.Context, meetings []uuid.UUID) (map[uuid.UUID][]meeting.Event, error)
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	KeepLetBe(ctx context.Context, person uuid.UUID, key string, at time.Time) error
	KnownAddresses(ctx context.Context, organiser uuid.UUID, name, email string) ([]schedule.KnownAddress, error)
	LetBe(ctx context.Context, person uuid.UUID) (map[string]bool, error)
	LettersIn(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.LetterIn, error)
	LostMeetings(ctx context.Context, organiser uuid.UUID, since, now time.Time) ([]uuid.UUID, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	MeetingsWithProposals(ctx context.Context, organiser uuid.UUID, now time.Time) ([]uuid.UUID, error)
	NewestOfMeetings(ctx context.Context, ids []uuid.UUID) ([]schedule.Dispatch, error)
	OpenLetters(ctx context.Context, organiser uuid.UUID, now time.Time) (map[uuid.UUID][]loose.Mail, error)
	OwnClashes(ctx context.Context, person uuid.UUID, meetings []uuid.UUID, now time.Time) ([]schedule.OwnClash, error)
	ParticipantsOf(ctx context.Context, meetings []uuid.UUID) ([]schedule.Invited, error)
	Proposals(ctx context.Context, meetings []uuid.UUID) ([]schedule.Proposal, error)
	Related(ctx context.Context, uid string, relatedTo string) ([]schedule.Record, error)
	Rooms(ctx context.Context, page schedule.Page) ([]schedule.Room, error)
	Taken(ctx context.Context, rooms []uuid.UUID, windows when.Spans, view schedule.View) (map[string]when.Spans, error)
	Tell(ctx context.Context, n schedule.Notice) error
	UnsentSheets(ctx context.Context, owner uuid.UUID) ([]schedule.Sheet, error)
}

func (s *Deeds) endsStore() schedule.Store[endsTx] {
	return schedule.Narrow(s.Store, func(tx Tx) endsTx { return tx })
}

const (
	// lookedAhead is how many days ahead meetings are looked at for loose ends: the end of a
	// series is near that long before.
	lookedAhead when.Day = 35
	// offFor is how long somebody not told that a meeting is off is a loose end.
	offFor = 14 * 24 * time.Hour
	// mostEnds is how many loose ends are shown.
	mostEnds = 50
	// roomsOffered is how many rooms are offered for a date that has none, and mostRooms for
	// how many dates that is looked up.
	roomsOffered, mostRooms = 2, 8
)

// End is a loose end with what mends it.
type End struct {
	loose.End
	Rooms   []schedule.Room   // clear then, the best first; with NoRoom
	Address string            // another address that is known; with NotReached
	Message schedule.Dispatch // with NotReached and Underway
	Until   when.Day          // that the series can go on to; with Ends
	// Letter is the mail that waits, and Suggested whose answer it seems to be, nil where that
	// is open; with Unclear.
	Letter    schedule.LetterIn
	Suggested *schedule.Invited
	Invited   []schedule.Invited // whose it may be
	Proposal  *schedule.Proposal // with Proposed
}

// Asked is a meeting that waits for the reader's answer, with what they have themselves then. It
// holds what they may know; Rule tells that how it repeats is for them to know.
type Asked struct {
	schedule.Record
	Sequence int
	Start    when.Instant
	Rule     bool
	Clashes  []schedule.OwnClash
}

// found is what is known of the meetings that somebody is part of.
type found struct {
	ends      []loose.End
	people    map[uuid.UUID][]schedule.Invited // of each meeting
	rolls     map[uuid.UUID]schedule.Roll
	booked    map[uuid.UUID]map[when.Day]bool
	messages  map[uuid.UUID]schedule.Dispatch // by participant
	records   map[uuid.UUID]meeting.Meeting
	proposals map[string]schedule.Proposal
	me        uuid.UUID
}

// find finds the loose ends among the meetings of the next weeks, and among those further off
// of which something did not get to somebody.
func (s *Deeds) find(ctx context.Context, tx endsTx, who schedule.Actor, all []schedule.InWeek, now when.Instant) (f found, err error) {
	f = found{people: map[uuid.UUID][]schedule.Invited{}, rolls: map[uuid.UUID]schedule.Roll{}, messages: map[uuid.UUID]schedule.Dispatch{},
		records: map[uuid.UUID]meeting.Meeting{}, proposals: map[string]schedule.Proposal{}, me: who.For}
	dates, mine, err := s.gather(ctx, tx, who, all, &f)
	if err != nil {
		return f, err
	}
	letters, err := tx.OpenLetters(ctx, who.For, s.Now())
	if err != nil {
		return f, err
	}
	for id := range letters {
		if !slices.Contains(mine, id) {
			mine = append(mine, id)
		}
	}
	proposals, err := s.proposals(ctx, tx, who, &mine)
	if err != nil {
		return f, err
	}
	calls, err := tx.CallEvents(ctx, mine)
	if err != nil {
		return f, err
	}
	var whole []loose.Whole
	for _, id := range mine {
		m, known := f.records[id]
		if !known {
			r, err := tx.Meeting(ctx, id)
			if err != nil {
				return f, err
			}
			m = r.Content
			f.records[id] = m
		}
		w := loose.Whole{MeetingID: id.String(), Title: m.Title, Next: nextOf(id, m, dates, now), Letters: letters[id]}
		for _, p := range proposals {
			if p.MeetingID == id && m.Stands(p.Proposal, p.Was, now) {
				by, err := tx.Invited(ctx, p.ParticipantID)
				if err != nil {
					return f, err
				}
				if by.RemovedAt == nil {
					w.Proposals = append(w.Proposals, loose.Mail{ID: p.ID.String(), Name: by.Name})
					f.proposals[p.ID.String()] = p
				}
			}
		}
		if e, is := meeting.CallTrouble(calls[id]); is && m.Card != nil {
			w.Trouble = &e
		}
		if last, near := m.EndsSoon(now); near {
			after, err := tx.Related(ctx, m.UID, "")
			if err != nil {
				return f, err
			}
			if len(after) == 0 {
				w.LastDay = last
			}
		}
		whole = append(whole, w)
	}
	sheets, err := tx.UnsentSheets(ctx, who.For)
	if err != nil {
		return f, err
	}
	var unsent []loose.Waited
	for _, s := range sheets {
		unsent = append(unsent, loose.Waited{Sheet: s.ID.String(), Title: s.Draft.Title, Why: s.SendFault, Start: s.Draft.StartsAt()})
	}
	be, err := tx.LetBe(ctx, who.For)
	f.ends = slices.DeleteFunc(loose.Find(now, dates, whole, unsent...), func(e loose.End) bool { return be[e.Key] })
	return f, err
}

// proposals are the other times that are proposed for meetings of the reader, which are among
// mine then.
func (s *Deeds) proposals(ctx context.Context, tx endsTx, who schedule.Actor, mine *[]uuid.UUID) ([]schedule.Proposal, error) {
	with, err := tx.MeetingsWithProposals(ctx, who.For, s.Now())
	if err != nil || len(with) == 0 {
		return nil, err
	}
	for _, id := range with {
		if !slices.Contains(*mine, id) {
			*mine = append(*mine, id)
		}
	}
	return tx.Proposals(ctx, with)
}

// gather reads what became of dates, those not reached of meetings further off included, and
// which of their meetings the reader organises.
func (s *Deeds) gather(ctx context.Context, tx endsTx, who schedule.Actor, all []schedule.InWeek, f *found) (dates []loose.Date, mine []uuid.UUID, err error) {
	now := when.At(s.Now())
	lost, err := tx.LostMeetings(ctx, who.For, s.Now().Add(-offFor), s.Now())
	if err != nil {
		return nil, nil, err
	}
	var ids []uuid.UUID
	for _, m := range all {
		if _, known := f.records[m.ID]; !known {
			f.records[m.ID] = m.Content
			if ids = append(ids, m.ID); m.OrganiserID == who.For {
				mine = append(mine, m.ID)
			}
		}
	}
	var further []schedule.InWeek
	for _, id := range lost {
		if _, known := f.records[id]; known {
			continue
		}
		r, err := tx.Meeting(ctx, id)
		if err != nil {
			return nil, nil, err
		}
		d, is := r.Content.Date(r.Content.Next(now))
		if is && d.Span.End > now {
			f.records[id] = r.Content
			ids, mine = append(ids, id), append(mine, id)
			further = append(further, schedule.InWeek{ID: id, On: d.On, Span: d.Span, Content: r.Content, OrganiserID: who.For})
		}
	}
	people, err := tx.ParticipantsOf(ctx, ids)
	if err != nil {
		return nil, nil, err
	}
	for _, p := range people {
		f.people[p.MeetingID] = append(f.people[p.MeetingID], p)
	}
	for id, theirs := range f.people {
		asInvited(f.records[id], theirs)
	}
	on, err := tx.AnswersOnOf(ctx, ids)
	if err != nil {
		return nil, nil, err
	}
	for id, theirs := range f.people {
		f.rolls[id] = schedule.RollOf(f.records[id], theirs, on)
	}
	messages, err := tx.NewestOfMeetings(ctx, mine)
	if err != nil {
		return nil, nil, err
	}
	for _, d := range messages {
		f.messages[d.ParticipantID] = d
	}
	window := when.Span{Start: now, End: now.Add(time.Duration(lookedAhead) * 24 * time.Hour)}
	if f.booked, err = tx.BookedDates(ctx, ids, window); err != nil {
		return nil, nil, err
	}
	for _, m := range append(slices.Clone(all), further...) {
		dates = append(dates, f.date(m))
	}
	return dates, mine, nil
}

// asInvited puts people in the order of their meeting, those who were taken off last, so that what is
// said of them does not change places by itself.
func asInvited(m meeting.Meeting, people []schedule.Invited) {
	place := map[string]int{}
	for n, p := range m.Participants {
		place[p.ID] = n - len(m.Participants)
	}
	slices.SortFunc(people, func(a, b schedule.Invited) int {
		return cmp.Or(place[a.ID.String()]-place[b.ID.String()], strings.Compare(a.Name, b.Name), strings.Compare(a.ID.String(), b.ID.String()))
	})
}

// date is a date as the core looks at it.
func (f found) date(m schedule.InWeek) loose.Date {
	d := loose.Date{MeetingID: m.ID.String(), Title: m.Content.Title, On: m.On, Span: m.Span, AllDay: m.Content.AllDay, Free: m.Content.Free,
		Mine: m.OrganiserID == f.me, Coming: m.OrganiserID == f.me || m.Answer == meeting.Accepted, Booked: f.booked[m.ID][m.On]}
	if of, is := m.Content.Date(m.On); is && of.Room != nil {
		d.Room = of.Room.Name
		if of.Title != "" {
			d.Title = of.Title
		}
	}
	for _, i := range f.people[m.ID] {
		p := f.rolls[m.ID].At(i.ID, m.On)
		message := f.messages[i.ID]
		if i.RemovedAt == nil && !p.Invited || i.RemovedAt != nil && !message.Lost() {
			continue
		}
		d.People = append(d.People, loose.Person{ID: i.ID.String(), Name: i.Name, Needed: p.Needed && p.Invited && !p.Sends, Answer: p.Answer,
			Message: message.ID.String(), Lost: message.Lost(), Held: message.Open() && !message.Lost(), AskedAt: asked(message),
			Spoken: message.Mended == schedule.MendedTold || message.Mended == schedule.MendedText})
	}
	return d
}

// asked is when somebody was asked by a message; 0 where there was none.
func asked(d schedule.Dispatch) when.Instant {
	if d.ID == uuid.Nil {
		return 0
	}
	return when.At(d.QueuedAt)
}

// nextOf is the next date of a meeting, as the core looks at it.
func nextOf(id uuid.UUID, m meeting.Meeting, dates []loose.Date, now when.Instant) loose.Date {
	for _, d := range dates {
		if d.MeetingID == id.String() && d.Span.End > now {
			return d
		}
	}
	d, _ := m.Date(m.Next(now))
	return loose.Date{MeetingID: id.String(), Title: m.Title, On: d.On, Span: d.Span}
}

// item is a meeting of a day with who comes.
func (f found) item(m *schedule.InWeek) Item {
	d := f.date(*m)
	out := Item{Span: m.Span, Meeting: m, NoRoom: d.Room != "" && !d.Booked && d.Mine, People: len(d.People)}
	for _, p := range d.People {
		switch {
		case p.Answer == meeting.Accepted:
			out.Coming++
		case p.Needed && p.Answer != meeting.Maybe:
			out.Missing = append(out.Missing, p.Name)
		}
	}
	return out
}

// mends says of each loose end what mends it.
func (s *Deeds) mends(ctx context.Context, tx endsTx, who schedule.Actor, p schedule.Person, f found) (out []End, err error) {
	looked := 0
	for _, e := range f.ends[:min(len(f.ends), mostEnds)] {
		x := End{End: e}
		if e.Kind == loose.Unsent { // its owner goes on with it
			out = append(out, x)
			continue
		}
		id, err := uuid.Parse(e.MeetingID)
		if err != nil {
			return nil, err
		}
		switch e.Kind {
		case loose.NoRoom:
			if looked++; looked <= mostRooms {
				if x.Rooms, err = s.roomsFor(ctx, tx, p, f.records[id], id, e); err != nil {
					return nil, err
				}
			}
		case loose.NotReached, loose.Underway:
			if x.Message, x.Address, err = s.anotherWay(ctx, tx, who, f, id, e.Person.ID); err != nil {
				return nil, err
			}
		case loose.Unclear:
			if err = whose(ctx, tx, f, id, &x, s.Now()); err != nil {
				return nil, err
			}
		case loose.Proposed:
			p := f.proposals[e.Mail.ID]
			x.Proposal = &p
		case loose.Ends:
			x.Until = f.records[id].ExtendedTo(e.LastDay)
		}
		out = append(out, x)
	}
	return out, nil
}

// whose finds the mail that waits to be decided, and whose answer it seems to be.
func whose(ctx context.Context, tx endsTx, f found, id uuid.UUID, e *End, now time.Time) error {
	all, err := tx.LettersIn(ctx, id, mostEnds)
	if err != nil {
		return err
	}
	of := meetings.Detail{Roll: f.rolls[id], At: now}
	of.Content = f.records[id]
	for _, i := range f.people[id] {
		if i.RemovedAt == nil {
			of.Invited = append(of.Invited, i)
		}
	}
	for _, l := range all {
		if l.ID.String() != e.Mail.ID {
			continue
		}
		e.Letter, e.Invited = l, of.Invited
		is := of.Suggested(l)
		for i := range of.Invited {
			if of.Invited[i].ID == is {
				e.Suggested = &of.Invited[i]
			}
		}
	}
	return nil
}

// anotherWay is the message to somebody, and another address of theirs that is known.
func (s *Deeds) anotherWay(ctx context.Context, tx endsTx, who schedule.Actor, f found, id uuid.UUID, participant string) (d schedule.Dispatch, address string, err error) {
	at := slices.IndexFunc(f.people[id], func(i schedule.Invited) bool { return i.ID.String() == participant })
	if at < 0 {
		return d, "", nil
	}
	i := f.people[id][at]
	d = f.messages[i.ID]
	known, err := tx.KnownAddresses(ctx, who.For, i.Name, i.Email)
	for _, k := range known {
		if !strings.EqualFold(k.Email, cmp.Or(d.Address, i.Address())) {
			return d, k.Email, err
		}
	}
	return d, "", err
}

// roomsFor are rooms that are clear at a date without one and just say yes, the best first.
func (s *Deeds) roomsFor(ctx context.Context, tx endsTx, p schedule.Person, m meeting.Meeting, id uuid.UUID, e loose.End) ([]schedule.Room, error) {
	house, err := tx.Rooms(ctx, schedule.EveryRoom)
	if err != nil {
		return nil, err
	}
	taken, err := tx.Taken(ctx, nil, schedule.Wide(when.Spans{e.Span}, house), schedule.View{But: id, For: p.ID, Now: s.Now()})
	if err != nil {
		return nil, err
	}
	wish := rooms.Wish{Seats: len(m.Participants) + 1}
	for _, r := range house {
		if r.Name == e.Room {
			wish.SiteID = r.SiteID.String()
		}
	}
	var out []schedule.Room
	offer := func(wish rooms.Wish) {
		for _, at := range wish.Order(schedule.FactsFor(house, p, e.Span.Length())) {
			r := house[at]
			span := m.SpanIn(r.Zone, e.Span)
			has := func(o schedule.Room) bool { return o.ID == r.ID }
			if len(out) < roomsOffered && wish.Suits(r.Facts()) && !taken[r.ID.String()].Overlaps(span) && !slices.ContainsFunc(out, has) &&
				r.Place().Decide([]when.Span{span}, 1, 1, r.Asker(p), when.At(s.Now())).Verdict == rooms.Booked {
				out = append(out, r)
			}
		}
	}
	offer(wish)
	wish.SiteID = ""
	offer(wish)
	return out, nil
}

// asked are meetings that wait for the reader's answer.
func (s *Deeds) asked(ctx context.Context, tx endsTx, who schedule.Actor, now when.Instant) (out []Asked, err error) {
	all, err := tx.AskedOf(ctx, who.For, s.Now())
	if err != nil {
		return nil, err
	}
	var ids []uuid.UUID
	for _, a := range all {
		r, err := tx.Meeting(ctx, a.MeetingID)
		if err != nil {
			return nil, err
		}
		x := Asked{Record: r, Sequence: a.Sequence, Start: a.Start}
		x.Content = r.Content.SeenBy(a.Participant.String())
		me, is := x.Content.Participant(a.Participant.String())
		x.Rule = is && x.Content.Repeats() && len(me.Dates) == 0
		out = append(out, x)
		ids = append(ids, a.MeetingID)
	}
	clashes, err := tx.OwnClashes(ctx, who.For, ids, s.Now())
	for _, c := range clashes {
		for i := range out {
			if out[i].ID == c.MeetingID {
				out[i].Clashes = append(out[i].Clashes, c)
			}
		}
	}
	return out, err
}

// LetBe keeps that somebody lets a loose end be; it is not shown again.
func (s *Deeds) LetBe(ctx context.Context, who schedule.Actor, key string) error {
	if key == "" || len(key) > 500 || strings.ContainsRune(key, 0) {
		return schedule.Invalid("key", say.It("ends.which"))
	}
	return s.endsStore().InTx(ctx, func(tx endsTx) error {
		if err := tx.KeepLetBe(ctx, who.For, key, s.Now()); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutToday, ID: who.For})
	})
}
