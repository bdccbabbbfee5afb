package sheets

import (
	"context"
	"strings"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/schedule"
)

// languagesTx is what is needed here of a transaction.
type languagesTx interface {
	Languages(ctx context.Context, emails []string) (map[string]schedule.ReaderLanguage, error)
	SetLanguage(ctx context.Context, email, language string, own bool) error
}

// readers knows in which language each person outside reads letters: as they said themselves, as the
// sheet says, as it was before, or as the house does.
type readers struct {
	known map[string]schedule.ReaderLanguage
	said  map[string]string
	house string
}

func (s *Deeds) readers(ctx context.Context, tx languagesTx, people []meeting.DraftPerson) (r readers, err error) {
	r = readers{said: map[string]string{}, house: s.Language}
	var emails []string
	for _, p := range people {
		if p.PersonID != "" {
			continue
		}
		emails = append(emails, strings.TrimSpace(p.Email))
		if tongue.Known(p.Language) {
			r.said[strings.ToLower(strings.TrimSpace(p.Email))] = p.Language
		}
	}
	if len(emails) > 0 {
		r.known, err = tx.Languages(ctx, emails)
	}
	return r, err
}

func (r readers) of(email string) string {
	key := strings.ToLower(email)
	known := r.known[key]
	switch said := r.said[key]; {
	case known.Own, said == "" && known.Language != "":
		return known.Language
	case said != "":
		return said
	}
	return r.house
}

// keepLanguages keeps what a sheet says of its readers, for the next one.
func keepLanguages(ctx context.Context, tx languagesTx, people []meeting.DraftPerson) error {
	for _, p := range people {
		if p.PersonID == "" && tongue.Known(p.Language) {
			if err := tx.SetLanguage(ctx, strings.TrimSpace(p.Email), p.Language, false); err != nil {
				return err
			}
		}
	}
	return nil
}
