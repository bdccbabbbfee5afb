package meetings

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
)

// guestTx is what is needed here of a transaction.
type guestTx interface {
	invitedTx
	recordTx
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	Languages(ctx context.Context, emails []string) (map[string]schedule.ReaderLanguage, error)
	ProposalsOf(ctx context.Context, participant uuid.UUID) ([]schedule.Proposal, error)
	SawPage(ctx context.Context, participant uuid.UUID, version int) error
	SetLanguage(ctx context.Context, email, language string, own bool) error
}

func (s *Deeds) guestStore() schedule.Store[guestTx] {
	return schedule.Narrow(s.Store, func(tx Tx) guestTx { return tx })
}

// GuestView is a meeting as somebody invited sees it without an account.
type GuestView struct {
	schedule.Record
	Guest schedule.Invited
	// Part is theirs in it.
	Part meeting.Part
	// Since is what changed since the guest last looked, nil for nothing.
	Since *GuestSince
	// Proposed is the newest other time that they proposed, nil for none.
	Proposed *schedule.Proposal
	// Tongue is the language of the letters to them, and of their page.
	Tongue tongue.Tongue
	roll   schedule.Roll
}

// GuestSince is what changed, in words, and when it was where it has moved.
type GuestSince struct {
	Words string
	Was   *when.Span
}

// Guest shows the meeting that a token is for; it fails with ErrNotFound when
// the token is none, or the guest is no longer invited and it was not called
// off either.
func (s *Deeds) Guest(ctx context.Context, token string) (v GuestView, err error) {
	err = s.guestStore().Look(ctx, func(tx guestTx) error {
		if v.Guest, err = s.reader(ctx, tx, token); err != nil {
			return err
		}
		id := v.Guest.ID
		if v.Record, err = asTheyHadIt(ctx, tx, v.Guest); err != nil {
			return err
		}
		if lapsed(v.Record, s.Now()) {
			return schedule.ErrNotFound
		}
		v.Content = v.Content.SeenBy(id.String())
		if v.Tongue, err = tongueOf(ctx, tx, v); err != nil {
			return err
		}
		if err := changedSince(ctx, tx, &v); err != nil {
			return err
		}
		all, err := tx.AnswersOn(ctx, v.Record.ID)
		if err != nil {
			return err
		}
		invited := v.Guest
		invited.RemovedAt = nil // they were, as far as they see it
		v.roll = schedule.RollOf(v.Content, []schedule.Invited{invited}, all)
		v.Part, _ = v.roll.Part(id)
		v.Proposed, err = proposed(ctx, tx, id)
		return err
	})
	return v, err
}

// tongueOf is the language of the letters to a guest: as they said, or as the meeting was sent.
func tongueOf(ctx context.Context, tx guestTx, v GuestView) (tongue.Tongue, error) {
	known, err := tx.Languages(ctx, []string{v.Guest.Email})
	if l := known[strings.ToLower(v.Guest.Email)]; l.Own {
		return tongue.In(l.Language), err
	}
	p, _ := v.Content.Participant(v.Guest.ID.String())
	return tongue.In(p.Language), err
}

// changedSince finds what changed since the guest last looked, of what concerns them.
func changedSince(ctx context.Context, tx guestTx, v *GuestView) error {
	if v.Guest.PageSeen == 0 || v.Guest.PageSeen >= v.Version {
		return nil
	}
	was, err := tx.MeetingAt(ctx, v.Record.ID, v.Guest.PageSeen)
	if err != nil {
		return err
	}
	id := v.Guest.ID.String()
	change := meeting.Compare(was.Content.SeenBy(id), v.Content)
	of := func(p meeting.Participant) bool { return p.ID == id }
	p, _ := v.Content.Participant(id)
	said := words.ToReader(v.Tongue, change.Facts(), nil, p.Needed, slices.ContainsFunc(change.Role, of), slices.ContainsFunc(change.Invited, of))
	if said == "" {
		return nil
	}
	v.Since = &GuestSince{Words: said}
	if change.MovesTime() && !v.Content.Repeats() && !v.Content.AllDay && !was.Content.AllDay {
		span := was.Content.SpanFor(id)
		v.Since.Was = &span
	}
	return nil
}

