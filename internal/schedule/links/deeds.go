// Package links makes, moves and withdraws calls at conferencing providers, and
// keeps people's accounts there.
package links

import (
	"time"

	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store     schedule.Store[Tx]
	Providers map[string]Provider
	Sheets    *sheets.Deeds
	// WaitFor is how long somebody waits for a provider.
	WaitFor time.Duration
}

// Tx is what they need of a transaction.
type Tx interface {
	attachTx
	changeTx
	connectTx
	keyringTx
}
