// Package directory knows people, contacts outside and rooms.
package directory

import "jembro/internal/schedule"

// Deeds does the deeds of this subject.
type Deeds struct {
	Store schedule.Store[Tx]
}

// Tx is what they need of a transaction.
type Tx interface {
	directoryTx
	LookupTx
}
