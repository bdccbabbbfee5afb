// Package dispatch hands messages over and keeps what became of them.
package dispatch

import "jembro/internal/schedule"

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store schedule.Store[Tx]
	Post  schedule.Post
}

// Tx is what they need of a transaction.
type Tx interface {
	deliverTx
	forwardTx
	listTx
	reportTx
	settleTx
	waysTx
}
