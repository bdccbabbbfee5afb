package schedule

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Sent is what a Send did.
type Sent struct {
	MeetingID uuid.UUID
	Told      int // messages that it caused
}

// Send settles a sheet for good: the meeting, everybody's time, the room and
// the messages are kept in one transaction, or nothing is and the sheet stays
// as it was. The same key does it once, however often it is called.
//
// It fails with a *VersionError when sheet or meeting were changed since the
// caller saw them, with an *InvalidError that names the fields, with a
// *TakenError when somebody was faster with the room, and with ErrCalledOff.
func (s *Service) Send(ctx context.Context, me, id uuid.UUID, version int, key string) (sent Sent, err error) {
	var taken settled
	err = s.Store.InTx(ctx, func(tx Tx) error {
		done, err := tx.SendKey(ctx, me, key)
		if err == nil {
			if done.SheetID != id {
				return invalid("idempotencyKey", "This key was used for another sheet.")
			}
			sent = Sent{done.MeetingID, done.Told}
			return nil
		}
		if !errors.Is(err, ErrNotFound) {
			return err
		}
		sheet, err := lockSheet(ctx, tx, me, id, version)
		if err != nil {
			return err
		}
		before, err := s.changed(ctx, tx, sheet)
		if err != nil {
			return err
		}
		taken, err = s.settle(ctx, tx, sheet, before)
		if err != nil {
			return err
		}
		if sent, err = s.store(ctx, tx, sheet, taken); err != nil {
			return err
		}
		return tx.AddSendKey(ctx, SendKey{PersonID: me, Key: key, SheetID: id, MeetingID: sent.MeetingID, Told: sent.Told}, s.now())
	})
	if errors.Is(err, ErrOverlap) {
		return Sent{}, s.explainTaken(ctx, taken)
	}
	return sent, err
}

// changed is the meeting that a sheet changes, locked, or nil. It fails with a
// *VersionError when the meeting is no longer the one the changes were made to.
func (s *Service) changed(ctx context.Context, tx Tx, sheet Sheet) (*Record, error) {
	if sheet.MeetingID == nil {
		return nil, nil
	}
	record, err := organised(ctx, tx, sheet.OwnerID, *sheet.MeetingID)
	if err != nil {
		return nil, err
	}
	if record.Version != sheet.BasedOn {
		was, err := tx.MeetingAt(ctx, record.ID, sheet.BasedOn)
		if err != nil {
			return nil, err
		}
		return nil, &VersionError{Meeting: &record, Changed: meeting.Compare(was.Content, record.Content).Words()}
	}
	return &record, nil
}

// store keeps a settled sheet and everything that follows from it.
func (s *Service) store(ctx context.Context, tx Tx, sheet Sheet, st settled) (Sent, error) {
	if st.before != nil && st.change.Empty() {
		return Sent{MeetingID: st.before.ID}, tx.DropSheet(ctx, sheet.ID)
	}
	record, err := s.storeMeeting(ctx, tx, st)
	if err != nil {
		return Sent{}, err
	}
	invited, err := s.storeInvited(ctx, tx, record, st)
	if err != nil {
		return Sent{}, err
	}
	if err := s.storeTimes(ctx, tx, record, invited, st); err != nil {
		return Sent{}, err
	}
	if err := s.dispatch(ctx, tx, record, st.due, st.change.Words()); err != nil {
		return Sent{}, err
	}
	if err := s.tellProvider(ctx, tx, record, st); err != nil {
		return Sent{}, err
	}
	if err := s.tellStory(ctx, tx, record, st); err != nil {
		return Sent{}, err
	}
	if err := tx.DropSheet(ctx, sheet.ID); err != nil {
		return Sent{}, err
	}
	concerned := append(insiders(record.Content.Participants), insiders(st.change.Removed)...)
	return Sent{MeetingID: record.ID, Told: len(st.due)}, tx.Tell(ctx, append(concerned, record.OrganiserID), record.ID)
}

func (s *Service) storeMeeting(ctx context.Context, tx Tx, st settled) (Record, error) {
	if st.before == nil {
		id := uuid.New()
		st.meeting.UID = id.String() + "@" + s.House.MailDomain
		record := Record{ID: id, OrganiserID: st.organiser.ID, Version: 1, Content: st.meeting, Stamp: s.now()}
		return record, tx.AddMeeting(ctx, record)
	}
	record := *st.before
	record.Version, record.Content, record.Stamp = record.Version+1, st.meeting, s.now()
	return record, tx.SetMeeting(ctx, record)
}

