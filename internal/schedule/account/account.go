// Package account is about who is signed in.
package account

import "jembro/internal/schedule"

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store  schedule.Store[Tx]
	Hasher *Hasher
}

// Tx is what they need of a transaction.
type Tx interface {
	passwordTx
	sessionsTx
	signinTx
}
