// Package sheets settles a meeting from the first word typed to Send.
package sheets

import (
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/kernel"
	"jembro/internal/schedule/meetings"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	kernel.Kernel
	Store        schedule.Store[Tx]
	Post         schedule.Post
	Meetings     *meetings.Deeds
	Availability *availability.Deeds
}

// Tx is what they need of a transaction.
type Tx interface {
	atOnceTx
	beginTx
	changeTx
	datesTx
	discardTx
	filesTx
	guestsTx
	holdTx
	laterTx
	LinkTx
	listTx
	previewTx
	proposalsTx
	saveTx
	sendTx
	viewTx
	waitTx
}
