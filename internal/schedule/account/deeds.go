// Package account is about who is signed in.
package account

import "jembro/internal/schedule"

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store schedule.Store[Tx]
}

// Tx is what they need of a transaction.
type Tx interface {
	signinTx
}