// GuestSaw keeps that a guest's page has shown a version: what changes from then on is said when
// they look again.
func (s *Deeds) GuestSaw(ctx context.Context, token string, version int) error {
	return s.guestStore().InTx(ctx, func(tx guestTx) error {
		i, err := s.guest(ctx, tx, token)
		if err != nil {
			return err
		}
		record, err := tx.Meeting(ctx, i.MeetingID)
		if err != nil {
			return err
		}
		return tx.SawPage(ctx, i.ID, min(version, record.Version))
	})
}

// invitedTx is what is needed of a transaction to know somebody invited.
type invitedTx interface {
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
}

// guest is who is invited by a token; it fails with ErrNotFound for one that no longer holds.
func (s *Deeds) guest(ctx context.Context, tx invitedTx, token string) (schedule.Invited, error) {
	i, err := s.reader(ctx, tx, token)
	if err == nil && i.RemovedAt != nil {
		err = schedule.ErrCalledOff
	}
	return i, err
}

// reader is that, or who was invited until every date of theirs was called off.
func (s *Deeds) reader(ctx context.Context, tx invitedTx, token string) (schedule.Invited, error) {
	id, page, err := s.Seal.Guest(token)
	if err != nil {
		return schedule.Invited{}, err
	}
	i, err := tx.Invited(ctx, id)
	if err == nil && (i.Page != page || i.RemovedAt != nil && i.OffVersion == 0) {
		err = schedule.ErrNotFound
	}
	return i, err
}

// asTheyHadIt is the meeting of somebody invited: as it is, or called off as it was before where
// that is what became of every date of theirs.
func asTheyHadIt(ctx context.Context, tx recordTx, i schedule.Invited) (schedule.Record, error) {
	if i.OffVersion == 0 {
		return tx.Meeting(ctx, i.MeetingID)
	}
	record, err := tx.MeetingAt(ctx, i.MeetingID, i.OffVersion-1)
	record.CalledOffAt = i.RemovedAt
	return record, err
}

// recordTx is what is needed of a transaction to read a meeting as it is, or was.
type recordTx interface {
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error)
}

// GuestLapse is how long after its last date a meeting can be seen by guests.
const GuestLapse = 60 * 24 * time.Hour

// lapsed tells whether guests' addresses of a meeting have lapsed.
func lapsed(r schedule.Record, now time.Time) bool {
	over, ends := r.Content.Over()
	if r.CalledOffAt != nil {
		over, ends = when.At(*r.CalledOffAt), true
	}
	return ends && now.After(over.Time().Add(GuestLapse))
}

// GuestAnswer takes the answer of a guest.
func (s *Deeds) GuestAnswer(ctx context.Context, token string, g Given) error {
	i, err := s.GuestOf(ctx, token)
	if err != nil {
		return err
	}
	return s.answerSeen(ctx, i.ID, g, schedule.ViaPage)
}

// GuestOf is who is invited by a token; it fails with ErrNotFound for one that no longer holds.
func (s *Deeds) GuestOf(ctx context.Context, token string) (i schedule.Invited, err error) {
	err = s.guestStore().Look(ctx, func(tx guestTx) error {
		i, err = s.guest(ctx, tx, token)
		return err
	})
	return i, err
}

// GuestReads has letters go to a guest in a language from now on.
func (s *Deeds) GuestReads(ctx context.Context, token, language string) error {
	if !tongue.Known(language) {
		return schedule.Invalid("language", say.It("language.choose"))
	}
	return s.guestStore().InTx(ctx, func(tx guestTx) error {
		i, err := s.guest(ctx, tx, token)
		if err != nil {
			return err
		}
		return tx.SetLanguage(ctx, i.Email, language, true)
	})
}
