package meeting

import (
	"jembro/internal/core/attachment"
	"jembro/internal/core/say"
)

// settleFiles puts the files on.
func (d Draft) settleFiles(m *Meeting, s Surroundings) (out []Fault) {
	fault := func(what say.What) { out = append(out, Fault{Field: "files", What: what}) }
	seen := map[string]bool{}
	for _, f := range d.Files {
		found, is := s.Files[f.ID]
		switch {
		case seen[f.ID]:
			continue
		case !is:
			fault(say.It("meeting.files.gone", attachment.Name(f.Name)))
		default:
			m.Files = append(m.Files, found)
		}
		seen[f.ID] = true
	}
	if n := len(m.Files); n > attachment.NumberLimit {
		fault(say.It("meeting.files.many", attachment.NumberLimit, n))
	}
	if total := attachment.Total(m.Files); total > attachment.FilesLimit {
		fault(say.It("meeting.files.large", say.Size(attachment.FilesLimit), say.Size(total)))
	}
	return out
}
