package sheets

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// previewTx is what is needed here of a transaction.
type previewTx interface {
	SheetTx
	settleTx
}

// Preview is what one person will get when the sheet is sent.
type Preview struct {
	To      meeting.Participant
	Kind    meeting.Kind
	Channel schedule.Channel
	schedule.Rendered
}

// Previews are the invitations as each person will get them, in the order of
// the sheet. It fails with an *InvalidError while the sheet cannot be sent.
func (s *Deeds) Previews(ctx context.Context, me, id uuid.UUID) (previews []Preview, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		sheet, of, err := SheetAndMeeting(ctx, tx, me, id)
		if err != nil {
			return err
		}
		st, err := s.settle(ctx, tx, sheet, of)
		if err != nil {
			return err
		}
		if st.Meeting.UID == "" {
			st.Meeting.UID = "preview@" + s.House.MailDomain
		}
		if previews, err = s.previews(previews, st, st.Meeting, st.Due, st.ChangeWords()); err != nil || st.Next == nil {
			return err
		}
		next := *st.Next
		next.UID = "preview@" + s.House.MailDomain
		previews, err = s.previews(previews, st, next, st.DueNext, "it goes on "+st.NextWords())
		return err
	})
	return previews, err
}

func (s *Deeds) previews(all []Preview, st meetings.Settled, m meeting.Meeting, due []meeting.Message, words string) ([]Preview, error) {
	for _, d := range due {
		letter := schedule.Letter{Kind: d.Kind, On: d.On, Meeting: m, Stamp: s.Now(), To: d.To, Answer: meeting.NoAnswer,
			Words: words, House: s.House, GuestURL: s.House.BaseURL + "/guest/preview",
			ReplyTo: st.Organiser.Email, MessageID: "preview"}
		rendered, err := s.Post.Render(letter)
		if err != nil {
			return nil, err
		}
		p := Preview{To: d.To, Kind: d.Kind, Channel: schedule.Mail, Rendered: rendered}
		if !d.To.Outside() {
			p.Channel = schedule.Inside
		}
		all = append(all, p)
	}
	return all, nil
}
