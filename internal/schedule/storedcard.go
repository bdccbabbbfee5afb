package schedule

import (
	"encoding/json"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/join"
)

// StoredCard is a join card as it is kept: with meetings, sheets, standing links, and with
// work that waits. Each shape that there ever was is read.
type StoredCard struct{ join.Card }

type storedCard struct {
	Kind         join.Kind         `json:"kind,omitempty"`
	Provider     string            `json:"provider"`
	Name         string            `json:"name"`
	RemoteID     string            `json:"remoteId,omitempty"` // once: what is kept as "id" now
	Keep         map[string]string `json:"keep,omitempty"`
	Version      int               `json:"version,omitempty"`
	StandsAs     string            `json:"standsAs,omitempty"`
	Follows      bool              `json:"follows,omitempty"`
	URL          string            `json:"url"`
	Number       string            `json:"number,omitempty"`
	Passcode     string            `json:"passcode,omitempty"`
	Phones       []join.Phone      `json:"phones,omitempty"`
	SIP          string            `json:"sip,omitempty"`
	HostPIN      string            `json:"hostPin,omitempty"`
	AtDoor       *join.Door        `json:"atDoor,omitempty"`
	Door         string            `json:"door,omitempty"` // once: in words
	LimitMinutes int               `json:"limitMinutes,omitempty"`
	LimitPeople  int               `json:"limitPeople,omitempty"`
	LimitCalls   int               `json:"limitCalls,omitempty"`
	GoodUntil    time.Time         `json:"goodUntil,omitzero"`
	Owner        string            `json:"owner,omitempty"`
	Pasted       string            `json:"pasted,omitempty"`
}

func (c StoredCard) MarshalJSON() ([]byte, error) {
	s := storedCard{Kind: c.Kind, Provider: c.Provider, Name: c.Name, Keep: c.Keep, Version: c.Version, StandsAs: c.StandsAs, Follows: c.Follows, URL: c.URL, Number: c.Number,
		Passcode: c.Passcode, Phones: c.Phones, SIP: c.SIP, HostPIN: c.HostPIN, Door: c.DoorWords, LimitMinutes: c.LimitMinutes, LimitPeople: c.LimitPeople,
		LimitCalls: c.LimitCalls, GoodUntil: c.GoodUntil, Owner: c.Owner, Pasted: c.Pasted}
	if c.Card.Door != (join.Door{}) {
		s.AtDoor = &c.Card.Door
	}
	return json.Marshal(s)
}

func (c *StoredCard) UnmarshalJSON(raw []byte) error {
	var s storedCard
	if err := json.Unmarshal(raw, &s); err != nil {
		return err
	}
	c.Card = join.Card{Kind: s.Kind, Provider: s.Provider, Name: s.Name, Keep: s.Keep, Version: s.Version, StandsAs: s.StandsAs, Follows: s.Follows, URL: s.URL, Number: s.Number,
		Passcode: s.Passcode, Phones: s.Phones, SIP: s.SIP, HostPIN: s.HostPIN, DoorWords: s.Door, LimitMinutes: s.LimitMinutes, LimitPeople: s.LimitPeople,
		LimitCalls: s.LimitCalls, GoodUntil: s.GoodUntil, Owner: s.Owner, Pasted: s.Pasted}
	if s.AtDoor != nil {
		c.Card.Door = *s.AtDoor
	}
	if s.RemoteID != "" && c.Keep == nil {
		c.Keep = map[string]string{"id": s.RemoteID}
	}
	return nil
}

// KeptCard is a card as it is kept, nil for none.
func KeptCard(c *join.Card) *StoredCard {
	if c == nil {
		return nil
	}
	return &StoredCard{*c}
}

// Read is the card that is kept, nil for none.
func (c *StoredCard) Read() *join.Card {
	if c == nil {
		return nil
	}
	return &c.Card
}

// AccountOf is whose account a card was made in.
func AccountOf(card join.Card, organiser uuid.UUID) uuid.UUID {
	if owner, err := uuid.Parse(card.Owner); err == nil {
		return owner
	}
	return organiser
}
