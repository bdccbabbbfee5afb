// Package meetings is what becomes of a meeting once it is sent: who answered
// what, changes kept, dates written down, called off.
package meetings

import "jembro/internal/schedule"

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
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
	KeepTx
	letterTx
	meetingTx
	ownRemindersTx
	proposeTx
	refreshTx
	rollTx
	shortTx
	TellTx
	TimesTx
}
