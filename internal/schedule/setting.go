package schedule

import (
	"time"

	"github.com/google/uuid"
)

// House is what the house is called and where it is reached.
type House struct {
	Name       string // "Marrowby Museums"
	BaseURL    string // of this program, without a slash at the end
	MailDomain string // answers come to addresses in it
}

// Setting is what every subject needs to know of where it runs. It is set once,
// before the first call.
type Setting struct {
	House House
	Seal  *Seal
	Clock func() time.Time
	// Mails bounds how many mails to people outside one person causes.
	Mails MailLimits
	// Guests is what those invited may do where nobody says otherwise.
	Guests GuestRights
	// Language is that of letters to whom nobody knows another one of, "" for English.
	Language string
	// Undo is how long a Send can be taken back.
	Undo time.Duration
}

// GuestRights are what those invited may do: not see each other, bring others, move the meeting.
type GuestRights struct{ Apart, Bring, Move bool }

// Now is the clock's moment in UTC, in whole seconds.
func (s Setting) Now() time.Time { return s.Clock().UTC().Truncate(time.Second) }

// MessageID is the name of a message, without angle brackets: the same however
// often it is handed over.
func (s Setting) MessageID(dispatch uuid.UUID) string {
	return dispatch.String() + "@" + s.House.MailDomain
}

// GuestURL is the page of somebody invited.
func (s Setting) GuestURL(i Invited) string {
	return s.House.BaseURL + "/guest/" + s.Seal.GuestToken(i.ID, i.Page)
}

// ShortURL is a short address.
func (s Setting) ShortURL(a ShortAddress) string { return s.House.BaseURL + "/m/" + a.Code }

// MailLimits are how many mails to people outside one person can cause in an hour
// and in a day; 0 is no limit.
type MailLimits struct{ PerHour, PerDay int }
