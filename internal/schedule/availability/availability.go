// Package availability shows whose time is taken when: a day of everybody on a
// sheet, and a week of one person.
package availability

import "jembro/internal/schedule"

// Deeds does the deeds of this subject.
type Deeds struct {
	schedule.Setting
	Store schedule.Store[Tx]
}

// Tx is what they need of a transaction.
type Tx interface {
	dayTx
	monthTx
	roomsTx
	weekTx
}
