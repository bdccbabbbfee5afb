// Package rooms holds what can be done about rooms: look at one, answer what is asked of
// its keeper, and change what it is like and by which rules it is booked.
package rooms

import (
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	kernel.Kernel
	Store schedule.Store[Tx]
}

// Tx is what they need of a transaction.
type Tx interface {
	answerTx
	changeTx
	leaveTx
	roomTx
	sweepTx
	tableTx
}
