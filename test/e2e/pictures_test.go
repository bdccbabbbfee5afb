package e2e_test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"jembro/internal/demo"
)

// TestPictures takes the pictures of docs/screenshots when JEMBRO_PICTURES
// names a directory for them (make pictures).
func TestPictures(t *testing.T) {
	dir := os.Getenv("JEMBRO_PICTURES")
	if dir == "" {
		t.Skip("JEMBRO_PICTURES names no directory")
	}
	shot := func(p *page, name string) { p.shot(filepath.Join(dir, name+".png")) }

	ilse := signIn(t, demo.Ilse)
	ilse.press("Crate sizes, loan 14")
	ilse.sees("Who is coming")
	shot(ilse, "weeks")
	ilse.press("Open")
	ilse.sees("What happened")
	shot(ilse, "meeting")

	ilse.keys("m")
	ilse.write("Title", "Lacquer loan: packing, courier")
	ilse.write("Day", "4 dec")
	ilse.write("Starts", "9:30")
	ilse.addPerson("tome", "Tomé Akande")
	ilse.addPerson("calado", "Rui Calado")
	ilse.addPerson("onari", "S. Onari")
	ilse.addPerson("holm", "Freya Holm")
	ilse.do("make Freya optional", selectOption("Freya Holm is", "optional"))
	ilse.takeRoom("Map Room")
	ilse.makeLink()
	ilse.write("Text", "Final crate list and the courier’s flight. Bring the humidity log.")
	ilse.sees("Saved as it is written.", "Goes to 4 people (1 outside)", "Rooms that fit")
	shot(ilse, "sheet")
	ilse.press("See the invitation")
	ilse.press("S. Onari")
	ilse.holds(`!!document.querySelector("iframe[title='Mail to S. Onari'][data-loaded]")`)
	shot(ilse, "preview")
	ilse.press("Close")
	ilse.press("Send")
	ilse.sees("Who is coming", "e-mail handed over")

	mail := mails(t, "s.onari@kirisame.example", "Lacquer loan", 1)[0]
	guest := newPage(t)
	guest.open(fmt.Sprintf("%s/post/messages/%d", running.WorldURL, mail.ID))
	guest.sees("SIMULATED POST OFFICE")
	shot(guest, "post-office")
	guest.press("Answer")
	guest.sees("Put it in your calendar")
	shot(guest, "guest")
}
