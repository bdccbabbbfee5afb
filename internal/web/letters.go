package web

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/join"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/web/api"
)

func (h *handlers) DecideLetter(ctx context.Context, r api.DecideLetterRequestObject) (api.DecideLetterResponseObject, error) {
	if deref(r.Body.Invite) {
		return api.DecideLetter204Response{}, h.deeds.Sheets.InviteDelegate(ctx, actor(ctx), r.ID, r.LetterID)
	}
	how := meetings.Decision{As: deref(r.Body.CountFor)}
	if r.Body.Answer != nil {
		how.Answer = fromAnswer(api.GiveAnswerAnswer(*r.Body.Answer))
	}
	return api.DecideLetter204Response{}, h.deeds.Meetings.Decide(ctx, actor(ctx), r.ID, r.LetterID, how)
}

// asks is what an open mail wants decided, and the address of who is sent instead.
func asks(l schedule.LetterIn) (what api.LetterInAsks, instead string) {
	what = api.LetterInAsksWhose
	for _, a := range l.Answers {
		switch a.Verdict {
		case meeting.Spoken:
			what = api.LetterInAsksMeaning
		case meeting.Delegates:
			what, instead = api.LetterInAsksInstead, a.Delegate
		}
	}
	return what, instead
}

// letters are the mails to a meeting that somebody has to read: those that are no
// answer, and those whose answer waits to be decided.
func (h *handlers) letters(in tongue.Tongue, d meetings.Detail) *[]api.LetterIn {
	out := []api.LetterIn{}
	for _, l := range d.Letters {
		if l.State != schedule.LetterOpen && len(l.Answers) > 0 {
			continue
		}
		x := api.LetterIn{ID: l.ID, At: l.ArrivedAt, Name: l.FromName, Email: l.FromEmail, SignedBy: l.SignedBy, Subject: l.Subject, Words: l.Words,
			Open: l.State == schedule.LetterOpen, Says: []string{}, Why: l.Why, Ways: []string{}}
		for _, w := range join.OtherWays(l.Words, d.Content.Card, d.Content.NoWays) {
			x.Ways = append(x.Ways, w.Address)
		}
		if x.Open {
			what, instead := asks(l)
			x.Asks, x.Instead = &what, orNil(instead)
		}
		for _, a := range l.Answers {
			switch {
			case a.Verdict == meeting.Spoken:
				x.Why = words.Waits(in, a.Verdict, a.Attendee)
			case a.Verdict.Open() && a.Proposed != nil:
				x.Says, x.Why = append(x.Says, in.Say("proposes another time")), words.Waits(in, a.Verdict, a.Attendee)
			case a.Verdict == meeting.Delegates:
				x.Says, x.Why = append(x.Says, in.Say("sends %s instead", a.Delegate)), words.Waits(in, a.Verdict, a.Attendee)
			case a.Verdict.Open():
				x.Says, x.Why = append(x.Says, words.AnswerTo(in, a.Answer, a.Days, a.Date != nil && a.Date.Onward)), words.Waits(in, a.Verdict, a.Attendee)
			}
		}
		if id := d.Suggested(l); id != uuid.Nil {
			x.Suggested = &id
		}
		out = append(out, x)
	}
	return &out
}
