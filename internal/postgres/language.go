package postgres

import (
	"context"
	"strings"

	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// Languages are those in which letters go to some addresses, by the address in lower case, as far
// as they are known.
func (t *Tx) Languages(ctx context.Context, emails []string) (map[string]schedule.ReaderLanguage, error) {
	lower := make([]string, len(emails))
	for i, e := range emails {
		lower[i] = strings.ToLower(e)
	}
	rows, err := t.ReaderLanguages(ctx, lower)
	out := map[string]schedule.ReaderLanguage{}
	for _, r := range rows {
		out[r.Email] = schedule.ReaderLanguage{Language: r.Language, Own: r.Own}
	}
	return out, err
}

// SetLanguage keeps in which language letters go to an address; own tells that its reader said so.
func (t *Tx) SetLanguage(ctx context.Context, email, language string, own bool) error {
	return t.KeepLanguage(ctx, db.KeepLanguageParams{Email: email, Language: language, Own: own})
}
