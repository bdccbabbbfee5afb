package mail

import (
	"context"

	gomail "github.com/wneessen/go-mail"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/ical"
	"jembro/internal/schedule"
)

// ComposeReply writes the answer to an invitation from outside (RFC 6047): it comes from the
// address that was invited, which is what the organiser's program looks for.
func ComposeReply(r schedule.InvitationReply) *gomail.Msg {
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	msg.FromMailAddress(address(r.From.Name, r.Attendee))
	msg.ToMailAddress(address(r.OrganiserName, r.Organiser))
	word := map[meeting.Answer]string{meeting.Accepted: "Accepted", meeting.Maybe: "Maybe", meeting.Declined: "Declined"}[r.Answer]
	msg.Subject(headerText(word + ": " + r.Title))
	msg.SetMessageIDWithValue(r.MessageID)
	msg.SetDateWithValue(r.Stamp)
	text := r.From.Name + " answered: " + words.Answer(tongue.Tongue{}, r.Answer) + ".\n"
	if r.Comment != "" {
		text += "\n" + r.Comment + "\n"
	}
	msg.SetBodyString(gomail.TypeTextPlain, text)
	msg.AddAlternativeString(gomail.ContentType("text/calendar; method=REPLY"), string(ical.WriteReply(r)), gomail.WithPartEncoding(gomail.EncodingB64))
	return msg
}

// SendReply answers an invitation from outside. What is returned of it goes to who answers.
func (r Relay) SendReply(ctx context.Context, reply schedule.InvitationReply) error {
	raw, err := written(ComposeReply(reply))
	if err != nil {
		return err
	}
	return r.HandOn(ctx, reply.Attendee, reply.Organiser, raw)
}
