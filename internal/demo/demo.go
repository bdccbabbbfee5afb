// Package demo fills an empty program with the demo house: its people, rooms,
// contacts, and some weeks of meetings around the present moment.
package demo

import (
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/reach"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/ical"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/meetings"
	"jembro/internal/standin"
)

//go:embed house.json
var files embed.FS

const (
	// Password opens every demo account.
	Password = "lantern-quay"
	// Ilse is the account that the drawings and pictures are of.
	Ilse = "ilse.marrant@marrowby.example"
)

// House reads the demo house.
func House() (h postgres.House, err error) {
	raw, err := files.ReadFile("house.json")
	if err != nil {
		return h, err
	}
	return h, json.Unmarshal(raw, &h)
}

// Load imports the house and writes its meetings, unless the house is there
// already. newLink makes a call known to its provider and gives the card; worldURL is where
// the stand-ins are.
func Load(ctx context.Context, store *postgres.Store, service *deeds.Deeds, newLink func(by, topic string, start, end time.Time) join.Card, worldURL string) error {
	h, err := House()
	if err != nil {
		return err
	}
	_, err = find(ctx, store, Ilse)
	if !errors.Is(err, schedule.ErrNotFound) {
		return err
	}
	if err := store.Import(ctx, h); err != nil {
		return err
	}
	b := &builder{service: service, random: rand.New(rand.NewPCG(14, 2190)), newLink: newLink, now: service.Now().UTC()}
	err = store.InTx(ctx, func(tx *postgres.Tx) error {
		if err := b.prepare(ctx, tx, h); err != nil {
			return err
		}
		if err := b.meetings(ctx, tx); err != nil {
			return err
		}
		for _, p := range b.people { // nobody is told by mail of what was there before
			if err := tx.SetNewsMailed(ctx, p.ID, b.now, b.now); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if err := b.times(ctx, store, worldURL); err != nil {
		return err
	}
	return b.outside(ctx)
}

// outside is what somebody outside invites Ilse to.
func (b *builder) outside(ctx context.Context) error {
	ilse := b.people[slices.IndexFunc(b.people, func(p schedule.Person) bool { return p.Email == Ilse })]
	o := standin.Outside{UID: "handover-2190@veerhaven.example", Title: "Handover at the quay", From: "noor.dewaal@veerhaven.example", Name: "Noor de Waal", Invited: Ilse,
		Start: when.Zoned{Local: when.Local{Day: b.today + 2, Clock: 15 * 60}, Zone: ilse.Hours.Zone}.Instant().Time(), Length: 45 * time.Minute,
		Text: "We hand the crates over together.\nJoin: https://calls.veerhaven.example/j/551-204\nMeeting ID: 551 204\nPasscode: tide-9"}
	all, err := ical.ReadInvitations([]byte(o.Calendar(b.now)), "")
	if err != nil {
		return err
	}
	return b.service.Invitations.TakeMail(ctx, schedule.Mailbox{Person: ilse.ID}, meetings.Mail{FromEmail: o.From, FromName: o.Name, Invitations: all})
}

func find(ctx context.Context, store *postgres.Store, email string) (p schedule.Person, err error) {
	err = store.Look(ctx, func(tx *postgres.Tx) error {
		p, err = tx.PersonByEmail(ctx, email)
		return err
	})
	return p, err
}

// builder makes meetings; the same moment gives the same ones.
type builder struct {
	service  *deeds.Deeds
	random   *rand.Rand
	newLink  func(by, topic string, start, end time.Time) join.Card
	now      time.Time
	people   []schedule.Person
	contacts []schedule.Contact
	rooms    []schedule.Room
	taken    map[uuid.UUID]when.Spans // rooms
	busy     map[uuid.UUID]when.Spans // people
	monday   when.Day                 // of the present week
	today    when.Day
}

func (b *builder) prepare(ctx context.Context, tx *postgres.Tx, h postgres.House) error {
	var emails, outside []string
	for _, p := range h.People {
		emails = append(emails, p.Email)
	}
	for _, c := range h.Contacts {
		outside = append(outside, c.Email)
	}
	var err error
	if b.people, err = tx.PeopleByEmail(ctx, emails); err != nil {
		return err
	}
	slices.SortFunc(b.people, func(x, y schedule.Person) int { return slices.Index(emails, x.Email) - slices.Index(emails, y.Email) })
	if b.contacts, err = tx.Contacts(ctx, outside); err != nil {
		return err
	}
	slices.SortFunc(b.contacts, func(x, y schedule.Contact) int {
		return slices.Index(outside, x.Email) - slices.Index(outside, y.Email)
	})
	if b.rooms, err = tx.Rooms(ctx, schedule.Page{Most: 100}); err != nil {
		return err
	}
	b.taken, b.busy = map[uuid.UUID]when.Spans{}, map[uuid.UUID]when.Spans{}
	b.today = b.people[0].Hours.Zone.LocalAt(when.At(b.now)).Day
	b.monday = b.today - when.Day((int(b.today.Weekday())+6)%7)
	return nil
}

// plan is one meeting to be made.
type plan struct {
	title, text string
	organiser   string // part of a name
	day         when.Day
	start       string
	minutes     int
	with        []string // parts of names or addresses; "?" behind one: optional
	answers     string   // a letter each: A accepted, M maybe, D declined, - none
	room        string
	was         string // when it started before it was moved
	off         string // called off, with this word
	link        bool
	by          string // where the link is; Ostrel where it is empty
	private     bool
	repeat      string // in words, with an end or without
	own         []meeting.DraftDate
	failed      string                 // the one whose mail server refused, and why
	heard       map[string]reach.Event // what was last heard of messages, by address; they were delivered else
	letter      *schedule.LetterIn     // a mail whose answer waits to be decided
}

func (b *builder) meetings(ctx context.Context, tx *postgres.Tx) error {
	ilse := b.person("Ilse")
	if err := tx.KeepAlias(ctx, ilse.ID, "desk@veerhaven.example", "ops@veerhaven.example", b.now.AddDate(0, -1, -9)); err != nil {
		return err
	}
	for _, p := range b.curated() {
		if err := b.make(ctx, tx, p); err != nil {
			return fmt.Errorf("%s: %w", p.title, err)
		}
	}
	made := len(b.curated())
	for made < 120 {
		p, ok := b.invent()
		if !ok {
			continue
		}
		if err := b.make(ctx, tx, p); err != nil {
			return fmt.Errorf("%s: %w", p.title, err)
		}
		made++
	}
	for _, p := range b.kept() {
		if err := b.make(ctx, tx, p); err != nil {
			return fmt.Errorf("%s: %w", p.title, err)
		}
	}
	return b.leaves(ctx, tx)
}

func (b *builder) leaves(ctx context.Context, tx *postgres.Tx) error {
	for _, l := range []struct {
		who   string
		first when.Day
		days  int
	}{{"Freya", b.monday + 10, 2}, {"Sigrid", b.monday + 7, 5}, {"Célia", b.monday + 2, 1}, {"Duarte", b.monday + 14, 3}, {"Tomé", b.monday + 36, 3}} {
		p := b.person(l.who)
		a := schedule.Absence{ID: uuid.NewSHA1(p.ID, []byte("leave")), First: l.first, Last: l.first + when.Day(l.days) - 1, EnteredAt: b.now}
		if err := tx.AddAbsence(ctx, p.ID, a); err != nil {
			return err
		}
		if err := tx.SetBusyFrom(ctx, p.ID, a.ID, schedule.FromLeave, []availability.Time{{Span: a.Span(p.Hours.Zone), Kind: availability.Leave}}); err != nil {
			return err
		}
	}
	return nil
}

func (b *builder) person(part string) schedule.Person {
	for _, p := range b.people {
		if strings.Contains(p.Name, part) {
			return p
		}
	}
	panic("no such person in the demo house: " + part)
}

func (b *builder) room(name string) *schedule.Room {
	for i := range b.rooms {
		if b.rooms[i].Name == name {
			return &b.rooms[i]
		}
	}
	return nil
}

// make writes a meeting as if it had been sent the day before.
func (b *builder) make(ctx context.Context, tx *postgres.Tx, p plan) error {
	organiser := b.person(p.organiser)
	clock, err := when.ParseClock(p.start)
	if err != nil {
		return err
	}
	start := when.Local{Day: p.day, Clock: clock}
	m := meeting.Meeting{Title: p.title, Text: p.text, Start: start, End: start.Add(time.Duration(p.minutes) * time.Minute),
		Zone: organiser.Hours.Zone.String(), Private: p.private, RemindBefore: 15, Organiser: organiser.Party()}
	id := uuid.NewSHA1(uuid.NameSpaceURL, fmt.Appendf(nil, "jembro:demo:%s:%s:%s", p.title, start, organiser.Email))
	m.UID = id.String() + "@" + b.service.House.MailDomain
	if p.repeat != "" {
		if m, err = b.series(m, p); err != nil {
			return err
		}
	}
	span := m.Span()
	var invited []schedule.Invited
	for i, part := range p.with {
		inv := b.invite(id, part)
		if i < len(p.answers) {
			inv.Answer = map[byte]meeting.Answer{'A': meeting.Accepted, 'M': meeting.Maybe, 'D': meeting.Declined}[p.answers[i]]
		}
		if inv.Answer == "" {
			inv.Answer = meeting.NoAnswer
		} else {
			at := b.sentAt(span).Add(time.Duration(20+b.random.IntN(300)) * time.Minute)
			inv.AnsweredAt, inv.AnswerStamp = &at, at.Unix()
		}
		invited = append(invited, inv)
		m.Participants = append(m.Participants, meeting.Participant{ID: inv.ID.String(), Party: inv.Party(), Needed: inv.Needed})
	}
	room := b.room(p.room)
	if room != nil {
		m.Room = room.Named()
	}
	if p.link {
		card := b.newLink(p.by, p.title, span.Start.Time(), span.End.Time())
		m.Card = &card
	}
	m, _ = meeting.Announce(nil, schedule.RollOf(m, invited, nil).WithAnswers())
	record := schedule.Record{ID: id, OrganiserID: organiser.ID, Version: 1, Content: m, Stamp: b.sentAt(span)}
	if err := b.write(ctx, tx, record, invited, room, p); err != nil {
		return err
	}
	if err := b.news(ctx, tx, record, invited, p); err != nil || p.letter == nil {
		return err
	}
	return b.letter(ctx, tx, record, *p.letter)
}

// news is what is new about a meeting, for those inside and for who organises it. What
// was answered, or is of last week, was read.
func (b *builder) news(ctx context.Context, tx *postgres.Tx, r schedule.Record, invited []schedule.Invited, p plan) error {
	if r.Content.Span().End < when.At(b.now.AddDate(0, 0, -3)) {
		return nil
	}
	tell := func(to uuid.UUID, kind schedule.NewsKind, n meeting.News, at time.Time, read bool) error {
		item := schedule.News{ID: schedule.NewsID(), PersonID: to, MeetingID: r.ID, Kind: kind, News: n, At: at}
		err := tx.AddNews(ctx, []schedule.News{item})
		if err == nil && read {
			_, err = tx.ReadNews(ctx, to, []uuid.UUID{item.ID}, uuid.Nil, time.Time{}, at.Add(time.Hour))
		}
		return err
	}
	morning := b.now.Add(-70 * time.Minute).Truncate(time.Minute)
	off := r.Content
	for i, x := range invited {
		m := meeting.Message{To: r.Content.Participants[i], Kind: meeting.Invite}
		if x.AnsweredAt != nil {
			e := meeting.Event{Kind: meeting.EventAnswered, Who: x.Name, Answer: x.Answer}
			if err := tell(r.OrganiserID, schedule.NewsEvent, meeting.NewsOfEvent(r.Content, e), *x.AnsweredAt, b.now.Sub(*x.AnsweredAt) > 22*time.Hour); err != nil {
				return err
			}
		}
		if x.PersonID == nil {
			continue
		}
		err := tell(*x.PersonID, schedule.NewsKind(m.Kind), meeting.NewsOf(nil, r.Content, m, false), r.Stamp, x.AnsweredAt != nil || p.was != "" || b.now.Sub(r.Stamp) > 100*time.Hour)
		if p.was != "" && err == nil {
			before := r.Content
			clock, wrong := when.ParseClock(p.was)
			if wrong != nil {
				return wrong
			}
			before.Start.Clock, before.End.Clock = clock, clock+before.End.Clock-before.Start.Clock
			m.Kind = meeting.Update
			err = tell(*x.PersonID, schedule.NewsKind(m.Kind), meeting.NewsOf(&before, r.Content, m, false), morning, false)
		}
		if p.off != "" && err == nil {
			m.Kind = meeting.CallOff
			n := meeting.NewsOf(&off, off, m, true)
			n.Word = p.off
			err = tell(*x.PersonID, schedule.NewsKind(m.Kind), n, morning.Add(20*time.Minute), false)
		}
		if err != nil {
			return err
		}
	}
	if p.off == "" {
		return nil
	}
	r.Version, r.Content.Sequence, r.CalledOffAt, r.Stamp = r.Version+1, r.Content.Sequence+1, &morning, morning
	if err := tx.SetMeeting(ctx, r); err != nil {
		return err
	}
	return tx.DropOccurrences(ctx, r.ID)
}

// letter puts a mail to a meeting in, as if it had come this morning.
func (b *builder) letter(ctx context.Context, tx *postgres.Tx, r schedule.Record, l schedule.LetterIn) error {
	l.ID, l.MeetingID, l.Digest, l.State, l.ArrivedAt = uuid.NewSHA1(r.ID, []byte(l.FromEmail)), r.ID, []byte(l.FromEmail), schedule.LetterOpen, b.now.Add(-40*time.Minute)
	for i := range l.Answers {
		l.Answers[i].Meeting, l.Answers[i].Stamp = r.ID, l.ArrivedAt.Unix()
	}
	if _, err := tx.AddLetterIn(ctx, l); err != nil {
		return err
	}
	a := l.Answers[0]
	said := meeting.Event{Kind: meeting.EventAnswered, Who: a.Attendee, Answer: a.Answer, Via: string(schedule.ViaMail), Verdict: a.Verdict}
	return tx.AddHappenings(ctx, r.ID, []schedule.Happening{{At: l.ArrivedAt, Event: said}})
}

// series makes the meeting repeat as the plan says.
func (b *builder) series(m meeting.Meeting, p plan) (meeting.Meeting, error) {
	draft := meeting.Draft{Title: m.Title, Start: m.Start.String(), End: m.End.String(), Zone: m.Zone,
		Repeat: &meeting.DraftRepeat{Rule: p.repeat, Ends: "open"}, Dates: p.own}
	settled, faults := draft.Settle(meeting.Surroundings{Organiser: m.Organiser, Rooms: b.named()})
	if len(faults) > 0 {
		return m, errors.New(words.English(faults[0].What))
	}
	m.Start, m.End, m.Series = settled.Start, settled.End, settled.Series
	return m, nil
}

func (b *builder) named() map[string]*meeting.Room {
	out := map[string]*meeting.Room{}
	for _, r := range b.rooms {
		out[r.Name] = r.Named()
	}
	return out
}

// sentAt is when a meeting was sent: a good day before, or before now.
func (b *builder) sentAt(span when.Span) time.Time {
	at := b.now.Add(-26 * time.Hour)
	if before := span.Start.Time().Add(-50 * time.Hour); before.Before(at) {
		at = before
	}
	return at.Truncate(time.Minute)
}

func (b *builder) invite(meetingID uuid.UUID, part string) schedule.Invited {
	name, optional := strings.CutSuffix(part, "?")
	i := schedule.Invited{MeetingID: meetingID, Needed: !optional, Name: name, Email: name}
	switch c := slices.IndexFunc(b.contacts, func(c schedule.Contact) bool { return strings.Contains(c.Email, name) || c.Name == name }); {
	case c >= 0:
		i.Name, i.Email, i.Zone = b.contacts[c].Name, b.contacts[c].Email, b.contacts[c].Zone
	case !strings.Contains(name, "@"):
		p := b.person(name)
		i.PersonID, i.Name, i.Email, i.Zone = &p.ID, p.Name, p.Email, p.Hours.Zone.String()
	}
	i.ID = uuid.NewSHA1(meetingID, []byte(i.Email))
	return i
}

// heard is what was heard of a mail to an address that was sent at a moment.
func (b *builder) heard(at time.Time, email, reason string, refused bool, last reach.Event) []reach.Event {
	server := "mx." + email[strings.LastIndexByte(email, '@')+1:]
	if refused {
		return []reach.Event{{At: at.Add(4 * time.Second), Kind: reach.Refused, Code: reach.FindCode(reason), Said: reason}}
	}
	if last.Kind == "" {
		last.Kind, last.Code = reach.Delivered, reach.Code{Class: 2, Subject: 1, Detail: 5}
	}
	last.At, last.Server = at.Add(3*time.Second), server
	return []reach.Event{{At: at.Add(time.Second), Kind: reach.Handed, Server: "relay.marrowby.example"}, last}
}

func (b *builder) take(person uuid.UUID, span when.Span) {
	b.busy[person] = b.busy[person].Union(when.Union(span))
}

func (b *builder) write(ctx context.Context, tx *postgres.Tx, r schedule.Record, invited []schedule.Invited, room *schedule.Room, p plan) error {
	if err := tx.AddMeeting(ctx, r); err != nil {
		return err
	}
	told := func(at time.Time, e meeting.Event) schedule.Happening { return schedule.Happening{At: at, Event: e} }
	story := []schedule.Happening{told(r.Stamp, meeting.Event{Kind: meeting.EventSent, Who: r.Content.Organiser.Name, Told: len(invited)})}
	if room != nil {
		story = append(story, told(r.Stamp, meeting.Event{Kind: meeting.EventRoomBooked, Name: room.Name}))
	}
	if r.Content.Card != nil {
		story = append(story, told(r.Stamp, meeting.Event{Kind: meeting.EventLinkMade, Name: r.Content.Card.Name}))
	}
	var sent []schedule.Dispatch
	heard := map[uuid.UUID][]reach.Event{}
	for _, i := range invited {
		d := schedule.Dispatch{ID: uuid.New(), MeetingID: r.ID, Version: 1, ParticipantID: i.ID, Kind: meeting.Invite,
			Channel: schedule.Inside, State: schedule.Handed, Stamp: r.Stamp, QueuedAt: r.Stamp, HandedAt: &r.Stamp}
		d.Stage, d.StageAt = reach.Delivered, r.Stamp
		reason, refused := strings.CutPrefix(p.failed, i.Email+": ")
		if i.PersonID == nil {
			d.Channel, d.Progress = schedule.Mail, reach.Progress{}
			heard[d.ID] = b.heard(r.Stamp, i.Email, reason, refused, p.heard[i.Email])
			for _, e := range heard[d.ID] {
				d.Progress = d.After(e)
			}
		}
		if refused {
			d.State, d.Detail, d.HandedAt = schedule.Failed, reason, nil
			story = append(story, told(r.Stamp.Add(time.Minute), meeting.Event{Kind: meeting.EventNotAccepted, Name: i.Name, Reason: reason}))
		}
		sent = append(sent, d)
		if i.AnsweredAt != nil {
			story = append(story, told(*i.AnsweredAt, meeting.Event{Kind: meeting.EventAnswered, Who: i.Name, Answer: i.Answer}))
		}
	}
	if err := tx.AddInvited(ctx, invited); err != nil {
		return err
	}
	if err := tx.AddDispatches(ctx, sent); err != nil {
		return err
	}
	for _, d := range sent {
		if len(heard[d.ID]) == 0 {
			continue
		}
		if err := errors.Join(tx.SetDispatch(ctx, d), tx.AddDispatchEvents(ctx, d.ID, heard[d.ID])); err != nil {
			return err
		}
	}
	asked, err := b.service.Meetings.Kernel.WriteTimes(ctx, tx, r)
	if err != nil {
		return err
	}
	for i := range story {
		if len(asked) > 0 && story[i].Kind == meeting.EventRoomBooked {
			story[i].Kind = meeting.EventRoomAsked
		}
	}
	for d := range r.Content.Dates(r.Content.Start.Day) {
		if d.On > b.monday+40 {
			break
		}
		b.take(r.OrganiserID, d.Span)
		for _, i := range invited {
			if i.PersonID != nil && i.Answer != meeting.Declined {
				b.take(*i.PersonID, d.Span)
			}
		}
		if room != nil {
			b.taken[room.ID] = b.taken[room.ID].Union(when.Union(d.Span))
		}
	}
	slices.SortStableFunc(story, func(x, y schedule.Happening) int { return x.At.Compare(y.At) })
	for _, h := range story {
		if err := tx.AddHappenings(ctx, r.ID, []schedule.Happening{h}); err != nil {
			return err
		}
	}
	return nil
}
