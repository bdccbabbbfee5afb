package sheets

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/core/holidays"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
	"jembro/internal/schedule/kernel"
)

// settleTx is what is needed here of a transaction.
type settleTx interface {
	directory.LookupTx
	kernel.In
	languagesTx
	schedule.MailsTx
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	FilesFor(ctx context.Context, all []attachment.File, owner uuid.UUID, meetingID *uuid.UUID) (map[string]attachment.File, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
}

// settle turns a sheet into the meeting it would be; it fails with an
// *InvalidError that names every field at fault, and gives as much of the
// meeting as there is then. before is the meeting that the sheet changes, nil for
// a new one.
func (s *Deeds) settle(ctx context.Context, tx settleTx, sheet schedule.Sheet, before *schedule.Record) (kernel.Settled, error) {
	organiser, err := directory.Person(ctx, tx, sheet.OwnerID)
	if err != nil {
		return kernel.Settled{}, err
	}
	out := kernel.Settled{Before: before, Organiser: organiser, Cover: sheet.Draft.Cover}
	around := meeting.Surroundings{Now: when.At(s.Now()), Organiser: organiser.Party(), Card: sheet.Card}
	if before != nil {
		around.Before = &before.Content
		if out.Invited, err = tx.AllInvited(ctx, before.ID); err != nil {
			return out, err
		}
	}
	draft := sheet.Draft
	if len(draft.Files) > 0 {
		if around.Files, err = tx.FilesFor(ctx, draft.Files, sheet.OwnerID, sheet.MeetingID); err != nil {
			return out, err
		}
	}
	known, err := directory.LookUp(ctx, tx, draft.People)
	if err != nil {
		return out, err
	}
	draft.People = known.Complete(draft.People)
	readers, err := s.readers(ctx, tx, draft.People)
	if err != nil {
		return out, err
	}
	house, countries, err := surroundings(ctx, tx, draft, before, organiser, known)
	if err != nil {
		return out, err
	}
	around.Rooms, out.Countries, out.House = map[string]*meeting.Room{}, countries, house
	for _, room := range house {
		around.Rooms[room.ID.String()] = room.Named()
	}
	around.Holiday = func(day when.Day) string { return holidays.In(countries, day) }
	outcome, faults := draft.Change(around, func(p *meeting.Participant) {
		known.Identify(p, out.Invited)
		if p.Outside() {
			p.Language = readers.of(p.Email)
		}
	})
	out.Outcome = outcome
	if !slices.ContainsFunc(faults, blocksDates) {
		faults = append(faults, s.decideRooms(&out, house)...)
	}
	if len(faults) > 0 {
		return out, &schedule.InvalidError{Faults: faults}
	}
	if before == nil {
		out.Meeting, out.Due = meeting.Announce(nil, out.Meeting)
		return out, s.withinMails(ctx, tx, out)
	}
	if err := out.Become(ctx, tx, out.Meeting, s.Now()); err != nil {
		return out, err
	}
	if out.Next != nil {
		out.Next.Sequence = 0
		*out.Next, out.DueNext = kernel.DueNext(before.Content, *out.Next)
		for i := range out.Next.Participants {
			out.Next.Participants[i].ID = uuid.NewString()
		}
		for i := range out.DueNext {
			out.DueNext[i].To.ID = out.Next.Participants[i].ID
		}
	}
	return out, s.withinMails(ctx, tx, out)
}

// withinMails fails with an *InvalidError when sending would cause too many mails.
func (s *Deeds) withinMails(ctx context.Context, tx schedule.MailsTx, st kernel.Settled) error {
	fault, err := s.MailFault(ctx, tx, st.Organiser.ID, outsideMails(st))
	if err != nil || fault == nil {
		return err
	}
	return &schedule.InvalidError{Faults: []meeting.Fault{*fault}}
}

// decideRooms has the rooms of a settled meeting say what they say by their rules, and
// gives what that has against it.
func (s *Deeds) decideRooms(st *kernel.Settled, house []schedule.Room) (faults []meeting.Fault) {
	m := st.Settled()
	if len(house) == 0 {
		return nil
	}
	var was []schedule.Occurrence
	if st.Before != nil {
		was = s.Kernel.RoomDates(st.Before.Content)
	}
	st.Rooms = s.Kernel.DecideRooms(m, s.Kernel.RoomDates(m), was, house, st.Organiser)
	for _, d := range st.Rooms {
		if d.Verdict == rooms.Refused {
			faults = append(faults, meeting.Fault{Field: "room", What: d.What()})
		}
	}
	return faults
}

// surroundings finds the rooms that a sheet names, and the countries whose
// holidays count: those of the sites of everybody inside and of the rooms.
func surroundings(ctx context.Context, tx settleTx, draft meeting.Draft, before *schedule.Record, organiser schedule.Person, known directory.Acquaintances) ([]schedule.Room, []string, error) {
	countries := []string{organiser.Holidays}
	for _, p := range known.ByID {
		countries = append(countries, p.Holidays)
	}
	wanted := []string{draft.RoomID}
	for _, d := range draft.Dates {
		wanted = append(wanted, d.RoomID)
	}
	if before != nil && before.Content.Room != nil {
		wanted = append(wanted, before.Content.Room.ID)
	}
	var ids []uuid.UUID
	for _, text := range wanted {
		if id, err := uuid.Parse(text); err == nil && !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	found, err := tx.RoomsByID(ctx, ids)
	if err != nil {
		return nil, nil, err
	}
	for _, room := range found {
		countries = append(countries, room.Holidays)
	}
	slices.Sort(countries)
	return found, slices.DeleteFunc(slices.Compact(countries), func(c string) bool { return c == "" }), nil
}
