// Package kernel writes meetings: when one is sent, changed, called off or answered, its
// version, who is invited, its dates, who is busy, the rooms booked or asked for, who is asked
// to which date, the messages, what is new, and its history are written together, in the
// transaction of the deed that has it do so. Deeds settle what a meeting becomes; nobody else
// writes any of these.
package kernel

import "jembro/internal/schedule"

// Kernel writes meetings.
type Kernel struct{ schedule.Setting }

// Storage is what the kernel needs of a transaction; no deed calls it.
type Storage interface {
	calloffTx
	writeTx
}

// Tx is a transaction as deeds hand it to the kernel. They cannot look into it.
type Tx struct{ store Storage }

// Over is a transaction for the kernel.
func Over(s Storage) Tx { return Tx{s} }

// In is what the kernel needs of the transaction of a deed.
type In interface{ Kernel() Tx }
