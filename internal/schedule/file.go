package schedule

import "jembro/internal/core/attachment"

// File is a file that goes with a meeting, with what is in it.
type File struct {
	attachment.File
	Content []byte
}
