package schedule

import "jembro/internal/core/attachment"

// ShortAddress is an address of a meeting for mails and pages of others. Asks tells that whoever
// opens it can ask for an invitation.
type ShortAddress struct {
	Code string
	Asks bool
}

// File is a file that goes with a meeting, with what is in it.
type File struct {
	attachment.File
	Content []byte
}
