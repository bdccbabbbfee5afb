package schedule

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
)

// Preview is what one person will get when the sheet is sent.
type Preview struct {
	To      meeting.Participant
	Kind    meeting.Kind
	Channel Channel
	Rendered
}

// Previews are the invitations as each person will get them, in the order of
// the sheet. It fails with an *InvalidError while the sheet cannot be sent.
func (s *Service) Previews(ctx context.Context, me, id uuid.UUID) (previews []Preview, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		sheet, of, err := sheetAndMeeting(ctx, tx, me, id)
		if err != nil {
			return err
		}
		st, err := s.settle(ctx, tx, sheet, of)
		if err != nil {
			return err
		}
		if st.meeting.UID == "" {
			st.meeting.UID = "preview@" + s.House.MailDomain
		}
		for _, m := range st.due {
			letter := Letter{Kind: m.Kind, Meeting: st.meeting, Stamp: s.now(), To: m.To, Answer: meeting.NoAnswer,
				Words: st.change.Words(), House: s.House, GuestURL: s.House.BaseURL + "/guest/preview",
				ReplyTo: st.organiser.Email, MessageID: "preview"}
			rendered, err := s.Post.Render(letter)
			if err != nil {
				return err
			}
			p := Preview{To: m.To, Kind: m.Kind, Channel: Mail, Rendered: rendered}
			if !m.To.Outside() {
				p.Channel = Inside
			}
			previews = append(previews, p)
		}
		return nil
	})
	return previews, err
}
