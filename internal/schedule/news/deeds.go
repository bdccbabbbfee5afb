// Package news shows people what is new for them, and tells them by mail where they
// wish or are away.
package news

import (
	"jembro/internal/schedule"
)

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store schedule.Store[Tx]
	Post  schedule.Post
}

// Tx is what they need of a transaction.
type Tx interface {
	mailTx
	newsTx
}
