// Package meetings is what becomes of a meeting once it is sent: who answered
// what, changes kept, dates written down, called off.
package meetings

import (
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	kernel.Kernel
	Store schedule.Store[Tx]
	Post  schedule.Post
}

// Tx is what they need of a transaction.
type Tx interface {
	answerTx
	askTx
	attachmentTx
	calloffTx
	findTx
	guestTx
	handoverTx
	keepRoomTx
	letterTx
	meetingTx
	ownRemindersTx
	proposeTx
	rollTx
	shortTx
}
