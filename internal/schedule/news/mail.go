package news

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// mailTx is what is needed here of a transaction.
type mailTx interface {
	directory.LookupTx
	NewsToMail(ctx context.Context, since, before, awaySince time.Time) (map[uuid.UUID]time.Time, error)
	SetNewsMailed(ctx context.Context, person uuid.UUID, upTo, now time.Time) error
	UnmailedNews(ctx context.Context, person uuid.UUID, upTo time.Time) ([]schedule.News, error)
}

const (
	// together is how long news wait for others, so that they come in one mail.
	together = 5 * time.Minute
	// away is how long somebody has not been here who is told by mail.
	away = 24 * time.Hour
	// stale is how old news are of which nobody is told by mail any more.
	stale = 72 * time.Hour
)

// MailNews tells those by mail who wish it, or are away, what is new for them: in one
// mail what has come since the last. A mail that goes out twice, because the news of it
// got lost, has the same Message-ID. One whose server refuses it does not hold the
// others up.
func (s *Deeds) MailNews(ctx context.Context) error {
	now := s.Now()
	var due map[uuid.UUID]time.Time
	err := s.Store.Look(ctx, func(tx Tx) (err error) {
		due, err = tx.NewsToMail(ctx, now.Add(-stale), now.Add(-together), now.Add(-away))
		return err
	})
	if err != nil {
		return err
	}
	var failed error
	for person, latest := range due {
		failed = errors.Join(failed, s.mailTo(ctx, person, latest))
	}
	return failed
}

func (s *Deeds) mailTo(ctx context.Context, person uuid.UUID, upTo time.Time) error {
	var letter schedule.NewsLetter
	err := s.Store.Look(ctx, func(tx Tx) error {
		p, err := directory.Person(ctx, tx, person)
		if err != nil || p.Left {
			return err
		}
		all, err := tx.UnmailedNews(ctx, person, upTo)
		if err != nil || len(all) == 0 {
			return err
		}
		letter = s.letter(tongue.In(p.Language), p, all)
		return nil
	})
	if err != nil || letter.MessageID == "" {
		return err
	}
	var refused *schedule.RefusedError
	if err := s.Post.SendNews(ctx, letter); err != nil && !errors.As(err, &refused) {
		return err // it is tried again with the next round
	}
	return s.Store.InTx(ctx, func(tx Tx) error { return tx.SetNewsMailed(ctx, person, upTo, s.Now()) })
}

// letter writes what is new, and where it can be answered.
func (s *Deeds) letter(in tongue.Tongue, p schedule.Person, all []schedule.News) schedule.NewsLetter {
	var text strings.Builder
	zone := p.Hours.Zone
	for _, n := range all {
		fmt.Fprintf(&text, "%s\n%s\n", n.Title, words.News(in, meeting.Kind(n.Kind), n.News))
		for _, line := range words.NewsLines(in, meeting.Kind(n.Kind), n.News, zone) {
			if line.Was != "" {
				text.WriteString("  " + in.Say("%[1]s: %[2]s, was %[3]s", line.What, line.Is, line.Was) + "\n")
			} else {
				fmt.Fprintf(&text, "  %s: %s\n", line.What, line.Is)
			}
		}
		if n.Word != "" {
			fmt.Fprintf(&text, "  “%s”\n", n.Word)
		}
		text.WriteString("\n")
	}
	text.WriteString(strings.Join([]string{in.Say("Times are those of %s.", zone.City()), in.Say("See it and answer: %s", s.House.BaseURL+"/new"), in.Say("Whether such mails come is chosen there, under Account."), ""}, "\n"))
	last := all[len(all)-1]
	subject := in.Say("%s new for you", words.Count(in, len(all), "thing"))
	if len(all) == 1 {
		subject = all[0].Title + ": " + words.News(in, meeting.Kind(all[0].Kind), all[0].News)
	}
	return schedule.NewsLetter{To: p, Subject: meeting.OneLine(subject), Text: text.String(), House: s.House, MessageID: s.MessageID(last.ID), At: last.At}
}
