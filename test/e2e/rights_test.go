package e2e_test

import (
	"regexp"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"jembro/internal/core/meeting"
	"jembro/internal/demo"
)

// TestGuestsBringAndMove: what those invited may do is said on the sheet, and done on their page.
func TestGuestsBringAndMove(t *testing.T) {
	p := signIn(t, demo.Ilse)
	p.keys("mKiln shelves")
	p.write("Day", "17 dec")
	p.write("Starts", "8:00")
	p.keys(kb.Tab)
	p.write("Add a person", "shelves@njoro.example")
	p.keys(kb.Enter)
	p.tick("no link needed")
	p.tick("no room needed")
	p.tick("bring others")
	p.tick("move it")
	p.axe("what guests may do")
	p.sees("Goes to shelves@njoro.example")
	p.press("Send")
	p.sees("1 silent")
	m := mails(t, "shelves@njoro.example", "Kiln shelves", 1)[0]

	guest := newPage(t)
	guest.open(regexp.MustCompile(`http\S+/guest/\w+`).FindString(m.Text))
	guest.press("Bring somebody along…")
	guest.write("E-mail address", "nobody")
	guest.keys(kb.Enter)
	guest.sees("is not an e-mail address")
	guest.axe("bringing somebody along")
	guest.write("Name (optional)", "W. Kamau")
	guest.write("E-mail address", "w.kamau@njoro.example")
	guest.keys(kb.Enter)
	guest.sees("W. Kamau is invited", "Ilse Marrant, shelves@njoro.example, W. Kamau")
	assert.Contains(t, mails(t, "w.kamau@njoro.example", "Kiln shelves", 1)[0].Text, "invites you")
	guest.press("Move it to another time…")
	guest.write("From", "9:00")
	guest.write("To, or how long", "1 h")
	guest.press("Move it")
	guest.sees("It was moved to the time that you proposed:", "9:00 – 10:00")
	p.sees("brought by shelves@njoro.example", "shelves@njoro.example changed time and told 2 people")
	mails(t, "w.kamau@njoro.example", "Kiln shelves", 2)
}

// TestAShortAddressIsPutIntoAMail: whoever opens it sees when and where, asks for an invitation, and
// answers in that.
func TestAShortAddressIsPutIntoAMail(t *testing.T) {
	p := signIn(t, demo.Ilse)
	id := sends(t, demo.Ilse, "2026-12-10T18:00", "2026-12-10T19:00", func(d *meeting.Draft) {
		to(d, "Open evening of the kiln", "evening@njoro.example")
		d.Text = "Bring a cup."
	})
	p.open(running.BaseURL + "/meeting/" + id.String())
	p.press("Make one")
	p.sees("/m/")
	p.tick("whoever opens it can ask to be invited")
	p.holds(`document.querySelector("section[aria-label='Short address'] input").checked`)
	p.axe("a short address")
	address := value[string](p, `document.querySelector("section[aria-label='Short address'] a").href`)

	anybody := newPage(t)
	anybody.open(address)
	anybody.sees("A meeting of Ilse Marrant", "Open evening of the kiln", "Thursday 10 December, 18:00 – 19:00", "Bring a cup.", "Will you come?")
	anybody.lacks("evening@njoro.example")
	anybody.write("Your e-mail address", "not yet")
	anybody.keys(kb.Enter)
	anybody.sees("is not an e-mail address")
	anybody.axe("a meeting at its short address")
	anybody.write("Your name (optional)", "J. Wanjiru")
	anybody.write("Your e-mail address", "j.wanjiru@njoro.example")
	anybody.keys(kb.Enter)
	anybody.sees("An invitation is on its way to j.wanjiru@njoro.example.")
	m := mails(t, "j.wanjiru@njoro.example", "Open evening of the kiln", 1)[0]
	anybody.open(regexp.MustCompile(`http\S+/guest/\w+`).FindString(m.Text))
	anybody.press("Accept")
	anybody.sees("You accepted.")
	p.sees("J. Wanjiru", "asked for an invitation at the short address")

	p.press("Withdraw it")
	p.sees("Make one")
	anybody.open(address)
	anybody.sees("There is no meeting at this address any more")
}