// storeInvited brings the people invited to what the meeting says, and returns
// them. Those who are told something are marked with what they were told.
func (s *Service) storeInvited(ctx context.Context, tx Tx, record Record, st settled) ([]Invited, error) {
	told := map[string]bool{}
	for _, m := range st.due {
		told[m.To.ID] = true
	}
	var out []Invited
	for _, p := range record.Content.Participants {
		at := slices.IndexFunc(st.invited, func(i Invited) bool { return i.ID.String() == p.ID })
		if at < 0 {
			i, err := newInvited(record, p)
			if err != nil {
				return nil, err
			}
			out = append(out, i)
			if err := tx.AddInvited(ctx, i); err != nil {
				return nil, err
			}
			continue
		}
		i := st.invited[at]
		i.Name, i.Needed = p.Name, p.Needed
		if st.change.AsksAgain() {
			i.Answer, i.Comment, i.AnsweredAt = meeting.NoAnswer, "", nil
		}
		if told[p.ID] {
			i.SentSequence = record.Content.Sequence
		}
		out = append(out, i)
		if err := tx.SetInvited(ctx, i); err != nil {
			return nil, err
		}
	}
	for _, i := range st.invited {
		if !told[i.ID.String()] || slices.ContainsFunc(out, func(o Invited) bool { return o.ID == i.ID }) {
			continue
		}
		now := s.now()
		i.RemovedAt, i.SentSequence = &now, record.Content.Sequence
		if err := tx.SetInvited(ctx, i); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func newInvited(record Record, p meeting.Participant) (Invited, error) {
	id, err := uuid.Parse(p.ID)
	if err != nil {
		return Invited{}, err
	}
	i := Invited{ID: id, MeetingID: record.ID, Name: p.Name, Email: p.Email, Zone: p.Zone, Needed: p.Needed,
		Answer: meeting.NoAnswer, SentSequence: record.Content.Sequence}
	if p.PersonID != "" {
		personID, err := uuid.Parse(p.PersonID)
		if err != nil {
			return Invited{}, err
		}
		i.PersonID = &personID
	}
	return i, nil
}

// busyFor is how an answer takes somebody's time (DESIGN.md, rule 2); empty
// when it leaves it clear.
func busyFor(a meeting.Answer) BusyKind {
	switch a {
	case meeting.Declined:
		return ""
	case meeting.Maybe:
		return Maybe
	}
	return Busy
}

// storeTimes writes what follows on the line of instants: the occurrence, who
// is busy, and the room, where any of them changed.
func (s *Service) storeTimes(ctx context.Context, tx Tx, record Record, invited []Invited, st settled) error {
	c := st.change
	if st.before != nil && !c.Time && !c.Room && len(c.Added)+len(c.Removed) == 0 {
		return nil
	}
	span := record.Content.Span()
	occurrence, err := tx.SetOccurrence(ctx, record.ID, span)
	if err != nil {
		return err
	}
	if err := tx.AddBusy(ctx, occurrence, BusyTime{PersonID: record.OrganiserID, Span: span, Kind: Busy}); err != nil {
		return err
	}
	for _, i := range invited {
		kind := busyFor(i.Answer)
		if i.PersonID == nil || kind == "" {
			continue
		}
		if err := tx.AddBusy(ctx, occurrence, BusyTime{PersonID: *i.PersonID, Span: span, Kind: kind}); err != nil {
			return err
		}
	}
	if st.room == nil {
		return nil
	}
	return tx.AddBooking(ctx, occurrence, st.room.ID, span, s.now())
}

// dispatch keeps the messages that are due and queues those that leave the
// house; colleagues have theirs at once.
func (s *Service) dispatch(ctx context.Context, tx Tx, record Record, due []meeting.Message, words string) error {
	for _, m := range due {
		to, err := uuid.Parse(m.To.ID)
		if err != nil {
			return err
		}
		now := s.now()
		d := Dispatch{ID: uuid.New(), MeetingID: record.ID, Version: record.Version, ParticipantID: to, Kind: m.Kind,
			Words: words, Channel: Mail, State: Queued, QueuedAt: now}
		if !m.To.Outside() {
			d.Channel, d.State, d.HandedAt = Inside, Handed, &now
		}
		if err := tx.AddDispatch(ctx, d); err != nil {
			return err
		}
		if d.Channel == Mail {
			if err := tx.QueueDispatch(ctx, d.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// tellProvider has the call follow the meeting.
func (s *Service) tellProvider(ctx context.Context, tx Tx, record Record, st settled) error {
	card := record.Content.Card
	if st.before != nil && st.change.Link {
		if err := withdrawUnused(ctx, tx, record.OrganiserID, st.before.Content.Card, &record); err != nil {
			return err
		}
	}
	if card == nil || st.before != nil && !st.change.Time && !st.change.Title && !st.change.Link {
		return nil
	}
	return tx.QueueCallChange(ctx, CallChange{PersonID: record.OrganiserID, Card: *card, MeetingID: record.ID})
}

func (s *Service) tellStory(ctx context.Context, tx Tx, record Record, st settled) error {
	var lines []string
	who := st.organiser.Name
	switch {
	case st.before == nil:
		lines = append(lines, fmt.Sprintf("%s sent %s", who, count(len(st.due), "invitation")))
	case len(st.due) == 0:
		lines = append(lines, fmt.Sprintf("%s changed %s; nobody needed to hear", who, st.change.Words()))
	default:
		lines = append(lines, fmt.Sprintf("%s changed %s and told %s", who, st.change.Words(), people(len(st.due))))
	}
	room := record.Content.Room
	if room != nil && (st.before == nil || st.change.Room || st.change.Time) {
		lines = append(lines, room.Name+" booked")
	}
	if was := st.before; was != nil && was.Content.Room != nil && st.change.Room {
		lines = append(lines, was.Content.Room.Name+" given back")
	}
	if card := record.Content.Card; card != nil && (st.before == nil || st.change.Link) {
		lines = append(lines, "Link made at "+card.Name)
	}
	for _, words := range lines {
		if err := tx.AddHappening(ctx, record.ID, Happening{At: s.now(), Words: words}); err != nil {
			return err
		}
	}
	return nil
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

func people(n int) string {
	if n == 1 {
		return "1 person"
	}
	return fmt.Sprintf("%d people", n)
}

// insiders are those with an account here.
func insiders(participants []meeting.Participant) []uuid.UUID {
	var out []uuid.UUID
	for _, p := range participants {
		if id, err := uuid.Parse(p.PersonID); err == nil {
			out = append(out, id)
		}
	}
	return out
}

// explainTaken says who has the room and what is clear instead.
func (s *Service) explainTaken(ctx context.Context, st settled) error {
	span := st.meeting.Span()
	taken := &TakenError{Room: *st.room, From: span.Start.Time(), Until: span.End.Time(), Since: s.now()}
	var but uuid.UUID
	if st.before != nil {
		but = st.before.ID
	}
	err := s.Store.Look(ctx, func(tx Tx) error {
		rooms, err := tx.Rooms(ctx, everyRoom)
		if err != nil {
			return err
		}
		bookings, err := tx.Bookings(ctx, nil, span, but)
		if err != nil {
			return err
		}
		inTheWay := slices.IndexFunc(bookings, func(b Booking) bool { return b.RoomID == st.room.ID })
		if inTheWay >= 0 {
			taken.describe(bookings[inTheWay])
		}
		taken.Clear = clearRooms(rooms, bookings, len(st.meeting.Participants)+1, st.room.SiteID)
		return nil
	})
	if err != nil {
		return err
	}
	return taken
}

func (e *TakenError) describe(b Booking) {
	e.From, e.Until, e.Since = b.Span.Start.Time(), b.Span.End.Time(), b.BookedAt
	if !b.Private {
		e.By = b.By
	}
}

// everyRoom is the page that holds all rooms of a house.
var everyRoom = Page{Most: 1000}

// clearRooms are the rooms with enough seats that have no booking, those at the
// same site first, then the smallest that will do; five at the most.
func clearRooms(rooms []Room, bookings []Booking, seats int, site uuid.UUID) []Room {
	rooms = slices.DeleteFunc(slices.Clone(rooms), func(r Room) bool {
		return r.Seats < seats || slices.ContainsFunc(bookings, func(b Booking) bool { return b.RoomID == r.ID })
	})
	slices.SortStableFunc(rooms, func(a, b Room) int {
		if (a.SiteID == site) != (b.SiteID == site) {
			if a.SiteID == site {
				return -1
			}
			return 1
		}
		return a.Seats - b.Seats
	})
	return rooms[:min(len(rooms), 5)]
}

// Sentence says in a person's own zone that the room is taken.
func (e *TakenError) Sentence(zone when.Zone) string {
	by := ""
	if e.By != "" {
		by = " by " + e.By
	}
	day := func(t time.Time) when.Day { return zone.LocalAt(when.At(t)).Day }
	since := clockOf(e.Since, zone)
	if day(e.Since) != day(e.From) {
		since = "on " + e.Since.In(zone.Location()).Format("2 January at 15:04")
	} else {
		since = "at " + since
	}
	return fmt.Sprintf("%s was taken %s%s, from %s until %s.", e.Room.Name, since, by, clockOf(e.From, zone), clockOf(e.Until, zone))
}
