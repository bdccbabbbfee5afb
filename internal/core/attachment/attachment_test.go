package attachment

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/say"
)

func packed(t *testing.T, names ...string) []byte {
	t.Helper()
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, name := range names {
		f, err := w.Create(name)
		require.NoError(t, err)
		_, err = f.Write([]byte("x"))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.Bytes()
}

// program is the beginning of what runs on many office machines: the magic numbers are common
// practice, written from memory.
func program() []byte {
	b := make([]byte, 512)
	copy(b, "MZ")
	b[0x3c] = 0x80
	copy(b[0x80:], "PE\x00\x00")
	return b
}

func TestLook(t *testing.T) {
	pdf := []byte("%PDF-1.7\n1 0 obj\n")
	for _, c := range []struct {
		case_, name string
		content     []byte
		kind, fault string
	}{
		{"a document", "Agenda.pdf", pdf, "application/pdf", ""},
		{"a table is told by its name", "stock.csv", []byte("name,count\nscrews,4\n"), "text/csv", ""},
		{"words", "notes.txt", []byte("bring the drawings"), "text/plain", ""},
		{"an invitation of another meeting", "old.ics", []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR\r\n"), "application/octet-stream", ""},
		{"what nobody knows", "plan.xyz", []byte{0, 1, 2, 3, 0xff}, "application/octet-stream", ""},
		{"nothing in it", "Agenda.pdf", nil, "", "file.empty Agenda.pdf"},
		{"a program by its name", "setup.EXE", []byte("x"), "", "file.program setup.EXE"},
		{"a program behind a double ending", "Agenda.pdf.exe", pdf, "", "file.program Agenda.pdf.exe"},
		{"a program behind letters that turn around", "Agenda\u202efdp.exe", pdf, "", "file.program Agendafdp.exe"},
		{"a program behind a dot", "setup.exe.", pdf, "", "file.program setup.exe"},
		{"a program called a document", "Agenda.pdf", program(), "", "file.programInside Agenda.pdf"},
		{"a program called a document, of another system", "Agenda.pdf", append([]byte("\x7fELF\x02\x01\x01"), make([]byte, 64)...), "", "file.programInside Agenda.pdf"},
		{"documents packed", "drawings.zip", packed(t, "a.pdf", "b/c.dwg"), "application/zip", ""},
		{"a program packed", "drawings.zip", packed(t, "a.pdf", "b/setup.exe"), "", "file.holdsProgram drawings.zip setup.exe"},
		{"a packed file that is broken", "drawings.zip", []byte("PK\x03\x04 and no more"), "application/zip", ""},
		{"too large", "film.bin", make([]byte, FileLimit+1), "", "file.large film.bin 26214400"},
	} {
		t.Run(c.case_, func(t *testing.T) {
			f, err := Look(c.name, c.content)
			if c.fault != "" {
				what, _ := say.Of(err)
				assert.Equal(t, c.fault, what.Error())
				return
			}
			require.NoError(t, err)
			assert.Equal(t, c.kind, f.Type)
			assert.Equal(t, len(c.content), f.Size)
		})
	}
}

func TestName(t *testing.T) {
	for given, want := range map[string]string{
		"Agenda.pdf":                        "Agenda.pdf",
		`C:\Users\ines\Agenda.pdf`:          "Agenda.pdf",
		"../../etc/passwd":                  "passwd",
		"a\x00b\r\nc.txt":                   "abc.txt",
		"  two   words .txt ":               "two words .txt",
		"what: now?.txt":                    "what- now-.txt",
		"":                                  "file",
		"...":                               "file",
		"\u202e":                            "file",
		"\xff\xfe.pdf":                      ".pdf",
		strings.Repeat("é", 300) + ".pdf":   strings.Repeat("é", 115) + "….pdf",
		"a." + strings.Repeat("b", 300):     "a." + strings.Repeat("b", 117) + "…",
		"Orçamento – março (versão 2).xlsx": "Orçamento – março (versão 2).xlsx",
	} {
		assert.Equal(t, want, Name(given), "%q", given)
	}
}

func FuzzLook(f *testing.F) {
	f.Add("Agenda.pdf", []byte("%PDF-1.7"))
	f.Add("a.zip", []byte("PK\x03\x04"))
	f.Add("\u202e/../x.exe", program())
	f.Fuzz(func(t *testing.T, name string, content []byte) {
		found, err := Look(name, content)
		assert.NotEmpty(t, found.Name)
		assert.True(t, utf8.ValidString(found.Name))
		assert.LessOrEqual(t, utf8.RuneCountInString(found.Name), nameLimit)
		assert.Equal(t, found.Name, Name(found.Name))
		assert.NotContains(t, found.Name, "/")
		if err == nil {
			assert.NotEmpty(t, found.Type)
			assert.False(t, runs(found.Name))
		}
	})
}

func TestHowTheyGo(t *testing.T) {
	small, large := File{ID: "a", Size: 4 << 20}, File{ID: "b", Size: 7 << 20}
	assert.True(t, InMail([]File{small}))
	assert.False(t, InMail([]File{small, large}))
	assert.True(t, Same([]File{small, large}, []File{large, small}))
	assert.False(t, Same([]File{small}, []File{large}))
	assert.Equal(t, []File{large}, Beyond([]File{small}, []File{small, large}))
	for octets, want := range map[int]string{999: "999 bytes", 1000: "1 kB", 340 << 10: "340 kB", 5 << 19: "2.5 MB", 10 << 20: "10 MB", 25<<20 - 1: "25 MB", 1<<20 - 1: "1024 kB"} {
		assert.Equal(t, want, Size(octets))
	}
}
