package meetings

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// meetingTx is what is needed here of a transaction.
type meetingTx interface {
	recordTx
	roomStateTx
	shortTx
	AllInvited(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	Happenings(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.Happening, error)
	InvitedEver(ctx context.Context, meetingID uuid.UUID) ([]schedule.Invited, error)
	LettersIn(ctx context.Context, meetingID uuid.UUID, most int) ([]schedule.LetterIn, error)
	NewestOfMeetings(ctx context.Context, ids []uuid.UUID) ([]schedule.Dispatch, error)
	Occurrences(ctx context.Context, meetingID uuid.UUID) ([]schedule.Occurrence, error)
	OwnClashes(ctx context.Context, person uuid.UUID, meetings []uuid.UUID, now time.Time) ([]schedule.OwnClash, error)
	OwnReminders(ctx context.Context, participant uuid.UUID) ([]meeting.Reminder, error)
	ProposalsOf(ctx context.Context, participant uuid.UUID) ([]schedule.Proposal, error)
	Related(ctx context.Context, uid string, relatedTo string) ([]schedule.Record, error)
}

func (s *Deeds) meetingStore() schedule.Store[meetingTx] {
	return schedule.Narrow(s.Store, func(tx Tx) meetingTx { return tx })
}

// Detail is a meeting with what became of it.
type Detail struct {
	schedule.Record
	Invited []schedule.Invited // in the order of the meeting
	// Dispatches holds the newest message to each participant, by their ID; one that did not
	// get there stands before what was sent since.
	Dispatches map[uuid.UUID]schedule.Dispatch
	// Address is its short address, for the organiser; nil where it has none.
	Address    *schedule.ShortAddress
	Happenings []schedule.Happening
	Me         *schedule.Invited // the reader, nil for the organiser
	// Letters are mails to the meeting, those to be decided first; for the organiser.
	Letters []schedule.LetterIn
	// Roll is how those invited stand to each date; Booked are the dates of a series as they are
	// written down.
	Roll   schedule.Roll
	Booked []schedule.Occurrence
	// Before and After are the series that this one goes on from, and that goes
	// on from it.
	Before, After *schedule.Record
	// Proposed is the newest other time that the reader proposed, nil for none.
	Proposed *schedule.Proposal
	// Clashes is what the reader has themselves at dates to come, when they are invited.
	Clashes []schedule.OwnClash
	// Reminders are those that the reader, who is invited, set for themselves.
	Reminders []meeting.Reminder
	Zone      when.Zone // the reader's
	Room      RoomState
	At        time.Time // when it was read
}

// AnswersOn are what one of those invited answers to dates of theirs where that is not what they
// answer to all.
func (d Detail) AnswersOn(id uuid.UUID) (out []schedule.AnswerOn) {
	part, _ := d.Roll.Part(id)
	for _, single := range part.Kept().Single() {
		if part.At(single.On).Invited {
			a := d.Roll.On(id, single.On)
			a.Answer = single.Answer
			out = append(out, a)
		}
	}
	return out
}

// Meeting shows a meeting to its organiser and to those invited; for everybody
// else it is ErrNotFound.
func (s *Deeds) Meeting(ctx context.Context, who schedule.Actor, id uuid.UUID) (d Detail, err error) {
	err = s.meetingStore().Look(ctx, func(tx meetingTx) error {
		if d, err = detail(ctx, tx, id); err != nil {
			return err
		}
		d.At = s.Now()
		for _, i := range d.Invited {
			if i.PersonID != nil && *i.PersonID == who.For {
				d.Me = &i
			}
		}
		if d.OrganiserID != who.For && d.Me == nil {
			return d.calledOffFor(ctx, tx, who)
		}
		if d.Room, err = s.roomState(ctx, tx, d.Record, who); err != nil {
			return err
		}
		d.keepTo(who)
		if d.Me == nil {
			if d.Address, err = shortAddress(ctx, tx, id); err != nil {
				return err
			}
			d.Letters, err = tx.LettersIn(ctx, id, lettersShown)
			return err
		}
		reader, err := directory.Person(ctx, tx, who.For)
		if err != nil || d.CalledOffAt != nil {
			return err
		}
		d.Zone = reader.Hours.Zone
		if d.Proposed, err = proposed(ctx, tx, d.Me.ID); err != nil {
			return err
		}
		if d.Reminders, err = tx.OwnReminders(ctx, d.Me.ID); err != nil {
			return err
		}
		d.Clashes, err = tx.OwnClashes(ctx, who.For, []uuid.UUID{id}, s.Now())
		return err
	})
	return d, err
}

// calledOffFor makes it what somebody has of it whose dates were all called off: the meeting as it
// was before, as one that is called off. It fails with ErrNotFound for everybody else.
func (d *Detail) calledOffFor(ctx context.Context, tx meetingTx, who schedule.Actor) error {
	ever, err := tx.InvitedEver(ctx, d.ID)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(ever, func(i schedule.Invited) bool { return i.PersonID != nil && *i.PersonID == who.For && i.OffVersion > 0 })
	if at < 0 {
		return schedule.ErrNotFound
	}
	me := ever[at]
	was := Detail{Me: &me, At: d.At, Dispatches: map[uuid.UUID]schedule.Dispatch{}}
	if was.Record, err = asTheyHadIt(ctx, tx, me); err != nil {
		return err
	}
	answers, err := tx.AnswersOn(ctx, d.ID)
	if err != nil {
		return err
	}
	for n, i := range ever { // as they were then
		if _, is := was.Content.Participant(i.ID.String()); is {
			ever[n].RemovedAt = nil
			was.Invited = append(was.Invited, ever[n])
		}
	}
	was.Roll = schedule.RollOf(was.Content, was.Invited, answers)
	was.keepTo(who)
	*d = was
	return nil
}

// lettersShown is how many mails to a meeting are shown.
const lettersShown = 50

// keepTo leaves out what the reader may not know: people on other dates than
// theirs, and series that they are no part of.
func (d *Detail) keepTo(who schedule.Actor) {
	if d.Me != nil {
		d.Content = d.Content.SeenBy(d.Me.ID.String())
		d.Invited = slices.DeleteFunc(d.Invited, func(i schedule.Invited) bool {
			_, seen := d.Content.Participant(i.ID.String())
			return !seen
		})
	}
	for _, r := range []**schedule.Record{&d.Before, &d.After} {
		if *r == nil || (*r).OrganiserID == who.For {
			continue
		}
		if !slices.ContainsFunc((*r).Content.Participants, func(p meeting.Participant) bool { return p.PersonID == who.For.String() }) {
			*r = nil
		}
	}
}

func detail(ctx context.Context, tx meetingTx, id uuid.UUID) (d Detail, err error) {
	if d.Record, err = tx.Meeting(ctx, id); err != nil {
		return d, err
	}
	all, err := tx.AllInvited(ctx, id)
	if err != nil {
		return d, err
	}
	byID := map[string]schedule.Invited{}
	for _, i := range all {
		byID[i.ID.String()] = i
	}
	for _, p := range d.Content.Participants {
		if i, ok := byID[p.ID]; ok {
			d.Invited = append(d.Invited, i)
		}
	}
	latest, err := tx.NewestOfMeetings(ctx, []uuid.UUID{id})
	if err != nil {
		return d, err
	}
	d.Dispatches = map[uuid.UUID]schedule.Dispatch{}
	for _, x := range latest {
		d.Dispatches[x.ParticipantID] = x
	}
	answers, err := tx.AnswersOn(ctx, id)
	if err != nil {
		return d, err
	}
	d.Roll = schedule.RollOf(d.Content, all, answers)
	if d.Happenings, err = tx.Happenings(ctx, id, 50); err != nil || !d.Content.Repeats() {
		return d, err
	}
	if d.Booked, err = tx.Occurrences(ctx, id); err != nil {
		return d, err
	}
	related, err := tx.Related(ctx, d.Content.UID, d.Content.RelatedTo)
	for i, r := range related {
		if r.Content.RelatedTo == d.Content.UID {
			d.After = &related[i]
		} else if r.Content.UID == d.Content.RelatedTo {
			d.Before = &related[i]
		}
	}
	return d, err
}
