// Package attachment says which files can go with a meeting, and how they reach its readers.
package attachment

import (
	"archive/zip"
	"bytes"
	"fmt"
	"path"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/gabriel-vasile/mimetype"

	"jembro/internal/core/say"
)

// File is a file that goes with a meeting, by what is known of it.
type File struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Type string `json:"type"` // media type (RFC 2045, 5), by what is in it
	Size int    `json:"size"` // octets
}

// Limits of the files of one meeting, in octets and in number.
const (
	FileLimit   = 25 << 20
	FilesLimit  = 50 << 20
	NumberLimit = 20
	// MailLimit is how much in all goes in a mail; what is larger is reached by its link,
	// because many mail servers refuse such mails (common practice).
	MailLimit = 10 << 20
	nameLimit = 120 // characters
)

// InMail tells whether files go in the mail itself.
func InMail(all []File) bool { return Total(all) <= MailLimit }

// Total is how large files are in all.
func Total(all []File) (octets int) {
	for _, f := range all {
		octets += f.Size
	}
	return octets
}

// Same tells whether the same files go with two versions of a meeting.
func Same(a, b []File) bool { return len(a) == len(b) && len(Beyond(a, b)) == 0 }

// Beyond are the files that are not among those before.
func Beyond(before, now []File) (out []File) {
	was := map[string]bool{}
	for _, f := range before {
		was[f.ID] = true
	}
	for _, f := range now {
		if !was[f.ID] {
			out = append(out, f)
		}
	}
	return out
}

// Look finds out what a file is. It fails, in words for who added it, when it cannot go with a
// meeting: mail servers refuse programs and what holds some (common practice), whatever they are
// called.
func Look(name string, content []byte) (File, error) {
	f := File{Name: Name(name), Size: len(content)}
	switch {
	case f.Size == 0:
		return f, say.It("file.empty", f.Name)
	case f.Size > FileLimit:
		return f, say.It("file.large", f.Name, say.Size(FileLimit))
	case runs(f.Name):
		return f, say.It("file.program", f.Name)
	}
	kind := mimetype.Detect(content)
	f.Type, _, _ = strings.Cut(kind.String(), ";")
	if strings.HasPrefix(f.Type, "message/") || strings.HasPrefix(f.Type, "multipart/") || f.Type == "text/calendar" {
		f.Type = "application/octet-stream" // in a mail it would be part of it, and another invitation
	}
	for k := kind; k != nil; k = k.Parent() {
		if programs[strings.SplitN(k.String(), ";", 2)[0]] {
			return f, say.It("file.programInside", f.Name)
		}
	}
	if kind.Is("application/zip") {
		if inside := programIn(content); inside != "" {
			return f, say.It("file.holdsProgram", f.Name, Name(inside))
		}
	}
	return f, nil
}

// programs are media types of what runs.
var programs = map[string]bool{
	"application/vnd.microsoft.portable-executable": true, "application/x-elf": true, "application/x-mach-binary": true,
	"application/java-archive": true, "application/jar": true, "application/vnd.android.package-archive": true, "application/x-ms-installer": true,
	"application/x-installshield": true, "application/x-java-applet": true, "application/x-ms-shortcut": true,
}

// endings are those of what runs, or has something run, when it is opened.
var endings = map[string]bool{}

func init() {
	for _, e := range strings.Fields("apk appx bat cab chm cmd com cpl dll dmg exe hta img inf ins iso jar jnlp js jse lnk mjs msc msi msix msp mst " +
		"pif ps1 psm1 reg scr sct sh sys vb vbe vbs vhd vhdx wsc wsf wsh xll") {
		endings["."+e] = true
	}
}

func runs(name string) bool { return endings[strings.ToLower(path.Ext(name))] }

// programIn is the first program in a packed file, by its name, "" for none. Only what lists its
// content can be looked into.
func programIn(content []byte) string {
	packed, err := zip.NewReader(bytes.NewReader(content), int64(len(content)))
	if err != nil {
		return ""
	}
	for _, f := range packed.File {
		if runs(strings.TrimRight(f.Name, " .")) {
			return f.Name
		}
	}
	return ""
}

// Name is what a file is called everywhere: no path, nothing that cannot be seen or that turns
// the direction of the letters, nothing that a file system refuses; its ending stays.
func Name(name string) string {
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	name = strings.Map(func(r rune) rune {
		switch {
		case r == utf8.RuneError || unicode.In(r, unicode.Cc, unicode.Cf, unicode.Zl, unicode.Zp):
			return -1
		case unicode.IsSpace(r):
			return ' '
		case strings.ContainsRune(`<>:"|?*`, r):
			return '-'
		}
		return r
	}, name)
	name = strings.TrimRight(strings.Join(strings.Fields(name), " "), ". ")
	if letters := []rune(name); len(letters) > nameLimit {
		ending := []rune(path.Ext(name))
		if len(ending) > 12 {
			ending = nil
		}
		name = string(letters[:nameLimit-1-len(ending)]) + "…" + string(ending)
	}
	if name == "" {
		return "file"
	}
	return name
}

// Size is how large something is, as people read it: "340 kB", "2.5 MB".
func Size(octets int) string {
	switch {
	case octets < 1000:
		return fmt.Sprintf("%d bytes", octets)
	case octets < 1<<20:
		return fmt.Sprintf("%d kB", (octets+512)/1024)
	case octets%(1<<20) == 0 || octets >= 10<<20:
		return fmt.Sprintf("%d MB", (octets+1<<19)>>20)
	}
	return fmt.Sprintf("%.1f MB", float64(octets)/(1<<20))
}
