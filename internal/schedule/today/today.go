// Package today shows somebody their day, and what keeps their meetings from happening, with
// what mends it.
package today

import (
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
	"jembro/internal/schedule/sheets"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store    schedule.Store[Tx]
	Post     schedule.Post
	Sheets   *sheets.Deeds
	Meetings *meetings.Deeds
}

// Tx is what they need of a transaction.
type Tx interface {
	dayTx
	endsTx
	morningTx
	nudgeTx
	remindTx
}
