package sheets

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// previewTx is what is needed here of a transaction.
type previewTx interface {
	readTx
	settleTx
}

func (s *Deeds) previewStore() schedule.Store[previewTx] {
	return schedule.Narrow(s.Store, func(tx Tx) previewTx { return tx })
}

// Preview says who will get a message of which kind when the sheet is sent.
type Preview struct {
	To      meeting.Participant
	Kind    meeting.Kind
	Channel schedule.Channel
}

// Previews are the messages that Send would cause, in the order of the sheet. It
// fails with an *InvalidError while the sheet cannot be sent.
func (s *Deeds) Previews(ctx context.Context, who schedule.Actor, id uuid.UUID) (previews []Preview, err error) {
	st, err := s.settled(ctx, who, id)
	for _, d := range append(st.Due, st.DueNext...) {
		p := Preview{To: d.To, Kind: d.Kind, Channel: schedule.Mail}
		if !d.To.Outside() {
			p.Channel = schedule.Inside
		}
		previews = append(previews, p)
	}
	return previews, err
}

// PreviewLetter writes one of these messages as its reader will get it; number
// counts from 0. It fails with ErrNotFound beyond the last.
func (s *Deeds) PreviewLetter(ctx context.Context, who schedule.Actor, id uuid.UUID, number int) (schedule.Rendered, error) {
	st, err := s.settled(ctx, who, id)
	if err != nil {
		return schedule.Rendered{}, err
	}
	m, due, says := st.Meeting, st.Due, st.ChangeWords
	if number >= len(due) && st.Next != nil {
		m, due, says, number = *st.Next, st.DueNext, st.GoesOnWords, number-len(due)
	}
	if number < 0 || number >= len(due) {
		return schedule.Rendered{}, schedule.ErrNotFound
	}
	if m.UID == "" {
		m.UID = "preview@" + s.House.MailDomain
	}
	d := due[number]
	letter := schedule.Letter{Kind: d.Kind, On: d.On, IDs: d.IDs, Meeting: m.SeenBy(d.To.ID), Stamp: s.Now(), To: d.To, Said: says(d),
		House: s.House, GuestURL: s.House.BaseURL + "/guest/preview", Address: "meeting-preview@" + s.House.MailDomain, MessageID: "preview"}
	if st.Before != nil && number < len(st.Due) {
		letter.Before = &st.Before.Content
	}
	return s.Post.Render(letter)
}

// settled is a sheet as it would be sent. Nothing is written in the transaction
// that reads it.
func (s *Deeds) settled(ctx context.Context, who schedule.Actor, id uuid.UUID) (st kernel.Settled, err error) {
	err = s.previewStore().Look(ctx, func(tx previewTx) error {
		sheet, of, err := SheetAndMeeting(ctx, tx, who, id)
		if err != nil {
			return err
		}
		st, err = s.settle(ctx, tx, sheet, of)
		return err
	})
	return st, err
}
