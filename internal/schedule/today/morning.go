package today

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// morningTx is what is needed here of a transaction.
type morningTx interface {
	dayTx
	MorningsDue(ctx context.Context, today when.Day) ([]uuid.UUID, error)
	SetMorningMail(ctx context.Context, person uuid.UUID, on bool) error
	SetMorningMailed(ctx context.Context, person uuid.UUID, on when.Day) error
}

func (s *Deeds) morningStore() schedule.Store[morningTx] {
	return schedule.Narrow(s.Store, func(tx Tx) morningTx { return tx })
}

// MorningMail sets whether a short mail about the day comes in the morning.
func (s *Deeds) MorningMail(ctx context.Context, who schedule.Actor, on bool) error {
	return s.morningStore().InTx(ctx, func(tx morningTx) error { return tx.SetMorningMail(ctx, who.For, on) })
}

// MailMornings tells those by mail who wish it what their day holds, before it begins, once. A
// mail that goes out twice, because the news of it got lost, has the same Message-ID.
func (s *Deeds) MailMornings(ctx context.Context) error {
	var due []uuid.UUID
	err := s.morningStore().Look(ctx, func(tx morningTx) (err error) {
		due, err = tx.MorningsDue(ctx, when.DayOf(s.Now().Date()))
		return err
	})
	for _, person := range due {
		err = errors.Join(err, s.mailMorning(ctx, person))
	}
	return err
}

func (s *Deeds) mailMorning(ctx context.Context, person uuid.UUID) error {
	var letter schedule.NewsLetter
	var day when.Day
	due := false
	err := s.morningStore().Look(ctx, func(tx morningTx) error {
		p, err := directory.Person(ctx, tx, person)
		if err != nil || p.Left {
			return err
		}
		now := when.At(s.Now())
		day = p.Hours.Zone.LocalAt(now).Day
		if due = loose.MorningDue(p.Hours, now); !due || p.MorningMailed == day {
			due = false
			return nil
		}
		t, err := s.today(ctx, tx, schedule.Self(person), p)
		if err == nil && !t.Away && len(t.Items)+len(t.WholeDay)+len(t.Ends)+len(t.Asked)+len(t.Invited) > 0 {
			letter = s.morning(tongue.In(p.Language), p, t)
		}
		return err
	})
	if err != nil || !due {
		return err
	}
	if letter.MessageID != "" {
		var refused *schedule.RefusedError
		if err := s.Post.SendNews(ctx, letter); err != nil && !errors.As(err, &refused) {
			return err // it is tried again with the next round
		}
	}
	return s.morningStore().InTx(ctx, func(tx morningTx) error { return tx.SetMorningMailed(ctx, person, day) })
}

// morning writes what a day holds.
func (s *Deeds) morning(in tongue.Tongue, p schedule.Person, t Today) schedule.NewsLetter {
	var text strings.Builder
	for _, i := range t.WholeDay {
		text.WriteString(in.Say("all day") + "  " + i.Meeting.Content.Title + "\n")
	}
	for _, i := range t.Items {
		title := i.Title
		if i.Meeting != nil {
			if i.Meeting.Answer == meeting.Declined {
				continue
			}
			d, _ := i.Meeting.Content.Date(i.Meeting.On)
			if title = d.Title; d.Room != nil {
				title += ", " + d.Room.Name
			}
		}
		fmt.Fprintf(&text, "%5s  %s\n", t.Zone.LocalAt(i.Span.Start).Clock, title)
	}
	if len(t.Ends) > 0 {
		text.WriteString("\n" + in.Say("Loose ends") + "\n")
		for _, e := range t.Ends {
			what, more := words.Loose(in, e.End, t.Day, t.Zone)
			fmt.Fprintf(&text, "- %s: %s\n", what, more)
		}
	}
	if n := len(t.Asked) + len(t.Invited); n > 0 {
		text.WriteString("\n" + words.Counted(in, n, "1 invitation waits for your answer.", "%s invitations wait for your answer.") + "\n")
	}
	text.WriteString("\n" + strings.Join([]string{in.Say("Times are those of %s.", t.Zone.City()), in.Say("See it and mend it: %s", s.House.BaseURL+"/today"), in.Say("Whether this mail comes is chosen there, under Account."), ""}, "\n"))
	subject := words.FullDay(in, t.Day) + ": " + words.Count(in, len(t.Items)+len(t.WholeDay), "meeting")
	if len(t.Ends) > 0 {
		subject += ", " + words.Counted(in, len(t.Ends), "1 loose end", "%s loose ends")
	}
	return schedule.NewsLetter{To: p, Subject: subject, Text: text.String(), House: s.House, At: s.Now().Truncate(time.Second),
		MessageID: s.MessageID(uuid.NewSHA1(p.ID, fmt.Append(nil, "morning ", t.Day)))}
}
