package e2e_test

import (
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/demo"
)

// TestFilesGoWithIt: chosen on the sheet, refused where mail servers would, in the mail, on the
// page of the meeting and of the guest.
func TestFilesGoWithIt(t *testing.T) {
	dir := t.TempDir()
	file := func(name, content string) string {
		at := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(at, []byte(content), 0o600))
		return at
	}
	p := signIn(t, demo.Ilse)
	p.keys("mGlaze recipes")
	p.write("Day", "22 dec")
	p.write("Starts", "17:00")
	p.keys(kb.Tab)
	p.write("Add a person", "glaze@njoro.example")
	p.keys(kb.Enter)
	p.tick("no link needed")
	p.tick("no room needed")
	choose := func(files ...string) {
		p.do("choose files", chromedp.SetUploadFiles(field("Choose files"), files))
	}
	choose(file("Glazes of the kiln.pdf", "%PDF-1.7\nglazes"), file("setup.exe", "MZ"), file("Shades.csv", "shade,grams\nmoss,14\n"))
	p.sees("setup.exe is a program", "Glazes of the kiln.pdf", "15 bytes")
	p.lacks("Shades.csv")
	p.axe("a file that is refused")
	choose(filepath.Join(dir, "Shades.csv"))
	p.sees("Shades.csv")
	p.lacks("setup.exe is a program")
	p.do("take one off", clickOn(`document.querySelector('[aria-label="Take off Shades.csv"]')`))
	p.lacks("Shades.csv")
	p.keys(kb.Enter, chromedp.ModifierCtrl)
	p.sees("1 silent", "Files", "Glazes of the kiln.pdf")
	m := mails(t, "glaze@njoro.example", "Glaze recipes", 1)[0]
	assert.Equal(t, "%PDF-1.7\nglazes", string(m.Files["Glazes of the kiln.pdf"]))

	guest := newPage(t)
	guest.open(regexp.MustCompile(`http\S+/guest/\w+`).FindString(m.Text))
	guest.sees("Glaze recipes", "Files", "Glazes of the kiln.pdf")
	guest.axe("a guest's page with a file")
	guest.holds(`(() => { fetch(document.querySelector("ul[aria-label=Files] a").href).then((r) => r.text()).then((t) => { window.got = t }); return true })()`)
	guest.holds(`window.got === "%PDF-1.7\nglazes"`)
}
