// Package rooms holds what can be done about rooms: look at one, answer what is asked of
// its keeper, and change what it is like and by which rules it is booked.
package rooms

import (
	"jembro/internal/schedule"
	"jembro/internal/schedule/meetings"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store    schedule.Store[Tx]
	Meetings *meetings.Deeds
}

// Tx is what they need of a transaction.
type Tx interface {
	answerTx
	changeTx
	leaveTx
	roomTx
	sweepTx
}
