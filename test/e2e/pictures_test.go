package e2e_test

import (
	"os"
	"path/filepath"
	"testing"

	"jembro/internal/demo"
)

// TestPictures takes the pictures of docs/screenshots when JEMBRO_PICTURES
// names a directory for them (make pictures).
func TestPictures(t *testing.T) {
	dir := pictures()
	if dir == "" {
		t.Skip("JEMBRO_PICTURES names no directory")
	}
	shot := func(p *page, name string) { p.shot(filepath.Join(dir, name+".png")) }
	p := newPage(t)
	p.open(running.BaseURL + "/weeks")
	p.sees("Sign in")
	shot(p, "sign-in")

	p = signIn(t, demo.Ilse)
	p.sees("Crate sizes, loan 14")
	p.press("Crate sizes, loan 14, 10:30 – 11:30, Map Room, yours, an invitation was not delivered")
	p.sees("Who is coming")
	shot(p, "weeks")
}

func pictures() string { return os.Getenv("JEMBRO_PICTURES") }
