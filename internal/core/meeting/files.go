package meeting

import (
	"fmt"

	"jembro/internal/core/attachment"
)

// settleFiles puts the files on.
func (d Draft) settleFiles(m *Meeting, s Surroundings) (out []Fault) {
	fault := func(format string, args ...any) {
		out = append(out, Fault{Field: "files", Sentence: fmt.Sprintf(format, args...)})
	}
	seen := map[string]bool{}
	for _, f := range d.Files {
		found, is := s.Files[f.ID]
		switch {
		case seen[f.ID]:
			continue
		case !is:
			fault("%s is no longer there. Take it off, or add it again.", attachment.Name(f.Name))
		default:
			m.Files = append(m.Files, found)
		}
		seen[f.ID] = true
	}
	if n := len(m.Files); n > attachment.NumberLimit {
		fault("A meeting takes %d files, these are %d. Pack some of them into one.", attachment.NumberLimit, n)
	}
	if total := attachment.Total(m.Files); total > attachment.FilesLimit {
		fault("The files of a meeting have room for %s, these have %s. Put a link to the largest into the text.", attachment.Size(attachment.FilesLimit), attachment.Size(total))
	}
	return out
}
