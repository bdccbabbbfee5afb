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
		if previews, err = s.previews(previews, st, st.meeting, st.due, st.changeWords()); err != nil || st.next == nil {
			return err
		}
		next := *st.next
		next.UID = "preview@" + s.House.MailDomain
		previews, err = s.previews(previews, st, next, st.dueNext, "it goes on "+st.nextWords())
		return err
	})
	return previews, err
}

func (s *Service) previews(all []Preview, st settled, m meeting.Meeting, due []meeting.Message, words string) ([]Preview, error) {
	for _, d := range due {
		letter := Letter{Kind: d.Kind, On: d.On, Meeting: m, Stamp: s.Now(), To: d.To, Answer: meeting.NoAnswer,
			Words: words, House: s.House, GuestURL: s.House.BaseURL + "/guest/preview",
			ReplyTo: st.organiser.Email, MessageID: "preview"}
		rendered, err := s.Post.Render(letter)
		if err != nil {
			return nil, err
		}
		p := Preview{To: d.To, Kind: d.Kind, Channel: Mail, Rendered: rendered}
		if !d.To.Outside() {
			p.Channel = Inside
		}
		all = append(all, p)
	}
	return all, nil
}
